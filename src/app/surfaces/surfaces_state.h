// What the Surfaces stage looks at: a surface, a page, a ply, the chosen controls.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "surface/surface_edit.h"
#endif
#include <QPointF>

namespace loom::app {

class SurfacesState : public QObject {
    Q_OBJECT
  public:
    explicit SurfacesState(Session& session, QObject* parent = nullptr);
    Session& session() { return session_; }
    const project::Project& project() const { return session_.project(); }

    const project::Surface* surface() const; // the chosen one; null: there is none
    const project::SurfacePage* page() const;
    const project::Ply* ply() const; // where new controls go; null: the foremost that may be touched
    project::PagePlace place() const;
    void choose(const std::string& surface, const std::string& page = "");
    void choosePage(const std::string& page);
    void choosePly(const std::string& ply);

    // Controls; the first one leads. Those of a group come together unless `alone`.
    const std::vector<std::string>& chosen() const { return chosen_; }
    bool isChosen(const std::string& control) const;
    void chooseControls(std::vector<std::string> ids, bool alone = false);
    const project::Control* leading() const; // null: none is chosen

    bool edit(const project::Edit& edit); // false: it cannot be, and why is told
    bool edit(const Result<project::Edit>& edit);
    // A new control in the middle of the page, or at a place on it; chosen then.
    void add(const std::string& kind, const std::string& param = "", std::optional<QPointF> at = {});
    // Parameters as what suits them, and what comes as several controls (surface/bundle.h), from that place on; chosen
    // then.
    void put(const QStringList& paths, std::optional<QPointF> at = {});
    std::string plyForNew() const; // "": the foremost that may be touched

  signals:
    void changed(); // the design, or what of it is looked at
    void chosenChanged();

  private:
    void refresh();
    std::set<std::string> controls() const; // of the page
    void chooseNew(const std::set<std::string>& before);
    Session& session_;
    std::string surface_, page_, ply_;
    std::vector<std::string> chosen_{};
};

} // namespace loom::app
