// How far the work on site has come for some devices: what is next, and in one sentence why.
#pragma once
#include "client/fleet.h"

namespace loom::client {

struct Situation {
    // Of all devices.
    bool looked = false, busy = false;
    int found = 0, planned = 0, paired = 0;
    bool certain = false,
         byPosition = false; // what could be paired: by what is certain, by the order of the plan alone
    // Of those that are meant.
    int devices = 0;
    int up = 0, locked = 0;   // reached and open to us; sealed, and the password was not given
    int differ = 0, open = 0; // values that differ, and of these those that wait for a side
    int empty = 0, loose = 0; // on which nothing was tried yet; whose program is lost at power-off
    int back = 0;             // the newest revision before the one that runs; 0: none

    bool canTry() const { return up > 0 && !busy && (differ > 0 || empty > 0); }
    bool canKeep() const { return up > 0 && !busy && loose > 0; }
    bool canTake() const { return up > 0 && !busy && differ > 0; }
    bool canGoBack() const { return up > 0 && !busy && back > 0 && devices == 1; }
    enum class Step { none, look, pair, pairRest, tryIt, keep };
    Step next() const;
    std::string sentence() const;
};
// For the devices with these ids; others' are not looked at.
Situation situationOf(Fleet& fleet, const std::vector<std::string>& devices);

} // namespace loom::client
