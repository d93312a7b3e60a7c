// The encrypted line to one device: messages (site/protocol.h) and their answers. Comes back by itself after a loss.
// What comes in is read, decrypted and held against its declaration in the turns of Network::there(); callers and their
// answers live in those of Network::here().
#pragma once
#include "client/network.h"
#include "site/password.h"
#include "site/protocol.h"
#include <any>
#include <map>

namespace loom::client {

// An answer, or why there is none.
template <class T> struct Reply {
    std::optional<T> value{};
    site::Code code = site::Code::refused;
    std::string error{}; // what, where, and what to do
    explicit operator bool() const { return value.has_value(); }
    const T& operator*() const { return *value; }
    const T* operator->() const { return &*value; }
};
template <class T> using Then = std::function<void(const Reply<T>&)>;

// What was known of the device that is to answer.
struct Expected {
    std::string identity{}; // its public key; "": whoever answers is taken, as at the first meeting
    std::string ticket{};   // that it gave to this computer before; "": none
};

class DeviceSession {
  public:
    static constexpr int patienceMs = 5000; // a line that is up but silent for so long is taken for lost
    static constexpr int againMs = 500;     // after a loss

    explicit DeviceSession(Network& network);
    ~DeviceSession(); // calls that wait are answered in no more than a turn of here(): the device is gone
    DeviceSession(const DeviceSession&) = delete;
    DeviceSession& operator=(const DeviceSession&) = delete;

    // afterMs: hundreds of lines are not all begun in one go.
    void open(const std::string& address, std::uint16_t port, const Expected& expected, int afterMs = 0);
    void close();
    bool up() const { return up_; }
    bool wanted() const { return wanted_; }
    bool pinned() const { return pinned_; } // its key is known here: from before this line, or taken since
    void pin() { pinned_ = up_; }           // it was written down, and people were told
    const std::string& address() const { return address_; }
    const std::string& identity() const { return identity_; }      // the one that was proved last
    const site::Key& binding() const { return binding_; }          // of this line: site::Channel
    const site::DiscoveredDevice& about() const { return about_; } // what it told when the line came up

    // Asks, and has `then` called exactly once: with the answer, or with what stands in its way; also when the line is
    // lost or this goes.
    template <class A, class B>
    void call(const site::Message<A, B>& message, std::type_identity_t<A> ask, std::type_identity_t<Then<B>> then) {
        begin([message, ask = std::move(ask)](int id) { return site::requestText(id, message, ask); },
              [](const nlohmann::json& result) -> std::any {
                  auto value = schema::fromJson<B>(result);
                  return value ? Reply<B>{std::move(*value)} : Reply<B>{{}, site::Code::refused, notUnderstood()};
              },
              [then = std::move(then)](std::any answer) {
                  if (auto* reply = std::any_cast<Reply<B>>(&answer))
                      return then(*reply);
                  const auto& failure = std::any_cast<const Failure&>(answer);
                  then({{}, failure.code, failure.text});
              });
    }
    std::size_t waiting() const { return waiting_.size(); }
    // From now on messages may be long: the device lets this line ask everything.
    void unlocked();

    // Finds it as long as it is there.
    class Watch {
      public:
        DeviceSession* get() const {
            const auto there = at_.lock();
            return there ? *there : nullptr;
        }

      private:
        friend class DeviceSession;
        std::weak_ptr<DeviceSession*> at_;
    };
    Watch watch() const {
        Watch w;
        w.at_ = self_;
        return w;
    }

    std::function<void()> changed;                                                     // up or down
    std::function<void(const std::string& method, const nlohmann::json& params)> told; // by the device, unasked
    // Another device answers at the address than the one whose key was expected.
    std::function<void(const std::string& identity)> impostor;

  private:
    struct Failure {
        site::Code code;
        std::string text;
    };
    struct Core;
    using Make = std::function<std::string(int id)>;
    using Read = std::function<std::any(const nlohmann::json&)>;
    void begin(Make make, Read read, std::function<void(std::any)> then);
    void answered(int id, std::any answer);
    void isUp(const std::string& identity, const site::Key& binding, bool pinned, const site::DiscoveredDevice& about);
    void isDown();
    void tellChanged();
    static std::string notUnderstood();

    Network& network_;
    std::shared_ptr<Core> core_;
    std::shared_ptr<DeviceSession*> self_; // what comes from there finds nobody once this is gone
    std::string address_, identity_;
    site::Key binding_{};
    site::DiscoveredDevice about_{};
    bool up_ = false, wanted_ = false, pinned_ = false;
    int next_ = 1, opened_ = 0;
    std::map<int, std::function<void(std::any)>> waiting_;
};

} // namespace loom::client
