#include "engine/runner.h"
#include <algorithm>

namespace loom::engine {

Runner::Runner(double rate, Resources resources) : rate_(rate), resources_(std::move(resources)) {
    for (int i = 0; i < probeCount; ++i)
        probeRings_.push_back(std::make_unique<Ring<float>>(1 << 15));
}

Runner::~Runner() = default;

Result<Done> Runner::load(const Program& program) {
    tend();
    auto schedule = compile(program, rate_, resources_, current_.get());
    if (!schedule)
        return schedule.error();
    const Schedule* previous = current_.get();
    if (previous)
        retiring_.push_back(std::move(current_));
    current_ = std::move(*schedule);
    send({Message::Kind::swap, current_.get()});
    if (previous)
        sendChanges(program, *previous);
    program_ = program;
    for (int i = 0; i < probeCount; ++i)
        sendProbe(i);
    return Done{};
}

void Runner::sendChanges(const Program& to, const Schedule& previous) {
    std::size_t walk = 0;
    for (std::size_t i = 0; i < to.blocks.size(); ++i) {
        const Block& b = to.blocks[i];
        const int number = previous.numberOf(b.id, walk);
        if (number < 0)
            continue;
        const Block& old = program_.blocks[static_cast<std::size_t>(number)];
        if (!findKind(b.kind) || old.kind != b.kind || old.values == b.values)
            continue;
        const BlockView now(b), was(old);
        if (now.shape != was.shape)
            continue;
        for (std::size_t v = 0; v < now.values.size(); ++v)
            if (now.values[v] != was.values[v])
                send({Message::Kind::set, nullptr, current_->kernel(b.id).get(), static_cast<int>(v), now.values[v]});
    }
}

Result<Done> Runner::set(const std::string& block, const std::string& param, double value) {
    Block* b = program_.find(block);
    const BlockKind* kind = b ? findKind(b->kind) : nullptr;
    if (!kind || !current_)
        return Error{"no such block runs", block, "Load the program first."};
    const ParamTable& table = paramTable(*kind, fullShape(*kind, *b));
    const int i = table.indexOf(param);
    if (i < 0 || !std::isfinite(value))
        return Error{i < 0 ? "no such parameter" : "not a number", block + "." + param,
                     "loomctl blocks " + b->kind + " lists its parameters."};
    const auto& spec = table.specs()[i];
    value = std::clamp(value, spec.min, spec.max);
    b->values[param] = value;
    send({Message::Kind::set, nullptr, current_->kernel(block).get(), i, value});
    return Done{};
}

void Runner::send(const Message& m) {
    waiting_.push_back(m);
    flush();
}

void Runner::flush() {
    if (together_ > 0)
        return;
    if (inbox_.pushAll(waiting_))
        return waiting_.clear();
    while (!waiting_.empty() && inbox_.push(waiting_.front()))
        waiting_.pop_front();
}

void Runner::tend() {
    flush();
    Schedule* done = nullptr;
    while (outbox_.pop(done))
        std::erase_if(retiring_, [done](const auto& p) { return p.get() == done; });
}

MeterReading Runner::meter(const PortRef& port) const {
    return current_ ? current_->meter(current_->bufferOf(port)) : MeterReading{};
}

void Runner::probe(int slot, std::optional<PortRef> port) {
    taps_.at(slot) = std::move(port);
    sendProbe(slot);
}

void Runner::sendProbe(int slot) {
    if (!current_)
        return;
    const int buffer = taps_[slot] ? current_->bufferOf(*taps_[slot]) : 0;
    send({Message::Kind::probe, nullptr, nullptr, slot, static_cast<double>(std::max(buffer, 0))});
}

std::size_t Runner::readProbe(int slot, std::span<float> to) {
    std::size_t n = 0;
    while (n < to.size() && probeRings_.at(slot)->pop(to[n]))
        ++n;
    return n;
}

bool Runner::process(const PortIo& io, int frames) noexcept {
    Message m;
    while (outbox_.room() > 0 && inbox_.pop(m)) { // else the rest waits until tend() has made room
        switch (m.kind) {
        case Message::Kind::swap:
            if (running_) {
                running_->release();
                outbox_.push(running_);
            }
            running_ = m.schedule;
            probed_.fill(0); // buffers lie elsewhere now; the taps follow as messages
            break;
        case Message::Kind::set:
            if (running_)
                running_->wake(m.kernel);
            m.kernel->set(m.index, m.value);
            break;
        case Message::Kind::probe:
            probed_[m.index] = static_cast<int>(m.value);
            break;
        }
    }
    if (!running_)
        return false;
    running_->process(io, frames);
    for (int t = 0; t < probeCount; ++t) {
        if (probed_[t] <= 0)
            continue;
        float x[maxFrame];
        running_->read(probed_[t], x, frames);
        for (int i = 0; i < frames; ++i)
            probeRings_[t]->push(x[i]);
    }
    return true;
}

} // namespace loom::engine
