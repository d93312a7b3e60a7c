#include "surface/drive.h"
#include "dsp/number.h"
#include "model/block_names.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

constexpr double leastLevel = -60; // dBFS of a level that is drawn

std::string lower(std::string t) {
    for (char& c : t)
        c = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    return t;
}

std::vector<std::string> wordsOf(const std::string& text) {
    std::vector<std::string> all;
    for (std::size_t i = 0; i < text.size();) {
        const auto begin = text.find_first_not_of(' ', i), end = std::min(text.find(' ', begin), text.size());
        if (begin == std::string::npos)
            break;
        all.push_back(lower(text.substr(begin, end - begin)));
        i = end;
    }
    return all;
}

bool hasAll(const std::string& text, const std::vector<std::string>& words) {
    const auto t = lower(text);
    return std::all_of(words.begin(), words.end(), [&](const auto& w) { return t.find(w) != std::string::npos; });
}

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
    return all;
}

} // namespace

std::optional<Drive> driveOf(const Project& p, const std::string& path) {
    if (const auto at = path.find('@'); at != std::string::npos) {
        const auto slash = path.find('/');
        const auto* d = slash < at ? p.device(path.substr(0, slash)) : nullptr;
        const auto* b = d && d->program ? d->program->find(path.substr(slash + 1, at - slash - 1)) : nullptr;
        if (b)
            for (auto& one : readingsOf(*d, *b, blockName(*d->program, *b)))
                if (one.param == path.substr(at + 1))
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
    const auto words = wordsOf(text);
    std::vector<Drive> first, later;
    for (const auto& d : p.devices) {
        if (!d.program || (!device.empty() && d.id != device))
            continue;
        const BlockNames names(*d.program);
        const auto* room = p.room(d.room);
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
                if (list.size() < most && hasAll(whole + spec.label + " " + spec.id, words))
                    list.push_back(driveOf(d, b, name, spec));
            }
            for (auto& r : readingsOf(d, b, name))
                if (first.size() < most && hasAll(whole + r.label, words))
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

std::optional<double> designValue(const Project& p, const Drive& d) {
    const auto* device = p.device(d.device);
    const auto* b = device && device->program ? device->program->find(d.block) : nullptr;
    if (!b || d.kind == Drive::Kind::reading)
        return {};
    const engine::BlockView view(*b);
    const int i = view.table->indexOf(d.param);
    return i < 0 ? std::nullopt : std::optional(view.values[static_cast<std::size_t>(i)]);
}

} // namespace loom::project
