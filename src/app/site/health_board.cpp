#include "app/site/health_board.h"
#include "app/text.h"
#include "project/catalogue.h"
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
    connect(table_, &QTableWidget::cellClicked, this, [this](int row, int) {
        if (row >= 0 && row < static_cast<int>(ids_.size()))
            emit chosen(q(ids_[static_cast<std::size_t>(row)]));
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
    std::vector<std::pair<const project::Device*, project::HealthWord>> all;
    for (const auto& d : fleet_.session().project().devices)
        if (const auto it = health.find(d.id); it != health.end())
            all.push_back({&d, it->second});
    std::stable_sort(all.begin(), all.end(),
                     [](const auto& a, const auto& b) { return a.second.health > b.second.health; });
    table_->setRowCount(static_cast<int>(all.size()));
    ids_.clear();
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto& [d, w] = all[static_cast<std::size_t>(i)];
        ids_.push_back(d->id);
        table_->put(i, name, q(d->name));
        auto* state = table_->put(i, word, q(w.word) + " \u00b7 " + q(w.reason));
        state->setForeground(w.health == project::Health::bad         ? tokens().fault
                             : w.health == project::Health::attention ? tokens().ink
                                                                      : tokens().ok);
        const auto* m = fleet_.member(d->id);
        const bool known = m && m->link.up() && !m->locked && m->vitals.celsius > 0;
        const QString none = "\u2014";
        const auto* model = project::findModel(d->model);
        int bad = 0;
        QString loads = none;
        if (known && !m->vitals.outputs.empty()) {
            for (const auto& [port, how] : m->vitals.outputs)
                if (how != "good")
                    loads = q(port + " " + how), ++bad;
            if (bad == 0)
                loads = QString("%1 good").arg(m->vitals.outputs.size());
            else if (bad > 1)
                loads = QString("%1 broken").arg(bad);
        }
        const bool old = known && model && site::older(m->vitals.firmware, model->firmware);
        const auto cell = [&](int column, const QString& text, bool wrong, bool number = false) {
            table_->put(i, column, known ? text : none, number)
                ->setForeground(known && wrong ? tokens().fault : tokens().ink);
        };
        cell(temperature, QString("%1 \u00b0C").arg(m ? m->vitals.celsius : 0, 0, 'f', 0),
             m && m->vitals.celsius >= project::hotCelsius, true);
        cell(clip, m && m->vitals.clip ? "clips" : "clean", m && m->vitals.clip);
        cell(load, loads, bad > 0);
        cell(clock, m && m->vitals.clockLost ? "lost" : "locked", m && m->vitals.clockLost);
        cell(firmware, m ? q(m->vitals.firmware) + (old ? ", " + q(model->firmware) + " offered" : QString()) : none,
             false);
        cell(uptime, m ? timeText(m->vitals.uptime) : none, false, true);
        table_->put(i, seal, !m ? none : m->locked ? "sealed, shut" : m->sealed ? "sealed" : "open");
        cell(revision,
             !m || m->runningRevision() < 0 ? QString("factory")
             : m->kept()
                 ? QString("%1, kept").arg(m->runningRevision())
                 : QString("%1, %2")
                       .arg(m->runningRevision())
                       .arg(m->keptRevision() < 0 ? QString("none kept") : QString("%1 kept").arg(m->keptRevision())),
             false);
    }
}

} // namespace loom::app
