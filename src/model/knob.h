// What a knob or push-button of a small board does: one parameter of its program, over a range.
#pragma once
#include "engine/parameter.h"
#include "engine/program.h"

namespace loom::project {

// As text, how files and set-ups hold it: "main.level.gain -60..0", with "even" or "log" behind it where the travel
// does not follow the parameter's own taper. The path is BLOCK.PARAMETER, as engine::findParameter takes it.
struct KnobUse {
    enum class Travel { own, even, logarithmic };
    std::string path{};
    double from = 0, to = 1; // fully left, fully right; of a push-button: out, pressed; either may be the greater
    Travel travel = Travel::own;
    bool operator==(const KnobUse&) const = default;
};

// An empty text is a knob without a use. Error: what cannot be read.
Result<KnobUse> readKnob(const std::string& text);
std::string knobText(const KnobUse& use);
// Error: no such parameter, or an end outside its range; logarithmic over zero.
Result<Done> checkKnob(const KnobUse& use, const engine::Program& program);
// What knobs can be given: every parameter of the program, in the order of its blocks.
struct KnobTarget {
    std::string path, label; // "main-l.level.gain", "Main L, Level: Level"
    engine::ParamSpec spec{};
    KnobUse whole() const { return {path, spec.min, spec.max}; } // over all of its range
};
std::vector<KnobTarget> knobTargets(const engine::Program& program);
// The parameter's value with the knob at 0 (left) to 1 (right).
double knobValue(const KnobUse& use, const engine::ParamSpec& spec, double at);
// Where the knob would stand for a value, 0..1.
double knobPlace(const KnobUse& use, const engine::ParamSpec& spec, double value);

} // namespace loom::project
