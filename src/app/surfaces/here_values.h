// Values of a surface that is used on this computer: those of the bench while it runs the device, else those of the
// design with what was turned here, which stays here.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "surface/use.h"
#endif

namespace loom::app {

class HereValues : public project::SurfaceValues {
  public:
    explicit HereValues(Session& session) : session_(session) {}
    std::optional<double> now(const project::Drive& drive) override;
    void set(const project::Drive& drive, double value) override;
    bool onBench(const std::string& device) const;

  private:
    Session& session_;
    std::map<std::string, double> turned_{}; // by path
};

} // namespace loom::app
