#include "client/scheduler.h"
#include <QTimer>
#include <chrono>

namespace loom::client {

qint64 QtScheduler::now() const {
    return std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::steady_clock::now().time_since_epoch())
        .count();
}

void QtScheduler::post(std::function<void()> what) {
    QMetaObject::invokeMethod(context_, std::move(what), Qt::QueuedConnection);
}

void QtScheduler::after(int ms, std::function<void()> what) {
    QTimer::singleShot(ms, context_, std::move(what));
}

void Timer::start(int ms) {
    run_ = std::make_shared<int>();
    wait(run_, ms);
}

void Timer::wait(std::shared_ptr<int> run, int ms) {
    on_.after(ms, [this, weak = std::weak_ptr(run), ms] {
        const auto still = weak.lock();
        if (!still) // stopped, started anew, or gone with its owner
            return;
        if (mode_ == Mode::again)
            wait(still, ms);
        else
            run_.reset();
        const auto what = what_; // it may destroy this
        what();
    });
}

} // namespace loom::client
