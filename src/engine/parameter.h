// The declaration of one parameter, and its values as text: what people type and what they read.
#pragma once
#include "engine/result.h"
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

namespace loom::engine {

enum class Unit { none, decibel, hertz, milliseconds, quality, celsius, choice, onOff, seconds, ratio };
enum class Taper { linear, logarithmic };
// How a change reaches the sound: glide in a domain, or cross-fade by the kernel.
enum class Glide { none, linear, logarithmic, gain };

struct ParamSpec {
    std::string id, label;
    Unit unit = Unit::none;
    double min = 0, max = 1, def = 0, step = 1;
    Taper taper = Taper::linear;
    Glide glide = Glide::none;
    std::vector<std::string> choices{};    // Unit::choice: value is the index
    bool minIsOff = false;                 // decibel: the minimum means silence
    std::vector<std::string> shortForms{}; // of the choices, as people write them: "LR"
    std::string with{};                    // what a number behind a short form sets, another parameter: "LR24"
};

ParamSpec onOffParam(std::string id, std::string label, bool def);
ParamSpec choiceParam(std::string id, std::string label, std::vector<std::string> choices, int def = 0);
// The shape of a high- or low-pass, typed also as "LR24": `slope` is the parameter that then takes the number.
ParamSpec edgeShapeParam(std::string id, std::string label, std::string slope, int def = 0);
ParamSpec levelParam(std::string id, std::string label, double min, double max, double def, bool minIsOff = false);
// A level that is a number of decibels to the block, not a gain of its own: a threshold, a depth.
ParamSpec glidingLevel(std::string id, std::string label, double min, double max, double def);
ParamSpec timeParam(std::string id, std::string label, double minMs, double maxMs, double def);
ParamSpec secondsParam(std::string id, std::string label, double min, double max, double def);
ParamSpec ratioParam(std::string id, std::string label, double min, double max, double def);
ParamSpec frequencyParam(std::string id, std::string label, double def, double min = 20, double max = 20000);
ParamSpec slopeParam(std::string id, std::string label, int def); // of an edge: 6 to 48 dB/oct
ParamSpec polarityParam(std::string id, std::string label);       // glides
ParamSpec gliding(ParamSpec spec);                                // a switch or choice that is turned without a click

// "−6.0 dB", "3.10 kHz", "8.2 ms", "Q 1.41 = 1.00 oct", "on", "Butterworth"; a real minus sign, unit always.
std::string formatValue(const ParamSpec& spec, double value);
// The same in as few characters as a bead has room for: "−6.0", "3.1k", "8.2ms".
std::string formatShort(const ParamSpec& spec, double value);

// Reads what people type: "3k1", "3.1k", "-6", "−6 dB", "1.5m" or "5ft" for a delay (at 20 °C), "1oct", "Q2", "on",
// a choice by its name or an unambiguous beginning. The error says what range or words would do.
// Decimals have a point or a comma; "1,000" could be either number and is refused.
Result<double> parseValue(const ParamSpec& spec, const std::string& text);

// All parameters of a block of one kind and shape.
class ParamTable {
  public:
    explicit ParamTable(std::vector<ParamSpec> specs);
    const std::vector<ParamSpec>& specs() const { return specs_; }
    int indexOf(const std::string& id) const; // -1: none
    std::size_t size() const { return specs_.size(); }

    // What `text` sets when it is typed for the parameter `index`: that one, and with "LR24" also the one it carries.
    Result<std::vector<std::pair<std::string, double>>> parse(int index, const std::string& text) const;

  private:
    std::vector<ParamSpec> specs_;
    std::unordered_map<std::string, int> index_;
};

} // namespace loom::engine
