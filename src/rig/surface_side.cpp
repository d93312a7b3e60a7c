#include "rig/surface_side.h"
#include "rules/rule_pack.h"
#include "site/audio_key.h"
#include <algorithm>

namespace loom::rig {

using namespace project;

namespace {

const char* const whoHere = "A touch surface";

// As far as any of its surfaces sets it; before it can be set by this one.
void widen(ValueSide::Own& own, const PathUse& use) {
    own.low = own.set ? std::min(own.low, use.low) : use.low;
    own.high = own.set ? std::max(own.high, use.high) : use.high;
}

} // namespace

SurfaceSide::SurfaceSide(ModelSource models, Owner owner, std::function<double()> clock, ValueSide& values)
    : models_(std::move(models)), owner_(std::move(owner)), clock_(std::move(clock)), values_(values), pages_(*this),
      gate_(clock_, [this](const std::string&) {
          owner_.note("somebody", "A wrong PIN was tried at a touch surface.", true);
      }) {
    pages_.secret = [] { return site::keyText(site::newAudioKey()); };
    pages_.admit = [this](const std::string& surface, const std::string& role, const std::string& pin,
                          const std::string& source) -> Result<Done> {
        const auto print = owner_.pinPrint(surface, role);
        if (print.empty())
            return Error{"it has no PIN on this device yet", role,
                         "Give it one in Surfaces while the device is paired."};
        return gate_.admit(role, print, pin, source);
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
    ValueSide::Needs needs;
    std::vector<PageHost::Served> served;
    tellers_.clear();
    for (const auto& [id, text] : config.surfaces) {
        if (text.empty())
            continue;
        auto packed = unpackSurface(text, models_);
        if (!packed)
            continue;
        needs.ids.insert(packed->as);
        tellers_.merge(packed->tells);
        for (const auto& [path, use] : pathsUsed(packed->project, packed->project.surfaces.front())) {
            if (const auto teller = tellers_.find(path); teller != tellers_.end()) {
                if (teller->second != packed->as)
                    needs.wanted.insert(linkPath(teller->second, path));
                else if (const auto drive = controlDrive(packed->project, path))
                    ownSignal(needs.own[linkPath(packed->as, path)], path, drive->kind == Drive::Kind::cue, use);
                continue;
            }
            if (path.compare(0, packed->as.size() + 1, packed->as + "/") != 0) {
                needs.wanted.insert(path);
                continue;
            }
            const auto drive = driveOf(packed->project, path);
            if (!drive)
                continue;
            auto& own = needs.own[path];
            own.read = [this, d = *drive] { return owner_.now(d); };
            own.line = [this, port = drive->block] { return owner_.line(port); };
            if (!use.sets)
                continue;
            widen(own, use);
            own.set = [this, param = drive->block + "." + drive->param](double value, const std::string& who) {
                return owner_.set(param, value, who.empty() ? whoHere : who);
            };
            own.call = [this, port = drive->block](const std::string& does, const std::string& number) {
                owner_.call(port, does, number);
            };
        }
        PageHost::Served one;
        one.surface = packed->surface;
        for (const auto& [name, print] : packed->pictures)
            one.pictures[name] = "/picture/" + print;
        one.project = std::move(packed->project);
        served.push_back(std::move(one));
    }
    values_.told(ValueSide::Whose::surfaces, std::move(needs));
    pages_.serve(std::move(served));
}

void SurfaceSide::ownSignal(ValueSide::Own& own, const std::string& path, bool moment, const PathUse& use) {
    if (moment) {
        own.read = [] { return 0.0; };
        own.call = [this, path](const std::string&, const std::string&) { (void)owner_.setState(path, 1, whoHere); };
        return;
    }
    own.read = [this, path] { return owner_.state(path); };
    if (!use.sets)
        return;
    widen(own, use);
    own.set = [this, path](double value, const std::string& who) {
        return owner_.setState(path, value, who.empty() ? whoHere : who);
    };
}

void SurfaceSide::off() {
    pages_.closeAll();
    pages_.serve({});
    prints_.clear();
    tellers_.clear();
    values_.told(ValueSide::Whose::surfaces, {});
}

void SurfaceSide::tick() {
    pages_.tick(clock_());
}

// ---- values ----

std::string SurfaceSide::tellerOf(const Drive& d) const {
    const auto it = tellers_.find(d.path);
    return it == tellers_.end() ? d.device : it->second;
}

std::string SurfaceSide::farPath(const Drive& d) const {
    return isSignal(d) ? linkPath(tellerOf(d), d.path) : d.path;
}

std::optional<double> SurfaceSide::now(const Drive& d) {
    if (!isOwn(d)) {
        const auto v = values_.now(farPath(d));
        return !v && d.path.rfind(devicePrefix, 0) == 0 ? 0 : v; // one that is not heard of is lost
    }
    return isSignal(d) ? owner_.state(d.path) : owner_.now(d);
}

void SurfaceSide::set(const Drive& d, double value) {
    if (!isOwn(d))
        values_.set(farPath(d), value, whoHere);
    else if (isSignal(d))
        (void)owner_.setState(d.path, value, whoHere);
    else
        (void)owner_.set(d.block + "." + d.param, value, whoHere);
}

bool SurfaceSide::give(const Drive& d) {
    if (!isSignal(d))
        return owner_.give(d.path);
    if (isOwn(d))
        return owner_.setState(d.path, 1, whoHere);
    values_.call(farPath(d), "give", "");
    return true;
}

std::string SurfaceSide::line(const Drive& d) {
    return isOwn(d) ? owner_.line(d.block) : values_.lineNow(d.path);
}

void SurfaceSide::call(const Drive& d, const std::string& does, const std::string& number) {
    if (isOwn(d))
        owner_.call(d.block, does, number);
    else
        values_.call(d.path, does, number);
}

} // namespace loom::rig
