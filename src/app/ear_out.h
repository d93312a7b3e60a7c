// The computer's audio output, for what somebody listens to: one channel.
#pragma once
#include <QString>
#include <memory>
#include <span>

namespace loom::app {

class EarOut {
  public:
    EarOut();
    ~EarOut();
    // rate: Hz. Returns what stands in the way, if anything.
    QString open(double rate);
    void close();
    bool isOpen() const { return sink_ != nullptr; }
    std::size_t room() const; // samples that it takes now
    void write(std::span<const float> samples);

  private:
    struct Sink;
    std::unique_ptr<Sink> sink_;
};

} // namespace loom::app
