// Which ports of a processor its program still has free, and a project that begins with one.
#pragma once
#include "engine/block_kind.h"
#include "model/project.h"

namespace loom::project {

// A project with one processor and nothing in its program yet.
Result<Project> newProject(const std::string& model, const ModelSource& models);
// Ports of a device's model that its program does not use yet; the first of them, or "" if there is none.
// A kind of block that is no end has none.
std::vector<std::string> freePorts(const Device& device, const engine::BlockKind& kind);
// The source or destination of a program at a port; null: it uses it not.
const engine::Block* endAt(const engine::Program& program, const std::string& port, engine::End end);
std::string freePort(const Device& device, const engine::BlockKind& kind);

} // namespace loom::project
