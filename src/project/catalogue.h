// Device models: data files in catalogue/, made-up makers.
#pragma once
#include "engine/block_kind.h"
#include "project/model.h"
#include <string>
#include <vector>

namespace loom::project {

struct PortGroup {
    std::string name, label; // "in", "Microphone or line"
    int count = 0;
};

struct DeviceModel {
    std::string id, name, maker, purpose;
    std::vector<PortGroup> inputs, outputs;
    double workBudget = 0;                            // ns per sample; 0: does not process
    double memoryBudget = 0;                          // bytes
    std::vector<std::string> ports(bool input) const; // "in 1", "in 2" ... "usb 1"
};

// Reads every .json of a folder. Trouble: names the file and field.
Result<std::vector<DeviceModel>> readCatalogue(const std::string& folder);
// The catalogue that belongs to this build: $NIMBLE_LOOM_DATA, else the installed one, else the source tree's.
const std::vector<DeviceModel>& catalogue();
const DeviceModel* findModel(const std::string& id);
// A project with one processor and nothing in its program yet.
Result<Project> newProject(const std::string& model);
// Ports of a device's model that its program does not use yet; the first of them, or "" if there is none.
// A kind of block that is no end has none.
std::vector<std::string> freePorts(const Device& device, const engine::BlockKind& kind);
std::string freePort(const Device& device, const engine::BlockKind& kind);
inline constexpr const char* networkPort = "net "; // what the names of network ports begin with
std::string dataFolder();                          // where catalogue/ and demo/ lie

} // namespace loom::project
