#include "app/ear_out.h"
#include <QAudioFormat>
#include <QAudioSink>
#include <QMediaDevices>

namespace loom::app {

struct EarOut::Sink {
    std::unique_ptr<QAudioSink> sink;
    QIODevice* out = nullptr;
};

EarOut::EarOut() = default;
EarOut::~EarOut() = default;

QString EarOut::open(double rate) {
    if (sink_)
        return {};
    const auto device = QMediaDevices::defaultAudioOutput();
    if (device.isNull())
        return "This computer has no audio output: meters and recordings go on without it.";
    QAudioFormat format;
    format.setSampleRate(static_cast<int>(rate));
    format.setChannelCount(1);
    format.setSampleFormat(QAudioFormat::Float);
    sink_ = std::make_unique<Sink>();
    sink_->sink = std::make_unique<QAudioSink>(device, format);
    sink_->sink->setBufferSize(static_cast<qsizetype>(rate * 0.12) * static_cast<qsizetype>(sizeof(float)));
    sink_->out = sink_->sink->start();
    return {};
}

void EarOut::close() {
    sink_.reset();
}

std::size_t EarOut::room() const {
    return sink_ && sink_->out ? static_cast<std::size_t>(sink_->sink->bytesFree()) / sizeof(float) : 0;
}

void EarOut::write(std::span<const float> samples) {
    if (sink_ && sink_->out)
        sink_->out->write(reinterpret_cast<const char*>(samples.data()),
                          static_cast<qint64>(samples.size()) * static_cast<qint64>(sizeof(float)));
}

} // namespace loom::app
