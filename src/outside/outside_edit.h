// Outside devices of a project and the descriptions of their kinds: shipped, from files, and what is wrong with them.
#pragma once
#include "model/edit.h"
#include "schema/field.h"
#include <vector>

namespace loom::project {

// ---- kinds ----
// Those that come with the program (outside/*.json in its data folder); read once.
const std::vector<OutsideKind>& shippedOutsideKinds();
// From a description in JSON. Error: where and what.
Result<OutsideKind> readOutsideKind(const std::string& text, const std::string& name = "description");
std::string outsideKindText(const OutsideKind& kind); // reads as the same
// Every template that cannot be read, and what fits nowhere: "states/power/set, sign 3: ...".
std::vector<Error> errorsOf(const OutsideKind& kind);

// ---- devices ----
// By id or name. Error: there is no such.
Result<const OutsideDevice*> outsideSaid(const Project& project, const std::string& said);
// kind: one of the project's or of those shipped, by id; it comes into the project.
Result<Edit> addOutside(const Project& project, const std::string& name, const std::string& kind,
                        const std::string& room, const std::string& address);
// With a kind of its own; one of the same id in the project is replaced.
Result<Edit> addOutside(const Project& project, const std::string& name, const OutsideKind& kind,
                        const std::string& room, const std::string& address);
Result<Edit> removeOutside(const Project& project, const std::string& id); // and its kind with the last of it
std::vector<Field> outsideFields(const Project& project, const OutsideDevice& device);
Edit setOutsideField(const std::string& device, const std::string& field, const std::string& value);

} // namespace loom::project
