#include "app/bench/bench_control.h"
#include "app/text.h"
#include <QFileDialog>
#include <QStandardPaths>

namespace loom::app {

BenchControl::BenchControl(Session& session, QWidget* parent) : QObject(parent), session_(session), parent_(parent) {
    connect(&ticks_, &QTimer::timeout, this, &BenchControl::tick);
    ticks_.start(40);
}

void BenchControl::tick() {
    auto& bench = session_.bench();
    if (std::optional<Error> error; bench.poll(error))
        ready(error);
    for (const auto& news : bench.takeNews())
        session_.report(news.text, news.bad);
    if (!bench.running())
        return;
    bench.tend();
    emit beat();
}

void BenchControl::toggle() {
    auto& bench = session_.bench();
    if (bench.preparing())
        return;
    if (bench.running())
        bench.stop();
    else if (const auto* d = session_.device())
        bench.start(session_.project(), *d);
    emit changed();
}

// The bench got ready on its worker: what was changed meanwhile goes in now.
void BenchControl::ready(const std::optional<Error>& error) {
    if (error)
        session_.report(q(error->text()));
    else if (session_.program())
        session_.bench().follow(session_.project(), *session_.device(), {project::Change::Kind::program});
    emit changed();
}

void BenchControl::listen() {
    auto& bench = session_.bench();
    const auto port = bench.listening() ? std::nullopt : session_.chosenPort();
    if (!bench.listening() && !port)
        return session_.report("Choose a lane or a block first; Space listens there.");
    if (const QString error = bench.listen(port); !error.isEmpty())
        session_.report(error);
    emit changed();
}

void BenchControl::record() {
    auto& bench = session_.bench();
    if (!bench.recording()) {
        const auto port = session_.chosenPort();
        if (!bench.running() || !port)
            return session_.report("Start the bench (F5) and choose a lane; then F8 records it.");
        bench.record(*port);
        session_.report("Recording. F8 stops and saves.", false);
        return emit changed();
    }
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
    const QString file =
        QFileDialog::getSaveFileName(parent_, "Save the recording", folder + "/recording.wav", "WAV (*.wav)");
    if (file.isEmpty())
        return;
    auto done = bench.endRecording(file);
    session_.report(done ? QString("%1 s saved in %2").arg(*done, 0, 'f', 1).arg(file) : q(done.error().text()), !done);
    emit changed();
}

} // namespace loom::app
