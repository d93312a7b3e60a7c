#include "app/surfaces/surfaces_page.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/shell/flow_layout.h"
#include "app/surfaces/drive_list.h"
#include "app/surfaces/page_list.h"
#include "app/surfaces/page_share.h"
#include "app/surfaces/surface_canvas.h"
#include "app/surfaces/surface_pictures.h"
#include "app/surfaces/surface_window.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "client/fleet.h"
#include "rules/scenes.h"
#include "surface/bundle.h"
#include "surface/make_page.h"
#include "surface/pack.h"
#include "surface/repoint.h"
#include <QDesktopServices>
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QUrl>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

SurfacesPage::SurfacesPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(session), commands_(commands), pages_(new PageList(state_)),
      canvas_(new SurfaceCanvas(state_)), drives_(new DriveList(state_)), bar_(new QWidget),
      share_(new PageShare(session, this)), scaler_(state_) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 8, 12, 0);
    row->setSpacing(10);
    row->addWidget(pages_, 0);
    auto* middle = new QVBoxLayout;
    middle->setContentsMargins(0, 0, 0, 8);
    middle->addWidget(canvas_, 1);
    auto* bar = new FlowLayout;
    for (const auto& [text, id, command] :
         {std::tuple("Use it here", "useHere", "surfaces.use"),
          std::tuple("In a browser", "inBrowser", "surfaces.browser"),
          std::tuple("On a phone\u2026", "onPhone", "surfaces.phone"), std::tuple("Pages", "otherSide", ""),
          std::tuple("Left in line", "arrangeLeft", "surfaces.left"),
          std::tuple("Top in line", "arrangeTop", "surfaces.top"),
          std::tuple("Same gap", "arrangeGap", "surfaces.gap-across"),
          std::tuple("Same size", "arrangeSize", "surfaces.same-size"),
          std::tuple("Stack", "arrangeStack", "surfaces.stack-down"),
          std::tuple("Re-point\u2026", "repoint", "surfaces.repoint")}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        if (QString(id) == "useHere")
            b->setProperty("main", true);
        if (QString(id).startsWith("arrange"))
            arranging_.push_back(b);
        if (QString(id) == "otherSide") {
            side_ = b;
            connect(b, &QPushButton::clicked, this, [this] {
                drivesShown_ = !drivesShown_;
                refresh();
            });
        } else {
            connect(b, &QPushButton::clicked, this, [this, c = QString(command)] { commands_.run(c); });
        }
        bar->addWidget(b);
    }
    bar_->setLayout(bar);
    middle->addWidget(bar_);
    row->addLayout(middle, 1);
    row->addWidget(drives_, 0);
    connect(drives_, &DriveList::wants, this, [this](const QString& id) { commands_.run(id); });
    connect(pages_, &PageList::wants, this, [this](const QString& id) { commands_.run(id); });
    connect(canvas_, &SurfaceCanvas::wantsFile, this, &SurfacesPage::bringFile, Qt::QueuedConnection);
    connect(canvas_, &SurfaceCanvas::wantsMenu, this, [this](const QPoint& at) {
        menu({"surfaces.copy", "surfaces.copyAs", "surfaces.remove", "surfaces.forward", "surfaces.back",
              "surfaces.group", "surfaces.part", "surfaces.toPly", "surfaces.look", "surfaces.drive", "surfaces.all",
              "surfaces.left", "surfaces.top", "surfaces.gap-across", "surfaces.same-size", "surfaces.stack-down"},
             at);
    });
    connect(pages_, &PageList::wantsPageMenu, this, [this](const QPoint& at) {
        menu({"surfaces.rename", "surfaces.copyPage", "surfaces.saveDrawing", "surfaces.pageUp", "surfaces.pageDown",
              "surfaces.removePage"},
             at);
    });
    connect(pages_, &PageList::wantsPlyMenu, this, [this](const QPoint& at) {
        menu({"surfaces.plyLock", "surfaces.plyForward", "surfaces.plyBack", "surfaces.removePly"}, at);
    });
    connect(&state_, &SurfacesState::changed, this, &SurfacesPage::refresh);
    connect(&state_, &SurfacesState::chosenChanged, this, &SurfacesPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SurfacesPage::refresh);
    refresh();
}

void SurfacesPage::menu(const std::vector<const char*>& ids, const QPoint& at) {
    QMenu all(this);
    for (const char* id : ids)
        commands_.addTo(all, id);
    all.exec(at);
}

void SurfacesPage::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void SurfacesPage::refresh() {
    pages_->setFixedWidth(Theme::get().ipx(198));
    drives_->setFixedWidth(Theme::get().ipx(220));
    // Where there is no room for both sides, one of them; what puts in order stands in the menu then.
    const bool any = state_.surface(), narrow = width() < Theme::get().ipx(820);
    for (auto* b : arranging_)
        b->setVisible(!narrow && state_.chosen().size() > 1);
    side_->setVisible(narrow);
    side_->setText(drivesShown_ ? "Pages" : "Drive it from");
    canvas_->setVisible(any);
    bar_->setVisible(any);
    pages_->setVisible(any && (!narrow || !drivesShown_));
    drives_->setVisible(any && (!narrow || drivesShown_));
}

void SurfacesPage::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    refresh();
}

void SurfacesPage::newSurface() {
    QStringList names;
    std::vector<std::string> ids;
    for (const auto* d : freeScreens(state_.project()))
        names << q(d->name), ids.push_back(d->id);
    names << "Another screen";
    ids.push_back("");
    const auto which =
        ids.size() == 1 ? std::optional<std::size_t>(0) : askChoice(this, "New touch surface", "For", names);
    if (!which)
        return;
    std::string name;
    std::array<double, 2> size{1280, 800};
    if (ids[*which].empty()) {
        const auto answers =
            ask(this, "Another screen", {{"Name", "Surface"}, {"Pixels across", "1280"}, {"Pixels down", "800"}});
        if (!answers)
            return;
        name = (*answers)[0].trimmed().toStdString();
        for (int i = 0; i < 2; ++i) {
            Field f{"size", "Pixels"};
            f.min = 64, f.max = 8192;
            const auto v = readNumber(f, (*answers)[i + 1].toStdString());
            if (!v)
                return state_.session().report(v.error());
            size[static_cast<std::size_t>(i)] = *v;
        }
    }
    const auto before = state_.project().surfaces.size();
    if (state_.edit(
            addSurface(state_.project(), name, ids[*which], static_cast<int>(size[0]), static_cast<int>(size[1]))) &&
        state_.project().surfaces.size() > before)
        state_.choose(state_.project().surfaces.back().id);
}

void SurfacesPage::removeSurface() {
    state_.edit(project::removeSurface(state_.project(), state_.place().surface));
}

void SurfacesPage::newPage() {
    const auto before = state_.surface() ? state_.surface()->pages.size() : 0;
    if (state_.edit(addPage(state_.project(), state_.place().surface, "")) && state_.surface()->pages.size() > before)
        state_.choosePage(state_.surface()->pages.back().id);
}

void SurfacesPage::newPly() {
    const auto name = askOne(this, "New ply, in front of the others", {"Name", "Ply"});
    if (!name)
        return;
    if (state_.edit(addPly(state_.place(), name->toStdString())))
        state_.choosePly(state_.page()->plies.back().id);
}

void SurfacesPage::rename() {
    const auto* page = state_.page();
    if (!page)
        return;
    if (const auto name = askOne(this, "Rename the page", {"Name", q(page->name)}))
        state_.edit(setPageField(state_.place(), "name", name->toStdString()));
}

void SurfacesPage::makePage() {
    const auto all = pageSources(state_.project());
    QStringList names;
    for (const auto& one : all)
        names << q(one.title);
    if (names.isEmpty())
        return state_.session().report("There is nothing to make a page for yet: a processor with a program.");
    if (const auto which = askChoice(this, "A page that makes itself", "For", names))
        makePages(pageSource(state_.project(), {all[*which].said}));
}

void SurfacesPage::makeFromChosen() {
    std::vector<std::string> said;
    for (const auto& path : drives_->chosenPaths()) {
        const auto text = path.toStdString();
        const auto word = isBundle(text) ? text.find(':') + 1 : 0;
        said.push_back(text.substr(word));
    }
    makePages(pageSource(state_.project(), said));
}

void SurfacesPage::makePages(const Result<PageSource>& source) {
    if (!source)
        return state_.session().report(source.error());
    std::set<std::string> before;
    for (const auto& p : state_.surface()->pages)
        before.insert(p.id);
    if (!state_.edit(project::makePages(state_.project(), state_.place().surface, source->title, source->strips)))
        return;
    for (const auto& p : state_.surface()->pages)
        if (!before.count(p.id) || state_.surface()->pages.size() == 1)
            return state_.choosePage(p.id);
}

void SurfacesPage::copyAs() {
    QStringList names;
    std::vector<std::string> ids;
    for (const auto& k : controlKinds())
        if (project::copyAs(state_.project(), state_.place(), state_.chosen(), k.id))
            names << q(k.label), ids.push_back(k.id);
    const auto which = askChoice(this, "A copy of another kind", "As", names);
    if (which)
        state_.edit(project::copyAs(state_.project(), state_.place(), state_.chosen(), ids[*which]));
}

void SurfacesPage::fromDesign() {
    auto& session = state_.session();
    const auto* d = session.device();
    if (!d || (session.lane().isEmpty() && session.block().isEmpty()))
        return session.report("Choose a lane or a bead in Weave first.");
    if (!session.block().isEmpty())
        return state_.put({"bead:" + q(d->id) + "/" + session.block()});
    QStringList paths;
    for (const auto& lane : session.lanes())
        paths << "strip:" + q(d->id) + "/" + lane;
    state_.put(paths);
}

void SurfacesPage::repoint() {
    const auto answers = ask(this, "Drive this page from elsewhere", {{"Where it says", ""}, {"let it say", ""}});
    if (!answers)
        return;
    const auto from = (*answers)[0].trimmed().toStdString(), to = (*answers)[1].trimmed().toStdString();
    const auto list = repointOf(state_.project(), state_.place().surface, {state_.place().page}, from, to);
    // What would be done is shown before it is.
    QStringList lines;
    int there = 0;
    for (const auto& r : list) {
        there += !r.to.empty();
        if (lines.size() < 12)
            lines << q(r.from) + " \u2192 " + (r.to.empty() ? QString("not there, stays") : q(r.to));
    }
    if (there == 0)
        return void(
            state_.edit(project::repoint(state_.project(), state_.place().surface, {state_.place().page}, from, to)));
    if (static_cast<int>(list.size()) > lines.size())
        lines << QString("and %1 more").arg(static_cast<int>(list.size()) - lines.size());
    if (askWhich(this, QString("%1 of %2 controls").arg(there).arg(list.size()), lines.join("\n"),
                 {"Re-point them", "Leave them"})
            .value_or(1) == 0)
        state_.edit(project::repoint(state_.project(), state_.place().surface, {state_.place().page}, from, to));
}

void SurfacesPage::askPly() {
    QStringList names;
    std::vector<std::string> ids;
    for (const auto& ply : state_.page()->plies)
        names << q(ply.name), ids.push_back(ply.id);
    if (const auto which = askChoice(this, "Another ply", "Put them on", names))
        state_.edit(controlsToPly(state_.place(), state_.chosen(), ids[*which]));
}

SurfaceWindow* SurfacesPage::window(const std::string& surface) const {
    for (const auto& w : windows_)
        if (w && w->surface() == surface)
            return w;
    return nullptr;
}

SurfaceWindow* SurfacesPage::useHere() {
    const auto* s = state_.surface();
    if (!s)
        return nullptr;
    auto* w = window(s->id);
    if (!w) {
        w = new SurfaceWindow(state_.session(), s->id, this);
        std::erase_if(windows_, [](const auto& one) { return one.isNull(); });
        windows_.emplace_back(w);
    }
    w->face()->use().open(state_.place().page);
    w->setManner(w->manner());
    w->raise();
    w->activateWindow();
    return w;
}

void SurfacesPage::inBrowser() {
    const auto* s = state_.surface();
    if (!s || !share_->start(share_->onNetwork()))
        return;
    const auto address = share_->address(s->id);
    state_.session().report(
        "Served at " + address + " while this program runs. PIN of every role here: " + PageShare::pin, false);
    QDesktopServices::openUrl(QUrl(address));
}

void SurfacesPage::onPhone() {
    const auto* s = state_.surface();
    if (!s || !share_->start(true))
        return;
    auto* card = new PhoneCard(*share_, q(s->name), share_->address(s->id), this);
    card->show();
}

// What the chosen controls set, else all of the page, as it is designed now.
void SurfacesPage::keepScene() {
    std::vector<std::string> paths;
    for (const auto& ply : state_.page()->plies)
        for (const auto& c : ply.controls)
            if (const auto d = c.param.empty() ? std::nullopt : driveOf(state_.project(), c.param);
                d && isValue(*d) && (state_.chosen().empty() || state_.isChosen(c.id)))
                paths.push_back(c.param);
    const auto values = sceneValuesOf(state_.project(), paths);
    const auto name = askOne(this,
                             QString("A scene of the %1 values that %2 set now")
                                 .arg(values.size())
                                 .arg(state_.chosen().empty() ? "this page's controls" : "the chosen controls"),
                             {"Name", "Scene"});
    if (!name)
        return;
    const auto* d = state_.project().device(state_.surface()->device);
    state_.edit(project::keepScene(state_.project(), name->trimmed().toStdString(), d ? d->room : "", values));
}

void SurfacesPage::setPin() {
    const auto* s = state_.surface();
    auto* fleet = state_.session().fleet();
    if (!s || s->roles.empty())
        return state_.session().report("This surface has no role yet: name it under Surface in the deck.");
    std::vector<std::string> there;
    for (const auto& d : state_.project().devices)
        for (const auto* shown : surfacesOn(state_.project(), d))
            if (const auto* m = shown == s && fleet ? fleet->member(d.id) : nullptr; m && m->link.up() && !m->locked)
                there.push_back(d.id);
    if (there.empty())
        return state_.session().report("None of the devices that show it is reached and open. Pair them at Site first; "
                                       "a PIN lives in devices alone.");
    QStringList names;
    for (const auto& r : s->roles)
        names << q(r.name);
    const auto which = names.size() == 1 ? std::optional<std::size_t>(0) : askChoice(this, "PIN of", "Role", names);
    if (!which)
        return;
    const auto role = s->roles[*which];
    const auto pin = askOne(this,
                            QString("PIN of %1 on %2 %3, 4 to 12 digits; nothing takes it away")
                                .arg(q(role.name))
                                .arg(there.size())
                                .arg(there.size() == 1 ? "device" : "devices"),
                            {"PIN", ""}, true);
    if (!pin)
        return;
    for (const auto& device : there)
        fleet->setPin(device, s->id, role.id, pin->trimmed().toStdString());
}

} // namespace loom::app
