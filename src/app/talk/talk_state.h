// What the Talk stage looks at: a space, its conversation, what a first pass proposes, and what was proved.
#pragma once
#include "app/session.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "talk/first_pass.h"
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

    // -- first pass --
    bool planning() const { return planner_.busy(); }
    const std::optional<project::FirstPass>& pass() const { return pass_; }
    void plan(); // works out what is proposed
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
    // Of the chosen space; null: none was made since the project was opened.
    const project::TalkProof* proof();
    const project::Proof* kept(); // in the project; null: none
    bool stale();                 // the design is another than it was proved on, as far as that is worked out

  signals:
    void changed(); // the space, its conversation, the pass or the proof
    void moved();   // progress

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
    std::optional<project::FirstPass> pass_{};
    std::set<std::string> ticked_{};
    std::map<std::string, project::TalkProof> proofs_{}; // by key and state
    struct Proved {
        std::optional<Result<project::TalkProof>> proof{};
        std::string sum{}; // of the design it was made on, which may have moved on meanwhile
    };
    std::shared_ptr<std::atomic<double>> progress_ = std::make_shared<std::atomic<double>>(0);
    QTimer pulse_;
    Worker<std::optional<project::FirstPass>> planner_;
    Worker<Proved> prover_;
    Worker<std::string> summer_; // of the design as it is: takes long in a large project
};

} // namespace loom::app
