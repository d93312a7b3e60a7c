#include "app/surfaces/drive_list.h"
#include "app/shell/flow_layout.h"
#include "app/surfaces/surface_canvas.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "surface/bundle.h"
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

namespace {

constexpr std::size_t mostShown = 200, mostBundles = 60;

// Its entries can be dragged onto the page.
class Paths : public QListWidget {
  protected:
    QMimeData* mimeData(const QList<QListWidgetItem*>& items) const override {
        QStringList paths;
        for (const auto* item : items)
            paths << item->data(Qt::UserRole).toString();
        return parameterMime(paths);
    }
};

} // namespace

DriveList::DriveList(SurfacesState& state, QWidget* parent)
    : QWidget(parent), state_(state), field_(new QLineEdit), list_(new Paths), as_(new QLabel("Shown as")) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    auto* title = new QLabel("Drive it from");
    title->setFont(Theme::get().text(13, true));
    box->addWidget(title);
    field_->setObjectName("driveField");
    field_->setPlaceholderText("lane, level, mute \u2026");
    field_->setAccessibleName("Find what a control is driven from");
    field_->setClearButtonEnabled(true);
    box->addWidget(field_);
    list_->setObjectName("driveList");
    list_->setAccessibleName("What a control can be driven from");
    list_->setDragEnabled(true);
    list_->setDragDropMode(QAbstractItemView::DragOnly);
    list_->setUniformItemSizes(true);
    list_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    list_->setToolTip(
        "Drag onto the page, or onto a control to drive it anew; Enter puts it in the middle. Several with "
        "Shift or Ctrl.");
    box->addWidget(list_, 1);
    auto* ofIt = new QPushButton("Page of it");
    ofIt->setObjectName("pageOfIt");
    ofIt->setToolTip("A laid-out page of what is chosen in the list");
    connect(ofIt, &QPushButton::clicked, this, [this] { emit wants("surfaces.makeFrom"); });
    box->addWidget(ofIt);
    as_->setFont(Theme::get().text(12, true));
    box->addWidget(as_);
    auto* row = new FlowLayout;
    for (const auto& k : controlKinds()) {
        if (k.drives.empty())
            continue;
        auto* b = new QPushButton(q(k.label));
        b->setObjectName("showAs " + q(k.id));
        b->setCheckable(true);
        b->setProperty("kind", q(k.id));
        connect(b, &QPushButton::clicked, this, [this, id = k.id] {
            state_.edit(project::showAs(state_.project(), state_.place(), state_.chosen(), id));
            sayChosen();
        });
        kinds_.push_back(b);
        row->addWidget(b);
    }
    auto* chips = new QWidget;
    chips->setLayout(row);
    box->addWidget(chips);
    auto* without = new QLabel("Put on the page");
    without->setFont(Theme::get().text(12, true));
    box->addWidget(without);
    auto* plain = new QWidget;
    auto* plainRow = new FlowLayout;
    for (const auto& k : controlKinds())
        if (!k.needed) {
            auto* b = new QPushButton(q(k.label));
            b->setObjectName("put " + q(k.id));
            b->setToolTip(q(k.purpose));
            connect(b, &QPushButton::clicked, this, [this, id = k.id] { state_.add(id); });
            plainRow->addWidget(b);
        }
    plain->setLayout(plainRow);
    box->addWidget(plain);
    soon_.setSingleShot(true);
    soon_.setInterval(80); // while somebody types
    connect(&soon_, &QTimer::timeout, this, &DriveList::fill);
    connect(field_, &QLineEdit::textChanged, &soon_, qOverload<>(&QTimer::start));
    connect(field_, &QLineEdit::returnPressed, this, [this] {
        fill();
        list_->setFocus();
    });
    connect(list_, &QListWidget::itemActivated, this, &DriveList::addCurrent);
    connect(&state, &SurfacesState::chosenChanged, this, &DriveList::sayChosen);
    connect(&state, &SurfacesState::changed, this, [this] {
        sayChosen();
        soon_.start();
    });
    fill();
    sayChosen();
}

std::string DriveList::current() const {
    return list_->currentItem() ? list_->currentItem()->data(Qt::UserRole).toString().toStdString() : "";
}

QStringList DriveList::chosenPaths() const {
    QStringList paths;
    for (int i = 0; i < list_->count(); ++i)
        if (list_->item(i)->isSelected())
            paths << list_->item(i)->data(Qt::UserRole).toString();
    return paths.isEmpty() && list_->currentItem() ? QStringList{q(current())} : paths;
}

void DriveList::addCurrent() {
    state_.put(chosenPaths());
}

void DriveList::driveChosen() {
    state_.edit(driveFrom(state_.project(), state_.place(), state_.chosen(), current()));
}

void DriveList::fill() {
    if (!isVisible() && list_->count() > 0)
        return;
    const auto was = current();
    QSignalBlocker quiet(list_);
    list_->clear();
    const auto typed = field_->text().toStdString();
    for (const auto& b : findBundles(state_.project(), typed, mostBundles)) {
        auto* item = new QListWidgetItem(q(b.label) + "\n" + q(b.detail));
        item->setData(Qt::UserRole, q(b.path));
        item->setToolTip(q(b.path));
        list_->addItem(item);
        if (b.path == was)
            list_->setCurrentItem(item);
    }
    for (const auto& d : findControlDrives(state_.project(), typed, mostShown)) {
        const auto* device = state_.project().device(d.device);
        auto* item = new QListWidgetItem(q(d.label) + "\n" + (device ? q(device->name) : q(d.device)) + " \u00b7 " +
                                         q(detailOf(d)));
        item->setData(Qt::UserRole, q(d.path));
        item->setToolTip(q(d.path));
        list_->addItem(item);
        if (d.path == was)
            list_->setCurrentItem(item);
    }
    if (list_->count() == 0) {
        auto* none = new QListWidgetItem("Nothing has all these words.");
        none->setFlags(Qt::NoItemFlags);
        list_->addItem(none);
    } else if (!list_->currentItem()) {
        list_->setCurrentRow(0);
    }
}

void DriveList::sayChosen() {
    const auto* page = state_.page();
    for (auto* b : kinds_) {
        const auto* kind = findControlKind(b->property("kind").toString().toStdString());
        bool fits = page && !state_.chosen().empty(), is = fits;
        for (const auto& id : state_.chosen())
            if (const auto* c = page ? page->control(id) : nullptr) {
                const auto drive = controlDrive(state_.project(), c->param);
                fits = fits && drive && kind->fits(*drive);
                is = is && c->kind == kind->id;
            }
        b->setVisible(fits);
        b->setChecked(fits && is);
    }
    as_->setVisible(std::any_of(kinds_.begin(), kinds_.end(), [](auto* b) { return !b->isHidden(); }));
}

} // namespace loom::app
