// One mute in many devices: each holds its state, tells the others of a change, and takes what is newer. No device
// leads; what happens while the line is cut is settled when it is back: then muted wins. Knows neither socket nor
// clock.
#pragma once
#include "model/contact.h"
#include "site/channel.h"
#include <functional>
#include <map>
#include <set>
#include <vector>

namespace loom::site {

class MuteLink {
  public:
    static constexpr double beatEvery = 1.0;    // s, between two times it tells how it is
    static constexpr double lostAfter = 2.5;    // s, that nothing is heard of another
    static constexpr double repeatEvery = 0.02; // s, of a change; it is told repeats + 1 times
    static constexpr int repeats = 3;

    explicit MuteLink(std::string serial) : serial_(std::move(serial)) {}
    // Whose mutes it takes part in, and of which of them it cuts the sound. What it takes no part in any more is
    // forgotten.
    void setSpaces(const std::set<std::string>& spaces, const std::set<std::string>& cuts, double now);
    // Of the sound network: what is told is signed with it (BLAKE2b), and what is not signed with it is not taken.
    // None: whoever is on the network is believed.
    void setKey(const std::optional<Key>& key) { key_ = key; }
    void plugged(double now); // its line is there (again): it asks and tells at once
    // Spaces that are one now, by the walls that it knows of: "tern+plover".
    void join(const std::set<std::string>& together, double now);

    void set(const std::string& space, bool muted, double now); // by somebody here
    bool muted(const std::string& space) const;
    bool known(const std::string& space) const;           // it was set, or heard, since it was switched on
    bool cut(const std::string& space, double now) const; // a device that cuts its sound is known to be there
    std::vector<std::string> spaces() const;

    bool heard(const std::string& datagram, double now); // false: it is of another kind, forged or not for it
    std::vector<std::string> take(double now);           // datagrams that are to go to all others, now
    std::function<void(const std::string& space, bool muted)> changed;

  private:
    struct Told { // of another device
        double at = 0;
        bool cuts = false;
    };
    struct State {
        bool muted = false, known = false, asks = true;
        std::uint64_t count = 0; // of changes, over all devices: the higher is newer
        std::string by{};        // who made it
        double beatAt = -1e9, toldAt = -1e9;
        int left = 0; // times it is still to be told
        std::map<std::string, Told> others{};
    };
    void adopt(const std::string& space, State& s, bool muted, std::uint64_t count, const std::string& by);
    void alike(const std::string& space, bool muted, double now); // those joined with it
    std::string sealOf(const std::string& space, bool muted, std::uint64_t count, const std::string& by) const;
    std::string serial_;
    std::optional<Key> key_{};
    std::set<std::string> cuts_{}, together_{};
    std::map<std::string, State> states_{};
};

} // namespace loom::site
