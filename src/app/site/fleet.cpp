#include "app/site/fleet.h"
#include "app/text.h"
#include "client/socket_network.h"
#include <QCoreApplication>

namespace loom::app {

namespace {

class SessionDesign : public client::Design {
  public:
    explicit SessionDesign(Session& session) : session_(session) {}
    const project::Project& project() const override { return session_.project(); }
    project::ModelSource models() const override { return session_.models(); }
    bool edit(project::Edit edit) override { return session_.edit(std::move(edit)); }
    bool note(project::Edit edit) override { return session_.note(edit); }
    void say(const std::string& text, bool bad) override { session_.report(q(text), bad); }
    std::string working() const override { return session_.device() ? session_.device()->id : ""; }
    const project::SiteHealth& health() const override { return session_.health(); }
    void setHealth(project::SiteHealth health) override { session_.setHealth(std::move(health)); }

  private:
    Session& session_;
};

} // namespace

Fleet::Fleet(Session& session, QObject* parent)
    : client::Fleet(std::make_shared<client::SocketNetwork>(QCoreApplication::instance()),
                    std::make_shared<SessionDesign>(session), client::Tickets(client::Tickets::usualPath()), parent),
      session_(session) {
    connect(&session, &Session::changed, this, &Fleet::follow);
    connect(&session, &Session::surfacesChanged, this, [this] {
        follow(project::Change{project::Change::Kind::surface, "", ""});
    });
    connect(&session, &Session::opened, this, &Fleet::anotherProject);
    session.setFleet(this);
}

} // namespace loom::app
