#include "client/transaction.h"
#include <algorithm>

namespace loom::client {

using At = Transaction::Part::At;
using How = Transaction::Outcome::How;
using site::Code;

namespace {
constexpr std::size_t atATime = 10; // in one turn, so that others have theirs with hundreds of devices
constexpr int soonMs = 50;
} // namespace

Transaction::Transaction(Scheduler& here)
    : here_(here), soon_(here, Timer::Mode::once, [this] {
          if (changed)
              changed();
      }) {}

void Transaction::changedSoon() {
    if (!soon_.active())
        soon_.start(soonMs);
}

void Transaction::start(const std::string& title, std::vector<Part> parts, Done done) {
    if (running_)
        return done(
            {How::refused, "", "", "Something else is being done on the devices; wait for it, or cancel it.", {}});
    title_ = title;
    parts_ = std::move(parts);
    done_ = std::move(done);
    outcome_ = {};
    running_ = true;
    cancelled_ = false;
    run_ = std::make_shared<int>();
    begin(Phase::prepare);
}

void Transaction::cancel() {
    if (!running_ || phase_ == Phase::undo)
        return;
    cancelled_ = true;
}

int Transaction::finished() const {
    return static_cast<int>(std::count_if(parts_.begin(), parts_.end(), [](const Part& p) {
        return p.at == At::committed || p.at == At::failed || p.at == At::undone || p.at == At::unsure;
    }));
}

void Transaction::begin(Phase phase) {
    phase_ = phase;
    open_ = parts_.size();
    if (parts_.empty())
        return next();
    askSome(0);
}

void Transaction::askSome(std::size_t from) {
    const std::size_t to = std::min(parts_.size(), from + atATime);
    if (to < parts_.size())
        here_.post([this, to, run = std::weak_ptr(run_), phase = phase_] {
            if (!run.expired() && phase == phase_)
                askSome(to);
        });
    changedSoon();
    const auto mine = std::weak_ptr(run_);
    for (std::size_t i = from; i < to; ++i) {
        auto& p = parts_[i];
        if (phase_ == Phase::undo) {
            const bool done = p.at == At::committed, ready = p.at == At::prepared;
            done || ready ? ask(i, done ? p.uncommit : p.unprepare) : settled(i);
        } else if (failed()) {
            settled(i); // nothing more is begun
        } else {
            ask(i, phase_ == Phase::prepare ? p.prepare : p.commit);
        }
        if (mine.expired()) // that was the last one, and it has ended
            return;
    }
}

void Transaction::ask(std::size_t i, const Ask& what) {
    auto* session = parts_[i].session.get();
    if (!session)
        return answered(i, Code::lost, "The device is not paired any more.");
    if (!what)
        return answered(i, {}, "");
    if (phase_ != Phase::undo)
        parts_[i].at = At::asked;
    const auto once = std::make_shared<bool>(false);
    what(*session, [this, i, once, run = std::weak_ptr(run_)](Code code, const std::string& error) {
        if (!run.expired() && !std::exchange(*once, true))
            answered(i, code, error);
    });
}

void Transaction::answered(std::size_t i, Code code, const std::string& error) {
    auto& p = parts_[i];
    if (phase_ == Phase::undo) {
        p.at = error.empty() ? At::undone : At::unsure;
        p.error = error;
    } else if (error.empty()) {
        p.at = phase_ == Phase::prepare ? At::prepared : At::committed;
    } else {
        // Whether one that went away in the midst of it did it is not known.
        p.at = phase_ == Phase::commit && code == Code::lost ? At::unsure : At::failed;
        p.error = error;
        if (outcome_.how == How::done)
            outcome_ = {code == Code::lost ? How::lost : How::refused, p.device, p.name, error, {}};
    }
    settled(i);
}

void Transaction::settled(std::size_t) {
    changedSoon();
    if (--open_ == 0)
        next();
}

void Transaction::next() {
    if (phase_ == Phase::undo || (phase_ == Phase::commit && !failed()))
        return end();
    if (!failed())
        return begin(Phase::commit);
    if (outcome_.how == How::done)
        outcome_.how = How::cancelled;
    begin(Phase::undo);
}

void Transaction::end() {
    for (auto& p : parts_)
        if (p.at == At::unsure)
            outcome_.unsure.push_back(p.name);
        else if (outcome_.how != How::done && (p.at == At::waits || p.at == At::asked))
            p.at = At::undone;
    running_ = false;
    run_.reset();
    if (changed)
        changed();
    const auto done = std::exchange(done_, nullptr);
    const auto outcome = outcome_;
    if (done)
        done(outcome);
}

std::string inWords(const Transaction::Part& part) {
    switch (part.at) {
    case At::waits:
        return "waits";
    case At::asked:
        return "is asked";
    case At::prepared:
        return "ready";
    case At::committed:
        return "done";
    case At::undone:
        return "as it was";
    case At::unsure:
        return "not known: " + part.error;
    case At::failed:
        break;
    }
    return part.error;
}

std::string inWords(const Transaction::Outcome& o) {
    std::string text;
    if (o.how == How::cancelled)
        text = "Cancelled.";
    else if (o.how != How::done)
        text = (o.name.empty() ? "" : o.name + ": ") + o.reason;
    if (!o.unsure.empty()) {
        text += " Nobody knows whether ";
        for (std::size_t i = 0; i < o.unsure.size() && i < 5; ++i)
            text += (i == 0 ? "" : ", ") + o.unsure[i];
        if (o.unsure.size() > 5)
            text += " and " + std::to_string(o.unsure.size() - 5) + " others";
        text += " did it: look at what differs once the line is back.";
    }
    return text;
}

} // namespace loom::client
