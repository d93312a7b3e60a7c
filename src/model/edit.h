// Named edits: the only way a project changes. An edit is a function from project to project; what it changed follows
// from comparing the two (model/change.h).
#pragma once
#include "engine/result.h"
#include "model/change.h"
#include <functional>

namespace loom::project {

struct Edit {
    std::string text{}; // "Set Delegate 3 · Equaliser · Band 2 gain"
    // The project as it is then; error: it cannot be. Empty: there is nothing to do.
    std::function<Result<Project>(Project)> make{};
    // What it sets. An edit that merges joins with the step before if that set the same: one step for one drag.
    std::string sets{};
    bool merge = false;
    explicit operator bool() const { return static_cast<bool>(make); }
};

// Sets several parameters of one device's program, by "block.parameter", as one step: all or none.
Edit setValues(const std::string& device, std::map<std::string, double> values, std::string text, bool merge = false);
// Puts another program in place of the one a device has; the piece most edits of structure are made of.
Edit setProgram(const std::string& device, engine::Program program, std::string text);
// Gives a block a sound file under a key of its texts (engine/play_list.h): the bytes go into the project's assets
// under `name` (another name if there is another file of that name).
Edit setFile(const std::string& device, const std::string& block, const std::string& key, const std::string& name,
             std::vector<char> bytes);
// Any other change of a device.
Edit changeDevice(const std::string& device, std::string text, std::function<void(Device&)> how);
// Rooms, walls and racks anew; programs do not hear of it. merge: joins with the step before if that had the same text.
Edit setBuildings(List<Building> buildings, std::string text, bool merge = false);
// Devices by id: as they are to be from now on; none: taken out. A new one stands at the end of the list.
Edit setDevices(std::map<std::string, std::optional<Device>> devices, std::string text, bool merge = false);
// Where devices are, by id.
Edit placeDevices(std::map<std::string, Place> places, std::string text, bool merge = false);
// Several edits as one step: all or none.
Edit together(std::vector<Edit> edits, std::string text);
// A file into the project under `name`.
Edit addAsset(std::string name, std::vector<char> bytes);
// Leaves a finding as it is, for a reason; "" takes it up again.
Edit leaveFinding(DismissedFinding finding);
Edit renameProject(std::string name);
// Another project in place of this one, as one step: work that was recovered.
Edit replaceProject(Project project, std::string text);
// What `after` has different from `before`: rooms, devices, voicings, files. Nothing to do if there is nothing.
Edit editBetween(const Project& before, Project after, std::string text, bool merge = false);
// Says why it cannot be when it is run.
Edit refused(Error error);

} // namespace loom::project
