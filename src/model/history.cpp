#include "model/history.h"
#include "model/asset_name.h"
#include "model/describe.h"

namespace loom::project {
namespace {

// The project after an edit, if it can be saved and opened again. Only what is not as before is looked at.
Result<Project> madeBy(const Edit& edit, const Project& before) {
    auto after = edit.make ? edit.make(before) : Result<Project>(before);
    if (!after)
        return after;
    std::optional<Error> wrong;
    if (!after->assets.is(before.assets) || !after->unknownFiles.is(before.unknownFiles))
        wrong = errorInFiles(*after);
    if (!wrong)
        wrong = schema::errorIn(*after, "", &before);
    if (!wrong)
        return after;
    if (wrong->remedy.empty())
        wrong->remedy = "Nothing was changed.";
    return *wrong;
}

} // namespace

Result<Change> History::run(const Edit& edit, Protected guard) {
    guarded_.clear();
    auto after = madeBy(edit, project_);
    if (!after)
        return after.error();
    if (guard == Protected::kept)
        guarded_ = guardedChanges(project_, *after);
    if (!guarded_.empty())
        return guardedError(guarded_);
    const Change change = changeBetween(project_, *after);
    steps_.resize(at_);
    if (saved_ > at_)
        saved_ = SIZE_MAX; // what was saved can no longer be reached by undo or redo
    const bool joins = mayMerge_ && edit.merge && at_ > 0 && saved_ != at_ && steps_.back().sets == edit.sets;
    if (joins)
        steps_.back().after = *after;
    else {
        steps_.push_back({edit.text, edit.sets, project_, *after});
        ++at_;
    }
    project_ = std::move(*after);
    mayMerge_ = true;
    return change;
}

Result<Change> History::note(const Edit& edit) {
    auto after = madeBy(edit, project_);
    if (!after)
        return after.error();
    const Change change = changeBetween(project_, *after);
    project_ = std::move(*after);
    mayMerge_ = false;
    noted_ = true;
    return change;
}

// Steps hold whole projects; what is known of found devices stays with these, by their serials, and so do proofs.
Change History::go(Project to) {
    std::map<std::string, Known> known;
    for (const auto& d : project_.devices)
        if (!d.serial.empty())
            known[d.serial] = d.known;
    for (std::size_t i = 0; i < to.devices.size(); ++i)
        if (const auto it = known.find(to.devices[i].serial); it != known.end() && !(to.devices[i].known == it->second))
            to.devices.change(i).known = it->second;
    to.proofs = project_.proofs; // they tell themselves what they were made on
    const Change change = changeBetween(project_, to);
    project_ = std::move(to);
    mayMerge_ = false;
    return change;
}

Change History::undo() {
    return go(steps_.at(--at_).before);
}

Change History::redo() {
    return go(steps_.at(at_++).after);
}

void History::clear() {
    steps_.clear();
    at_ = saved_ = 0;
    mayMerge_ = noted_ = false;
}

} // namespace loom::project
