// What sounds at ports now, as far as it is known: live on site, or on the bench; and one port of any device brought to
// this computer, to be heard and looked at.
#pragma once
#include "app/ear_out.h"
#include "app/session.h"
#include "client/port_tap.h"
#include "dsp/spectrum.h"

namespace loom::app {

class PatchEar : public QObject {
    Q_OBJECT
  public:
    using Place = client::PortTap::Place;
    explicit PatchEar(Session& session);
    bool knows() const;                    // levels of some device
    static constexpr double silent = -120; // dBFS
    // Peak in dBFS, `silent` at least; none: nobody tells.
    std::optional<double> level(const Place& place) const;

    void bring(const Place& place); // reports what stands in the way
    void giveBack();
    const std::optional<Place>& brought() const { return brought_; }
    QString words() const; // "Heddle 16 · net 3", of what is brought

    // What is looked at; third octaves in dB, empty while too little is known of it.
    void look(const std::optional<Place>& place);
    std::vector<double> spectrum();

  signals:
    void levels();  // they may have changed: ten times a second while somebody knows any
    void changed(); // brought, or given back

  private:
    std::optional<engine::PortRef> onBench(const Place& place) const;
    void follow();
    void tap(); // connects with the devices on site, once there are any
    Session& session_;
    QTimer timer_;
    std::optional<Place> brought_, looked_;
    bool ofBench_ = false;
    client::Fleet* fleet_ = nullptr; // whose taps are followed
    EarOut out_;
    std::unique_ptr<dsp::ThirdOctaveSpectrum> analyser_;
    double rate_ = 0; // of the analyser
};

} // namespace loom::app
