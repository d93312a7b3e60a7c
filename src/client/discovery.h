// Looking for devices: asks all of a range again and again, and knows who answered lately.
#pragma once
#include "client/network.h"
#include <map>

namespace loom::client {

class Discovery {
  public:
    static constexpr int againMs = 2000, forgetMs = 9000; // one answer of four may be lost without a word
    static constexpr std::size_t most = 5000;
    Discovery(Network& network, const project::ModelSource& models); // models: of what is found
    ~Discovery();
    void setPort(std::uint16_t port) { port_ = port; } // tests look at ports of their own
    void look(const site::Subnet& range);              // asks now, and goes on asking
    void addAddress(const std::string& address);       // asks there as well
    void askAgain() { ask(); }
    bool looking() const { return timer_.active(); }
    const std::optional<site::Subnet>& range() const { return range_; }
    std::uint16_t port() const { return port_; }
    const std::map<std::string, site::DiscoveredDevice>& found() const { return found_; } // by serial
    std::vector<site::DiscoveredDevice> list() const;                                     // by address
    std::function<void()> changed;

  private:
    struct Core; // lives there
    void ask();
    void heard(std::vector<site::DiscoveredDevice> found);
    Network& network_;
    project::ModelSource models_;
    std::shared_ptr<Core> core_;
    std::shared_ptr<Discovery*> self_;
    Timer timer_, soon_;
    std::uint16_t port_ = site::devicePort;
    std::optional<site::Subnet> range_{};
    std::vector<std::string> more_;
    std::map<std::string, site::DiscoveredDevice> found_;
    int asked_ = 0;
};

} // namespace loom::client
