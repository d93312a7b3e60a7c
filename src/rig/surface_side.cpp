#include "rig/surface_side.h"
#include "site/audio_key.h"
#include "site/pin.h"
#include <algorithm>

namespace loom::rig {

using namespace project;

namespace {

const char* const whoHere = "A touch surface";

} // namespace

SurfaceSide::SurfaceSide(std::string serial, ModelSource models, Owner owner, std::function<double()> clock)
    : models_(std::move(models)), owner_(std::move(owner)), clock_(std::move(clock)), link_(std::move(serial)),
      pages_(*this) {
    link_.read = [this](const std::string& path) -> std::optional<double> {
        const auto it = own_.find(path);
        return it != own_.end() && it->second ? owner_.now(*it->second) : std::nullopt;
    };
    link_.line = [this](const std::string& path) {
        const auto it = own_.find(path);
        return it != own_.end() && it->second ? owner_.line(it->second->block) : std::string();
    };
    // Nothing but what a control of one of its surfaces may do.
    link_.taken = [this](const std::string& path, double value, const std::string& who) {
        const auto it = uses_.find(path);
        const auto own = own_.find(path);
        if (it == uses_.end() || !it->second.sets || own == own_.end() || !own->second)
            return false;
        return owner_.set(own->second->block + "." + own->second->param,
                          std::clamp(value, it->second.low, it->second.high), who.empty() ? whoHere : who);
    };
    link_.called = [this](const std::string& path, const std::string& does, const std::string& number) {
        const auto it = uses_.find(path);
        const auto own = own_.find(path);
        if (it != uses_.end() && it->second.sets && own != own_.end() && own->second)
            owner_.call(own->second->block, does, number);
    };
    link_.gaveUp = [this](const std::string& path) {
        owner_.note(whoHere, path + " could not be set: its device does not answer.", true);
    };
    pages_.secret = [] { return site::keyText(site::newAudioKey()); };
    pages_.admit = [this](const std::string& surface, const std::string& role, const std::string& pin,
                          const std::string& source) -> Result<Done> {
        const auto print = owner_.pinPrint(surface, role);
        if (print.empty())
            return Error{"it has no PIN on this device yet", role,
                         "Give it one in Surfaces while the device is paired."};
        if (const int wait = guesses_.begin(source, false, clock_()); wait > 0)
            return Error{"too many wrong PINs", role, "Try again in " + std::to_string(wait) + " s."};
        if (!site::isPin(print, pin)) {
            owner_.note("somebody", "A wrong PIN was tried at a touch surface.", true);
            return Error{"that PIN is wrong", role, ""};
        }
        guesses_.right(source, false);
        return Done{};
    };
}

Result<Done> SurfaceSide::check(const site::Config& config, const ModelSource& models,
                                const std::function<bool(const std::string& print)>& hasPicture) {
    for (const auto& [id, text] : config.surfaces) {
        if (text.empty())
            continue;
        const auto packed = unpackSurface(text, models);
        if (!packed)
            return Error{packed.error().message, "surfaces/" + id + " " + packed.error().place, packed.error().remedy};
        for (const auto& [name, print] : packed->pictures)
            if (!hasPicture(print))
                return Error{"its picture " + name + " was not sent", "surfaces/" + id, "Send it first."};
    }
    return Done{};
}

std::set<std::string> SurfaceSide::picturesIn(const site::Config& config) {
    std::set<std::string> all;
    for (const auto& [id, text] : config.surfaces)
        if (const auto packed = text.empty() ? Result<PackedSurface>(Error{}) : unpackSurface(text, ModelSource{}))
            for (const auto& [_, print] : packed->pictures)
                all.insert(print);
    return all;
}

void SurfaceSide::told(const site::Config& config) {
    std::map<std::string, std::string> prints = site::surfacePrints(config);
    if (prints == prints_)
        return; // values are not in there: they go on as they are
    prints_ = prints;
    std::set<std::string> ids, wanted;
    std::vector<PageHost::Served> served;
    uses_.clear();
    own_.clear();
    for (const auto& [id, text] : config.surfaces) {
        if (text.empty())
            continue;
        auto packed = unpackSurface(text, models_);
        if (!packed)
            continue;
        ids.insert(packed->as);
        for (const auto& [path, use] : pathsUsed(packed->project, packed->project.surfaces.front())) {
            const bool own = path.compare(0, packed->as.size() + 1, packed->as + "/") == 0;
            if (!own) {
                wanted.insert(path);
                continue;
            }
            auto& all = uses_[path];
            if (use.sets) {
                all.low = all.sets ? std::min(all.low, use.low) : use.low;
                all.high = all.sets ? std::max(all.high, use.high) : use.high;
                all.sets = true;
            }
            if (!own_.count(path))
                own_[path] = driveOf(packed->project, path);
        }
        PageHost::Served one;
        one.surface = packed->surface;
        for (const auto& [name, print] : packed->pictures)
            one.pictures[name] = "/picture/" + print;
        one.project = std::move(packed->project);
        served.push_back(std::move(one));
    }
    link_.be(ids);
    link_.want(wanted);
    pages_.serve(std::move(served));
}

void SurfaceSide::off() {
    pages_.closeAll();
    pages_.serve({});
    prints_.clear();
    uses_.clear();
    own_.clear();
    link_.be({});
    link_.want({});
}

void SurfaceSide::tick() {
    pages_.tick(clock_());
}

// ---- values ----

std::optional<double> SurfaceSide::now(const Drive& d) {
    return isOwn(d) ? owner_.now(d) : link_.now(d.path);
}

void SurfaceSide::set(const Drive& d, double value) {
    if (isOwn(d))
        (void)owner_.set(d.block + "." + d.param, value, whoHere);
    else
        link_.set(d.path, value, whoHere, clock_());
}

std::string SurfaceSide::line(const Drive& d) {
    return isOwn(d) ? owner_.line(d.block) : link_.lineNow(d.path);
}

void SurfaceSide::call(const Drive& d, const std::string& does, const std::string& number) {
    if (isOwn(d))
        owner_.call(d.block, does, number);
    else
        link_.call(d.path, does, number, clock_());
}

} // namespace loom::rig
