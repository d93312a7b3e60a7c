// Notes and protections of blocks and values, as they are written and shown (model/notes.h).
#pragma once
#include "app/session.h"
#include <QWidget>

class QPainter;

namespace loom::app {

// Asks for the note at a value, or (param empty) at the block, and keeps it as a step.
void askNote(QWidget* over, Session& session, const QString& block, const QString& param = {});
// Asks why it is to be left as it is; where it is protected, takes the protection away.
void flipProtection(QWidget* over, Session& session, const QString& block, const QString& param = {});
// What stands in the tip: note and reason, each on a line of its own; "" where there is neither.
QString remarksText(const engine::Block& block, const std::string& param = {});
// A closed padlock about so many pixels high, its middle at `at`.
void paintLock(QPainter& p, const QPointF& at, double high, const QColor& colour);

} // namespace loom::app
