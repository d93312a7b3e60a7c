// What the Rules stage looks at: what can happen, the rules that it wakes, one of their lines, a scene; and the
// rehearsal.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "rules/occasions.h"
#include "rules/rehearsal.h"
#include "rules/rule_edit.h"
#include "rules/scene_figures.h"
#endif
#include <QTimer>

namespace loom::app {

// A line of a rule.
struct RuleLineAt {
    project::RulePart part{};
    int at = -1; // -1: the rule itself
    bool operator==(const RuleLineAt&) const = default;
};

class RulesState : public QObject {
    Q_OBJECT
  public:
    using Line = RuleLineAt;
    explicit RulesState(Session& session, QObject* parent = nullptr);
    Session& session() { return session_; }
    void setSeen(bool seen); // nothing is worked out while nobody looks
    const project::Project& project() const { return session_.project(); }
    bool edit(const project::Edit& edit); // false: it cannot be, and why is told
    bool edit(const Result<project::Edit>& edit);

    // -- what is looked at --
    const std::string& room() const { return room_; } // "": all
    void chooseRoom(const std::string& room);
    const std::optional<project::Occasion>& occasion() const { return occasion_; } // none: all rules
    void chooseOccasion(const std::optional<project::Occasion>& occasion);
    std::vector<const project::Rule*> rules() const; // those, from top to bottom
    int rulesHere() const;                           // of the room, whatever wakes them
    const project::Rule* rule() const;               // the chosen one; null: there is none
    const Line& line() const { return line_; }
    const std::string& gap() const { return gap_; } // of the chosen line; "": the line
    void choose(const std::string& rule, Line line = {}, const std::string& gap = "");
    const project::Clause* clause() const; // the chosen line's; null: none
    std::vector<const project::Scene*> scenes() const;
    const project::Scene* scene() const;
    void chooseScene(const std::string& id);
    const std::optional<project::SceneFigures>& figures() const { return figures_; } // of the chosen scene

    // -- edits --
    bool addRule(const QString& name);
    bool addLine(const QString& typed); // to the chosen rule; a new one is made where there is none
    bool fill(const std::string& gap, const QString& typed);
    void moveLine(int by);
    void removeLine(); // or the rule, where no line is chosen
    void keepScene(const QString& name, const std::vector<std::string>& paths);

    // -- rehearsal --
    const project::Rehearsal* rehearsal() const { return rehearsal_.get(); } // null: none was begun
    void begin(const QString& moment);                                       // anew; reports
    void drop();
    bool playing() const { return timer_.isActive(); }
    void play(double times);
    void pause();
    void toEnd();
    bool happen(const QString& typed); // "Tern | Plover wall open", now
    void goTo(project::Millis at);     // forward
    void keepTest(const QString& name);
    project::Millis end() const; // of the day that is rehearsed
    QString nowText() const;     // "18:42"
    QString timeText(project::Millis at) const;
    struct Tests {
        int hold = 0, fail = 0;
        QString first{}; // what fails
    };
    const std::optional<Tests>& tests() const { return tests_; }
    void runTests();

  signals:
    void changed();
    void chosenChanged();
    void rehearsed();
    void testsDone();

  private:
    void refresh();
    void rehearseAgain();
    void heard();
    Session& session_;
    bool seen_ = false, stale_ = true;
    std::string room_, rule_, gap_, scene_;
    std::optional<project::Occasion> occasion_{};
    Line line_{};
    std::optional<project::SceneFigures> figures_{};
    std::unique_ptr<project::Rehearsal> rehearsal_{};
    QTimer timer_;
    double times_ = 60, owed_ = 0; // ms that are not gone yet
    std::optional<Tests> tests_{};
    Worker<std::optional<project::SceneFigures>> figurer_;
    Worker<std::unique_ptr<project::Rehearsal>> replayer_;
    Worker<Tests> tester_;
};

} // namespace loom::app
