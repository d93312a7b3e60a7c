// The Bench stage: every source and destination with its level, and the spectrum of the chosen thread.
#pragma once
#include "app/session.h"
#include "app/shell/accessible.h"
#ifndef Q_MOC_RUN
#include "engine/layout.h"
#endif
#include <QWidget>

class QLabel;
class QPushButton;

namespace loom::app {

class Commands;

// The painted part: levels at the left, spectrum at the right.
class LevelBoard : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit LevelBoard(Session& session, QWidget* parent = nullptr);
    QRectF rowRect(int row) const;
    int rows() const { return static_cast<int>(ends_.size()); }
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    struct End {
        QString id, name, port;
        engine::PortRef at;
        bool source;
    };
    void gather();
    QRectF barRect() const;
    int rowAt(QPointF p) const;
    void paintSpectrum(QPainter& p, QRectF r);
    Session& session_;
    std::vector<End> ends_;
    int hover_ = -1;
};

class BenchPage : public QWidget {
    Q_OBJECT
  public:
    BenchPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    void refresh();
    LevelBoard* board() { return board_; }

  private:
    Session& session_;
    LevelBoard* board_;
    QPushButton *run_, *listen_, *record_;
    QLabel* state_;
};

} // namespace loom::app
