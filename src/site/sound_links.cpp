#include "site/sound_links.h"
#include "catalogue/device_model.h"
#include <algorithm>

namespace loom::site {

std::vector<SoundLink> soundLinks(const project::Project& project, const KeyPrints& prints) {
    using How = SoundLink::How;
    std::vector<SoundLink> all;
    for (const auto& lead : project::leadsOf(project)) {
        SoundLink link{lead};
        const auto from = prints.find(lead.from.device), to = prints.find(lead.to.device);
        if (!lead.network)
            link.how = How::cable;
        else if (from == prints.end() || to == prints.end())
            link.how = How::unknown;
        else if (from->second != to->second)
            link.how = How::broken;
        else
            link.how = from->second.empty() ? How::open : How::encrypted;
        all.push_back(link);
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const auto& a, const auto& b) { return a.lead.network > b.lead.network; });
    return all;
}

std::string wordOf(SoundLink::How how) {
    switch (how) {
    case SoundLink::How::encrypted:
        return "encrypted";
    case SoundLink::How::open:
        return "open";
    case SoundLink::How::broken:
        return "silent: the keys differ";
    case SoundLink::How::cable:
        return "a cable: cannot be encrypted";
    case SoundLink::How::unknown:
        break;
    }
    return "not known: an end cannot be reached";
}

std::vector<std::string> withoutSound(const project::Project& project) {
    std::vector<std::string> all;
    for (const auto& d : project.devices) {
        const auto* m = d.spec();
        if (!m || !m->onSite())
            continue;
        bool sound = false;
        for (const bool input : {true, false})
            for (const auto& port : m->ports(input))
                sound = sound || port.rfind(project::networkPort, 0) == 0;
        if (!sound)
            all.push_back(d.id);
    }
    return all;
}

} // namespace loom::site
