#include "app/surfaces/here_values.h"
#include "engine/block_kind.h"

namespace loom::app {

using namespace project;

bool HereValues::onBench(const std::string& device) const {
    return session_.bench().running() && session_.device() && session_.device()->id == device;
}

std::optional<double> HereValues::now(const Drive& d) {
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
        engine::PortRef at{d.block, 0}; // where its sound leaves it, or comes to it if it ends there
        if (engine::outputsOf(*program, *b) == 0) {
            const auto* c = program->into(at);
            if (!c)
                return {};
            at = c->from;
        }
        return session_.bench().meter(at).peakDb;
    }
    if (bench)
        if (const auto tried = session_.bench().triedValue(d.block, d.param))
            return *tried;
    if (const auto it = turned_.find(d.path); it != turned_.end() && !bench)
        return it->second;
    return designValue(session_.project(), d);
}

void HereValues::set(const Drive& d, double value) {
    if (onBench(d.device))
        return session_.bench().tryValue(d.block, d.param, value);
    turned_[d.path] = value;
}

} // namespace loom::app
