// One paired device: its line and what is known of it.
#pragma once
#include "client/device_session.h"
#include "model/health.h"
#include "site/reconcile.h"

namespace loom::client {

struct Member {
    explicit Member(Network& network) : link(network) {}
    std::string device, serial;
    DeviceSession link;
    std::optional<site::DeviceState> state{}; // as last heard
    std::map<std::string, double> meters{};
    std::map<std::string, double> sent{}, heard{}; // by port, of sound between devices
    std::vector<site::RevisionInfo> revisions{};
    project::Vitals vitals{};
    std::optional<site::Config> config{}; // what it runs, as last heard; stays while it is lost
    std::vector<site::Row> rows{};        // where it differs
    site::Choices choices{};
    int agreedRevision = 0;
    std::string agreedBoot{};              // changes made live since hold in this boot only; "": there are none
    bool wentBack = false;                 // to what it was told before, from here, since then
    int changedLive = 0;                   // how often one was
    std::map<std::string, int> onTheWay{}; // changes sent live that are not answered yet, by path or setUp/ID
    std::optional<site::Config> agreed{};  // what both sides held last: sent, tried, taken, or changed live
    bool sealed = false, locked = false;
    bool asking = false, everUp = false;
    std::string audioKey{}; // print of the key of its sound; "": none, or it is not known
    bool pressed = false;   // its button, a moment ago
    std::string print{};    // fingerprint of `config`
    project::SetUp designSetUp{};
    int runningRevision() const; // -1: none
    int keptRevision() const;
    int revisionBefore() const; // the newest before the one that runs; 0: there is none
    site::Standing standing() const;
    bool turned() const;
    bool kept() const; // what runs survives power-off
    int open() const { return site::openRows(rows); }
};

} // namespace loom::client
