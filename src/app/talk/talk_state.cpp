#include "app/talk/talk_state.h"
#include "app/text.h"
#include "site/event_log.h"

namespace loom::app {

using namespace project;

TalkState::TalkState(Session& session, QObject* parent)
    : QObject(parent), session_(session), planner_([this](std::optional<FirstPass> pass) {
          pass_ = std::move(pass);
          ticked_.clear();
          if (pass_)
              for (const auto& one : pass_->proposals)
                  if (!one.byHand)
                      ticked_.insert(one.id);
          emit changed();
      }),
      prover_([this](Proved proved) {
          pulse_.stop();
          if (proved.proof && !*proved.proof)
              session_.report(proved.proof->error());
          if (proved.proof && *proved.proof) {
              auto& p = **proved.proof;
              const auto record = p.kept(site::utcNow(), proved.sum);
              (void)session_.note({"Keep a proof of " + p.space, [record](Project now) -> Result<Project> {
                                       erase_if(now.proofs, [&](const Proof& one) {
                                           return one.kind == record.kind && one.space == record.space &&
                                                  one.state == record.state;
                                       });
                                       now.proofs.push_back(record);
                                       return now;
                                   }});
              proofs_[p.space + "|" + p.state] = std::move(p);
          }
          emit changed();
      }),
      summer_([this](std::string sum) {
          summing_ = false;
          sum_ = std::move(sum);
          emit moved();
      }) {
    connect(&session, &Session::changed, this, [this](const Change& change) {
        if (change.kind != Change::Kind::value)
            return refresh();
        designMoved(); // who talks to whom does not depend on values
        emit changed();
    });
    connect(&session, &Session::opened, this, [this] {
        proofs_.clear();
        pass_.reset();
        space_ = {};
        refresh();
    });
    pulse_.setInterval(200);
    connect(&pulse_, &QTimer::timeout, this, &TalkState::moved);
}

void TalkState::refresh() {
    known_ = false;
    talk_.reset();
    designMoved();
    emit changed();
}

void TalkState::designMoved() {
    sum_.reset();
    summing_ = false;
}

const std::vector<TalkState::Choice>& TalkState::choices() {
    if (std::exchange(known_, true))
        return choices_;
    choices_.clear();
    for (const auto& s : spacesThatTalk(project()))
        choices_.push_back({s.key(), s.state ? s.state->id : "", s.space.name});
    return choices_;
}

const TalkState::Choice& TalkState::space() {
    const auto& all = choices();
    if (std::find(all.begin(), all.end(), space_) == all.end()) {
        space_ = all.empty() ? Choice{} : all.front();
        talk_.reset();
        microphone_ = -1;
    }
    return space_;
}

void TalkState::choose(const std::string& key, const std::string& state) {
    for (const auto& c : choices())
        if (c.key == key && (state.empty() || c.state == state) && !(c == space_)) {
            space_ = c;
            talk_.reset();
            pass_.reset();
            microphone_ = -1;
            return emit changed();
        }
}

bool TalkState::chooseRoom(const std::string& room) {
    for (const auto& c : choices())
        if (c.key == room)
            return choose(room), true;
    return false;
}

const Conversation& TalkState::talk() {
    const auto here = space(); // may forget what was known
    if (!talk_ || talk_->space != here.key) {
        const auto s = spaceSaid(project(), here.key, here.state);
        talk_ = s && !here.key.empty() ? conversationOf(project(), *s) : Conversation{};
    }
    return *talk_;
}

void TalkState::chooseMicrophone(int which) {
    const int n = static_cast<int>(talk().microphones.size());
    which = std::clamp(which, -1, n - 1);
    if (which == microphone_)
        return;
    microphone_ = which;
    if (which >= 0) { // and its lane, where its processor is worked on
        const auto& m = talk().microphones[static_cast<std::size_t>(which)];
        if (session_.device() && session_.device()->id == m.input.device && !m.source.empty())
            session_.choose(q(m.source));
    }
    emit changed();
}

void TalkState::plan() {
    const auto s = spaceSaid(project(), space().key, space().state);
    if (!s)
        return session_.report(s.error());
    planner_.start([p = project(), key = space_.key, state = space_.state](std::stop_token stop) {
        const auto here = spaceSaid(p, key, state);
        return here ? std::optional(firstPassOf(p, *here, stop)) : std::nullopt;
    });
    emit changed();
}

void TalkState::dropPlan() {
    planner_.stop();
    pass_.reset();
    emit changed();
}

void TalkState::tick(const std::string& id, bool on) {
    on ? void(ticked_.insert(id)) : void(ticked_.erase(id));
    emit changed();
}

bool TalkState::take() {
    if (!pass_ || ticked_.empty())
        return false;
    const auto edit = takeFirstPass(*pass_, {ticked_.begin(), ticked_.end()});
    if (!session_.edit(edit))
        return false;
    plan(); // what is left
    return true;
}

void TalkState::prove() {
    if (space().key.empty())
        return session_.report("There is no room in which anybody talks.");
    *progress_ = 0;
    pulse_.start();
    prover_.start(
        [p = project(), key = space_.key, state = space_.state, at = progress_](std::stop_token stop) -> Proved {
            const auto here = spaceSaid(p, key, state);
            if (!here)
                return {here.error(), ""};
            const auto speech = readSpeech(speechFolder());
            if (!speech)
                return {speech.error(), ""};
            return {proveTalk(
                        p, *here, *speech, [at](double share) { *at = share; }, stop),
                    designSum(p)};
        });
    emit changed();
}

const TalkProof* TalkState::proof() {
    const auto it = proofs_.find(talk().space + "|" + talk().state);
    return it == proofs_.end() ? nullptr : &it->second;
}

const Proof* TalkState::kept() {
    for (const auto& one : project().proofs)
        if (one.kind == "talk" && one.space == talk().space && one.state == talk().state)
            return &one;
    return nullptr;
}

bool TalkState::stale() {
    const auto* record = kept();
    if (!record)
        return false;
    if (!sum_ && !std::exchange(summing_, true))
        summer_.start([p = project()](std::stop_token) { return designSum(p); });
    return sum_ && record->design != *sum_;
}

} // namespace loom::app
