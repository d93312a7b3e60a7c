// Passwords of rooms, and keys of the sound between devices.
#include "app/site/fleet.h"
#include "app/text.h"
#include "project/catalogue.h"
#include "site/audio_key.h"
#include <algorithm>

namespace loom::app {

using nlohmann::json;
using site::Take;

void Fleet::unlock(const std::string& password) {
    password_ = password;
    int asked = 0;
    for (auto& [_, m] : members_) {
        if (!m->locked || !m->link.up())
            continue;
        ++asked;
        m->link.call("unlock", {{"password", password}}, [this, raw = m.get()](const json&, const QString& trouble) {
            raw->locked = !trouble.isEmpty();
            if (raw->locked) {
                session_.report(q(nameOf(raw->device)) + ": " + trouble);
                note(raw->device, me(), trouble, true);
                password_.clear();
            } else {
                askState(*raw);
            }
            changedSoon(raw->device);
        });
    }
    if (asked == 0)
        session_.report("No device waits for a password.", false);
}

void Fleet::seal(const std::vector<std::string>& devices, const std::string& password) {
    std::vector<AllOrNone::Part> parts;
    for (const auto& id : devices)
        if (auto* m = member(id); m && m->link.up() && !m->locked) {
            AllOrNone::Part p;
            p.device = id, p.name = q(nameOf(id)), p.link = &m->link;
            p.commit = {"seal", {{"password", password}}};
            if (!m->sealed)
                p.uncommit = {"unseal", {{"password", password}}};
            parts.push_back(std::move(p));
        }
    if (parts.empty())
        return session_.report("None of them can be reached.");
    std::vector<std::string> ids;
    for (const auto& p : parts)
        ids.push_back(p.device);
    work_.start("Seal", std::move(parts), [this, ids, password](const QString& trouble) {
        if (!trouble.isEmpty())
            return session_.report(trouble + " Those that were open are open again.");
        password_ = password;
        for (const auto& id : ids)
            if (auto* m = member(id)) {
                m->sealed = true, m->locked = false;
                note(id, me(), "Sealed with the room's password.");
                changedSoon(id);
            }
        session_.report(QString(ids.size() == 1 ? "%1 device is sealed." : "%1 devices are sealed.").arg(ids.size()),
                        false);
    });
}

void Fleet::unseal(const std::vector<std::string>& devices, const std::string& password) {
    for (const auto& id : devices) {
        auto* m = member(id);
        if (!m || !m->sealed || !m->link.up())
            continue;
        m->link.call("unseal", {{"password", password}}, [this, raw = m](const json&, const QString& trouble) {
            if (!trouble.isEmpty()) {
                note(raw->device, me(), trouble, true);
                return session_.report(q(nameOf(raw->device)) + ": " + trouble);
            }
            raw->sealed = raw->locked = false;
            note(raw->device, me(), "Opened: no password is needed any more.");
            session_.report(q(nameOf(raw->device)) + " needs no password any more.", false);
            changedSoon(raw->device);
        });
    }
}

// ---- sound between devices ----

std::vector<site::SoundLink> Fleet::soundLinks() const {
    site::KeyPrints prints;
    for (const auto& [id, m] : members_)
        if (m->link.up() && !m->locked && m->state.is_object())
            prints[id] = m->audioKey;
    return site::soundLinks(session_.project(), prints);
}

void Fleet::encryptSound(const std::vector<std::string>& devices, const std::string& phrase) {
    if (phrase.empty())
        return sendKey(devices, site::keyText(site::newAudioKey()), "Encrypt the sound");
    const auto key = site::audioKeyFrom(phrase);
    if (!key)
        return session_.report(key.trouble());
    sendKey(devices, site::keyText(*key), "Encrypt the sound");
}

void Fleet::openSound(const std::vector<std::string>& devices) {
    sendKey(devices, "", "Open the sound");
}

void Fleet::sendKey(const std::vector<std::string>& devices, const std::string& key, const QString& title) {
    const auto silent = site::withoutSound(session_.project());
    std::vector<AllOrNone::Part> parts;
    for (const auto& id : devices) {
        auto* m = member(id);
        if (!m || std::find(silent.begin(), silent.end(), id) != silent.end())
            continue;
        if (!m->link.up() || m->locked)
            return session_.report(q(nameOf(id)) + (m->locked ? ": it is sealed. Give the password first."
                                                              : ": it cannot be reached. A key goes to all, or none."));
        if (!m->sealed)
            return session_.report(q(nameOf(id)) + ": seal it with the room's password first; a key without one could "
                                                   "be taken off by anybody.");
        AllOrNone::Part p;
        p.device = id, p.name = q(nameOf(id)), p.link = &m->link;
        p.prepare = {"stageAudioKey", {{"key", key}}};
        p.commit = {"commitAudioKey"}, p.uncommit = {"revertAudioKey"};
        parts.push_back(std::move(p));
    }
    if (parts.empty())
        return session_.report("None of the chosen devices sends or takes sound over the network.", false);
    std::vector<std::string> ids;
    for (const auto& p : parts)
        ids.push_back(p.device);
    work_.start(title, std::move(parts), [this, ids, open = key.empty()](const QString& trouble) {
        if (!trouble.isEmpty()) {
            note("", me(), trouble, true);
            return session_.report(trouble + " Every device has the key that it had.");
        }
        for (const auto& id : ids)
            if (auto* m = member(id)) {
                note(id, me(), open ? "Its sound is open again." : "Its sound has a new key.");
                askState(*m);
            }
        session_.report(
            open ? QString("The sound of %1 devices is open.").arg(ids.size())
                 : QString("%1 devices have the new key. Sound passes between those that share it.").arg(ids.size()),
            false);
    });
}

} // namespace loom::app
