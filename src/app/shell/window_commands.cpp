// What can be done in every stage: files, steps, looks.
#include "app/demo.h"
#include "app/shell/finder.h"
#include "app/shell/guard_bar.h"
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "program/ports.h"
#include <QFileDialog>
#include <QFileInfo>

namespace loom::app {

void MainWindow::addCommands() {
    const auto scale = [](int by) { return [by] { Theme::get().setPercent(Theme::get().percent() + by); }; };
    commands_.add(Command("find", "Find or do", [this] { find(); }).on("Ctrl+K"));
    commands_.add(Command("undo", "Undo", [this] { session_.undo(); }).on("Ctrl+Z"));
    commands_.add(Command("redo", "Redo", [this] { session_.redo(); }).on("Ctrl+Shift+Z"));
    commands_.add(Command("anyway", "Change what is protected all the same", [this] { guard_->changeAnyway(); })
                      .on("Alt+Return")
                      .unless([this] {
                          return guard_->isVisible() ? QString() : QString("Nothing protected is about to be changed.");
                      })
                      .byMouse("Change it all the same"));
    commands_.add(Command("new", "New project", [this] { newProject(); }).on("Ctrl+N"));
    commands_.add(Command("open", "Open a project", [this] { openFile(); }).on("Ctrl+O"));
    commands_.add(Command("demo", "Open the demo, a library with six rooms", [this] {
        if (mayLeave())
            session_.open(demoCopy());
    }));
    commands_.add(Command("save", "Save", [this] {
                      session_.path().isEmpty() ? saveFileAs() : void(session_.save());
                  }).on("Ctrl+S"));
    commands_.add(Command("saveAs", "Save as another file", [this] { saveFileAs(); }).on("Ctrl+Shift+S"));
    commands_.add(Command("findings", "Show findings", [this] { showFindings(); }).on("Ctrl+J"));
    commands_.add(
        Command("theme", "Linen or Night", [] { Theme::get().setNight(!Theme::get().night()); }).on("Ctrl+T"));
    commands_.add(Command("larger", "Larger text", scale(10)).on("Ctrl++ Ctrl+=")); // where + needs Shift
    commands_.add(Command("smaller", "Smaller text", scale(-10)).on("Ctrl+-"));
    commands_.add(Command("plain", "Text at 100 %", [] { Theme::get().setPercent(100); }).on("Ctrl+Shift+0"));
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
