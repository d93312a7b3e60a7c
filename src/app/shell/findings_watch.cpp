#include "app/shell/findings_watch.h"

namespace loom::app {

FindingsWatch::FindingsWatch(Session& session, QObject* parent)
    : QObject(parent), session_(session), worker_([this](std::vector<project::Finding> found) {
          found_ = std::move(found);
          emit changed();
      }) {
    soon_.setSingleShot(true);
    soon_.setInterval(100); // while somebody drags, not at every step
    connect(&soon_, &QTimer::timeout, this, &FindingsWatch::look);
    connect(&session, &Session::changed, this, [this] {
        if (!soon_.isActive())
            soon_.start();
    });
    look();
}

// On a copy: the files inside a project are shared, the rest is small.
void FindingsWatch::look() {
    worker_.start([copy = session_.project()](std::stop_token stop) { return project::check(copy, stop); });
}

} // namespace loom::app
