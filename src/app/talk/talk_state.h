// What the Talk stage looks at: a space, its conversation, what a first pass proposes, and what was proved.
#pragma once
#include "app/session.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "site/calls.h"
#include "talk/belongings.h"
#include "talk/first_pass.h"
#include "talk/mixes.h"
#include "talk/mute_board.h"
#include "talk/prove.h"
#endif
#include <atomic>
#include <set>

namespace loom::app {

class TalkState : public QObject {
    Q_OBJECT
  public:
    explicit TalkState(Session& session, QObject* parent = nullptr);
    Session& session() { return session_; }
    const project::Project& project() const { return session_.project(); }

    // -- the space --
    struct Choice {
        std::string key, state, name; // "tern+plover", a wall state's id, "Tern Room + Plover Room"
        bool operator==(const Choice&) const = default;
    };
    const std::vector<Choice>& choices(); // spaces with microphones or far ends
    const Choice& space();                // the chosen one; empty key: there is none
    void choose(const std::string& key, const std::string& state = "");
    bool chooseRoom(const std::string& room); // false: nobody talks there
    const project::Conversation& talk();
    int microphone() const { return microphone_; } // that is chosen; -1: none
    void chooseMicrophone(int which);
    // Several at once, to make a group of; the chosen one is among them.
    const std::set<int>& microphones() const { return microphones_; }
    void chooseMicrophones(std::set<int> which);
    void group(); // those that are chosen; reports what hinders it

    // -- who hears whom, what mutes together, whose is what; worked out when asked for --
    const project::Mixes& mixes();
    const project::MuteBoard& mutes();
    const std::vector<project::Belonging>& belongings();
    bool edit(const Result<project::Edit>& edit); // false: it cannot be, and why is told

    // -- as it is now: on site, else on the bench --
    std::optional<bool> mutedNow(const std::string& device, const std::string& key) const; // none: nobody tells
    std::optional<bool> mutedNow(); // of the space; none: nobody tells, or they disagree
    bool disagree();                // places of the space that tell
    void mute(bool muted);          // reports what hinders it
    QString lineNow(const std::string& device, const std::string& port) const; // how a line or computer is; "": unknown
    bool onSite(const std::string& device) const;                              // it is reached there
    // The telephone line of the space, for calls on site; null: it has none.
    const project::Conversation::FarEnd* line();
    void call(const std::string& does, const std::string& number = "");

    // -- first pass --
    bool planning() const { return planner_.busy() || allPlanner_.busy(); }
    const std::optional<project::FirstPass>& pass() const { return pass_; }
    void plan();    // works out what is proposed
    void planAll(); // for all rooms, one after another
    const std::optional<project::FirstPasses>& passes() const { return passes_; }
    QString planned() const; // "12 of 200 rooms", while that goes on
    void dropPlan();
    bool ticked(const std::string& id) const { return ticked_.count(id) > 0; }
    void tick(const std::string& id, bool on);
    std::size_t tickedCount() const { return ticked_.size(); }
    bool take(); // does those that are ticked; false: it cannot be, and why is told

    // -- what the far end gets --
    bool proving() const { return prover_.busy(); }
    double progress() const { return *progress_; }
    void prove();
    void stopProving() { prover_.stop(); }
    // What it gets now, and what it would get with the ticked proposals; both are run, the pass stays as it is.
    void compare();
    struct Heard {
        std::map<std::string, double> figures{};
        std::vector<float> sent{}; // to the far end, at 48 kHz
    };
    const std::optional<Heard>& before() const { return before_; }
    const std::optional<Heard>& after() const { return after_; }
    void show(project::TalkProof proof); // in place of what was shown of its space
    // Of the chosen space; null: none was made since the project was opened.
    const project::TalkProof* proof();
    const project::Proof* kept(); // in the project; null: none
    bool stale();                 // the design is another than it was proved on, as far as that is worked out

  signals:
    void changed(); // the space, its conversation, the pass or the proof
    void moved();   // progress, or how it is on site

  private:
    void refresh();
    Session& session_;
    bool known_ = false;
    std::vector<Choice> choices_{};
    Choice space_{};
    std::optional<project::Conversation> talk_{};
    void designMoved();
    std::optional<std::string> sum_{};
    bool summing_ = false;
    int microphone_ = -1;
    std::set<int> microphones_{};
    std::optional<project::Mixes> mixes_{};
    std::optional<project::MuteBoard> mutes_{};
    std::optional<std::vector<project::Belonging>> belongings_{};
    std::optional<project::SpaceOf> here();
    void watchSite(); // once there are devices
    client::Fleet* fleet_ = nullptr;
    std::map<std::pair<std::string, std::string>, bool> muted_{};        // on site, by device and place
    std::map<std::pair<std::string, std::string>, std::string> lines_{}; // by device and port
    std::optional<Heard> before_{}, after_{};
    std::optional<project::FirstPass> pass_{};
    std::optional<project::FirstPasses> passes_{};
    std::shared_ptr<std::atomic<std::size_t>> roomsDone_ = std::make_shared<std::atomic<std::size_t>>(0);
    std::shared_ptr<std::atomic<std::size_t>> roomsOf_ = std::make_shared<std::atomic<std::size_t>>(0);
    std::set<std::string> ticked_{};
    std::map<std::string, project::TalkProof> proofs_{}; // by key and state
    struct Proved {
        std::optional<Result<project::TalkProof>> proof{};
        std::string sum{}; // of the design it was made on, which may have moved on meanwhile
    };
    std::shared_ptr<std::atomic<double>> progress_ = std::make_shared<std::atomic<double>>(0);
    QTimer pulse_;
    Worker<std::optional<project::FirstPass>> planner_;
    Worker<std::optional<project::FirstPasses>> allPlanner_;
    Worker<Proved> prover_;
    using Both = std::pair<std::optional<Result<project::TalkProof>>, std::optional<Result<project::TalkProof>>>;
    Worker<Both> comparer_;

  public:
    bool comparing() const { return comparer_.busy(); }
    void stopComparing() { comparer_.stop(); }

  private:
    Worker<std::string> summer_; // of the design as it is: takes long in a large project
};

} // namespace loom::app
