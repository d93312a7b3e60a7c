// The models that tests, figures and tools know: those of the source tree, with the user's own of $XDG_DATA_HOME.
#pragma once
#include "catalogue/catalogue.h"
#include "file/store.h"

namespace loom::test {

inline project::Catalogue& models() {
    static const auto all = project::openCatalogue();
    return *all;
}
inline const project::DeviceModel& model(const char* id) { // one that there is
    return *models().find(id);
}
inline Result<project::Project> load(const std::string& path) {
    return project::loadProject(path, models());
}

} // namespace loom::test
