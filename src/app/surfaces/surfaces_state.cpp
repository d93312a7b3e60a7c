#include "app/surfaces/surfaces_state.h"
#include "app/text.h"
#include "surface/bundle.h"
#include <algorithm>

namespace loom::app {

using namespace project;

SurfacesState::SurfacesState(Session& session, QObject* parent) : QObject(parent), session_(session) {
    connect(&session, &Session::changed, this, &SurfacesState::refresh);
    connect(&session, &Session::surfacesChanged, this, &SurfacesState::refresh);
    connect(&session, &Session::opened, this, [this] {
        surface_.clear();
        page_.clear();
        ply_.clear();
        chosen_.clear();
    });
    refresh();
}

void SurfacesState::refresh() {
    const auto* s = project().surface(surface_);
    if (!s) {
        s = project().surfaces.empty() ? nullptr : &project().surfaces.front();
        surface_ = s ? s->id : "";
        page_.clear();
    }
    if (s && !s->page(page_))
        page_ = s->pages.empty() ? "" : s->pages.front().id;
    const auto* p = page();
    if (!ply() && !ply_.empty())
        ply_.clear();
    const auto gone = std::erase_if(chosen_, [&](const auto& id) { return !p || !p->control(id); });
    emit changed();
    if (gone > 0)
        emit chosenChanged();
}

const Surface* SurfacesState::surface() const {
    return project().surface(surface_);
}

const SurfacePage* SurfacesState::page() const {
    const auto* s = surface();
    return s ? s->page(page_) : nullptr;
}

const Ply* SurfacesState::ply() const {
    if (const auto* p = page())
        for (const auto& one : p->plies)
            if (one.id == ply_)
                return &one;
    return nullptr;
}

PagePlace SurfacesState::place() const {
    return {surface_, page_};
}

void SurfacesState::choose(const std::string& surface, const std::string& page) {
    surface_ = surface, page_ = page;
    ply_.clear();
    chosen_.clear();
    refresh();
    emit chosenChanged();
}

void SurfacesState::choosePage(const std::string& page) {
    choose(surface_, page);
}

void SurfacesState::choosePly(const std::string& ply) {
    ply_ = ply;
    emit changed();
}

bool SurfacesState::isChosen(const std::string& control) const {
    return std::find(chosen_.begin(), chosen_.end(), control) != chosen_.end();
}

void SurfacesState::chooseControls(std::vector<std::string> ids, bool alone) {
    if (const auto* p = page(); p && !alone)
        for (std::size_t i = 0; i < ids.size(); ++i) { // grows while it is gone through
            const auto* c = p->control(ids[i]);
            if (!c || c->group.empty())
                continue;
            for (const auto& ply : p->plies)
                for (const auto& other : ply.controls)
                    if (other.group == c->group && std::find(ids.begin(), ids.end(), other.id) == ids.end())
                        ids.push_back(other.id);
        }
    if (ids == chosen_)
        return;
    chosen_ = std::move(ids);
    emit chosenChanged();
}

const Control* SurfacesState::leading() const {
    const auto* p = page();
    return p && !chosen_.empty() ? p->control(chosen_.front()) : nullptr;
}

bool SurfacesState::edit(const Edit& e) {
    return session_.edit(e);
}

bool SurfacesState::edit(const Result<Edit>& e) {
    if (e)
        return session_.edit(*e);
    session_.report(e.error());
    return false;
}

void SurfacesState::add(const std::string& kind, const std::string& param, std::optional<QPointF> at) {
    const auto* s = surface();
    const auto* k = findControlKind(kind);
    if (!s || !k)
        return;
    NewControl n{kind, param};
    n.ply = plyForNew();
    const QPointF middle = at.value_or(QPointF(s->width / 2.0, s->height / 2.0));
    n.x = std::clamp(std::round(middle.x() - k->width / 2), 0.0, std::max(0.0, s->width - k->width));
    n.y = std::clamp(std::round(middle.y() - k->height / 2), 0.0, std::max(0.0, s->height - k->height));
    const auto before = controls();
    if (edit(addControls(place(), {n})))
        chooseNew(before);
}

std::string SurfacesState::plyForNew() const {
    return ply() && !ply()->locked && !ply()->hiddenHere ? ply()->id : "";
}

std::set<std::string> SurfacesState::controls() const {
    std::set<std::string> ids;
    for (const auto& ply : page() ? page()->plies : List<Ply>{})
        for (const auto& c : ply.controls)
            ids.insert(c.id);
    return ids;
}

void SurfacesState::chooseNew(const std::set<std::string>& before) {
    std::vector<std::string> ids;
    for (const auto& id : controls())
        if (!before.count(id))
            ids.push_back(id);
    chooseControls(ids);
}

void SurfacesState::put(const QStringList& paths, std::optional<QPointF> at) {
    const auto* s = surface();
    if (!s || paths.isEmpty())
        return;
    const auto first = paths.first().toStdString();
    if (const auto drive = controlDrive(project(), first); drive && paths.size() == 1)
        return add(usualKind(*drive).id, first, at);
    std::vector<std::string> all;
    for (const auto& path : paths)
        all.push_back(path.toStdString());
    const auto before = controls();
    const QPointF from = at.value_or(QPointF(s->width / 2.0 - 60, s->height / 2.0 - 160));
    if (edit(putOnPage(project(), place(), all, from.x(), from.y(), plyForNew())))
        chooseNew(before);
}

} // namespace loom::app
