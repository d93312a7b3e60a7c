// What others may know and set of a device, as it is edited: which ways are open, what is allowed, under which names.
#pragma once
#include "model/edit.h"
#include "rules/signal.h"
#include "schema/field.h"
#include <set>

namespace loom::project {

// Those that can be asked from outside: what runs rules does.
std::vector<const Device*> accessDevices(const Project& project);
// Whether a device knows and sets a signal by itself, so that it can be asked there: its own, and moments.
bool isAccessOf(const Project& project, const std::string& device, const Signal& signal);
// A name that is free on the device: "hall/level".
std::string accessName(const Project& project, const std::string& device, const Signal& signal);
// Error: there is no such signal or device, or another device has it.
Result<Edit> allowSignal(const Project& project, const std::string& device, const std::string& signal, bool sets);
Result<Edit> forbidSignal(const Project& project, const std::string& device, const std::string& name);

std::vector<Field> accessFields(const Project& project, const std::string& device); // ways and their ports
Edit setAccessField(const std::string& device, const std::string& field, const std::string& value);
std::vector<Field> allowedFields(const Project& project, const std::string& device, const std::string& name);
Edit setAllowedField(const std::string& device, const std::string& name, const std::string& field,
                     const std::string& value);

std::set<std::string> accessRoles(const Access& access); // whose PINs are asked for
// What would not work of it: a way that is open and leads to nothing, what is allowed and not there. The place is a
// name, or a field of the access.
std::vector<Error> accessErrors(const Project& project, const Access& access);
// "192.0.2.9:9000". Error: it is none.
Result<std::pair<std::string, int>> readOscTo(const std::string& text);
// How each way is reached, in a line each: "OSC 1.0: UDP 4782".
std::vector<std::string> accessWays(const Access& access);

} // namespace loom::project
