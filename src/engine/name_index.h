// Numbers by name: a flat table for the blocks of a program, made in one go and then only asked.
#pragma once
#include <bit>
#include <cstdint>
#include <functional>
#include <string_view>
#include <vector>

namespace loom::engine {

// The names stay where they are; whoever asks says what the name of a number is. Nothing is ever taken out.
class NameIndex {
  public:
    explicit NameIndex(std::size_t count = 0) : slots_(std::bit_ceil(2 * count + 1)) {}

    // -1: no such name. nameOf(number) is a std::string_view.
    template <class NameOf> int find(std::string_view name, const NameOf& nameOf) const {
        return slots_[slotOf(name, hash(name), nameOf)].number;
    }
    // Up to as many names as were counted. False: it is there already.
    template <class NameOf> bool add(std::string_view name, int number, const NameOf& nameOf) {
        const auto h = hash(name);
        Slot& slot = slots_[slotOf(name, h, nameOf)];
        if (slot.number >= 0)
            return false;
        slot = {h, number};
        return true;
    }

  private:
    struct Slot {
        std::uint32_t hash = 0;
        int number = -1;
    };
    static std::uint32_t hash(std::string_view name) {
        return static_cast<std::uint32_t>(std::hash<std::string_view>{}(name));
    }
    template <class NameOf> std::size_t slotOf(std::string_view name, std::uint32_t h, const NameOf& nameOf) const {
        const std::size_t mask = slots_.size() - 1;
        std::size_t i = h & mask;
        while (slots_[i].number >= 0 && (slots_[i].hash != h || nameOf(slots_[i].number) != name))
            i = (i + 1) & mask;
        return i;
    }
    std::vector<Slot> slots_;
};

} // namespace loom::engine
