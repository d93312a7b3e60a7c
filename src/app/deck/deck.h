// The lower part of the window: live editors for the chain of the chosen lane, side by side.
#pragma once
#include "app/session.h"
#include <QWidget>

class QHBoxLayout;
class QLabel;
class QScrollArea;

namespace loom::app {

class Card;

class Deck : public QWidget {
    Q_OBJECT
  public:
    explicit Deck(Session& session, QWidget* parent = nullptr);
    void takeFocus(); // to the chosen block's first field
    void refreshMeters();

  signals:
    void wantsBack();

  protected:
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    void rebuild();
    void refresh();
    void markChosen();
    void arrange();
    Session& session_;
    QLabel *title_, *path_;
    QScrollArea* scroll_;
    std::vector<Card*> cards_;
    QString shown_;
};

} // namespace loom::app
