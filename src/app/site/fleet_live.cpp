// Changes to and fro while live.
#include "app/site/fleet.h"
#include "app/text.h"
#include "project/catalogue.h"

namespace loom::app {

using nlohmann::json;
using site::Take;

namespace {
constexpr int meterMs = 50;
} // namespace

void Fleet::noteAgreed() {
    std::map<std::string, std::optional<project::Device>> changed;
    for (const auto& [id, m] : members_) {
        const auto* d = session_.project().device(id);
        if (!d || !m->agreed)
            continue;
        auto n = *d;
        n.known.sent = m->agreed->program, n.known.setUp = m->agreed->setUp, n.known.revision = m->agreedRevision,
        n.known.boot = m->agreedBoot;
        if (!(n == *d))
            changed[id] = n;
    }
    if (!changed.empty())
        session_.note(project::setDevices(std::move(changed), "Note what was changed live"));
}

void Fleet::setLive(bool on) {
    if (live_ && !on)
        noteAgreed();
    live_ = on;
    const auto* working = session_.device();
    const auto* m = working ? member(working->id) : nullptr;
    tools_.setLive(live_ && m && m->link.up());
    live_ ? meterTimer_.start(meterMs) : meterTimer_.stop();
    int differing = 0;
    for (const auto& [_, one] : members_) {
        differing += static_cast<int>(one->rows.size());
        one->meters = nullptr;
    }
    if (live_ && differing > 0)
        session_.report(QString(differing == 1 ? "Live: what you change from now on reaches the devices. %1 value "
                                                 "differs from before; Try it sends it."
                                               : "Live: what you change from now on reaches the devices. %1 values "
                                                 "differ from before; Try it sends them.")
                            .arg(differing),
                        false);
    emit liveChanged();
}

void Fleet::followChange(const project::Change& change) {
    using Kind = project::Change::Kind;
    if (live_)
        for (auto& [id, m] : members_)
            if ((change.device.empty() || change.device == id) && m->link.up())
                sendChange(*m, change.kind == Kind::value ? change.block : std::string());
    for (auto& [id, m] : members_)
        if (const auto* d = session_.project().device(id))
            m->designSetUp = project::setUpOf(*d);
    if (change.kind != Kind::value) {
        const auto before = members_.size();
        sync();
        if (members_.size() != before || change.kind == Kind::project || change.kind == Kind::device)
            emit foundChanged();
        if (session_.project().devices.empty() && live_)
            setLive(false);
    }
    for (auto& [id, m] : members_)
        if (change.device == id)
            compare(*m);
        else if (change.device.empty())
            members_.size() <= few ? compare(*m) : compareSoon(id);
}

// What an edit changed just now reaches the device; what differed before waits for Try.
void Fleet::sendChange(Member& m, const std::string& block) {
    const auto* d = session_.project().device(m.device);
    if (!d || !m.config)
        return;
    const auto send = [this, &m](const char* method, json params) {
        params["author"] = me();
        m.print.clear(); // taken for done, and read back with the next look: the device may refuse, or the line be lost
        m.link.call(method, params, [this](const json&, const QString& trouble) {
            if (!trouble.isEmpty())
                session_.report(trouble);
        });
    };
    if (!block.empty() && d->program && m.config->program) {
        const auto* mine = d->program->find(block);
        auto* there = m.config->program->find(block);
        if (mine && there && there->kind == mine->kind) { // an entry may switch its section on as well
            const engine::BlockView now(*mine), was(*there);
            for (std::size_t i = 0; now.shape == was.shape && i < now.values.size(); ++i)
                if (now.values[i] != was.values[i]) {
                    const std::string id = now.table->specs()[i].id;
                    send("set", {{"path", block + "." + id}, {"value", now.values[i]}});
                    there->values[id] = now.values[i];
                }
        }
    }
    for (const auto& [id, value] : project::setUpOf(*d))
        if (const auto it = m.designSetUp.find(id); it != m.designSetUp.end() && it->second != value &&
                                                    m.config->setUp.count(id) && m.config->setUp[id] != value) {
            send("setUp", {{"id", id}, {"value", value}});
            m.config->setUp[id] = value;
        }
}

} // namespace loom::app
