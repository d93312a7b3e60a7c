// Devices found on a network, against those planned: who stands for whom, what is wrong, what would cure it.
#pragma once
#include "engine/result.h"
#include "findings/registry.h"
#include "model/health.h"
#include "model/project.h"
#include "schema/schema.h"
#include <nlohmann/json.hpp>

namespace loom::site {

inline constexpr int devicePort = 4710; // of the device protocol (TCP) and of finding (UDP)

// Small boards on USB answer on a line of this computer's own, one address a socket: nobody plans or changes them.
std::vector<std::string> usbSockets(); // "127.47.10.1" ...

// What a device tells of itself to whoever looks.
struct DiscoveredDevice {
    std::string serial{}, model{}, modelName{}, name{}, address{}, firmware{}, identity{};
    std::string reachedAt{};           // where it answers on this link whatever its address is: "127.254.163.241"
    std::string salt{};                // of its password, base64; "": it has none
    bool sealed = false, fresh = true; // fresh: nothing was ever kept on it
    // -- what whoever looks adds --
    std::string asked{};           // the address that its answer came by; another than its own: through a remote rig
    double seen = 0;               // seconds on the clock of whoever looks, of its last answer
    project::ModelSource models{}; // where `model` is looked up
    const project::DeviceModel* spec() const { return models.find(model); } // null: nothing is known of it
};
// Whether it tells the same, whenever it was heard.
bool tellsTheSame(const DiscoveredDevice& a, const DiscoveredDevice& b);

// A network of addresses, "127.20.4.0/24"; none if it is not one of /8 to /30.
struct Subnet {
    std::uint32_t base = 0;
    int bits = 24;
    bool holds(const std::string& address) const;
    std::vector<std::string> hosts() const; // at most 1022, without its first and last
};
std::optional<Subnet> readSubnet(const std::string& text);
std::optional<std::uint32_t> readAddress(const std::string& text);
std::string addressText(std::uint32_t address);

bool onSite(const project::Device& device); // of a model that can be found

// ---- pairing ----
enum class PairBy { serial, name, address, model, position };
struct Match {
    std::string device, serial;
    PairBy by = PairBy::serial;
    std::string why; // "same serial", "same name", "same address", "the only Canopy 8 left", "by position"
};
// Pairs for planned devices that have none yet, among found ones of their model that nobody has; each found one once.
// By model: only where one planned device and one found are left. By position: those left of a model in the order of
// the plan and of their addresses. `ways` are tried in their order.
std::vector<Match> matches(const project::Project& project, const std::vector<DiscoveredDevice>& found,
                           const std::vector<PairBy>& ways);

// ---- what is wrong ----
struct SiteFinding {
    enum class Cure { none, readdress, replace, add, firmware, look } cure = Cure::none;
    project::FindingCode code{};
    std::string device{}, serial{}; // planned and found, as far as it is about one
    std::string reason{}, remedy{};
    std::string address{}; // readdress: the one proposed
    std::string id() const { return project::kindOf(code).id; }
    bool fix() const { return project::kindOf(code).severity == project::Severity::fix; } // else to note
};
// `reached`: the subnet of the adapter; devices of others are heard and cannot be reached. `lost`: serials of paired
// devices that do not answer.
std::vector<SiteFinding> siteFindings(const project::Project& project, const std::vector<DiscoveredDevice>& found,
                                      const std::optional<Subnet>& reached, const std::vector<std::string>& lost);
// A free address for a found device: that of the planned device it stands for, or of one of its model that waits for a
// device; else the first from .10 on that neither a planned nor another found device has; "" if there is none.
// `promised`: addresses that are offered to others already.
std::string proposeAddress(const project::Project& project, const std::vector<DiscoveredDevice>& found,
                           const DiscoveredDevice& of, const Subnet& subnet,
                           const std::vector<std::string>& promised = {});

// Any free one: not planned, not heard of. `dice` chooses among them; "" if there is none.
std::string randomAddress(const project::Project& project, const std::vector<DiscoveredDevice>& found,
                          const DiscoveredDevice& of, const Subnet& subnet, std::uint32_t dice);

// The room that a found device tells by its name ("Tern Room canopy 1") or by its address (that room's subnet); "" if
// neither does, or two rooms would do.
std::string likelyRoom(const project::Project& project, const DiscoveredDevice& found);

// A planned device made from a found one, with its name and address, in a room ("" for none).
project::Device plannedFrom(const project::Project& project, const DiscoveredDevice& found, const std::string& room);

// Whether version a ("1.10") is older than b ("1.9" is not).
bool older(const std::string& a, const std::string& b);

} // namespace loom::site

namespace loom::schema {

LOOM_DESCRIBE(site::DiscoveredDevice)

} // namespace loom::schema
