#include "app/surfaces/page_list.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "surface/pack.h"
#include "surface/picture_size.h"
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

namespace {

QString contents(const Ply& ply) {
    QStringList words;
    const auto n = ply.controls.size();
    words << (n == 1 ? QString("1 control") : QString("%1 controls").arg(n));
    if (ply.locked)
        words << "locked";
    if (ply.closed)
        words << "opens on press";
    if (!ply.shown.empty())
        words << "by a condition";
    return words.join(", ");
}

} // namespace

PageList::PageList(SurfacesState& state, QWidget* parent)
    : QWidget(parent), state_(state), surfaces_(new ChoiceBox), size_(new QLabel), pages_(new QListWidget),
      plies_(new QTreeWidget) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    surfaces_->setObjectName("surfaceChoice");
    surfaces_->setAccessibleName("Touch surface");
    box->addWidget(surfaces_);
    size_->setObjectName("surfaceSize");
    box->addWidget(size_);
    pages_->setObjectName("surfacePages");
    pages_->setAccessibleName("Pages");
    pages_->setContextMenuPolicy(Qt::CustomContextMenu);
    pages_->setMaximumHeight(Theme::get().ipx(170));
    box->addWidget(pages_, 1);
    auto* row = new QHBoxLayout;
    for (const auto& [text, id, command] : {std::tuple("New page", "newPage", "surfaces.newPage"),
                                            std::tuple("Make a page\u2026", "makePage", "surfaces.makePage")}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        connect(b, &QPushButton::clicked, this, [this, c = QString(command)] { emit wants(c); });
        row->addWidget(b);
    }
    box->addLayout(row);
    auto* title = new QLabel("On this page, front to back");
    title->setFont(Theme::get().text(11, true));
    box->addWidget(title);
    plies_->setObjectName("surfacePlies");
    plies_->setAccessibleName("Plies of the page, front to back; ticked ones are seen here");
    plies_->setHeaderHidden(true);
    plies_->setRootIsDecorated(false);
    plies_->setIndentation(0);
    plies_->setColumnCount(2);
    plies_->header()->setSectionResizeMode(0, QHeaderView::Fixed); // as wide as names need, refresh()
    plies_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
    plies_->header()->setStretchLastSection(false);
    plies_->setContextMenuPolicy(Qt::CustomContextMenu);
    box->addWidget(plies_, 2);
    auto* ply = new QPushButton("New ply");
    ply->setObjectName("newPly");
    connect(ply, &QPushButton::clicked, this, [this] { emit wants("surfaces.newPly"); });
    box->addWidget(ply);
    connect(surfaces_, &QComboBox::activated, this,
            [this] { state_.choose(surfaces_->currentData().toString().toStdString()); });
    connect(pages_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* now) {
        if (!filling_ && now)
            state_.choosePage(now->data(Qt::UserRole).toString().toStdString());
    });
    connect(plies_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* now) {
        if (!filling_ && now)
            state_.choosePly(now->data(0, Qt::UserRole).toString().toStdString());
    });
    connect(plies_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int) {
        if (!filling_)
            state_.edit(setPlyField(state_.place(), item->data(0, Qt::UserRole).toString().toStdString(), "hiddenHere",
                                    item->checkState(0) == Qt::Checked ? "no" : "yes"));
    });
    connect(pages_, &QWidget::customContextMenuRequested, this,
            [this](const QPoint& at) { emit wantsPageMenu(pages_->mapToGlobal(at)); });
    connect(plies_, &QWidget::customContextMenuRequested, this,
            [this](const QPoint& at) { emit wantsPlyMenu(plies_->mapToGlobal(at)); });
    // Later: what it is told of may come from one of its own entries.
    connect(&state, &SurfacesState::changed, this, &PageList::refresh, Qt::QueuedConnection);
    connect(&Theme::get(), &Theme::changed, this, &PageList::refresh);
    refresh();
}

// Worked out only when another picture, or another size of one, is shown: their files are looked at.
QString PageList::picturesText() {
    const auto* s = state_.surface();
    std::vector<std::tuple<std::string, const char*, double, double>> now;
    for (const auto& page : s->pages)
        for (const auto& ply : page.plies)
            for (const auto& c : ply.controls)
                for (const auto& name : picturesOf(c)) {
                    const auto it = state_.project().assets.find(name);
                    now.emplace_back(name, it == state_.project().assets.end() ? nullptr : it->second.data(), c.width,
                                     c.height);
                }
    const auto* d = state_.project().device(s->device);
    const auto* m = d ? d->spec() : nullptr;
    if (now != loaded_) {
        loaded_ = std::move(now);
        double bytes = 0;
        for (const auto& load : pictureLoads(state_.project(), *s))
            bytes += load.bytes;
        loadText_ = loaded_.empty() ? QString() : QString::number(bytes / 1e6, 'f', 1);
    }
    return loadText_.isEmpty()            ? QString()
           : m && m->pictureMegabytes > 0 ? QString("\nPictures %1 of %2 MB").arg(loadText_).arg(m->pictureMegabytes)
                                          : "\nPictures " + loadText_ + " MB";
}

void PageList::refresh() {
    filling_ = true;
    const auto* s = state_.surface();
    surfaces_->clear();
    for (const auto& one : state_.project().surfaces)
        surfaces_->addItem(q(one.name), q(one.id));
    surfaces_->setCurrentIndex(s ? surfaces_->findData(q(s->id)) : -1);
    size_->setFont(Theme::get().number(10));
    const auto* d = s ? state_.project().device(s->device) : nullptr;
    size_->setText(
        !s ? QString()
           : QString("%1 \u00d7 %2%3").arg(s->width).arg(s->height).arg(d ? " \u00b7 " + q(d->name) : QString()) +
                 picturesText());
    pages_->clear();
    if (s)
        for (const auto& p : s->pages) {
            auto* item = new QListWidgetItem(
                q(p.name) +
                (s->start == p.id || (s->start.empty() && &p == &s->pages.front()) ? "  \u00b7 first" : ""));
            item->setData(Qt::UserRole, q(p.id));
            pages_->addItem(item);
            if (p.id == state_.place().page)
                pages_->setCurrentItem(item);
        }
    plies_->clear();
    if (const auto* p = state_.page())
        for (auto it = p->plies.rbegin(); it != p->plies.rend(); ++it) {
            auto* item = new QTreeWidgetItem({q((*it).name), contents(*it)});
            item->setData(0, Qt::UserRole, q((*it).id));
            item->setCheckState(0, (*it).hiddenHere ? Qt::Unchecked : Qt::Checked);
            item->setToolTip(0, "Ticked: seen here while editing");
            item->setToolTip(1, item->text(1));
            item->setFont(1, Theme::get().text(10));
            item->setForeground(1, tokens().ink2);
            plies_->addTopLevelItem(item);
            if (state_.ply() && state_.ply()->id == (*it).id)
                plies_->setCurrentItem(item);
        }
    int widest = 0;
    for (int i = 0; i < plies_->topLevelItemCount(); ++i)
        widest = std::max(widest, plies_->fontMetrics().horizontalAdvance(plies_->topLevelItem(i)->text(0)));
    plies_->setColumnWidth(0, std::min(widest + Theme::get().ipx(48), Theme::get().ipx(134))); // with its tick
    filling_ = false;
}

} // namespace loom::app
