// What is wrong on site, with the cure beside it.
#pragma once
#include "app/site/fleet.h"
#include "app/site/site_table.h"

class QLabel;

namespace loom::app {

class TodoList : public QWidget {
    Q_OBJECT
  public:
    explicit TodoList(Fleet& fleet, QWidget* parent = nullptr);
    int count() const { return static_cast<int>(findings_.size()); }
    int toFix() const;
    const std::vector<site::SiteFinding>& findings() const { return findings_; }
    void refresh();

  signals:
    void changed();

  private:
    void otherAddress(const site::SiteFinding& finding);
    void later(const site::SiteFinding& finding);
    Fleet& fleet_;
    SiteTable* table_;
    std::vector<site::SiteFinding> findings_;
    QString made_ = "-";
    QLabel* none_;
};

} // namespace loom::app
