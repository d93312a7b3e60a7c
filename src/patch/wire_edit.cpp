#include "patch/wire_edit.h"
#include "dsp/number.h"
#include "model/describe.h"
#include <algorithm>

namespace loom::project {
namespace {

struct End {
    const Device* device = nullptr;
    std::string socket;
};

std::set<std::string> takenSockets(const Project& p) {
    std::set<std::string> all;
    for (const auto& w : p.wires)
        all.insert({w.from, w.to});
    return all;
}

std::string freeWireId(const Project& p) {
    for (std::size_t n = p.wires.size() + 1;; ++n) {
        const std::string id = "w" + std::to_string(n);
        if (std::none_of(p.wires.begin(), p.wires.end(), [&](const Wire& w) { return w.id == id; }))
            return id;
    }
}

Result<End> endSaid(const Project& p, const std::string& text) {
    const auto slash = text.find('/');
    const std::string id = text.substr(0, slash);
    const auto* d = p.device(id);
    if (!d)
        return Error{"There is no device \"" + id.substr(0, 80) + "\"", "", ""};
    return End{d, slash == std::string::npos ? std::string() : text.substr(slash + 1)};
}

std::string freeSocket(const Device& d, Transport t, const std::set<std::string>& taken) {
    for (const auto& s : socketsOf(d))
        if (s.transport == t && !taken.count(d.id + "/" + s.name))
            return s.name;
    return {};
}

// Whether it is a socket, and for what; an output or input that carries a lead counts as a cable.
std::optional<Transport> transportAt(const Device& d, const std::string& name) {
    for (const auto& s : socketsOf(d))
        if (s.name == name)
            return s.transport;
    if (const auto* m = d.spec())
        for (const bool input : {false, true})
            for (const auto& port : m->ports(input))
                if (port == name && !specOf(transportOf(port)).streams)
                    return transportOf(port);
    return {};
}

Error noSocket(const Device& d, const std::string& name) {
    std::string has;
    const auto all = socketsOf(d);
    if (!all.empty())
        has = "It has " + all.front().name + (all.size() > 1 ? " to " + all.back().name : "") + ".";
    return {"has no socket \"" + name.substr(0, 40) + "\"", d.name, has};
}

Wire::Grade usualGrade(Transport t) {
    return t == Transport::pair    ? Wire::Grade::pair110
           : t == Transport::cable ? Wire::Grade::balanced
                                   : Wire::Grade::cat6;
}

Edit withWires(const Project& p, List<Wire> wires, std::string text) {
    Project then = p;
    then.wires = std::move(wires);
    return editBetween(p, std::move(then), std::move(text));
}

} // namespace

const char* nameOf(Wire::Grade grade) {
    static constexpr const char* names[]{"Cat 5e", "Cat 6", "Cat 6A", "fibre", "110 \u03a9 pair", "balanced cable"};
    return names[static_cast<std::size_t>(grade)];
}

const std::vector<std::string>& gradeIds() {
    static const auto all = [] {
        for (const auto& f : shownFields(Wire{}))
            if (f.id == "grade")
                return f.choices;
        return std::vector<std::string>{};
    }();
    return all;
}

Result<Edit> layWire(const Project& p, const NewWire& w) {
    auto from = endSaid(p, w.from), to = endSaid(p, w.to);
    if (!from)
        return from.error();
    if (!to)
        return to.error();
    if (from->device == to->device)
        return Error{"a cable leads to another device", from->device->name, ""};
    const auto taken = takenSockets(p);
    for (auto* end : {&*from, &*to}) {
        if (end->socket.empty()) {
            end->socket = freeSocket(*end->device, Transport::network, taken);
            if (end->socket.empty())
                return Error{"has no free socket for the network", end->device->name, "Take a cable off, or name one."};
        }
        if (!transportAt(*end->device, end->socket))
            return noSocket(*end->device, end->socket);
        if (taken.count(end->device->id + "/" + end->socket))
            return Error{end->socket + " has a cable already", end->device->name, "Take it off, or choose another."};
    }
    const Transport a = *transportAt(*from->device, from->socket), b = *transportAt(*to->device, to->socket);
    if (a != b)
        return Error{"no cable fits " + from->socket + " and " + to->socket, from->device->name, ""};
    Wire made;
    made.id = freeWireId(p);
    made.number = w.number;
    made.from = from->device->id + "/" + from->socket;
    made.to = to->device->id + "/" + to->socket;
    made.metres = w.metres;
    made.grade = w.grade.value_or(usualGrade(a));
    auto wires = p.wires;
    wires.push_back(std::move(made));
    return withWires(p, std::move(wires), "Cable from " + from->device->name + " to " + to->device->name);
}

Result<Edit> removeWires(const Project& p, const std::vector<std::string>& ids) {
    auto wires = p.wires;
    for (const auto& id : ids)
        if (std::none_of(wires.begin(), wires.end(), [&](const Wire& w) { return w.id == id; }))
            return Error{"There is no cable \"" + id.substr(0, 80) + "\"", "", "loomctl wires lists them."};
    erase_if(wires, [&](const Wire& w) { return std::find(ids.begin(), ids.end(), w.id) != ids.end(); });
    return withWires(p, std::move(wires), ids.size() == 1 ? "Take a cable away" : "Take cables away");
}

std::vector<Field> wireFields(const Project& p, const std::string& id) {
    for (const auto& w : p.wires)
        if (w.id == id)
            return shownFields(w);
    return {};
}

Result<Edit> setWireField(const Project& p, const std::string& id, const std::string& field, const std::string& value) {
    auto wires = p.wires;
    for (std::size_t n = 0; n < wires.size(); ++n)
        if (wires[n].id == id) {
            Wire then = wires[n];
            if (auto wrong = setShownField(then, field, value, "A cable has no such field"))
                return *wrong;
            wires.change(n) = std::move(then);
            return withWires(p, std::move(wires), "Set " + field + " of a cable");
        }
    return Error{"There is no cable \"" + id.substr(0, 80) + "\"", "", "loomctl wires lists them."};
}

Result<Edit> orderRing(const Project& p, const std::vector<std::string>& devices) {
    if (devices.size() < 2)
        return Error{"a ring has two devices at least", "", ""};
    std::set<std::string> once;
    for (const auto& id : devices) {
        const auto* d = p.device(id);
        if (!d)
            return Error{"There is no device \"" + id.substr(0, 80) + "\"", "", ""};
        if (const auto* m = d->spec(); !m || !m->ring)
            return Error{"has no ring sockets", d->name, "Leave it out."};
        if (!once.insert(id).second)
            return Error{"stands in it twice", d->name, ""};
    }
    // What hung on these sockets goes; a cable between the same two is put in anew.
    auto wires = p.wires;
    std::map<std::set<std::string>, Wire> were;
    for (const auto& w : p.wires)
        if (endOf(w.from).second.rfind("ring ", 0) == 0)
            were[{endOf(w.from).first, endOf(w.to).first}] = w;
    erase_if(wires, [&](const Wire& w) {
        return endOf(w.from).second.rfind("ring ", 0) == 0 &&
               (once.count(endOf(w.from).first) || once.count(endOf(w.to).first));
    });
    Project then = p;
    then.wires = std::move(wires);
    for (std::size_t n = 0; n < devices.size(); ++n) {
        const auto &a = devices[n], &b = devices[(n + 1) % devices.size()];
        Wire w;
        if (const auto it = were.find({a, b}); it != were.end()) {
            w = it->second;
            were.erase(it);
        } else {
            w.id = freeWireId(then);
        }
        w.from = a + "/ring b";
        w.to = b + "/ring a";
        then.wires.push_back(std::move(w));
    }
    return editBetween(p, std::move(then), "Put the ring in order");
}

std::optional<WireFault> faultOf(const WireLoad& l) {
    using Grade = Wire::Grade;
    const auto grade = l.wire->grade;
    const bool copper = grade == Grade::cat5e || grade == Grade::cat6 || grade == Grade::cat6a;
    const auto unfit = [&](const char* remedy) {
        return WireFault{true, std::string("It is ") + nameOf(grade) + ", which does not carry this.", remedy};
    };
    const auto tooLong = [&](double most) -> std::optional<WireFault> {
        if (l.wire->metres <= most)
            return {};
        return WireFault{false,
                         print("It is %g m long; %s carries this over %g m.", l.wire->metres, nameOf(grade), most),
                         "A shorter way, fibre, or a device between."};
    };
    switch (l.transport) {
    case Transport::network:
    case Transport::ring:
        if (grade == Grade::fibre)
            return tooLong(550);
        if (!copper)
            return unfit("Take Cat 6 or fibre.");
        if (l.megabits > 1000 && grade == Grade::cat5e)
            return unfit("Take Cat 6A.");
        return tooLong(l.megabits > 1000 && grade == Grade::cat6 ? 55 : 100);
    case Transport::pair:
        if (grade != Grade::pair110 && !copper)
            return unfit("Take a pair of 110 \u03a9.");
        return tooLong(100);
    default:
        return {};
    }
}

} // namespace loom::project
