// Sound of one port of a device, brought to this computer over the device's own line: what passes there now, a moment
// late. One at a time; another one takes its place.
#pragma once
#include "client/device_session.h"
#include <QObject>
#include <deque>

namespace loom::client {

class PortTap : public QObject {
    Q_OBJECT
  public:
    static constexpr int askMs = 60;
    static constexpr std::size_t kept = 8192; // samples that latest() has at most
    struct Place {
        std::string device, port;
        bool input = true; // else what leaves there
        bool operator==(const Place&) const = default;
    };
    explicit PortTap(Network& network);
    void begin(DeviceSession& link, const Place& place);
    void end(); // given back
    const std::optional<Place>& place() const { return place_; }
    std::vector<float> latest() const { return {latest_.begin(), latest_.end()}; }
    double rate() const { return rate_; }

  signals:
    void came(const std::vector<float>& samples);
    void changed();                // begun, or ended
    void said(const QString& why); // it cannot be, and has ended

  private:
    void ask();
    Timer timer_;
    DeviceSession::Watch link_;
    std::optional<Place> place_;
    std::deque<float> latest_;
    double rate_ = 48000, after_ = 0;
    bool asking_ = false;
    int turn_ = 0; // of begin(): answers to an earlier one are not wanted
};

} // namespace loom::client
