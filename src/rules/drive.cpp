#include "rules/drive.h"
#include "catalogue/transport.h"
#include "dsp/number.h"
#include "model/block_names.h"
#include "rules/search_words.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

constexpr double leastLevel = -60;  // dBFS of a level that is drawn
constexpr double mostResponse = 24; // dB of a response that is drawn, either way
constexpr int mostSteps = 200;      // from a lane to its source
const std::string lanePrefix = "lane ";

Drive driveOf(const Device& d, const engine::Block& b, const std::string& name, const engine::ParamSpec& spec) {
    Drive one;
    one.kind = spec.unit == engine::Unit::onOff    ? Drive::Kind::onOff
               : spec.unit == engine::Unit::choice ? Drive::Kind::choice
                                                   : Drive::Kind::range;
    one.device = d.id, one.block = b.id, one.param = spec.id;
    one.path = d.id + "/" + b.id + "." + spec.id;
    one.label = name + " \u00b7 " + spec.label;
    one.spec = spec;
    return one;
}

Drive readingOf(const Device& d, const engine::Block& b, const std::string& name, const engine::Readout* r, int which) {
    Drive one;
    one.kind = Drive::Kind::reading;
    one.device = d.id, one.block = b.id, one.param = r ? r->id : "level";
    one.path = d.id + "/" + b.id + "@" + one.param;
    one.label = name + " \u00b7 " + (r ? r->label : "level");
    one.readout = which;
    one.spec.id = one.param;
    one.spec.unit = !r || r->unit == "dB" ? engine::Unit::decibel : engine::Unit::none;
    one.spec.min = r ? r->min : leastLevel;
    one.spec.max = r ? r->max : 0;
    return one;
}

bool hasLanes(const engine::BlockKind& kind) {
    return kind.picture == engine::Picture::lanes;
}

// Who is heard on each lane: the source that leads there, without what it goes through.
std::vector<std::string> laneNames(const engine::Program& program, const engine::Block& b) {
    std::vector<std::string> names;
    const engine::BlockView view(b);
    const int n = view.shape.count("lanes") ? view.shape.at("lanes") : view.inputs();
    for (int i = 0; i < n; ++i) {
        // Upwards to where the sound comes from: through blocks of many channels by the number of the port.
        const auto* c = program.into({b.id, i});
        const engine::Block* from = nullptr;
        for (int steps = 0; c && steps < mostSteps; ++steps) {
            from = program.find(c->from.block);
            const auto* kind = from ? engine::findKind(from->kind) : nullptr;
            const int inputs = kind ? engine::BlockView(*from).inputs() : 0;
            c = inputs > 0 ? program.into({from->id, c->from.port < inputs ? c->from.port : 0}) : nullptr;
        }
        auto name = from ? blockName(program, *from) : "Lane " + std::to_string(i + 1);
        if (const auto dot = name.find(" \u00b7 "); dot != std::string::npos)
            name.resize(dot);
        names.push_back(name);
    }
    return names;
}

Drive lanesOf(const Device& d, const engine::Block& b, const std::string& name) {
    Drive one;
    one.kind = Drive::Kind::lanes;
    one.device = d.id, one.block = b.id, one.param = "lanes";
    one.path = d.id + "/" + b.id + "@lanes";
    one.label = name + " \u00b7 who is open";
    one.readout = static_cast<int>(engine::findKind(b.kind)->readouts.size());
    one.lanes = laneNames(*d.program, b);
    one.spec.min = 0, one.spec.max = 1;
    return one;
}

Drive laneOf(const Device& d, const engine::Block& b, const std::string& name, int lane) {
    Drive one;
    one.kind = Drive::Kind::reading;
    one.device = d.id, one.block = b.id, one.param = lanePrefix + std::to_string(lane);
    one.path = d.id + "/" + b.id + "@" + one.param;
    one.label = name + " \u00b7 " + one.param;
    one.readout = static_cast<int>(engine::findKind(b.kind)->readouts.size()) + lane - 1;
    one.spec.id = one.param;
    one.spec.unit = engine::Unit::decibel;
    one.spec.min = leastLevel, one.spec.max = 0;
    return one;
}

Drive responseOf(const Device& d, const engine::Block& b, const std::string& name) {
    Drive one;
    one.kind = Drive::Kind::response;
    one.device = d.id, one.block = b.id, one.param = "response";
    one.path = d.id + "/" + b.id + "@response";
    one.label = name + " \u00b7 response";
    one.spec.unit = engine::Unit::decibel;
    one.spec.min = -mostResponse, one.spec.max = mostResponse;
    return one;
}

Drive lineOf(const Device& d, const std::string& port) {
    Drive one;
    one.kind = Drive::Kind::line;
    one.device = d.id, one.block = port, one.param = "line";
    one.path = d.id + "/" + port + "@line";
    one.label = d.name + " \u00b7 " + port;
    return one;
}

Drive sceneOf(const Scene& s) {
    Drive one;
    one.kind = Drive::Kind::scene;
    one.param = s.id;
    one.path = scenePrefix + s.id;
    one.label = s.name;
    one.spec.min = 0, one.spec.max = 1;
    return one;
}

Drive cueOf(const std::string& name) {
    Drive one;
    one.kind = Drive::Kind::cue;
    one.param = name;
    one.path = cuePrefix + name;
    one.label = name;
    one.spec.min = 0, one.spec.max = 1;
    return one;
}

std::vector<std::string> linesOf(const Device& d) {
    std::vector<std::string> all;
    if (const auto* m = d.spec())
        for (const auto& port : m->ports(true))
            if (transportOf(port) == Transport::telephone)
                all.push_back(port);
    return all;
}

// The readings of a block: the level where its sound leaves it, and what its kind declares.
std::vector<Drive> readingsOf(const Device& d, const engine::Block& b, const std::string& name) {
    std::vector<Drive> all;
    const auto* kind = engine::findKind(b.kind);
    if (!kind)
        return all;
    if (engine::outputsOf(*d.program, b) > 0 || kind->end == engine::End::leaves)
        all.push_back(readingOf(d, b, name, nullptr, -1));
    for (std::size_t i = 0; i < kind->readouts.size(); ++i)
        all.push_back(readingOf(d, b, name, &kind->readouts[i], static_cast<int>(i)));
    if (hasLanes(*kind))
        all.push_back(lanesOf(d, b, name));
    if (kind->response && kind->picture == engine::Picture::curve)
        all.push_back(responseOf(d, b, name));
    return all;
}

} // namespace

std::optional<std::string> behind(const std::string& path, const char* prefix) {
    const auto n = std::char_traits<char>::length(prefix);
    return path.compare(0, n, prefix) == 0 ? std::optional(path.substr(n)) : std::nullopt;
}

std::vector<std::string> cuesOf(const Project& p) {
    std::set<std::string> all;
    const auto take = [&](const std::string& path) {
        if (const auto name = behind(path, cuePrefix); name && !name->empty() && name->size() <= longestCue)
            all.insert(*name);
    };
    for (const auto& r : p.rules)
        for (const auto* list : {&r.when, &r.only, &r.then, &r.otherwise})
            for (const auto& c : *list)
                for (const auto& [_, text] : c.gaps)
                    take(text);
    for (const auto& s : p.surfaces)
        for (const auto& page : s.pages)
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls)
                    take(c.param);
    return {all.begin(), all.end()};
}

std::optional<Drive> driveOf(const Project& p, const std::string& path) {
    if (path.rfind(scenePrefix, 0) == 0) {
        const auto* s = p.scene(path.substr(std::char_traits<char>::length(scenePrefix)));
        return s ? std::optional(sceneOf(*s)) : std::nullopt;
    }
    if (const auto name = behind(path, cuePrefix))
        return name->empty() || name->size() > longestCue ? std::nullopt : std::optional(cueOf(*name));
    if (const auto at = path.find('@'); at != std::string::npos) {
        const auto slash = path.find('/');
        const auto* d = slash < at ? p.device(path.substr(0, slash)) : nullptr;
        const auto* b = d && d->program ? d->program->find(path.substr(slash + 1, at - slash - 1)) : nullptr;
        const auto what = path.substr(at + 1);
        if (d && what == "line")
            for (const auto& port : linesOf(*d))
                if (port == path.substr(slash + 1, at - slash - 1))
                    return lineOf(*d, port);
        const auto* kind = b ? engine::findKind(b->kind) : nullptr;
        if (kind && hasLanes(*kind) && what.rfind(lanePrefix, 0) == 0) {
            const auto lane =
                wholeInteger(what.substr(lanePrefix.size()), 1, static_cast<int>(laneNames(*d->program, *b).size()));
            return lane ? std::optional(laneOf(*d, *b, blockName(*d->program, *b), *lane)) : std::nullopt;
        }
        if (b)
            for (auto& one : readingsOf(*d, *b, blockName(*d->program, *b)))
                if (one.param == what)
                    return one;
        return {};
    }
    const auto target = findTarget(p, path);
    if (!target)
        return {};
    const engine::BlockView view(*target->block);
    const int i = view.table->indexOf(target->param);
    return i < 0 ? std::nullopt
                 : std::optional(driveOf(*target->device, *target->block,
                                         blockName(*target->device->program, *target->block),
                                         view.table->specs()[static_cast<std::size_t>(i)]));
}

std::vector<Drive> findDrives(const Project& p, const std::string& text, std::size_t most, const std::string& device) {
    const auto words = searchWords(text);
    std::vector<Drive> first, later;
    if (device.empty()) {
        for (const auto& s : p.scenes)
            if (first.size() < most && hasWords("scene " + s.name + " " + s.id + " " + s.room, words))
                first.push_back(sceneOf(s));
        for (const auto& cue : cuesOf(p))
            if (first.size() < most && hasWords("cue " + cue, words))
                first.push_back(cueOf(cue));
    }
    for (const auto& d : p.devices) {
        if (!d.program || (!device.empty() && d.id != device))
            continue;
        const BlockNames names(*d.program);
        const auto* room = p.room(d.room);
        for (const auto& port : linesOf(d))
            if (first.size() < most &&
                hasWords(d.name + " " + (room ? room->name : "") + " telephone line " + port, words))
                first.push_back(lineOf(d, port));
        for (const auto& b : d.program->blocks) {
            const auto* kind = engine::findKind(b.kind);
            if (!kind)
                continue;
            if (first.size() >= most) // no later one would be told
                return first;
            const auto name = names.of(b);
            const auto whole = d.name + " " + (room ? room->name : "") + " " + name + " " + b.id + " ";
            const engine::BlockView view(b);
            for (const auto& spec : view.table->specs()) {
                // Rows ("3.gain", "3.1") come after what a block has once.
                auto& list = spec.id.find('.') == std::string::npos ? first : later;
                if (list.size() < most && hasWords(whole + spec.label + " " + spec.id, words))
                    list.push_back(driveOf(d, b, name, spec));
            }
            for (auto& r : readingsOf(d, b, name))
                if (first.size() < most && hasWords(whole + r.label, words))
                    first.push_back(std::move(r));
        }
    }
    first.insert(first.end(), later.begin(), later.end());
    if (first.size() > most)
        first.resize(most);
    return first;
}

std::string detailOf(const Drive& d) {
    switch (d.kind) {
    case Drive::Kind::onOff:
        return "on / off";
    case Drive::Kind::choice:
        return "choice of " + std::to_string(d.spec.choices.size());
    case Drive::Kind::reading:
        return "reading";
    case Drive::Kind::lanes:
        return std::to_string(d.lanes.size()) + " lanes";
    case Drive::Kind::response:
        return "response";
    case Drive::Kind::line:
        return "telephone line";
    case Drive::Kind::scene:
        return "scene";
    case Drive::Kind::cue:
        return "cue";
    case Drive::Kind::range:
        break;
    }
    return engine::formatValue(d.spec, d.spec.min) + " \u2026 " + engine::formatValue(d.spec, d.spec.max);
}

DriveRange rangeOf(const Drive& d, const Control& c) {
    DriveRange r{d.spec.min, d.spec.max, c.digits};
    if (d.kind == Drive::Kind::choice)
        r.high = static_cast<double>(d.spec.choices.size()) - 1;
    if (d.kind == Drive::Kind::onOff)
        r.low = 0, r.high = 1;
    const double low = std::clamp(c.low.value_or(r.low), r.low, r.high),
                 high = std::clamp(c.high.value_or(r.high), r.low, r.high);
    if (low < high) // a range that lies outside the parameter's is none
        r.low = low, r.high = high;
    return r;
}

double positionOf(const Drive& d, const DriveRange& r, double v) {
    if (!(r.high > r.low))
        return 0;
    if (d.spec.taper == engine::Taper::logarithmic && r.low > 0)
        return std::clamp(std::log(std::max(v, r.low) / r.low) / std::log(r.high / r.low), 0.0, 1.0);
    return std::clamp((v - r.low) / (r.high - r.low), 0.0, 1.0);
}

double valueAt(const Drive& d, const DriveRange& r, double t) {
    t = std::clamp(t, 0.0, 1.0);
    double v = d.spec.taper == engine::Taper::logarithmic && r.low > 0 ? r.low * std::pow(r.high / r.low, t)
                                                                       : r.low + t * (r.high - r.low);
    double step = d.kind == Drive::Kind::range ? d.spec.step : 1;
    if (r.digits >= 0 && d.kind == Drive::Kind::range)
        step = std::max(step, std::pow(10, -r.digits));
    if (step > 0 && d.spec.taper == engine::Taper::linear)
        v = std::round(v / step) * step;
    return std::clamp(v, r.low, r.high);
}

std::string textOf(const Drive& d, const DriveRange& r, double v) {
    if (d.kind == Drive::Kind::reading && d.spec.unit == engine::Unit::decibel && v < d.spec.min - 0.05)
        return "< " + textOf(d, r, d.spec.min); // silence is no figure
    if (r.digits < 0 || d.kind == Drive::Kind::onOff || d.kind == Drive::Kind::choice ||
        (d.spec.minIsOff && v <= d.spec.min))
        return engine::formatValue(d.spec, v);
    auto text = fixedText(v, r.digits);
    if (text[0] == '-')
        text = text.find_first_not_of("-0.") == std::string::npos ? text.substr(1) : "\u2212" + text.substr(1);
    const char* unit = d.spec.unit == engine::Unit::decibel        ? " dB"
                       : d.spec.unit == engine::Unit::hertz        ? " Hz"
                       : d.spec.unit == engine::Unit::milliseconds ? " ms"
                       : d.spec.unit == engine::Unit::seconds      ? " s"
                       : d.spec.unit == engine::Unit::celsius      ? " \u00b0C"
                                                                   : "";
    return text + unit;
}

std::optional<engine::PortRef> levelAt(const engine::Program& program, const engine::Block& b) {
    if (engine::outputsOf(program, b) > 0)
        return engine::PortRef{b.id, 0};
    const auto* c = program.into({b.id, 0});
    return c ? std::optional(c->from) : std::nullopt;
}

bool isSet(const Drive& d) {
    return d.settable && d.kind != Drive::Kind::reading && d.kind != Drive::Kind::lanes &&
           d.kind != Drive::Kind::response;
}

bool isValue(const Drive& d) {
    return d.settable &&
           (d.kind == Drive::Kind::range || d.kind == Drive::Kind::onOff || d.kind == Drive::Kind::choice);
}

std::optional<double> designValue(const Project& p, const Drive& d) {
    const auto* device = p.device(d.device);
    const auto* b = device && device->program ? device->program->find(d.block) : nullptr;
    if (!b || !isSet(d))
        return {};
    const engine::BlockView view(*b);
    const int i = view.table->indexOf(d.param);
    return i < 0 ? std::nullopt : std::optional(view.values[static_cast<std::size_t>(i)]);
}

} // namespace loom::project
