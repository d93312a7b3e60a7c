// Streams that are announced on this network (SAP), by whoever it is.
#pragma once
#include "client/network.h"
#include "stream/sap.h"

namespace loom::client {

class Announcements {
  public:
    static constexpr const char* group = "239.255.255.255"; // of the administrative scope (RFC 2974 3)
    static constexpr std::uint16_t port = 9875;
    static constexpr int forgetMs = 10000;
    explicit Announcements(Network& network);
    ~Announcements();
    void listen(bool loopback); // from now on; streams come one after another, within their senders' period
    bool listening() const { return listening_; }
    const stream::Directory& known() const { return known_; }
    std::function<void()> changed;

  private:
    struct Core; // lives there
    void heard(const std::vector<std::vector<std::uint8_t>>& packets);
    double now() const { return static_cast<double>(network_.here().now()) / 1000; }
    Network& network_;
    std::shared_ptr<Core> core_;
    std::shared_ptr<Announcements*> self_;
    stream::Directory known_;
    Timer forget_, soon_;
    bool listening_ = false, loopback_ = false;
};

} // namespace loom::client
