#include "app/deck/levels_view.h"
#include "app/theme/theme.h"
#include "dsp/fft_analyser.h"
#include "engine/block_kind.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace loom::app {
namespace {

constexpr double lowest = -100, highest = 0; // dB

QString hertz(double hz) {
    return hz < 1000 ? QString::number(hz, 'f', hz < 100 ? 1 : 0) + " Hz" : QString::number(hz / 1000, 'f', 2) + " kHz";
}

} // namespace

LevelsView::LevelsView(Session& session, const QString& block)
    : BlockPicture(session, block, "levels", "Level over frequency", {420, 130}),
      bars_(engine::BlockView(*this->block()).kind->picture == engine::Picture::bands) {
    setMouseTracking(true);
}

int LevelsView::count() const {
    return bars_ ? static_cast<int>(dsp::thirdOctaveCentres().size()) : dsp::FftAnalyser::points;
}

double LevelsView::hzOf(int i) const {
    return bars_ ? dsp::thirdOctaveCentres()[static_cast<std::size_t>(i)] : dsp::FftAnalyser::pointHz(i);
}

double LevelsView::level(int i) const {
    return session_.bench().running() ? static_cast<double>(session_.bench().readout(block_.toStdString(), i))
                                      : dsp::silenceDb;
}

QRectF LevelsView::plot() const {
    return QRectF(rect()).adjusted(px(30), px(2), -px(4), -px(30));
}

void LevelsView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF r = plot();
    const double width = r.width() / count();
    const auto xOf = [&](double i) { return r.left() + (i + 0.5) * width; };
    const auto yOf = [&](double db) {
        return r.top() + (highest - qBound(lowest, db, highest)) / (highest - lowest) * r.height();
    };
    const auto indexOf = [&](double hz) { // steps of pitch are equal
        return std::log(hz / hzOf(0)) / std::log(hzOf(count() - 1) / hzOf(0)) * (count() - 1);
    };
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRect(r);
    p.setFont(Theme::get().number(9));
    for (const double db : {-20.0, -40.0, -60.0, -80.0}) {
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(r.left(), yOf(db)), QPointF(r.right(), yOf(db)));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(0, yOf(db) - px(7), px(27), px(14)), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(db).replace('-', QChar(0x2212)));
    }
    double free = r.left() - px(16); // labels that would lie on one another are left out
    for (const auto& [hz, text] : {std::pair{31.5, "31.5"},
                                   {63.0, "63"},
                                   {125.0, "125"},
                                   {250.0, "250"},
                                   {500.0, "500"},
                                   {1000.0, "1k"},
                                   {2000.0, "2k"},
                                   {4000.0, "4k"},
                                   {8000.0, "8k"},
                                   {16000.0, "16k"}})
        if (const double at = xOf(indexOf(hz)); at - px(10) >= free) {
            p.drawText(QRectF(at - px(16), r.bottom() + px(1), px(32), px(13)), Qt::AlignCenter, text);
            free = at + px(14);
        }
    p.setClipRect(r);
    if (bars_) {
        for (int i = 0; i < count(); ++i)
            p.fillRect(
                QRectF(QPointF(xOf(i) - width * 0.42, yOf(level(i))), QPointF(xOf(i) + width * 0.42, r.bottom())),
                tokens().threads[4]);
    } else {
        QPainterPath line;
        for (int i = 0; i < count(); ++i) {
            const QPointF at(xOf(i), yOf(level(i)));
            i ? line.lineTo(at) : line.moveTo(at);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(tokens().threads[4], px(1.6)));
        p.drawPath(line);
    }
    p.setClipping(false);
    int shown = 0; // what is pointed at, or the strongest
    for (int i = 1; i < count(); ++i)
        if (level(i) > level(shown))
            shown = i;
    if (pointer_)
        shown = qBound(0, static_cast<int>((pointer_->x() - r.left()) / width), count() - 1);
    const double db = level(shown);
    p.setPen(tokens().ink);
    p.drawText(QRectF(r.left(), r.bottom() + px(14), r.width(), px(14)), Qt::AlignLeft | Qt::AlignVCenter,
               db <= dsp::silenceDb + 1 ? QString(session_.bench().running() ? "silence" : "F5 runs the bench")
                                        : QString("%1 %2: %3 dB")
                                              .arg(pointer_ ? "at" : "strongest at", hertz(hzOf(shown)))
                                              .arg(QString::number(db, 'f', 1).replace('-', QChar(0x2212))));
}

void LevelsView::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    update();
}

void LevelsView::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

} // namespace loom::app
