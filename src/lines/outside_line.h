// The line to an outside device: TCP, UDP, HTTP, a serial line, OSC, or a broadcast that wakes. Comes back by itself.
#pragma once
#ifndef Q_MOC_RUN
#include "outside/outside_address.h"
#endif
#include <QObject>
#include <functional>
#include <memory>

namespace loom::lines {

class OutsideLine : public QObject {
  public:
    static constexpr int againMs = 2000; // after it was lost
    // Told before anything is sent; called from the event loop.
    struct Told {
        std::function<void(bool is)> connected{};
        std::function<void(std::string_view bytes)> heard{};    // of a line without packets
        std::function<void(const std::string& answer)> whole{}; // a packet, the body of an answer, OSC as text
        std::function<void(const std::string& why)> refused{};  // what was sent cannot be sent so
    };
    ~OutsideLine() override = default;
    virtual void send(const std::string& message) = 0; // as its templates make it
};

// onlyHere: addresses of this computer alone; others are refused by never being connected.
std::unique_ptr<OutsideLine> openOutsideLine(const project::OutsideKind& kind, const project::OutsideAddress& address,
                                             OutsideLine::Told told, bool onlyHere = false);

} // namespace loom::lines
