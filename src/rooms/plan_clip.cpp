#include "rooms/plan_clip.h"
#include "file/project_json.h"
#include "model/set_up.h"
#include "patch/wiring.h"
#include "rooms/room_copy.h"
#include "schema/json_text.h"
#include <algorithm>
#include <set>

namespace loom::project {
namespace {

using nlohmann::json;
constexpr const char* format = "nimble-loom-plan";
constexpr std::size_t largestClip = 16u << 20;

} // namespace

// A clip is a small project: one building with the rooms that are meant, or a room "loose" that holds the single
// things.
std::string clipOf(const Project& p, const std::vector<std::string>& keys) {
    Project clip;
    Building b{"clip", "Clip"};
    Room loose;
    loose.id = "loose";
    loose.name = "Loose";
    const std::set<std::string> chosen(keys.begin(), keys.end());
    std::set<std::string> rooms;
    for (const auto& from : p.buildings)
        for (const auto& r : from.rooms) {
            if (chosen.count("room:" + r.id)) {
                b.rooms.push_back(r);
                rooms.insert(r.id);
                continue;
            }
            for (const auto& s : r.seats)
                if (chosen.count("seats:" + r.id + "/" + s.id))
                    loose.seats.push_back(s);
            for (const auto& t : r.talkers)
                if (chosen.count("talker:" + r.id + "/" + t.id))
                    loose.talkers.push_back(t);
            for (const auto& f : r.furniture)
                if (chosen.count("piece:" + r.id + "/" + f.id))
                    loose.furniture.push_back(f);
        }
    for (const auto& d : p.devices)
        if (rooms.count(d.room))
            clip.devices.push_back(d);
        else if (chosen.count("device:" + d.id)) {
            clip.devices.push_back(d).room = "loose";
        }
    for (const auto& w : p.wires)
        if (std::as_const(clip).device(endOf(w.from).first) && std::as_const(clip).device(endOf(w.to).first))
            clip.wires.push_back(w);
    for (const auto& s : p.surfaces) // pictures stay where they are: they are there where it is pasted beside it
        if (const auto* d = std::as_const(clip).device(s.device); d && rooms.count(d->room))
            clip.surfaces.push_back(s);
    for (const auto& s : p.scenes)
        if (rooms.count(s.room))
            clip.scenes.push_back(s);
    for (const auto& r : p.rules)
        if (rooms.count(r.room)) {
            clip.rules.push_back(r);
            for (const auto* list : {&r.when, &r.only, &r.then, &r.otherwise})
                for (const auto& clause : *list)
                    if (const auto* s = p.script(clause["script"]); s && !std::as_const(clip).script(s->id))
                        clip.scripts.push_back(*s);
        }
    if (clip.rules.size() > 0)
        clip.ruleTests = p.ruleTests; // those of the room come along where it is pasted
    for (const auto& d : p.outside)
        if (rooms.count(d.room)) {
            clip.outside.push_back(d);
            if (const auto* kind = p.outsideKind(d.kind); kind && !std::as_const(clip).outsideKind(d.kind))
                clip.outsideKinds.push_back(*kind);
        }
    if (b.rooms.empty() && clip.devices.empty() && loose.seats.empty() && loose.talkers.empty() &&
        loose.furniture.empty())
        return {};
    b.rooms.push_back(loose);
    clip.buildings = {b};
    return json{{"format", format}, {"version", 1}, {"plan", toJson(clip)}}.dump();
}

Result<Edit> pasteClip(const Project& p, const std::string& text, const ModelSource& models, const std::string& room,
                       const acoustics::Spot& at, std::vector<std::string>* made) {
    const Error none{"what is on the clipboard is nothing of a plan", "", "Copy things on the plan with Ctrl+C first."};
    if (text.size() > largestClip)
        return none;
    const auto read = parseJson(text, "clipboard");
    if (!read || !read->is_object() || read->value("format", json()) != format)
        return none;
    if (read->value("version", json()) != 1)
        return Error{"this was copied by a later version of Nimble Loom", "clipboard",
                     "Copy it with the same version."};
    auto clip = projectFromJson(read->value("plan", json()), models);
    if (!clip)
        return clip.error();
    Project after = p;
    std::vector<std::string> keys;
    Room loose;
    for (const auto& b : clip->buildings)
        for (const auto& r : b.rooms) {
            if (r.id == "loose") {
                loose = r;
                continue;
            }
            auto copy = copyRoom(*clip, r.id, after, r.name);
            if (!copy)
                return copy.error();
            after = withCopy(std::move(after), *copy);
            keys.push_back("room:" + copy->room);
        }
    std::vector<Device> devices;
    acoustics::Outline places;
    for (const auto& d : clip->devices)
        if (d.room == "loose") {
            devices.push_back(d);
            places.push_back({d.place.x, d.place.y});
        }
    for (const auto& s : loose.seats)
        places.push_back({s.x, s.y});
    for (const auto& t : loose.talkers)
        places.push_back({t.x, t.y});
    for (const auto& f : loose.furniture)
        places.push_back({f.x, f.y});
    if (!places.empty()) {
        Room* into = after.room(room);
        if (!into)
            return Error{"there is no room to put it into", "", "Choose one on the plan, or draw one."};
        const auto e = acoustics::extentOf(places);
        const double dx = at[0] - (e.least[0] + e.most[0]) / 2, dy = at[1] - (e.least[1] + e.most[1]) / 2;
        const auto put = [&](auto& list, const auto& things, const char* kind) {
            for (auto one : things) {
                const std::string base = one.id;
                for (int n = 2; std::any_of(list.begin(), list.end(), [&](const auto& o) { return o.id == one.id; });
                     ++n)
                    one.id = base + "-" + std::to_string(n);
                one.x += dx;
                one.y += dy;
                keys.push_back(std::string(kind) + ":" + room + "/" + one.id);
                list.push_back(one);
            }
        };
        put(into->seats, loose.seats, "seats");
        put(into->talkers, loose.talkers, "talker");
        put(into->furniture, loose.furniture, "piece");
        for (const auto& d : devices) {
            const auto* model = d.spec();
            if (!model)
                continue;
            const Device fresh = newDevices(after, room, *model, {{d.place.x + dx, d.place.y + dy}}).front();
            Device n = d;
            n.id = fresh.id;
            n.name = fresh.name;
            n.address = fresh.address;
            n.room = room;
            drivesItself(n, d.id);
            schema::forgetOwn(n);
            n.owners.clear();
            n.place.x += dx;
            n.place.y += dy;
            n.place.rack.clear();
            n.place.placed = true;
            after.devices.push_back(n);
            keys.push_back("device:" + n.id);
        }
    }
    if (keys.empty())
        return none;
    if (made)
        *made = keys;
    auto edit = editBetween(p, std::move(after), "Paste on the plan");
    if (!edit)
        return none;
    return edit;
}

} // namespace loom::project
