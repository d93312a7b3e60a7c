// A program: the blocks and threads of one processor, as they are designed (not as they run).
#pragma once
#include "engine/shared.h"
#include <compare>
#include <map>
#include <string>
#include <vector>

namespace loom::engine {

struct Block {
    std::string id;                         // unique in its program, stays for ever: letters, digits, '-', '_' and '.'
    std::string kind;                       // a BlockKind's id; an unknown one is kept and stays silent
    std::string label;                      // what people read; empty: the kind's label
    std::map<std::string, int> shape{};     // channels, bands, inputs, outputs: only what differs from default
    std::map<std::string, double> values{}; // parameters: only what differs from default
    std::map<std::string, std::string> texts{}; // port ("in 4"), file ("assets/chair.flac")
    // How people see and handle it; the sound does not depend on them (program/marks.h).
    std::map<std::string, std::string> marks{};
    std::map<std::string, std::string> extra{}; // fields of a later version, as JSON text
    bool operator==(const Block&) const = default;
};

struct PortRef {
    std::string block;
    int port = 0; // from 0
    auto operator<=>(const PortRef&) const = default;
};

// One mono connection. Several may leave a port, one arrives.
struct Connection {
    PortRef from, to;
    auto operator<=>(const Connection&) const = default;
};

} // namespace loom::engine

template <> inline constexpr bool loom::heldInChunks<loom::engine::Connection> = true;

namespace loom::engine {

struct Program {
    int revision = 1;
    List<Block> blocks{};
    List<Connection> connections{};
    std::map<std::string, std::string> extra{};
    const Block* find(const std::string& id) const;
    Block* find(const std::string& id); // to change it
    const Connection* into(const PortRef& port) const;
    bool operator==(const Program&) const = default;
};

// An id made from words: "Delegate 3" -> "delegate-3", made unique in the program by a number.
std::string slug(const std::string& words);
std::string freshId(const Program& program, const std::string& wanted);

} // namespace loom::engine
