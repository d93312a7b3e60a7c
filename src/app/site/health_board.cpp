#include "app/site/health_board.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "site/found.h"
#include <QVBoxLayout>
#include <algorithm>

namespace loom::app {
namespace {

QString timeText(double seconds) {
    const int s = static_cast<int>(seconds);
    return s < 120         ? QString("%1 s").arg(s)
           : s < 7200      ? QString("%1 min").arg(s / 60)
           : s < 48 * 3600 ? QString("%1 h").arg(s / 3600)
                           : QString("%1 days").arg(s / 86400);
}

} // namespace

HealthBoard::HealthBoard(Fleet& fleet, QWidget* parent)
    : QWidget(parent), fleet_(fleet), table_(new SiteTable({"Device", "State", "Warmth", "Level", "Loads", "Clock",
                                                            "Firmware", "Up for", "Control", "Revision"},
                                                           "health", "Health of all devices")) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(table_);
    connect(table_, &QTableView::clicked, this, [this](const QModelIndex& at) {
        if (at.row() >= 0 && at.row() < static_cast<int>(ids_.size()))
            emit chosen(q(ids_[static_cast<std::size_t>(at.row())]));
    });
    fleet.whenChanged(this, [this] { refresh(); });
    connect(&Theme::get(), &Theme::changed, this, &HealthBoard::refresh);
    auto* renew = new QTimer(this); // for how long they have been up
    connect(renew, &QTimer::timeout, this, &HealthBoard::refresh);
    renew->start(2000);
}

void HealthBoard::refresh() {
    if (!isVisible())
        return;
    table_->dress({150, 0, 62, 56, 86, 62, 104, 58, 84, 100});
    for (const int c : {clip, load, clock, uptime, seal, revision}) // the state's word tells what is wrong of these
        table_->setColumnHidden(c, Theme::get().percent() > 130);
    const auto& health = fleet_.session().health();
    ids_.clear();
    for (const auto& d : fleet_.session().project().devices)
        if (health.count(d.id))
            ids_.push_back(d.id);
    std::stable_sort(ids_.begin(), ids_.end(),
                     [&](const auto& a, const auto& b) { return health.at(a).health > health.at(b).health; });
    table_->fill(static_cast<int>(ids_.size()), [this](int row, int column) { return cellOf(row, column); });
}

SiteCell HealthBoard::cellOf(int row, int column) const {
    const auto& id = ids_[static_cast<std::size_t>(row)];
    const auto* d = fleet_.session().project().device(id);
    const auto told = fleet_.session().health().find(id);
    if (!d || told == fleet_.session().health().end())
        return {};
    const auto& w = told->second;
    if (column == name)
        return {q(d->name)};
    if (column == word)
        return {q(w.word) + " \u00b7 " + q(w.reason), w.health == project::Health::bad         ? tokens().fault
                                                      : w.health == project::Health::attention ? tokens().ink
                                                                                               : tokens().ok};
    const auto* m = fleet_.member(id);
    const QString none = "\u2014";
    if (column == seal)
        return {!m ? none : m->locked ? "sealed, shut" : m->sealed ? "sealed" : "open"};
    if (!m || !m->link.up() || m->locked || m->vitals.celsius <= 0)
        return {none, tokens().ink};
    const auto& v = m->vitals;
    const auto cell = [](const QString& text, bool wrong, bool number = false) {
        return SiteCell{text, wrong ? tokens().fault : tokens().ink, number};
    };
    switch (column) {
    case temperature:
        return cell(QString("%1 \u00b0C").arg(v.celsius, 0, 'f', 0), v.celsius >= project::hotCelsius, true);
    case clip:
        return cell(v.clip ? "clips" : "clean", v.clip);
    case load: {
        int bad = 0;
        QString which;
        for (const auto& [port, how] : v.outputs)
            if (how != "good") {
                which = q(port + " " + how);
                ++bad;
            }
        return cell(v.outputs.empty() ? none
                    : bad == 0        ? QString("%1 good").arg(v.outputs.size())
                    : bad == 1        ? which
                                      : QString("%1 broken").arg(bad),
                    bad > 0);
    }
    case clock:
        return cell(v.clockLost ? "lost" : "locked", v.clockLost);
    case firmware: {
        const auto* model = d->spec();
        const bool old = model && site::older(v.firmware, model->firmware);
        return cell(q(v.firmware) + (old ? ", " + q(model->firmware) + " offered" : QString()), false);
    }
    case uptime:
        return cell(timeText(v.uptime), false, true);
    default:
        return cell(m->runningRevision() < 0 ? QString("factory")
                    : m->kept()              ? QString("%1, kept").arg(m->runningRevision())
                                             : QString("%1, %2")
                                      .arg(m->runningRevision())
                                      .arg(m->keptRevision() < 0 ? QString("none kept")
                                                                 : QString("%1 kept").arg(m->keptRevision())),
                    false);
    }
}

} // namespace loom::app
