// A stage of the work is one declaration: a function of the window that makes its page and says everything the window
// needs of it. A file src/app/FOLDER/NAME_stage.cpp with `Stage NAME_stage(MainWindow&)` is all it takes; CMake makes
// the list.
#pragma once
#include "app/shell/command.h"
#include <QColor>
#include <QPointF>
#include <optional>

class QPainter;

namespace loom::app {

class MainWindow;
struct Findable;

// Where something is dealt with. Ids; what is not known is empty.
struct Target {
    QString stage{}; // the name of the stage that is asked first
    std::string device{}, block{}, room{};
};

struct StateWord { // for the top bar
    QString text;
    QColor dot;
};

struct Stage {
    QString id, name;                                    // "weave", "Weave"; findings name it
    int order = 0;                                       // in the work, 1 to 10: its key is Ctrl and the last digit
    std::function<void(QPainter&, QPointF centre)> icon; // within 12 px at 100 % of the centre; the pen is set
    QWidget* page = nullptr;                             // the window owns it
    QWidget* deck = nullptr;                             // the lower part; null: the page has its own
    std::function<void()> focus;                         // to what is worked with first
    std::vector<Command> commands{};
    std::function<void(std::vector<Findable>&)> find{};  // what find-or-do finds in it
    std::function<void(std::vector<Findable>&)> begin{}; // what a new project can begin with in it
    std::function<QString()> empty{};                    // what is missing while there is nothing in it; else empty
    QStringList firstSteps{};                            // commands that an empty page offers as buttons
    std::function<bool(const Target&)> show{};           // brings a place into view; false: it is not here
    std::function<void()> shown{};                       // it came into view
    std::function<void()> beat{};                        // in view while sound runs, 25 times a second
    std::function<std::optional<StateWord>()> state{};   // what it has to say of the whole; the last stage's word holds
    std::function<std::string()> room{};                 // the room it is in
};

using StageMaker = std::function<Stage(MainWindow&)>;
// All makers, in no order. A test adds its own before it makes a window.
std::vector<StageMaker>& stageMakers();

} // namespace loom::app
