// The device models that this call of loomctl knows.
#pragma once
#include "catalogue/catalogue.h"

namespace loom::cli {

inline project::Catalogue& shelf() {
    static const auto all = project::openCatalogue();
    return *all;
}

} // namespace loom::cli
