#include "app/weave/weave_page.h"
#include "app/shell/command.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include "app/weave/weave_view.h"
#include "app/weave/work_strip.h"
#include "engine/latency.h"
#include "program/load.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>

namespace loom::app {

WeavePage::WeavePage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), session_(session), weave_(new WeaveView(session, commands)),
      strip_(new WorkStrip(session, *weave_)), device_(new QLabel), load_(new QLabel),
      processor_(new QPushButton("Processor")), zoom_(new QPushButton), run_(new QPushButton) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(16, 8, 16, 0);
    head->addWidget(device_, 1);
    device_->setMinimumWidth(80); // the buttons beside it come first
    head->addWidget(processor_);
    head->addWidget(load_);
    head->addWidget(zoom_);
    head->addWidget(run_);
    box->addLayout(head);
    processor_->setObjectName("processor");
    processor_->setToolTip("Which of the project's processors is woven here");
    auto* processors = new QMenu(processor_);
    connect(processors, &QMenu::aboutToShow, this, [this, processors] {
        processors->clear();
        for (const auto& d : session_.project().devices)
            if (d.program)
                connect(processors->addAction(q(d.name)), &QAction::triggered, this,
                        [this, id = d.id] { session_.work(id); });
    });
    processor_->setMenu(processors);
    zoom_->setFocusPolicy(Qt::NoFocus);
    zoom_->setToolTip("Whole weave (0) or life size (1); + and \u2212 or Ctrl and the wheel zoom");
    connect(zoom_, &QPushButton::clicked, this, [this] {
        weave_->zoom() < 1 ? weave_->setZoom(1) : weave_->zoomToFit();
        weave_->setFocus();
    });
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(weave_);
    box->addWidget(scroll, 1);
    box->addWidget(strip_);
    connect(run_, &QPushButton::clicked, this, [&commands] { commands.run("bench.run"); });
    connect(strip_, &WorkStrip::wantsSilence, this, [&commands] { commands.run("bench.listen"); });
    connect(&session_, &Session::atWorkChanged, this, &WeavePage::refresh);
    connect(weave_, &WeaveView::zoomed, this, &WeavePage::refresh);
}

void WeavePage::refresh() {
    applyStyle(load_,
               QString("font-family: 'JetBrains Mono'; color: %1; padding-right: 12px").arg(tokens().ink2.name()));
    const bool running = session_.bench().running();
    run_->setText(session_.bench().preparing() ? "Getting ready\u2026" : running ? "Stop  F5" : "Run the bench  F5");
    run_->setProperty("main", !running);
    run_->style()->unpolish(run_);
    run_->style()->polish(run_);
    weave_->update();
    strip_->refresh();
    const auto* d = session_.device();
    zoom_->setVisible(d);
    if (!d) {
        device_->clear();
        load_->clear();
        return;
    }
    int ins = 0, outs = 0;
    for (const auto& b : d->program->blocks) {
        ins += engine::endOf(b) == engine::End::arrives;
        outs += engine::endOf(b) == engine::End::leaves;
    }
    const auto& devices = session_.project().devices;
    processor_->setVisible(
        std::count_if(devices.begin(), devices.end(), [](const auto& one) { return one.program.has_value(); }) > 1);
    device_->setText(QString("<b>%1</b> &nbsp; <span style='color:%2'>%3 kHz \u00b7 %4 in \u00b7 %5 out</span>")
                         .arg(q(d->name), tokens().ink2.name())
                         .arg(d->rate / 1000)
                         .arg(ins)
                         .arg(outs));
    load_->setText(loadText());
    zoom_->setText(QString("%1 %").arg(qRound(weave_->zoom() * 100)));
}

// What the program takes of its processor, and by how much the last change moved that.
QString WeavePage::loadText() {
    const auto& d = *session_.device();
    const auto load = project::loadOf(d);
    const double latency = 1000.0 * engine::longestLatency(*d.program, d.rate) / d.rate;
    if (load.work != now_.work || load.memory != now_.memory)
        before_ = std::exchange(now_, load);
    now_ = load;
    if (load.workBudget <= 0)
        return {};
    const auto percent = [](double used, double of) { return QString::number(100 * used / of, 'f', 0) + " %"; };
    const auto moved = [&](double from, double to, double of) {
        const double by = 100 * (to - from) / of;
        return from <= 0 || std::abs(by) < 0.05
                   ? QString()
                   : QString(" (%1%2)").arg(by > 0 ? "+" : QString(QChar(0x2212))).arg(std::abs(by), 0, 'f', 1);
    };
    const QString work = percent(load.work, load.workBudget) + moved(before_.work, now_.work, load.workBudget);
    const QString memory =
        percent(load.memory, load.memoryBudget) + moved(before_.memory, now_.memory, load.memoryBudget);
    QStringList dear;
    for (const auto& k : project::dearest(d, 5))
        dear << QString("%1 \u00d7 %2: %3")
                    .arg(k.count)
                    .arg(q(engine::findKind(k.kind)->label), percent(k.work, load.workBudget));
    load_->setToolTip(QString("What the program takes of its processor, and by how much the last change moved "
                              "it.\nInputs %1 of %2, outputs "
                              "%3 of %4, longest latency %5 ms.\nWhat takes most work:\n%6")
                          .arg(load.inputs)
                          .arg(load.inputPorts)
                          .arg(load.outputs)
                          .arg(load.outputPorts)
                          .arg(latency, 0, 'f', 1)
                          .arg(dear.join("\n")));
    return QString(Theme::get().percent() > 150 ? "%1  %2  %3 ms" // room for the button
                                                : "work %1   memory %2   latency %3 ms")
        .arg(work, memory)
        .arg(latency, 0, 'f', 1);
}

} // namespace loom::app
