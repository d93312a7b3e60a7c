// Named edits: the only way a project changes. They hold ids and values, never pointers.
#pragma once
#include "engine/result.h"
#include "project/model.h"
#include <functional>
#include <map>
#include <memory>

namespace loom::project {

// What an edit touched, so that views redraw and the running sound follows.
struct Change {
    enum class Kind { value, program, device, survey, project } kind = Kind::project;
    std::string device{}, block{}, param{}; // as far as they apply
};

class Edit {
  public:
    virtual ~Edit() = default;
    virtual std::string text() const = 0;               // "Set Delegate 3 · Equaliser · Band 2 gain"
    virtual Result<Change> apply(Project& project) = 0; // trouble: nothing was changed
    virtual Change revert(Project& project) = 0;
    virtual bool absorb(const Edit& next) { return (void)next, false; } // one step for one drag
};

// Sets a parameter by path, e.g. "heddle/delegate-3.eq.2.gain". Entering a band's value switches the band on, and the
// block with it. merge: joins with the step before if that set the same parameter (dragging, wheel).
std::unique_ptr<Edit> setValue(const Project& project, const std::string& path, double value, bool merge = false);
// Sets several parameters of one device's program, by "block.parameter", as one step: all or none.
std::unique_ptr<Edit> setValues(const std::string& device, std::map<std::string, double> values, std::string text,
                                bool merge = false);
// Puts another program in place of the one a device has; the piece most edits of structure are made of.
std::unique_ptr<Edit> setProgram(const std::string& device, engine::Program program, std::string text);
// Gives a block a sound file under a key of its texts (engine/play_list.h): the bytes go into the project's assets
// under `name` (another name if there is another file of that name).
std::unique_ptr<Edit> setFile(const std::string& device, const std::string& block, const std::string& key,
                              const std::string& name, std::vector<char> bytes);
// Any other change of a device or of the project's own fields.
std::unique_ptr<Edit> changeDevice(const std::string& device, std::string text, std::function<void(Device&)> how);
// Rooms, walls and racks anew; programs do not hear of it. merge: joins with the step before if that had the same text.
std::unique_ptr<Edit> setBuildings(std::vector<Building> buildings, std::string text, bool merge = false);
// Devices by id: as they are to be from now on; none: taken out. A new one stands at the end of the list.
std::unique_ptr<Edit> setDevices(std::map<std::string, std::optional<Device>> devices, std::string text,
                                 bool merge = false);
// Where devices are, by id.
std::unique_ptr<Edit> placeDevices(std::map<std::string, Place> places, std::string text, bool merge = false);
// Several edits as one step: all or none.
std::unique_ptr<Edit> together(std::vector<std::unique_ptr<Edit>> edits, std::string text);
// A file into the project under `name`.
std::unique_ptr<Edit> addAsset(std::string name, std::vector<char> bytes);
// Leaves a finding as it is, for a reason; "" takes it up again.
std::unique_ptr<Edit> leaveFinding(Left finding);
std::unique_ptr<Edit> renameProject(std::string name);
// Another project in place of this one, as one step: work that was recovered.
std::unique_ptr<Edit> replaceProject(Project project, std::string text);

// What was done, and can be undone. Edits that failed leave nothing behind.
class History {
  public:
    explicit History(Project& project) : project_(project) {}
    // Trouble: what the edit says, or that something it makes could not be saved and opened again (project/describe.h);
    // nothing was changed then.
    Result<Change> run(std::unique_ptr<Edit> edit);
    // What became known of devices: kept with the project, but no step, and not moved by undo.
    Result<Change> note(std::unique_ptr<Edit> edit);
    bool canUndo() const { return at_ > 0; }
    bool canRedo() const { return at_ < edits_.size(); }
    std::string undoText() const { return canUndo() ? edits_[at_ - 1]->text() : ""; }
    std::string redoText() const { return canRedo() ? edits_[at_]->text() : ""; }
    Change undo();
    Change redo();
    void markSaved() { saved_ = at_, mayMerge_ = noted_ = false; }
    bool isSaved() const { return saved_ == at_ && !noted_; }
    void endMerge() { mayMerge_ = false; } // the drag is over
    void clear();

  private:
    Result<Change> checked(Edit& edit);
    template <class F> Change keepingKnown(F move);
    Project& project_;
    std::vector<std::unique_ptr<Edit>> edits_;
    std::size_t at_ = 0, saved_ = 0;
    bool mayMerge_ = false, noted_ = false; // noted: since it was saved
};

} // namespace loom::project
