// A surface in use, in a window of its own: with the bench while it runs, as any role, by mouse, fingers and keys.
#pragma once
#include "app/surfaces/here_values.h"
#include <QTimer>
#include <QWidget>

class QComboBox;
class QLabel;

namespace loom::app {

// The page itself.
class SurfaceFace : public QWidget {
    Q_OBJECT
  public:
    SurfaceFace(Session& session, const std::string& surface, QWidget* parent = nullptr);
    project::SurfaceUse& use() { return use_; }
    HereValues& values() { return values_; }
    QPointF toView(const QPointF& page) const;
    const std::string& focusedControl() const { return focus_; } // "": none yet

  signals:
    void moved(); // another page, or it asks something
    void wantsOut();
    void notYours(const QString& page); // who is here may not open it

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override; // fingers; Tab walks the controls

  private:
    double scale() const;
    QPointF corner() const;
    QPointF toPage(const QPointF& view) const;
    std::vector<const project::Control*> pressable() const;
    const project::Control* focused() const;
    void after();
    QRectF answerRect(bool yes) const; // of what is asked, in the view
    void paintQuestion(QPainter& p);
    void answer(bool yes);
    Session& session_;
    HereValues values_;
    project::SurfaceUse use_;
    std::string focus_; // a control, for keys
    QTimer beat_;
};

class SurfaceWindow : public QWidget {
    Q_OBJECT
  public:
    SurfaceWindow(Session& session, const std::string& surface, QWidget* parent = nullptr);
    SurfaceFace* face() { return face_; }
    const std::string& surface() const { return surface_; }

  private:
    void refresh();
    Session& session_;
    std::string surface_;
    QString notYours_;
    SurfaceFace* face_;
    QComboBox* role_;
    QLabel* with_;
};

} // namespace loom::app
