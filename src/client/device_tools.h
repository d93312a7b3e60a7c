// The tools at work on a device that is worked on live; the device takes them away when the line is lost.
#pragma once
#include "client/device_session.h"

namespace loom::client {

class DeviceTools : public QObject {
    Q_OBJECT
  public:
    // To another device, or to none; what was at work on the one before is taken away.
    void setLink(DeviceSession* link);
    // Live or not; what was at work is taken away when it ends.
    void setLive(bool on);
    bool live() const { return live_; }
    void put(const project::Tool& tool); // said() tells if the device refuses
    void take(int number);
    void clear();
    const std::vector<project::Tool>& list() const { return tools_; }

  signals:
    void changed();
    void said(const QString& text);

  private:
    DeviceSession* link() const { return link_.get(); }
    DeviceSession::Watch link_;
    bool live_ = false;
    std::vector<project::Tool> tools_;
};

} // namespace loom::client
