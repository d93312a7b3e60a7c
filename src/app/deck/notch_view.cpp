#include "app/deck/notch_view.h"
#include "app/theme/theme.h"
#include "dsp/section.h"
#include "engine/block_kind.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {
namespace {

constexpr double deepest = -30; // dB

} // namespace

NotchView::NotchView(Session& session, const QString& block)
    : BlockPicture(session, block, "notches", "Notches over frequency", {380, 120}) {}

void NotchView::paintEvent(QPaintEvent*) {
    const auto* b = block();
    if (!b)
        return;
    const engine::BlockView view(*b);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF r = QRectF(rect()).adjusted(px(30), px(2), -px(4), -px(32));
    const auto xOf = [&](double hz) { return r.left() + std::log(hz / 80) / std::log(16000.0 / 80) * r.width(); };
    const auto yOf = [&](double db) {
        return r.top() + px(6) + qBound(deepest, db, 0.0) / deepest * (r.height() - px(6));
    };
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRect(r);
    p.setFont(Theme::get().number(9));
    for (const double db : {0.0, -10.0, -20.0}) {
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(r.left(), yOf(db)), QPointF(r.right(), yOf(db)));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(0, yOf(db) - px(7), px(27), px(14)), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(db).replace('-', QChar(0x2212)));
    }
    for (const auto& [hz, text] : {std::pair{125.0, "125"},
                                   {250.0, "250"},
                                   {500.0, "500"},
                                   {1000.0, "1k"},
                                   {2000.0, "2k"},
                                   {4000.0, "4k"},
                                   {8000.0, "8k"}})
        p.drawText(QRectF(xOf(hz) - px(16), r.bottom() + px(1), px(32), px(13)), Qt::AlignCenter, text);
    // The notches are bells of the equaliser; their sum is drawn as they run.
    std::vector<dsp::Section> bells;
    const double rate = session_.device()->rate;
    QStringList list;
    for (int n = 0; session_.bench().running() && view.table->indexOf(std::to_string(n + 1) + ".use") >= 0; ++n) {
        const auto hz = static_cast<double>(session_.bench().readout(b->id, 1 + 2 * n)),
                   depth = static_cast<double>(session_.bench().readout(b->id, 2 + 2 * n));
        if (hz <= 0)
            continue;
        bells.push_back(dsp::designBand(dsp::BellKind::bell, hz, depth, view.look()["width"], rate));
        list << QString("%1: %2 Hz %3")
                    .arg(n + 1)
                    .arg(hz, 0, 'f', 0)
                    .arg(QString::number(depth, 'f', 0).replace('-', QChar(0x2212)));
    }
    QPainterPath line;
    for (double x = r.left(); x <= r.right(); x += 0.5) {
        const double hz = 80 * std::pow(16000.0 / 80, (x - r.left()) / r.width());
        double db = 0;
        for (const auto& s : bells)
            db += dsp::dbFromGain(std::abs(dsp::response(s, hz, rate)));
        x == r.left() ? line.moveTo(x, yOf(db)) : line.lineTo(x, yOf(db));
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tokens().ink, px(1.8)));
    p.drawPath(line);
    p.setPen(tokens().ink);
    const QString text = !session_.bench().running() ? "F5 runs the bench"
                         : list.isEmpty()            ? "nothing rings"
                                                     : list.join("  ");
    p.drawText(QRectF(px(4), r.bottom() + px(15), width() - px(8), px(15)), Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(text, Qt::ElideRight, width() - px(8)));
    setToolTip(list.join("\n"));
}

} // namespace loom::app
