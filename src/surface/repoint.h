// What controls are driven from, taken from one room, device or lane to another.
#pragma once
#include "surface/surface_edit.h"

namespace loom::project {

struct Repoint {
    std::string page, control, label; // ids; what it is called
    std::string from, to;             // paths; to "": there is no such over there
};
// Each control of the pages whose path has `from` where a name may stand, and what it would be with
// `to`: devices by id, lanes by the words of their blocks' ids ("tern" -> "plover", "delegate-1" -> "delegate-2").
std::vector<Repoint> repointOf(const Project& project, const std::string& surface,
                               const std::vector<std::string>& pages, const std::string& from, const std::string& to);
// Those that lead somewhere, as one step, with their conditions as far as these do; what is left stays.
Result<Edit> repoint(const Project& project, const std::string& surface, const std::vector<std::string>& pages,
                     const std::string& from, const std::string& to);

} // namespace loom::project
