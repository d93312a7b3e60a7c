// Plays what a far end was sent, on this computer.
#pragma once
#include "app/ear_out.h"
#include <QObject>
#include <QTimer>
#include <vector>

namespace loom::app {

class FarPlayer : public QObject {
    Q_OBJECT
  public:
    explicit FarPlayer(QObject* parent = nullptr);
    // From the beginning, at 48 kHz; what was played before ends. Returns what stands in the way, if anything.
    QString play(std::vector<float> samples, const QString& what);
    void stop();
    bool playing() const { return out_.isOpen(); }
    const QString& what() const { return what_; }
    double seconds() const { return static_cast<double>(at_) / 48000; }

  signals:
    void changed();

  private:
    void feed();
    EarOut out_;
    QTimer timer_;
    std::vector<float> samples_;
    std::size_t at_ = 0;
    QString what_;
};

} // namespace loom::app
