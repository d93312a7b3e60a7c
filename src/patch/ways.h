// From any source to any destination: over cables, streams and programs, and how long it takes.
#pragma once
#include "patch/delays.h"
#include <functional>

namespace loom::project {

// One piece of a way.
struct WayStep {
    enum class Kind { converter, program, packet, network, buffer, ring, cable };
    Kind kind{};
    std::string from, to; // "device/port"
    double ms = 0;
};
struct SoundWay {
    double leastMs = 0, mostMs = 0; // where several lead there
    std::vector<WayStep> steps{};   // of the longest
};

// Built once for a project as it stands; a later one is another. Delays that were asked for (delay blocks) do not
// count. Devices without a program pass on what comes in by number: "in 3" to "net 3" or "out 3", "net 3" to "out 3".
class SoundWays {
  public:
    SoundWays(const Project& project, const Patched& patched, const Wired& wired);
    // From an input or output of a device to another: "heddle/in 1", "chair-microphone/out 1" to "treadle/out 2".
    // Nothing: sound does not get there.
    std::optional<SoundWay> between(const std::string& from, const std::string& to) const;
    // Inputs of the same device whose sound gets to this output.
    std::vector<std::string> inputsTo(const std::string& output) const;
    // Back from a port, step by step, to where its sound begins: where several come, the loudest, as far as levels are
    // known, else the first. A loop is followed once. The port itself is first; empty: it is not known here.
    struct Passed {
        std::string device, port;
        bool input = false;
        WayStep::Kind from{}; // how sound came here from the next of the list; of the last: nothing
        std::optional<double> db{};
        int others = 0; // that come here as well
    };
    using LevelOf =
        std::function<std::optional<double>(const std::string& device, const std::string& port, bool input)>;
    std::vector<Passed> back(const std::string& device, const std::string& port, bool input,
                             const LevelOf& level = {}) const;
    // Ports in a loop of sound across devices, in order; empty: there is none.
    std::vector<std::string> loop() const;

  private:
    struct Edge {
        int to;
        double least, most; // ms
        std::vector<WayStep> steps;
    };
    struct Node {
        std::string name; // "device/port"
        bool input = false;
        std::vector<Edge> on{};
    };
    int node(const std::string& device, const std::string& port, bool input);
    int find(const std::string& text, bool output) const;
    void add(int from, int to, double least, double most, std::vector<WayStep> steps);
    void inside(const Device& device);
    void between(const Project& project, const Patched& patched, const Wired& wired);
    std::vector<Node> nodes_;
    std::map<std::pair<std::string, bool>, int> at_; // by name and whether an input
};

const char* nameOf(WayStep::Kind kind);
// What comes to an input of a device from others, for people: "Before that: Heddle 8 · net 2, Heddle 8 · in 3."; "":
// nothing that is told.
std::string cameBefore(const Project& project, const std::string& device, const std::string& input);
// "Heddle 16 · net 3"
std::string wordsOf(const Project& project, const SoundWays::Passed& passed);

} // namespace loom::project
