// Changes to and fro while live.
#include "client/fleet.h"
#include "engine/block_kind.h"

namespace loom::client {

namespace {
constexpr int meterMs = 50;
} // namespace

void Fleet::noteAgreed() {
    std::map<std::string, std::optional<project::Device>> changed;
    for (const auto& [id, m] : members_) {
        const auto* d = design_.project().device(id);
        if (!d || !m->agreed)
            continue;
        auto n = *d;
        n.known.sent = m->agreed->program;
        n.known.setUp = m->agreed->setUp;
        n.known.revision = m->agreedRevision;
        n.known.boot = m->agreedBoot;
        if (!(n == *d))
            changed[id] = n;
    }
    if (!changed.empty())
        design_.note(project::setDevices(std::move(changed), "Note what was changed live"));
}

void Fleet::setLive(bool on) {
    if (live_ && !on)
        noteAgreed();
    live_ = on;
    const auto* m = member(design_.working());
    tools_.setLive(live_ && m && m->link.up());
    live_ ? meterTimer_.start(meterMs) : meterTimer_.stop();
    std::size_t differing = 0;
    for (const auto& [_, one] : members_) {
        differing += one->rows.size();
        one->meters.clear();
    }
    if (live_ && differing > 0)
        design_.say("Live: what you change from now on reaches the devices. " + std::to_string(differing) +
                        (differing == 1 ? " value differs from before; Try it sends it."
                                        : " values differ from before; Try it sends them."),
                    false);
    emit liveChanged();
}

void Fleet::follow(const project::Change& change) {
    using Kind = project::Change::Kind;
    if (live_ && change.kind != Kind::surface)
        for (auto& [id, m] : members_)
            if ((change.device.empty() || change.device == id) && m->link.up())
                sendChange(*m, change.kind == Kind::value ? change.block : std::string());
    for (auto& [id, m] : members_)
        if (const auto* d = design_.project().device(id))
            m->designSetUp = project::setUpOf(*d);
    if (change.kind != Kind::value && change.kind != Kind::surface) {
        const auto before = members_.size();
        sync();
        if (members_.size() != before || change.kind == Kind::project || change.kind == Kind::device)
            emit foundChanged();
        if (design_.project().devices.empty() && live_)
            setLive(false);
    }
    for (auto& [id, m] : members_)
        if (change.device == id)
            compare(*m);
        else if (change.device.empty())
            members_.size() <= few ? compare(*m) : compareSoon(id);
}

bool Fleet::bring(PortTap& to, const PortTap::Place& place, bool quietly) {
    auto* m = member(place.device);
    if (!m || !m->link.up() || m->locked) {
        if (!quietly)
            design_.say(nameOf(place.device) + " is not there, or is locked: its sound cannot be brought here.");
        return false;
    }
    to.begin(m->link, place);
    return true;
}

void Fleet::anotherProject() {
    ear_.end();
    eye_.end();
    work_.cancel();
    if (work_.running()) { // what was done is undone on lines that stay until then
        for (auto& [_, m] : members_) {
            m->link.changed = nullptr;
            m->link.told = nullptr;
            m->link.impostor = nullptr;
            leaving_.push_back(std::move(m));
        }
        members_.clear();
    }
    password_.reset();
    if (live_) {
        live_ = false;
        meterTimer_.stop();
        emit liveChanged();
    }
}

// What an edit changed just now reaches the device; what differed before waits for Try.
void Fleet::sendChange(Member& m, const std::string& block) {
    const auto* d = design_.project().device(m.device);
    if (!d || !m.config)
        return;
    // What is sent is taken for done, and read back with the next look: the device may refuse, or the line be lost.
    const auto sent = [&](const std::string& key) {
        m.print.clear();
        ++m.onTheWay[key];
        return [self = QPointer(this), watch = m.link.watch(), id = m.device, key](const auto& reply) {
            auto* one = self ? self->member(id) : nullptr;
            if (!one || &one->link != watch.get())
                return;
            if (--one->onTheWay[key] <= 0)
                one->onTheWay.erase(key);
            if (!reply)
                self->design_.say(reply.error);
        };
    };
    if (!block.empty() && d->program && m.config->program) {
        const auto* mine = d->program->find(block);
        auto* there = m.config->program->find(block);
        if (mine && there && there->kind == mine->kind) { // an entry may switch its section on as well
            const engine::BlockView now(*mine), was(*there);
            for (std::size_t i = 0; now.shape == was.shape && i < now.values.size(); ++i)
                if (const std::string id = now.table->specs()[i].id;
                    now.values[i] != was.values[i] || m.onTheWay.count(block + "." + id)) {
                    const std::string path = block + "." + id;
                    m.link.call(site::message::set, {path, now.values[i], me()}, sent(path));
                    there->values[id] = now.values[i];
                }
        }
    }
    auto now = project::setUpOf(*d), before = m.designSetUp;
    project::nameMissing(now, before);
    project::nameMissing(before, now);
    for (const auto& [id, value] : now) {
        const bool sound = project::comesAndGoes(id); // comes and goes
        if (!before.count(id) || before.at(id) == value || (!sound && !m.config->setUp.count(id)))
            continue;
        if (project::setUpText(m.config->setUp, id) != value || m.onTheWay.count("setUp/" + id)) {
            m.link.call(site::message::setUp, {id, value, me()}, sent("setUp/" + id));
            m.config->setUp[id] = value;
        }
    }
}

} // namespace loom::client
