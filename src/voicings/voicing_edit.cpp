#include "voicings/voicing_edit.h"
#include "dsp/number.h"
#include "dsp/tap_file.h"
#include "engine/block_kind.h"
#include "model/asset_name.h"
#include "model/block_names.h"
#include "model/sound_values.h"
#include "patch/patch_edit.h"
#include "program/program_edit.h"
#include <algorithm>

namespace loom::project {
namespace {

// A file among the project's, under its name or, if that is another's, under one with a number.
std::string withFile(Project& p, const std::string& wanted, const std::vector<char>& bytes) {
    const std::string name = freeAssetName(p.assets, wanted, bytes);
    p.assets[name] = bytes;
    return name;
}

} // namespace

Edit editSpeakers(const Project& now, Project then, std::string text, bool merge) {
    for (auto& [id, program] : voicedPrograms(then))
        then.device(id)->program = std::move(program);
    return editBetween(now, std::move(then), std::move(text), merge);
}

std::string freeVoicingId(const Project& p, const std::string& name) {
    const std::string wanted = engine::slug(name);
    std::string id = wanted;
    for (int n = 2; p.voicing(id); ++n)
        id = wanted + "-" + std::to_string(n);
    return id;
}

Result<Project> withVoicing(Project p, const Voicing& v) {
    if (v.name.find_first_not_of(' ') == std::string::npos)
        return Error{"a voicing needs a name", v.id, "Type one."};
    if (auto* there = p.voicing(v.id))
        *there = v;
    else
        p.voicings.push_back(v);
    return p;
}

Result<Project> withoutVoicing(Project p, const std::string& id) {
    if (!p.voicing(id))
        return Error{"there is no such voicing", id, "loomctl voicings lists them."};
    erase_if(p.voicings, [&](const Voicing& v) { return v.id == id; });
    p.devices.changeIf([&](const Device& d) { return d.voicing == id; }, [](Device& d) { d.voicing.clear(); });
    return p;
}

Result<Project> voiced(Project p, const std::vector<std::string>& loudspeakers, const std::string& voicing) {
    if (!voicing.empty() && !p.voicing(voicing))
        return Error{"there is no such voicing", voicing, "loomctl voicings lists them."};
    for (const auto& id : loudspeakers) {
        auto* d = p.device(id);
        const auto* m = d ? d->spec() : nullptr;
        if (!m || !m->loudspeaker)
            return Error{"is no loudspeaker", d ? d->name : id, "Choose loudspeakers."};
        d->voicing = voicing;
    }
    return p;
}

Result<Project> withOwnVoicing(Project p, const std::string& loudspeaker, std::string* made) {
    auto* d = p.device(loudspeaker);
    const auto* v = d ? p.voicing(d->voicing) : nullptr;
    if (!v)
        return Error{"has no voicing to copy", d ? d->name : loudspeaker, "Give it one first."};
    Voicing own = *v;
    own.name = v->name + ", " + d->name;
    own.id = freeVoicingId(p, own.name);
    d->voicing = own.id;
    if (made)
        *made = own.id;
    p.voicings.push_back(std::move(own));
    return p;
}

Result<Project> hung(Project p, const std::string& amplifier, const std::string& port, const AmplifierOutput& output) {
    auto* a = p.device(amplifier);
    const auto* m = a ? a->spec() : nullptr;
    if (!m || !m->amplifier)
        return Error{"is no amplifier", a ? a->name : amplifier, "Choose one, such as Treadle 4."};
    const auto ports = m->ports(false);
    if (std::find(ports.begin(), ports.end(), port) == ports.end())
        return Error{"has no output \"" + port + "\"", a->name, "It has " + std::to_string(ports.size()) + " outputs."};
    for (const auto& l : output.loads) {
        const auto* d = p.device(l.device);
        const auto* model = d ? d->spec() : nullptr;
        if (!model || !model->loudspeaker)
            return Error{"is no loudspeaker", d ? d->name : l.device, "Choose loudspeakers."};
        p.devices.changeIf([](const Device& other) { return !other.outputs.empty(); }, // it leaves where it hung
                           [&](Device& other) {
                               for (auto& [name, out] : other.outputs)
                                   if (other.id != amplifier || name != port)
                                       std::erase_if(out.loads, [&](const LoudspeakerLoad& h) {
                                           return h.device == l.device && h.way == l.way;
                                       });
                           });
    }
    a->outputs[port] = output;
    if (m->workBudget > 0 && (!a->program || a->program->blocks.empty())) {
        auto program = passingOn(*m);
        if (!program)
            return program.error();
        a->program = std::move(*program);
    }
    return p;
}

Result<Project> fed(Project p, const std::string& device, const std::string& input, const std::string& from) {
    auto* a = p.device(device);
    const auto* m = a ? a->spec() : nullptr;
    if (!m)
        return Error{"there is no such device", device, ""};
    const auto inputs = m->ports(true);
    if (std::find(inputs.begin(), inputs.end(), input) == inputs.end())
        return Error{"has no input \"" + input + "\"", a->name, ""};
    if (from.empty())
        return joined(std::move(p), "", device + "/" + input);
    const auto slash = from.find('/');
    const auto* d = slash == std::string::npos ? nullptr : p.device(from.substr(0, slash));
    const auto* source = d ? d->spec() : nullptr;
    const auto outputs = source ? source->ports(false) : std::vector<std::string>{};
    if (std::find(outputs.begin(), outputs.end(), from.substr(slash + 1)) == outputs.end())
        return Error{"there is no output \"" + from + "\"", a->name, "Name it as device/port, such as heddle/out 1."};
    return joined(std::move(p), from, device + "/" + input);
}

// A name for the text that a curve becomes: that of its file, with another ending where that says sound.
static std::string curveName(const std::string& file) {
    const auto dot = file.rfind('.');
    const std::string ending = dot == std::string::npos ? "" : file.substr(dot);
    return ending == ".wav" || ending == ".flac" ? file.substr(0, dot) + ".txt" : file;
}

Result<Project> withResponse(Project p, const std::string& id, int way, const std::string& name,
                             const loudspeaker::ResponseFile& curve) {
    auto* v = p.voicing(id);
    if (!v || way < -1 || way >= static_cast<int>(v->ways.size()))
        return Error{"there is no such way", id, "loomctl voicings lists voicings."};
    const auto text = loudspeaker::curveText(curve, loudspeaker::CurveUse::response);
    Voicing next = *v;
    (way < 0 ? next.target : next.ways[static_cast<std::size_t>(way)].response) =
        withFile(p, curveName(name), {text.begin(), text.end()});
    return withVoicing(std::move(p), next);
}

Result<Project> withImpedance(Project p, const std::string& id, std::size_t way, const std::string& name,
                              const loudspeaker::ResponseFile& curve) {
    auto* v = p.voicing(id);
    if (!v || way >= v->ways.size())
        return Error{"there is no such way", id, "loomctl voicings lists voicings."};
    const double least = *std::min_element(curve.db.begin(), curve.db.end());
    if (!(least > 0))
        return Error{print("goes down to %.3g ohms", least), name, "A line is a frequency and ohms above 0."};
    const auto text = loudspeaker::curveText(curve, loudspeaker::CurveUse::impedance);
    v->ways[way].minimumOhms = least;
    v->ways[way].impedance = withFile(p, curveName(name), {text.begin(), text.end()});
    return p;
}

Result<Project> withTaps(Project p, const std::string& id, std::size_t way, std::string name,
                         const std::vector<char>& bytes) {
    auto* v = p.voicing(id);
    if (!v || way >= v->ways.size())
        return Error{"there is no such way", id, "loomctl voicings lists voicings."};
    auto& chain = v->ways[way].chain;
    std::erase_if(chain, [](const engine::Block& b) { return b.id == "fir"; });
    if (bytes.empty())
        return p;
    if (auto wrong = dsp::errorInTaps(bytes, name); !wrong.empty())
        return Error{wrong, v->name, ""};
    engine::Block fir;
    fir.id = fir.kind = "fir";
    fir.texts["file"] = withFile(p, name, bytes);
    chain.insert(std::find_if(chain.begin(), chain.end(), [](const engine::Block& b) { return b.id == "delay"; }), fir);
    return p;
}

namespace {

// A parameter of a block that belongs to a voicing: of the voicing, for all that have it. Null: it belongs to none.
// Error: a limiter's thresholds, which follow from data.
Result<Edit> setVoicedValue(const Project& p, const std::string& device, const std::string& block,
                            const std::string& param, double value, bool merge) {
    const auto* d = p.device(device);
    const auto* b = d && d->program ? d->program->find(block) : nullptr;
    const auto mark = b ? b->marks.find(voicingMark) : std::map<std::string, std::string>::const_iterator{};
    if (!b || mark == b->marks.end() || !p.voicing(mark->second) || !b->marks.count(partMark))
        return Edit{};
    Voicing v = *p.voicing(mark->second);
    auto* part = partOf(v, b->marks.at(partMark));
    if (!part)
        return Edit{};
    const engine::BlockView view(*part);
    const int i = view.table->indexOf(param);
    if (i < 0)
        return Error{"there is no such parameter", block + "." + param, ""};
    const auto& spec = view.table->specs()[static_cast<std::size_t>(i)];
    if (!(value >= spec.min && value <= spec.max))
        return Error{exactText(value) + " is outside the range", block + "." + param,
                     "Use " + engine::formatValue(spec, spec.min) + " to " + engine::formatValue(spec, spec.max) + "."};
    if (b->kind == "limiter") {
        if (param != "on")
            return Error{"this limiter follows from the loudspeaker's data", v.name,
                         "Change its power or margin in Speakers."};
        const auto way = static_cast<std::size_t>(b->marks.at(partMark)[0] - '1');
        v.ways[way].protect = value >= 0.5;
    } else
        engine::enterValue(*part, param, value);
    auto then = withVoicing(p, v);
    if (!then)
        return then.error();
    const auto reached = reachOf(p, v.id).size();
    return editSpeakers(p, std::move(*then),
                        "Set " + v.name + " \u00b7 " + spec.label + " for " + std::to_string(reached) +
                            (reached == 1 ? " loudspeaker" : " loudspeakers"),
                        merge);
}

} // namespace

Edit setValue(const Project& p, const std::string& path, double value, bool merge) {
    const auto place = findTarget(p, path);
    if (const auto [id, rest] = endOf(path); !place && p.device(id))
        if (auto then = withSoundValue({p.device(id)->streams, p.device(id)->receivers}, rest, value)) {
            auto edit = changeDevice(id, "Set " + path, [set = *then](Device& d) { adoptSetUp(d, {set}); });
            edit.sets = path;
            edit.merge = merge;
            return edit;
        }
    if (!place)
        return refused(
            {"there is no such parameter", path, "loomctl info FILE lists blocks, loomctl blocks their parameters."});
    const auto& [device, block, param] = *place;
    const auto voiced = setVoicedValue(p, device->id, block->id, param, value, merge);
    if (!voiced)
        return refused(voiced.error());
    if (*voiced)
        return *voiced;
    const engine::BlockView view(*block);
    const auto& spec = view.table->specs()[static_cast<std::size_t>(view.table->indexOf(param))];
    return setValues(device->id, {{block->id + "." + param, value}},
                     "Set " + blockName(*device->program, *block) + " \u00b7 " + spec.label, merge);
}

} // namespace loom::project
