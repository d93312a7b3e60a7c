#include "cli/lane_verbs.h"
#include "catalogue/catalogue.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "findings/findings.h"
#include "model/block_names.h"
#include "program/links.h"
#include "program/marks.h"
#include "program/phrase.h"
#include "program/program_edit.h"
#include "program/render.h"
#include "program/routes.h"
#include "program/swatch.h"
#include "program/trace.h"
#include <CLI/CLI.hpp>
#include <sstream>

namespace loom::cli {
namespace lane_verbs { // of this file

using nlohmann::json;
using namespace loom::project;

struct Call {
    std::string file, device, path, lanes, words, name, notes, out;
    int count = 0;
    double seconds = 0;
    bool asJson = false, off = false;
};

// Lanes by id, or by name with * and ?, with commas between.
Result<std::vector<std::string>> lanesOf(const Device& d, const std::string& text) {
    std::vector<std::string> chosen;
    std::stringstream in(text);
    const BlockNames names(*d.program);
    for (std::string one; std::getline(in, one, ',');) {
        const auto before = chosen.size();
        for (const auto& b : d.program->blocks)
            if (b.id == one || (engine::endOf(b) != engine::End::none && fitsPattern(one, names.of(b))))
                chosen.push_back(b.id);
        if (chosen.size() == before)
            return Error{"there is no lane of this name", one, "loomctl info lists blocks."};
    }
    return chosen;
}

// Does something to the program of a device, with the lanes that were named, and saves the project.
template <class Do> int change(const Call& c, const char* what, const Do& make) {
    auto p = loadProject(c.file, shelf());
    auto d = processorOf(p, c.device);
    if (!d)
        return fail(d.error());
    auto lanes = lanesOf(**d, c.lanes);
    if (!lanes)
        return fail(lanes.error());
    return saveProgram(*p, c.device, make(**d, *lanes), what, c.file);
}

// DEVICE/BLOCK, both of them there.
std::pair<std::string, std::string> split(const std::string& path) {
    const auto slash = path.find('/');
    return {path.substr(0, slash), slash == std::string::npos ? "" : path.substr(slash + 1)};
}

int sayTo(const Call& c) {
    return change(c, "Say", [&](const Device& d, const auto& lanes) -> Result<engine::Program> {
        auto spoken = speak(d, withLinked(*d.program, lanes), "", c.words);
        return spoken ? Result<engine::Program>(spoken->program) : spoken.error();
    });
}

int reshape(Call c) {
    const auto dot = c.path.rfind('.');
    const auto [device, rest] = split(c.path);
    if (rest.empty() || dot == std::string::npos || dot < device.size())
        return fail({"there is no such block", c.path, "A path is DEVICE/BLOCK.COUNT, such as heddle/hall.inputs."});
    c.device = device;
    const std::string block = c.path.substr(device.size() + 1, dot - device.size() - 1), what = c.path.substr(dot + 1);
    return change(c, "Count",
                  [&](const Device& d, const auto&) { return reshapeBlock(*d.program, block, what, c.count); });
}

int align(Call c) {
    const auto [device, block] = split(c.path);
    c.device = device;
    return change(c, "Align", [&, b = block](const Device& d, const auto&) {
        return b.empty() ? alignAllLanes(*d.program, d.rate) : alignLanes(*d.program, b, d.rate);
    });
}

int link(const Call& c) {
    return change(c, "Link", [&](const Device& d, const auto& lanes) -> Result<engine::Program> {
        const auto layout = engine::layOut(*d.program);
        return c.off ? Result<engine::Program>(unlinkLanes(layout, *d.program, lanes))
                     : linkLanes(layout, *d.program, lanes, c.name.empty() ? "link" : c.name);
    });
}

int look(const Call& c) {
    return change(c, "Look", [&](const Device& d, const auto& lanes) -> Result<engine::Program> {
        if (lanes.empty())
            return Error{"no lanes were named", "--lanes", "Name them by id or name, with commas."};
        if (c.name == "group")
            return groupLanes(*d.program, lanes, c.words);
        if (c.name == "fold" || c.name == "open")
            return foldGroups(*d.program, lanes, c.name == "fold");
        if (c.name == "up" || c.name == "down")
            return moveLanes(engine::layOut(*d.program), *d.program, lanes, c.name == "up" ? -1 : 1);
        if (c.name == "colour")
            return withMark(*d.program, lanes, "colour", c.words);
        return Error{"there is no such look", c.name, "Use colour, group, fold, open, up or down."};
    });
}

int swap(Call c) {
    const auto [device, block] = split(c.path);
    c.device = device;
    return change(c, "Swap", [&, b = block](const Device& d, const auto&) -> Result<engine::Program> {
        auto swapped = swapBlock(*d.program, b, c.name);
        if (!swapped)
            return swapped.error();
        for (const auto& lost : swapped->lost)
            std::cerr << "loomctl: without a place in the new block: " << lost << "\n";
        return swapped->program;
    });
}

int leaveOwn(Call c) {
    const auto [device, block] = split(c.path);
    c.device = device;
    return change(c, "Mix-minus", [b = block](const Device& d, const auto&) -> Result<engine::Program> {
        auto m = mixMinus(*d.program, b, -1);
        return m ? Result<engine::Program>(m->program) : m.error();
    });
}

int traceFrom(const Call& c) {
    const auto [device, block] = split(c.path);
    auto p = loadProject(c.file, shelf());
    auto d = processorOf(p, device);
    if (!d)
        return fail(d.error());
    if (!(*d)->program->find(block))
        return fail({"there is no such block", c.path, "loomctl info FILE lists blocks."});
    std::map<engine::PortRef, double> levels;
    LevelAt at;
    if (c.seconds > 0) { // with the sound that stands in for the inputs
        auto heard = levelsOf(*p, **d, std::min(c.seconds, 600.0));
        if (!heard)
            return fail(heard.error());
        levels = std::move(*heard);
        at = [&](const engine::PortRef& port) {
            const auto it = levels.find(port);
            return it == levels.end() ? std::nullopt : std::optional(it->second);
        };
    }
    const auto t = trace(*(*d)->program, block, at);
    json j = {{"answer", t.text()}, {"lost", t.lostAt >= 0}, {"steps", json::array()}};
    for (const auto& s : t.steps) {
        json step = {{"block", s.at.block}, {"port", s.at.port}, {"name", s.name}};
        if (s.db)
            step["peakDb"] = *s.db;
        if (!s.lost.empty())
            step["lost"] = s.lost;
        j["steps"].push_back(step);
    }
    if (!c.asJson)
        std::cout << t.text() << "\n";
    return c.asJson ? (say(j), t.lostAt >= 0) : t.lostAt >= 0;
}

int listSwatches(const Call& c) {
    std::vector<Error> errors;
    json j = json::array();
    for (const auto& e : library(&errors)) {
        j.push_back({{"name", e.swatch.name},
                     {"notes", e.swatch.notes},
                     {"chain", e.swatch.chain()},
                     {"blocks", e.swatch.piece.blocks.size()},
                     {"own", e.own},
                     {"file", e.path}});
        if (!c.asJson)
            std::cout << e.swatch.name << (e.own ? "  (own)" : "") << "\n    " << e.swatch.notes << "\n";
    }
    for (const auto& t : errors)
        std::cerr << "loomctl: " << t.text() << "\n";
    return c.asJson ? say(j) : 0;
}

int keep(const Call& c) {
    auto p = loadProject(c.file, shelf());
    auto d = processorOf(p, c.device);
    if (!d)
        return fail(d.error());
    auto lanes = lanesOf(**d, c.lanes);
    if (!lanes)
        return fail(lanes.error());
    auto swatch = makeSwatch(engine::layOut(*(*d)->program), *(*d)->program, *lanes, "", c.name, c.notes);
    if (!swatch)
        return fail(swatch.error());
    if (!c.out.empty()) {
        auto done = writeWhole(c.out, swatchText(*swatch), false);
        return done ? 0 : fail(done.error());
    }
    auto kept = keepSwatch(*swatch, false);
    if (!kept)
        return fail(kept.error());
    std::cout << *kept << "\n";
    return 0;
}

int insert(const Call& c) {
    Result<Swatch> swatch = Error{"there is no swatch of this name", c.name, "loomctl swatches lists them."};
    if (c.name.ends_with(".json")) {
        auto text = readWhole(c.name, 4 << 20);
        swatch = text ? readSwatch(*text, c.name) : Result<Swatch>(text.error());
    } else {
        for (auto& e : library())
            if (fitsPattern(c.name, e.swatch.name))
                swatch = std::move(e.swatch);
    }
    if (!swatch)
        return fail(swatch.error());
    return change(c, "Insert a swatch", [&](const Device& d, const auto& lanes) -> Result<engine::Program> {
        auto in = insertSwatch(d, withLinked(*d.program, lanes), "", *swatch);
        if (!in)
            return in.error();
        if (!in->leftOut.empty())
            std::cerr << "loomctl: " << in->leftOut << "\n";
        return in->program;
    });
}

int leave(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto [device, block] = split(c.path);
    for (const auto& f : check(*p))
        if (f.id() == c.name && f.device == device && f.block == block)
            return saveEdit(*p, leaveFinding({c.name, device, block, c.words}), c.file);
    return fail({"there is no such finding there", c.path + " " + c.name, "loomctl check FILE --json lists them."});
}

} // namespace lane_verbs

void addLaneVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace lane_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        return addVerb(app, action, call, name, does, example, go);
    };
    const auto file = [](CLI::App* v) { v->add_option("FILE", call.file, "Project file or folder")->required(); };
    const auto device = [](CLI::App* v) { v->add_option("DEVICE", call.device, "Device id")->required(); };
    const auto path = [](CLI::App* v, const char* what) { v->add_option("PATH", call.path, what)->required(); };
    const auto lanes = [](CLI::App* v) {
        v->add_option("--lanes", call.lanes, "By id or name, with commas; * stands for any letters");
    };
    const auto withJson = [](CLI::App* v) { v->add_flag("--json", call.asJson, "Answer as JSON"); };

    auto* v = verb("shape", "Gives a block another count of channels, lanes, bands ...",
                   "loomctl shape hall.loom heddle/hall.inputs 14", [](const Call& c) { return reshape(c); });
    file(v);
    path(v, "DEVICE/BLOCK.COUNT");
    v->add_option("NUMBER", call.count, "How many")->required();

    v = verb("align", "Holds early lanes back where lanes meet: at one block, or wherever one sound comes together",
             "loomctl align hall.loom heddle/hall", [](const Call& c) { return align(c); });
    file(v);
    path(v, "DEVICE or DEVICE/BLOCK");

    v = verb("say", "What is typed in Weave: blocks with values for lanes, new lanes, routes",
             "loomctl say hall.loom heddle --lanes \"delegate*\" \"highpass 90 eq 3k1 +3\"", sayTo);
    file(v);
    device(v);
    v->add_option("PHRASE", call.words, "highpass 90 eq 3k1 +3; source Delegate x8; > ceiling* -6")->required();
    lanes(v);

    v = verb("link", "Links lanes, so that what is said to one goes to all",
             "loomctl link hall.loom heddle --lanes \"delegate*\" --name Delegates", link);
    file(v);
    device(v);
    lanes(v);
    v->add_option("--name", call.name, "Of the link");
    v->add_flag("--off", call.off, "Unlinks them");

    v = verb("look", "Colour, group, folding and order of lanes",
             "loomctl look hall.loom heddle group Delegates --lanes \"delegate*\"", look);
    file(v);
    device(v);
    v->add_option("WHAT", call.name, "colour, group, fold, open, up or down")->required();
    v->add_option("VALUE", call.words, "A thread's colour, or the name of the group; none takes it away");
    lanes(v);

    v = verb("swap", "Another block in the place of one; what fits stays",
             "loomctl swap hall.loom heddle/chair.highpass lowpass", [](const Call& c) { return swap(c); });
    file(v);
    path(v, "DEVICE/BLOCK");
    v->add_option("KIND", call.name, "Block kind")->required();

    v = verb("mix-minus", "Opens all crossings of a matrix to each far end but that of its own sound",
             "loomctl mix-minus hall.loom heddle/hall", [](const Call& c) { return leaveOwn(c); });
    file(v);
    path(v, "DEVICE/MATRIX");

    v = verb("trace", "Where the sound of a destination comes from, or is lost; exit 1 if it is",
             "loomctl trace demo/marram-point heddle/loop --hear 3", traceFrom);
    file(v);
    path(v, "DEVICE/DESTINATION");
    withJson(v);
    v->add_option("--hear", call.seconds, "Seconds to run first, for levels along the way");

    v = verb("swatches", "The library: swatches that ship, and your own", "loomctl swatches", listSwatches);
    withJson(v);

    v = verb("keep-swatch", "Keeps the chain of a lane, or several lanes, as a swatch",
             "loomctl keep-swatch hall.loom heddle \"Our gooseneck\" --lanes chair", keep);
    file(v);
    device(v);
    v->add_option("NAME", call.name, "What it is called")->required();
    lanes(v);
    v->add_option("--notes", call.notes, "For whoever uses it");
    v->add_option("--out", call.out, "Into this file instead of your library");

    v = verb("rename-swatch", "Renames a swatch of your library",
             "loomctl rename-swatch \"Our gooseneck\" \"Long gooseneck\"", [](const Call& c) {
                 const auto done = renameSwatch(c.name, c.words);
                 return done ? (std::cout << *done << "\n", 0) : fail(done.error());
             });
    v->add_option("NAME", call.name, "As it is called now")->required();
    v->add_option("NEW", call.words, "As it is to be called")->required();

    v = verb("remove-swatch", "Takes a swatch out of your library, into the folder \"removed\" there",
             "loomctl remove-swatch \"Our gooseneck\"", [](const Call& c) {
                 const auto done = removeSwatch(c.name);
                 return done ? (std::cout << *done << "\n", 0) : fail(done.error());
             });
    v->add_option("NAME", call.name, "What it is called")->required();

    v = verb("insert-swatch", "Inserts a swatch", "loomctl insert-swatch hall.loom heddle Gooseneck --lanes chair",
             insert);
    file(v);
    device(v);
    v->add_option("NAME", call.name, "Of the library, or a .json file")->required();
    lanes(v);

    v = verb("leave", "Leaves a finding as it is, for a reason that is kept; without one it is taken up again",
             "loomctl leave hall.loom heddle/spare goes-nowhere \"for the next phase\"", leave);
    file(v);
    path(v, "DEVICE or DEVICE/BLOCK");
    v->add_option("CODE", call.name, "The finding's code")->required();
    v->add_option("BECAUSE", call.words, "Why");
}

} // namespace loom::cli
