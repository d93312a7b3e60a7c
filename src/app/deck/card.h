// One block's editor in the deck, made from its declaration.
#pragma once
#include "app/session.h"
#include <QFrame>

class QGridLayout;
class QHBoxLayout;
class QVBoxLayout;

namespace loom::app {

class CurveView;
class MatrixTable;
class ValueField;

// A switch: on or off, with the word beside it.
class Toggle : public QWidget {
    Q_OBJECT
  public:
    Toggle(Session& session, const QString& block, const QString& param, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override { flip(); }
    void keyPressEvent(QKeyEvent*) override;

  private:
    bool on() const;
    void flip();
    Session& session_;
    QString block_, param_;
};

class Card : public QFrame {
    Q_OBJECT
  public:
    Card(Session& session, const QString& block, QWidget* parent = nullptr);
    QString block() const { return block_; }
    // Narrow: its picture, or its first values below each other, where there is no room for all of it.
    void setNarrow(bool narrow);
    bool narrow() const { return narrow_; }
    int fullWidth() const { return fullWidth_; } // what it takes when it is not narrow
    bool wide() const;                           // has a picture that may take more
    void refresh();
    void setChosen(bool chosen);
    void refreshMeters();
    void takeFocus();

  protected:
    void mousePressEvent(QMouseEvent*) override;

  private:
    void build();
    void buildHead(QVBoxLayout* box, const engine::Block& b, const engine::BlockKind* kind);
    void addRemark(QVBoxLayout* box, const std::string& text, const QColor& colour);
    void buildFull(QVBoxLayout* box, const engine::Block& b, const engine::BlockKind& kind);
    void buildNarrow(QVBoxLayout* box, const engine::BlockKind& kind);
    QString pathOf(const QString& param) const; // as it is dragged
    void addRow(QGridLayout* grid, int row, int column, const QString& label, const QString& param);
    void addPort(QGridLayout* grid, int row);
    void addFiles(QGridLayout* grid, int row);
    void addShape(QHBoxLayout* head, const engine::ShapeSpec& spec);
    void addAlign(QHBoxLayout* head);
    QWidget* picture();
    QWidget* notches();
    void buildParameters(QVBoxLayout* box);
    void buildSliders(QVBoxLayout* box);
    void buildBands(QVBoxLayout* box);
    void showBand(int band);
    Session& session_;
    QString block_;
    QWidget* inner_ = nullptr;
    bool narrow_ = false;
    int fullWidth_ = 0;
    CurveView* curve_ = nullptr;
    MatrixTable* crossings_ = nullptr;
    QWidget* bandRow_ = nullptr;
    std::vector<QWidget*> moving_; // what shows the sound at work
    int band_ = 0;
};

} // namespace loom::app
