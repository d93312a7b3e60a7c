// A question with a line or two to answer, in place: over what it is about, never in a window of its own.
#pragma once
#include <QStringList>
#include <optional>
#include <vector>

class QWidget;

namespace loom::app {

struct AskLine {
    QString label;
    QString text{};        // what stands in it
    QStringList choices{}; // a list to choose from; none: any text
    bool typed = true;     // with choices: something else may be typed as well
};

// Waits for the answer, a text for each line; none: it was left (Esc, or a press elsewhere). `over` is what it lies
// over; it gets the focus back.
std::optional<QStringList> ask(QWidget* over, const QString& title, const std::vector<AskLine>& lines);
// The same with one line; trimmed, and none where nothing was typed unless `mayBeEmpty`.
std::optional<QString> askOne(QWidget* over, const QString& title, const AskLine& line, bool mayBeEmpty = false);
// Where an answer stands among the choices it was taken from; 0 for one that does not.
std::size_t placeOf(const QStringList& choices, const QString& answer);
// One of several, by its place in the list; none: it was left.
std::optional<std::size_t> askChoice(QWidget* over, const QString& title, const QString& label,
                                     const QStringList& choices);
// Which of these is meant, by its number; none: it was left. The first is what Enter takes.
std::optional<int> askWhich(QWidget* over, const QString& title, const QString& text, const QStringList& answers);

} // namespace loom::app
