// Linked lanes: edited together, each may break away in single values and shows that it did.
#pragma once
#include "engine/layout.h"
#include "engine/result.h"

namespace loom::project {

// The lanes edited together with this one, itself left out; empty if it is linked to none.
std::vector<std::string> linkedWith(const engine::Program& p, const std::string& lane);
// The lanes and all that are linked with one of them, each once.
std::vector<std::string> withLinked(const engine::Program& p, const std::vector<std::string>& lanes);

// Links lanes of one side under a name. Values that differ from those of the first lane stay as they are and are apart
// from now on. Error: fewer than two lanes, or lanes of both sides.
Result<engine::Program> linkLanes(const engine::Layout& layout, const engine::Program& p,
                                  const std::vector<std::string>& lanes, const std::string& name);
engine::Program unlinkLanes(const engine::Layout& layout, const engine::Program& p,
                            const std::vector<std::string>& lanes);

bool isApart(const engine::Block& block, const std::string& param);
std::vector<std::string> apartOf(const engine::Block& block);
// From now on this value is the block's own (or no longer: the value of the others comes back).
Result<engine::Program> breakAway(const engine::Layout& layout, const engine::Program& p, const std::string& block,
                                  const std::string& param);
Result<engine::Program> relink(const engine::Layout& layout, const engine::Program& p, const std::string& block,
                               const std::string& param);
// All values of a lane that broke away.
Result<engine::Program> relinkLane(const engine::Layout& layout, const engine::Program& p, const std::string& lane);

// Where a value set on a block of the chosen lanes goes: "block.parameter" of the block, of its counterparts on the
// other chosen lanes, and of those on linked lanes that did not break away; only where the parameter is there.
std::vector<std::string> reachOf(const engine::Layout& layout, const engine::Program& p,
                                 const std::vector<std::string>& lanes, const std::string& block,
                                 const std::string& param);

} // namespace loom::project
