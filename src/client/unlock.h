// Proving the room's password to a device, and sealing one, without ever sending it (site/password.h).
#pragma once
#include "client/device_session.h"

namespace loom::client {

// A password that was typed, with what was made of it by salt: devices that were sealed together share theirs, so that
// it is worked out once. Kept in memory only; all functions in the turns of here().
class Password {
  public:
    explicit Password(std::string text) : text_(std::move(text)) {}
    // Works it out on another thread where that was not done before; `then` in a turn of here().
    void secret(Network& network, const site::Salt& salt, std::function<void(const Result<site::Secret>&)> then);

  private:
    struct Entry {
        std::optional<Result<site::Secret>> made{};
        std::vector<std::function<void(const Result<site::Secret>&)>> waiting{};
    };
    std::string text_;
    std::map<site::Salt, std::shared_ptr<Entry>> made_;
};

// Unlocks the line, or opens the device for good; only where its key was known before, so that nobody in its place gets
// as much as a try. `session` may go meanwhile: `then` is called exactly once all the same.
void unlock(Network& network, DeviceSession& session, std::shared_ptr<Password> password, bool unseal,
            Then<site::Unlocked> then);

} // namespace loom::client
