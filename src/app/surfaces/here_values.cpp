#include "app/surfaces/here_values.h"
#include "client/fleet.h"
#include "engine/block_kind.h"

namespace loom::app {

using namespace project;

bool HereValues::onBench(const std::string& device) const {
    return session_.bench().running() && session_.device() && session_.device()->id == device;
}

client::Member* HereValues::there(const std::string& device) const {
    auto* fleet = session_.fleet();
    auto* m = fleet && fleet->live() ? fleet->member(device) : nullptr;
    return m && m->link.up() && !m->locked && m->config && m->config->program ? m : nullptr;
}

std::optional<double> HereValues::now(const Drive& d) {
    if (isSignal(d)) { // nobody here talks to what is outside
        const auto it = turned_.find(d.path);
        return it != turned_.end() ? it->second : controlValue(session_.project(), d);
    }
    if (const auto* m = there(d.device)) { // live: what the device holds
        if (d.kind == Drive::Kind::reading) {
            const auto it = m->meters.find(d.block);
            return d.readout < 0 && it != m->meters.end() ? std::optional(it->second) : std::nullopt;
        }
        const auto* b = m->config->program->find(d.block);
        if (!b || !engine::findKind(b->kind))
            return {};
        const engine::BlockView view(*b);
        const int i = view.table->indexOf(d.param);
        return i < 0 ? std::nullopt : std::optional(view.values[static_cast<std::size_t>(i)]);
    }
    const bool bench = onBench(d.device);
    if (d.kind == Drive::Kind::reading) {
        if (!bench)
            return {};
        if (d.readout >= 0)
            return session_.bench().readout(d.block, d.readout);
        const auto* program = session_.program();
        const auto* b = program ? program->find(d.block) : nullptr;
        if (!b)
            return {};
        const auto at = levelAt(*program, *b);
        return at ? std::optional<double>(session_.bench().meter(*at).peakDb) : std::nullopt;
    }
    if (bench)
        if (const auto tried = session_.bench().triedValue(d.block, d.param))
            return *tried;
    if (const auto it = turned_.find(d.path); it != turned_.end() && !bench)
        return it->second;
    return designValue(session_.project(), d);
}

void HereValues::set(const Drive& d, double value) {
    if (isSignal(d)) {
        turned_[d.path] = value;
        return;
    }
    if (auto* m = there(d.device)) {
        if (auto* b = m->config->program->find(d.block)) // until it tells
            b->values[d.param] = value;
        m->link.call(site::message::set, {d.block + "." + d.param, value, "A touch surface, tried"},
                     [](const client::Reply<site::Value>&) {});
        return;
    }
    if (onBench(d.device))
        return session_.bench().tryValue(d.block, d.param, value);
    turned_[d.path] = value;
}

} // namespace loom::app
