#include "cli/verbs.h"
#include "catalogue/catalogue.h"
#include "cli/access_verb.h"
#include "cli/block_page.h"
#include "cli/format_verbs.h"
#include "cli/lane_verbs.h"
#include "cli/live_verbs.h"
#include "cli/open.h"
#include "cli/outside_verbs.h"
#include "cli/reading.h"
#include "cli/room_verbs.h"
#include "cli/rule_verbs.h"
#include "cli/send_verb.h"
#include "cli/serve_verb.h"
#include "cli/shelf.h"
#include "cli/site_verbs.h"
#include "cli/speaker_verbs.h"
#include "cli/streams.h"
#include "cli/surface_verbs.h"
#include "cli/talk_verbs.h"
#include "dsp/number.h"
#include "engine/latency.h"
#include "engine/path_response.h"
#include "engine/schedule.h"
#include "engine/solo.h"
#include "file/project_json.h"
#include "findings/findings.h"
#include "model/block_names.h"
#include "model/notes.h"
#include "program/load.h"
#include "program/ports.h"
#include "program/render.h"
#include "voicings/voicing_edit.h"
#include <CLI/CLI.hpp>
#include <filesystem>
#include <iostream>

namespace loom::cli {
namespace common_verbs { // of this file

using nlohmann::json;
using namespace loom::project;
using engine::BlockView;

json paramJson(const engine::ParamSpec& s) {
    static const char* units[] = {"", "dB", "Hz", "ms", "Q", "\u00b0C", "choice", "on/off", "s", ":1"};
    json j = {{"id", s.id},
              {"label", s.label},
              {"unit", units[static_cast<int>(s.unit)]},
              {"min", s.min},
              {"max", s.max},
              {"step", s.step},
              {"default", s.def},
              {"taper", s.taper == engine::Taper::linear ? "linear" : "logarithmic"}};
    if (!s.choices.empty())
        j["choices"] = s.choices;
    return j;
}

json kindJson(const engine::BlockKind& k) {
    const BlockView view(engine::Block{"x", k.id, ""});
    const auto cost = k.cost(view.shape, 48000);
    json j = {{"kind", k.id},
              {"label", k.label},
              {"purpose", k.purpose},
              {"inputs", view.inputs()},
              {"outputs", view.outputs()},
              {"cost", {{"workNsPerSample", cost.work}, {"memoryBytes", cost.memoryBytes}}}};
    j["shape"] = json::array();
    j["parameters"] = json::array();
    for (const auto& s : k.shape)
        j["shape"].push_back({{"id", s.id}, {"label", s.label}, {"default", s.def}, {"min", s.min}, {"max", s.max}});
    for (const auto& s : view.table->specs())
        j["parameters"].push_back(paramJson(s));
    return j;
}

int blocks(const std::string& kind, bool asJson) {
    if (!kind.empty() && !engine::findKind(kind))
        return fail({"there is no block kind \"" + kind + "\"", "", "loomctl blocks lists them all."});
    json all = json::array();
    for (const auto& k : engine::blockKinds())
        if (kind.empty() || k.id == kind)
            all.push_back(kindJson(k));
    if (asJson)
        return say(all);
    for (const auto& k : all) {
        std::cout << k["kind"].get<std::string>() << "  " << k["purpose"].get<std::string>() << "\n";
        if (!kind.empty())
            for (const auto& p : k["parameters"])
                std::cout << "  " << p["id"].get<std::string>() << "  " << p["label"].get<std::string>() << "  "
                          << p["min"] << " to " << p["max"] << " " << p["unit"].get<std::string>() << ", "
                          << p["default"] << "\n";
    }
    return 0;
}

Result<std::vector<double>> frequencies(const std::string& text) {
    std::vector<double> hz;
    std::stringstream in(text);
    const auto spec = engine::frequencyParam("hz", "a frequency", 1000, 0.001, 96000);
    for (std::string one; std::getline(in, one, ',');) {
        auto v = engine::parseValue(spec, one);
        if (!v)
            return v.error();
        hz.push_back(*v);
    }
    if (hz.empty() || hz.size() > 100000)
        return Error{"no frequencies (or more than 100,000)", "--hz", "Give some, such as --hz 100,1k,10k."};
    return hz;
}

int sayResponse(const std::vector<double>& hz, const std::vector<dsp::Complex>& h) {
    const auto t = engine::tabulate(hz, h);
    return say({{"hz", t.hz}, {"db", t.db}, {"deg", t.deg}});
}

struct BlockCall {
    std::string kind, hz, in, out;
    std::vector<std::string> settings;
    double rate = 48000;
};

Result<engine::Block> blockFromSettings(const BlockCall& c) {
    const auto* kind = engine::findKind(c.kind);
    if (!kind)
        return Error{"there is no block kind \"" + c.kind + "\"", "", "loomctl blocks lists them all."};
    engine::Block b{"block", c.kind, ""};
    for (const auto& s : c.settings) {
        const auto equals = s.find('=');
        const std::string id = s.substr(0, equals), text = equals == std::string::npos ? "" : s.substr(equals + 1);
        const auto isShape = [&](const auto& spec) { return spec.id == id; };
        if (std::any_of(kind->shape.begin(), kind->shape.end(), isShape)) {
            const auto count = wholeInteger(text, 0, 4096);
            if (!count)
                return Error{"\"" + text.substr(0, 40) + "\" is no count", id, "Give a whole number up to 4096."};
            b.shape[id] = *count;
            continue;
        }
        const auto& table = engine::paramTable(*kind, engine::fullShape(*kind, b));
        const int i = table.indexOf(id);
        if (i < 0)
            return Error{"has no parameter \"" + id + "\"", c.kind, "loomctl blocks " + c.kind + " lists them."};
        const auto values = table.parse(i, text);
        if (!values)
            return values.error();
        for (const auto& [param, v] : *values)
            engine::enterValue(b, param, v);
    }
    return b;
}

int blockThroughWav(const BlockCall& c, const engine::Block& b) {
    dsp::AudioClip in, out;
    std::string error;
    const bool shows = !engine::findKind(b.kind)->readouts.empty();
    if (c.in.empty() || (c.out.empty() && !shows))
        return fail({"audio needs both --in WAV and --out WAV", "", "A block that measures needs --in only."});
    if (!dsp::readClip(c.in, c.rate, in, error))
        return fail({error, "", ""});
    engine::Solo solo(b, c.rate);
    const BlockView& view = solo.view();
    std::vector<std::vector<float>> ins(view.inputs(), std::vector<float>(engine::maxFrame)),
        outs(view.outputs(), std::vector<float>(engine::maxFrame));
    std::vector<const float*> inPointers(ins.size());
    std::vector<float*> outPointers(outs.size());
    for (std::size_t i = 0; i < ins.size(); ++i)
        inPointers[i] = ins[i].data();
    for (std::size_t i = 0; i < outs.size(); ++i)
        outPointers[i] = outs[i].data();
    out.rate = c.rate;
    out.channels.resize(view.outputs());
    for (std::size_t at = 0; at < in.frames(); at += engine::maxFrame) {
        const auto n = std::min<std::size_t>(engine::maxFrame, in.frames() - at);
        for (std::size_t i = 0; i < ins.size() && i < in.channels.size(); ++i)
            std::copy_n(in.channels[i].begin() + static_cast<std::ptrdiff_t>(at), n, ins[i].begin());
        solo.run(inPointers, outPointers, static_cast<int>(n));
        for (std::size_t o = 0; o < outs.size(); ++o)
            out.channels[o].insert(out.channels[o].end(), outs[o].begin(),
                                   outs[o].begin() + static_cast<std::ptrdiff_t>(n));
    }
    if (!c.out.empty() && !dsp::writeWav(c.out, out, error))
        return fail({error, "", ""});
    json shown; // what the block has to show at the end
    for (std::size_t i = 0; i < view.kind->readouts.size(); ++i)
        shown[view.kind->readouts[i].id] = solo.kernel().readout(static_cast<int>(i));
    return view.kind->readouts.empty() ? 0 : say(shown);
}

int block(const BlockCall& c) {
    auto b = blockFromSettings(c);
    if (!b)
        return fail(b.error());
    if (!(c.rate >= 8000 && c.rate <= 192000))
        return fail({"a rate must lie between 8000 and 192000 Hz", "--rate", ""});
    if (c.hz.empty())
        return blockThroughWav(c, *b);
    auto hz = frequencies(c.hz);
    if (!hz)
        return fail(hz.error());
    const BlockView view(*b);
    if (!view.kind->response)
        return fail({"makes sound itself; it has no response", c.kind, ""});
    std::vector<dsp::Complex> h;
    for (const double f : *hz)
        h.push_back(view.response(0, 0, f, c.rate));
    return sayResponse(*hz, h);
}

int info(const std::string& file, bool asJson) {
    auto p = loadProject(file, shelf());
    if (!p)
        return fail(p.error());
    json j = {{"name", p->name}, {"rooms", json::array()}, {"devices", json::array()}, {"assets", json::array()}};
    for (const auto& b : p->buildings)
        for (const auto& r : b.rooms)
            j["rooms"].push_back({{"id", r.id}, {"name", r.name}, {"building", b.name}});
    for (const auto& d : p->devices) {
        json device = {{"id", d.id}, {"name", d.name}, {"model", d.model}, {"room", d.room}, {"address", d.address}};
        if (d.program) {
            const Load load = loadOf(d);
            device["rate"] = d.rate;
            device["revision"] = d.program->revision;
            device["workPercent"] = load.workBudget > 0 ? 100 * load.work / load.workBudget : 0;
            device["threads"] = d.program->connections.size();
            device["latencySamples"] = engine::longestLatency(*d.program, d.rate);
            const BlockNames names(*d.program);
            for (const auto& b : d.program->blocks)
                device["blocks"].push_back({{"id", b.id},
                                            {"kind", b.kind},
                                            {"name", names.of(b)},
                                            {"port", b.texts.count("port") ? b.texts.at("port") : ""}});
        }
        j["devices"].push_back(device);
    }
    for (const auto& [name, bytes] : p->assets)
        j["assets"].push_back({{"name", name}, {"bytes", bytes.size()}});
    if (asJson)
        return say(j);
    std::cout << p->name << "\n";
    for (const auto& r : j["rooms"])
        std::cout << "room    " << r["id"].get<std::string>() << "  " << r["name"].get<std::string>() << "\n";
    for (const auto& d : j["devices"]) {
        std::cout << "device  " << d["id"].get<std::string>() << "  " << d["name"].get<std::string>() << "\n";
        for (const auto& b : d.value("blocks", json::array()))
            std::cout << "  block " << b["id"].get<std::string>() << "  " << b["name"].get<std::string>() << "  "
                      << b["port"].get<std::string>() << "\n";
    }
    return 0;
}

int checkFile(const std::string& file, bool asJson) {
    auto p = loadProject(file, shelf());
    if (!p)
        return fail(p.error());
    json all = json::array();
    bool fix = false;
    for (const auto& f : check(*p)) {
        const bool must = f.severity() == Severity::fix;
        fix = fix || (must && !f.dismissed());
        all.push_back({{"code", f.id()},
                       {"severity", must ? "fix" : "note"},
                       {"device", f.device},
                       {"block", f.block},
                       {"place", f.place},
                       {"reason", f.reason},
                       {"remedy", f.remedy},
                       {"left", f.because}});
        if (!asJson && f.dismissed())
            std::cout << "left  " << f.place << ": " << f.reason << " (" << f.because << ")\n";
        else if (!asJson)
            std::cout << (must ? "fix   " : "note  ") << f.place << ": " << f.reason << " " << f.remedy << "\n";
    }
    if (asJson)
        say(all);
    else if (all.empty())
        std::cout << "no findings\n";
    return fix ? 1 : 0;
}

int getOrSet(const std::string& file, const std::string& path, const std::string& value, bool set, bool asJson) {
    auto p = loadProject(file, shelf());
    if (!p)
        return fail(p.error());
    const auto place = findTarget(*p, path);
    if (!place)
        return streamValue(*p, file, path, value, set, asJson);
    const BlockView view(*place->block);
    const auto& spec = view.table->specs()[view.table->indexOf(place->param)];
    double now = view.look()[place->param];
    if (set) {
        const auto values = view.table->parse(view.table->indexOf(place->param), value);
        if (!values)
            return fail({values.error().message, path, values.error().remedy});
        History history(*p);
        const std::string at = path.substr(0, path.size() - place->param.size());
        for (const auto& [param, v] : *values)
            if (auto done = runEdit(history, setValue(*p, at + param, v)); !done)
                return fail(done.error());
        if (auto saved = saveProject(*p, file); !saved)
            return fail(saved.error());
        now = values->front().second;
    }
    if (asJson)
        return say({{"path", path}, {"value", now}, {"text", engine::formatValue(spec, now)}});
    std::cout << engine::formatValue(spec, now) << "\n";
    return 0;
}

// The block, and the parameter if the path goes on to one, of "DEVICE/BLOCK" or "DEVICE/BLOCK.PARAMETER".
std::optional<ParamTarget> blockOrValue(const Project& p, const std::string& path) {
    const auto slash = path.find('/');
    const auto* d = slash == std::string::npos ? nullptr : p.device(path.substr(0, slash));
    if (const auto* b = d && d->program ? d->program->find(path.substr(slash + 1)) : nullptr)
        return ParamTarget{d, b, ""};
    return findTarget(p, path);
}

// Says what is noted and protected there; or sets it first.
int remark(const std::string& file, const std::string& path, const std::optional<std::string>& note,
           const std::optional<std::string>& reason, bool asJson) {
    auto p = loadProject(file, shelf());
    if (!p)
        return fail(p.error());
    const auto at = blockOrValue(*p, path);
    if (!at)
        return fail({"there is no such block or parameter", path,
                     "A path is DEVICE/BLOCK or DEVICE/BLOCK.PARAMETER; loomctl info lists devices and blocks."});
    engine::Block shown = *at->block;
    if (note || reason) {
        const std::string device = at->device->id, block = at->block->id, param = at->param;
        Result<engine::Program> program = *at->device->program;
        if (note)
            program = withNote(*program, block, param, *note);
        if (reason && program)
            program = withProtection(*program, block, param, *reason);
        if (program)
            shown = *program->find(block);
        if (const int failed = saveProgram(*p, device, program, "Note", file))
            return failed;
    }
    const std::string noted = noteOf(shown, at->param), why = protectionOf(shown, at->param);
    if (asJson)
        return say({{"path", path}, {"note", noted}, {"protected", why}});
    std::cout << (noted.empty() ? "no note" : noted) << "\n" << (why.empty() ? "" : "protected: " + why + "\n");
    return 0;
}

// "usb 1" or a block id, with an optional ":port" from 0.
std::optional<engine::PortRef> findPort(const engine::Program& p, std::string text) {
    int port = 0;
    if (const auto colon = text.rfind(':'); colon != std::string::npos) {
        port = wholeInteger(std::string_view(text).substr(colon + 1), 0, 4096).value_or(-1);
        text.resize(colon);
    }
    for (const auto& b : p.blocks)
        if (b.id == text)
            return engine::PortRef{b.id, port};
    return {};
}

std::optional<engine::PortRef> findEnd(const engine::Program& p, const std::string& text, engine::End end) {
    for (const auto& b : p.blocks)
        if (engine::endOf(b) == end && b.texts.count("port") && b.texts.at("port") == text)
            return engine::PortRef{b.id, 0};
    return findPort(p, text);
}

struct DeviceCall {
    std::string file, device, from, to, hz;
    std::vector<std::string> ins, outs, records;
    double seconds = 0;
};

int response(const DeviceCall& c) {
    auto p = loadProject(c.file, shelf());
    auto found = processorOf(p, c.device);
    if (!found)
        return fail(found.error());
    const Device* d = *found;
    const auto from = findEnd(*d->program, c.from, engine::End::arrives),
               to = findEnd(*d->program, c.to, engine::End::leaves);
    if (!from || !to)
        return fail({"there is no such port or block", from ? c.to : c.from,
                     "Use a port such as \"in 1\" or a block id such as \"chair.eq\"."});
    auto hz = frequencies(c.hz);
    if (!hz)
        return fail(hz.error());
    auto h = engine::pathResponse(*d->program, *from, *to, *hz, d->rate, resourcesOf(*p, *d, false));
    return h ? sayResponse(*hz, *h) : fail(h.error());
}

int renderFile(const DeviceCall& c) {
    auto p = loadProject(c.file, shelf());
    auto found = processorOf(p, c.device);
    if (!found)
        return fail(found.error());
    const Device* d = *found;
    std::vector<RenderInput> inputs;
    double seconds = c.seconds;
    for (const auto& text : c.ins) {
        const auto equals = text.find('=');
        if (equals == std::string::npos)
            return fail({"must be PORT=WAV or PORT=WAV:channel", "--in " + text, ""});
        std::string file = text.substr(equals + 1);
        std::size_t channel = 0;
        if (const auto colon = file.rfind(':'); colon != std::string::npos && colon + 1 < file.size() &&
                                                file.find_first_not_of("0123456789", colon + 1) == std::string::npos) {
            channel =
                static_cast<std::size_t>(wholeInteger(std::string_view(file).substr(colon + 1), 1, 4096).value_or(0)) -
                1;
            file.resize(colon);
        }
        auto clip = std::make_shared<dsp::AudioClip>();
        std::string error;
        if (!dsp::readClip(file, d->rate, *clip, error))
            return fail({error, "", ""});
        if (channel >= clip->channels.size())
            return fail({"has no channel " + std::to_string(channel + 1), file, "Channels count from 1."});
        clip->channels = {clip->channels[channel]};
        if (c.seconds == 0)
            seconds = std::max(seconds, static_cast<double>(clip->frames()) / d->rate);
        inputs.push_back({text.substr(0, equals), clip});
    }
    if (!(seconds > 0 && seconds <= 3600))
        return fail({"the length must lie between 0 and 3600 s", "--seconds", "Give --seconds, or an --in."});
    std::vector<std::string> ports, files;
    for (const auto& text : c.outs) {
        const auto equals = text.find('=');
        if (equals == std::string::npos)
            return fail({"must be PORT=WAV", "--out " + text, ""});
        ports.push_back(text.substr(0, equals));
        files.push_back(text.substr(equals + 1));
    }
    Device run = *d;
    std::map<std::string, std::string> tapeFiles;
    for (const auto& text : c.records) {
        const auto equals = text.find('=');
        const std::string id = text.substr(0, equals);
        auto* b = run.program->find(id);
        if (equals == std::string::npos || !b || b->kind != "recorder")
            return fail({"must be BLOCK=WAV, where BLOCK is a File recorder", "--record " + text,
                         "loomctl info FILE lists blocks."});
        tapeFiles[id] = text.substr(equals + 1);
        b->values["record"] = 1;
    }
    // only what was asked for writes a file
    run.program->blocks.changeIf([&](const auto& b) { return b.kind == "recorder" && !tapeFiles.count(b.id); },
                                 [](auto& b) { b.values.erase("record"); });
    Tapes tapes([&](const engine::Block& b) { return tapeFiles.at(b.id); });
    auto sound = render(*p, run, inputs, ports, seconds, &tapes);
    if (!sound)
        return fail(sound.error());
    for (const auto& tape : tapes.finish())
        if (!tape)
            return fail(tape.error());
    for (std::size_t i = 0; i < files.size(); ++i) {
        std::string error;
        if (!dsp::writeWav(files[i], {d->rate, {(*sound)[i]}}, error))
            return fail({error, "", ""});
    }
    return 0;
}

int copyProject(const std::string& from, std::string to, bool toFolder) {
    auto p = loadProject(from, shelf());
    if (!p)
        return fail(p.error());
    if (toFolder && !to.ends_with('/'))
        to += '/';
    auto saved = saveProject(*p, to);
    return saved ? 0 : fail(saved.error());
}

} // namespace common_verbs

void addVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace common_verbs;
    // The options live as long as the program; each verb fills its own.
    static std::string file, kind, path, value, target;
    static bool asJson = false, asPage = false;
    static BlockCall one;
    static DeviceCall call;
    app.add_flag("--anyway", anyway, "Changes what is protected, too");
    const auto verb = [&](const char* name, const char* does, const char* example) {
        auto* v = app.add_subcommand(name, does);
        v->footer(std::string("Example: ") + example);
        return v;
    };
    const auto projectVerb = [&](const char* name, const char* does, const char* example) {
        auto* v = verb(name, does, example);
        v->add_option("FILE", file, "Project file or folder")->required();
        return v;
    };
    const auto withJson = [&](CLI::App* v) { v->add_flag("--json", asJson, "Answer as JSON"); };

    auto* v = projectVerb("info", "What is in the project", "loomctl info demo/marram-point --json");
    withJson(v);
    v->callback([&] { action = [] { return info(file, asJson); }; });

    v = projectVerb("check", "Findings; exit 1 if any must be fixed", "loomctl check demo/marram-point");
    withJson(v);
    v->callback([&] { action = [] { return checkFile(file, asJson); }; });

    v = verb("findings", "Everything that can be found wrong, as a table", "loomctl findings");
    v->callback([&] {
        action = [] {
            std::printf("| finding | code | where | |\n|---|---|---|---|\n");
            for (const auto& k : findingKinds())
                std::printf("| %s | `%s` | %s | %s |\n", k.what, k.id, k.stage,
                            k.severity == Severity::fix ? "fix" : "note");
            return 0;
        };
    });

    v = verb("blocks", "Block kinds with ports, parameters and cost", "loomctl blocks eq --json");
    v->add_option("KIND", kind, "One kind only");
    v->add_option("--pictures", target, "Writes their pictures into a folder");
    v->add_flag("--page", asPage, "As the page docs/blocks.md");
    withJson(v);
    v->callback([&] {
        action = [] { return !target.empty() ? blockDrawings(target) : asPage ? blocksPage() : blocks(kind, asJson); };
    });

    v = verb("block", "One block alone: response, or audio through it",
             "loomctl block eq 1.gain=6 1.on=on --rate 48000 --hz 100,1k,10k");
    v->add_option("KIND", one.kind, "Block kind")->required();
    v->add_option("settings", one.settings, "param=value or shape=number");
    v->add_option("--rate", one.rate, "Sample rate in Hz");
    v->add_option("--hz", one.hz, "Frequencies, with commas");
    v->add_option("--in", one.in, "Sound file in");
    v->add_option("--out", one.out, "WAV file out");
    withJson(v);
    v->callback([&] { action = [] { return block(one); }; });

    v = verb("new", "A project with one processor and an empty program", "loomctl new hall.loom heddle-16");
    v->add_option("FILE", file, "Where it is saved")->required();
    v->add_option("MODEL", kind, "Model of the catalogue")->required();
    v->callback([&] {
        action = [] {
            auto p = newProject(kind, shelf());
            if (!p)
                return fail(p.error());
            if (std::filesystem::exists(file))
                return fail({"is there already", file, "Choose another name."});
            auto saved = saveProject(*p, file);
            return saved ? 0 : fail(saved.error());
        };
    });

    v = verb("response", "Response of a path as it is set",
             "loomctl response demo/marram-point --device heddle --from \"in 1\" --to \"out 1\" --hz 100,1k");
    v->add_option("FILE", call.file, "Project file or folder")->required();
    v->add_option("--device", call.device, "Device id")->required();
    v->add_option("--from", call.from, "Input port, or block[:port]")->required();
    v->add_option("--to", call.to, "Output port, or block[:port]")->required();
    v->add_option("--hz", call.hz, "Frequencies, with commas")->required();
    withJson(v);
    v->callback([&] { action = [] { return response(call); }; });

    v = verb("render", "Audio through a program",
             "loomctl render demo/marram-point --device heddle --in \"in 1=talk.wav\" --out \"out 1=zone.wav\"");
    v->add_option("FILE", call.file, "Project file or folder")->required();
    v->add_option("--device", call.device, "Device id")->required();
    v->add_option("--in", call.ins, "PORT=WAV[:channel]");
    v->add_option("--out", call.outs, "PORT=WAV");
    v->add_option("--record", call.records, "BLOCK=WAV: what a File recorder block gathers");
    v->add_option("--seconds", call.seconds, "Length; as long as the longest input if not given");
    v->callback([&] { action = [] { return renderFile(call); }; });

    v = projectVerb("get", "One parameter", "loomctl get demo/marram-point heddle/delegate-3.eq.2.gain");
    v->add_option("PATH", path, "DEVICE/BLOCK.PARAMETER")->required();
    withJson(v);
    v->callback([&] { action = [] { return getOrSet(file, path, "", false, asJson); }; });

    v = projectVerb("set", "Sets one parameter and saves",
                    "loomctl set hall.loom heddle/delegate-3.eq.2.gain \"-3 dB\"");
    v->add_option("PATH", path, "DEVICE/BLOCK.PARAMETER")->required();
    v->add_option("VALUE", value, "As people type it: 3k1, -6, 1oct, on")->required();
    withJson(v);
    v->callback([&] { action = [] { return getOrSet(file, path, value, true, asJson); }; });

    v = projectVerb("note", "Says or sets what is noted and protected at a block or value, and saves",
                    "loomctl note hall.loom heddle/ceiling.limiter --protect \"set for the loudspeakers' limits\"");
    static std::optional<std::string> note, reason;
    v->add_option("PATH", path, "DEVICE/BLOCK or DEVICE/BLOCK.PARAMETER")->required();
    v->add_option("--note", note, "The note; \"\" takes it away");
    v->add_option("--protect", reason, "Why it is to be left as it is; \"\" takes the protection away");
    withJson(v);
    v->callback([&] { action = [] { return remark(file, path, note, reason, asJson); }; });

    v = verb("pack", "Makes a .loom file of a folder", "loomctl pack demo/marram-point hall.loom");
    v->add_option("FOLDER", file)->required();
    v->add_option("FILE", target)->required();
    v->callback([&] { action = [] { return copyProject(file, target, false); }; });

    v = verb("unpack", "Makes a folder of a .loom file", "loomctl unpack hall.loom hall/");
    v->add_option("FILE", file)->required();
    v->add_option("FOLDER", target)->required();
    v->callback([&] { action = [] { return copyProject(file, target, true); }; });
    addLaneVerbs(app, action);
    addRoomVerbs(app, action);
    addSpeakerVerbs(app, action);
    addReadingVerbs(app, action);
    addStreamVerbs(app, action);
    addWireVerbs(app, action);
    addTalkVerbs(app, action);
    addSurfaceVerbs(app, action);
    addRuleVerbs(app, action);
    addAccessVerb(app, action);
    addOutsideVerbs(app, action);
    addSiteVerbs(app, action);
#ifdef LOOM_LIVE
    addLiveVerbs(app, action);
    addServeVerb(app, action);
    addSendVerb(app, action);
#endif
    addFormatVerbs(app, action);
}

} // namespace loom::cli
