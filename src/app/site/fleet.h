// The devices on site, for the open project and its views.
#pragma once
#include "app/session.h"
#include "client/fleet.h"

namespace loom::app {

class Fleet : public client::Fleet {
    Q_OBJECT
  public:
    using Member = client::Member;
    explicit Fleet(Session& session, QObject* parent = nullptr);
    Session& session() { return session_; }

  private:
    Session& session_;
};

} // namespace loom::app
