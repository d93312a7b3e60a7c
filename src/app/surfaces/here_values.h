// Values of a surface that is used on this computer: those of the device where one is there and live, those of the
// bench while it runs it, else those of the design with what was turned here, which stays here.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "surface/use.h"
#endif

namespace loom::client {
struct Member;
}

namespace loom::app {

class HereValues : public project::SurfaceValues {
  public:
    explicit HereValues(Session& session) : session_(session) {}
    std::optional<double> now(const project::Drive& drive) override;
    void set(const project::Drive& drive, double value) override;
    bool onBench(const std::string& device) const;

    // The device itself, live; null: it is not there, or it is not live.
    client::Member* there(const std::string& device) const;

  private:
    Session& session_;
    std::map<std::string, double> turned_{}; // by path
};

} // namespace loom::app
