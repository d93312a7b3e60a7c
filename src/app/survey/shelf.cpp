#include "app/survey/shelf.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include <QKeyEvent>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {
namespace {

// A list whose items are dragged as models.
class ModelList : public QListWidget {
  protected:
    QMimeData* mimeData(const QList<QListWidgetItem*>& items) const override {
        auto* mime = new QMimeData;
        if (!items.isEmpty())
            mime->setData("application/x-nimble-loom-model", items.first()->data(Qt::UserRole).toString().toUtf8());
        return mime;
    }
};

QString figuresOf(const project::DeviceModel& m) {
    QStringList all{q(m.purpose)};
    if (m.loudspeaker)
        all << QString("%1 dB for 1 W, %2 dB at most, %3\u00b0 at 2 kHz")
                   .arg(m.loudspeaker->sensitivity)
                   .arg(m.loudspeaker->maxLevel)
                   .arg(m.loudspeaker->horizontal[5]);
    if (m.poeClass)
        all << QString("PoE class %1, %2 W").arg(m.poeClass).arg(m.poeWatts);
    if (m.rackUnits)
        all << QString("%1 U, %2 W").arg(m.rackUnits).arg(m.watts);
    return all.join("\n");
}

} // namespace

bool modelFits(const project::DeviceModel& m, const QString& words) {
    const QString all = q(m.name + " " + m.maker + " " + m.use + " " + m.group + " ") + figuresOf(m);
    for (const auto& w : words.split(' ', Qt::SkipEmptyParts))
        if (!all.contains(w, Qt::CaseInsensitive))
            return false;
    return true;
}

Shelf::Shelf(SurveyState& state, QWidget* parent)
    : QWidget(parent), state_(state), words_(new QLineEdit), list_(new ModelList) {
    setObjectName("shelf");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 8, 8, 8);
    auto* title = new QLabel("Shelf");
    title->setStyleSheet("font-weight: bold");
    box->addWidget(title);
    words_->setPlaceholderText("type a model, a use\u2026");
    words_->setAccessibleName("Search the shelf");
    box->addWidget(words_);
    list_->setObjectName("models");
    list_->setAccessibleName("Models of devices");
    list_->setDragEnabled(true);
    list_->setWordWrap(true);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    box->addWidget(list_, 1);
    auto* make = new QPushButton("Make a model\u2026");
    make->setObjectName("makeModel");
    connect(make, &QPushButton::clicked, this, &Shelf::wantsForm);
    box->addWidget(make);
    auto* own = new QPushButton("Add a model file\u2026");
    own->setObjectName("addModel");
    connect(own, &QPushButton::clicked, this, &Shelf::wantsFile);
    box->addWidget(own);
    connect(words_, &QLineEdit::textChanged, this, &Shelf::fill);
    connect(words_, &QLineEdit::returnPressed, this, [this] {
        for (int i = 0; i < list_->count(); ++i)
            if (const QString id = list_->item(i)->data(Qt::UserRole).toString(); !id.isEmpty()) {
                list_->setCurrentRow(i);
                return emit picked(id);
            }
    });
    const auto pick = [this](QListWidgetItem* item) {
        if (const QString id = item ? item->data(Qt::UserRole).toString() : QString(); !id.isEmpty())
            emit picked(id);
    };
    connect(list_, &QListWidget::itemClicked, this, pick);
    connect(list_, &QListWidget::itemActivated, this, pick);
    connect(&state.session(), &Session::changed, this, [this](const project::Change& c) {
        if ((c.kind == project::Change::Kind::project || c.kind == project::Change::Kind::device) &&
            counts() != counts_)
            fill();
    });
    connect(&Theme::get(), &Theme::changed, this, [this] {
        setFixedWidth(Theme::get().ipx(176));
        fill();
    });
    setFixedWidth(Theme::get().ipx(176));
    fill();
}

void Shelf::takeFocus() {
    words_->setFocus();
    words_->selectAll();
}

std::map<std::string, int> Shelf::counts() const {
    std::map<std::string, int> count;
    for (const auto& d : state_.session().project().devices)
        ++count[d.model];
    return count;
}

void Shelf::fill() {
    list_->clear();
    list_->setStyleSheet(
        QString("QListWidget { background: transparent; border: 0; } QListWidget::item { padding: 2px; }"));
    counts_ = counts();
    for (const char* group : {"Pick up", "Reproduce", "Drive and process", "Touch and press", "Network and rack", ""}) {
        bool headed = false;
        for (const auto& m : state_.session().models().all()) {
            const bool known = m.group == group;
            const bool other = !*group && m.group.rfind("Pick up", 0) && m.group.rfind("Reproduce", 0) &&
                               m.group.rfind("Drive", 0) && m.group.rfind("Touch", 0) && m.group.rfind("Network", 0);
            if (!(known || other) || !modelFits(m, words_->text()))
                continue;
            if (!headed) {
                auto* head = new QListWidgetItem(*group ? group : "Your own", list_);
                head->setFlags(Qt::NoItemFlags);
                head->setForeground(tokens().ink2);
                QFont f = Theme::get().text(10, true);
                head->setFont(f);
                headed = true;
            }
            const auto n = counts_.count(m.id) ? counts_.at(m.id) : 0;
            auto* item = new QListWidgetItem(q(m.name) + (n ? QString("   %1").arg(n) : QString()), list_);
            item->setData(Qt::UserRole, q(m.id));
            item->setToolTip(figuresOf(m));
            item->setData(Qt::AccessibleTextRole, q(m.name + ", " + m.purpose));
        }
    }
    if (list_->count() == 0) {
        auto* none = new QListWidgetItem("Nothing on the shelf has these words.", list_);
        none->setFlags(Qt::NoItemFlags);
    }
}

} // namespace loom::app
