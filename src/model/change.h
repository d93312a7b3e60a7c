// What is different between two states of a project, so that views redraw and the running sound follows.
#pragma once
#include "model/project.h"

namespace loom::project {

struct Change {
    enum class Kind {
        value,   // parameters of one block
        program, // of one device
        device,  // anything else of one device
        survey,  // rooms, places, files
        surface, // touch surfaces, scenes and rules alone
        project, // anything
    } kind = Kind::project;
    std::string device{}, block{}; // as far as they apply
};

// The narrowest one that covers all. Parts that both share are not looked into.
Change changeBetween(const Project& before, const Project& after);

} // namespace loom::project
