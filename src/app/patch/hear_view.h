// Who hears whom: what is offered left, what takes it right, threads between them through the reed of what can be
// carried.
#pragma once
#include "app/patch/patch_ear.h"
#include "app/patch/patch_state.h"
#include "app/shell/accessible.h"
#include <QAbstractScrollArea>

namespace loom::app {

class HearView : public QAbstractScrollArea, public Painted {
    Q_OBJECT
  public:
    HearView(PatchState& state, PatchEar& ear, QWidget* parent = nullptr);
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;
    // Where things lie in the viewport, for tests and assistive programs; empty: not there.
    QRectF rowRect(const std::string& key) const;
    QRectF channelRect(const std::string& key, int channel) const; // of the row that is chosen
    QRectF offersRect(const std::string& device) const;            // head of a device that offers
    QRectF takerRect(const std::string& device) const;             // head of one that takes
    QRectF slotRect(const std::string& device, const std::string& port) const;

  signals:
    void wantsPhrase(); // somebody begins to type where it is to go
    void wantsMenu(const QPoint& at);
    void wantsDescription(const QString& file, const QString& text); // dropped: a file, or what it says

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dragMoveEvent(QDragMoveEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    struct Place { // of a device on one side
        QRectF card, head;
        std::vector<QRectF> parts{}; // rows, or inputs
    };
    struct Hit {
        int taker = -1, slot = -1;               // slot -1: its card
        int offers = -1, row = -1, channel = -1; // row -1: its head
        int thread = -1;
    };
    void place();
    double top() const; // how far it is scrolled
    Hit hitAt(const QPointF& at) const;
    QColor colourOf(int device) const;
    const project::Device& device(int n) const;
    QPointF rowEnd(const project::BoardThread& t) const;
    QPointF takerEnd(const project::BoardThread& t) const;
    QPainterPath pathOf(const project::BoardThread& t, double dent) const;
    double dentOf(int dent) const;
    bool inSight(const project::BoardThread& t) const; // one of its ends
    bool lit(const project::BoardThread& t) const;
    void paintReed(QPainter& p);
    void paintThreads(QPainter& p);
    void paintOffers(QPainter& p, std::size_t n);
    void paintTaker(QPainter& p, std::size_t n);
    void paintNote(QPainter& p);
    void paintSpectrum(QPainter& p, const QRectF& in, const std::vector<double>& bands);
    void point(const Hit& hit);
    void move(int by);
    void bring(const QRectF& r);

    PatchState& state_;
    PatchEar& ear_;
    std::optional<PatchEar::Place> pointed_; // a port under the pointer
    std::vector<Place> offers_, takers_;
    std::vector<int> dents_;                         // of threads: by row; -1: none
    std::vector<std::pair<int, QColor>> dentList_{}; // in order: row's thread, colour
    QRectF reed_;
    int capacity_ = 0, carried_ = 0;
    struct {
        Hit from{};
        bool on = false;
        QPointF start, now;
    } drag_;
    int hovered_ = -1; // a thread
    QPointF pointer_;
};

} // namespace loom::app
