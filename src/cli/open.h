// Opening a project for a verb, and keeping what the verb made of it.
#pragma once
#include "cli/answer.h"
#include "file/store.h"
#include "model/history.h"

namespace loom::cli {

// A processor with a program. Error: the project does not open, or there is no such device.
inline Result<const project::Device*> processorOf(const Result<project::Project>& project, const std::string& id) {
    if (!project)
        return project.error();
    const project::Device* d = project->device(id);
    if (!d || !d->program)
        return Error{"there is no processor of this id", id, "loomctl info lists devices."};
    return d;
}

inline int saveEdit(project::Project& p, project::Edit edit, const std::string& file) {
    project::History history(p);
    if (auto done = history.run(std::move(edit)); !done)
        return fail(done.error());
    auto saved = project::saveProject(p, file);
    return saved ? 0 : fail(saved.error());
}

inline int saveProgram(project::Project& p, const std::string& device, const Result<engine::Program>& program,
                       const char* what, const std::string& file) {
    return program ? saveEdit(p, project::setProgram(device, *program, what), file) : fail(program.error());
}

} // namespace loom::cli
