#include "client/device_tools.h"
#include <QPointer>

namespace loom::client {

void DeviceTools::setLink(DeviceSession* to) {
    if (to == link())
        return;
    clear();
    link_ = to ? to->watch() : DeviceSession::Watch();
}

void DeviceTools::setLive(bool on) {
    if (live_ && !on)
        clear();
    live_ = on;
}

void DeviceTools::put(const project::Tool& tool) {
    if (!link())
        return;
    link()->call(site::message::putTool, {tool}, [self = QPointer(this), tool](const Reply<site::ToolNumber>& put) {
        if (!self)
            return;
        if (!put)
            return emit self->said(QString::fromStdString(put.error));
        self->tools_.push_back(tool);
        self->tools_.back().number = put->number;
        emit self->changed();
    });
}

void DeviceTools::take(int number) {
    if (link())
        link()->call(site::message::takeTool, {number}, [](const Reply<site::ToolCount>&) {});
    std::erase_if(tools_, [&](const auto& t) { return t.number == number; });
    emit changed();
}

void DeviceTools::clear() {
    if (tools_.empty())
        return;
    if (link())
        link()->call(site::message::takeTool, {}, [](const Reply<site::ToolCount>&) {});
    tools_.clear();
    emit changed();
}

} // namespace loom::client
