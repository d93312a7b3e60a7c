// The password for the control of the chosen devices, and beside it the key of the sound between them.
#pragma once
#include "app/shell/row_or_stack.h"
#include "app/site/fleet.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

class SoundKeyBox;

class SealPanel : public RowOrStack {
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
    SoundKeyBox* sound_;
    QPushButton *seal_, *unlock_, *unseal_;
};

} // namespace loom::app
