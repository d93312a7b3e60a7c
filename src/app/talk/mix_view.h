// Who hears whom: talkers and far ends as threads across, listeners as threads down, a knot where one hears the other.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

namespace loom::app {

class MixView : public QWidget {
    Q_OBJECT
  public:
    explicit MixView(TalkState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    struct Cell {
        int talker = 0, listener = 0;
        bool operator==(const Cell&) const = default;
    };
    Cell chosen() const { return chosen_; }
    void choose(Cell cell);
    QRectF cellRect(const Cell& cell) const;
    bool any() const; // there is a crossing to choose
    // Of the chosen crossing; both report what hinders them.
    void turn(); // opens or closes it; what is apart is brought
    void setLevel(double db);
    void step(double db);
    QString words() const; // "Delegate 3 in Hearing loop: −6.0 dB, at Matrix mixer"

  signals:
    void wantsMenu(const QPoint& at);
    void chosenMoved();

  protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void leaveEvent(QEvent*) override;
    bool event(QEvent*) override;

  private:
    void again();
    double nameWidth() const;
    double columnWidth() const;
    std::optional<Cell> at(const QPointF& pos) const;
    void paintCell(QPainter& p, const Cell& cell);
    const project::Mixes& mixes() const { return state_.mixes(); }
    TalkState& state_;
    Cell chosen_{};
    std::optional<Cell> over_{};
};

} // namespace loom::app
