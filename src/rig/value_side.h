// What one device tells others of itself and lets them set, and what it wants of theirs: for its touch surfaces, for
// rules, whoever has them. All of it goes over one line of values. Knows no socket.
#pragma once
#include "site/value_link.h"
#include <array>

namespace loom::rig {

// One thread.
class ValueSide {
  public:
    struct Own { // something of the device
        std::function<std::optional<double>()> read{};
        // False: not now. Empty: nobody may.
        std::function<bool(double value, const std::string& who)> set{};
        double low = 0, high = 0; // that it may be set to
        std::function<std::string()> line{};
        std::function<void(const std::string& does, const std::string& text)> call{};
    };
    struct Needs {
        std::set<std::string> ids{};      // what others call the device
        std::set<std::string> wanted{};   // of others, by path
        std::map<std::string, Own> own{}; // by path
    };
    enum class Whose { surfaces, rules };

    ValueSide(std::string serial, std::function<double()> clock,
              std::function<void(const std::string& what, bool bad)> note);
    void told(Whose whose, Needs needs); // from now on
    void setKey(const std::optional<site::Key>& key) { link_.setKey(key); }
    bool speaks() const; // it has something to tell or wants something
    bool is(const std::string& id) const { return link_.ids().count(id) > 0; }

    std::optional<double> now(const std::string& path) const { return link_.now(path); }
    std::string lineNow(const std::string& path) const { return link_.lineNow(path); }
    void set(const std::string& path, double value, const std::string& who) { link_.set(path, value, who, clock_()); }
    void call(const std::string& path, const std::string& does, const std::string& text) {
        link_.call(path, does, text, clock_());
    }
    // Something of its own has changed just now and shall not wait for the next beat.
    void changed(const std::string& path) {
        link_.tellSoon(path);
        if (news && link_.hasSome())
            news();
    }
    std::function<void()> news{}; // something is to be told at once; may be empty
    site::ValueLink& link() { return link_; }

  private:
    const Own* own(const std::string& path) const;
    std::function<double()> clock_;
    site::ValueLink link_;
    std::array<Needs, 2> needs_{};
    std::map<std::string, Own> own_{}; // of both
};

} // namespace loom::rig
