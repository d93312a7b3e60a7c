#include "app/shell/findings_watch.h"
#include "findings/findings.h"
#include "findings/room_findings.h"

namespace loom::app {

FindingsWatch::FindingsWatch(Session& session, QObject* parent)
    : QObject(parent), session_(session), worker_([this](Looked looked) {
          found_ = std::move(looked.found);
          if (looked.rooms >= 0) {
              acoustics_ = std::move(looked.acoustics);
              held_ = looked.rooms;
          }
          emit changed();
      }) {
    soon_.setSingleShot(true);
    soon_.setInterval(100); // while somebody drags, not at every step
    connect(&soon_, &QTimer::timeout, this, &FindingsWatch::look);
    connect(&session, &Session::surfacesChanged, this, [this] {
        if (!soon_.isActive())
            soon_.start();
    });
    connect(&session, &Session::changed, this, [this](const project::Change& c) {
        rooms_ += c.kind != project::Change::Kind::value && c.kind != project::Change::Kind::program;
        if (!soon_.isActive())
            soon_.start();
    });
    look();
}

// On a copy: the files inside a project are shared, the rest is small.
void FindingsWatch::look() {
    worker_.start(
        [copy = session_.project(), held = acoustics_, now = rooms_, stale = rooms_ != held_](std::stop_token stop) {
            Looked looked;
            looked.acoustics = stale ? project::checkAcoustics(copy, stop) : held;
            looked.rooms = stop.stop_requested() ? -1 : now;
            looked.found = project::checkWith(copy, looked.acoustics);
            return looked;
        });
}

} // namespace loom::app
