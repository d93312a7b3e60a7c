// Changes of a program's structure in the words of the people who make them. Each returns the new program or says why
// it cannot be; the old one is never touched.
#pragma once
#include "catalogue/device_model.h"
#include "engine/block_kind.h"
#include "engine/result.h"

namespace loom::project {

// Whether a block of this kind lies on a lane like a bead: one way in, one way out, unless it is given more channels.
bool fitsLane(const engine::BlockKind& kind);

struct NewBlock {
    engine::Program program;
    std::string block; // id of what was made
};

// Puts a one-channel block behind `after` on its lane: every thread that left `after`'s port leaves the new block. On
// a destination lane, `after` may be the destination: then it goes before it.
// Its id begins with `lane`, or else with what `after`'s begins with.
Result<NewBlock> insertBlock(const engine::Program& p, const std::string& kind, const engine::PortRef& after,
                             const std::string& lane = {});
// Adds a block on its own: a source or player starts a lane, a destination or recorder ends one, a matrix mixer is a
// weave.
Result<NewBlock> addBlock(const engine::Program& p, const std::string& kind, const std::string& label,
                          const std::map<std::string, std::string>& texts = {});
// For a model that drives loudspeakers: from each input, or where it has no such, from each channel of its network, to
// the output of the same number.
Result<engine::Program> passingOn(const DeviceModel& model);
// Takes a block out; where it had one thread through it, the lane is closed again.
Result<engine::Program> removeBlock(const engine::Program& p, const std::string& block);
// How many inputs that something arrived at stand without it afterwards, of blocks that are still there.
int brokenBy(const engine::Program& before, const engine::Program& after);
// Moves a bead one place along its lane: back (-1, towards the source) or on (+1).
Result<engine::Program> moveBlock(const engine::Program& p, const std::string& block, int by);
// Gives a block another count of channels, lanes, bands ... (a ShapeSpec's id). Threads stay at the ports they were at,
// known again by name; those of ports that are no more are cut. Values of parameters that are no more are forgotten.
Result<engine::Program> reshapeBlock(const engine::Program& p, const std::string& block, const std::string& shape,
                                     int count);
// Draws a thread; one that arrived there before is replaced. A loop is refused with its path.
Result<engine::Program> drawThread(const engine::Program& p, const engine::PortRef& from, const engine::PortRef& to);
Result<engine::Program> cutConnection(const engine::Program& p, const engine::PortRef& to);
// Puts another kind in a block's place: values of the same name, unit and range stay, threads stay at ports of the same
// name or number. `lost` names what had no place. Error: no such kind, or one without any of the ports.
struct Swapped {
    engine::Program program;
    std::string block;               // id of what is there now
    std::vector<std::string> lost{}; // "Gain", "a thread to Delegate 3"
};
Result<Swapped> swapBlock(const engine::Program& p, const std::string& block, const std::string& kind);
// Gives an end another port of the device; if another end of its side has it, the two exchange theirs.
Result<engine::Program> usePort(const engine::Program& p, const std::string& end, const std::string& port);
// The values of a block as a program says them, or its defaults (`as` null or without the block).
Result<engine::Program> restoreBlock(const engine::Program& p, const std::string& block, const engine::Program* as);
// Holds back the lanes that meet at a block until the latest has come, with Alignment blocks; those that are there
// already are set anew or taken out. Other blocks are not touched.
Result<engine::Program> alignLanes(const engine::Program& p, const std::string& block, double rate);
// The same wherever one sound arrives over several ways that are not equally long (engine::unevenMeetings).
Result<engine::Program> alignAllLanes(const engine::Program& p, double rate);

} // namespace loom::project
