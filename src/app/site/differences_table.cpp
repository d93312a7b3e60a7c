#include "app/site/differences_table.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <cstring>

namespace loom::app {

using site::Take;

namespace {

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
        if (!index.data(SiteTable::moreRole).isValid())
            return;
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        p->setFont(Theme::get().text(11));
        const int take = index.data(SiteTable::moreRole).toInt();
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
    heard_->setObjectName("willBeHeard");
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
    int total = 0, open = 0;
    for (const auto& id : devices_) {
        const auto* m = fleet_.member(id);
        const auto* d = fleet_.session().project().device(id);
        if (!m || !d)
            continue;
        std::string group;
        std::size_t heading = 0;
        bool any = false;
        for (const auto& r : m->rows) {
            ++total;
            open += r.take == Take::open;
            if (lines.size() >= most)
                continue;
            if (!words.isEmpty()) {
                const QString text =
                    q(d->name + " " + r.difference.what + " " + project::wordsOf(r.difference.changed));
                if (!std::all_of(words.begin(), words.end(),
                                 [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); }))
                    continue;
            }
            if (r.group != group || !any) {
                heading = lines.size();
                lines.push_back({id, "", {}, {}, (devices_.size() > 1 ? d->name + " \u00b7 " : "") + r.group});
                group = r.group;
                any = true;
            }
            lines[heading].keys.push_back(r.key);
            lines.push_back({id, r.key, {}, r, r.difference.what});
            if (r.difference.what.starts_with(r.group + " \u00b7 ")) // the heading says the lane's name
                lines.back().text.erase(0, r.group.size() + std::strlen(" \u00b7 "));
        }
    }
    if (!std::equal(lines.begin(), lines.end(), lines_.begin(), lines_.end(), [](const Line& a, const Line& b) {
            return a.device == b.device && a.key == b.key && a.row.take == b.row.take &&
                   a.row.difference.design == b.row.difference.design &&
                   a.row.difference.device == b.row.difference.device;
        }))
        heard_->hide(); // what was worked out is of other values
    lines_ = std::move(lines);
    table_->fill(static_cast<int>(lines_.size()), [this](int row, int column) { return cellOf(row, column); });
    says_->setText(open > 0
                       ? QString(open == 1 ? "%1 of %2 values waits for a side" : "%1 of %2 values wait for a side")
                             .arg(open)
                             .arg(total)
                       : QString());
    applyStyle(says_, QString("color: %1; font-weight: bold").arg(tokens().fault.name()));
    applyStyle(heard_, "color: " + tokens().ink2.name());
    for (auto* b : {design_, device_, audible_})
        b->setEnabled(total > 0);
}

SiteCell DifferencesTable::cellOf(int row, int column) const {
    const auto& line = lines_[static_cast<std::size_t>(row)];
    const bool heading = line.key.empty();
    const auto& d = line.row.difference;
    SiteCell c;
    if (!heading && line.row.take == Take::open)
        c.ground = tokens().faultTint;
    if (column == 0) {
        c.text = (heading ? QString() : QString("   ")) + q(line.text);
        c.bold = heading;
    } else if (heading) {
        return c;
    } else if (column == takeColumn) {
        c.more = static_cast<int>(line.row.take);
        c.spoken = line.row.take == Take::open     ? QString("no side yet")
                   : line.row.take == Take::design ? QString("design")
                                                   : QString("device");
    } else if (column == 5) {
        c.text = q(project::wordsOf(d.changed));
    } else {
        c.text = q(column == 1 ? d.last : column == 2 ? d.design : d.device);
        c.number = true;
    }
    return c;
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
            jobs.push_back({d->name, *m->config,
                            site::settled(site::designOf(fleet_.session().project(), *d), *m->config, m->rows),
                            d->rate});
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
