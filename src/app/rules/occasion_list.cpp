#include "app/rules/occasion_list.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

namespace {

constexpr int countRole = Qt::UserRole,
              placeRole = Qt::UserRole + 1; // place: in what is shown; -1: all rules, -2: a heading

// A name, and at its right how many rules it wakes.
class Row : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& i) const override {
        return {Theme::get().ipx(120), Theme::get().ipx(i.data(placeRole).toInt() == -2 ? 26 : 24)};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& o, const QModelIndex& i) const override {
        const bool heading = i.data(placeRole).toInt() == -2, chosen = o.state & QStyle::State_Selected;
        if (chosen)
            p->fillRect(o.rect, tokens().saffronTint);
        auto r = QRectF(o.rect).adjusted(heading ? px(2) : px(12), 0, -px(8), 0);
        const int n = i.data(countRole).toInt();
        p->setFont(heading ? Theme::get().text(11) : Theme::get().text(12, chosen));
        p->setPen(heading ? tokens().ink2 : tokens().ink);
        if (n > 0) {
            p->save();
            p->setFont(Theme::get().number(11));
            p->setPen(tokens().ink2);
            p->drawText(r, Qt::AlignRight | Qt::AlignVCenter, QString::number(n));
            p->restore();
            r.setRight(r.right() - px(22));
        }
        const auto text = i.data(Qt::DisplayRole).toString();
        p->drawText(r, heading ? Qt::AlignBottom : Qt::AlignVCenter,
                    QFontMetricsF(p->font()).elidedText(text, Qt::ElideRight, r.width()));
    }
};

} // namespace

OccasionList::OccasionList(RulesState& state, QWidget* parent)
    : QWidget(parent), state_(state), field_(new QLineEdit), list_(new QListWidget) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    auto* title = new QLabel("What happens");
    title->setFont(Theme::get().text(13, true));
    box->addWidget(title);
    field_->setObjectName("occasionField");
    field_->setPlaceholderText("wall, tap, 18:00 \u2026");
    field_->setAccessibleName("Find what can happen");
    field_->setClearButtonEnabled(true);
    box->addWidget(field_);
    list_->setObjectName("occasionList");
    list_->setAccessibleName("What can happen, with how many rules each wakes");
    list_->setItemDelegate(new Row(list_));
    list_->setFrameShape(QFrame::NoFrame);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    box->addWidget(list_, 1);
    soon_.setSingleShot(true);
    soon_.setInterval(80); // while somebody types
    connect(&soon_, &QTimer::timeout, this, &OccasionList::fill);
    connect(field_, &QLineEdit::textChanged, &soon_, qOverload<>(&QTimer::start));
    connect(field_, &QLineEdit::returnPressed, this, [this] {
        fill();
        list_->setFocus();
    });
    connect(list_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* now) {
        if (filling_ || !now)
            return;
        const int place = now->data(placeRole).toInt();
        if (place >= 0)
            state_.chooseOccasion(shown_[static_cast<std::size_t>(place)]);
        else if (place == -1)
            state_.chooseOccasion({});
    });
    connect(&state, &RulesState::changed, &soon_, qOverload<>(&QTimer::start));
    connect(&Theme::get(), &Theme::changed, this, [this, title] {
        title->setFont(Theme::get().text(13, true));
        fill();
    });
    fill();
}

void OccasionList::fill() {
    filling_ = true;
    shown_ = occasionsOf(state_.project(), field_->text().toStdString());
    list_->clear();
    applyStyle(list_, "QListWidget { background: transparent; }");
    const auto add = [this](const QString& text, int place, std::size_t n) {
        auto* item = new QListWidgetItem(text, list_);
        item->setData(placeRole, place);
        item->setData(countRole, static_cast<int>(n));
        item->setToolTip(place >= 0 ? text : QString());
        if (place == -2)
            item->setFlags(Qt::NoItemFlags);
        if (n > 0)
            item->setData(Qt::AccessibleTextRole,
                          QString("%1, %2").arg(text, n == 1 ? QString("1 rule") : QString("%1 rules").arg(n)));
        return item;
    };
    auto* all = add("All rules", -1, 0);
    all->setData(countRole, state_.rulesHere());
    auto* current = all;
    std::string group;
    for (std::size_t i = 0; i < shown_.size(); ++i) {
        if (std::exchange(group, shown_[i].group) != shown_[i].group)
            add(q(shown_[i].group), -2, 0);
        auto* item = add(q(shown_[i].label), static_cast<int>(i), shown_[i].rules.size());
        if (state_.occasion() && sameOccasion(state_.occasion()->trigger, shown_[i].trigger))
            current = item;
    }
    list_->setCurrentItem(current);
    filling_ = false;
}

} // namespace loom::app
