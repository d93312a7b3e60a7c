// A scenario of a rig: which devices there are, how they are delivered, and what happens to them when.
// docs/schema/scenario.schema.json describes the file.
#pragma once
#include "engine/result.h"
#include "model/describe.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace loom::site {

struct ScenarioDevice {
    std::string serial{}, model{}, name{}, address{}, firmware{};
    std::string as{};     // id of the project's device whose sound it hears
    bool prepared = true; // with `as`: it keeps what was last sent to that device, else its design
    std::string author{}; // who prepared it
    nlohmann::json faults = nlohmann::json::object();
    bool operator==(const ScenarioDevice&) const = default;
};

struct Step {
    std::string name{};         // steps may be played by name
    std::optional<double> at{}; // seconds after the start
    std::string device{};       // a serial, "*" for all
    nlohmann::json faults = nlohmann::json::object();
    bool operator==(const Step&) const = default;
};

struct Scenario {
    std::string name{}, project{}, sound{}; // projects, from the file's folder; sound: heard, else of `project`
    std::vector<ScenarioDevice> devices{};
    std::vector<Step> steps{};
};

// The devices of a project as a dealer would deliver them: as they left the factory, each at its planned address.
Scenario deliveredFor(const project::Project& project);

// Never throws. At most 300 devices and 10,000 steps. The error's place is a JSON pointer.
Result<Scenario> scenarioFromJson(const nlohmann::json& json);
Result<Scenario> readScenario(const std::string& path);

} // namespace loom::site

namespace loom::schema {
LOOM_DESCRIBE(site::ScenarioDevice)
LOOM_DESCRIBE(site::Step)
LOOM_DESCRIBE(site::Scenario)
} // namespace loom::schema
