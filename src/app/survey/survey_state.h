// What Survey looks at: the room, the wall state, what is chosen, the map; and the figures, worked out beside.
#pragma once
#include "app/session.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "rooms/maps.h"
#include "rooms/plan_clip.h"
#include "rooms/plan_items.h"
#endif

namespace loom::app {

using project::MapKind;
using project::PlanMap;

struct SurveyResult {
    std::optional<project::SpaceFigures> figures{};
    std::vector<project::LoopFigure> loops{};
    acoustics::Bands images{}; // reverberation by image sources; 0 where not known
    std::vector<project::Suggestion> suggestions{};
};

class SurveyState : public QObject {
    Q_OBJECT
  public:
    explicit SurveyState(Session& session);

    const project::Building* building() const; // the one that is drawn
    std::string room() const { return room_; } // the one whose figures are shown; empty: none
    const project::WallState* wallState() const;
    void setRoom(const std::string& room);
    void setWallState(const std::string& id);

    const std::vector<std::string>& chosen() const { return chosen_; }
    bool isChosen(const std::string& key) const;
    void choose(std::vector<std::string> keys);

    MapKind mapKind() const { return mapKind_; }
    int mapBand() const { return band_; }
    void setMap(MapKind kind, int band = 5);
    const PlanMap& map() const { return map_; }
    const SurveyResult& result() const { return result_; }
    bool busy() const { return figuresWork_.busy() || restWork_.busy() || mapWork_.busy(); }
    void cancel();

    // While something is dragged: a coarse map of how it would be. Then the fine one of how it is.
    void preview(const project::Project& as);
    void recompute();

    bool run(project::Edit edit); // null: nothing to do
    void applySuggestion(std::size_t index);
    Session& session() { return session_; }

  signals:
    void changed();  // the choice, the room or the wall state
    void computed(); // figures or map

  private:
    void computeMap(const project::Project& as, bool coarse);
    Session& session_;
    std::string room_, wallState_;
    std::vector<std::string> chosen_;
    MapKind mapKind_ = MapKind::none;
    int band_ = 5;
    PlanMap map_;
    SurveyResult result_;
    QTimer soon_;
    Worker<SurveyResult> figuresWork_, restWork_; // the quick ones; loops, image sources, suggestions
    Worker<PlanMap> mapWork_;
};

} // namespace loom::app
