#include "app/site/log_panel.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "disk/safe_file.h"
#include <QCheckBox>
#include <QDateTime>
#include <QFileDialog>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

LogPanel::LogPanel(Fleet& fleet, QWidget* parent)
    : QWidget(parent), fleet_(fleet), filter_(new QLineEdit), bad_(new QCheckBox("Only what went wrong")),
      table_(new SiteTable({"Time", "Device", "Who", "What"}, "log", "Events")) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    auto* row = new FlowLayout;
    filter_->setPlaceholderText("Search events");
    filter_->setAccessibleName("Search events");
    filter_->setObjectName("searchLog");
    auto* save = new QPushButton("Save as CSV\u2026");
    save->setObjectName("saveLog");
    for (auto* w : {static_cast<QWidget*>(filter_), static_cast<QWidget*>(bad_), static_cast<QWidget*>(save)})
        row->addWidget(w);
    box->addLayout(row);
    box->addWidget(table_, 1);
    connect(filter_, &QLineEdit::textChanged, this, &LogPanel::refresh);
    connect(bad_, &QCheckBox::toggled, this, &LogPanel::refresh);
    connect(save, &QPushButton::clicked, this, &LogPanel::exportFile);
    soon_.setSingleShot(true);
    soon_.setInterval(30);
    connect(&soon_, &QTimer::timeout, this, &LogPanel::refresh);
    connect(&fleet, &Fleet::logChanged, this, [this] {
        if (!soon_.isActive())
            soon_.start();
    });
    connect(&Theme::get(), &Theme::changed, this, &LogPanel::refresh);
}

void LogPanel::refresh() {
    if (!isVisible())
        return;
    table_->dress({130, 170, 170, 0});
    table_->setColumnHidden(2, Theme::get().percent() > 130);
    auto shown = fleet_.log().matching(filter_->text().toStdString(), bad_->isChecked());
    std::reverse(shown.begin(), shown.end()); // the newest first
    shown.resize(std::min<std::size_t>(shown.size(), 300));
    const int count = static_cast<int>(shown.size());
    table_->fill(count, [shown = std::move(shown)](int row, int column) {
        const auto& e = shown[static_cast<std::size_t>(row)];
        return column == 0
                   ? SiteCell{QDateTime::fromString(q(e.time), Qt::ISODate).toLocalTime().toString("d MMM HH:mm:ss"),
                              {},
                              true}
               : column == 1 ? SiteCell{q(e.device)}
               : column == 2 ? SiteCell{q(e.who)}
                             : SiteCell{q(e.what), e.bad ? tokens().fault : tokens().ink};
    });
}

void LogPanel::exportFile() {
    const QString file = QFileDialog::getSaveFileName(this, "Save the events", "events.csv", "Tables (*.csv)");
    if (file.isEmpty())
        return;
    const auto all = fleet_.log().matching(filter_->text().toStdString(), bad_->isChecked());
    const auto done = project::writeWhole(file.toStdString(), site::EventLog::csv(all), false);
    if (!done)
        return fleet_.session().report(done.error());
    fleet_.session().report(QString("%1 events are in %2.").arg(all.size()).arg(file), false);
}

} // namespace loom::app
