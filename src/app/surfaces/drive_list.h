// What controls can be driven from, to be found and dragged; and as what the chosen ones are shown.
#pragma once
#include "app/surfaces/surfaces_state.h"
#include <QTimer>
#include <QWidget>

class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace loom::app {

class DriveList : public QWidget {
    Q_OBJECT
  public:
    explicit DriveList(SurfacesState& state, QWidget* parent = nullptr);
    QLineEdit* field() { return field_; }
    QListWidget* list() { return list_; }
    std::string current() const;     // the path that is chosen in it; "": none
    QStringList chosenPaths() const; // all of them, as they lie below each other
    void addCurrent();               // what is chosen in it comes to the middle of the page
    void driveChosen();              // the chosen controls are driven from it

  signals:
    void wants(const QString& command);

  private:
    void fill();
    void sayChosen();
    SurfacesState& state_;
    QLineEdit* field_;
    QListWidget* list_;
    QLabel* as_;
    std::vector<QPushButton*> kinds_;
    QTimer soon_;
};

} // namespace loom::app
