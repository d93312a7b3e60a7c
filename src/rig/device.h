// One simulated processor: what runs in it, what it keeps, and its sound. Knows no network.
#pragma once
#include "engine/realtime.h"
#include "project/model.h"
#include "project/tools_at_work.h"
#include <nlohmann/json.hpp>
#include <optional>

namespace loom::rig {

struct DeviceSetup {
    std::string model = "heddle-16", serial = "00A3F1", name = "Heddle 16";
    std::string folder{};          // where its store lies
    engine::Resources resources{}; // what its inputs hear
    double rate = 48000;
};

// All functions belong to one thread; the sound has its own.
class Device {
  public:
    explicit Device(DeviceSetup setup); // boots from its store
    ~Device();

    // What a program would break is a trouble, and what ran goes on.
    Result<Done> tryProgram(const engine::Program& program, const std::string& author);
    Result<Done> keep(); // writes what runs into the store, whole or not at all
    void powerOff();     // the sound stops, what was not kept is gone
    void powerOn();      // runs what is kept
    bool powered() const { return powered_; }

    Result<double> get(const std::string& path) const;         // "delegate-3.eq.2.gain"
    Result<double> set(const std::string& path, double value); // gives the value that holds now
    const std::optional<engine::Program>& running() const { return running_; }
    std::optional<engine::Program> kept() const;
    // Tools act on what runs and are never kept.
    Result<int> putTool(const project::Tool& tool);
    void takeTool(int number);
    void takeTools();
    std::vector<project::Tool> tools() const { return tools_.list(); }
    nlohmann::json describe() const;
    nlohmann::json state() const;  // revisions running and kept, and whether what runs was changed since
    nlohmann::json meters() const; // peak per block port in dBFS, blocks that sound only
    void identify() { ++lampBlinks_; }
    int lampBlinks() const { return lampBlinks_; }
    void tend();

  private:
    std::string storePath() const;
    std::optional<engine::Program> readStore(const std::string& path) const;
    Result<Done> run(const engine::Program& program);

    DeviceSetup setup_;
    bool powered_ = false;
    int lampBlinks_ = 0;
    std::string author_;
    std::optional<engine::Program> running_; // without the tools
    project::ToolsAtWork tools_;
    std::unique_ptr<engine::Runner> runner_;
    std::unique_ptr<engine::RealtimeThread> thread_;
};

// A checksum of a program's contents without its revision and its marks, so that both ends can tell whether they agree.
std::string fingerprint(const engine::Program& program);

} // namespace loom::rig
