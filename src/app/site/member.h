// A planned device that is paired with one on site: its line, and what is known of it.
#pragma once
#include "app/site/rig_link.h"
#ifndef Q_MOC_RUN
#include "project/health.h"
#include "site/reconcile.h"
#endif

namespace loom::app {

// Whether a device in this state was changed since it was told what runs.
bool turnedIn(const nlohmann::json& state);

struct Member { // a planned device that is paired
    std::string device, serial;
    RigLink link{};
    nlohmann::json state{}, meters{}, revisions{};
    project::Vitals vitals{};
    std::optional<site::Config> config{}; // what it runs, as last heard; stays while it is lost
    std::vector<site::Row> rows{};        // where it differs
    site::Choices choices{};
    int agreedRevision = 0;
    std::string agreedBoot{};             // changes made live since hold in this boot only; "": there are none
    bool wentBack = false;                // to what it was told before, from here, since then
    int changedLive = 0;                  // how often one was
    std::optional<site::Config> agreed{}; // what both sides held last: sent, tried, taken, or changed live
    bool sealed = false, locked = false;
    bool asking = false, everUp = false;
    std::string audioKey{}; // print of the key of its sound; "": none, or it is not known
    bool pressed = false;   // its button, a moment ago
    std::string print{};    // fingerprint of `config`
    project::SetUp designSetUp{};
    int runningRevision() const; // -1: none
    int keptRevision() const;
    site::Standing standing() const;
    bool turned() const { return turnedIn(state); }
    bool kept() const; // what runs survives power-off
    int open() const { return site::openRows(rows); }
};

// A text of what a device told, cut to a bearable length; "" if there is none.
std::string textOf(const nlohmann::json& json, const char* key);

} // namespace loom::app
