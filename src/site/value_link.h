// Values that one device knows and sets of another: what a surface or a rule wants of it is asked again and again, what
// changes there is told at once, what is set is repeated until it is acknowledged. No device leads. Knows neither
// socket nor clock.
#pragma once
#include "site/channel.h"
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace loom::site {

class ValueLink {
  public:
    static constexpr double wantEvery = 1.0, lostAfter = 3.5; // s
    static constexpr double tellEvery = 0.045, repeatEvery = 0.06;
    static constexpr int tries = 20; // of one setting; then it is given up and said
    static constexpr std::size_t longestDatagram = 1400, mostPaths = 2000, mostWatchers = 64;

    explicit ValueLink(std::string serial);
    // Of the sound network: what is said is signed with it (BLAKE2b), and what is not signed with it is not taken.
    void setKey(const std::optional<Key>& key) { key_ = key; }
    // What others call it, by the design ("council"): paths "council/..." are its own.
    void be(std::set<std::string> ids);
    const std::set<std::string>& ids() const { return ids_; }

    // -- its own, for others: paths that they may not see are none --
    std::function<std::optional<double>(const std::string& path)> read;
    std::function<std::string(const std::string& path)> line;                                 // "": not known
    std::function<bool(const std::string& path, double value, const std::string& who)> taken; // false: not allowed
    std::function<void(const std::string& path, const std::string& does, const std::string& number)> called;

    // -- those of others --
    void want(std::set<std::string> paths); // from now on these
    std::optional<double> now(const std::string& path) const;
    std::string lineNow(const std::string& path) const;
    void set(const std::string& path, double value, const std::string& who, double now);
    void call(const std::string& path, const std::string& does, const std::string& number, double now);
    std::function<void(const std::string& path)> gaveUp; // nobody acknowledged what was set there

    bool heard(const std::string& datagram, double now); // false: of another kind, forged, or not for it
    std::vector<std::string> take(double now);           // datagrams for all others, now
    void tellSoon(const std::string& path);              // its own value of that path has changed
    bool hasSome() const { return soon_; }               // some that should go now and not with the next beat

  private:
    struct Watched { // by somebody else, of its own
        double until = 0;
        std::string told{}; // as text; "": it is to be told
        double at = -1e9;
    };
    struct Known { // of another device
        std::optional<double> value{};
        std::string line{};
        double at = -1e9;
    };
    struct Setting {
        std::string path, who, does{}, number{}; // does: of a call
        double value = 0, sentAt = -1e9;
        std::uint64_t n = 0;
        int left = tries;
    };
    std::string signedText(nlohmann::json j) const;
    bool isSigned(const nlohmann::json& j) const;
    std::string ownerOf(const std::string& path) const;
    std::string serial_, boot_;
    std::optional<Key> key_{};
    std::set<std::string> ids_{}, wanted_{};
    std::map<std::string, Watched> watched_{};
    std::map<std::string, Known> known_{};
    std::map<std::string, std::string> boots_{};      // of others, by their id
    std::map<std::string, Setting> settings_{};       // not acknowledged yet, by path
    std::map<std::string, std::uint64_t> lastFrom_{}; // the highest number of each who set something here
    std::vector<std::pair<std::string, std::uint64_t>> acknowledge_{};
    std::uint64_t n_ = 0;
    double wantedAt_ = -1e9, toldAt_ = -1e9;
    bool soon_ = false;
};

} // namespace loom::site
