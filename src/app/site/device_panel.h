// One device: its set-up, the revisions it holds, its firmware, its address, its partner on site.
#pragma once
#include "app/shell/row_or_stack.h"
#include "app/site/fleet.h"
#include "app/site/site_table.h"

class QLabel;
class QPushButton;

namespace loom::app {

class FieldForm;
class KnobGrid;

class DevicePanel : public RowOrStack {
    Q_OBJECT
  public:
    explicit DevicePanel(Fleet& fleet, QWidget* parent = nullptr);
    void show(const std::string& device, const std::string& serial); // device may be empty: only found
    SiteTable* revisions() { return revisions_; }

  private:
    void refresh();
    void otherAddress();
    void addToPlan();
    void pairWith();
    Fleet& fleet_;
    std::string device_, serial_;
    FieldForm* form_;
    KnobGrid* knobs_;
    SiteTable* revisions_;
    QLabel *title_, *says_;
    QPushButton *identify_, *tone_, *address_, *update_, *rollBack_, *unpair_, *add_, *pair_, *goBack_;
};

} // namespace loom::app
