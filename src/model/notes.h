// Notes and protections: what somebody wrote beside a block or one of its values, and what is to be left as it is. Both
// are kept in Block::marks ("note", "protect"; of a value "note 2.gain", "protect 2.gain"), so that copies, pastes and
// swatches take them along.
#pragma once
#include "engine/result.h"
#include "model/project.h"
#include <vector>

namespace loom::project {

inline constexpr std::size_t longestRemark = 500; // bytes

// Of a value, or (param empty) of the whole block; "" where there is none.
std::string noteOf(const engine::Block& block, const std::string& param = {});
// Why it is to be left as it is: the value's own reason, else that of the whole block; "" where it may be changed.
std::string protectionOf(const engine::Block& block, const std::string& param = {});

// A program with another note or protection; "" takes it away. Error: no such block, or a text longer than
// longestRemark bytes.
Result<engine::Program> withNote(const engine::Program& p, const std::string& block, const std::string& param,
                                 const std::string& text);
Result<engine::Program> withProtection(const engine::Program& p, const std::string& block, const std::string& param,
                                       const std::string& reason);

// Puts the notes and protections of one block on another, and leaves its other marks.
void copyRemarks(const engine::Block& from, engine::Block& to);

// Something protected that is not as it was.
struct Guarded {
    std::string device, block; // ids
    std::string param;         // empty: the block as a whole (gone, or another kind, shape or file)
    std::string name, reason;  // "Ceiling \u00b7 Limiter \u00b7 Peak threshold", "set for the loudspeakers' limits"
};
// What an edit from one project to the other changes although it is protected in the first. Taking a protection away
// changes nothing that is protected. Only blocks that differ are looked at.
std::vector<Guarded> guardedChanges(const Project& before, const Project& after);
// The same as a sentence that says what, and why not. The list is not empty.
Error guardedError(const std::vector<Guarded>& all);

} // namespace loom::project
