#include "outside/outside_edit.h"
#include "catalogue/catalogue.h"
#include "disk/safe_file.h"
#include "model/describe.h"
#include "outside/outside_address.h"
#include "outside/outside_talk.h"
#include "rooms/room_edit.h"
#include <algorithm>
#include <filesystem>
#include <set>

namespace loom::project {
namespace {

constexpr std::size_t longestKind = 1u << 20; // bytes of a description

std::set<std::string> takenIds(const Project& p) {
    std::set<std::string> all;
    for (const auto& d : p.outside)
        all.insert(d.id);
    return all;
}

Error noOutside(const std::string& said) {
    return {"there is no such outside device", said.substr(0, 80), "loomctl outside lists them."};
}

} // namespace

const std::vector<OutsideKind>& shippedOutsideKinds() {
    static const auto all = [] {
        std::vector<OutsideKind> kinds;
        std::error_code none;
        for (std::filesystem::directory_iterator it(dataFolder() + "/outside", none), end; !none && it != end;
             it.increment(none))
            if (it->path().extension() == ".json")
                if (const auto text = readWhole(it->path().string(), longestKind))
                    if (const auto kind = readOutsideKind(*text, it->path().filename().string()))
                        kinds.push_back(*kind);
        std::sort(kinds.begin(), kinds.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
        return kinds;
    }();
    return all;
}

Result<OutsideKind> readOutsideKind(const std::string& text, const std::string& name) {
    if (text.size() > longestKind)
        return Error{"is longer than 1 MB", name, "A description of one kind of device is short."};
    const auto j = parseJson(text, name);
    if (!j)
        return j.error();
    auto kind = fromJson<OutsideKind>(*j);
    if (!kind)
        return Error{kind.error().message, name + kind.error().place, kind.error().remedy};
    if (const auto wrong = errorsOf(*kind); !wrong.empty())
        return Error{wrong[0].message, name + "/" + wrong[0].place, wrong[0].remedy};
    return kind;
}

std::string outsideKindText(const OutsideKind& kind) {
    return toJson(kind).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

std::vector<Error> errorsOf(const OutsideKind& kind) {
    std::vector<Error> all;
    const auto look = [&](const std::string& place, const std::string& text, bool said, bool value) {
        if (text.empty())
            return;
        const auto t = Template::read(text, kind.hex);
        if (!t) {
            all.push_back({t.error().message, place + ", " + t.error().place, t.error().remedy});
            return;
        }
        if (said && t->hasAny())
            all.push_back({"what is said cannot hold {any}", place, "Write what is to be sent."});
        if (value && !t->hasValue())
            all.push_back({"nothing tells where the value stands", place, "Write {value} there."});
        if (!value && said && t->hasValue())
            all.push_back({"there is no value that it could hold", place, "Take {value} out."});
    };
    if (kind.states.empty() && kind.commands.empty())
        all.push_back({"it describes nothing that is told or said", kind.id, "Give it states or commands."});
    for (const auto& s : kind.states) {
        const auto place = "states/" + s.id;
        if (!s.codes.empty() && s.codes.size() != s.choices.size())
            all.push_back({"it has another number of codes than of choices", place, "Write one for each."});
        if (s.choices.empty() && !(s.low < s.high))
            all.push_back({"its least value does not lie below its most", place, ""});
        for (const auto* names : {&s.choices, &s.codes})
            for (const auto& one : *names)
                if (one.empty() || one.size() > 80)
                    all.push_back({"a choice has no name, or one that is longer than 80 bytes", place, "Give it one."});
        look(place + "/set", s.set, true, true);
        look(place + "/ask", s.ask, true, false);
        look(place + "/answer", s.answer, false, true);
        if (!s.ask.empty() && s.answer.empty())
            all.push_back({"it is asked for, and nothing tells what the answer is", place, "Write its answer."});
        // Every value has to fit into what sets it.
        if (const auto t = s.set.empty() ? Result<Template>(Error{}) : Template::read(s.set, kind.hex))
            for (std::size_t i = 0; i < std::max<std::size_t>(s.choices.size(), 2); ++i) {
                const double v = s.choices.empty() ? (i == 0 ? s.low : s.high) : static_cast<double>(i);
                const auto code = OutsideTalk::codeOf(s, v);
                const auto bytes = code ? t->compose(*code) : Result<std::string>(Error{"has no code", "", ""});
                if (!bytes) {
                    all.push_back({bytes.error().message, place + "/set", "Write codes that fit there."});
                    break;
                }
                if (s.choices.empty() && i == 1)
                    break;
            }
    }
    for (const auto& c : kind.commands)
        look("commands/" + c.id, c.send, true, false);
    return all;
}

Result<const OutsideDevice*> outsideSaid(const Project& p, const std::string& said) {
    for (const auto& d : p.outside)
        if (d.id == said || d.name == said)
            return &d;
    return noOutside(said);
}

Result<Edit> addOutside(const Project& p, const std::string& name, const std::string& kind, const std::string& room,
                        const std::string& address) {
    if (const auto* own = p.outsideKind(kind))
        return addOutside(p, name, *own, room, address);
    for (const auto& k : shippedOutsideKinds())
        if (k.id == kind)
            return addOutside(p, name, k, room, address);
    return Error{"there is no such kind of outside device", kind.substr(0, 80),
                 "loomctl outside --kinds lists them; a description in JSON brings another."};
}

Result<Edit> addOutside(const Project& p, const std::string& name, const OutsideKind& kind, const std::string& room,
                        const std::string& address) {
    if (name.empty() || name.find_first_not_of(' ') == std::string::npos)
        return Error{"an outside device has a name", "", "Type one, such as Hall display."};
    if (p.outside.size() >= mostOutside)
        return Error{"a project has at most 500 outside devices", "", ""};
    if (!room.empty() && !p.room(room))
        return Error{"there is no such room", room.substr(0, 80), ""};
    if (!address.empty())
        if (const auto a = readOutsideAddress(kind, address); !a)
            return a.error();
    auto taken = takenIds(p);
    OutsideDevice d;
    d.name = name.substr(0, 120);
    d.id = freeId(taken, d.name);
    d.room = room, d.kind = kind.id, d.address = address;
    return Edit{"Add " + d.name, [d, kind](Project now) -> Result<Project> {
                    if (auto* own = now.outsideKind(kind.id))
                        *own = kind;
                    else
                        now.outsideKinds.push_back(kind);
                    now.outside.push_back(d);
                    return now;
                }};
}

Result<Edit> removeOutside(const Project& p, const std::string& id) {
    const auto* d = p.outsideDevice(id);
    if (!d)
        return noOutside(id);
    return Edit{"Take out " + d->name, [id, kind = d->kind](Project now) -> Result<Project> {
                    erase_if(now.outside, [&](const OutsideDevice& one) { return one.id == id; });
                    if (std::none_of(now.outside.begin(), now.outside.end(),
                                     [&](const OutsideDevice& one) { return one.kind == kind; }))
                        erase_if(now.outsideKinds, [&](const OutsideKind& one) { return one.id == kind; });
                    return now;
                }};
}

std::vector<Field> outsideFields(const Project& p, const OutsideDevice& d) {
    auto all = shownFields(d);
    Field room{"room", "Room"};
    room.choices = {""}, room.choiceNames = {"None"};
    for (const auto& b : p.buildings)
        for (const auto& r : b.rooms)
            room.choices.push_back(r.id), room.choiceNames.push_back(r.name);
    room.text = d.room;
    Field by{"processor", "Talked to by"};
    by.choices = {""}, by.choiceNames = {"The processor of its room"};
    for (const auto& one : p.devices)
        if (one.program && one.spec() && one.spec()->network && one.spec()->workBudget > 0)
            by.choices.push_back(one.id), by.choiceNames.push_back(one.name);
    by.text = d.processor;
    all.push_back(room);
    all.push_back(by);
    return all;
}

Edit setOutsideField(const std::string& id, const std::string& field, const std::string& value) {
    return {"Change an outside device", [=](Project now) -> Result<Project> {
                auto* d = now.outsideDevice(id);
                if (!d)
                    return noOutside(id);
                if (field == "room" || field == "processor") {
                    if (!value.empty() && (field == "room" ? !now.room(value) : !now.device(value)))
                        return Error{"there is no such " + field, value.substr(0, 80), ""};
                    (field == "room" ? d->room : d->processor) = value;
                    return now;
                }
                if (field == "address" && !value.empty())
                    if (const auto* kind = now.outsideKind(d->kind))
                        if (const auto a = readOutsideAddress(*kind, value); !a)
                            return a.error();
                if (const auto e = setShownField(*d, field, value, "an outside device has no such field"))
                    return *e;
                return now;
            }};
}

} // namespace loom::project
