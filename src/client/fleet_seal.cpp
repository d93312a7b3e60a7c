// Passwords of rooms, and keys of the sound between devices.
#include "client/fleet.h"
#include "site/audio_key.h"
#include <QPointer>
#include <algorithm>

namespace loom::client {

namespace {
std::string count(std::size_t n, const char* one, const char* more) {
    return std::to_string(n) + (n == 1 ? one : more);
}
} // namespace

void Fleet::unlock(const std::string& password) {
    password_ = std::make_shared<Password>(password);
    int asked = 0;
    for (auto& [_, m] : members_) {
        if (!m->locked || !m->link.up())
            continue;
        ++asked;
        unlockLine(*m, [this, tried = password_](Member& one, const Reply<site::Unlocked>& done) {
            if (done)
                return;
            design_.say(nameOf(one.device) + ": " + done.error);
            note(one.device, me(), done.error, true);
            if (done.code == site::Code::locked && password_ == tried)
                password_.reset(); // it is not tried again by itself
        });
    }
    if (asked == 0)
        design_.say("No device waits for a password.", false);
}

// What is left of the password goes to all that are chosen; worked out once, with one salt.
void Fleet::seal(const std::vector<std::string>& devices, const std::string& password, std::function<void()> then) {
    if (!then)
        then = [] {};
    const auto refused = [&](const std::string& why) {
        design_.say(why);
        then();
    };
    std::vector<std::string> ids;
    for (const auto& id : devices)
        if (const auto* m = member(id); m && m->link.up() && !m->locked)
            ids.push_back(id);
    if (ids.empty())
        return refused("None of them can be reached.");
    if (work_.running())
        return refused("Something else is being done on the devices; wait for it, or cancel it.");
    network_.work([this, ids, password, then, self = QPointer(this), &here = network_.here()] {
        const auto lock = site::lockOf(password);
        here.post([this, self, ids, password, lock, then] {
            if (!self)
                return;
            if (lock)
                return sealWith(ids, std::make_shared<Password>(password), *lock, then);
            design_.say(lock.error().text());
            then();
        });
    });
}

void Fleet::sealWith(const std::vector<std::string>& ids, std::shared_ptr<Password> password, const site::Lock& lock,
                     std::function<void()> then) {
    const site::SealAsk ask{site::saltText(lock.salt), site::keyText(lock.w0), site::keyText(lock.l)};
    std::vector<Transaction::Part> parts;
    for (const auto& id : ids)
        if (auto* m = member(id); m && m->link.up() && !m->locked) {
            Transaction::Part p;
            p.device = id;
            p.name = nameOf(id);
            p.session = m->link.watch();
            p.commit = asking(site::message::seal, ask);
            if (!m->sealed) // one that had a password before keeps the new one: nobody here knows the old one
                p.uncommit = [this, password](DeviceSession& session, Transaction::Answered answered) {
                    client::unlock(network_, session, password, true, [answered](const Reply<site::Unlocked>& done) {
                        done ? answered({}, "") : answered(done.code, done.error);
                    });
                };
            parts.push_back(std::move(p));
        }
    work_.start("Seal", std::move(parts), [this, ids, password, then](const Transaction::Outcome& outcome) {
        if (!outcome) {
            note("", me(), "Seal: " + inWords(outcome), true);
            design_.say(inWords(outcome) + " Those that were open are open again.");
            return then();
        }
        password_ = password;
        // Done once the last of them knows this computer, or is gone.
        const std::shared_ptr<void> last(nullptr, [then, self = QPointer(this)](void*) {
            if (self)
                then();
        });
        for (const auto& id : ids)
            if (auto* m = member(id)) {
                m->sealed = true;
                m->locked = false;
                note(id, me(), "Sealed with the room's password.");
                // By proving it once, this computer is known to the device from now on.
                unlockLine(*m, [last](Member&, const Reply<site::Unlocked>&) {});
                changedSoon(id);
            }
        design_.say(count(ids.size(), " device is sealed.", " devices are sealed."), false);
    });
}

void Fleet::unseal(const std::vector<std::string>& devices, const std::string& password) {
    const auto typed = std::make_shared<Password>(password);
    for (const auto& id : devices) {
        auto* m = member(id);
        if (!m || !m->sealed || !m->link.up())
            continue;
        client::unlock(network_, m->link, typed, true,
                       answer<site::Unlocked>(*m, [this](Member& one, const Reply<site::Unlocked>& done) {
                           if (!done) {
                               note(one.device, me(), done.error, true);
                               return design_.say(nameOf(one.device) + ": " + done.error);
                           }
                           one.sealed = one.locked = false;
                           note(one.device, me(), "Opened: no password is needed any more.");
                           design_.say(nameOf(one.device) + " needs no password any more.", false);
                           changedSoon(one.device);
                       }));
    }
}

// ---- sound between devices ----

std::vector<site::SoundLink> Fleet::soundLinks() const {
    site::KeyPrints prints;
    for (const auto& [id, m] : members_)
        if (m->link.up() && !m->locked && m->state)
            prints[id] = m->audioKey;
    return site::soundLinks(design_.project(), prints);
}

void Fleet::encryptSound(const std::vector<std::string>& devices, const std::string& phrase) {
    if (phrase.empty())
        return sendKey(devices, site::keyText(site::newAudioKey()), "Encrypt the sound");
    auto salt = site::readSalt(design_.project().soundSalt);
    if (!salt) { // the first phrase of this project
        salt = site::newSalt();
        if (!design_.note(
                {"Note a salt", [text = site::saltText(*salt)](project::Project now) -> Result<project::Project> {
                     now.soundSalt = text;
                     return now;
                 }}))
            return;
    }
    network_.work([this, self = QPointer(this), devices, phrase, salt = *salt, &here = network_.here()] {
        const auto key = site::audioKeyFrom(phrase, salt);
        here.post([this, self, devices, key] {
            if (self)
                key ? sendKey(devices, site::keyText(*key), "Encrypt the sound") : design_.say(key.error().text());
        });
    });
}

void Fleet::openSound(const std::vector<std::string>& devices) {
    sendKey(devices, "", "Open the sound");
}

void Fleet::sendKey(const std::vector<std::string>& devices, const std::string& key, const std::string& title) {
    const auto silent = site::withoutSound(design_.project());
    std::vector<Transaction::Part> parts;
    for (const auto& id : devices) {
        auto* m = member(id);
        if (!m || std::find(silent.begin(), silent.end(), id) != silent.end())
            continue;
        if (!m->link.up() || m->locked)
            return design_.say(nameOf(id) + (m->locked ? ": it is sealed. Give the password first."
                                                       : ": it cannot be reached. A key goes to all, or none."));
        if (!m->sealed)
            return design_.say(nameOf(id) + ": seal it with the room's password first; a key without one could be "
                                            "taken off by anybody.");
        Transaction::Part p;
        p.device = id;
        p.name = nameOf(id);
        p.session = m->link.watch();
        p.prepare = asking(site::message::stageAudioKey, {key});
        p.commit = asking(site::message::commitAudioKey);
        p.uncommit = asking(site::message::revertAudioKey);
        parts.push_back(std::move(p));
    }
    if (parts.empty())
        return design_.say("None of the chosen devices sends or takes sound over the network.", false);
    std::vector<std::string> ids;
    for (const auto& p : parts)
        ids.push_back(p.device);
    work_.start(title, std::move(parts), [this, ids, open = key.empty()](const Transaction::Outcome& outcome) {
        if (!outcome) {
            note("", me(), inWords(outcome), true);
            return design_.say(inWords(outcome) + (outcome.unsure.empty() ? " Every device has the key that it had."
                                                                          : " The others have the key that they had."));
        }
        for (const auto& id : ids)
            if (auto* m = member(id)) {
                note(id, me(), open ? "Its sound is open again." : "Its sound has a new key.");
                askState(*m);
            }
        design_.say(open ? "The sound of " + count(ids.size(), " device is open.", " devices is open.")
                         : count(ids.size(), " device has", " devices have") +
                               " the new key. Sound passes between those that share it.",
                    false);
    });
}

} // namespace loom::client
