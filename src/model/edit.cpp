#include "model/edit.h"
#include "dsp/number.h"
#include "engine/block_kind.h"
#include "model/asset_name.h"
#include "model/block_names.h"

namespace loom::project {
namespace {

using engine::Block;

const char* const howToFind = "loomctl info FILE lists blocks, loomctl blocks their parameters.";

std::optional<Error> errorInValue(const Block& block, const std::string& param, double value,
                                  const std::string& place) {
    const engine::BlockView view(block);
    const auto& spec = view.table->specs()[static_cast<std::size_t>(view.table->indexOf(param))];
    if (value >= spec.min && value <= spec.max)
        return {};
    return Error{exactText(value) + " is outside the range", place,
                 "Use " + engine::formatValue(spec, spec.min) + " to " + engine::formatValue(spec, spec.max) + "."};
}

template <class Map> std::string names(std::string all, const Map& map) {
    for (const auto& [name, _] : map)
        all += "\n" + name;
    return all;
}

// Puts into `now` what `to` has different from `from`, item by item of their ids.
template <class T> void carry(List<T>& now, const List<T>& from, const List<T>& to) {
    if (from.is(to))
        return;
    if (now.is(from)) {
        now = to;
        return;
    }
    const auto at = [](const List<T>& list, const std::string& id) {
        std::size_t i = 0;
        while (i < list.size() && list[i].id != id)
            ++i;
        return i;
    };
    for (const auto& was : from)
        if (at(to, was.id) == to.size())
            erase_if(now, [&](const T& one) { return one.id == was.id; });
    for (std::size_t i = 0; i < to.size(); ++i) {
        const std::size_t was = at(from, to[i].id), is = at(now, to[i].id);
        if (was < from.size() && (from.shares(was, to, i) || from[was] == to[i]))
            continue;
        if (is < now.size())
            now.change(is) = to[i];
        else
            now.push_back(to[i]);
    }
}

} // namespace

Edit refused(Error error) {
    return {"Refused", [error = std::move(error)](Project) -> Result<Project> { return error; }};
}

Edit setValues(const std::string& device, std::map<std::string, double> values, std::string text, bool merge) {
    std::string sets = names("values " + device, values);
    return {std::move(text),
            [device, values = std::move(values)](Project now) -> Result<Project> {
                Device* d = now.device(device);
                if (!d || !d->program)
                    return Error{"there is no such device", device, ""};
                for (const auto& [address, value] : values) {
                    const auto at = engine::findParameter(*d->program, address);
                    if (!at.block)
                        return Error{"there is no such parameter", device + "/" + address, howToFind};
                    if (auto wrong = errorInValue(*at.block, at.param, value, device + "/" + address))
                        return *wrong;
                    engine::enterValue(*d->program->find(at.block->id), at.param, value);
                }
                return now;
            },
            std::move(sets), merge};
}

Edit setProgram(const std::string& device, engine::Program program, std::string text) {
    return changeDevice(device, std::move(text), [program = std::move(program)](Device& d) { d.program = program; });
}

Edit setFile(const std::string& device, const std::string& block, const std::string& key, const std::string& wanted,
             std::vector<char> content) {
    return {"Use " + wanted, [=, bytes = Asset(std::move(content))](Project now) -> Result<Project> {
                Device* d = now.device(device);
                Block* b = d && d->program ? d->program->find(block) : nullptr;
                if (!b)
                    return Error{"there is no such block", device + "/" + block, ""};
                const std::string name = freeAssetName(now.assets, wanted, bytes);
                if (!now.assets.count(name))
                    now.assets[name] = bytes;
                b->texts[key] = name;
                return now;
            }};
}

Edit changeDevice(const std::string& device, std::string text, std::function<void(Device&)> how) {
    return {std::move(text), [device, how = std::move(how)](Project now) -> Result<Project> {
                Device* d = now.device(device);
                if (!d)
                    return Error{"there is no such device", device, ""};
                how(*d);
                return now;
            }};
}

Edit setBuildings(List<Building> buildings, std::string text, bool merge) {
    std::string sets = "buildings " + text;
    return {std::move(text),
            [buildings = std::move(buildings)](Project now) -> Result<Project> {
                now.buildings = buildings;
                return now;
            },
            std::move(sets), merge};
}

Edit setDevices(std::map<std::string, std::optional<Device>> devices, std::string text, bool merge) {
    std::string sets = names("devices " + text, devices);
    return {std::move(text),
            [devices = std::move(devices)](Project now) -> Result<Project> {
                std::map<std::string_view, std::size_t> places;
                for (std::size_t i = 0; i < now.devices.size(); ++i)
                    places[now.devices[i].id] = i;
                List<Device> all = now.devices; // `places` looks into the ids of the one before
                bool gone = false;
                for (const auto& [id, device] : devices) {
                    if (device && (device->id != id || id.empty()))
                        return Error{"a device needs an id of its own", id, ""};
                    const auto it = places.find(id);
                    gone = gone || (!device && it != places.end());
                    if (device && it != places.end())
                        all.change(it->second) = *device;
                    else if (device)
                        all.push_back(*device);
                }
                if (gone)
                    erase_if(all, [&](const Device& d) {
                        const auto it = devices.find(d.id);
                        return it != devices.end() && !it->second;
                    });
                now.devices = std::move(all);
                return now;
            },
            std::move(sets), merge};
}

Edit placeDevices(std::map<std::string, Place> places, std::string text, bool merge) {
    std::string sets = names("places " + text, places);
    return {std::move(text),
            [places = std::move(places)](Project now) -> Result<Project> {
                for (const auto& [id, _] : places)
                    if (!std::as_const(now).device(id))
                        return Error{"there is no such device", id, ""};
                for (std::size_t i = 0; i < now.devices.size(); ++i)
                    if (const auto it = places.find(now.devices[i].id); it != places.end())
                        now.devices.change(i).place = it->second;
                return now;
            },
            std::move(sets), merge};
}

Edit together(std::vector<Edit> edits, std::string text) {
    return {std::move(text), [edits = std::move(edits)](Project now) -> Result<Project> {
                for (const auto& one : edits) {
                    auto next = one.make ? one.make(std::move(now)) : Result<Project>(std::move(now));
                    if (!next)
                        return next;
                    now = std::move(*next);
                }
                return now;
            }};
}

Edit addAsset(std::string name, std::vector<char> bytes) {
    std::string text = "Add " + name;
    return {std::move(text), [name = std::move(name), bytes = Asset(std::move(bytes))](Project now) -> Result<Project> {
                now.assets[name] = bytes;
                return now;
            }};
}

Edit leaveFinding(DismissedFinding finding) {
    return {finding.because.empty() ? "Take up a finding" : "Leave a finding",
            [finding](Project now) -> Result<Project> {
                if (finding.because.size() > 2000)
                    return Error{"this reason is too long", "", "Say it in 2,000 letters at most."};
                erase_if(now.dismissed, [&](const DismissedFinding& l) {
                    return l.code == finding.code && l.device == finding.device && l.block == finding.block;
                });
                if (!finding.because.empty())
                    now.dismissed.push_back(finding);
                return now;
            }};
}

Edit renameProject(std::string name) {
    return {"Rename project", [name = std::move(name)](Project now) -> Result<Project> {
                now.name = name;
                return now;
            }};
}

Edit replaceProject(Project project, std::string text) {
    return {std::move(text), [project = std::move(project)](Project) -> Result<Project> { return project; }};
}

Edit editBetween(const Project& before, Project after, std::string text, bool merge) {
    if (before == after)
        return {};
    std::string sets = "between " + text;
    for (const auto& d : after.devices)
        if (const auto* was = before.device(d.id); was && was != &d && !(*was == d))
            sets += "\n" + d.id;
    return {std::move(text),
            [before, after = std::move(after)](Project now) -> Result<Project> {
                carry(now.buildings, before.buildings, after.buildings);
                carry(now.devices, before.devices, after.devices);
                carry(now.voicings, before.voicings, after.voicings);
                carry(now.wires, before.wires, after.wires);
                carry(now.surfaces, before.surfaces, after.surfaces);
                carry(now.scenes, before.scenes, after.scenes);
                carry(now.rules, before.rules, after.rules);
                carry(now.scripts, before.scripts, after.scripts);
                carry(now.ruleTests, before.ruleTests, after.ruleTests);
                carry(now.outsideKinds, before.outsideKinds, after.outsideKinds);
                carry(now.outside, before.outside, after.outside);
                carry(now.access, before.access, after.access);
                if (!(before.place == after.place))
                    now.place = after.place;
                for (const auto& [name, bytes] : after.assets)
                    if (const auto was = before.assets.find(name);
                        was == before.assets.end() || !(was->second == bytes))
                        now.assets[name] = bytes;
                for (const auto& [name, _] : before.assets)
                    if (!after.assets.count(name))
                        now.assets.erase(name);
                return now;
            },
            std::move(sets), merge};
}

} // namespace loom::project
