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
    void refresh();
    void setChosen(bool chosen);
    void refreshMeters();
    void takeFocus();

  protected:
    void mousePressEvent(QMouseEvent*) override;

  private:
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
    CurveView* curve_ = nullptr;
    MatrixTable* crossings_ = nullptr;
    QWidget* bandRow_ = nullptr;
    std::vector<QWidget*> moving_; // what shows the sound at work
    int band_ = 0;
};

} // namespace loom::app
