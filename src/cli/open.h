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

// loomctl --anyway: what is protected may be changed.
inline bool anyway = false;

// Error: also where it changes what is protected, and that is not meant.
inline Result<project::Change> runEdit(project::History& history, const project::Edit& edit) {
    using Protected = project::History::Protected;
    auto done = history.run(edit, anyway ? Protected::changed : Protected::kept);
    if (!done && !history.guarded().empty())
        return Error{done.error().message, done.error().place, "loomctl --anyway changes it all the same."};
    return done;
}

inline int saveEdit(project::Project& p, const project::Edit& edit, const std::string& file) {
    project::History history(p);
    if (auto done = runEdit(history, edit); !done)
        return fail(done.error());
    auto saved = project::saveProject(p, file);
    return saved ? 0 : fail(saved.error());
}

inline int saveProgram(project::Project& p, const std::string& device, const Result<engine::Program>& program,
                       const char* what, const std::string& file) {
    return program ? saveEdit(p, project::setProgram(device, *program, what), file) : fail(program.error());
}

} // namespace loom::cli
