// What keeps unsaved work through a crash, and a project from being worked on twice at once.
#pragma once
#include "engine/result.h"
#include "model/project.h"
#include <optional>

namespace loom::project {

// The journal of a project is a folder beside it, PATH.autosave, or, while it has no file, one of the user's own
// ($XDG_STATE_HOME/nimble-loom/unnamed-...). It holds the whole project.json and those files that the saved project
// does not have, each once, and says which content it is based on; so nothing that was saved since is ever replaced by
// it.
std::string stateFolder(); // of the user's own: $XDG_STATE_HOME/nimble-loom
std::string journalPath(const std::string& projectPath);
std::string freshUnnamedJournal();
std::vector<std::string> unnamedJournals(); // those left behind by programs that run no longer

// May be called from any thread, one call a journal at a time. base: the project as it is saved (empty if it never
// was).
Result<Done> writeJournal(const Project& now, const Project& base, const std::string& journal);

struct Recovered {
    Project project;
    std::string based;             // contentStamp() of what it was based on
    std::string when;              // "2026-11-28 10:32"
    std::vector<std::string> gone; // files whose bytes are in neither
};
// The unsaved work in a journal, if there is any and it is whole. base: where the files come from that it shares.
std::optional<Recovered> readJournal(const std::string& journal, const Project& base, const ModelSource& models);
void dropJournal(const std::string& journal);

// Who works on a project: held in PATH.lock until this object goes, or the program ends in whatever way.
class ProjectLock {
  public:
    struct Holder {
        std::string who, since; // "ana on studio", "2026-11-28 10:32"
    };
    // A lock that holds; or, where another holds it, one that does not, and who that is. A place where no lock can be
    // made (a read-only medium) is not locked.
    static ProjectLock take(const std::string& projectPath);
    ProjectLock() = default;
    ProjectLock(ProjectLock&& other) noexcept;
    ProjectLock& operator=(ProjectLock&& other) noexcept;
    ~ProjectLock();
    const std::optional<Holder>& other() const { return other_; }

  private:
    int file_ = -1;
    std::string path_;
    std::optional<Holder> other_;
};

} // namespace loom::project
