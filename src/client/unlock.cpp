#include "client/unlock.h"

namespace loom::client {

void Password::secret(Network& network, const site::Salt& salt, std::function<void(const Result<site::Secret>&)> then) {
    auto& entry = made_[salt];
    const bool first = !entry;
    if (first)
        entry = std::make_shared<Entry>();
    if (entry->made) {
        network.here().post([made = *entry->made, then = std::move(then)] { then(made); });
        return;
    }
    entry->waiting.push_back(std::move(then));
    if (!first)
        return;
    network.work([text = text_, salt, entry, &here = network.here()] {
        const auto made = site::secretOf(text, salt);
        here.post([entry, made] {
            entry->made = made;
            for (const auto& one : std::exchange(entry->waiting, {}))
                one(made);
        });
    });
}

namespace {

struct Exchange {
    Network& network;
    DeviceSession::Watch session;
    std::shared_ptr<Password> password;
    bool unseal;
    Then<site::Unlocked> then;
};

void fail(const std::shared_ptr<Exchange>& x, site::Code code, std::string why) {
    x->then({{}, code, std::move(why)});
}

const char* const gone = "The device went away before it answered. Try again when it is back.";

void exchange(const std::shared_ptr<Exchange>& x, const site::Secret& secret) {
    auto* session = x->session.get();
    if (!session || !session->up())
        return fail(x, site::Code::lost, gone);
    const auto asker = std::make_shared<site::PasswordAsker>(secret, session->binding(),
                                                             site::readKey(session->identity()).value_or(site::Key{}));
    session->call(site::message::unlock, {asker->share()},
                  [x, asker, line = session->binding()](const Reply<site::UnlockShare>& share) {
                      if (!share)
                          return fail(x, share.code, share.error);
                      auto* now = x->session.get();
                      if (!now || !now->up() || now->binding() != line)
                          return fail(x, site::Code::lost, gone);
                      const auto proof = asker->answered(share->share, share->confirm);
                      if (!proof) // it holds another password; what was typed is not told to it in any way
                          return fail(x, site::Code::locked, "the password is wrong");
                      now->call(site::message::prove, {*proof, x->unseal}, [x](const Reply<site::Unlocked>& done) {
                          if (auto* still = x->session.get(); still && done)
                              still->unlocked();
                          x->then(done);
                      });
                  });
}

} // namespace

void unlock(Network& network, DeviceSession& session, std::shared_ptr<Password> password, bool unseal,
            Then<site::Unlocked> then) {
    const auto x =
        std::make_shared<Exchange>(Exchange{network, session.watch(), std::move(password), unseal, std::move(then)});
    if (!session.pinned()) {
        network.here().post([x] {
            fail(x, site::Code::locked,
                 "its key is not known here: compare it with the device's label, and pair it, before you give a "
                 "password");
        });
        return;
    }
    session.call(site::message::describe, {}, [x](const Reply<site::DiscoveredDevice>& about) {
        if (!about)
            return fail(x, about.code, about.error);
        const auto salt = site::readSalt(about->salt);
        if (!about->sealed || !salt)
            return fail(x, site::Code::refused,
                        about->sealed ? "its password cannot be read any more. Reset it by its button."
                                      : "it is not sealed");
        x->password->secret(x->network, *salt, [x](const Result<site::Secret>& secret) {
            secret ? exchange(x, *secret) : fail(x, site::Code::refused, secret.error().text());
        });
    });
}

} // namespace loom::client
