// Time and turns of one thread, real or made up: what waits here can be stepped by a test.
#pragma once
#include <QObject>
#include <functional>
#include <memory>

namespace loom::client {

class Scheduler {
  public:
    virtual ~Scheduler() = default;
    virtual qint64 now() const = 0; // ms on a clock that does not go back
    // Runs it in a later turn, in order; may be called from any thread.
    virtual void post(std::function<void()> what) = 0;
    // Runs it once so many ms are over; to be called from its own thread.
    virtual void after(int ms, std::function<void()> what) = 0;
};

// The turns of a thread with Qt's event loop: that of `context`, which outlives it.
class QtScheduler : public Scheduler {
  public:
    explicit QtScheduler(QObject* context) : context_(context) {}
    qint64 now() const override;
    void post(std::function<void()> what) override;
    void after(int ms, std::function<void()> what) override;

  private:
    QObject* context_;
};

// As a QTimer, on any scheduler. What it calls may destroy it.
class Timer {
  public:
    enum class Mode { again, once };
    Timer(Scheduler& on, Mode mode, std::function<void()> what) : on_(on), mode_(mode), what_(std::move(what)) {}
    void start(int ms);
    void stop() { run_.reset(); }
    bool active() const { return run_ != nullptr; }

  private:
    void wait(std::shared_ptr<int> run, int ms);
    Scheduler& on_;
    Mode mode_;
    std::function<void()> what_;
    std::shared_ptr<int> run_{}; // gone: what was started last is not wanted any more
};

} // namespace loom::client
