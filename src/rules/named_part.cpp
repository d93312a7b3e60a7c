#include "rules/named_part.h"
#include "model/block_names.h"
#include "rules/signal.h"
#include <algorithm>

namespace loom::project {

void NamedPart::take(const std::string& path) {
    if (const auto wall = behind(path, wallPrefix))
        return (void)walls_.insert(*wall);
    if (const auto space = behind(path, mutePrefix))
        return rooms(*space);
    if (const auto rest = behind(path, outsidePrefix))
        return outside(rest->substr(0, rest->find('/')));
    for (const char* prefix : {streamPrefix, hearsPrefix})
        if (const auto rest = behind(path, prefix)) {
            receivers_.insert(*rest);
            return device(rest->substr(0, rest->find('/')));
        }
    for (const char* prefix : {contactPrefix, relayPrefix, buttonPrefix, knobPrefix, devicePrefix})
        if (const auto rest = behind(path, prefix))
            return device(rest->substr(0, rest->find('/')));
    if (const auto drive = driveOf(from_, path); drive && !drive->device.empty())
        devices_[drive->device].insert(drive->block); // a line's is its port, and no block
}

void NamedPart::rooms(const std::string& space) {
    std::size_t at = 0;
    while (at <= space.size()) {
        const auto end = std::min(space.find('+', at), space.size());
        if (end > at)
            rooms_.insert(space.substr(at, end - at));
        at = end + 1;
    }
}

void NamedPart::outside(const std::string& id) {
    const auto* d = from_.outsideDevice(id);
    if (!d || to_.outsideDevice(id))
        return;
    to_.outside.push_back(*d);
    if (const auto* kind = from_.outsideKind(d->kind); kind && !to_.outsideKind(d->kind))
        to_.outsideKinds.push_back(*kind);
}

void NamedPart::finish() {
    for (const auto& d : from_.devices) {
        const auto it = devices_.find(d.id);
        if (it == devices_.end())
            continue;
        Device fresh;
        fresh.id = d.id, fresh.name = d.name, fresh.model = d.model, fresh.models = d.models, fresh.rate = d.rate;
        auto* copy = to_.device(d.id);
        if (!copy)
            copy = &fresh;
        if (d.program && !it->second.empty()) {
            if (!copy->program)
                copy->program.emplace();
            const BlockNames names(*d.program);
            for (const auto& b : d.program->blocks)
                if (it->second.count(b.id) && !copy->program->find(b.id)) {
                    auto bare = b; // a player's list of files is among its texts
                    bare.label = names.of(b);
                    bare.marks.clear(), bare.values.clear(), bare.extra.clear();
                    copy->program->blocks.push_back(std::move(bare));
                }
        }
        for (const auto& r : d.receivers)
            if (receivers_.count(d.id + "/" + r.id)) {
                auto bare = r;
                bare.extra.clear();
                copy->receivers.push_back(std::move(bare));
            }
        if (copy == &fresh)
            to_.devices.push_back(std::move(fresh));
    }
    for (const auto& b : from_.buildings) {
        Building copy;
        copy.id = b.id, copy.name = b.name;
        for (const auto& w : b.walls)
            if (walls_.count(w.id)) {
                copy.walls.push_back(w);
                for (const auto& room : w.rooms)
                    rooms_.insert(room);
            }
        for (const auto& r : b.rooms)
            if (rooms_.count(r.id)) {
                Room bare;
                bare.id = r.id, bare.name = r.name, bare.outline = r.outline, bare.height = r.height;
                copy.rooms.push_back(bare);
            }
        if (!copy.rooms.empty() || !copy.walls.empty())
            to_.buildings.push_back(std::move(copy));
    }
}

} // namespace loom::project
