#include "model/knob.h"
#include "engine/block_kind.h"
#include "model/block_names.h"
#include <algorithm>
#include <charconv>
#include <cmath>

namespace loom::project {
namespace {

std::optional<double> number(std::string_view text) {
    double v = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(v))
        return {};
    return v;
}

std::string shortest(double v) {
    char text[32];
    const auto [end, _] = std::to_chars(text, text + sizeof text, v);
    return {text, end};
}

bool logarithmic(const KnobUse& use, const engine::ParamSpec& spec) {
    return use.travel == KnobUse::Travel::logarithmic ||
           (use.travel == KnobUse::Travel::own && spec.taper == engine::Taper::logarithmic);
}

} // namespace

Result<KnobUse> readKnob(const std::string& text) {
    const auto wrong = [&](const std::string& what) {
        return Error{what, text.substr(0, 60), "Give a parameter and a range, such as \"main.gain -60..0\"."};
    };
    std::vector<std::string> words;
    for (std::size_t at = 0; at < text.size();) {
        const auto from = text.find_first_not_of(' ', at);
        if (from == std::string::npos)
            break;
        at = std::min(text.find(' ', from), text.size());
        words.push_back(text.substr(from, at - from));
    }
    KnobUse use;
    if (words.empty())
        return use;
    if (words.size() < 2 || words.size() > 3)
        return wrong("does not say what a knob does");
    use.path = words[0];
    const auto dots = words[1].find("..");
    const auto from = dots == std::string::npos ? std::nullopt : number(std::string_view(words[1]).substr(0, dots));
    const auto to = dots == std::string::npos ? std::nullopt : number(std::string_view(words[1]).substr(dots + 2));
    if (!from || !to)
        return wrong("has no range");
    use.from = *from;
    use.to = *to;
    if (words.size() == 3) {
        if (words[2] != "even" && words[2] != "log")
            return wrong("\"" + words[2] + "\" is no way to travel");
        use.travel = words[2] == "even" ? KnobUse::Travel::even : KnobUse::Travel::logarithmic;
    }
    return use;
}

std::string knobText(const KnobUse& use) {
    if (use.path.empty())
        return {};
    return use.path + " " + shortest(use.from) + ".." + shortest(use.to) +
           (use.travel == KnobUse::Travel::even          ? " even"
            : use.travel == KnobUse::Travel::logarithmic ? " log"
                                                         : "");
}

Result<Done> checkKnob(const KnobUse& use, const engine::Program& program) {
    if (use.path.empty())
        return Done{};
    const auto at = engine::findParameter(program, use.path);
    if (!at.block)
        return Error{"there is no such parameter", use.path, "Choose one of the board's program."};
    const engine::BlockView view(*at.block);
    const auto& spec = view.table->specs()[static_cast<std::size_t>(at.index)];
    for (const double end : {use.from, use.to})
        if (!(end >= spec.min && end <= spec.max))
            return Error{"the range leaves that of the parameter", use.path,
                         "Use " + formatValue(spec, spec.min) + " to " + formatValue(spec, spec.max) + "."};
    if (logarithmic(use, spec) && !(use.from > 0 && use.to > 0))
        return Error{"a logarithmic travel needs two ends above zero", use.path, "Let it travel evenly."};
    return Done{};
}

std::vector<KnobTarget> knobTargets(const engine::Program& program) {
    std::vector<KnobTarget> all;
    std::map<std::string, int> called;
    const BlockNames names(program);
    for (const auto& b : program.blocks)
        ++called[names.of(b)];
    for (const auto& b : program.blocks) {
        if (!engine::findKind(b.kind))
            continue;
        const engine::BlockView view(b);
        auto name = names.of(b);
        if (called[name] > 1)
            name += " (" + b.id + ")";
        for (const auto& spec : view.table->specs())
            all.push_back({b.id + "." + spec.id, name + ": " + spec.label, spec});
    }
    return all;
}

double knobValue(const KnobUse& use, const engine::ParamSpec& spec, double at) {
    const double t = std::clamp(at, 0.0, 1.0);
    double v = logarithmic(use, spec) ? use.from * std::pow(use.to / use.from, t) : use.from + (use.to - use.from) * t;
    if (spec.unit == engine::Unit::choice || spec.unit == engine::Unit::onOff)
        v = std::round(v);
    return std::clamp(v, spec.min, spec.max);
}

double knobPlace(const KnobUse& use, const engine::ParamSpec& spec, double value) {
    if (use.from == use.to)
        return 0;
    const double t = logarithmic(use, spec) ? std::log(std::max(value / use.from, 1e-12)) / std::log(use.to / use.from)
                                            : (value - use.from) / (use.to - use.from);
    return std::clamp(t, 0.0, 1.0);
}

} // namespace loom::project
