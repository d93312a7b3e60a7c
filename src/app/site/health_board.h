// All devices on one board: how each is, in words and figures; those that are not well come first.
#pragma once
#include "app/site/fleet.h"
#include "app/site/site_table.h"

namespace loom::app {

class HealthBoard : public QWidget {
    Q_OBJECT
  public:
    enum Column { name, word, temperature, clip, load, clock, firmware, uptime, seal, revision, columns };
    explicit HealthBoard(Fleet& fleet, QWidget* parent = nullptr);
    SiteTable* table() { return table_; }
    void refresh();

  signals:
    void chosen(const QString& device);

  private:
    SiteCell cellOf(int row, int column) const;
    Fleet& fleet_;
    SiteTable* table_;
    std::vector<std::string> ids_;
};

} // namespace loom::app
