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
    void tell(const QString& text);                              // at its foot, for a while

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
    QString notice_{};
    double noticeLeft_ = 0; // s
};

// Opens where it was left, in the manner that it was left in.
class SurfaceWindow : public QWidget {
    Q_OBJECT
  public:
    enum class For {
        trying,   // with who is here to choose, and Close
        operators // the surface and nothing else: no way to the design
    };
    struct Manner {
        bool inFront = false, bare = false, full = false, noPointer = false;
        bool operator==(const Manner&) const = default;
    };
    SurfaceWindow(Session& session, const std::string& surface, QWidget* parent = nullptr, For who = For::trying);
    ~SurfaceWindow() override;
    SurfaceFace* face() { return face_; }
    const std::string& surface() const { return surface_; }
    const Manner& manner() const { return manner_; }
    void setManner(const Manner& manner); // and shows it
    void be(const std::string& role);

  protected:
    void keyPressEvent(QKeyEvent*) override;
    void mousePressEvent(QMouseEvent*) override; // moves a bare one

  private:
    void refresh();
    void offerManners();
    QString remembered(const char* what) const; // where in the settings
    Session& session_;
    std::string surface_;
    QString ofProject_;
    For for_;
    Manner manner_{};
    QString notYours_;
    SurfaceFace* face_;
    QWidget* head_;
    QComboBox* role_;
    QLabel* with_;
};

} // namespace loom::app
