// The conversation of a space as it goes on: who is open, and what the far end gets.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>
#include <array>
#include <map>
#include <optional>

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
    // What is drawn of a run: worked out once, for it has a value for each millisecond.
    struct Drawn {
        std::vector<std::pair<double, double>> stretches{}; // of the whole, 0 to 1, in which it was open
        std::optional<double> last{};                       // gain, dB
    };
    const Drawn& drawn(int microphone);
    Drawn drawnOf(const std::vector<float>& gains) const;
    std::map<int, Drawn> drawn_{};
    std::optional<std::pair<std::vector<double>, std::array<double, 2>>> atOnce_{}; // shares; now and at most
    void paintFigures(QPainter& p, QRectF at);
    double card(QPainter& p, const QRectF& at, const QString& title, const QString& right, const QColor& dot);
    TalkState& state_;
};

} // namespace loom::app
