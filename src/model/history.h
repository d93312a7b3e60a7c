// What was done to a project, and can be undone.
#pragma once
#include "model/edit.h"
#include "model/notes.h"

namespace loom::project {

// Each step keeps the project before and after it; they share all that is the same. Edits that failed leave nothing
// behind.
class History {
  public:
    explicit History(Project& project) : project_(project) {}
    // What becomes of what is protected (model/notes.h).
    enum class Protected { kept, changed };
    // Error: what the edit says, that something it makes could not be saved and opened again (model/describe.h), or
    // that it changes what is protected (guarded() then says what); nothing was changed then.
    Result<Change> run(const Edit& edit, Protected guard = Protected::kept);
    const std::vector<Guarded>& guarded() const { return guarded_; } // by the last run(); empty: nothing
    // What became known of devices: kept with the project, but no step, and not moved by undo.
    Result<Change> note(const Edit& edit);
    bool canUndo() const { return at_ > 0; }
    bool canRedo() const { return at_ < steps_.size(); }
    std::string undoText() const { return canUndo() ? steps_[at_ - 1].text : ""; }
    std::string redoText() const { return canRedo() ? steps_[at_].text : ""; }
    Change undo();
    Change redo();
    void markSaved() {
        saved_ = at_;
        mayMerge_ = noted_ = false;
    }
    bool isSaved() const { return saved_ == at_ && !noted_; }
    void endMerge() { mayMerge_ = false; } // the drag is over
    void clear();

  private:
    struct Step {
        std::string text, sets;
        Project before, after;
    };
    Change go(Project to);
    Project& project_;
    std::vector<Guarded> guarded_;
    std::vector<Step> steps_;
    std::size_t at_ = 0, saved_ = 0;
    bool mayMerge_ = false, noted_ = false; // noted: since it was saved
};

} // namespace loom::project
