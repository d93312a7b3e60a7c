#include "app/site/differences_table.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include <QApplication>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace loom::app {

using site::Take;

namespace {

constexpr int takeRole = Qt::UserRole + 1;

// Two words beside each other; the one that is taken is filled.
class TakePainter : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    static QRectF half(const QRectF& cell, bool device) {
        const double wide = std::min(px(66), cell.width() / 2 - px(4));
        return {cell.left() + (device ? wide + px(5) : 0), cell.top() + px(3), wide, cell.height() - px(6)};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        if (option.state & QStyle::State_Selected)
            p->fillRect(option.rect, tokens().saffronTint);
        else if (index.data(Qt::BackgroundRole).isValid())
            p->fillRect(option.rect, index.data(Qt::BackgroundRole).value<QBrush>());
        if (!index.data(takeRole).isValid())
            return;
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        p->setFont(Theme::get().text(11));
        const int take = index.data(takeRole).toInt();
        for (const bool device : {false, true}) {
            const bool taken = take == static_cast<int>(device ? Take::device : Take::design);
            const QRectF r = half(option.rect, device);
            p->setPen(QPen(taken ? tokens().ink : tokens().hair, 1));
            p->setBrush(taken ? tokens().ink : tokens().card);
            p->drawRoundedRect(r, r.height() / 2, r.height() / 2);
            p->setPen(taken ? tokens().card : tokens().ink);
            p->drawText(r, Qt::AlignCenter, device ? "device" : "design");
        }
        p->restore();
    }
};

} // namespace

DifferencesTable::DifferencesTable(Fleet& fleet, QWidget* parent)
    : QWidget(parent), fleet_(fleet),
      table_(new SiteTable({"Value", "Last sent", "Design now", "Device now", "Take", "Why they differ"}, "differences",
                           "Values that differ")),
      search_(new QLineEdit), says_(new QLabel), heard_(new QLabel), design_(new QPushButton("All: design")),
      device_(new QPushButton("All: device")), audible_(new QPushButton("What will be heard")),
      work_([this](QStringList lines) {
          heard_->setText(lines.isEmpty() ? QString("Nothing will be heard to change.") : lines.join("   \u00b7   "));
          heard_->show();
      }) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    auto* head = new FlowLayout;
    search_->setPlaceholderText("Search values");
    search_->setAccessibleName("Search values that differ");
    search_->setObjectName("searchDifferences");
    design_->setObjectName("allDesign");
    design_->setToolTip("For every value that is shown: the design's (D for the chosen rows)");
    device_->setObjectName("allDevice");
    device_->setToolTip("For every value that is shown: the device's (V for the chosen rows)");
    audible_->setObjectName("audible");
    audible_->setToolTip("How the response from the sources to each destination will change");
    for (auto* w : {static_cast<QWidget*>(search_), static_cast<QWidget*>(design_), static_cast<QWidget*>(device_),
                    static_cast<QWidget*>(audible_), static_cast<QWidget*>(says_)})
        head->addWidget(w);
    box->addLayout(head);
    heard_->setWordWrap(true);
    heard_->hide();
    box->addWidget(heard_);
    box->addWidget(table_, 1);
    table_->setItemDelegateForColumn(takeColumn, new TakePainter(table_));
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table_->viewport()->installEventFilter(this);
    table_->installEventFilter(this);
    connect(search_, &QLineEdit::textChanged, this, [this] { fill(); });
    const auto all = [this](Take side) {
        for (const auto& l : lines_)
            if (!l.key.empty())
                fleet_.choose(l.device, l.key, side);
    };
    connect(design_, &QPushButton::clicked, this, [all] { all(Take::design); });
    connect(device_, &QPushButton::clicked, this, [all] { all(Take::device); });
    connect(audible_, &QPushButton::clicked, this, &DifferencesTable::preview);
    fleet.whenChanged(this, [this] { fill(); });
    connect(&Theme::get(), &Theme::changed, this, [this] { fill(); });
}

void DifferencesTable::show(const std::vector<std::string>& devices) {
    devices_ = devices;
    heard_->hide();
    fill();
}

int DifferencesTable::rowOf(const std::string& device, const std::string& key) const {
    for (std::size_t i = 0; i < lines_.size(); ++i)
        if (lines_[i].device == device && lines_[i].key == key)
            return static_cast<int>(i);
    return -1;
}

void DifferencesTable::fill() {
    const bool large = Theme::get().percent() > 130; // the reason stands in the tip then
    if (large)
        table_->dress({0, 74, 74, 74, 124, 1});
    else
        table_->dress({0, 100, 100, 100, 150, 180});
    table_->setColumnHidden(5, large);
    says_->setVisible(!large); // the page's head says it as well
    const QStringList words = search_->text().split(' ', Qt::SkipEmptyParts);
    std::vector<Line> lines;
    struct Shown {
        const site::Row* row = nullptr;
        QString text;
    };
    std::vector<Shown> shown;
    int total = 0, open = 0;
    for (const auto& id : devices_) {
        const auto* m = fleet_.member(id);
        const auto* d = fleet_.session().project().device(id);
        if (!m || !d)
            continue;
        std::string group;
        bool any = false;
        for (const auto& r : m->rows) {
            ++total, open += r.take == Take::open;
            const QString text = q(d->name + " " + r.difference.what + " " + project::wordsOf(r.difference.changed));
            if (!std::all_of(words.begin(), words.end(),
                             [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); }) ||
                lines.size() >= most)
                continue;
            if (r.group != group || !any) {
                lines.push_back({id, "", {}});
                shown.push_back({nullptr, (devices_.size() > 1 ? q(d->name) + " \u00b7 " : QString()) + q(r.group)});
                group = r.group, any = true;
            }
            lines.push_back({id, r.key, {}});
            for (auto back = lines.rbegin(); back != lines.rend(); ++back)
                if (back->key.empty()) {
                    back->keys.push_back(r.key);
                    break;
                }
            QString what = q(r.difference.what); // without the lane's name, which the heading says
            if (what.startsWith(q(r.group) + " \u00b7 "))
                what.remove(0, q(r.group).size() + 3);
            shown.push_back({&r, what});
        }
    }
    lines_ = std::move(lines);
    says_->setText(open > 0
                       ? QString(open == 1 ? "%1 of %2 values waits for a side" : "%1 of %2 values wait for a side")
                             .arg(open)
                             .arg(total)
                       : QString());
    says_->setStyleSheet(QString("color: %1; font-weight: bold").arg(tokens().fault.name()));
    heard_->setStyleSheet("color: " + tokens().ink2.name());
    for (auto* b : {design_, device_, audible_})
        b->setEnabled(total > 0);
    if (table_->rowCount() != static_cast<int>(lines_.size())) {
        table_->clearSpans();
        table_->setRowCount(static_cast<int>(lines_.size()));
    }
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto& s = shown[static_cast<std::size_t>(i)];
        const bool heading = !s.row;
        auto* first = table_->put(i, 0, (heading ? QString() : QString("   ")) + s.text);
        first->setFont(Theme::get().text(12, heading));
        const auto* d = heading ? nullptr : &s.row->difference;
        table_->put(i, 1, d ? q(d->last) : QString(), true);
        table_->put(i, 2, d ? q(d->design) : QString(), true);
        table_->put(i, 3, d ? q(d->device) : QString(), true);
        auto* side = table_->put(i, takeColumn, "");
        side->setData(takeRole, d ? QVariant(static_cast<int>(s.row->take)) : QVariant());
        side->setData(Qt::AccessibleTextRole, !d                            ? QString()
                                              : s.row->take == Take::open   ? QString("no side yet")
                                              : s.row->take == Take::design ? QString("design")
                                                                            : QString("device"));
        table_->put(i, 5, d ? q(project::wordsOf(d->changed)) : QString());
        const bool red = d && s.row->take == Take::open;
        for (int c = 0; c < table_->columnCount(); ++c)
            table_->item(i, c)->setData(Qt::BackgroundRole, red ? QVariant(QBrush(tokens().faultTint)) : QVariant());
    }
}

void DifferencesTable::take(int row, Take side) {
    if (row < 0 || row >= static_cast<int>(lines_.size()))
        return;
    const auto line = lines_[static_cast<std::size_t>(row)];
    if (!line.key.empty())
        return fleet_.choose(line.device, line.key, side);
    for (const auto& key : line.keys) // a heading stands for its group
        fleet_.choose(line.device, key, side);
}

bool DifferencesTable::eventFilter(QObject* watched, QEvent* e) {
    if (watched == table_->viewport() && e->type() == QEvent::MouseButtonRelease) {
        const auto* m = static_cast<QMouseEvent*>(e);
        const auto index = table_->indexAt(m->position().toPoint());
        if (index.isValid() && index.column() == takeColumn) {
            const QRectF cell = table_->visualRect(index);
            for (const bool device : {false, true})
                if (TakePainter::half(cell, device).contains(m->position()))
                    take(index.row(), device ? Take::device : Take::design);
        }
    }
    if (watched == table_ && e->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(e)->key();
        if (key == Qt::Key_D || key == Qt::Key_V) {
            for (const auto& index : table_->selectionModel()->selectedRows())
                take(index.row(), key == Qt::Key_V ? Take::device : Take::design);
            return true;
        }
    }
    return QWidget::eventFilter(watched, e);
}

void DifferencesTable::preview() {
    struct Job {
        std::string name;
        site::Config from, to;
        double rate;
    };
    std::vector<Job> jobs;
    for (const auto& id : devices_) {
        const auto* m = fleet_.member(id);
        const auto* d = fleet_.session().project().device(id);
        if (m && d && m->config && (m->config->program || d->program))
            jobs.push_back({d->name, *m->config, site::settled(site::designOf(*d), *m->config, m->rows), d->rate});
    }
    heard_->setText("Working it out\u2026");
    heard_->show();
    const bool several = jobs.size() > 1;
    work_.start([jobs, several](std::stop_token stop) {
        QStringList lines;
        for (const auto& j : jobs) {
            if (stop.stop_requested())
                break;
            for (const auto& h : site::heardChanges(j.from, j.to, j.rate))
                lines << (several ? q(j.name) + ", " : QString()) + q(h.where + ": " + h.what);
        }
        return lines;
    });
}

} // namespace loom::app
