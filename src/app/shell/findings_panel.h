// All findings of the project in a list beside the stage: filtered by room and stage, with a way to each place, and a
// reason kept in the project for those that are left as they are.
#pragma once
#include "app/session.h"
#include "app/shell/stage.h"
#ifndef Q_MOC_RUN
#include "findings/findings.h"
#endif
#include <QFrame>

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace loom::app {

class FindingsPanel : public QFrame {
    Q_OBJECT
  public:
    explicit FindingsPanel(Session& session, QWidget* parent = nullptr);
    void show(const std::vector<project::Finding>& found); // takes them up; the panel itself may stay hidden
    void takeFocus();

  signals:
    void wantsPlace(const loom::app::Target& place);
    void wantsBack();

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void fill();
    void noteChoice();
    void leave();
    const project::Finding* chosen() const;
    Session& session_;
    QLabel* title_;
    QComboBox *room_, *stage_;
    QListWidget* list_;
    QLineEdit* because_;
    QPushButton *leave_, *go_;
    std::vector<project::Finding> found_;
};

} // namespace loom::app
