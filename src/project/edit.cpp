#include "project/edit.h"
#include "dsp/number.h"
#include "engine/block_kind.h"
#include "project/asset_name.h"
#include "project/describe.h"
#include "project/findings.h"
#include "project/speaker_edit.h"
#include "project/store.h"
#include <algorithm>

namespace loom::project {
namespace {

using engine::Block;

class SetValue final : public Edit {
  public:
    SetValue(const Project& p, std::string path, double value, bool merge)
        : path_(std::move(path)), value_(value), merge_(merge) {
        if (const auto place = findPlace(p, path_)) {
            device_ = place->device->id, block_ = place->block->id, param_ = place->param;
            const engine::BlockView view(*place->block);
            text_ = "Set " + blockName(*place->device->program, *place->block) + " \u00b7 " +
                    view.table->specs()[view.table->indexOf(param_)].label;
        }
    }
    std::string text() const override { return text_; }

    Result<Change> apply(Project& p) override {
        const auto place = findPlace(p, path_);
        if (!place)
            return Trouble{"there is no such parameter", path_,
                           "loomctl info FILE lists blocks, loomctl blocks their parameters."};
        Block& b = *p.device(device_)->program->find(block_);
        const engine::BlockView view(b);
        const auto& spec = view.table->specs()[view.table->indexOf(param_)];
        if (!(value_ >= spec.min && value_ <= spec.max))
            return Trouble{exactText(value_) + " is outside the range", path_,
                           "Use " + engine::formatValue(spec, spec.min) + " to " + engine::formatValue(spec, spec.max) +
                               "."};
        before_ = b.values;
        engine::enterValue(b, param_, value_);
        return Change{Change::Kind::value, device_, block_, param_};
    }
    Change revert(Project& p) override {
        p.device(device_)->program->find(block_)->values = before_;
        return {Change::Kind::value, device_, block_, param_};
    }
    bool absorb(const Edit& next) override {
        const auto* n = dynamic_cast<const SetValue*>(&next);
        if (!n || !n->merge_ || n->path_ != path_)
            return false;
        value_ = n->value_;
        return true;
    }

  private:
    std::string path_, device_, block_, param_, text_;
    double value_;
    bool merge_;
    std::map<std::string, double> before_;
};

// Several parameters at once, of any blocks of one program.
class SetValues final : public Edit {
  public:
    SetValues(std::string device, std::map<std::string, double> values, std::string text, bool merge)
        : device_(std::move(device)), text_(std::move(text)), values_(std::move(values)), merge_(merge) {}
    std::string text() const override { return text_; }

    Result<Change> apply(Project& p) override {
        Device* d = p.device(device_);
        if (!d || !d->program)
            return Trouble{"there is no such device", device_, ""};
        std::map<std::string, std::map<std::string, double>> before;
        std::vector<std::pair<Block*, std::string>> places;
        for (const auto& [address, value] : values_) { // all of them are looked at before anything is changed
            const auto at = engine::findParameter(*d->program, address);
            if (!at.block)
                return Trouble{"there is no such parameter", address,
                               "loomctl info FILE lists blocks, loomctl blocks their parameters."};
            const engine::BlockView view(*at.block);
            const auto& spec = view.table->specs()[static_cast<std::size_t>(at.index)];
            if (!(value >= spec.min && value <= spec.max))
                return Trouble{exactText(value) + " is outside the range", address,
                               "Use " + engine::formatValue(spec, spec.min) + " to " +
                                   engine::formatValue(spec, spec.max) + "."};
            before.emplace(at.block->id, at.block->values);
            places.emplace_back(d->program->find(at.block->id), at.param);
        }
        std::size_t i = 0;
        for (const auto& [address, value] : values_) {
            engine::enterValue(*places[i].first, places[i].second, value);
            ++i;
        }
        before_ = std::move(before);
        return Change{Change::Kind::program, device_};
    }
    Change revert(Project& p) override {
        for (const auto& [block, values] : before_)
            p.device(device_)->program->find(block)->values = values;
        return {Change::Kind::program, device_};
    }
    bool absorb(const Edit& next) override {
        const auto* n = dynamic_cast<const SetValues*>(&next);
        const auto sameName = [](const auto& a, const auto& b) { return a.first == b.first; };
        if (!n || !n->merge_ || n->device_ != device_ ||
            !std::equal(values_.begin(), values_.end(), n->values_.begin(), n->values_.end(), sameName))
            return false;
        values_ = n->values_;
        return true;
    }

  private:
    std::string device_, text_;
    std::map<std::string, double> values_;
    bool merge_;
    std::map<std::string, std::map<std::string, double>> before_; // by block
};

class SetProgram final : public Edit {
  public:
    SetProgram(std::string device, engine::Program program, std::string text)
        : device_(std::move(device)), text_(std::move(text)), other_(std::move(program)) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override {
        if (!p.device(device_))
            return Trouble{"there is no such device", device_, ""};
        return swap(p);
    }
    Change revert(Project& p) override { return swap(p); }

  private:
    Change swap(Project& p) {
        std::swap(p.device(device_)->program, other_);
        return {Change::Kind::program, device_};
    }
    std::string device_, text_;
    std::optional<engine::Program> other_;
};

class SetFile final : public Edit {
  public:
    SetFile(std::string device, std::string block, std::string key, std::string name, std::vector<char> bytes)
        : device_(std::move(device)), block_(std::move(block)), key_(std::move(key)), name_(std::move(name)),
          bytes_(std::move(bytes)) {}
    std::string text() const override { return "Use " + name_; }
    Result<Change> apply(Project& p) override {
        Device* d = p.device(device_);
        Block* b = d && d->program ? d->program->find(block_) : nullptr;
        if (!b)
            return Trouble{"there is no such block", device_ + "/" + block_, ""};
        before_ = b->texts;
        const std::string name = freeAssetName(p.assets, name_, bytes_);
        if (p.assets.emplace(name, bytes_).second)
            added_ = name;
        b->texts[key_] = name;
        return Change{Change::Kind::program, device_};
    }
    Change revert(Project& p) override {
        p.device(device_)->program->find(block_)->texts = before_;
        if (added_)
            p.assets.erase(*added_);
        added_.reset();
        return {Change::Kind::program, device_};
    }

  private:
    std::string device_, block_, key_, name_;
    Asset bytes_;
    std::map<std::string, std::string> before_;
    std::optional<std::string> added_;
};

class ChangeDevice final : public Edit {
  public:
    ChangeDevice(std::string device, std::string text, std::function<void(Device&)> how)
        : device_(std::move(device)), text_(std::move(text)), how_(std::move(how)) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override {
        Device* d = p.device(device_);
        if (!d)
            return Trouble{"there is no such device", device_, ""};
        before_ = *d;
        how_(*d);
        return Change{Change::Kind::device, device_};
    }
    Change revert(Project& p) override {
        *p.device(device_) = before_;
        return {Change::Kind::device, device_};
    }

  private:
    std::string device_, text_;
    std::function<void(Device&)> how_;
    Device before_;
};

class RenameProject final : public Edit {
  public:
    explicit RenameProject(std::string name) : other_(std::move(name)) {}
    std::string text() const override { return "Rename project"; }
    Result<Change> apply(Project& p) override {
        std::swap(p.name, other_);
        return Change{};
    }
    Change revert(Project& p) override {
        std::swap(p.name, other_);
        return {};
    }

  private:
    std::string other_;
};

class LeaveFinding final : public Edit {
  public:
    explicit LeaveFinding(Left finding) : finding_(std::move(finding)) {}
    std::string text() const override { return finding_.because.empty() ? "Take up a finding" : "Leave a finding"; }
    Result<Change> apply(Project& p) override {
        if (finding_.because.size() > 2000)
            return Trouble{"this reason is too long", "", "Say it in 2,000 letters at most."};
        before_ = p.left;
        std::erase_if(p.left, [&](const Left& l) {
            return l.code == finding_.code && l.device == finding_.device && l.block == finding_.block;
        });
        if (!finding_.because.empty())
            p.left.push_back(finding_);
        return Change{};
    }
    Change revert(Project& p) override {
        p.left = before_;
        return {};
    }

  private:
    Left finding_;
    std::vector<Left> before_;
};

class SetBuildings final : public Edit {
  public:
    SetBuildings(std::vector<Building> buildings, std::string text, bool merge)
        : other_(std::move(buildings)), text_(std::move(text)), merge_(merge) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override { return revert(p); }
    Change revert(Project& p) override {
        std::swap(p.buildings, other_);
        return {Change::Kind::survey};
    }
    bool absorb(const Edit& next) override {
        const auto* n = dynamic_cast<const SetBuildings*>(&next);
        return n && n->merge_ && n->text_ == text_;
    }

  private:
    std::vector<Building> other_;
    std::string text_;
    bool merge_;
};

class SetDevices final : public Edit {
  public:
    SetDevices(std::map<std::string, std::optional<Device>> devices, std::string text, bool merge)
        : other_(std::move(devices)), text_(std::move(text)), merge_(merge) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override {
        for (const auto& [id, device] : other_)
            if (device && (device->id != id || id.empty()))
                return Trouble{"a device needs an id of its own", id, ""};
        return swap(p);
    }
    Change revert(Project& p) override { return swap(p); }
    bool absorb(const Edit& next) override {
        const auto* n = dynamic_cast<const SetDevices*>(&next);
        const auto sameName = [](const auto& a, const auto& b) { return a.first == b.first; };
        return n && n->merge_ && n->text_ == text_ &&
               std::equal(other_.begin(), other_.end(), n->other_.begin(), n->other_.end(), sameName);
    }

  private:
    // Devices that go leave their place in the list behind, so that they come back to it.
    Change swap(Project& p) {
        std::map<std::string, std::optional<Device>> before;
        std::map<std::string, std::size_t> places;
        std::vector<std::pair<std::size_t, Device>> coming;
        for (std::size_t i = 0; i < p.devices.size(); ++i)
            if (other_.count(p.devices[i].id))
                places[p.devices[i].id] = i;
        for (auto& [id, device] : other_) {
            const auto at = places.find(id);
            before[id] = at == places.end() ? std::nullopt : std::optional(p.devices[at->second]);
            if (device && at != places.end())
                p.devices[at->second] = std::move(*device);
            else if (device)
                coming.emplace_back(homes_.count(id) ? homes_[id] : p.devices.size() + coming.size(),
                                    std::move(*device));
        }
        for (const auto& [id, at] : places)
            homes_[id] = at;
        std::erase_if(p.devices, [&](const Device& d) {
            const auto it = other_.find(d.id);
            return it != other_.end() && !it->second;
        });
        std::sort(coming.begin(), coming.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        for (auto& [at, device] : coming)
            p.devices.insert(p.devices.begin() + static_cast<std::ptrdiff_t>(std::min(at, p.devices.size())),
                             std::move(device));
        other_ = std::move(before);
        return {Change::Kind::project};
    }
    std::map<std::string, std::optional<Device>> other_;
    std::map<std::string, std::size_t> homes_;
    std::string text_;
    bool merge_;
};

class PlaceDevices final : public Edit {
  public:
    PlaceDevices(std::map<std::string, Place> places, std::string text, bool merge)
        : other_(std::move(places)), text_(std::move(text)), merge_(merge) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override {
        for (const auto& [id, place] : other_)
            if (!p.device(id))
                return Trouble{"there is no such device", id, ""};
        return revert(p);
    }
    Change revert(Project& p) override {
        for (auto& d : p.devices)
            if (const auto it = other_.find(d.id); it != other_.end())
                std::swap(d.place, it->second);
        return {Change::Kind::survey};
    }
    bool absorb(const Edit& next) override {
        const auto* n = dynamic_cast<const PlaceDevices*>(&next);
        const auto sameName = [](const auto& a, const auto& b) { return a.first == b.first; };
        return n && n->merge_ && n->text_ == text_ &&
               std::equal(other_.begin(), other_.end(), n->other_.begin(), n->other_.end(), sameName);
    }

  private:
    std::map<std::string, Place> other_;
    std::string text_;
    bool merge_;
};

class Together final : public Edit {
  public:
    Together(std::vector<std::unique_ptr<Edit>> edits, std::string text)
        : edits_(std::move(edits)), text_(std::move(text)) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override {
        for (std::size_t i = 0; i < edits_.size(); ++i)
            if (auto done = edits_[i]->apply(p); !done) {
                while (i-- > 0)
                    edits_[i]->revert(p);
                return done;
            }
        return Change{};
    }
    Change revert(Project& p) override {
        for (std::size_t i = edits_.size(); i-- > 0;)
            edits_[i]->revert(p);
        return {};
    }

  private:
    std::vector<std::unique_ptr<Edit>> edits_;
    std::string text_;
};

class AddAsset final : public Edit {
  public:
    AddAsset(std::string name, std::vector<char> bytes) : name_(std::move(name)), bytes_(std::move(bytes)) {}
    std::string text() const override { return "Add " + name_; }
    Result<Change> apply(Project& p) override {
        before_ = p.assets.count(name_) ? std::optional(p.assets[name_]) : std::nullopt;
        p.assets[name_] = bytes_;
        return Change{Change::Kind::survey};
    }
    Change revert(Project& p) override {
        if (before_)
            p.assets[name_] = *before_;
        else
            p.assets.erase(name_);
        return {Change::Kind::survey};
    }

  private:
    std::string name_;
    Asset bytes_;
    std::optional<Asset> before_;
};

class ReplaceProject final : public Edit {
  public:
    ReplaceProject(Project project, std::string text) : other_(std::move(project)), text_(std::move(text)) {}
    std::string text() const override { return text_; }
    Result<Change> apply(Project& p) override { return revert(p); }
    Change revert(Project& p) override {
        std::swap(p, other_);
        return {};
    }

  private:
    Project other_;
    std::string text_;
};

// What cannot be, for a factory whose troubles come when it is run.
class Refused final : public Edit {
  public:
    explicit Refused(Trouble trouble) : trouble_(std::move(trouble)) {}
    std::string text() const override { return "Refused"; }
    Result<Change> apply(Project&) override { return trouble_; }
    Change revert(Project&) override { return {}; }

  private:
    Trouble trouble_;
};

} // namespace

std::unique_ptr<Edit> setBuildings(std::vector<Building> buildings, std::string text, bool merge) {
    return std::make_unique<SetBuildings>(std::move(buildings), std::move(text), merge);
}

std::unique_ptr<Edit> setDevices(std::map<std::string, std::optional<Device>> devices, std::string text, bool merge) {
    return std::make_unique<SetDevices>(std::move(devices), std::move(text), merge);
}

std::unique_ptr<Edit> placeDevices(std::map<std::string, Place> places, std::string text, bool merge) {
    return std::make_unique<PlaceDevices>(std::move(places), std::move(text), merge);
}

std::unique_ptr<Edit> together(std::vector<std::unique_ptr<Edit>> edits, std::string text) {
    return std::make_unique<Together>(std::move(edits), std::move(text));
}

std::unique_ptr<Edit> addAsset(std::string name, std::vector<char> bytes) {
    return std::make_unique<AddAsset>(std::move(name), std::move(bytes));
}

std::unique_ptr<Edit> leaveFinding(Left finding) {
    return std::make_unique<LeaveFinding>(std::move(finding));
}

std::unique_ptr<Edit> setValue(const Project& p, const std::string& path, double value, bool merge) {
    if (const auto place = findPlace(p, path)) { // a voicing's value is set for all that have it
        auto voiced = setVoicedValue(p, place->device->id, place->block->id, place->param, value, merge);
        if (!voiced)
            return std::make_unique<Refused>(voiced.trouble());
        if (*voiced)
            return std::move(*voiced);
    }
    return std::make_unique<SetValue>(p, path, value, merge);
}

std::unique_ptr<Edit> setValues(const std::string& device, std::map<std::string, double> values, std::string text,
                                bool merge) {
    return std::make_unique<SetValues>(device, std::move(values), std::move(text), merge);
}

std::unique_ptr<Edit> setProgram(const std::string& device, engine::Program program, std::string text) {
    return std::make_unique<SetProgram>(device, std::move(program), std::move(text));
}

std::unique_ptr<Edit> setFile(const std::string& device, const std::string& block, const std::string& key,
                              const std::string& name, std::vector<char> bytes) {
    return std::make_unique<SetFile>(device, block, key, name, std::move(bytes));
}

std::unique_ptr<Edit> changeDevice(const std::string& device, std::string text, std::function<void(Device&)> how) {
    return std::make_unique<ChangeDevice>(device, std::move(text), std::move(how));
}

std::unique_ptr<Edit> renameProject(std::string name) {
    return std::make_unique<RenameProject>(std::move(name));
}

std::unique_ptr<Edit> replaceProject(Project project, std::string text) {
    return std::make_unique<ReplaceProject>(std::move(project), std::move(text));
}

namespace {

// Whether what an edit touched can be saved and opened again.
std::optional<Trouble> troubleAfter(const Project& p, const Change& c) {
    using Kind = Change::Kind;
    const auto* d = p.device(c.device);
    if (c.kind == Kind::value) {
        const auto* b = d && d->program ? d->program->find(c.block) : nullptr;
        return b ? schema::troubleWith(*b, b->id) : std::nullopt;
    }
    if (auto wrong = troubleWithFiles(p))
        return wrong;
    if (c.kind == Kind::program && d)
        return d->program ? schema::troubleWith(*d->program, d->name) : std::nullopt;
    if (c.kind == Kind::device && d)
        return schema::troubleWith(*d, d->name);
    if (c.kind == Kind::survey) {
        for (const auto& b : p.buildings)
            if (auto wrong = schema::troubleWith(b, b.name))
                return wrong;
        for (const auto& one : p.devices)
            if (auto wrong = schema::troubleWith(one.place, one.name))
                return wrong;
        return {};
    }
    return schema::troubleWith(p);
}

} // namespace

Result<Change> History::checked(Edit& edit) {
    auto change = edit.apply(project_);
    if (!change)
        return change;
    if (auto wrong = troubleAfter(project_, *change)) {
        edit.revert(project_);
        if (wrong->remedy.empty())
            wrong->remedy = "Nothing was changed.";
        return *wrong;
    }
    return change;
}

Result<Change> History::run(std::unique_ptr<Edit> edit) {
    auto change = checked(*edit);
    if (!change)
        return change;
    edits_.resize(at_);
    if (saved_ > at_)
        saved_ = SIZE_MAX; // what was saved can no longer be reached by undo or redo
    if (mayMerge_ && at_ > 0 && saved_ != at_ && edits_.back()->absorb(*edit))
        return change;
    edits_.push_back(std::move(edit));
    ++at_;
    mayMerge_ = true;
    return change;
}

Result<Change> History::note(std::unique_ptr<Edit> edit) {
    auto change = checked(*edit);
    mayMerge_ = mayMerge_ && !change;
    noted_ = noted_ || change;
    return change;
}

// Steps hold whole devices; what is known of the found ones stays with these, by their serials.
template <class F> Change History::keepingKnown(F move) {
    mayMerge_ = false;
    std::map<std::string, Known> known;
    for (const auto& d : project_.devices)
        if (!d.serial.empty())
            known[d.serial] = d.known;
    const Change change = move();
    if (!known.empty() && change.kind != Change::Kind::value && change.kind != Change::Kind::program)
        for (auto& d : project_.devices)
            if (const auto it = known.find(d.serial); it != known.end())
                d.known = it->second;
    return change;
}

Change History::undo() {
    return keepingKnown([this] { return edits_.at(--at_)->revert(project_); });
}

Change History::redo() {
    return keepingKnown([this] {
        auto change = edits_.at(at_++)->apply(project_);
        return change ? *change : Change{};
    });
}

void History::clear() {
    edits_.clear();
    at_ = saved_ = 0;
    mayMerge_ = noted_ = false;
}

} // namespace loom::project
