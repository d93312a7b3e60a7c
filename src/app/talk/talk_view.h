// The conversation of a space as it goes on: who is open, and what the far end gets.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

namespace loom::app {

class TalkView : public QWidget {
    Q_OBJECT
  public:
    explicit TalkView(TalkState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    // For tests: where the row of a microphone lies.
    QRectF rowRect(int microphone) const;
    bool live() const; // what is drawn is the bench's, not a proof's

  signals:
    void wantsMenu(const QPoint& at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    bool event(QEvent*) override;

  private:
    bool narrow() const; // the figures lie below the rows
    double rowHeight() const;
    double top() const;
    void paintRow(QPainter& p, const QRectF& row, int microphone);
    void paintLane(QPainter& p, const QRectF& at, int microphone);
    void paintCourses(QPainter& p);
    void paintCourse(QPainter& p, const QRectF& row, const QString& name, const QString& now, const QColor& colour,
                     const std::vector<double>& values);
    QRectF laneRect(const QRectF& row) const;
    std::vector<float> gainsOf(int microphone) const;
    void paintFigures(QPainter& p, QRectF at);
    double card(QPainter& p, const QRectF& at, const QString& title, const QString& right, const QColor& dot);
    TalkState& state_;
};

} // namespace loom::app
