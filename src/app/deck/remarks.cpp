#include "app/deck/remarks.h"
#include "app/shell/ask.h"
#include "app/text.h"
#include "model/block_names.h"
#include "model/notes.h"
#include <QPainter>

namespace loom::app {
namespace {

const engine::Block* blockAt(Session& session, const QString& id) {
    return session.program() ? session.program()->find(id.toStdString()) : nullptr;
}

} // namespace

void askNote(QWidget* over, Session& session, const QString& block, const QString& param) {
    const auto* b = blockAt(session, block);
    if (!b)
        return;
    const QString name = q(project::blockName(*session.program(), *b));
    const auto text = askOne(
        over, "Note at " + name,
        {"For whoever works on it next; empty takes it away", q(project::noteOf(*b, param.toStdString()))}, true);
    if (text && blockAt(session, block))
        session.setProgram(
            project::withNote(*session.program(), block.toStdString(), param.toStdString(), text->toStdString()),
            "Note at " + name);
}

void flipProtection(QWidget* over, Session& session, const QString& block, const QString& param) {
    const auto* b = blockAt(session, block);
    if (!b)
        return;
    const QString name = q(project::blockName(*session.program(), *b));
    const auto keep = [&](const QString& reason, const QString& step) {
        session.setProgram(
            project::withProtection(*session.program(), block.toStdString(), param.toStdString(), reason.toStdString()),
            step + name);
    };
    const bool ownOne = !project::protectionOf(*b, param.toStdString()).empty() &&
                        (param.isEmpty() || b->marks.count("protect " + param.toStdString()));
    if (ownOne)
        return keep({}, "Take the protection off ");
    if (!param.isEmpty() && !project::protectionOf(*b, param.toStdString()).empty())
        return session.report("The whole block is protected: " + q(project::protectionOf(*b)) +
                              ". Take its protection off first.");
    const auto reason = askOne(over, "Protect " + name, {"Why it is to be left as it is"});
    if (reason && blockAt(session, block))
        keep(*reason, "Protect ");
}

QString remarksText(const engine::Block& block, const std::string& param) {
    QString text;
    if (const auto note = project::noteOf(block, param); !note.empty())
        text += "\nnote: " + q(note);
    if (const auto reason = project::protectionOf(block, param); !reason.empty())
        text += "\nprotected: " + q(reason);
    return text;
}

void paintLock(QPainter& p, const QPointF& at, double high, const QColor& colour) {
    const double wide = high * 0.8, body = high * 0.55;
    p.setPen(QPen(colour, high * 0.14));
    p.setBrush(Qt::NoBrush);
    p.drawArc(QRectF(at.x() - wide * 0.3, at.y() - high / 2, wide * 0.6, high * 0.8), 0, 180 * 16);
    p.setPen(Qt::NoPen);
    p.setBrush(colour);
    p.drawRoundedRect(QRectF(at.x() - wide / 2, at.y() + high / 2 - body, wide, body), high * 0.1, high * 0.1);
}

} // namespace loom::app
