#include "app/bench/bench_page.h"
#include "app/shell/command.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/spectrum.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <cmath>

namespace loom::app {
namespace {

QString decibels(double db) {
    return db < -99 ? QString(QChar(0x2212)) + QChar(0x221E) : QString::number(db, 'f', 1).replace('-', QChar(0x2212));
}

} // namespace

LevelBoard::LevelBoard(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("levels");
    setAccessibleName("Levels of all sources and destinations");
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    connect(&session, &Session::changed, this, &LevelBoard::gather);
    connect(&Theme::get(), &Theme::changed, this, &LevelBoard::gather);
    gather();
}

void LevelBoard::gather() {
    ends_.clear();
    if (const auto* p = session_.program())
        for (const auto& l : session_.layout().lanes) {
            if (l.kind == engine::Layout::Kind::inner)
                continue;
            const auto& b = *p->find(l.end);
            const auto port = b.texts.find("port");
            ends_.push_back({q(l.end), q(b.label.empty() ? b.id : b.label),
                             port == b.texts.end() ? QString() : q(port->second),
                             l.source() ? l.open : engine::PortRef{l.end, 0}, l.source()});
        }
    setMinimumSize(Theme::get().ipx(480), qCeil(px(30) + px(24) * (rows() + 2)));
    update();
}

QRectF LevelBoard::rowRect(int row) const {
    const bool destination = row < rows() && !ends_[static_cast<std::size_t>(row)].source;
    return {px(8), px(28) + px(24) * row + (destination ? px(30) : 0), barRect().right() + px(62) - px(8), px(24)};
}

// Where the level bars lie; narrow windows and large text shorten them and leave out the ports.
QRectF LevelBoard::barRect() const {
    const bool narrow = width() < px(760);
    const double left = px(narrow ? 128 : 190);
    return {left, 0, qBound(px(70), width() * 0.55 - left - px(70), px(300)), 0};
}

int LevelBoard::rowAt(QPointF p) const {
    for (int r = 0; r < rows(); ++r)
        if (rowRect(r).contains(p))
            return r;
    return -1;
}

void LevelBoard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto* program = session_.program();
    if (!program)
        return;
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    p.drawText(QPointF(px(16), px(20)), "Sources");
    bool second = false;
    const QRectF scale = barRect();
    const bool ports = scale.left() > px(180);
    for (int r = 0; r < rows(); ++r) {
        const End& e = ends_[static_cast<std::size_t>(r)];
        const QRectF row = rowRect(r);
        if (!e.source && !second) {
            second = true;
            p.setFont(Theme::get().text(12, true));
            p.setPen(tokens().ink);
            p.drawText(QPointF(px(16), row.top() - px(8)), "Destinations");
        }
        if (e.id == session_.lane())
            p.fillRect(row, tokens().saffronTint);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(12));
        p.drawText(row.adjusted(px(8), 0, 0, 0), Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(e.name, Qt::ElideRight, px(112)));
        p.setFont(Theme::get().number(10));
        p.setPen(tokens().ink2);
        if (ports)
            p.drawText(row.adjusted(px(126), 0, 0, 0), Qt::AlignVCenter, e.port);
        const auto level = session_.bench().meter(e.at);
        const QRectF bar(scale.left(), row.center().y() - px(4), scale.width(), px(8));
        p.setPen(Qt::NoPen);
        p.setBrush(tokens().shade);
        p.drawRoundedRect(bar, px(4), px(4));
        const auto part = [](double db) { return qBound(0.0, (db + 60) / 60, 1.0); };
        if (level.peakDb > -60) {
            p.setBrush(level.peakDb > -1 ? tokens().fault : level.peakDb > -9 ? tokens().caution : tokens().ok);
            p.drawRoundedRect(
                QRectF(bar.left(), bar.top(), std::max(bar.height(), bar.width() * part(level.rmsDb)), bar.height()),
                px(4), px(4));
            p.fillRect(QRectF(bar.left() + bar.width() * part(level.peakDb) - px(2), bar.top() - px(2), px(2.5),
                              bar.height() + px(4)),
                       tokens().ink);
        }
        p.setPen(tokens().ink);
        p.drawText(QRectF(bar.right() + px(4), row.top(), px(56), row.height()), Qt::AlignVCenter | Qt::AlignRight,
                   decibels(level.peakDb));
    }
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(9));
    for (const int db : {-60, -40, -20, -9, 0})
        if (db != -9 || scale.width() > px(200))
            p.drawText(QRectF(scale.left() + scale.width() * (db + 60) / 60 - px(20), px(8), px(40), px(14)),
                       Qt::AlignCenter, QString::number(db).replace('-', QChar(0x2212)));
    p.drawText(QRectF(scale.right() + px(12), px(8), px(50), px(14)), Qt::AlignRight | Qt::AlignVCenter, "dBFS");
    // The spectrum stays in sight while the rows scroll.
    const QRect seen = visibleRegion().boundingRect();
    const double left = scale.right() + px(84);
    paintSpectrum(p, QRectF(left, seen.top() + px(28), width() - left - px(20),
                            std::max(px(90), std::min(px(320), seen.height() - px(50)))));
}

void LevelBoard::paintSpectrum(QPainter& p, QRectF r) {
    const End* end = nullptr;
    if (hover_ >= 0 && hover_ < rows())
        end = &ends_[static_cast<std::size_t>(hover_)];
    for (const auto& e : ends_)
        if (!end && e.id == session_.lane())
            end = &e;
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    p.drawText(QPointF(r.left(), r.top() - px(8)),
               end ? "Third octaves: " + end->name : QString("Third octaves: point at a row"));
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(r, px(6), px(6));
    p.setFont(Theme::get().number(9));
    for (const int db : {-20, -40, -60}) {
        const double y = r.top() - r.height() * db / 80;
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
        p.setPen(tokens().ink2);
        p.drawText(QPointF(r.left() + px(3), y - px(2)), QString::number(db).replace('-', QChar(0x2212)));
    }
    const double w = (r.width() - px(34)) / 30, left = r.left() + px(28);
    const auto bands = end ? session_.bench().spectrum(end->at) : std::vector<double>{};
    for (std::size_t b = 0; b < bands.size(); ++b) {
        const double part = qBound(0.0, (bands[b] + 80) / 80, 1.0);
        p.fillRect(
            QRectF(left + w * static_cast<double>(b), r.bottom() - r.height() * part, w * 0.8, r.height() * part),
            tokens().threads[4]);
    }
    p.setPen(tokens().ink2);
    for (const auto& [band, text] : {std::pair{1, "31.5"},
                                     {4, "63"},
                                     {7, "125"},
                                     {10, "250"},
                                     {13, "500"},
                                     {16, "1k"},
                                     {19, "2k"},
                                     {22, "4k"},
                                     {25, "8k"},
                                     {28, "16k"}})
        if (r.width() > px(330) || (band - 1) % 6 == 3) // 63, 250, 1k, 4k, 16k where room is scarce
            p.drawText(QRectF(left + w * (band + 0.4) - px(20), r.bottom() + px(2), px(40), px(14)), Qt::AlignCenter,
                       text);
    if (!session_.bench().running()) {
        p.setFont(Theme::get().text(13));
        p.drawText(r, Qt::AlignCenter, "F5 starts the bench:\nspeech runs through the program");
    }
}

void LevelBoard::mousePressEvent(QMouseEvent* e) {
    choosePart(rowAt(e->position()));
}

void LevelBoard::mouseMoveEvent(QMouseEvent* e) {
    hover_ = rowAt(e->position());
    update();
}

void LevelBoard::leaveEvent(QEvent*) {
    hover_ = -1;
}

void LevelBoard::keyPressEvent(QKeyEvent* e) {
    int at = -1;
    for (int r = 0; r < rows(); ++r)
        if (ends_[static_cast<std::size_t>(r)].id == session_.lane())
            at = r;
    if ((e->key() == Qt::Key_Down || e->key() == Qt::Key_Up) && rows() > 0) {
        at = qBound(0, at + (e->key() == Qt::Key_Down ? 1 : -1), rows() - 1);
        session_.choose(ends_[static_cast<std::size_t>(at)].id);
        return update();
    }
    QWidget::keyPressEvent(e);
}

std::vector<PaintedPart> LevelBoard::paintedParts() const {
    std::vector<PaintedPart> parts;
    for (int r = 0; r < rows(); ++r) {
        const End& e = ends_[static_cast<std::size_t>(r)];
        parts.push_back({e.name + (e.source ? ", source" : ", destination"),
                         decibels(session_.bench().meter(e.at).peakDb) + " dBFS", rowRect(r), e.id == session_.lane()});
    }
    return parts;
}

void LevelBoard::choosePart(int index) {
    if (index >= 0 && index < rows())
        session_.choose(ends_[static_cast<std::size_t>(index)].id);
    update();
}

BenchPage::BenchPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), session_(session), board_(new LevelBoard(session)), run_(new QPushButton),
      listen_(new QPushButton), record_(new QPushButton), state_(new QLabel) {
    auto* box = new QVBoxLayout(this);
    auto* head = new FlowLayout;
    for (auto* w : {static_cast<QWidget*>(run_), static_cast<QWidget*>(listen_), static_cast<QWidget*>(record_),
                    static_cast<QWidget*>(state_)})
        head->addWidget(w);
    run_->setProperty("main", true);
    box->addLayout(head);
    auto* scroll = new QScrollArea;
    scroll->setWidget(board_);
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    box->addWidget(scroll, 1);
    for (const auto& [button, id] :
         {std::pair{run_, "bench.run"}, {listen_, "bench.listen"}, {record_, "bench.record"}})
        connect(button, &QPushButton::clicked, this, [&commands, id = QString(id)] { commands.run(id); });
    refresh();
}

void BenchPage::refresh() {
    auto& bench = session_.bench();
    run_->setText(bench.preparing() ? "Getting ready\u2026"
                  : bench.running() ? "Stop the bench  F5"
                                    : "Run the bench  F5");
    listen_->setText(bench.listening() ? "Stop listening  Space" : "Listen to the chosen thread  Space");
    record_->setText(bench.recording() ? "Stop and save  F8" : "Record the chosen thread  F8");
    listen_->setEnabled(bench.running());
    record_->setEnabled(bench.running());
    QString text = bench.running() ? QString("missed deadlines: %1").arg(bench.missed())
                                   : QString("Stand-in speech for each input comes from the project.");
    if (bench.recording())
        text += " \u00b7 recording";
    state_->setText(text);
    board_->update();
}

} // namespace loom::app
