#include "app/talk/talk_state.h"
#include "app/text.h"
#include "client/fleet.h"
#include "rooms/owned_ports.h"
#include "site/event_log.h"
#include "talk/group.h"

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
      allPlanner_([this](std::optional<FirstPasses> passes) {
          pulse_.stop();
          passes_ = std::move(passes);
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
              return show(std::move(p));
          }
          emit changed();
      }),
      comparer_([this](Both both) {
          pulse_.stop();
          const auto taken = [&](const std::optional<Result<TalkProof>>& one) -> std::optional<Heard> {
              if (one && !*one)
                  session_.report(one->error());
              return one && *one ? std::optional(Heard{(*one)->figures, (*one)->sent}) : std::nullopt;
          };
          before_ = taken(both.first);
          after_ = taken(both.second);
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
        passes_.reset();
        space_ = {};
        refresh();
    });
    connect(&session, &Session::healthChanged, this, &TalkState::watchSite);
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
    passes_.reset(); // they are of the design as it was
    mixes_.reset();
    mutes_.reset();
    belongings_.reset();
    before_.reset();
    after_.reset();
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
        mixes_.reset();
        mutes_.reset();
        microphone_ = -1;
        microphones_.clear();
    }
    return space_;
}

void TalkState::choose(const std::string& key, const std::string& state) {
    for (const auto& c : choices())
        if (c.key == key && (state.empty() || c.state == state) && !(c == space_)) {
            space_ = c;
            talk_.reset();
            mixes_.reset();
            mutes_.reset();
            before_.reset();
            after_.reset();
            pass_.reset();
            microphone_ = -1;
            microphones_.clear();
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
    if (which == microphone_ && microphones_.size() <= 1)
        return;
    microphone_ = which;
    microphones_.clear();
    if (which >= 0)
        microphones_.insert(which);
    if (which >= 0) { // and its lane, where its processor is worked on
        const auto& m = talk().microphones[static_cast<std::size_t>(which)];
        if (session_.device() && session_.device()->id == m.input.device && !m.source.empty())
            session_.choose(q(m.source));
    }
    emit changed();
}

void TalkState::chooseMicrophones(std::set<int> which) {
    std::erase_if(which, [&](int m) { return m < 0 || m >= static_cast<int>(talk().microphones.size()); });
    if (!which.count(microphone_))
        microphone_ = which.empty() ? -1 : *which.rbegin();
    microphones_ = std::move(which);
    emit changed();
}

std::optional<SpaceOf> TalkState::here() {
    const auto s = spaceSaid(project(), space().key, space().state);
    return s && !space_.key.empty() ? std::optional(*s) : std::nullopt;
}

bool TalkState::edit(const Result<Edit>& edit) {
    if (!edit)
        return session_.report(edit.error()), false;
    return session_.edit(*edit);
}

void TalkState::group() {
    const auto s = here();
    if (!s)
        return;
    std::vector<std::string> devices;
    for (const int m : microphones_)
        devices.push_back(talk().microphones[static_cast<std::size_t>(m)].device);
    (void)edit(groupMicrophones(project(), *s, devices));
}

const Mixes& TalkState::mixes() {
    const auto s = here();
    if (!mixes_)
        mixes_ = s ? mixesOf(project(), *s) : Mixes{};
    return *mixes_;
}

const MuteBoard& TalkState::mutes() {
    const auto s = here();
    if (!mutes_)
        mutes_ = s ? muteBoardOf(project(), *s) : MuteBoard{};
    return *mutes_;
}

const std::vector<Belonging>& TalkState::belongings() {
    if (!belongings_)
        belongings_ = belongingsOf(project());
    return *belongings_;
}

// ---- as it is now ----

void TalkState::watchSite() {
    auto* fleet = session_.fleet();
    if (!fleet || fleet == fleet_)
        return;
    fleet_ = fleet;
    const auto look = [this] {
        muted_.clear();
        lines_.clear();
        const auto vitals = fleet_->vitals();
        for (const auto& s : site::muteStates(project(), vitals))
            muted_[{s.device, s.key == "cut" ? "cut " + s.space : s.key}] = s.muted;
        for (const auto& [device, v] : vitals)
            for (const auto& [port, how] : v.lines)
                lines_[{device, port}] = how;
        emit moved();
    };
    connect(fleet, &client::Fleet::memberChanged, this, look);
    look();
}

std::optional<bool> TalkState::mutedNow(const std::string& device, const std::string& key) const {
    // Of joined rooms a processor tells of each.
    std::optional<bool> told;
    for (const auto& room : key == "cut" ? roomsOfOwner(space_.key) : std::vector<std::string>{""})
        if (const auto it = muted_.find({device, key == "cut" ? "cut " + room : key}); it != muted_.end())
            told = told.value_or(true) && it->second;
    if (told)
        return told;
    if (key != "cut" || !session_.bench().running() || !session_.device() || session_.device()->id != device || !mutes_)
        return {};
    for (const auto& cut : mutes_->cuts)
        for (const auto& block : cut.blocks)
            if (cut.device == device)
                return session_.bench().triedValue(block, "muted").value_or(0) >= 0.5;
    return {};
}

std::optional<bool> TalkState::mutedNow() {
    std::optional<bool> all;
    for (const auto& place : mutes().places)
        if (const auto one = place.does == "off" ? std::nullopt : mutedNow(place.device, place.key)) {
            if (all && *all != *one)
                return {};
            all = one;
        }
    return all;
}

bool TalkState::disagree() {
    bool muted = false, live = false;
    for (const auto& place : mutes().places)
        if (const auto one = place.does == "off" ? std::nullopt : mutedNow(place.device, place.key))
            (*one ? muted : live) = true;
    return muted && live;
}

void TalkState::mute(bool muted) {
    watchSite();
    for (const auto& place : mutes().places)
        if (place.does != "off" && place.key.find(' ') != std::string::npos && onSite(place.device))
            return fleet_->mute(place.device, place.space, muted); // the others follow by themselves
    for (const auto& place : mutes().places)
        if (place.does != "off" && place.key == "self" && onSite(place.device))
            return fleet_->mute(place.device, place.space, muted);
    bool any = false;
    const auto* d = session_.device();
    for (const auto& cut : mutes().cuts)
        for (const auto& block : cut.blocks)
            if (d && cut.device == d->id && session_.bench().running()) {
                session_.bench().tryValue(block, "muted", muted ? 1 : 0);
                any = true;
            }
    if (!any)
        session_.report("Nothing runs that could be muted: start the bench with F5, or reach the devices at Site.");
    emit moved();
}

QString TalkState::lineNow(const std::string& device, const std::string& port) const {
    const auto it = lines_.find({device, port});
    return it == lines_.end() ? QString() : q(it->second);
}

bool TalkState::onSite(const std::string& device) const {
    const auto* m = fleet_ ? std::as_const(*fleet_).member(device) : nullptr;
    return m && m->link.up() && !m->locked;
}

const Conversation::FarEnd* TalkState::line() {
    for (const auto& f : talk().farEnds)
        if (f.by == Transport::telephone)
            return &f;
    return nullptr;
}

void TalkState::call(const std::string& does, const std::string& number) {
    watchSite();
    if (const auto* l = line(); l && fleet_)
        fleet_->call(l->device, l->port, does, number);
}

// ---- first pass ----

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

void TalkState::planAll() {
    pass_.reset();
    passes_.reset();
    *roomsDone_ = *roomsOf_ = 0;
    pulse_.start();
    allPlanner_.start(
        [p = project(), done = roomsDone_, of = roomsOf_](std::stop_token stop) -> std::optional<FirstPasses> {
            auto all = firstPassOfAll(
                p,
                [&](std::size_t i, std::size_t n) {
                    *done = i;
                    *of = n;
                },
                stop);
            return all ? std::optional(std::move(*all)) : std::nullopt;
        });
    emit changed();
}

QString TalkState::planned() const {
    return allPlanner_.busy() && *roomsOf_ > 0 ? QString("%1 of %2 rooms").arg(*roomsDone_ + 1).arg(*roomsOf_)
                                               : QString();
}

void TalkState::dropPlan() {
    planner_.stop();
    allPlanner_.stop();
    pulse_.stop();
    pass_.reset();
    passes_.reset();
    emit changed();
}

void TalkState::tick(const std::string& id, bool on) {
    on ? void(ticked_.insert(id)) : void(ticked_.erase(id));
    emit changed();
}

bool TalkState::take() {
    if (passes_ && passes_->proposals > 0) {
        const auto edit = editBetween(project(), passes_->after, "First pass of all rooms");
        passes_.reset();
        return session_.edit(edit);
    }
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

void TalkState::compare() {
    const auto s = here();
    if (!s || !pass_)
        return;
    const auto edit = takeFirstPass(*pass_, {ticked_.begin(), ticked_.end()});
    if (!edit)
        return session_.report("Nothing is ticked: there is nothing to compare with.");
    *progress_ = 0;
    pulse_.start();
    comparer_.start(
        [p = project(), key = space_.key, state = space_.state, edit, at = progress_](std::stop_token stop) -> Both {
            const auto speech = readSpeech(speechFolder());
            const auto now = spaceSaid(p, key, state);
            if (!speech || !now)
                return {Result<TalkProof>(speech ? now.error() : speech.error()), {}};
            Both both;
            both.first = proveTalk(
                p, *now, *speech, [at](double share) { *at = share / 2; }, stop);
            auto then = edit.make(p);
            const auto there = then ? spaceSaid(*then, key, state) : Result<SpaceOf>(then.error());
            both.second = there ? proveTalk(
                                      *then, *there, *speech, [at](double share) { *at = 0.5 + share / 2; }, stop)
                                : Result<TalkProof>(there.error());
            return both;
        });
    emit changed();
}

void TalkState::show(TalkProof proof) {
    proofs_[proof.space + "|" + proof.state] = std::move(proof);
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
