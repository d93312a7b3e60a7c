#include "model/describe.h"
#include "talk/prove.h"
#include <cstdint>
#include <cstdio>

namespace loom::project {

std::string designSum(const Project& project) {
    // FNV-1a of what is written of it, without what was measured and what is known of found devices.
    Project p = project;
    p.proofs = {};
    p.dismissed = {};
    for (std::size_t i = 0; i < p.devices.size(); ++i) {
        auto& d = p.devices.change(i);
        d.known = {};
        d.serial = d.address = d.notes = d.assetNumber = "";
    }
    const auto text = toJson(p).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
    std::uint64_t sum = 14695981039346656037ull;
    for (const unsigned char c : text)
        sum = (sum ^ c) * 1099511628211ull;
    char hex[17];
    std::snprintf(hex, sizeof hex, "%016llx", static_cast<unsigned long long>(sum));
    return hex;
}

} // namespace loom::project
