#include "app/site/device_tools.h"
#include "project/json.h"

namespace loom::app {

void DeviceTools::setLink(RigLink* link) {
    if (link == link_)
        return;
    clear();
    link_ = link;
}

void DeviceTools::setLive(bool on) {
    if (live_ && !on)
        clear();
    live_ = on;
}

void DeviceTools::put(const project::Tool& tool) {
    if (!link_)
        return;
    link_->call("putTool", {{"tool", project::toJson(tool)}},
                [this, tool](const nlohmann::json& result, const QString& trouble) {
                    if (!trouble.isEmpty())
                        return emit said(trouble);
                    const auto number =
                        result.is_object() ? result.value("number", nlohmann::json()) : nlohmann::json();
                    if (!number.is_number_integer())
                        return emit said("The device's answer is not understood; look at Site.");
                    tools_.push_back(tool);
                    tools_.back().number = number.get<int>();
                    emit changed();
                });
}

void DeviceTools::take(int number) {
    if (link_)
        link_->call("takeTool", {{"number", number}}, [](const nlohmann::json&, const QString&) {});
    std::erase_if(tools_, [&](const auto& t) { return t.number == number; });
    emit changed();
}

void DeviceTools::clear() {
    if (tools_.empty())
        return;
    if (link_)
        link_->call("takeTool", nlohmann::json::object(), [](const nlohmann::json&, const QString&) {});
    tools_.clear();
    emit changed();
}

} // namespace loom::app
