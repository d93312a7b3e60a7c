// What rules hear and what they set, each by a path:
//
//   heddle/hall.level.gain    a parameter, as everywhere; with "@" something that its program tells (rules/drive.h)
//   heddle/tel 1@line         a telephone line
//   wall:fold                 a movable wall
//   contact:heddle/contact 3  what hangs on a contact; relay:heddle/relay 1 on a relay
//   button:tern-tap           a push-button
//   knob:foyer-dial/knob 1    a wall knob, 0 to 1
//   mute:council              the mute of a space
//   device:heddle             whether a device is there; stream:b/mix whether what a receiver hears comes
//   hears:heddle/mix          which of its streams a receiver hears
//   outside:display/power     what an outside device is, or is told (model/outside.h); outside:display/there
//                             whether it answers
//   scene:meeting             the moment at which a scene is recalled
//   cue:closing-call          a moment with a name of its own, given by surfaces, rules, or from outside
//   start                     the moment at which power comes
#pragma once
#include "rules/drive.h"
#include <functional>

namespace loom::project {

struct Signal {
    std::string path, label;
    std::string group{};      // under which it is listed: "Walls", "Pressed and turned" ...
    std::string device{};     // who tells it and takes it; "": no device alone
    engine::ParamSpec spec{}; // its range and unit, or the choices of its states
    bool settable = false;    // by rules
    bool pulse = false;       // a moment, without a state
    bool fast = false;        // a reading that moves all the time
    bool isNumber() const { return !pulse && spec.unit != engine::Unit::choice && spec.unit != engine::Unit::onOff; }
};
bool isLine(const Signal& signal);   // a telephone line: it is called, not set
bool canBeSet(const Signal& signal); // by whoever is outside: a value, a moment or a line
// None: there is no such.
std::optional<Signal> signalOf(const Project& project, const std::string& path);
// All but parameters and readings, group by group; then parameters and readings whose names have all words; at most so
// many.
std::vector<Signal> findSignals(const Project& project, const std::string& words, std::size_t most);
// One by its path, by its name (letter for letter, else whatever the letters' case), or by words that only one has.
Result<std::string> signalSaid(const Project& project, const std::string& said,
                               const std::function<bool(const Signal&)>& fits = {});
// What can wake a rule by itself: walls, contacts, buttons, knobs, lines, mutes, outside devices, devices, streams,
// scenes, cues, start.
std::vector<Signal> happenings(const Project& project);
// All but parameters and readings: happenings, and what is only set.
std::vector<Signal> roomSignals(const Project& project);

// "−6.0 dB", "open"; as people read it.
std::string valueText(const Signal& signal, double value);
// What people type. Error: what would do.
Result<double> readSignalValue(const Signal& signal, const std::string& text);
// As files have it: "-6", "open". Reads as the same value.
std::string plainValue(const Signal& signal, double value);

// How something is before anybody touched it: parameters as the design has them, walls closed, nothing pressed, nothing
// muted, all devices there. None: of what moves by itself.
std::optional<double> restingValue(const Project& project, const Signal& signal);

// Of a telephone line, in their order: "on hook", "dialling", "rings there", "rings here", "in a call", "on hold".
const std::vector<std::string>& lineStates();
inline constexpr const char *wallPrefix = "wall:", *contactPrefix = "contact:", *relayPrefix = "relay:",
                            *buttonPrefix = "button:", *knobPrefix = "knob:", *mutePrefix = "mute:",
                            *devicePrefix = "device:", *streamPrefix = "stream:", *hearsPrefix = "hears:",
                            *startPath = "start";

} // namespace loom::project
