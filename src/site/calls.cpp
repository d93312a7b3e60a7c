#include "site/calls.h"
#include "model/set_up.h"
#include <algorithm>

namespace loom::site {

using project::FindingCode;

std::vector<MuteState> muteStates(const project::Project& p, const std::map<std::string, project::Vitals>& vitals) {
    std::vector<MuteState> all;
    for (const auto& d : p.devices) {
        const auto it = vitals.find(d.id);
        if (it == vitals.end())
            continue;
        for (const auto& [key, muted] : it->second.mutes) {
            MuteState s{d.id, key, d.name, "", muted};
            const bool port = key.find(' ') != std::string::npos;
            if (key == "self" || port) {
                s.space = project::spaceOfMute(d, key);
                if (port)
                    s.name += " " + key;
            } else {
                s.space = key, s.key = "cut"; // its blocks
            }
            all.push_back(std::move(s));
        }
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.space < b.space; });
    return all;
}

std::vector<SiteFinding> callFindings(const project::Project& p, const std::map<std::string, project::Vitals>& vitals) {
    std::vector<SiteFinding> all;
    std::map<std::string, std::vector<MuteState>> bySpace;
    for (auto& s : muteStates(p, vitals))
        bySpace[s.space].push_back(std::move(s));
    for (const auto& [space, places] : bySpace) {
        const auto muted = std::find_if(places.begin(), places.end(), [](const auto& s) { return s.muted; });
        const auto live = std::find_if(places.begin(), places.end(), [](const auto& s) { return !s.muted; });
        if (muted == places.end() || live == places.end())
            continue;
        const auto* room = p.room(space);
        SiteFinding f{SiteFinding::Cure::none, FindingCode::mutesDisagree, live->device, ""};
        f.reason = (room ? room->name : space) + " is muted at " + muted->name + " and not at " + live->name + ".";
        f.remedy = "Press the mute twice; if it stays so, look at the cable of " + live->name + ".";
        all.push_back(std::move(f));
    }
    for (const auto& d : p.devices) {
        const auto it = vitals.find(d.id);
        if (it == vitals.end())
            continue;
        for (const auto& [port, how] : it->second.lines) {
            const bool off = how.rfind(lineOff, 0) == 0;
            if (!off && how != computerOff)
                continue;
            SiteFinding f{SiteFinding::Cure::none, off ? FindingCode::lineDown : FindingCode::computerGone, d.id, ""};
            f.reason = off ? "The telephone line of " + d.name + " is " + how + "."
                           : "The computer on " + port + " of " + d.name + " went away in a call.";
            f.remedy = off ? "Set right what it says under Device at Site; the secret is given there again."
                           : "Plug it in again; a call goes on on the computer itself meanwhile.";
            all.push_back(std::move(f));
        }
    }
    return all;
}

} // namespace loom::site
