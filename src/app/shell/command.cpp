#include "app/shell/command.h"
#include <QMenu>
#include <QShortcut>

namespace loom::app {

Commands::Commands(QWidget* window) : QObject(window), window_(window) {}

void Commands::add(Command command, std::function<void()> before) {
    if (find(command.id) || !command.run)
        qFatal("command %s is declared twice, or does nothing", qPrintable(command.id));
    if (before && !command.stays)
        command.run = [before = std::move(before), run = std::move(command.run)] {
            before();
            run();
        };
    for (const auto& key : command.keys)
        for (QWidget* where : command.where.empty() ? std::vector<QWidget*>{window_} : command.where) {
            auto* shortcut = new QShortcut(QKeySequence(key), where);
            shortcut->setContext(command.where.empty() ? Qt::WindowShortcut : Qt::WidgetShortcut);
            connect(shortcut, &QShortcut::activated, this, [this, id = command.id] { run(id); });
        }
    commands_.push_back(std::move(command));
}

const Command* Commands::find(const QString& id) const {
    const auto it = std::find_if(commands_.begin(), commands_.end(), [&](const auto& c) { return c.id == id; });
    return it == commands_.end() ? nullptr : &*it;
}

bool Commands::run(const QString& id) {
    const auto* command = find(id);
    if (!command)
        return false;
    if (const QString why = command->hindered ? command->hindered() : QString(); !why.isEmpty()) {
        emit refused(why);
        return false;
    }
    command->run();
    return true;
}

void Commands::addTo(QMenu& menu, const QString& id, const QString& text) {
    const auto* command = find(id);
    if (!command)
        qFatal("a menu asks for command %s, which nobody declares", qPrintable(id));
    const QString key = keysText(*command).section(' ', 0, 0);
    const QString words = !text.isEmpty() ? text : command->brief.isEmpty() ? command->text : command->brief;
    auto* action = menu.addAction(key.isEmpty() ? words : words + "\t" + key);
    const QString why = command->hindered ? command->hindered() : QString();
    action->setEnabled(why.isEmpty());
    action->setToolTip(why);
    menu.setToolTipsVisible(true);
    connect(action, &QAction::triggered, this, [this, id] { run(id); });
}

QString keysText(const Command& command) {
    QStringList keys;
    for (QString key : command.keys) {
        const std::pair<const char*, const char*> arrows[] = {
            {"Left", "\u2190"}, {"Right", "\u2192"}, {"Up", "\u2191"}, {"Down", "\u2193"}};
        for (const auto& [name, arrow] : arrows)
            if (key.endsWith(name))
                key.replace(name, QString::fromUtf8(arrow));
        keys << key.replace("Return", "Enter");
    }
    keys.removeDuplicates();
    return keys.join(' ');
}

} // namespace loom::app
