#include "app/survey/survey_page.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/shell/flow_layout.h"
#include "app/survey/drawing_panel.h"
#include "app/survey/figures_panel.h"
#include "app/survey/model_form.h"
#include "app/survey/plan_view.h"
#include "app/survey/shelf.h"
#include "app/survey/side_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "disk/safe_file.h"
#include "model/asset_name.h"
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {
namespace {} // namespace

SurveyPage::SurveyPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(session), shelfButton_(nullptr), figuresButton_(nullptr),
      reading_([this](std::tuple<std::string, project::Asset, Result<project::DxfPlan>> read) {
          takeDrawing(std::get<0>(read), std::get<1>(read), std::get<2>(read));
      }) {
    setObjectName("survey");
    shelf_ = new Shelf(state_);
    plan_ = new PlanView(state_, commands);
    side_ = new SideView(state_);
    figures_ = new FiguresPanel(state_);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    row->addWidget(shelf_);
    auto* middle = new QVBoxLayout;
    middle->setContentsMargins(8, 6, 8, 0);
    middle->setSpacing(4);
    wide_ = new QWidget;
    maps_ = new QWidget;
    compact_ = new QWidget;
    auto* tools = new FlowLayout(4);
    const auto tool = [&](const QString& text, const QString& name, PlanView::Tool what, const QString& tip) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        b->setToolTip(tip);
        b->setFocusPolicy(Qt::TabFocus);
        connect(b, &QPushButton::clicked, this, [this, what] {
            plan_->setTool(plan_->tool() == what ? PlanView::Tool::choose : what);
            plan_->setFocus();
        });
        tools->addWidget(b);
        toolButtons_.emplace_back(b, static_cast<int>(what));
    };
    tool("Draw a room  R", "drawRoom", PlanView::Tool::room,
         "Drag a rectangle, or press corner by corner and the first again; Shift+R types a size");
    tool("Seats  S", "seats", PlanView::Tool::seats,
         "Press where their middle is to be; rows and numbers stand in the deck");
    tool("Talker  T", "talker", PlanView::Tool::talker, "Press where somebody speaks");
    tool("Movable wall  W", "movableWall", PlanView::Tool::wall, "Drag along the wall between two rooms");
    auto* more = new QPushButton("Furniture");
    more->setObjectName("furniture");
    auto* menu = new QMenu(more);
    // Commands are declared by the time a menu is opened.
    const auto fill = [this, &commands](QMenu* of, const QStringList& ids) {
        connect(of, &QMenu::aboutToShow, this, [this, of, ids, &commands] {
            of->clear();
            for (const auto& id : ids)
                commands.addTo(*of, id);
            plan_->setFocus();
        });
    };
    fill(menu, {"survey.table", "survey.lectern", "survey.screen", "survey.door", "survey.stage", "survey.rack"});
    more->setMenu(menu);
    tools->addWidget(more);
    auto* grid = new QPushButton("Ceiling grid\u2026");
    grid->setObjectName("ceilingGrid");
    grid->setToolTip("Ceiling loudspeakers by count, by spacing or by overlap");
    connect(grid, &QPushButton::clicked, this, [&commands] { commands.run("survey.grid"); });
    tools->addWidget(grid);
    auto* behind = new QPushButton("Backdrop");
    behind->setObjectName("backdrop");
    auto* behindMenu = new QMenu(behind);
    fill(behindMenu, {"survey.backdrop", "survey.drawing", "survey.scale", "survey.noBackdrop"});
    behind->setMenu(behindMenu);
    tools->addWidget(behind);
    auto* fromSide = new QPushButton("Side  E");
    fromSide->setObjectName("fromSide");
    fromSide->setToolTip("Ceiling heights, stages, and at which height things hang");
    connect(fromSide, &QPushButton::clicked, this, [this] { showSide(side_->isHidden()); });
    tools->addWidget(fromSide);
    sideButton_ = fromSide;
    (new QVBoxLayout(wide_))->addLayout(tools); // a flow has no margins of its own
    wide_->layout()->setContentsMargins(0, 0, 0, 0);
    middle->addWidget(wide_);
    middle->addWidget(compact_);
    middle->addWidget(plan_, 1);
    middle->addWidget(side_, 1);
    side_->hide();
    auto* maps = new FlowLayout(4);
    for (const auto& m : project::mapSpecs()) {
        auto* b = new QPushButton(m.name);
        b->setObjectName(QString("map.") + m.name);
        b->setToolTip(m.help);
        b->setFocusPolicy(Qt::TabFocus);
        b->setCheckable(true);
        connect(b, &QPushButton::clicked, this, [this, kind = m.kind] {
            state_.setMap(state_.mapKind() == kind ? MapKind::none : kind, state_.mapBand());
        });
        maps->addWidget(b);
        mapButtons_.emplace_back(b, m.kind);
    }
    auto* band = new QPushButton("Octave");
    band->setObjectName("octave");
    auto* bandMenu = new QMenu(band);
    for (int b = 1; b < 8; ++b)
        connect(bandMenu->addAction(QString("%1 Hz").arg(acoustics::bandHz[static_cast<std::size_t>(b)])),
                &QAction::triggered, this, [this, b] { state_.setMap(MapKind::band, b); });
    band->setMenu(bandMenu);
    maps->addWidget(band);
    (new QVBoxLayout(maps_))->addLayout(maps);
    maps_->layout()->setContentsMargins(0, 0, 0, 6);
    middle->addWidget(maps_);
    row->addLayout(middle, 1);
    row->addWidget(figures_);
    connect(shelf_, &Shelf::picked, this, [this](const QString& model) {
        plan_->setModel(model.toStdString());
        const auto* m = state_.session().models().find(model.toStdString());
        state_.session().report("Press on the plan where each " + (m ? q(m->name) : model) + " is to be; Esc ends it.",
                                false);
        plan_->setFocus();
    });
    connect(shelf_, &Shelf::wantsFile, this, &SurveyPage::addModelFile);
    connect(shelf_, &Shelf::wantsForm, this, &SurveyPage::makeModel);
    drawing_ = new DrawingPanel(state_);
    row->addWidget(drawing_);
    connect(drawing_, &DrawingPanel::changed, this, [this] { plan_->showOutlines(drawing_->chosen()); });
    connect(drawing_, &DrawingPanel::closed, this, [this] {
        drawing_->hide();
        plan_->showOutlines({});
        sizeUp();
        plan_->setFocus();
    });
    connect(plan_, &PlanView::wantsFile, this, &SurveyPage::readBackdrop);
    connect(plan_, &PlanView::toolChanged, this, &SurveyPage::refresh);
    connect(&state_, &SurveyState::changed, this, &SurveyPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SurveyPage::sizeUp);
    buildCompact();
    sizeUp();
}

// Four buttons in one row: what to put, which map, the shelf, the figures.
void SurveyPage::buildCompact() {
    auto* row = new QHBoxLayout(compact_);
    row->setContentsMargins(0, 0, 0, 0);
    const auto button = [&](const QString& text, const QString& name) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        row->addWidget(b);
        return b;
    };
    auto* put = button("Draw and put", "putMenu");
    auto* putMenu = new QMenu(put);
    for (const auto& [b, tool] : toolButtons_)
        connect(putMenu->addAction(b->text()), &QAction::triggered, b, &QPushButton::click);
    for (auto* b : wide_->findChildren<QPushButton*>())
        if (b->menu()) {
            b->menu()->setTitle(b->text());
            putMenu->addMenu(b->menu());
        } else if (b->objectName() == "ceilingGrid")
            connect(putMenu->addAction(b->text()), &QAction::triggered, b, &QPushButton::click);
    put->setMenu(putMenu);
    auto* map = button("Map", "mapMenu");
    auto* mapMenu = new QMenu(map);
    for (const auto& [b, kind] : mapButtons_)
        connect(mapMenu->addAction(b->text()), &QAction::triggered, b, &QPushButton::click);
    map->setMenu(mapMenu);
    shelfButton_ = button("Shelf", "shelfButton");
    figuresButton_ = button("Figures", "figuresButton");
    row->addStretch(1);
    const auto show = [this](QWidget* one, QWidget* other) { // there is room for one of them
        one->setVisible(!one->isVisible());
        other->hide();
        refresh();
    };
    connect(shelfButton_, &QPushButton::clicked, this, [this, show] { show(shelf_, figures_); });
    connect(figuresButton_, &QPushButton::clicked, this, [this, show] { show(figures_, shelf_); });
}

void SurveyPage::sizeUp() {
    const bool large = Theme::get().percent() > 130;
    wide_->setVisible(!large);
    maps_->setVisible(!large);
    compact_->setVisible(large);
    shelf_->setVisible(!large);
    figures_->setVisible(!large && drawing_->isHidden()); // the plan comes first; the buttons bring the others
    refresh();
}

void SurveyPage::takeFocus() {
    side_->isHidden() ? plan_->setFocus() : side_->setFocus();
}

void SurveyPage::showSide(bool on) {
    plan_->setVisible(!on);
    side_->setVisible(on);
    refresh();
    takeFocus();
}

void SurveyPage::refresh() {
    const bool empty =
        state_.session().project().buildings.empty() || state_.session().project().buildings.front().rooms.empty();
    const auto restyle = [](QPushButton* b, bool main) {
        if (b->property("main").toBool() == main)
            return;
        b->setProperty("main", main);
        b->style()->unpolish(b);
        b->style()->polish(b);
    };
    for (auto& [b, tool] : toolButtons_)
        restyle(b, static_cast<int>(plan_->tool()) == tool || (empty && b == toolButtons_.front().first));
    restyle(sideButton_, !side_->isHidden());
    restyle(shelfButton_, !shelf_->isHidden());
    restyle(figuresButton_, !figures_->isHidden());
    for (auto& [b, kind] : mapButtons_) {
        b->setChecked(state_.mapKind() == kind);
        restyle(b, state_.mapKind() == kind);
        if (kind == MapKind::band) {
            const double hz = acoustics::bandHz[static_cast<std::size_t>(state_.mapBand())];
            b->setText(hz >= 1000 ? QString("%1 kHz").arg(hz / 1000) : QString("%1 Hz").arg(hz));
        }
    }
}

void SurveyPage::ceilingGrid() {
    const auto* r = state_.session().project().room(state_.room());
    QStringList names;
    std::vector<std::string> ids;
    for (const auto& m : state_.session().models().all())
        if (m.loudspeaker && m.mount == "ceiling") {
            names << q(m.name);
            ids.push_back(m.id);
        }
    if (names.isEmpty())
        return state_.session().report("There is no ceiling loudspeaker on the shelf.");
    const auto said = ask(this, "Ceiling grid",
                          {{"Loudspeaker", names.front(), names, false},
                           {"How many (6), how far apart (2.5 m), or how much they overlap (30 %)", "6"}});
    if (!said)
        return;
    const QString name = said->front();
    const auto wish = project::readGrid(said->back().toStdString());
    if (!wish)
        return state_.session().report(wish.error());
    const auto& model = *state_.session().models().find(ids[static_cast<std::size_t>(names.indexOf(name))]);
    const auto spots = project::ceilingSpots(*r, model, wish->by, wish->value);
    if (!spots)
        return state_.session().report(spots.error());
    std::map<std::string, std::optional<project::Device>> devices;
    std::vector<std::string> keys;
    for (auto& d : project::newDevices(state_.session().project(), r->id, model, *spots)) {
        keys.push_back("device:" + d.id);
        devices[d.id] = d;
    }
    if (state_.run(
            project::setDevices(std::move(devices), QString("Ceiling grid of %1").arg(keys.size()).toStdString())))
        state_.choose(keys);
    plan_->setFocus();
}

void SurveyPage::openBackdrop() {
    const QString file =
        QFileDialog::getOpenFileName(this, "Open a floor plan", {}, "Drawings (*.dxf *.svg *.png *.jpg *.jpeg)");
    if (!file.isEmpty())
        readBackdrop(file);
}

void SurveyPage::readBackdrop(const QString& file) {
    QFile in(file);
    if (!in.open(QIODevice::ReadOnly) || in.size() > static_cast<qint64>(project::maxDxfBytes))
        return state_.session().report(file + " cannot be read, or is larger than 128 MiB.");
    static const QStringList kinds{"dxf", "svg", "png", "jpg", "jpeg"};
    if (!kinds.contains(QFileInfo(file).suffix().toLower()))
        return state_.session().report(file + " is no drawing that can lie below the plan: DXF, SVG, PNG or JPEG.");
    const QByteArray bytes = in.readAll();
    const std::string name = QFileInfo(file).fileName().toStdString();
    const project::Asset content(std::vector<char>(bytes.begin(), bytes.end()));
    if (!file.endsWith(".dxf", Qt::CaseInsensitive)) {
        if (state_.run(project::addBackdrop(state_.session().project(), below(), name, content, 0.02)))
            state_.session().report("Now drag along a length you know (Backdrop, Scale it), so that the drawing fits.",
                                    false);
        return;
    }
    // Read apart from the window; long ones take a second or two, and a further one stops it.
    state_.session().report("Reading " + q(name) + "\u2026", false);
    reading_.start([content, name](std::stop_token stop) {
        return std::tuple(name, content, project::readDxfPlan({content.data(), content.size()}, name, [&](double) {
                              return !stop.stop_requested();
                          }));
    });
}

std::string SurveyPage::below() const {
    const auto* b = state_.building();
    return b ? b->id : std::string();
}

void SurveyPage::takeDrawing(const std::string& file, const project::Asset& content,
                             const Result<project::DxfPlan>& plan) {
    if (!plan)
        return state_.session().report(plan.error());
    std::string name = file.substr(0, file.size() - 4) + ".dxf"; // also of ".DXF"
    if (!state_.run(project::addBackdrop(state_.session().project(), below(), name, content, plan->likelyMetres(),
                                         project::hiddenBy(*plan))))
        return;
    state_.session().report(plan->metresPerUnit > 0 ? "The drawing lies below the plan in its own units."
                                                    : "The drawing does not say its unit: choose it beside the plan.",
                            false);
    plan_->update();
    figures_->hide(); // the drawing's panel takes their place while it is open
    drawing_->show(std::make_shared<const project::DxfPlan>(*plan));
    plan_->fit();
}

void SurveyPage::showDrawing() {
    if (const auto plan = plan_->backdrop().plan()) {
        figures_->hide();
        drawing_->show(plan);
    }
}

void SurveyPage::removeBackdrop() {
    drawing_->hide();
    plan_->showOutlines({});
    sizeUp();
    state_.run(project::removeBackdrops(state_.session().project()));
}

void SurveyPage::makeModel() {
    ModelForm form(state_.session().models(), this);
    if (form.exec() == QDialog::Accepted)
        modelAdded(form.made());
}

void SurveyPage::addModelFile() {
    const QString file = QFileDialog::getOpenFileName(this, "Add a model to the shelf", {}, "Device models (*.json)");
    if (!file.isEmpty())
        readModelFile(file);
}

void SurveyPage::readModelFile(const QString& file) {
    const auto text = project::readWhole(file.toStdString(), 1 << 20);
    const auto id = text ? state_.session().models().add(*text, file.toStdString()) : Result<std::string>(text.error());
    if (!id)
        return state_.session().report(id.error());
    modelAdded(*id);
}

void SurveyPage::modelAdded(const std::string& id) {
    const auto* m = state_.session().models().find(id);
    state_.session().report((m ? q(m->name) : q(id)) + " is on your shelf now, for all projects.", false);
    shelf_->fill();
    emit state_.session().changed({project::Change::Kind::project});
}

} // namespace loom::app
