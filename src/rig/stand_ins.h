// Outside devices that are not there: a display, a projector that warms up, blinds that move, lights, a camera. Each
// speaks the language that its description in outside/ tells of, written anew here.
#pragma once
#ifndef Q_MOC_RUN
#include "model/outside.h"
#endif
#include <QObject>
#include <map>
#include <memory>
#include <set>
#include <string>

namespace loom::rig {

class StandInDevice : public QObject {
  public:
    enum class Fault { none, silent, slow, rubbish, flood };
    ~StandInDevice() override = default;
    virtual double state(const std::string& id) const = 0; // as it is now
    std::string serial{};                                  // the pseudo-terminal on whose other side it is; "": none
    Fault fault = Fault::none;
};

// Null: there is none that speaks this, or its address on this computer is taken.
std::unique_ptr<StandInDevice> standInFor(const project::OutsideKind& kind, const project::OutsideDevice& device);

} // namespace loom::rig
