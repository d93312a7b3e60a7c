// The part of a project that some paths speak of, and nothing else of it: what a device is told of others to know their
// signals by name, range and unit.
#pragma once
#include "model/project.h"
#include <map>
#include <set>

namespace loom::project {

class NamedPart {
  public:
    NamedPart(const Project& from, Project& to) : from_(from), to_(to) {} // both outlive it
    void take(const std::string& path);   // a signal's or a parameter's; of scenes and cues nothing
    void rooms(const std::string& space); // of "tern+plover"
    void outside(const std::string& id);
    void device(const std::string& id) { devices_[id]; }
    void finish(); // once, when all is taken; devices that are in `to` already get what else is named of them

  private:
    const Project& from_;
    Project& to_;
    std::map<std::string, std::set<std::string>> devices_{}; // blocks by device
    std::set<std::string> rooms_{}, walls_{}, receivers_{};
};

} // namespace loom::project
