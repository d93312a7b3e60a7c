// What happened on site, searched and written to a file.
#pragma once
#include "app/site/fleet.h"
#include "app/site/site_table.h"

class QCheckBox;
class QLineEdit;

namespace loom::app {

class LogPanel : public QWidget {
    Q_OBJECT
  public:
    explicit LogPanel(Fleet& fleet, QWidget* parent = nullptr);
    void refresh();
    void exportFile();

  private:
    Fleet& fleet_;
    QLineEdit* filter_;
    QCheckBox* bad_;
    SiteTable* table_;
    QTimer soon_; // hundreds of devices may tell at once
};

} // namespace loom::app
