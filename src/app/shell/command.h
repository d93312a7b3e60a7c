// What can be done, declared once: find-or-do, menus, keys and the guide's tables read these declarations.
#pragma once
#include <QObject>
#include <QStringList>
#include <functional>
#include <vector>

class QMenu;
class QWidget;

namespace loom::app {

struct Command {
    QString id;                          // stable: "weave.remove"
    QString text;                        // as find-or-do lists it: "Remove what is chosen"
    std::function<void()> run;           //
    QStringList keys{};                  // as QKeySequence writes them
    std::vector<QWidget*> where{};       // the keys hold while one of these has the focus; none: in the whole window
    std::function<QString()> hindered{}; // why it cannot be done now, and what to do about it; empty: it can
    QString brief{};                     // what it is called in a menu at the chosen thing: "Remove"
    QString mouse{};                     // what the hand does instead, for the guide
    bool stays = false;                  // works without bringing its stage into view

    Command(QString called, QString said, std::function<void()> what)
        : id(std::move(called)), text(std::move(said)), run(std::move(what)) {}
    // The rest is said only where there is something to say. Keys are parted by blanks: "Del Backspace".
    Command& on(const QString& theKeys, std::vector<QWidget*> views = {}) {
        keys = theKeys.split(' ', Qt::SkipEmptyParts);
        where = std::move(views);
        return *this;
    }
    Command& unless(std::function<QString()> why) { return hindered = std::move(why), *this; }
    Command& inMenus(const QString& shorter) { return brief = shorter, *this; }
    Command& byMouse(const QString& how) { return mouse = how, *this; }
    Command& staying() { return stays = true, *this; }
};

// All commands of one window. GUI thread only.
class Commands : public QObject {
    Q_OBJECT
  public:
    explicit Commands(QWidget* window);
    // Ids are unique: a second one of the same id is a fault of the program and ends it. `before` is run first (the
    // stage comes into view).
    void add(Command command, std::function<void()> before = {});
    const std::vector<Command>& all() const { return commands_; }
    const Command* find(const QString& id) const;
    // False: there is no such command, or it is hindered; the reason is refused().
    bool run(const QString& id);
    // An entry of a menu, with its first key; grey with the reason where it is hindered. `text` replaces the brief
    // text.
    void addTo(QMenu& menu, const QString& id, const QString& text = {});

  signals:
    void refused(const QString& why);

  private:
    QWidget* window_;
    std::vector<Command> commands_;
};

// As people read it: "Ctrl+← Ctrl+→"; empty without keys.
QString keysText(const Command& command);

} // namespace loom::app
