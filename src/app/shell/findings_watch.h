// Keeps the project's findings up to date, worked out on a thread of its own.
#pragma once
#include "app/session.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "findings/findings.h"
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
    struct Looked {
        std::vector<project::Finding> found, acoustics;
        int rooms = -1; // state of the rooms that the acoustics are of; -1: stopped on the way
    };
    std::vector<project::Finding> found_, acoustics_; // the rooms' part takes longest and is kept while rooms stay
    int rooms_ = 0, held_ = -1;                       // states of the rooms: counted now, and that of acoustics_
    QTimer soon_;
    Worker<Looked> worker_;
};

} // namespace loom::app
