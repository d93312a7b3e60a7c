// The outside devices that a processor talks to. Whoever has sockets opens their lines.
#pragma once
#include "outside/outside_talk.h"
#include "rules/rule_pack.h"
#include <functional>
#include <memory>

namespace loom::rig {

// One thread.
class OutsideSide {
  public:
    struct Line {
        std::function<void(const std::string& message)> send{};
        std::shared_ptr<void> holds{}; // it is closed with this
    };
    // What a line tells; may be called as long as the line is held.
    struct Ears {
        std::function<void(bool is)> connected{};
        std::function<void(std::string_view bytes)> heard{};
        std::function<void(const std::string& answer)> whole{};
        std::function<void(const std::string& why)> refused{};
    };
    // None: there is no way to it.
    using Opens = std::function<std::optional<Line>(const project::OutsideDevice& device,
                                                    const project::OutsideKind& kind, Ears ears)>;
    struct Owner {
        std::function<void(const std::string& signal, double value)> happened;
        std::function<void(const std::string& who, const std::string& what, bool bad)> note;
    };
    OutsideSide(Owner owner, std::function<double()> clock);
    Opens opens{};                            // lines are opened with the next tick
    void told(const project::RulePack& pack); // those that are the same go on
    void off();
    void tick(); // some fifty times a second
    // "outside:display/power". None: not known, or none of its.
    std::optional<double> value(const std::string& signal) const;
    // Of a command any value. False: it has none such, or the value is none of it.
    bool set(const std::string& signal, double value);
    const project::OutsideTalk* talk(const std::string& device) const; // null: it talks to none of that id

  private:
    struct One {
        project::OutsideDevice device;
        project::OutsideTalk talk;
        std::optional<Line> line{};
        bool refused = false;
    };
    Owner owner_;
    std::function<double()> clock_;
    std::map<std::string, std::unique_ptr<One>> all_{};
};

} // namespace loom::rig
