// Every finding of the registry is provoked in the demo, which has none, and cured as its remedy says.
#ifndef Q_MOC_RUN
#include "access/access_edit.h"
#include "acoustics/polygon.h"
#include "catalogue/catalogue.h"
#include "file/store.h"
#include "findings/findings.h"
#include "models.h"
#include "outside/outside_edit.h"
#include "patch/wire_edit.h"
#include "program/file_prints.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "rooms/room_edit.h"
#include "site/calls.h"
#include "site/found.h"
#include "talk/lane_way.h"
#include "talk/mute_board.h"
#include "talk/prove.h"
#include "voicings/voiced.h"
#include "voicings/voicing_edit.h"
#endif
#include "test.h"
#include <set>

using namespace loom;
using namespace loom::project;
using Code = FindingCode;

namespace {

// What is found depends on the project, and on site on what was found there.
struct World {
    Project p;
    std::map<std::string, Vitals> vitals{}; // of what is paired
    std::vector<site::DiscoveredDevice> found{};
    std::vector<std::string> lost{};
    engine::Program& heddle() { return *p.device("heddle")->program; }
    std::vector<Stream>& streams(const char* device) { return p.device(device)->streams; }
    AmplifierOutput& output(const char* amplifier, const char* port) { return p.device(amplifier)->outputs[port]; }
};
using Step = std::function<void(World&)>;
struct Case {
    Code code;
    Step provoke, cure;
    bool acoustics = false; // needs predictions of rooms, which take longer
};

std::string mutedPath(World& w) {
    for (const auto& b : w.heddle().blocks)
        if (b.kind == "mute")
            return "heddle/" + b.id + ".muted";
    return "";
}

// A page with one good control that opens another.
SurfacePage& touch(World& w) {
    auto* s = w.p.surface("probe");
    if (!s) {
        Surface one;
        one.id = one.name = "probe";
        one.millimetres = 217;
        for (const char* id : {"first", "second"}) {
            SurfacePage page;
            page.id = page.name = id;
            page.plies.push_back({"all", "All"});
            one.pages.push_back(page);
        }
        Control c;
        c.id = "one", c.kind = "toggle", c.param = mutedPath(w), c.page = "second";
        c.x = 100, c.y = 100, c.width = 200, c.height = 80;
        one.pages.change(0).plies.change(0).controls.push_back(c);
        w.p.surfaces.push_back(one);
        s = w.p.surface("probe");
    }
    return s->pages.change(0);
}

Control& control(World& w) {
    return touch(w).plies.change(0).controls.change(0);
}

Clause clause(const char* kind, std::map<std::string, std::string> gaps) {
    Clause c;
    c.kind = kind, c.gaps = std::move(gaps);
    return c;
}

// A rule that mutes something at a cue.
Rule& rule(World& w) {
    if (!w.p.rule("probe")) {
        Rule r;
        r.id = r.name = "probe";
        r.when = {clause("cue", {{"cue", "cue:probe"}})};
        r.then = {clause("set", {{"signal", mutedPath(w)}, {"state", "on"}})};
        w.p.rules.push_back(r);
    }
    return *w.p.rule("probe");
}

std::vector<char> svgOf(const std::string& box) {
    const auto text = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"" + box + "\"/>";
    return {text.begin(), text.end()};
}
// As much of a PNG as says how large it is.
std::vector<char> pngHead(int width, int height) {
    std::vector<char> b{'\x89', 'P', 'N', 'G', '\r', '\n', '\x1a', '\n', 0, 0, 0, 13, 'I', 'H', 'D', 'R'};
    for (const int v : {width, height})
        for (const int shift : {24, 16, 8, 0})
            b.push_back(static_cast<char>(v >> shift));
    b.insert(b.end(), {8, 2, 0, 0, 0, 0, 0, 0, 0});
    return b;
}

void addBlockTo(World& w, const char* kind, const char* name) {
    auto made = addBlock(w.heddle(), kind, name);
    if (made)
        w.heddle() = made->program;
}

Stream stream(const std::string& name, std::vector<std::string> ports) {
    Stream s;
    s.id = s.name = name;
    s.ports = std::move(ports);
    return s;
}

// A crossing of the matrix mixer that both are on.
void crossAt(World& w, const char* device, const char* matrix, const char* source, const char* destination, double db) {
    auto& p = *w.p.device(device)->program;
    engine::enterValue(*p.find(matrix),
                       first::crossing(first::inputOn(p, matrix, source, ""), first::outputOn(p, matrix, destination)),
                       db);
}
void cross(World& w, const char* source, const char* destination, double db) {
    crossAt(w, "heddle", "hall", source, destination, db);
}
std::string muteBefore(World& w, const char* destination) {
    const auto port = w.heddle().find(destination)->texts.at("port");
    return mutedBlocks(w.heddle(), {{port, "x"}})["x"].front();
}
void unused(World& w, const char* end) {
    w.heddle() = *removeBlock(w.heddle(), end);
}

Step nothing() {
    return [](World&) {};
}

std::vector<Case> cases() {
    const auto withFile = [](World& w, const std::string& text) {
        addBlockTo(w, "fir", "Fir");
        w.heddle().find("fir")->texts["file"] = "taps.txt";
        w.p.assets["taps.txt"] = std::vector<char>(text.begin(), text.end());
    };
    const auto many = [](const char* model, int count) {
        return [=](World& w) {
            for (int i = 0; i < count; ++i)
                w.p.devices.push_back(newDevices(w.p, "foyer", test::model(model), {{20, 15}}).front());
        };
    };
    const auto drop = [](const char* begin) {
        return [=](World& w) { erase_if(w.p.devices, [&](const Device& d) { return d.id.rfind(begin, 0) == 0; }); };
    };
    const auto stranger = [](const char* serial, const char* model, const char* address) {
        site::DiscoveredDevice f;
        f.models = test::models();
        f.serial = serial, f.model = model, f.modelName = test::models().find(model)->name, f.address = address,
        f.name = serial;
        f.firmware = test::models().find(model)->firmware;
        return f;
    };
    const auto pair = [stranger](World& w) { // the tap of the Tern Room
        w.found = {stranger("T1", "tap", "127.20.4.26")};
        w.p.device("tern-tap")->serial = "T1";
    };
    return {
        // -- programs --
        {Code::unknownBlock,
         [](World& w) {
             w.heddle().blocks.push_back({"x", "of-tomorrow", ""});
         },
         [](World& w) { w.heddle() = *removeBlock(w.heddle(), "x"); }},
        {Code::noArrival,
         [](World& w) { // all crossings to the loop are closed
             for (auto& [id, v] : w.heddle().find("hall")->values)
                 if (id.ends_with(".6"))
                     v = -80;
         },
         [](World& w) { w.heddle() = *routeAll(w.heddle(), {"chair"}, {"loop"}, 0); }},
        {Code::goesNowhere,
         [](World& w) { erase_if(w.heddle().connections, [](const auto& t) { return t.from.block == "delegate-2"; }); },
         [](World& w) {
             w.heddle() = *drawThread(w.heddle(), {"delegate-2", 0}, {"delegate-2.preamp", 0});
         }},
        {Code::noReference, [](World& w) { addBlockTo(w, "echo", "Echo"); },
         [](World& w) {
             w.heddle().connections.push_back({{"far-end", 0}, {"echo", 1}});
         }},
        {Code::silentReference,
         [](World& w) {
             addBlockTo(w, "echo", "Echo");
             w.heddle().blocks.push_back({"nothing", "sum", ""});
             w.heddle().connections.push_back({{"nothing", 0}, {"echo", 1}});
         },
         [](World& w) {
             w.heddle().connections.changeBack().from = {"far-end", 0};
         }},
        {Code::noFile, [](World& w) { addBlockTo(w, "player", "Gong"); },
         [](World& w) { w.heddle().find("gong")->texts["file"] = "chair.flac"; }},
        {Code::fileTooLarge,
         [](World& w) {
             addBlockTo(w, "player", "Gong");
             w.heddle().find("gong")->texts["file"] = "long.wav";
             w.p.assets["long.wav"] = Asset(std::vector<char>(largestDeviceFile + 1));
         },
         [](World& w) { w.p.assets["long.wav"] = Asset(std::vector<char>(largestDeviceFile)); }},
        {Code::fileMissing,
         [](World& w) {
             addBlockTo(w, "player", "Gong");
             w.heddle().find("gong")->texts["file"] = "gone.wav";
         },
         [](World& w) { w.heddle().find("gong")->texts["file"] = "chair.flac"; }},
        {Code::fileUnfit, [=](World& w) { withFile(w, "half a word"); },
         [=](World& w) {
             w.p.assets["taps.txt"] = std::vector<char>{'1', '\n'};
         }},
        {Code::offNotFlat, [](World& w) { w.heddle().find("chair.eq")->values["on"] = 0; },
         [](World& w) { w.heddle().find("chair.eq")->values["on"] = 1; }},
        {Code::noPort, [](World& w) { w.heddle().find("chair")->texts.erase("port"); },
         [](World& w) { w.heddle().find("chair")->texts["port"] = "in 1"; }},
        {Code::portTwice, [](World& w) { w.heddle().find("column-l")->texts["port"] = "out 1"; },
         [](World& w) { w.heddle().find("column-l")->texts["port"] = "out 12"; }},
        {Code::noSuchPort, [](World& w) { w.heddle().find("column-r")->texts["port"] = "out 99"; },
         [](World& w) { w.heddle().find("column-r")->texts["port"] = "out 12"; }},
        {Code::badConnection,
         [](World& w) {
             w.heddle().connections.push_back({{"hall", 99}, {"recorder.level", 5}});
         },
         [](World& w) { erase_if(w.heddle().connections, [](const auto& t) { return t.from.port == 99; }); }},
        {Code::loop,
         [](World& w) {
             w.heddle().connections.changeIf([](const auto& t) { return t.to.block == "chair.eq"; },
                                             [](auto& t) {
                                                 t.from = {"hall", 0};
                                             });
         },
         [](World& w) {
             w.heddle().connections.changeIf([](const auto& t) { return t.to.block == "chair.eq"; },
                                             [](auto& t) {
                                                 t.from = {"chair.highpass", 0};
                                             });
         }},
        {Code::lanesApart,
         [](World& w) { // once straight, once through a limiter that looks ahead
             addBlockTo(w, "crossover", "Ways");
             addBlockTo(w, "sum", "Together");
             w.heddle().blocks.push_back({"late", "limiter", ""});
             auto& connections = w.heddle().connections;
             connections.push_back({{"chair.eq", 0}, {"ways", 0}}),
                 connections.push_back({{"ways", 0}, {"together", 0}});
             connections.push_back({{"ways", 1}, {"late", 0}}), connections.push_back({{"late", 0}, {"together", 1}});
         },
         [](World& w) { w.heddle() = *alignAllLanes(w.heddle(), 48000); }},
        {Code::overBudget,
         [](World& w) {
             for (int i = 0; i < 100; ++i)
                 w.heddle().blocks.push_back({"e" + std::to_string(i), "octave", ""});
         },
         [](World& w) { erase_if(w.heddle().blocks, [](const auto& b) { return b.kind == "octave"; }); }},
        {Code::knobLost, [](World& w) { w.p.device("spindle-cellar")->setUp["knob 1"] = "nobody.level.gain -40..0"; },
         [](World& w) { w.p.device("spindle-cellar")->setUp["knob 1"] = "main-l.level.gain -40..0"; }},
        // -- rooms --
        {Code::roomShape, [](World& w) { w.p.room("tern")->height = 0.5; },
         [](World& w) { w.p.room("tern")->height = 3; }},
        {Code::unknownMaterial, [](World& w) { w.p.room("plover")->finishes["floor"] = "cheese"; },
         [](World& w) { w.p.room("plover")->finishes["floor"] = "linoleum"; }},
        {Code::seatOutside, [](World& w) { w.p.room("plover")->seats[0].x += 100; },
         [](World& w) { w.p.room("plover")->seats[0].x -= 100; }},
        {Code::wallRooms,
         [](World& w) {
             w.p.buildings.change(0).walls[0].rooms = {"tern", "nowhere"};
         },
         [](World& w) {
             w.p.buildings.change(0).walls[0].rooms = {"tern", "plover"};
         }},
        {Code::rackFull, [](World& w) { w.p.device("shuttle-8-stage")->place.unit = 40; },
         [](World& w) { w.p.device("shuttle-8-stage")->place.unit = 4; }},
        {Code::rackOverlap, [](World& w) { w.p.device("heddle-8-rack-a")->place.unit = 16; },
         [](World& w) { w.p.device("heddle-8-rack-a")->place.unit = 14; }},
        {Code::sameName, [](World& w) { w.p.device("tern-tap")->name = w.p.device("plover-tap")->name; },
         [](World& w) {
             for (const auto& [id, d] : renamed(w.p, {"tern-tap"}, "{room} {use} {n}").devices)
                 *w.p.device(id) = *d;
         }},
        {Code::sameAddress, [](World& w) { w.p.device("tern-tap")->address = "127.20.4.29"; },
         [](World& w) {
             for (const auto& [id, d] : addressed(w.p, {"tern-tap", "plover-tap"}, "", false).devices)
                 *w.p.device(id) = *d;
         }},
        {Code::unknownModel, [](World& w) { w.p.device("foyer-dial")->model = "of-tomorrow"; },
         [](World& w) { w.p.device("foyer-dial")->model = "dial"; }},
        {Code::longName, [](World& w) { w.p.device("plover-tap")->name = std::string(1000, 'n'); },
         [](World& w) { w.p.device("plover-tap")->name = "Tap"; }},
        {Code::badAddress, [](World& w) { w.p.device("tern-tap")->address = "10.20.4"; },
         [](World& w) { w.p.device("tern-tap")->address = "10.20.4.1"; }},
        {Code::noAddress, [](World& w) { w.p.device("plover-slate")->address.clear(); },
         [](World& w) {
             for (const auto& [id, d] : addressed(w.p, {"plover-slate"}, "", false).devices)
                 *w.p.device(id) = *d;
         }},
        {Code::outsideRoom, [](World& w) { w.p.device("tern-slate")->place.x = 500; },
         [](World& w) { w.p.device("tern-slate")->place.x = w.p.room("tern")->outline[0][0]; }},
        {Code::aboveCeiling, [](World& w) { w.p.device("plover-canopy")->place.z = 9; },
         [](World& w) { w.p.device("plover-canopy")->place.z = w.p.room("plover")->height; }},
        {Code::poeOver, many("slate-10", 30), many("sley-24", 4)},
        {Code::socketsOver, many("tap", 30), many("sley-24", 2)},
        {Code::ownerUnknown, [](World& w) { w.p.device("heddle")->owners["usb 2"] = "nowhere"; },
         [](World& w) { w.p.device("heddle")->owners["usb 2"] = "foyer"; }},
        {Code::ownerTwoRooms, [](World& w) { w.p.device("heddle")->owners["usb 2"] = "tern+foyer"; },
         [](World& w) { w.p.device("heddle")->owners["usb 2"] = "tern+plover"; }},
        {Code::uneven,
         [](World& w) { // one loudspeaker for all of the foyer
             erase_if(w.p.devices, [](const Device& d) {
                 return d.id.rfind("foyer-ceiling-", 0) == 0 && d.id != "foyer-ceiling-1";
             });
         },
         [](World& w) {
             const auto* r = w.p.room("foyer");
             const auto& model = test::model("bobbin-c6");
             for (auto& d : newDevices(w.p, "foyer", model, *ceilingSpots(*r, model, GridBy::count, 12)))
                 w.p.devices.push_back(std::move(d));
             erase_if(w.p.devices, [](const Device& d) { return d.id == "foyer-ceiling-1"; });
         },
         true},
        {Code::unclear, [](World& w) { w.p.room("tern")->targets.sti = 0.95; },
         [](World& w) { w.p.room("tern")->targets.sti = 0.5; }, true},
        {Code::tooWeak, [](World& w) { w.p.room("foyer")->targets.level = 120; },
         [](World& w) { w.p.room("foyer")->targets.level = 60; }, true},
        {Code::notPickedUp, [](World& w) { w.p.room("plover")->targets.toNoise = 60; },
         [](World& w) { w.p.room("plover")->targets.toNoise = 5; }, true},
        {Code::feedback, [](World& w) { w.p.room("council")->targets.level = 75; },
         [](World& w) { w.p.room("council")->targets.level = 60; }, true},
        {Code::overload, [](World& w) { w.p.room("foyer")->targets.level = 100; },
         [](World& w) { w.p.room("foyer")->targets.level = 60; }, true},
        // -- sound between devices --
        {Code::overLimit,
         [](World& w) {
             for (int n = 1; n <= 4; ++n) // the array sends two
                 w.streams("council-canopy").push_back(stream("extra" + std::to_string(n), {"net 1"}));
         },
         [](World& w) { w.streams("council-canopy").resize(2); }},
        {Code::ringFull,
         [](World& w) {
             for (int s = 0; s < 13; ++s) {
                 Stream one = stream("r" + std::to_string(s), {});
                 for (int n = 1; n <= 16; ++n)
                     one.ports.push_back("ring " + std::to_string(n));
                 w.streams("heddle-8-rack-a").push_back(one);
             }
         },
         [](World& w) { w.streams("heddle-8-rack-a").resize(5); }},
        {Code::streamName, [](World& w) { w.streams("heddle")[0].name = "Seminar-Mix"; },
         [](World& w) { w.streams("heddle")[0].name = "other"; }},
        {Code::streamAddress,
         [](World& w) { w.streams("heddle")[0].address = w.streams("heddle-8-rack-a")[0].address = "239.1.2.3"; },
         [](World& w) { w.streams("heddle")[0].address.clear(); }},
        {Code::streamPorts, [](World& w) { w.streams("heddle")[0].ports[0] = "net 99"; },
         [](World& w) { w.streams("heddle")[0].ports[0] = "net 1"; }},
        {Code::packetTooLarge,
         [](World& w) {
             for (int n = 2; n <= 11; ++n)
                 w.streams("heddle")[0].ports.push_back("net " + std::to_string(n));
         },
         [](World& w) { w.streams("heddle")[0].packetMs = 0.125; }},
        {Code::formatUnknown, [](World& w) { w.streams("council-canopy")[0].samples = Stream::Samples::l16; },
         [](World& w) { w.streams("council-canopy")[0].samples = Stream::Samples::l24; }},
        {Code::streamGone, [](World& w) { w.p.device("heddle")->receivers[0].streams[0] = "heddle-8-rack-a/gone"; },
         [](World& w) { w.p.device("heddle")->receivers.clear(); }},
        {Code::unheard, [](World& w) { w.streams("heddle").push_back(stream("spare", {"net 2"})); },
         [](World& w) { w.p.device("treadle-4-foyer")->receivers[0].streams.push_back("heddle/spare"); }},
        {Code::ratesApart, [](World& w) { w.p.device("shuttle-8-stage")->rate = 96000; },
         [](World& w) { w.p.device("shuttle-8-stage")->rate = 48000; }},
        {Code::networksApart, [](World& w) { w.p.device("shuttle-8-stage")->soundNetwork = "guests"; },
         [](World& w) { w.p.device("shuttle-8-stage")->soundNetwork = ""; }},
        {Code::noWay, [](World& w) { w.p = *removeWires(w.p, {"w10"})->make(w.p); },
         [](World& w) {
             w.p = *layWire(w.p, {"shuttle-8-stage", "sley-24-rack-a"})->make(w.p);
         }},
        {Code::noClock,
         [](World& w) {
             for (std::size_t n = 0; n < w.p.devices.size(); ++n)
                 w.p.devices.change(n).clockPriority = 255;
         },
         [](World& w) { w.p.device("heddle")->clockPriority = 1; }},
        {Code::soundLoop,
         [](World& w) { // what Tern sends comes back to it
             w.p.device("heddle")->program->find("programme-l")->texts["port"] = "net 11";
             w.p.device("heddle-8-rack-a")->program->find("rooms")->values["8.5"] = 0;
         },
         [](World& w) { w.p.device("heddle-8-rack-a")->program->find("rooms")->values["8.5"] = -100; }},
        {Code::slotTwice, [](World& w) { w.p.device("shuttle-8-stage")->receivers[1].inputs[0] = "net 1"; },
         [](World& w) { w.p.device("shuttle-8-stage")->receivers[1].inputs[0] = "net 5"; }},
        {Code::widthApart, [](World& w) { w.p.device("heddle")->receivers[0].inputs.pop_back(); },
         [](World& w) { w.p.device("heddle")->receivers[0].inputs.push_back("net 20"); }},
        {Code::comesLate, [](World& w) { w.p.device("heddle")->receivers[0].delayMs = 1; },
         [](World& w) { w.p.device("heddle")->receivers[0].delayMs = 2; }},
        {Code::wireEnd, [](World& w) { w.p.wires.change(5).from = "heddle/lan 1"; },
         [](World& w) { w.p.wires.change(5).from = "heddle-8-rack-a/lan 2"; }},
        {Code::ringGap, [](World& w) { w.p = *removeWires(w.p, {"w2"})->make(w.p); },
         [](World& w) {
             w.p = *layWire(w.p, {"heddle-8-rack-a/ring b", "treadle-4-foyer/ring a"})->make(w.p);
         }},
        {Code::ringCrossed, [](World& w) { w.p.wires.change(0).to = "heddle-8-rack-a/ring b"; },
         [](World& w) {
             w.p = *orderRing(w.p, {"heddle", "heddle-8-rack-a", "treadle-4-foyer", "treadle-4-hall"})->make(w.p);
         }},
        {Code::wireGrade, [](World& w) { w.p.wires.change(7).grade = Wire::Grade::balanced; },
         [](World& w) { w.p.wires.change(7).grade = Wire::Grade::cat5e; }},
        {Code::wireLong, [](World& w) { w.p.wires.change(7).metres = 120; },
         [](World& w) { w.p.wires.change(7).grade = Wire::Grade::fibre; }},
        {Code::linkBusy,
         [](World& w) { // nine streams of eight channels to a socket of 100 Mbit/s
             for (int n = 0; n < 9; ++n) {
                 Stream one = stream("wide" + std::to_string(n), {});
                 for (int c = 1; c <= 8; ++c)
                     one.ports.push_back("net " + std::to_string(c));
                 w.streams("heddle").push_back(one);
                 w.p.device("shuttle-8-stage")
                     ->receivers.push_back(
                         {"wide" + std::to_string(n), {"net 3"}, {"heddle/wide" + std::to_string(n)}});
             }
         },
         [](World& w) { w.p.device("shuttle-8-stage")->receivers.resize(6); }},
        {Code::switchPower,
         [](World& w) {
             auto small = test::model("sley-24");
             small.poeBudget = 60;
             w.p.device("sley-24-rack-a")->models = *Catalogue::of({small});
         },
         [](World& w) { w.p.device("sley-24-rack-a")->models = test::models(); }},
        {Code::noPower,
         [](World& w) {
             auto plain = test::model("sley-24");
             plain.sockets[0].feeds = false;
             w.p.device("sley-24-rack-a")->models = *Catalogue::of({plain});
         },
         [](World& w) { w.p.device("sley-24-rack-a")->models = test::models(); }},
        {Code::oneFault, nothing(), // of the foyer, which the demo leaves for a reason
         [](World& w) { w.p.device("treadle-4-foyer")->feeds["net 1"] = "heddle-8-rack-a/net 2"; }},
        // -- amplifiers --
        {Code::noLoad, [](World& w) { w.output("treadle-4-hall", "out 1").loads.clear(); },
         [](World& w) {
             w.output("treadle-4-hall", "out 1").loads = {{"column-l", 0}};
         }},
        {Code::loadGone, drop("cellar-main-l"),
         [](World& w) {
             for (auto& [port, out] : w.p.device("treadle-4-cellar")->outputs)
                 std::erase_if(out.loads, [](const auto& l) { return l.device == "cellar-main-l"; });
         }},
        {Code::noTap, [](World& w) { w.output("treadle-4-foyer", "out 1").loads[0].tapWatts = 0; },
         [](World& w) { w.output("treadle-4-foyer", "out 1").loads[0].tapWatts = 6; }},
        {Code::mixedVoicings,
         [](World& w) {
             w.output("treadle-4-hall", "out 1").loads.push_back({"cellar-bass-l", 0});
         },
         [](World& w) { w.output("treadle-4-hall", "out 1").loads.pop_back(); }},
        {Code::noVoicing,
         [](World& w) {
             for (const auto& l : w.output("treadle-4-hall", "out 1").loads)
                 w.p.device(l.device)->voicing.clear();
         },
         [](World& w) {
             for (const auto& l : w.output("treadle-4-hall", "out 1").loads)
                 w.p.device(l.device)->voicing = "bobbin-12";
         }},
        {Code::lowImpedance,
         [](World& w) {
             auto& out = w.output("treadle-4-cellar", "out 1");
             out.wiring = Wiring::parallel, out.loads.assign(8, {"cellar-main-l", 0});
         },
         [](World& w) { w.output("treadle-4-cellar", "out 1").loads.resize(1); }},
        {Code::noLine, [](World& w) { w.output("treadle-2a-cellar", "out 1").wiring = Wiring::line100; },
         [](World& w) { w.output("treadle-2a-cellar", "out 1").wiring = Wiring::parallel; }},
        {Code::tapsOver,
         [](World& w) {
             for (auto& l : w.output("treadle-4-foyer", "out 1").loads)
                 l.tapWatts = 500;
         },
         [](World& w) {
             for (auto& l : w.output("treadle-4-foyer", "out 1").loads)
                 l.tapWatts = 6;
         }},
        {Code::runsNowhere, [](World& w) { w.p.device("treadle-2a-cellar")->feeds.clear(); },
         [](World& w) {
             w.p.device("treadle-2a-cellar")->feeds = {{"in 1", "spindle-cellar/out 3"},
                                                       {"in 2", "spindle-cellar/out 4"}};
         }},
        {Code::powerUnknown, [](World& w) { w.p.voicing("bobbin-12")->ways[0].rmsWatts = 0; },
         [](World& w) { w.p.voicing("bobbin-12")->ways[0].rmsWatts = 200; }},
        {Code::unprotected,
         [](World& w) {
             for (auto& way : w.p.voicing("oakhaven-x2")->ways)
                 way.protect = false;
         },
         [](World& w) {
             for (auto& way : w.p.voicing("oakhaven-x2")->ways)
                 way.protect = true;
         }},
        {Code::tapTooHigh, [](World& w) { w.output("treadle-4-foyer", "out 1").loads[0].tapWatts = 300; },
         [](World& w) { w.output("treadle-4-foyer", "out 1").loads[0].tapWatts = 6; }},
        {Code::amplifierOverload,
         [](World& w) {
             for (auto& [port, out] : w.p.device("treadle-4-foyer")->outputs)
                 for (auto& l : out.loads)
                     l.tapWatts = 150;
         },
         [](World& w) {
             for (auto& [port, out] : w.p.device("treadle-4-foyer")->outputs)
                 for (auto& l : out.loads)
                     l.tapWatts = 3;
         }},
        {Code::hangsNowhere,
         [](World& w) {
             for (auto& [port, out] : w.p.device("treadle-4-hall")->outputs)
                 std::erase_if(out.loads, [](const auto& l) { return l.device == "column-l"; });
         },
         [](World& w) {
             w.output("treadle-4-hall", "out 1").loads.push_back({"column-l", 0});
         }},
        {Code::wayMissing,
         [](World& w) {
             for (auto& [port, out] : w.p.device("treadle-4-cellar")->outputs)
                 std::erase_if(out.loads, [](const auto& l) { return l.device == "cellar-main-l" && l.way == 1; });
         },
         [](World& w) {
             w.output("treadle-4-cellar", "out 4").loads.push_back({"cellar-main-l", 1});
         }},
        {Code::voicingApart, [](World& w) { w.p.voicing("bobbin-12")->ways[0].rmsWatts /= 2; },
         [](World& w) {
             for (auto& [id, program] : voicedPrograms(w.p))
                 w.p.device(id)->program = program;
         }},
        // -- conversations --
        {Code::hearsItself, [](World& w) { cross(w, "far-end", "far-send", 0); },
         [](World& w) { cross(w, "far-end", "far-send", -80); }},
        {Code::overheard, [](World& w) { crossAt(w, "heddle-8-rack-a", "rooms", "plover-handheld", "far-send", 0); },
         [](World& w) { crossAt(w, "heddle-8-rack-a", "rooms", "plover-handheld", "far-send", -80); }},
        {Code::noCanceller,
         [](World& w) { // the chair's lane goes past it
             const auto goes = [&](const auto& t) {
                 const auto* in = t.from.block == "council-hall-echo-canceller" ? w.heddle().into(t.from) : nullptr;
                 return in && in->from.block == "chair.eq";
             };
             w.heddle().connections.changeIf(goes, [](auto& t) { t.from = {"chair.eq", 0}; });
         },
         [](World& w) { // nobody hears the far end any more
             for (const char* zone : {"ceiling-1", "ceiling-2", "column-l", "column-r"})
                 for (const char* far : {"far-end", "far-end-2", "telephone"})
                     cross(w, far, zone, -80);
         }},
        {Code::ownReference,
         [](World& w) {
             w.heddle().connections.changeIf(
                 [](const auto& t) {
                     return t.to == engine::PortRef{"council-hall-echo-canceller", 10};
                 },
                 [](auto& t) {
                     t.from = {"chair.eq", 0};
                 });
         },
         [](World& w) {
             w.heddle().connections.changeIf(
                 [](const auto& t) {
                     return t.to == engine::PortRef{"council-hall-echo-canceller", 10};
                 },
                 [](auto& t) {
                     t.from = {"far-end.highpass", 0};
                 });
         }},
        {Code::nothingCuts, [](World& w) { w.heddle() = *removeBlock(w.heddle(), muteBefore(w, "far-send")); },
         [](World& w) { // nobody sets it any more
             for (const char* id : {"heddle", "council-tap", "council-slate", "council-canopy"})
                 for (auto& [key, does] : w.p.device(id)->mutes)
                     does = "off";
         }},
        {Code::outsideMute, [](World& w) { w.p.device("council-slate")->mutes.clear(); },
         [](World& w) { w.p.device("council-slate")->mutes["self"] = "shows"; }},
        {Code::claimedTwice,
         [](World& w) {
             auto made = addBlock(w.heddle(), "automixer", "Second");
             w.heddle() = made->program;
             w.heddle().connections.push_back({{"council-hall-echo-canceller", 0}, {"second", 0}});
         },
         [](World& w) { w.heddle().find("second")->marks["walls"] = "fold"; }},
        {Code::groupsApart,
         [](World& w) { // the handheld of the hall is led to the other processor, and grouped there
             auto& p = *w.p.device("heddle-8-rack-a")->program;
             w.p.devices.push_back(newDevices(w.p, "council", test::model("wisp-hh"), {{7, 6}}).front());
             w.p.devices.push_back(newDevices(w.p, "council", test::model("wisp-hh"), {{8, 6}}).front());
             const auto n = w.p.devices.size();
             w.p.device("heddle-8-rack-a")->feeds["in 7"] = w.p.devices[n - 1].id + "/out 1";
             w.p.device("heddle-8-rack-a")->feeds["in 8"] = w.p.devices[n - 2].id + "/out 1";
             p = addBlock(p, "source", "One", {{"port", "in 7"}})->program;
             p = addBlock(p, "source", "Two", {{"port", "in 8"}})->program;
             p = addBlock(p, "automixer", "Both")->program;
             p.connections.push_back({{"one", 0}, {"both", 0}});
             p.connections.push_back({{"two", 0}, {"both", 1}});
         },
         [](World& w) {
             auto& p = *w.p.device("heddle-8-rack-a")->program;
             p = *removeBlock(p, "both");
         }},
        {Code::otherChannel,
         [](World& w) {
             w.p.device("heddle")->owners.erase("usb 2"), unused(w, "far-end-2"), unused(w, "far-end-2-send");
         },
         [](World& w) { w.p.device("heddle")->owners["usb 2"] = "council"; }},
        {Code::noAccount, [](World& w) { w.p.device("heddle")->setUp.erase("telName"); },
         [](World& w) { w.p.device("heddle")->setUp["telName"] = "council"; }},
        {Code::wallUnknown, [](World& w) { w.p.device("heddle-8-rack-a")->contacts.clear(); },
         [](World& w) { w.p.device("heddle-8-rack-a")->contacts["contact 2"] = "wall fold tern+plover"; }},
        {Code::proofMissed,
         [](World& w) {
             Proof proof;
             proof.space = "council", proof.when = "2026-11-29T10:00:00Z";
             proof.figures["echo"] = -20, proof.figures["sti"] = 0.9;
             w.p.proofs.push_back(proof);
             w.p.proofs.changeBack().design = designSum(w.p);
         },
         [](World& w) { w.p.proofs.changeBack().figures["echo"] = -40; }},
        {Code::ruleCannot, [](World& w) { rule(w).then[0].gaps["signal"] = "heddle/nobody.muted"; },
         [](World& w) { rule(w).then[0].gaps["signal"] = mutedPath(w); }},
        {Code::neverWakes, [](World& w) { rule(w).when.clear(); },
         [](World& w) {
             rule(w).when.push_back(clause("cue", {{"cue", "cue:probe"}}));
         }},
        {Code::wakeForEver,
         [](World& w) {
             rule(w).then.push_back(clause("cue", {{"cue", "cue:other"}}));
             Rule other;
             other.id = other.name = "other";
             other.when = {clause("cue", {{"cue", "cue:other"}})};
             other.then = {clause("cue", {{"cue", "cue:probe"}})};
             w.p.rules.push_back(other);
         },
         [](World& w) {
             rule(w).then.insert(rule(w).then.begin(), clause("wait", {{"for", "1"}}));
         }},
        {Code::rulesFight,
         [](World& w) {
             Rule other = rule(w);
             other.id = other.name = "other";
             other.then[0].gaps["state"] = "off";
             w.p.rules.push_back(other);
         },
         [](World& w) { w.p.rules.changeBack().when[0].gaps["cue"] = "cue:later"; }},
        {Code::sceneLost,
         [](World& w) {
             Scene s;
             s.id = s.name = "probe", s.values["heddle/nobody.level.gain"] = 0;
             w.p.scenes.push_back(s);
         },
         [](World& w) {
             w.p.scene("probe")->values = {{mutedPath(w), 1}};
         }},
        {Code::scriptWrong,
         [](World& w) {
             w.p.scripts.push_back({"probe", "Probe", "set(\n"});
         },
         [](World& w) { w.p.script("probe")->text = "note('good')"; }},
        {Code::noZone, [](World& w) { rule(w), w.p.place.zone = "Nowhere/Else"; },
         [](World& w) { w.p.place.zone = "Europe/Berlin"; }},
        {Code::twoProcessors,
         [](World& w) {
             const auto& other = *w.p.device("heddle-8-rack-a")->program;
             for (const auto& b : other.blocks)
                 if (b.kind == "mute" || b.kind == "level" || b.kind == "preamp")
                     return rule(w).then.push_back(
                         clause("set", {{"signal", "heddle-8-rack-a/" + b.id + (b.kind == "mute" ? ".muted" : ".gain")},
                                        {"state", "0"}}));
         },
         [](World& w) { rule(w).then.pop_back(); }},
        {Code::clocksApart,
         [](World& w) {
             rule(w).room = "council", rule(w).when = {clause("time", {{"time", "08:00"}, {"days", "weekdays"}})};
             Rule other = rule(w);
             other.id = other.name = "other", other.room = "tern";
             other.when[0].gaps["time"] = "09:00";
             w.p.rules.push_back(other);
             w.p.device("heddle")->setUp["timeServer"] = "10.20.0.1";
         },
         [](World& w) { w.p.device("heddle-8-rack-a")->setUp["timeServer"] = "10.20.0.1"; }},
        {Code::sceneTooMuch,
         [](World& w) {
             Scene s;
             s.id = s.name = "probe", s.room = "council";
             for (const auto& b : w.heddle().blocks)
                 if (b.kind == "preamp")
                     s.values["heddle/" + b.id + ".gain"] = 60;
             w.p.scenes.push_back(s);
         },
         [](World& w) {
             for (auto& [path, v] : w.p.scene("probe")->values)
                 v = 0;
         },
         true},
        {Code::outsideWrong,
         [](World& w) {
             w.p = *addOutside(w.p, "Probe display", "display-lines", "council", "192.0.2.40")->make(w.p);
             w.p.outsideKind("display-lines")->states[0].set = "POWER";
         },
         [](World& w) { w.p.outsideKind("display-lines")->states[0].set = "POWER {value}"; }},
        {Code::outsideAlone,
         [](World& w) {
             w.p = *addOutside(w.p, "Probe display", "display-lines", "council", "192.0.2.40")->make(w.p);
             w.p.outsideDevice("probe-display")->processor = "council-slate";
         },
         [](World& w) { w.p.outsideDevice("probe-display")->processor = "heddle"; }},
        {Code::accessWrong,
         [](World& w) {
             w.p = *allowSignal(w.p, "heddle", mutedPath(w), true)->make(w.p);
             w.p = *setAccessField("heddle", "lines", "yes").make(w.p);
             w.p.accessOf("heddle")->allowed.back().signal = "heddle/nobody.level.gain";
         },
         [](World& w) { w.p.accessOf("heddle")->allowed.back().signal = mutedPath(w); }},
        {Code::accessFree,
         [](World& w) {
             engine::Block tone;
             tone.id = "probe-tone", tone.kind = "generator", tone.label = "Probe tone";
             w.p.device("heddle")->program->blocks.push_back(tone);
             w.p = *allowSignal(w.p, "heddle", "heddle/probe-tone.run", true)->make(w.p);
             w.p = *setAccessField("heddle", "web", "yes").make(w.p);
         },
         [](World& w) { w.p.accessOf("heddle")->allowed.back().role = "technician"; }},
        {Code::testFails,
         [](World& w) {
             rule(w);
             RehearsalTest t;
             t.id = t.name = "probe";
             t.when = {{1, "cue:probe", ""}}, t.expect = {{2, mutedPath(w), "off"}};
             w.p.ruleTests.push_back(t);
         },
         [](World& w) { w.p.ruleTests.changeBack().expect[0].to = "on"; }},
        {Code::controlLost, [](World& w) { control(w).param = "heddle/nobody.level.gain"; },
         [](World& w) { control(w).param = mutedPath(w); }},
        {Code::controlIdle, [](World& w) { control(w).param.clear(); },
         [](World& w) { control(w).param = mutedPath(w); }},
        {Code::leadsNowhere, [](World& w) { control(w).page = "nowhere"; },
         [](World& w) { control(w).page = "second"; }},
        {Code::conditionWrong, [](World& w) { control(w).shown = "when it rains"; },
         [](World& w) { control(w).shown = "not " + mutedPath(w); }},
        {Code::controlSmall, [](World& w) { control(w).height = 40; }, [](World& w) { control(w).height = 60; }},
        {Code::controlOutside, [](World& w) { control(w).x = 1200; }, [](World& w) { control(w).x = 100; }},
        {Code::controlsOverlap,
         [](World& w) {
             auto other = control(w);
             other.id = "other", other.x += 40;
             touch(w).plies.change(0).controls.push_back(other);
         },
         [](World& w) { touch(w).plies.change(0).controls.change(1).x += 400; }},
        {Code::pageUnreached, [](World& w) { control(w).page.clear(); }, [](World& w) { control(w).page = "second"; }},
        {Code::hardToRead, [](World& w) { control(w).look.ink = "#3A4750"; },
         [](World& w) { control(w).look.ink.clear(); }},
        {Code::surfaceSize,
         [](World& w) { touch(w), w.p.surface("probe")->device = "council-slate", w.p.surface("probe")->width = 1024; },
         [](World& w) { w.p.surface("probe")->width = 1280; }},
        {Code::pictureLost, [](World& w) { control(w).pictures.on = "lost.svg"; },
         [](World& w) { w.p.assets["lost.svg"] = svgOf("0 0 40 30"); }},
        {Code::picturesHeavy,
         [](World& w) {
             touch(w);
             auto* s = w.p.surface("probe");
             s->device = "council-slate", s->width = 1280;
             for (int i = 0; i < 6; ++i) { // 8 MB each, decoded
                 const auto name = "wide-" + std::to_string(i) + ".png";
                 w.p.assets[name] = pngHead(2000, 1000 + i);
                 auto c = control(w);
                 c.id = "p" + std::to_string(i), c.kind = "picture", c.param.clear(), c.pictures.always = name;
                 touch(w).plies.change(0).controls.push_back(c);
             }
             w.p.assets["more.png"] = pngHead(2000, 1001);
             control(w).pictures.off = "more.png";
         },
         [](World& w) { w.p.assets["more.png"] = pngHead(200, 10), w.p.assets["wide-0.png"] = pngHead(200, 10); }},
        {Code::textCut,
         [](World& w) {
             control(w).width = 90, control(w).text = "Microphones of the whole council, and their lamps, and whatever "
                                                      "else is switched from this one place here";
         },
         [](World& w) { control(w).text = "Council"; }},
        {Code::harmUnasked,
         [](World& w) { control(w).param = "heddle/chair.preamp.phantom", control(w).page = "second"; },
         [](World& w) { control(w).confirm = true; }},
        {Code::proofOld,
         [](World& w) {
             Proof proof;
             proof.space = "council", proof.when = "2026-11-29T10:00:00Z", proof.design = "0";
             w.p.proofs.push_back(proof);
         },
         [](World& w) { w.p.proofs.changeBack().design = designSum(w.p); }},
        // -- on site --
        {Code::mutesDisagree,
         [](World& w) {
             w.vitals["council-tap"].mutes["self"] = true;
             w.vitals["heddle"].mutes["council"] = false;
         },
         [](World& w) { w.vitals["heddle"].mutes["council"] = true; }},
        {Code::lineDown,
         [](World& w) { w.vitals["heddle"].lines["tel 1"] = "not registered: the server x does not answer"; },
         [](World& w) { w.vitals["heddle"].lines["tel 1"] = "on hook"; }},
        {Code::computerGone, [](World& w) { w.vitals["heddle"].lines["usb 1"] = "gone in a call"; },
         [](World& w) { w.vitals["heddle"].lines["usb 1"] = "not there"; }},
        {Code::addressShared,
         [=](World& w) {
             pair(w);
             w.found.push_back(stranger("X", "tap", "127.20.4.26"));
         },
         [](World& w) { w.found.back().address = "127.20.4.99"; }},
        {Code::wrongSubnet, [=](World& w) { w.found = {stranger("X", "tap", "192.168.1.9")}; },
         [](World& w) { w.found[0].address = "127.20.4.99"; }},
        {Code::firmware,
         [=](World& w) {
             pair(w);
             w.found[0].firmware = "0.1";
         },
         [](World& w) { w.found[0].firmware = test::models().find("tap")->firmware; }},
        {Code::lost,
         [=](World& w) {
             pair(w);
             w.lost = {"T1"};
         },
         [](World& w) { w.lost.clear(); }},
        {Code::notFound, nothing(),
         [=](World& w) {
             for (const auto& d : w.p.devices)
                 if (d.spec()->onSite())
                     w.found.push_back(stranger(("S" + d.id).c_str(), d.model.c_str(), d.address.c_str()));
         }},
        {Code::notPlanned,
         [=](World& w) { // the only planned dial has its device
             w.p.device("foyer-dial")->serial = "D1";
             w.found = {stranger("D1", "dial", "127.20.4.30"), stranger("D2", "dial", "127.20.4.77")};
         },
         [](World& w) { w.p.devices.push_back(site::plannedFrom(w.p, w.found[1], "")); }},
    };
}

} // namespace

class TestFindings : public QObject {
    Q_OBJECT
    Project demo_, quick_;

    struct Told {
        std::string place, reason, remedy;
    };
    // What is found of one code.
    std::vector<Told> toldOf(const World& w, Code code, bool acoustics) {
        std::vector<Told> told;
        if (std::string(kindOf(code).stage) == "Site") {
            auto all = site::siteFindings(w.p, w.found, site::readSubnet("127.20.4.0/24"), w.lost);
            const auto calls = site::callFindings(w.p, w.vitals);
            all.insert(all.end(), calls.begin(), calls.end());
            for (const auto& f : all)
                if (f.code == code)
                    told.push_back({f.device + f.serial, f.reason, f.remedy});
            return told;
        }
        for (const auto& f : acoustics ? check(w.p) : checkWith(w.p, {}))
            if (f.code == code)
                told.push_back({f.place, f.reason, f.remedy});
        return told;
    }

  private slots:
    void initTestCase() {
        const auto demo = test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        QVERIFY(bool(demo));
        demo_ = *demo;
        // What scenes do to their rooms and what tests of rules come to takes longest, and is no business of most.
        quick_ = demo_;
        quick_.rules.clear(), quick_.ruleTests.clear();
        for (std::size_t i = 0; i < quick_.scenes.size(); ++i)
            quick_.scenes.change(i).values.clear();
        for (const auto& f : check(demo_)) // what is left for a reason
            QVERIFY2(f.dismissed(), f.reason.c_str());
    }
    void theRegistryIsWhole() {
        std::set<std::string> ids, whats;
        for (const auto& k : findingKinds()) {
            QVERIFY2(ids.insert(k.id).second && whats.insert(k.what).second, k.id);
            QCOMPARE(&kindOf(k.code), &k);
            QVERIFY2(
                std::set<std::string>({"Survey", "Weave", "Patch", "Speakers", "Talk", "Surfaces", "Rules", "Site"})
                    .count(k.stage),
                k.id);
        }
        std::set<Code> tried;
        for (const auto& c : cases())
            QVERIFY2(tried.insert(c.code).second, kindOf(c.code).id);
        for (const auto& k : findingKinds())
            QVERIFY2(tried.count(k.code), k.id);
    }
    void eachIsProvokedAndCured_data() {
        QTest::addColumn<int>("number");
        const auto all = cases();
        for (std::size_t i = 0; i < all.size(); ++i)
            QTest::newRow(kindOf(all[i].code).id) << static_cast<int>(i);
    }
    void eachIsProvokedAndCured() {
        QFETCH(int, number);
        const Case c = cases()[static_cast<std::size_t>(number)];
        const bool ruled = c.acoustics || std::string(kindOf(c.code).stage) == "Rules";
        World w{ruled ? demo_ : quick_};
        c.provoke(w);
        const auto told = toldOf(w, c.code, c.acoustics);
        QVERIFY(!told.empty());
        for (const auto& t : told) {
            QVERIFY(!t.place.empty() && !t.reason.empty() && !t.remedy.empty());
            QVERIFY2(QString::fromStdString(t.reason).endsWith('.') && QString::fromStdString(t.remedy).endsWith('.'),
                     (t.reason + " / " + t.remedy).c_str());
        }
        c.cure(w);
        const auto after = toldOf(w, c.code, c.acoustics);
        QVERIFY2(after.empty(), after.empty() ? "" : after[0].reason.c_str());
    }
};

LOOM_TEST(tst_findings, TestFindings)
#include "tst_findings.moc"
