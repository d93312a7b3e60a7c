#include "app/site/all_or_none.h"
#include <algorithm>

namespace loom::app {

using At = AllOrNone::Part::At;

AllOrNone::AllOrNone(QObject* parent) : QObject(parent) {
    soon_.setSingleShot(true);
    soon_.setInterval(50);
    connect(&soon_, &QTimer::timeout, this, &AllOrNone::changed);
}

void AllOrNone::changedSoon() {
    if (!soon_.isActive())
        soon_.start();
}

void AllOrNone::start(const QString& title, std::vector<Part> parts, Done done) {
    if (running_)
        return done("Something else is being done on the devices; wait for it, or cancel it.");
    title_ = title, trouble_.clear(), parts_ = std::move(parts), done_ = std::move(done);
    running_ = true, cancelled_ = false, ++run_;
    phase(false);
}

void AllOrNone::cancel() {
    if (!running_)
        return;
    cancelled_ = true;
    trouble_ = "Cancelled: every device is as it was.";
}

int AllOrNone::finished() const {
    return static_cast<int>(std::count_if(parts_.begin(), parts_.end(), [](const Part& p) {
        return p.at == At::committed || p.at == At::failed || p.at == At::undone;
    }));
}

void AllOrNone::phase(bool commit) {
    open_ = static_cast<int>(parts_.size());
    if (parts_.empty())
        return end();
    ask(0, commit);
}

// Some at a time, so that the window stays alive with hundreds of devices.
void AllOrNone::ask(std::size_t from, bool commit) {
    constexpr std::size_t atATime = 10;
    const std::size_t to = std::min(parts_.size(), from + atATime);
    if (to < parts_.size())
        QTimer::singleShot(0, this, [this, to, commit, run = run_] {
            if (run == run_ && running_)
                ask(to, commit);
        });
    for (std::size_t i = from; i < to; ++i) {
        auto& p = parts_[i];
        if (!commit && p.make && p.link)
            p.prepare = p.make();
        const auto what = commit ? p.commit : std::move(p.prepare);
        p.state = commit ? "takes it up" : "checks it", p.waits = true;
        if (what.method.empty() || !p.link) {
            answered(i, commit, p.link ? QString() : "The device is not paired any more.");
            continue;
        }
        whenGone(i, commit);
        p.link->call(what.method, what.params,
                     [self = QPointer(this), i, commit, run = run_](const auto& result, const QString& trouble) {
                         if (!self || self->run_ != run)
                             return;
                         if (commit && trouble.isEmpty() && !self->parts_[i].check.method.empty())
                             return self->readBack(i, result);
                         self->answered(i, commit, trouble);
                     });
    }
    changedSoon();
}

void AllOrNone::whenGone(std::size_t i, bool commit) {
    connect(parts_[i].link, &QObject::destroyed, this, [this, i, commit, run = run_] {
        // Later: whoever destroys it is in the midst of something.
        QTimer::singleShot(0, this, [this, i, commit, run] {
            if (run == run_ && running_)
                answered(i, commit, "The device is not paired any more.");
        });
    });
}

void AllOrNone::readBack(std::size_t i, const nlohmann::json& committed) {
    auto& p = parts_[i];
    p.state = "reads it back", p.at = At::committed;
    if (!p.link)
        return answered(i, true, "The device is not paired any more.");
    p.link->call(p.check.method, p.check.params,
                 [self = QPointer(this), i, committed, run = run_](const auto& read, const QString& trouble) {
                     if (!self || self->run_ != run)
                         return;
                     const QString wrong = trouble.isEmpty() ? self->parts_[i].verify(committed, read) : trouble;
                     if (!wrong.isEmpty() && self->parts_[i].link && !self->parts_[i].uncommit.method.empty())
                         self->parts_[i].link->call(self->parts_[i].uncommit.method, self->parts_[i].uncommit.params,
                                                    [](const auto&, const QString&) {});
                     self->answered(i, true, wrong);
                 });
    changedSoon();
}

void AllOrNone::answered(std::size_t i, bool commit, const QString& trouble) {
    auto& p = parts_[i];
    if (!std::exchange(p.waits, false))
        return; // it has answered already
    if (trouble.isEmpty()) {
        p.at = commit ? At::committed : At::prepared;
        p.state = commit ? "done" : "ready";
    } else {
        p.at = At::failed, p.state = trouble;
        if (trouble_.isEmpty() || cancelled_)
            trouble_ = p.name + ": " + trouble;
    }
    if (--open_ > 0)
        return changedSoon();
    if (!trouble_.isEmpty() || cancelled_ || commit)
        return end();
    phase(true);
}

void AllOrNone::end() {
    if (!trouble_.isEmpty())
        for (auto& p : parts_) {
            const Call& back = p.at == At::committed ? p.uncommit : p.unprepare;
            if ((p.at != At::committed && p.at != At::prepared) || !p.link)
                continue;
            p.at = At::undone, p.state = "as it was";
            if (!back.method.empty())
                p.link->call(back.method, back.params,
                             [](const auto&, const QString&) {}); // else it shows as differing
        }
    running_ = false;
    emit changed();
    const auto done = std::move(done_);
    done_ = nullptr;
    if (done)
        done(trouble_);
}

} // namespace loom::app
