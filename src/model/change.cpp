#include "model/change.h"

namespace loom::project {
namespace {

using Kind = Change::Kind;

// Of one program: which block differs in values only; "": something else does.
std::string blockOfValues(const engine::Program& a, const engine::Program& b) {
    if (a.revision != b.revision || a.extra != b.extra || a.blocks.size() != b.blocks.size() ||
        !(a.connections == b.connections))
        return {};
    std::string found;
    bool valuesOfOne = true;
    a.blocks.eachApart(b.blocks, [&](std::size_t i) {
        if (a.blocks[i] == b.blocks[i])
            return;
        engine::Block rest = a.blocks[i];
        rest.values = b.blocks[i].values;
        valuesOfOne = valuesOfOne && found.empty() && rest == b.blocks[i];
        found = rest.id;
    });
    return valuesOfOne ? found : std::string();
}

// Of one device that differs.
Change changeOf(const Device& a, const Device& b) {
    Device rest = a;
    rest.program = b.program;
    if (!(rest == b)) {
        rest.program = a.program;
        rest.place = b.place;
        return rest == b ? Change{Kind::survey} : Change{Kind::device, b.id};
    }
    const std::string block = a.program && b.program ? blockOfValues(*a.program, *b.program) : std::string();
    return {block.empty() ? Kind::program : Kind::value, b.id, block};
}

} // namespace

Change changeBetween(const Project& a, const Project& b) {
    if (a.name != b.name || a.extra != b.extra || !(a.dismissed == b.dismissed) || !(a.proofs == b.proofs) ||
        !(a.voicings == b.voicings) || !(a.wires == b.wires) || !(a.unknownFiles == b.unknownFiles) ||
        a.devices.size() != b.devices.size())
        return {};
    const bool touched = !(a.surfaces == b.surfaces) || !(a.scenes == b.scenes) || !(a.rules == b.rules) ||
                         !(a.scripts == b.scripts) || !(a.ruleTests == b.ruleTests) || !(a.place == b.place) ||
                         !(a.outsideKinds == b.outsideKinds) || !(a.outside == b.outside) || !(a.access == b.access);
    const bool built = !(a.buildings == b.buildings);
    std::optional<Change> devices;
    for (std::size_t i = 0; i < a.devices.size(); ++i) {
        if (a.devices.shares(i, b.devices, i) || a.devices[i] == b.devices[i])
            continue;
        if (a.devices[i].id != b.devices[i].id)
            return {};
        const Change one = changeOf(a.devices[i], b.devices[i]);
        if ((devices || built) && (one.kind != Kind::survey || (devices && devices->kind != Kind::survey)))
            return {};
        devices = one;
    }
    if (touched)
        return devices || built || !(a.assets == b.assets) ? Change{} : Change{Kind::surface};
    return devices ? *devices : Change{Kind::survey};
}

} // namespace loom::project
