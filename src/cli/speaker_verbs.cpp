#include "cli/speaker_verbs.h"
#include "catalogue/catalogue.h"
#include "cli/open.h"
#include "cli/reading.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "engine/path_response.h"
#include "file/project_json.h"
#include "voicings/load_text.h"
#include "voicings/output_figures.h"
#include "voicings/voicing_edit.h"
#include "voicings/voicing_fields.h"
#include "voicings/voicing_library.h"
#include "voicings/voicing_sheet.h"
#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>

namespace loom::cli {
namespace speaker_verbs { // of this file

using namespace project;
using nlohmann::json;

constexpr std::size_t mostFile = 16u << 20;

struct Call {
    std::string file, id, field, text, out, port, wiring;
    std::vector<std::string> items, answers;
    std::vector<double> hz;
    double metres = -1, mm2 = -1, celsius = -100, from = 100, to = 10000;
    int way = 0, bells = 8;
    bool asJson = false, asCsv = false;
};

// Opens, changes, keeps.
int changed(const Call& c, const char* text, const std::function<Result<Project>(Project)>& how) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    auto then = how(*p);
    if (!then)
        return fail(then.error());
    std::vector<Edit> edits;
    for (const auto& [name, asset] : then->assets)
        if (!p->assets.count(name))
            edits.push_back(addAsset(name, asset));
    if (auto edit = editSpeakers(*p, std::move(*then), text))
        edits.push_back(std::move(edit));
    return edits.empty() ? 0 : saveEdit(*p, together(std::move(edits), text), c.file);
}

int voicings(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& v : p->voicings)
        all.push_back({{"id", v.id}, {"name", v.name}, {"ways", v.ways.size()}, {"reach", reachOf(*p, v.id)}});
    if (c.asJson)
        return say(all);
    for (const auto& v : p->voicings)
        std::printf("%-24s %s, %zu %s, %zu loudspeakers\n", v.id.c_str(), v.name.c_str(), v.ways.size(),
                    v.ways.size() == 1 ? "way" : "ways", reachOf(*p, v.id).size());
    return 0;
}

int voicing(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto* v = p->voicing(c.id);
    if (!v)
        return fail({"there is no such voicing", c.id, "loomctl voicings lists them."});
    if (c.asJson)
        return say(project::toJson(*v));
    for (int way = -1; way < static_cast<int>(v->ways.size()); ++way)
        for (const auto& f : fieldsOf(*v, way))
            if (f.number() || !f.text.empty())
                std::printf("%d %-14s %s\n", way + 1, f.id.c_str(),
                            f.number() ? (fixedText(f.value, f.digits) + " " + f.unit).c_str() : f.text.c_str());
    return 0;
}

int setVoicing(const Call& c) {
    return changed(c, "Set a voicing", [&](Project p) -> Result<Project> {
        const auto* v = p.voicing(c.id);
        if (!v)
            return Error{"there is no such voicing", c.id, "loomctl voicings lists them."};
        Voicing next = *v;
        if (auto wrong = setField(next, c.way - 1, c.field, c.text))
            return *wrong;
        return withVoicing(std::move(p), next);
    });
}

int addVoicing(const Call& c) {
    return changed(c, "Add a voicing", [&](Project p) -> Result<Project> {
        const auto s = sheetOf(c.text, c.answers);
        if (!s)
            return s.error();
        for (const auto& f : s->fields)
            if (!f.sure())
                return Error{f.question, "line " + std::to_string(f.line + 1),
                             "Answer with --answer, as loomctl sheet numbers them."};
        std::vector<std::string> over;
        auto v = voicingFrom(*s, {}, "new", &over);
        for (const auto& o : over)
            std::fprintf(stderr, "left out: %s\n", o.c_str());
        if (!c.id.empty())
            v.name = c.id;
        v.id = freeVoicingId(p, v.name);
        std::printf("%s\n", v.id.c_str());
        return withVoicing(std::move(p), v);
    });
}

int voice(const Call& c) {
    return changed(c, "Voice loudspeakers",
                   [&](Project p) { return voiced(std::move(p), c.items, c.id == "none" ? "" : c.id); });
}

int own(const Call& c) {
    return changed(c, "A voicing of its own", [&](Project p) {
        std::string made;
        auto then = withOwnVoicing(std::move(p), c.id, &made);
        std::printf("%s\n", made.c_str());
        return then;
    });
}

int hang(const Call& c) {
    return changed(c, "Hang loudspeakers", [&](Project p) -> Result<Project> {
        const auto* d = p.device(c.id);
        AmplifierOutput out;
        if (d && d->outputs.count(c.port))
            out = d->outputs.at(c.port);
        std::string text;
        for (const auto& item : c.items)
            text += (text.empty() ? "" : ", ") + item;
        auto hanging = withLoads(p, out, text);
        if (!hanging)
            return hanging.error();
        out = std::move(*hanging);
        if (!c.wiring.empty()) {
            const auto wiring = readWiring(c.wiring);
            if (!wiring)
                return wiring.error();
            out.wiring = *wiring;
        }
        if (c.metres >= 0)
            out.metres = c.metres;
        if (c.mm2 > 0)
            out.mm2 = c.mm2;
        if (c.celsius >= -50)
            out.celsius = c.celsius;
        return hung(std::move(p), c.id, c.port, out);
    });
}

int feed(const Call& c) {
    return changed(c, "Feed an input",
                   [&](Project p) { return fed(std::move(p), c.id, c.port, c.text == "none" ? "" : c.text); });
}

int loads(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& f : outputFigures(*p, drivesOf(*p))) {
        json one = {{"amplifier", f.amplifier},
                    {"output", f.port},
                    {"from", f.from},
                    {"loudspeakers", f.loudspeakers},
                    {"voicing", f.voicing},
                    {"way", f.way},
                    {"ohms", f.load.nominal},
                    {"leastOhms", f.load.minimum},
                    {"cableOhms", f.cableOhms},
                    {"lossDb", f.lossDb},
                    {"damping", f.damping},
                    {"amperes", f.amperes},
                    {"amplifierWatts", f.ampWatts},
                    {"tapWatts", f.tapWatts},
                    {"mostWatts", f.most},
                    {"neededWatts", f.needed},
                    {"headroomDb", f.headroomDb},
                    {"seatDb", f.seatDb},
                    {"runsIn", f.runsIn},
                    {"limited", f.limited}};
        if (f.protection)
            for (const auto& [key, l] : {std::pair("peak", &f.protection->peak), {"thermal", &f.protection->thermal}})
                one[key] = {{"volts", l->volts},
                            {"dbu", l->dbu},
                            {"dbfs", l->dbfs},
                            {"watts", l->watts},
                            {"reason", l->reason}};
        all.push_back(one);
        if (!c.asJson)
            std::printf(
                "%-20s %-6s %6.1f ohms, cable %.2f dB, damping %4.0f, %6.1f W each at most, headroom %5.1f dB: %s%s\n",
                f.amplifier.c_str(), f.port.c_str(), f.load.nominal, f.lossDb, f.damping, f.most, f.headroomDb,
                f.loudspeakers.c_str(), f.limited ? "" : ", not limited");
    }
    return c.asJson ? say(all) : 0;
}

int response(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto* v = p->voicing(c.id);
    if (!v)
        return fail({"there is no such voicing", c.id, "loomctl voicings lists them."});
    const auto curves = curvesOf(*p, *v, c.hz.empty() ? curveFrequencies() : c.hz);
    if (c.way < 0 || c.way > static_cast<int>(v->ways.size()))
        return fail({"it has no such way", std::to_string(c.way), "0 is their sum."});
    const auto t =
        engine::tabulate(curves.hz, c.way == 0 ? curves.sum : curves.ways[static_cast<std::size_t>(c.way - 1)]);
    for (const auto& note : curves.notes)
        std::fprintf(stderr, "%s\n", note.c_str());
    return say({{"hz", t.hz}, {"db", t.db}, {"deg", t.deg}});
}

int alignVoicing(const Call& c) {
    return changed(c, "Align ways", [&](Project p) -> Result<Project> {
        const auto* v = p.voicing(c.id);
        const auto a = v ? withAlignment(p, *v) : Result<Aligned>(Error{"there is no such voicing", c.id, ""});
        if (!a)
            return a.error();
        for (const auto& f : a->found)
            std::printf("%+.3f ms%s, %.1f dB gained\n", f.delayMs, f.inverted ? ", inverted" : "", f.gainedDb);
        return withVoicing(std::move(p), a->voicing);
    });
}

int fitVoicing(const Call& c) {
    return changed(c, "Fit bells", [&](Project p) -> Result<Project> {
        const auto* v = p.voicing(c.id);
        const auto f =
            v ? withFit(p, *v, c.from, c.to, c.bells) : Result<Fitted>(Error{"there is no such voicing", c.id, ""});
        if (!f)
            return f.error();
        std::printf("%.2f dB r.m.s. from the target before, %.2f dB with %zu bells\n", f->fit.before, f->fit.after,
                    f->fit.bells.size());
        return withVoicing(std::move(p), f->voicing);
    });
}

int addResponse(const Call& c) {
    return changed(c, "Open a response", [&](Project p) -> Result<Project> {
        const auto read = curveOf(c.text, loudspeaker::CurveUse::response, c.answers, 0);
        if (!read)
            return read.error();
        return withResponse(std::move(p), c.id, c.way - 1, std::filesystem::path(c.text).filename().string(),
                            read->curve);
    });
}

int addImpedance(const Call& c) {
    return changed(c, "Impedance curve", [&](Project p) -> Result<Project> {
        const auto read = curveOf(c.text, loudspeaker::CurveUse::impedance, c.answers, 0);
        if (!read)
            return read.error();
        return withImpedance(std::move(p), c.id, static_cast<std::size_t>(c.way - 1),
                             std::filesystem::path(c.text).filename().string(), read->curve);
    });
}

int addTaps(const Call& c) {
    return changed(c, "FIR filter", [&](Project p) -> Result<Project> {
        if (c.text == "none")
            return withTaps(std::move(p), c.id, static_cast<std::size_t>(c.way - 1), "", {});
        const auto text = readWhole(c.text, mostFile);
        if (!text)
            return text.error();
        return withTaps(std::move(p), c.id, static_cast<std::size_t>(c.way - 1),
                        std::filesystem::path(c.text).filename().string(), {text->begin(), text->end()});
    });
}

int write(const Call& c, const std::string& text) {
    const auto done = writeWhole(c.out, text, false);
    return done ? 0 : fail(done.error());
}

int voicingSheet(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto* v = p->voicing(c.id);
    if (!v)
        return fail({"there is no such voicing", c.id, "loomctl voicings lists them."});
    const auto text = c.asCsv ? sheetCsv(*v) : sheetText(*v);
    if (!c.out.empty())
        return write(c, text);
    std::fputs(text.c_str(), stdout);
    return 0;
}

int exportVoicing(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    for (const auto& id : c.items)
        if (!p->voicing(id))
            return fail({"there is no such voicing", id, "loomctl voicings lists them."});
    return write(c, voicingText(*p, c.items));
}

int importVoicing(const Call& c) {
    return changed(c, "Bring in voicings", [&](Project p) -> Result<Project> {
        const auto text = readWhole(c.text, mostFile);
        const auto read = text ? readVoicings(*text, c.text) : Result<VoicingFile>(text.error());
        if (!read)
            return read.error();
        std::vector<std::string> made;
        auto then = withVoicings(std::move(p), *read, &made);
        for (const auto& id : made)
            std::printf("%s\n", id.c_str());
        return then;
    });
}

int exportAmplifiers(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    if (c.items.size() > mostSetups)
        return fail({"a set has 100 set-ups at most", "", ""});
    for (const auto& id : c.items)
        if (const auto* d = p->device(id); !d || !d->spec() || !d->spec()->amplifier)
            return fail({"there is no such amplifier", id, ""});
    return write(c, setupText(*p, c.items));
}

int recallAmplifiers(const Call& c) {
    return changed(c, "Recall a set-up", [&](Project p) -> Result<Project> {
        const auto text = readWhole(c.text, mostFile);
        const auto read = text ? readSetups(*text, c.text) : Result<SetupFile>(text.error());
        if (!read)
            return read.error();
        if (!c.id.empty())
            return withSetup(std::move(p), c.id, *read, 0);
        std::vector<std::string> left;
        auto then = withSetups(std::move(p), *read, &left);
        for (const auto& name : left)
            std::fprintf(stderr, "no amplifier is called \"%s\"\n", name.c_str());
        return then;
    });
}

} // namespace speaker_verbs

void addSpeakerVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace speaker_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        return addVerb(app, action, call, name, does, example, go);
    };
    const auto file = [](CLI::App* v) { v->add_option("FILE", call.file, "Project file or folder")->required(); };
    const auto id = [](CLI::App* v, const char* name, const char* what) {
        v->add_option(name, call.id, what)->required();
    };
    const auto withJson = [](CLI::App* v) { v->add_flag("--json", call.asJson, "Answer as JSON"); };
    const auto answers = [](CLI::App* v) {
        v->add_option("--answer", call.answers, "FIELD=CHOICE for what is not sure, as loomctl sheet numbers them");
    };

    auto* v = verb("voicings", "The voicings of a project, and whom they reach", "loomctl voicings demo/marram-point",
                   voicings);
    file(v);
    withJson(v);
    v = verb("voicing", "All fields of a voicing", "loomctl voicing demo/marram-point oakhaven-x2", voicing);
    file(v);
    id(v, "VOICING", "Its id");
    withJson(v);
    v = verb("voicing-sheet", "A voicing as a spec sheet, which loomctl sheet reads back",
             "loomctl voicing-sheet demo/marram-point oakhaven-x2 --csv", voicingSheet);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_flag("--csv", call.asCsv, "A row a parameter, a column a way");
    v->add_option("--out", call.out, "A file instead of the terminal");
    v = verb("set-voicing", "Sets a field for all loudspeakers that have it",
             "loomctl set-voicing hall.loom oakhaven-x2 1 highpass \"55 Hz BW24\"", setVoicing);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_option("WAY", call.way, "From 1; 0: the whole")->required();
    v->add_option("FIELD", call.field, "As loomctl voicing lists them")->required();
    v->add_option("VALUE", call.text, "As in a sheet")->required();
    v = verb("add-voicing", "A voicing from a spec sheet", "loomctl add-voicing hall.loom demo/sheets/oakhaven-x2.txt",
             addVoicing);
    file(v);
    answers(v);
    v->add_option("SHEET", call.text, "A text")->required();
    v->add_option("--name", call.id, "Instead of the sheet's");
    v = verb("voice", "Gives loudspeakers a voicing", "loomctl voice hall.loom oakhaven-x2 main-l main-r", voice);
    file(v);
    id(v, "VOICING", "Its id, or none");
    v->add_option("LOUDSPEAKERS", call.items, "Ids")->required();
    v = verb("own-voicing", "A copy of its voicing for one loudspeaker", "loomctl own-voicing hall.loom main-l", own);
    file(v);
    id(v, "LOUDSPEAKER", "Its id");
    v = verb("hang", "Hangs loudspeakers on an amplifier's output",
             "loomctl hang hall.loom treadle \"out 1\" \"Main L: Low\" \"Main R: Low\" --metres 18", hang);
    file(v);
    id(v, "AMPLIFIER", "Its id");
    v->add_option("OUTPUT", call.port, "Port, such as \"out 1\"")->required();
    v->add_option("LOUDSPEAKERS", call.items,
                  "As Outputs and loads takes them: main-l, \"Main L: Low\", \"Foyer ceiling 1-10 @ 6 W\"");
    v->add_option("--wiring", call.wiring, "parallel, series, 70 V line, 100 V line, or how one of them begins");
    v->add_option("--metres", call.metres, "Length of its cable")->check(CLI::Range(0.0, 10000.0));
    v->add_option("--mm2", call.mm2, "Cross-section of a conductor")->check(CLI::Range(0.05, 100.0));
    v->add_option("--celsius", call.celsius, "Temperature of its cable")->check(CLI::Range(-50.0, 150.0));
    v = verb("feed", "Says whose sound comes to a device's input",
             "loomctl feed hall.loom treadle \"in 1\" \"heddle/out 1\"", feed);
    file(v);
    id(v, "DEVICE", "Its id");
    v->add_option("INPUT", call.port, "Port")->required();
    v->add_option("FROM", call.text, "device/port, or none")->required();
    v = verb("loads", "Every output: impedance, cable, limits, headroom, level at the seats",
             "loomctl loads demo/marram-point", loads);
    file(v);
    withJson(v);
    v = verb("voicing-response", "Complex response of a voicing, with its drivers",
             "loomctl voicing-response demo/marram-point oakhaven-x2 --way 1 --hz 100,1000", response);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_option("--way", call.way, "From 1; 0: the sum of all");
    v->add_option("--hz", call.hz, "Frequencies")->delimiter(',');
    v = verb("add-response", "A response file for a way, or as target",
             "loomctl add-response hall.loom oakhaven-x2 low.txt --way 1", addResponse);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_option("RESPONSE", call.text, "As loomctl curve reads it")->required();
    v->add_option("--way", call.way, "From 1; 0: the target");
    v->add_option("--answer", call.answers, "TOPIC=CHOICE for what loomctl curve asks");
    v = verb("add-impedance", "An impedance curve for a way",
             "loomctl add-impedance hall.loom bobbin-12 ohms.txt --way 1", addImpedance);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_option("CURVE", call.text, "As loomctl curve --as impedance reads it")->required();
    v->add_option("--answer", call.answers, "TOPIC=CHOICE for what loomctl curve asks");
    v->add_option("--way", call.way, "From 1")->required()->check(CLI::Range(1, 4));
    v = verb("add-taps", "A FIR filter for a way", "loomctl add-taps hall.loom oakhaven-x2 taps.txt --way 2", addTaps);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_option("TAPS", call.text, "Numbers or a sound file; none takes it out")->required();
    v->add_option("--way", call.way, "From 1")->required()->check(CLI::Range(1, 4));
    v = verb("align-voicing", "Delays and polarities that bring the ways together",
             "loomctl align-voicing hall.loom oakhaven-x2", alignVoicing);
    file(v);
    id(v, "VOICING", "Its id");
    v = verb("fit-voicing", "Bells that bring the sum to its target",
             "loomctl fit-voicing hall.loom bobbin-12 --from 150 --to 12000", fitVoicing);
    file(v);
    id(v, "VOICING", "Its id");
    v->add_option("--from", call.from, "Hz");
    v->add_option("--to", call.to, "Hz");
    v->add_option("--bells", call.bells, "At most");
    v = verb("export-voicing", "One or many voicings into a file",
             "loomctl export-voicing hall.loom oakhaven-x2 --out x2.json", exportVoicing);
    file(v);
    v->add_option("VOICINGS", call.items, "Ids")->required();
    v->add_option("--out", call.out, "JSON")->required();
    v = verb("import-voicing", "Voicings of a file into a project", "loomctl import-voicing hall.loom x2.json",
             importVoicing);
    file(v);
    v->add_option("VOICING", call.text, "JSON")->required();
    v = verb("export-amplifier", "Set-ups of one or up to 100 amplifiers into a file",
             "loomctl export-amplifier hall.loom treadle --out treadle.json", exportAmplifiers);
    file(v);
    v->add_option("AMPLIFIERS", call.items, "Ids")->required();
    v->add_option("--out", call.out, "JSON")->required();
    v = verb("recall-amplifier", "A set-up on one amplifier, or a set on those of the same names",
             "loomctl recall-amplifier hall.loom treadle.json treadle", recallAmplifiers);
    file(v);
    v->add_option("SETUP", call.text, "JSON")->required();
    v->add_option("AMPLIFIER", call.id, "Its id; without it, by name");
}

} // namespace loom::cli
