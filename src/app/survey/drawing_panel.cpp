#include "app/survey/drawing_panel.h"
#include "app/shell/choice_box.h"
#include "app/survey/survey_state.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rooms/backdrop_edit.h"
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

const std::pair<const char*, double> units[] = {
    {"millimetres", 0.001}, {"centimetres", 0.01}, {"metres", 1}, {"inches", 0.0254}, {"feet", 0.3048}};

} // namespace

DrawingPanel::DrawingPanel(SurveyState& state, QWidget* parent)
    : QFrame(parent), state_(state), says_(new QLabel), unitSays_(new QLabel), units_(new ChoiceBox),
      layers_(new QListWidget), rooms_(new QListWidget), make_(new QPushButton), close_(new QPushButton("Close")),
      finding_([this](std::vector<project::DxfOutline> found) {
          outlines_ = std::move(found);
          fillOutlines();
      }) {
    setObjectName("drawingPanel");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 8, 10, 8);
    box->setSpacing(4);
    auto* title = new QLabel("Drawing");
    title->setStyleSheet("font-weight: bold");
    box->addWidget(title);
    says_->setWordWrap(true);
    says_->setObjectName("drawingSays");
    box->addWidget(says_);
    auto* row = new QHBoxLayout;
    auto* label = new QLabel("A unit is");
    label->setBuddy(units_);
    units_->setObjectName("drawingUnits");
    units_->setAccessibleName("Unit of the drawing");
    row->addWidget(label);
    row->addWidget(units_, 1);
    box->addLayout(row);
    unitSays_->setWordWrap(true);
    box->addWidget(unitSays_);
    auto* layersTitle = new QLabel("Layers");
    layersTitle->setStyleSheet("font-weight: bold");
    box->addWidget(layersTitle);
    layers_->setObjectName("drawingLayers");
    layers_->setAccessibleName("Layers of the drawing; a tick draws one");
    layers_->setFrameShape(QFrame::NoFrame);
    layers_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    box->addWidget(layers_, 2);
    auto* roomsTitle = new QLabel("Outlines that may be rooms");
    roomsTitle->setStyleSheet("font-weight: bold");
    box->addWidget(roomsTitle);
    rooms_->setObjectName("drawingOutlines");
    rooms_->setAccessibleName("Closed outlines; a tick makes a room, F2 names it");
    rooms_->setFrameShape(QFrame::NoFrame);
    rooms_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    box->addWidget(rooms_, 3);
    make_->setObjectName("makeRooms");
    make_->setProperty("main", true);
    close_->setObjectName("closeDrawing");
    box->addWidget(make_);
    box->addWidget(close_);
    connect(close_, &QPushButton::clicked, this, &DrawingPanel::closed);
    connect(make_, &QPushButton::clicked, this, &DrawingPanel::makeRooms);
    connect(units_, &QComboBox::activated, this, [this](int i) {
        const auto* b = backdrop();
        if (filling_ || !b || i < 0 || i >= static_cast<int>(std::size(units)))
            return;
        state_.run(project::setBackdrop(state_.session().project(), state_.building()->id, b->hidden, units[i].second));
        fill();
        findOutlines();
    });
    connect(layers_, &QListWidget::itemChanged, this, [this](QListWidgetItem*) {
        const auto* b = backdrop();
        if (filling_ || !b)
            return;
        std::vector<std::string> hidden;
        for (int i = 0; i < layers_->count(); ++i)
            if (layers_->item(i)->checkState() != Qt::Checked)
                hidden.push_back(layers_->item(i)->data(Qt::UserRole).toString().toStdString());
        state_.run(project::setBackdrop(state_.session().project(), state_.building()->id, hidden, b->metresPerUnit));
        findOutlines();
    });
    connect(rooms_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (filling_)
            return;
        auto& o = outlines_[static_cast<std::size_t>(rooms_->row(item))];
        if (item->text() != item->data(Qt::UserRole + 1).toString())
            o.name = item->text().section("  \u00b7 ", 0, 0).trimmed().toStdString();
        o.likely = item->checkState() == Qt::Checked;
        fillOutlines();
    });
    for (auto* list : {layers_, rooms_})
        list->setStyleSheet("QListWidget { background: transparent; border: 0; }");
    connect(&Theme::get(), &Theme::changed, this, [this] {
        if (isVisible())
            show(plan_);
    });
    hide();
}

const project::Backdrop* DrawingPanel::backdrop() const {
    const auto* b = state_.building();
    return b && !b->backdrops.empty() ? &b->backdrops.front() : nullptr;
}

void DrawingPanel::show(std::shared_ptr<const project::DxfPlan> plan) {
    plan_ = std::move(plan);
    outlines_.clear();
    setFixedWidth(Theme::get().ipx(Theme::get().percent() > 130 ? 190 : 236));
    QFrame::show();
    fill();
    findOutlines();
    (layers_->count() > 0 ? static_cast<QWidget*>(layers_) : close_)->setFocus();
}

void DrawingPanel::fill() {
    const auto* b = backdrop();
    if (!plan_ || !b)
        return;
    filling_ = true;
    std::size_t passed = 0;
    QStringList kinds;
    for (const auto& [kind, count] : plan_->passedOver) {
        passed += count;
        if (kinds.size() < 3)
            kinds << QString("%1 (%2)").arg(q(kind)).arg(count);
    }
    says_->setText(QString("%1 lines, %2 texts.").arg(plan_->lines.size()).arg(plan_->texts.size()) +
                   (passed ? QString(" Passed over: %1.").arg(kinds.join(", ")) : QString()));
    units_->clear();
    int at = -1;
    for (const auto& [name, metres] : units) {
        if (std::abs(metres / b->metresPerUnit - 1) < 1e-6)
            at = units_->count();
        units_->addItem(name);
    }
    if (at < 0)
        units_->addItem(QString("%1 m").arg(b->metresPerUnit));
    units_->setCurrentIndex(at < 0 ? units_->count() - 1 : at);
    const double wide = (plan_->high.x - plan_->low.x) * b->metresPerUnit,
                 deep = (plan_->high.y - plan_->low.y) * b->metresPerUnit;
    const bool large = Theme::get().percent() > 130;
    says_->setVisible(!large); // there is no room for it; the lists come first
    unitSays_->setWordWrap(!large);
    unitSays_->setText(QString(large ? "%1 by %2 m"
                               : plan_->metresPerUnit > 0
                                   ? "The file says so: it is %1 by %2 m."
                                   : "The file does not say its unit. So it is %1 by %2 m: is it?")
                           .arg(wide, 0, 'f', 1)
                           .arg(deep, 0, 'f', 1));
    unitSays_->setStyleSheet(plan_->metresPerUnit > 0 ? QString()
                                                      : QString("background: %1").arg(tokens().saffronTint.name()));
    layers_->clear();
    for (const auto& l : plan_->layers) {
        if (l.lines == 0 && l.texts == 0)
            continue;
        auto* item = new QListWidgetItem(q(l.name) + QString("  \u00b7 %1").arg(l.lines + l.texts) +
                                             (l.shown() ? QString() : QString(l.frozen ? "  frozen" : "  off")),
                                         layers_);
        item->setData(Qt::UserRole, q(l.name));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        const bool hidden = std::find(b->hidden.begin(), b->hidden.end(), l.name) != b->hidden.end();
        item->setCheckState(hidden ? Qt::Unchecked : Qt::Checked);
    }
    filling_ = false;
}

void DrawingPanel::findOutlines() {
    const auto* b = backdrop();
    if (!plan_ || !b)
        return;
    finding_.start([plan = plan_, hidden = b->hidden, metres = b->metresPerUnit](std::stop_token) {
        return project::outlinesOf(*plan, hidden, metres);
    });
    fillOutlines();
}

void DrawingPanel::fillOutlines() {
    filling_ = true;
    const int row = rooms_->currentRow();
    rooms_->clear();
    int ticked = 0;
    for (const auto& o : outlines_) {
        const QString text =
            (o.name.empty() ? QString("Room") : q(o.name)) + QString("  \u00b7 %1 m\u00b2").arg(o.area, 0, 'f', 1);
        auto* item = new QListWidgetItem(text, rooms_);
        item->setData(Qt::UserRole + 1, text);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
        item->setCheckState(o.likely ? Qt::Checked : Qt::Unchecked);
        ticked += o.likely;
    }
    rooms_->setCurrentRow(std::min(row, rooms_->count() - 1));
    make_->setText(ticked == 1 ? QString("Make this room") : QString("Make rooms of these %1").arg(ticked));
    make_->setEnabled(ticked > 0);
    make_->setToolTip(outlines_.empty() ? "No closed outlines of 2 m\u00b2 or more on the layers that are drawn" : "");
    filling_ = false;
    emit changed();
}

std::vector<project::DxfOutline> DrawingPanel::chosen() const {
    std::vector<project::DxfOutline> all;
    for (const auto& o : outlines_)
        if (o.likely)
            all.push_back(o);
    return all;
}

void DrawingPanel::makeRooms() {
    if (!backdrop() || chosen().empty())
        return;
    std::vector<std::string> made;
    auto edit = project::roomsOfOutlines(state_.session().project(), state_.building()->id, chosen(), 3, &made);
    if (!edit)
        return state_.session().report(edit.error());
    if (!state_.run(std::move(*edit)))
        return;
    state_.session().report(
        QString("%1 rooms of 3 m height; their walls can be dragged, their height typed.").arg(made.size()), false);
    if (!made.empty())
        state_.choose({"room:" + made.front()});
    emit closed();
}

void DrawingPanel::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape)
        emit closed();
    else
        QFrame::keyPressEvent(e);
}

} // namespace loom::app
