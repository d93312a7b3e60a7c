// A program at work: one thread runs the sound, another changes it.
#pragma once
#include "engine/ring.h"
#include "engine/schedule.h"
#include <array>
#include <deque>
#include <optional>

namespace loom::engine {

inline constexpr int probeCount = 8;

// Control functions belong to one thread, process() to another; between them are wait-free queues only.
class Runner {
  public:
    Runner(double rate, Resources resources);
    ~Runner();

    // -- control thread --
    // Runs `program` from the next frame on. Blocks that stay keep their sound and state; those with other values
    // glide. Error (a loop ...): what ran goes on.
    Result<Done> load(const Program& program);
    // Sets one parameter of what runs. Error names the block or parameter that is not there.
    Result<Done> set(const std::string& block, const std::string& param, double value);
    // What is set while one of these lives reaches the sound in one frame, up to `mostTogether` values.
    class Together {
      public:
        explicit Together(Runner& runner) : runner_(runner) { ++runner_.together_; }
        ~Together() {
            if (--runner_.together_ == 0)
                runner_.flush();
        }
        Together(const Together&) = delete;
        Together& operator=(const Together&) = delete;

      private:
        Runner& runner_;
    };
    static constexpr std::size_t mostTogether = 1 << 14;
    const Program& program() const { return program_; }
    const Schedule* schedule() const { return current_.get(); }
    MeterReading meter(const PortRef& port) const;
    // Copies what passes a port into a ring; replaced or ended by another call. slot 0..7.
    void probe(int slot, std::optional<PortRef> port);
    std::size_t readProbe(int slot, std::span<float> to);
    // Sends what did not fit the queue and frees what no longer runs. Call now and then.
    void tend();
    double rate() const { return rate_; }
    std::size_t retiring() const { return retiring_.size(); } // plans that were replaced and are not freed yet

    // -- audio thread --
    // Up to 64 samples; returns false if nothing is loaded yet. No allocation, lock or system call.
    bool process(const PortIo& io, int frames) noexcept;

  private:
    struct Message {
        enum class Kind { swap, set, probe } kind = Kind::set;
        Schedule* schedule = nullptr;
        Kernel* kernel = nullptr;
        int index = 0;
        double value = 0;
    };
    void send(const Message& m);
    void flush();
    void sendProbe(int slot);
    // What stays glides to its new values. `previous` is the plan of what program_ still is.
    void sendChanges(const Program& to, const Schedule& previous);

    double rate_;
    Resources resources_;
    Program program_;
    std::unique_ptr<Schedule> current_;
    std::vector<std::unique_ptr<Schedule>> retiring_;
    std::deque<Message> waiting_;
    int together_ = 0;
    std::array<std::optional<PortRef>, probeCount> taps_;
    Ring<Message> inbox_{mostTogether};
    Ring<Schedule*> outbox_{256};

    // audio thread's own
    Schedule* running_ = nullptr;
    std::array<int, probeCount> probed_{};
    std::vector<std::unique_ptr<Ring<float>>> probeRings_;
};

} // namespace loom::engine
