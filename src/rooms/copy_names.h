// What things of a room are called in its copy, and paths and sentences that speak of them.
#pragma once
#include <map>
#include <string>

namespace loom::project {

struct CopyNames {
    std::map<std::string, std::string> things{}; // devices, rooms and outside devices: by the id that they had
    std::map<std::string, std::string> scenes{}, surfaces{}, rules{}, scripts{};

    // A path, or a condition, with everything that it names as its copy is called. Names end where ids do: at "/", and
    // at a space or the end.
    std::string anew(const std::string& text) const;
    std::string space(const std::string& rooms) const; // "tern+plover"
    // What fills a gap of a clause.
    std::string inGap(const std::string& slot, const std::string& text) const;
    // A program in Lua: paths stand in quotation marks.
    std::string inScript(const std::string& text) const;
};

} // namespace loom::project
