// The client's real network: WebSockets and UDP on a thread of their own.
#pragma once
#include "client/network.h"
#include <QThread>
#include <QThreadPool>

namespace loom::client {

class SocketNetwork : public Network {
  public:
    // here: whatever lives in the turns of the calling thread and outlives this.
    explicit SocketNetwork(QObject* here);
    ~SocketNetwork() override; // after all that came from it has been destroyed
    Scheduler& here() override { return here_; }
    Scheduler& there() override { return there_; }
    std::unique_ptr<Line> newLine() override;
    std::unique_ptr<Finder> newFinder() override;
    std::unique_ptr<GroupListener> newListener() override;
    void work(std::function<void()> job) override;

  private:
    QThreadPool jobs_;
    QThread thread_;
    QObject anchor_; // in that thread
    QtScheduler here_, there_;
};

} // namespace loom::client
