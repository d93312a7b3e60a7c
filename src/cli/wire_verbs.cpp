// Cables between devices: what each carries, what a cut does, how long sound takes, who leads the clock.
#include "cli/answer.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/streams.h"
#include "cli/verb.h"
#include "dsp/number.h"
#include "patch/clock.h"
#include "patch/limits.h"
#include "patch/patch_edit.h"
#include "patch/ways.h"
#include "patch/wire_edit.h"
#include "voicings/relief.h"
#include <cstdio>

namespace loom::cli {

using namespace project;
using nlohmann::json;

namespace wire_verbs {

struct Call {
    std::string file, from, to, id, number, grade;
    std::vector<std::string> names;
    double metres = 0;
    int apply = 0;
    bool asJson = false;
};

// A project with its streams and their ways.
struct Picture {
    explicit Picture(Project of) : p(std::move(of)), patched(patchedOf(p)), wired(wiredOf(p, patched)) {}
    std::string id(int device) const { return device < 0 ? "" : p.devices[static_cast<std::size_t>(device)].id; }
    json ids(const std::vector<int>& devices) const {
        json all = json::array();
        for (const int d : devices)
            all.push_back(id(d));
        return all;
    }
    Project p;
    Patched patched;
    Wired wired;
};

template <class Go> int open(const Call& c, Go go) {
    auto p = loadProject(c.file, shelf());
    return p ? go(Picture(std::move(*p))) : fail(p.error());
}

int wires(const Call& c) {
    return open(c, [&](const Picture& all) {
        json cables = json::array(), rings = json::array(), clocks = json::array(), power = json::array();
        for (const auto& l : all.wired.wires) {
            cables.push_back({{"id", l.wire->id},
                              {"number", l.wire->number},
                              {"from", l.wire->from},
                              {"to", l.wire->to},
                              {"transport", specOf(l.transport).id},
                              {"metres", l.wire->metres},
                              {"megabits", l.megabits},
                              {"there", l.there},
                              {"back", l.back},
                              {"inReserve", l.works && l.transport == Transport::network && !l.used}});
            if (!c.asJson)
                std::printf("%s  %s to %s  %s, %g m%s\n", l.wire->id.c_str(), l.wire->from.c_str(), l.wire->to.c_str(),
                            nameOf(l.wire->grade), l.wire->metres,
                            l.transport != Transport::network ? ""
                            : l.used ? print("  %.1f and %.1f of %g Mbit/s", l.there, l.back, l.megabits).c_str()
                                     : "  in reserve");
        }
        for (const auto& r : all.wired.rings) {
            rings.push_back({{"name", r.name},
                             {"devices", all.ids(r.devices)},
                             {"closed", r.closed},
                             {"channels", r.used},
                             {"slots", r.most}});
            if (!c.asJson)
                std::printf("%s: %d of %d slots, %s\n", r.name.c_str(), r.used, r.most,
                            r.closed ? "closed" : "not closed");
        }
        for (const auto& k : clocksOf(all.p, all.wired)) {
            clocks.push_back(
                {{"soundNetwork", k.network}, {"leader", all.id(k.leader())}, {"order", all.ids(k.order)}});
            if (!c.asJson && k.order.size() > 1)
                std::printf("clock: %s leads, %s follows if it goes\n", all.id(k.leader()).c_str(),
                            all.id(k.order[1]).c_str());
        }
        for (const auto& u : powerUse(all.p, all.wired)) {
            power.push_back({{"device", all.id(u.device)}, {"takenWatts", u.taken}, {"givesWatts", u.most}});
            if (!c.asJson)
                std::printf("power: %s gives %g of %g W\n", all.id(u.device).c_str(), u.taken, u.most);
        }
        return c.asJson ? say({{"cables", cables}, {"rings", rings}, {"clocks", clocks}, {"power", power}}) : 0;
    });
}

int cut(const Call& c) {
    return open(c, [&](const Picture& all) {
        Cut cut;
        for (const auto& name : c.names) {
            const bool wire = std::any_of(all.p.wires.begin(), all.p.wires.end(), [&](const Wire& w) {
                return w.id == name || (!w.number.empty() && w.number == name);
            });
            if (!wire && !all.p.device(name))
                return fail(
                    {"There is no cable or device \"" + name.substr(0, 80) + "\"", "", "loomctl wires lists them."});
            if (!wire)
                cut.devices.insert(name);
            for (const auto& w : all.p.wires)
                if (wire && (w.id == name || w.number == name))
                    cut.wires.insert(w.id);
        }
        const auto after = wiredOf(all.p, all.patched, cut);
        json silent = json::array(), moved = json::array();
        for (const auto& e : effectsOf(all.wired, after)) {
            const auto& h = all.patched.hearings[e.hearing];
            (e.silent ? silent : moved).push_back({{"stream", h.stream}, {"receiver", h.key}});
            if (!c.asJson)
                std::printf("%s %s %s\n", h.key.c_str(), e.silent ? "hears no more" : "hears another way",
                            h.stream.c_str());
        }
        if (!c.asJson && silent.empty() && moved.empty())
            std::printf("nothing changes\n");
        return c.asJson ? say({{"silent", silent}, {"anotherWay", moved}}) : 0;
    });
}

int latency(const Call& c) {
    return open(c, [&](const Picture& all) {
        const auto way = SoundWays(all.p, all.patched, all.wired).between(c.from, c.to);
        if (!way)
            return fail({"No sound gets from " + c.from.substr(0, 80) + " to " + c.to.substr(0, 80), "",
                         "loomctl trace and streams show how far it gets."});
        json steps = json::array();
        for (const auto& s : way->steps) {
            steps.push_back({{"kind", nameOf(s.kind)}, {"from", s.from}, {"to", s.to}, {"ms", s.ms}});
            if (!c.asJson)
                std::printf("%8.3f ms  %s  %s%s\n", s.ms, nameOf(s.kind), s.from.c_str(),
                            s.to == s.from ? "" : (" to " + s.to).c_str());
        }
        if (c.asJson)
            return say({{"leastMs", way->leastMs}, {"mostMs", way->mostMs}, {"steps", steps}});
        std::printf("%8.3f ms in all%s\n", way->mostMs,
                    way->leastMs < way->mostMs - 1e-9 ? print(", %.3f ms by the shortest way", way->leastMs).c_str()
                                                      : "");
        return 0;
    });
}

int doing(const Call& c, Project p, const Result<Edit>& edit) {
    if (!edit)
        return fail(edit.error());
    if (const int wrong = saveEdit(p, *edit, c.file))
        return wrong;
    if (c.asJson)
        return wires(c);
    std::printf("%s\n", edit->text.c_str());
    return 0;
}

int wire(const Call& c) {
    return open(c, [&](Picture all) {
        NewWire w{c.from, c.to, c.number, c.metres};
        for (int g = 0; g <= static_cast<int>(Wire::Grade::balanced); ++g)
            if (gradeIds()[static_cast<std::size_t>(g)] == c.grade)
                w.grade = static_cast<Wire::Grade>(g);
        const auto edit = layWire(all.p, w);
        return doing(c, std::move(all.p), edit);
    });
}

int unwire(const Call& c) {
    return open(c, [&](Picture all) {
        const auto edit = removeWires(all.p, c.names);
        return doing(c, std::move(all.p), edit);
    });
}

int ring(const Call& c) {
    return open(c, [&](Picture all) {
        const auto edit = orderRing(all.p, c.names);
        return doing(c, std::move(all.p), edit);
    });
}

// Ways that take sound off a cable; or does one of them.
int relieve(const Call& c) {
    return open(c, [&](Picture all) {
        auto ways = reliefsOf(all.p, c.id);
        if (!ways)
            return fail(ways.error());
        if (c.apply > static_cast<int>(ways->size()))
            return fail({"there is no way of that number", "--apply", ""});
        if (c.apply > 0)
            return doing(c, std::move(all.p), std::move((*ways)[static_cast<std::size_t>(c.apply) - 1].edit));
        json list = json::array();
        for (std::size_t n = 0; n < ways->size(); ++n) {
            const auto& r = (*ways)[n];
            list.push_back({{"stream", r.stream},
                            {"receiver", r.receiver},
                            {"over", r.over},
                            {"before", r.before},
                            {"after", r.after}});
            if (!c.asJson)
                std::printf("%d  %s\n", static_cast<int>(n) + 1, wordsOf(all.p, r).c_str());
        }
        return c.asJson ? say(list) : 0;
    });
}

int comesFrom(const Call& c) {
    return open(c, [&](const Picture& all) {
        const SoundWays ways(all.p, all.patched, all.wired);
        const auto [device, port] = endOf(c.to);
        auto way = ways.back(device, port, false);
        if (way.empty())
            way = ways.back(device, port, true);
        if (way.empty())
            return fail({"has no port where sound comes or leaves", c.to, "loomctl streams and info list them."});
        json steps = json::array();
        for (std::size_t n = 0; n < way.size(); ++n) {
            const bool last = n + 1 == way.size();
            steps.push_back({{"device", way[n].device},
                             {"port", way[n].port},
                             {"input", way[n].input},
                             {"by", last ? "" : nameOf(way[n].from)},
                             {"others", way[n].others}});
            if (!c.asJson)
                std::printf("%s%s%s\n", wordsOf(all.p, way[n]).c_str(),
                            last ? "" : (std::string(", by ") + nameOf(way[n].from)).c_str(),
                            way[n].others > 0 ? print(" (and %d others)", way[n].others).c_str() : "");
        }
        return c.asJson ? say(steps) : 0;
    });
}

int leadTo(const Call& c) {
    return open(c, [&](Picture all) {
        const auto edit = lead(all.p, c.from == "nothing" ? "" : c.from, c.to);
        return doing(c, std::move(all.p), edit);
    });
}

} // namespace wire_verbs

void addWireVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace wire_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        auto* v = addVerb(app, action, call, name, does, example, go);
        v->add_flag("--json", call.asJson, "Answer as JSON");
        v->add_option("FILE", call.file, "Project file or folder")->required();
        return v;
    };
    verb("wires", "Cables, rings, power and clock between devices, and what streams take of them",
         "loomctl wires hall.loom --json", wires);
    auto* v = verb("wire", "Lays a cable from a socket to a socket",
                   "loomctl wire hall.loom heddle sley --number N-14 --metres 12", wire);
    v->add_option("FROM", call.from, "DEVICE or DEVICE/SOCKET")->required();
    v->add_option("TO", call.to, "DEVICE or DEVICE/SOCKET")->required();
    v->add_option("--number", call.number, "As it stands on its ends");
    v->add_option("--metres", call.metres, "Its length")->check(CLI::Range(0.0, 100000.0));
    v->add_option("--grade", call.grade, "Else what is usual")->check(CLI::IsMember(gradeIds()));
    v = verb("unwire", "Takes cables away", "loomctl unwire hall.loom w3", unwire);
    v->add_option("CABLE", call.names, "Their ids")->required();
    v = verb("ring", "Joins the ring sockets of devices, in this order, to a closed ring",
             "loomctl ring hall.loom heddle heddle-8 treadle", ring);
    v->add_option("DEVICE", call.names, "Their ids")->required();
    v = verb("lead", "Leads an output to an input by a cable, pair link, USB or telephone line",
             "loomctl lead hall.loom heddle/out 1 treadle/in 1", leadTo);
    v->footer("Example: loomctl lead hall.loom \"heddle/out 1\" \"treadle/in 1\"");
    v->add_option("FROM", call.from, "DEVICE/PORT, or \"nothing\"")->required();
    v->add_option("TO", call.to, "DEVICE/PORT")->required();
    v = verb("cut", "What would fall silent, or come another way, without these cables and devices",
             "loomctl cut hall.loom w3 sley", cut);
    v->add_option("WHAT", call.names, "Ids or numbers of cables, ids of devices")->required();
    v = verb("relieve", "Ways round a ring, or on from a device that has both, that take sound off a cable",
             "loomctl relieve hall.loom N-04 --apply 1", relieve);
    v->add_option("CABLE", call.id, "Its id or number")->required();
    v->add_option("--apply", call.apply, "Does the one of this number")->check(CLI::Range(1, 100000));
    v = verb("comes-from", "Where the sound of a port comes from, back through programs, streams and cables",
             "loomctl comes-from hall.loom \"treadle/out 2\"", comesFrom);
    v->add_option("PORT", call.to, "DEVICE/PORT")->required();
    v = verb("latency", "How long sound takes from any input or output to any output, and where",
             "loomctl latency hall.loom", latency);
    v->footer("Example: loomctl latency hall.loom \"heddle/in 1\" \"treadle/out 2\"");
    v->add_option("FROM", call.from, "DEVICE/PORT")->required();
    v->add_option("TO", call.to, "DEVICE/PORT")->required();
}

} // namespace loom::cli
