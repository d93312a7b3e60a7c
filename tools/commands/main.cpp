// loom-commands: the guide's table of a stage's commands, from their declarations. Without a stage: those of the
// window.
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include <QApplication>
#include <cstdio>

using namespace loom::app;

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    Theme::loadFonts();
    MainWindow window;
    const QString stage = argc > 1 && *argv[1] ? QString(argv[1]) + "." : QString();
    std::printf("| command | mouse | keys |\n|---|---|---|\n");
    for (const auto& c : window.commands().all())
        if (stage.isEmpty() ? !c.id.contains('.') || c.id.startsWith("go.") : c.id.startsWith(stage))
            std::printf("| %s | %s | %s |\n", qPrintable(c.text), qPrintable(c.mouse),
                        qPrintable(keysText(c).replace("|", "\\|")));
    return 0;
}
