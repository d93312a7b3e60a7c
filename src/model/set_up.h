// The set-up of a networked device, beside its program: each value declared once, with what a device comes with.
#pragma once
#include "catalogue/catalogue.h"
#include "model/knob.h"
#include "model/project.h"

namespace loom::project {

struct SetUpSpec {
    std::string id, label, def;
    std::vector<std::string> choices{}, choiceNames{}; // none: any text of at most 200 bytes
    bool ofDevice = false;                             // stands in a field of the project's Device of its own
};
using SetUp = std::map<std::string, std::string>; // whole: a value for every spec

// What a model can be set up with: its name and lamps, front panel, time server; USB and telephone where it has them.
const std::vector<SetUpSpec>& setUpOf(const DeviceModel& model);
std::string setUpLabel(const std::string& id); // "Lamp while live"
SetUp factorySetUp(const DeviceModel& model);
// As planned. Devices without a network have none.
SetUp setUpOf(const Device& device);
// Whose mute a place of a device is: "self", or the owner of a port. "": nobody's.
std::string spaceOfMute(const Device& device, const std::string& place);
// Puts a whole or partial set-up into the plan.
void adoptSetUp(Device& device, const SetUp& values);
// Error: no such value, or not one of its choices.
Result<Done> checkSetUp(const DeviceModel& model, const SetUp& values);
// Knobs and push-buttons of a small board stand in the set-up, "knob 1" with the text of a KnobUse.
bool isControl(const std::string& id);
// Streams and receivers of a device on the network stand in its set-up too: "stream ID" and "receiver ID" with one as
// JSON text. Missing and "" are the same: it has none of that id.
bool isSound(const std::string& id);
// So do what its places do about mutes ("mute usb 1" with "council sets"), and what hangs on its contacts ("contact 1",
// "relay 1"; model/contact.h).
bool isLink(const std::string& id);
bool comesAndGoes(const std::string& id); // one of these
struct DeviceSound {
    std::vector<Stream> streams{};
    std::vector<Receiver> receivers{};
    bool operator==(const DeviceSound&) const = default;
};
DeviceSound soundOf(const SetUp& values); // what cannot be read is left out
// What only `other` has of them is none in `values` from now on: said as "".
void nameMissing(SetUp& values, const SetUp& other);
std::string setUpText(const SetUp& values, const std::string& id);       // "" where it is missing
std::string setUpWords(const std::string& id, const std::string& value); // for people: "heddle/hall-mix on net 17"
// Error: one of them acts on what the program has not.
Result<Done> checkControls(const SetUp& values, const std::optional<engine::Program>& program);
// What the device knows of a device on site, gone: serial, identity, what was last sent and kept there.
void unpair(Device& device);

} // namespace loom::project
