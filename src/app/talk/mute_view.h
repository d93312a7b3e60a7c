// The mute of a space: every place that sets or shows it, how it hears of the others, how it is now, and where sound is
// cut.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

namespace loom::app {

class MuteView : public QWidget {
    Q_OBJECT
  public:
    explicit MuteView(TalkState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    int chosen() const { return chosen_; } // a place
    void choose(int place);
    // What a place does: 0 sets it, 1 shows it, 2 takes no part.
    QRectF pillRect(int place, int does) const;
    void put(int place, int does);
    bool nothingCuts() const; // a far end that no mute is on the way to
    void cut();               // puts one there
    QRectF cutRect() const;   // where that is pressed

  signals:
    void wantsMenu(const QPoint& at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;

  private:
    void again();
    double rowHeight() const;
    double top() const;
    double nameWidth() const;
    bool narrow() const; // two lines a place
    void paintPlace(QPainter& p, int place);
    const project::MuteBoard& board() const { return state_.mutes(); }
    TalkState& state_;
    int chosen_ = 0;
};

} // namespace loom::app
