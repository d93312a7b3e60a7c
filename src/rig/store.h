// What a simulated device holds through power-off: revisions of what it is told to be, its lock, firmware, keys, log.
#pragma once
#include "site/channel.h"
#include "site/config.h"
#include "site/event_log.h"
#include <deque>
#include <map>
#include <set>

namespace loom::rig {

struct Revision {
    int number = 0;
    std::string time, author; // ISO 8601, UTC
    site::Config config{};
};

// Written as one file, whole or not at all; a kill at any moment leaves the old or the new content. Nobody else on this
// computer may read it: it holds keys.
class Store {
  public:
    static constexpr std::size_t mostBytes = 4u << 20, mostRevisions = 12, mostLog = 200;
    enum class Fault { none, full, failing, corrupt }; // corrupt: what is read back is not what was written

    explicit Store(std::string path);
    // What stands in the way of keeping its identity: it would be another device at its next start. None: all is well.
    const std::optional<Error>& error() const { return error_; }
    // -- content; the functions that change it write it, or leave all as it was and tell why --
    const std::deque<Revision>& revisions() const { return body_.revisions; }
    const Revision* find(int number) const;
    const Revision* kept() const { return find(body_.kept); } // what it boots with
    Result<Done> add(Revision revision);                      // and boots with it
    Result<Done> choose(int number);                          // boots with an earlier one
    const std::string& lock() const { return body_.lock; }    // site::lockText(); empty: open
    Result<Done> setLock(const std::string& text);            // and forgets all tickets
    // Tickets of computers that have known the password; the store holds their prints only.
    static constexpr std::size_t mostTickets = 32; // the oldest goes
    Result<std::string> newTicket();
    bool knows(const std::string& ticket) const;
    const std::string& audioKey() const { return body_.audioKey; } // base64; empty: none
    Result<Done> setAudioKey(const std::string& key);
    const std::string& lineSecret() const { return body_.lineSecret; } // of the account of its lines; empty: none
    Result<Done> setLineSecret(const std::string& secret);
    const std::string& firmware() const { return body_.firmware; }
    const std::string& firmwareBefore() const { return body_.firmwareBefore; }
    Result<Done> setFirmware(const std::string& version, const std::string& before);
    const std::string& address() const { return body_.address; }
    Result<Done> setAddress(const std::string& address);
    const site::KeyPair& identity() const { return identity_; }
    // PINs of touch surfaces, by "SURFACE/ROLE": site::pinPrint().
    const std::map<std::string, std::string>& pins() const { return body_.pins; }
    Result<Done> setPin(const std::string& who, const std::string& print); // "": none any more
    // Pictures of touch surfaces and sounds of programs, by print (project::contentPrint()), each a file of its own
    // beside the store.
    static constexpr std::size_t mostPictures = 400;
    bool hasPicture(const std::string& print) const;
    Result<Done> addPicture(const std::string& print, const std::vector<char>& bytes);
    std::vector<char> picture(const std::string& print) const; // empty: there is none
    void keepPictures(const std::set<std::string>& prints);    // the others go
    // Of its pages over TLS, a file of its own: the key with the certificate (serve/certificate.h); "": none yet.
    std::string certificate() const;
    Result<Done> keepCertificate(const std::string& text);
    // What its rules remember, a file of its own; "": nothing.
    std::string memory() const;
    void remember(const std::string& text);
    // Written with the next change. What is bad and stands there already is counted there.
    void note(site::Event event);
    const std::deque<site::Event>& log() const { return body_.log; }
    void erase(); // as it left the factory, with its identity

    Fault fault = Fault::none;

  private:
    struct Body {
        std::deque<Revision> revisions{};
        int kept = 0;
        std::string lock{}, audioKey{}, lineSecret{}, firmware{}, firmwareBefore{}, address{};
        std::vector<std::string> tickets{}; // prints
        std::map<std::string, std::string> pins{};
        std::deque<site::Event> log{};
    };
    Result<Done> put(Body body);
    bool read(const std::string& path);
    std::string pictureFolder() const { return path_ + ".pictures"; }
    std::string path_;
    Body body_{};
    site::KeyPair identity_{};
    std::optional<Error> error_{};
};

} // namespace loom::rig
