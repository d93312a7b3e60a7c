// One step on several devices: all prepare it, then all do it; where one cannot, none has done it.
#pragma once
#include "client/device_session.h"

namespace loom::client {

class Transaction {
  public:
    // What is asked of one device. Each function calls `answered` exactly once; null: nothing is to be done.
    using Answered = std::function<void(site::Code code, const std::string& error)>; // "": it has done it
    using Ask = std::function<void(DeviceSession& session, Answered answered)>;
    struct Part {
        std::string device, name;
        DeviceSession::Watch session{};
        Ask prepare{}, unprepare{}, commit{}, uncommit{};
        enum class At { waits, asked, prepared, committed, failed, undone, unsure } at = At::waits;
        std::string error{}; // failed, unsure: why
    };
    // How it ended; always exactly once.
    struct Outcome {
        enum class How { done, refused, lost, cancelled } how = How::done;
        std::string device{}, name{}, reason{}; // the first that could not
        std::vector<std::string> unsure{};      // names of those that could not be told to go back
        explicit operator bool() const { return how == How::done; }
    };
    using Done = std::function<void(const Outcome&)>;

    explicit Transaction(Scheduler& here);
    // One at a time: while one runs, another is refused at once.
    void start(const std::string& title, std::vector<Part> parts, Done done);
    void cancel(); // what was done is undone
    bool running() const { return running_; }
    const std::string& title() const { return title_; }
    const std::vector<Part>& parts() const { return parts_; }
    int finished() const;          // parts that have got as far as they get
    std::function<void()> changed; // now and then: hundreds of devices answer at once

  private:
    enum class Phase { prepare, commit, undo };
    void begin(Phase phase);
    void askSome(std::size_t from);
    void ask(std::size_t i, const Ask& what);
    void answered(std::size_t i, site::Code code, const std::string& error);
    void settled(std::size_t i);
    void next();
    void end();
    void changedSoon();
    bool failed() const { return cancelled_ || outcome_.how != Outcome::How::done; }

    Scheduler& here_;
    std::string title_;
    std::vector<Part> parts_;
    Done done_;
    Outcome outcome_{};
    Phase phase_ = Phase::prepare;
    bool running_ = false, cancelled_ = false;
    std::size_t open_ = 0;       // parts that have not settled in this phase
    std::shared_ptr<int> run_{}; // answers of another run count for nothing
    Timer soon_;
};

// How far one part has got: "waits", "ready", "done", "as it was", or why not.
std::string inWords(const Transaction::Part& part);
// "Tern Tap: …", and what to know of those that are unsure; "" if it was done.
std::string inWords(const Transaction::Outcome& outcome);

// As a part's Ask: a message, made when its turn comes. `heard`: who wants to know what it answered.
template <class A, class B>
Transaction::Ask asking(const site::Message<A, B>& message, std::type_identity_t<A> ask = {},
                        std::function<void(const std::type_identity_t<B>&)> heard = {}) {
    return [message, ask = std::move(ask), heard = std::move(heard)](DeviceSession& session,
                                                                     Transaction::Answered answered) {
        session.call(message, ask, [answered = std::move(answered), heard](const Reply<B>& reply) {
            if (reply && heard)
                heard(*reply);
            reply ? answered({}, "") : answered(reply.code, reply.error.empty() ? "It refused." : reply.error);
        });
    };
}

} // namespace loom::client
