// The key of the sound between devices: which ways are encrypted, a key for all of them, and off again.
#pragma once
#include "app/site/fleet.h"
#include "app/site/site_table.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

class SoundKeyBox : public QWidget {
    Q_OBJECT
  public:
    explicit SoundKeyBox(Fleet& fleet, QWidget* parent = nullptr);
    void show(const std::vector<std::string>& devices);

  private:
    void refresh();
    Fleet& fleet_;
    std::vector<std::string> devices_;
    QLabel *title_, *says_;
    QLineEdit* phrase_;
    QPushButton *encrypt_, *open_;
    SiteTable* links_;
};

} // namespace loom::app
