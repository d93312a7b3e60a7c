#include "rig/port_taps.h"
#include "engine/cable.h"
#include "program/ports.h"
#include <algorithm>

namespace loom::rig {

Result<PortTaps::Tap> PortTaps::tapAt(engine::Runner* runner, const engine::Resources& resources,
                                      const std::string& port, bool input) {
    Tap tap;
    if (const auto* end =
            runner ? project::endAt(runner->program(), port, input ? engine::End::arrives : engine::End::leaves)
                   : nullptr) {
        std::vector<bool> used(most);
        for (const auto& [_, other] : taps_)
            if (other.probe >= 0)
                used[static_cast<std::size_t>(other.probe)] = true;
        tap.probe = static_cast<int>(std::find(used.begin(), used.end(), false) - used.begin());
        runner->probe(tap.probe, engine::PortRef{end->id, 0});
        return tap;
    }
    const auto at = [](const auto& cables, const std::string& end) {
        return cables ? cables(end) : std::shared_ptr<engine::Cable>();
    };
    tap.cable = at(input ? resources.arriving : resources.leaving, port);
    // An amplifier without a program passes on from each input to its output.
    const std::string number = port.substr(port.rfind(' ') + 1);
    for (const char* from : {"in ", "net ", "ring ", "pair "})
        if (!tap.cable && !input && !runner)
            tap.cable = at(resources.arriving, from + number);
    if (!tap.cable)
        return Error{"nothing passes there", port, "No program uses this port, and no sound is led there."};
    tap.read = tap.cable->written();
    return tap;
}

void PortTaps::gather(engine::Runner* runner, Tap& tap) {
    const auto before = tap.held.size();
    if (tap.probe >= 0 && runner) {
        std::vector<float> part(8192);
        for (std::size_t n; (n = runner->readProbe(tap.probe, part)) > 0;)
            tap.held.insert(tap.held.end(), part.begin(), part.begin() + static_cast<std::ptrdiff_t>(n));
    } else if (tap.cable) {
        const auto end = tap.cable->written();
        // What is about to be written over is left alone.
        const auto from = std::max(tap.read, end - std::min<std::uint64_t>(end, engine::Cable::length / 2));
        tap.begins += from - tap.read; // missed, for want of asking
        tap.held.resize(before + (end - from));
        tap.cable->copy(from, tap.held.data() + before, end - from);
        tap.read = end;
    }
    if (tap.held.size() > length) {
        const auto gone = tap.held.size() - length;
        tap.held.erase(tap.held.begin(), tap.held.begin() + static_cast<std::ptrdiff_t>(gone));
        tap.begins += gone;
    }
}

Result<PortTaps::Heard> PortTaps::take(engine::Runner* runner, const engine::Resources& resources,
                                       const std::string& port, bool input, std::uint64_t after, double now) {
    auto it = taps_.find({port, input});
    if (it == taps_.end()) {
        tend(runner, now);
        if (taps_.size() >= most)
            return Error{"four ports are listened to already", port, "Give one of them back."};
        auto tap = tapAt(runner, resources, port, input);
        if (!tap)
            return tap.error();
        it = taps_.emplace(std::pair(port, input), std::move(*tap)).first;
    }
    auto& tap = it->second;
    tap.asked = now;
    gather(runner, tap);
    const auto end = tap.begins + tap.held.size();
    const auto from = after < tap.begins || after > end ? tap.begins : after;
    return Heard{from, {tap.held.begin() + static_cast<std::ptrdiff_t>(from - tap.begins), tap.held.end()}};
}

void PortTaps::tend(engine::Runner* runner, double now) {
    for (auto it = taps_.begin(); it != taps_.end();) {
        if (now - it->second.asked <= silentFor) {
            gather(runner, it->second);
            ++it;
            continue;
        }
        if (it->second.probe >= 0 && runner)
            runner->probe(it->second.probe, {});
        it = taps_.erase(it);
    }
}

} // namespace loom::rig
