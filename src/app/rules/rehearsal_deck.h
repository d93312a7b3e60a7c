// The deck of Rules: a day in simulated time, what happened in it and why.
#pragma once
#include "app/rules/rules_state.h"
#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace loom::app {

// A day from left to right: how walls, calls and the rest were, and when rules did something.
class DayView : public QWidget {
    Q_OBJECT
  public:
    explicit DayView(RulesState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    std::optional<project::Millis> looked() const { return looked_; } // the moment that is looked at; none: now
    void look(std::optional<project::Millis> at);
    double xOf(project::Millis at) const;
    project::Millis atX(double x) const;

  signals:
    void lookedChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    double left() const;
    RulesState& state_;
    std::optional<project::Millis> looked_{};
};

class RehearsalDeck : public QWidget {
    Q_OBJECT
  public:
    explicit RehearsalDeck(RulesState& state, QWidget* parent = nullptr);
    void takeFocus();
    DayView* day() { return day_; }
    QLineEdit* happens() { return happens_; }
    QString begins() const;
    double times() const;

  signals:
    void wants(const QString& command);
    void wantsBack();

  protected:
    void resizeEvent(QResizeEvent*) override;

  private:
    void refresh();
    void fillWhy();
    RulesState& state_;
    QLabel *title_, *now_, *tests_;
    QLineEdit *begins_, *happens_;
    QComboBox* speed_;
    QPushButton *begin_, *play_, *end_, *keep_;
    DayView* day_;
    QListWidget* why_;
    QWidget* side_;
    std::pair<project::Millis, project::Millis> shownFor_{-1, -1};
};

} // namespace loom::app
