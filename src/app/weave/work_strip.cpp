#include "app/weave/work_strip.h"
#include "app/bench/bench_engine.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_view.h"
#include "model/block_names.h"
#include "program/compare.h"
#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QWheelEvent>

namespace loom::app {

WorkStrip::WorkStrip(Session& session, WeaveView& weave, QWidget* parent)
    : QWidget(parent), session_(session), weave_(weave), area_(new QScrollArea),
      clear_(new QPushButton("Clear all   F9")) {
    setObjectName("workStrip");
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(16, 5, 16, 5);
    box->addWidget(area_, 1);
    box->addWidget(clear_);
    area_->setFrameShape(QFrame::NoFrame);
    area_->setWidgetResizable(true);
    area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area_->setFocusPolicy(Qt::NoFocus);
    area_->viewport()->installEventFilter(this);
    clear_->setObjectName("Clear all");
    clear_->setToolTip("Takes away every tool, the ear and the trace");
    clear_->setFocusPolicy(Qt::TabFocus);
    connect(clear_, &QPushButton::clicked, this, [this] { weave_.clearTools(); });
    connect(&session, &Session::changed, this, &WorkStrip::refresh);
    connect(&session, &Session::atWorkChanged, this, &WorkStrip::refresh);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        shown_.clear();
        refresh();
    });
    hide();
}

bool WorkStrip::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() != QEvent::Wheel)
        return QWidget::eventFilter(watched, e);
    auto* bar = area_->horizontalScrollBar();
    bar->setValue(bar->value() - static_cast<QWheelEvent*>(e)->angleDelta().y());
    return true;
}

void WorkStrip::refresh() {
    struct Chip {
        QString text, tip;
        std::function<void()> go;
    };
    std::vector<Chip> chips;
    auto& bench = session_.bench();
    const auto* p = session_.program();
    const auto nameOf = [&](const engine::PortRef& at) {
        const auto* b = p ? p->find(at.block) : nullptr;
        return b ? q(project::blockName(*p, *b)) : q(at.block);
    };
    if (const auto& c = session_.comparison(); c && p) {
        const int differ = project::countChanged(session_.layout(), *p, c->other, c->lane);
        const QString what = c->lane.empty() ? QString("the program") : nameOf({c->lane, 0});
        chips.push_back({QString("Compare %1: you hear %2, %3 differ%4   F7 hears %5")
                             .arg(what, QString(c->heard))
                             .arg(differ == 0   ? QString("no values")
                                  : differ == 1 ? QString("1 value")
                                                : QString("%1 values").arg(differ),
                                  differ == 1 ? "s" : "", c->heard == 'A' ? "B" : "A"),
                         "Changes over between what was remembered (A) and what you made of it (B)",
                         [this] { session_.flipComparison(); }});
        chips.push_back({QString("Stay with %1   Shift+F7").arg(c->heard), "Ends the comparison; what you hear stays",
                         [this] { session_.endComparison(); }});
    }
    if (p)
        for (const auto& t : session_.tools())
            chips.push_back({(t.number < 0 ? "On the device: " : "") + q(project::describe(*p, t)) + "   \u2715",
                             "Takes this tool away", [this, n = t.number] { session_.takeTool(n); }});
    if (const auto at = bench.listening())
        chips.push_back(
            {"Listening at " + nameOf(*at) + "   \u2715", "Takes the ear off", [this] { emit wantsSilence(); }});
    for (const auto& at : bench.pins())
        chips.push_back({"Measuring " + nameOf(at) + "   \u2715", "Measures this thread no longer", [this, at] {
                             session_.bench().pin(at);
                             refresh();
                             weave_.update();
                         }});
    if (const auto& trace = weave_.traced())
        chips.push_back({q(trace->text()) + "   \u2715", "Ends the trace", [this] { weave_.traceChosen(); }});
    const bool tools = !session_.tools().empty() || bench.listening() || !bench.pins().empty() || weave_.traced();
    clear_->setVisible(tools);
    QString key;
    for (const auto& c : chips)
        key += c.text + '\n';
    if (key == shown_)
        return;
    shown_ = key;
    auto* row = new QWidget;
    row->setObjectName("row");
    row->setStyleSheet("#row { background: transparent; }");
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(6);
    for (const auto& c : chips) {
        auto* chip = new QPushButton(c.text);
        chip->setObjectName(c.text.section("   ", 0, 0));
        chip->setToolTip(c.tip);
        chip->setFocusPolicy(Qt::TabFocus);
        connect(chip, &QPushButton::clicked, this, c.go);
        line->addWidget(chip);
    }
    line->addStretch(1);
    if (auto* old = area_->takeWidget()) { // one of its chips may be what asked for this
        old->hide();
        old->deleteLater();
    }
    area_->setWidget(row);
    area_->viewport()->setAutoFillBackground(false);
    area_->setFixedHeight(row->sizeHint().height());
    setVisible(!chips.empty());
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet(QString("#workStrip { background: %1; }").arg(tokens().saffronTint.name()));
}

} // namespace loom::app
