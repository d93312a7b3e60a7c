// One password for the control of the chosen devices: sealing, opening for this desk, taking the seal off.
#pragma once
#include "app/site/fleet.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

class SealPanel : public QWidget {
    Q_OBJECT
  public:
    explicit SealPanel(Fleet& fleet, QWidget* parent = nullptr);
    void show(const std::vector<std::string>& devices);

  private:
    void refresh();
    Fleet& fleet_;
    std::vector<std::string> devices_;
    QLabel *title_, *about_, *says_;
    QLineEdit *password_, *again_;
    QPushButton *seal_, *unlock_, *unseal_;
};

} // namespace loom::app
