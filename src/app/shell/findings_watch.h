// Keeps the project's findings up to date, worked out on a thread of its own.
#pragma once
#include "app/session.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "project/findings.h"
#endif

namespace loom::app {

class FindingsWatch : public QObject {
    Q_OBJECT
  public:
    FindingsWatch(Session& session, QObject* parent);
    const std::vector<project::Finding>& found() const { return found_; }

  signals:
    void changed();

  private:
    void look();
    Session& session_;
    std::vector<project::Finding> found_;
    QTimer soon_;
    Worker<std::vector<project::Finding>> worker_;
};

} // namespace loom::app
