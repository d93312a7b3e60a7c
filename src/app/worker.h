// Work that takes longer than a frame: done on a thread of its own, its result delivered on the thread that asked.
#pragma once
#include "dsp/dispatch.h"
#include <QMetaObject>
#include <QObject>
#include <functional>
#include <memory>
#include <stop_token>
#include <thread>

namespace loom::app {

// The newest job counts: a new one stops the one before, whose result is thrown away. Jobs look at their stop token now
// and then; the destructor waits until the last one has.
template <class Value> class Worker {
  public:
    using Job = std::function<Value(std::stop_token)>;
    explicit Worker(std::function<void(Value)> deliver) : deliver_(std::move(deliver)) {}
    ~Worker() { thread_.request_stop(); } // and joins
    bool busy() const { return busy_; }

    void start(Job job) {
        if (busy_) { // its end starts this one
            thread_.request_stop();
            next_ = std::move(job);
            return;
        }
        busy_ = true;
        thread_ = std::jthread([this, job = std::move(job), started = thrownAway_](std::stop_token stop) {
            dsp::freshRegisters();
            auto value = std::make_shared<Value>(job(stop));
            QMetaObject::invokeMethod(
                &here_,
                [this, value, stop, started] {
                    if (started == thrownAway_)
                        end(std::move(*value), stop.stop_requested());
                },
                Qt::QueuedConnection);
        });
    }
    // Waits for what is at work, and for what was to come after it; their results are thrown away.
    void finish() {
        if (thread_.joinable())
            thread_.join();
        if (auto job = std::exchange(next_, nullptr))
            (void)job(std::stop_token());
        ++thrownAway_;
        busy_ = false;
    }
    void stop() {
        next_ = nullptr;
        thread_.request_stop();
    }

  private:
    void end(Value value, bool stopped) {
        thread_.join();
        busy_ = false;
        if (next_)
            return start(std::exchange(next_, nullptr));
        if (!stopped)
            deliver_(std::move(value));
    }
    std::function<void(Value)> deliver_;
    Job next_;
    bool busy_ = false;
    int thrownAway_ = 0;    // jobs started before it last grew are of no interest
    QObject here_;          // what is queued for it goes with it
    std::jthread thread_{}; // last: joined before the rest goes
};

} // namespace loom::app
