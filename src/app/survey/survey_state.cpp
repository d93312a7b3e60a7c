#include "app/survey/survey_state.h"
#include "app/text.h"
#include <algorithm>

namespace loom::app {
namespace {

constexpr std::size_t fineDigits = 8000, coarseDigits = 500;

} // namespace

SurveyState::SurveyState(Session& session)
    : session_(session), figuresWork_([this](SurveyResult r) {
          result_.figures = std::move(r.figures); // the others stand until they come anew
          emit computed();
      }),
      restWork_([this](SurveyResult r) {
          r.figures = std::move(result_.figures);
          result_ = std::move(r);
          emit computed();
      }),
      mapWork_([this](PlanMap m) {
          map_ = std::move(m);
          emit computed();
      }) {
    soon_.setSingleShot(true);
    soon_.setInterval(30);
    connect(&soon_, &QTimer::timeout, this, &SurveyState::recompute);
    connect(&session, &Session::healthChanged, this, &SurveyState::changed);
    connect(&session, &Session::changed, this, [this](const project::Change& c) {
        if (c.kind != project::Change::Kind::survey && c.kind != project::Change::Kind::project &&
            c.kind != project::Change::Kind::device)
            return;
        std::erase_if(chosen_,
                      [this](const std::string& key) { return project::fieldsOf(session_.project(), key).empty(); });
        if (!session_.project().room(room_))
            room_.clear();
        if (room_.empty() && building() && !building()->rooms.empty())
            room_ = building()->rooms.front().id;
        emit changed();
        soon_.start();
    });
}

const project::Building* SurveyState::building() const {
    if (const auto* b = session_.project().buildingOf(room_))
        return b;
    return session_.project().buildings.empty() ? nullptr : &session_.project().buildings.front();
}

const project::WallState* SurveyState::wallState() const {
    if (const auto* b = building())
        for (const auto& s : b->states)
            if (s.id == wallState_)
                return &s;
    return nullptr;
}

void SurveyState::setRoom(const std::string& room) {
    if (room_ == room)
        return;
    room_ = room;
    result_ = {};
    map_ = {};
    emit changed();
    recompute();
}

void SurveyState::setWallState(const std::string& id) {
    wallState_ = id;
    result_ = {};
    emit changed();
    recompute();
}

bool SurveyState::isChosen(const std::string& key) const {
    return std::find(chosen_.begin(), chosen_.end(), key) != chosen_.end();
}

void SurveyState::choose(std::vector<std::string> keys) {
    chosen_ = std::move(keys);
    if (!chosen_.empty())
        if (const auto* b = building())
            for (const auto& item : project::planItems(session_.project(), *b))
                if (item.key == chosen_.back() && !item.room.empty() && item.room != room_)
                    return setRoom(item.room);
    emit changed();
}

void SurveyState::setMap(MapKind kind, int band) {
    mapKind_ = kind;
    band_ = band;
    if (kind == MapKind::none)
        map_ = {};
    emit changed();
    computeMap(session_.project(), false);
}

void SurveyState::cancel() {
    figuresWork_.stop();
    restWork_.stop();
    mapWork_.stop();
    emit computed();
}

void SurveyState::computeMap(const project::Project& as, bool coarse) {
    const auto* b = as.buildingOf(room_);
    if (!b || mapKind_ == MapKind::none)
        return mapWork_.stop();
    auto model = project::modelOf(as, project::spaceOf(*b, wallState(), room_), wallState());
    if (model.rooms.empty())
        return;
    mapWork_.start([model = std::move(model), kind = mapKind_, band = band_, coarse](std::stop_token stop) {
        auto map =
            project::mapOf(model, kind, band, project::mapStepFor(model, coarse ? coarseDigits : fineDigits), stop);
        map.coarse = coarse;
        return map;
    });
}

void SurveyState::preview(const project::Project& as) {
    if (!mapWork_.busy())
        computeMap(as, true);
}

void SurveyState::recompute() {
    const auto& p = session_.project();
    const auto* b = p.buildingOf(room_);
    if (!b)
        return;
    computeMap(p, false);
    const auto* state = wallState();
    const project::Space space = project::spaceOf(*b, state, room_);
    if (space.rooms.empty()) {
        result_ = {};
        emit computed();
        return;
    }
    auto model = project::modelOf(p, space, state);
    figuresWork_.start([model](std::stop_token) {
        SurveyResult r;
        r.figures = project::figuresOf(model);
        return r;
    });
    restWork_.start([copy = p, room = room_, stateId = state ? state->id : std::string(),
                     model = std::move(model)](std::stop_token stop) {
        SurveyResult r;
        r.loops = project::loopsOf(model, 1, stop);
        if (!stop.stop_requested())
            r.images = project::imageSourceDecay(model, stop);
        const project::WallState* held = nullptr;
        for (const auto& s : copy.buildingOf(room)->states)
            if (s.id == stateId)
                held = &s;
        if (!stop.stop_requested())
            r.suggestions = project::suggestionsOf(copy, room, held, stop);
        return r;
    });
}

bool SurveyState::run(project::Edit edit) {
    return edit && session_.edit(std::move(edit));
}

void SurveyState::applySuggestion(std::size_t index) {
    if (index < result_.suggestions.size())
        run(project::setDevices(result_.suggestions[index].devices, result_.suggestions[index].text));
}

} // namespace loom::app
