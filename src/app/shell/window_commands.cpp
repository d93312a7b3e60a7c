// What can be done in every stage: files, steps, looks.
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "program/ports.h"
#include <QFileDialog>
#include <QFileInfo>

namespace loom::app {

void MainWindow::addCommands() {
    const auto scale = [](int by) { return [by] { Theme::get().setPercent(Theme::get().percent() + by); }; };
    commands_.add({"find", "Find or do", [this] { find(); }, "Ctrl+K"});
    commands_.add({"undo", "Undo", [this] { session_.undo(); }, "Ctrl+Z"});
    commands_.add({"redo", "Redo", [this] { session_.redo(); }, "Ctrl+Shift+Z"});
    commands_.add({"new", "New project", [this] { newProject(); }, "Ctrl+N"});
    commands_.add({"open", "Open a project", [this] { openFile(); }, "Ctrl+O"});
    commands_.add(
        {"save", "Save", [this] { session_.path().isEmpty() ? saveFileAs() : void(session_.save()); }, "Ctrl+S"});
    commands_.add({"saveAs", "Save as another file", [this] { saveFileAs(); }, "Ctrl+Shift+S"});
    commands_.add({"findings", "Show findings", [this] { showFindings(); }, "Ctrl+J"});
    commands_.add({"theme", "Linen or Night", [] { Theme::get().setNight(!Theme::get().night()); }, "Ctrl+T"});
    commands_.add({"larger", "Larger text", scale(10), "Ctrl++ Ctrl+="}); // where + needs Shift
    commands_.add({"smaller", "Smaller text", scale(-10), "Ctrl+-"});
    commands_.add({"plain", "Text at 100 %", [] { Theme::get().setPercent(100); }, "Ctrl+Shift+0"});
}

void MainWindow::openFile() {
    if (!mayLeave())
        return;
    const QString file = QFileDialog::getOpenFileName(this, "Open a project", {}, "Nimble Loom (*.loom project.json)");
    if (!file.isEmpty())
        session_.open(file.endsWith("project.json") ? QFileInfo(file).path() : file);
}

// What it begins with is all that is asked; what the stage in view begins with comes first.
void MainWindow::newProject() {
    if (!mayLeave())
        return;
    std::vector<Findable> beginnings;
    for (const bool inView : {true, false})
        for (const auto& s : all_)
            if (s.begin && (&s == &stage()) == inView)
                s.begin(beginnings);
    offer(std::move(beginnings));
}

void MainWindow::saveFileAs() {
    const QString file = QFileDialog::getSaveFileName(this, "Save the project", {}, "Nimble Loom (*.loom)");
    if (!file.isEmpty())
        session_.saveAs(file.endsWith(".loom") ? file : file + ".loom");
}

} // namespace loom::app
