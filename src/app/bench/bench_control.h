// Runs the bench, takes the ear and the recorder to the chosen thread, and tells what comes of it.
#pragma once
#include "app/session.h"

namespace loom::app {

class BenchControl : public QObject {
    Q_OBJECT
  public:
    BenchControl(Session& session, QWidget* parent); // `parent` stands behind file dialogs
    void toggle();                                   // runs, or stops
    void listen();                                   // to the chosen thread, or no longer
    void record();                                   // begins; then stops and asks for a file

  signals:
    void changed();
    void beat(); // 25 times a second while it runs

  private:
    void tick();
    void ready(const std::optional<Error>& error);
    Session& session_;
    QWidget* parent_;
    QTimer ticks_;
};

} // namespace loom::app
