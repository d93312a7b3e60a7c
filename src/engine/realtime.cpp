#include "engine/realtime.h"
#include <chrono>
#include <pthread.h>
#include <sched.h>

namespace loom::engine {

RealtimeThread::RealtimeThread(Runner& runner) : runner_(runner), thread_([this] { run(); }) {}

RealtimeThread::~RealtimeThread() {
    stop_ = true;
    thread_.join();
}

void RealtimeThread::run() {
    using Clock = std::chrono::steady_clock;
    constexpr int atOnce = 4; // frames, about 5 ms: sleeping more often costs more than it gives
    const auto frame =
        std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(maxFrame / runner_.rate()));
    // To be woken in time; a computer that does not grant it runs this thread as any other.
    const sched_param wish{10};
    (void)pthread_setschedparam(pthread_self(), SCHED_FIFO, &wish);
    auto due = Clock::now();
    while (!stop_) {
        for (int i = 0; i < atOnce; ++i)
            runner_.process({}, maxFrame);
        due += atOnce * frame;
        if (const auto now = Clock::now(); now > due + 8 * frame) {
            missed_.fetch_add(1);
            due = now + frame; // however far behind, others get their turn
        }
        std::this_thread::sleep_until(due);
    }
}

} // namespace loom::engine
