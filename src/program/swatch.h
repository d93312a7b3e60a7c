// Swatches: pieces of a program that are kept to be used again, in any project.
#pragma once
#include "engine/layout.h"
#include "engine/result.h"
#include "model/describe.h"

namespace loom::project {

inline constexpr int swatchVersion = 1;

struct Swatch {
    std::string name, notes;
    engine::Program piece{}; // blocks and the threads between them
    Extra extra{};
    bool operator==(const Swatch&) const = default;
    // All of it lies on one lane: a chain that goes onto lanes. Else it stands on its own.
    bool chain() const;
    std::vector<std::string> order() const; // a chain's blocks in the order of the sound
};

// What is chosen: the beads of one lane (or one of them), or whole lanes and hubs with the threads between them.
Result<Swatch> makeSwatch(const engine::Layout& layout, const engine::Program& p, const std::vector<std::string>& lanes,
                          const std::string& block, const std::string& name, const std::string& notes);

std::string swatchText(const Swatch& swatch); // JSON
// Error: not a swatch, of a later version, or too large; the place in the file is named.
Result<Swatch> readSwatch(const std::string& text, const std::string& name);

struct Inserted {
    engine::Program program;
    std::vector<std::string> blocks{}; // what was added, ends first
    std::string leftOut{};             // what was left out, and why; may be empty
};
// A chain goes to the end of each lane (behind `after`, if one lane is meant); anything else is added beside what is
// there. Ends whose port the device does not have, or has in use already, are left out with their threads.
Result<Inserted> insertSwatch(const Device& device, const std::vector<std::string>& lanes, const std::string& after,
                              const Swatch& swatch);

// Swatches of a folder, by name; files that are none are told in `errors`.
struct LibraryEntry {
    Swatch swatch;
    std::string path;
    bool own = false; // in the user's own library: it may be removed
};
std::vector<LibraryEntry> library(std::vector<Error>* errors = nullptr);
std::string libraryFolder(); // the user's: $XDG_DATA_HOME/nimble-loom/swatches
// Keeps it in the user's library; another of its name is replaced only if `replace`. Gives the path.
Result<std::string> keepSwatch(const Swatch& swatch, bool replace);
// Of the user's own library only. A removed swatch lies in the folder "removed" there; gives that path.
Result<std::string> renameSwatch(const std::string& name, const std::string& newName);
Result<std::string> removeSwatch(const std::string& name);

} // namespace loom::project

namespace loom::schema {
LOOM_DESCRIBE(project::Swatch)
} // namespace loom::schema
