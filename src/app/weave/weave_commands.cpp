// What can be done to what is chosen in Weave.
#include "app/deck/remarks.h"
#include "app/shell/ask.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/insert_field.h"
#include "app/weave/weave_view.h"
#include "model/block_names.h"
#include "program/lane_edit.h"
#include "program/links.h"
#include "program/phrase.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include <QClipboard>
#include <QGuiApplication>

namespace loom::app {

QString WeaveView::nameOf(const std::string& id) const {
    const auto* b = session_.program() ? session_.program()->find(id) : nullptr;
    return b ? q(project::blockName(*session_.program(), *b)) : q(id);
}

// The chosen lanes that are ends.
std::vector<std::string> WeaveView::chosenEnds() const {
    std::vector<std::string> ends;
    for (const auto& id : session_.laneIds())
        if (const auto* lane = layout_.laneOf(id); lane && lane->isEnd(id))
            ends.push_back(id);
    return ends;
}

// The chosen bead and its counterparts, or the lanes; on all that are chosen or linked.
std::vector<std::string> WeaveView::actedOn() const {
    auto all = session_.reachedLanes();
    if (session_.block().isEmpty())
        return all;
    const std::string own = session_.block().toStdString();
    all = project::counterparts(layout_, *session_.program(), all, own);
    all.insert(all.begin(), own);
    return all;
}

// All sources, or all destinations if the chosen lane is one.
void WeaveView::chooseAll() {
    const auto* chosen = layout_.laneOf(session_.lane().toStdString());
    QStringList lanes;
    for (const auto& l : layout_.lanes)
        if (l.kind == (chosen ? chosen->kind : engine::Layout::Kind::source))
            lanes << q(l.end);
    session_.chooseLanes(lanes);
}

void WeaveView::copyLane() {
    const auto text = project::copyChain(layout_, *session_.program(), session_.lane().toStdString());
    if (text.empty())
        return session_.report("There are no blocks on this lane to copy.");
    QGuiApplication::clipboard()->setText(q(text));
    session_.report("Copied: Ctrl+V puts the chain on the chosen lanes, Ctrl+Shift+V its settings only.", false);
}

void WeaveView::paste(bool settingsOnly) {
    const auto chain = project::readChain(QGuiApplication::clipboard()->text().toStdString());
    if (!chain)
        return session_.report(q(chain.error().text()));
    const auto lanes = session_.reachedLanes();
    session_.setProgram(
        settingsOnly ? project::pasteSettings(layout_, *session_.program(), lanes, *chain)
                     : project::pasteChain(layout_, *session_.program(), lanes, *chain),
        QString(settingsOnly ? "Paste settings on %1 lanes" : "Paste a chain on %1 lanes").arg(lanes.size()));
}

bool WeaveView::flipMute(const QString& block, const QString& param) {
    const auto* b = session_.program()->find(block.toStdString());
    if (!b || !engine::findKind(b->kind) || engine::BlockView(*b).table->indexOf(param.toStdString()) < 0)
        return false;
    session_.set(block, param, engine::BlockView(*b).look()[param.toStdString()] >= 0.5 ? 0 : 1);
    return true;
}

// What is pointed at in a weave, or the chosen bead; a chosen lane: where it enters or leaves a matrix mixer.
void WeaveView::muteChosen() {
    if (pointed_.kind == Hit::Kind::knot)
        return void(flipMute(pointed_.block, QString("%1.%2.mute").arg(pointed_.in + 1).arg(pointed_.out + 1)));
    if (!session_.block().isEmpty() && flipMute(session_.block(), "mute"))
        return;
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    for (const auto& t : session_.program()->connections)
        if (lane && lane->source() && t.from == lane->open &&
            flipMute(q(t.to.block), QString("in.%1.mute").arg(t.to.port + 1)))
            return;
    const auto* into = lane && lane->destination() ? session_.program()->into(lane->open) : nullptr;
    if (!into || !flipMute(q(into->from.block), QString("out.%1.mute").arg(into->from.port + 1)))
        session_.report("Nothing to mute there: point at a crossing, or choose a level or a lane of a matrix mixer.");
}

void WeaveView::insertBlock(const QString& begin) {
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    auto* field = new InsertField(lane != nullptr, this);
    field->say = [this](const QString& phrase) { return speak(phrase); };
    field->take = [this](const project::Swatch& swatch) { insertSwatch(swatch); };
    openField(field, begin);
}

void WeaveView::openField(InsertField* field, const QString& begin) {
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    const QRectF seen = visibleRegion().boundingRect();
    const QRectF r = lane && !lane->folded ? laneRect(session_.lane()) : seen;
    const double x = !lane || lane->source() ? sourceX_ + loom::app::px(40)
                     : lane->destination()   ? destinationX_ - loom::app::px(60)
                                             : r.left();
    field->move(QPointF(qBound(seen.left(), x, std::max(seen.left(), seen.right() - field->width())),
                        std::max(0.0, std::min(lane ? r.bottom() : r.top() + px(20), seen.bottom() - field->height())))
                    .toPoint());
    connect(field, &QObject::destroyed, this, [this] { setFocus(); });
    field->open(begin);
}

void WeaveView::swapChosen() {
    const QString id = session_.block().isEmpty() ? session_.lane() : session_.block();
    const auto* b = session_.program() ? session_.program()->find(id.toStdString()) : nullptr;
    if (!b)
        return session_.report("Choose the block that another is to take the place of.");
    auto* field = new InsertField(!session_.block().isEmpty(), this, InsertField::For::swap);
    field->say = [this](const QString& kind) { return swapFor(kind.toStdString()); };
    openField(field, {});
}

// In place of the chosen block and its counterparts on the lanes that are meant.
bool WeaveView::swapFor(const std::string& kind) {
    Result<engine::Program> p = *session_.program();
    std::string first;
    QStringList lost;
    for (const auto& id : actedOn()) {
        auto swapped = project::swapBlock(*p, id, kind);
        if (!swapped) {
            session_.report(q(swapped.error().text()));
            return false;
        }
        p = swapped->program;
        if (first.empty())
            first = swapped->block;
        for (const auto& l : swapped->lost)
            if (!lost.contains(q(l)))
                lost << q(l);
    }
    const QString lane = session_.block().isEmpty() ? QString() : session_.lane();
    if (!session_.setProgram(p, "Swap for " + q(kind)))
        return false;
    const auto* now = layout_.laneOf(first);
    session_.choose(now              ? q(now->end)
                    : lane.isEmpty() ? q(first)
                                     : lane,
                    now && !now->isEnd(first) ? q(first) : QString());
    if (!lost.isEmpty())
        session_.report("Swapped. Without a place there: " + lost.join(", ") + ". Undo brings it back.", false);
    return true;
}

// False: it was not understood, and nothing was done.
bool WeaveView::speak(const QString& phrase) {
    auto spoken = project::speak(*session_.device(), session_.reachedLanes(), session_.block().toStdString(),
                                 phrase.toStdString());
    if (!spoken) {
        session_.report(spoken.error());
        return false;
    }
    const QString here = session_.lane();
    const auto chosen = session_.lanes();
    if (!session_.setProgram(spoken->program, q(spoken->text)))
        return false;
    QStringList lanes;
    for (const auto& l : spoken->lanes)
        lanes << q(l);
    if (!lanes.isEmpty())
        session_.chooseLanes(lanes);
    else if (!spoken->block.empty() && chosen.size() <= 1)
        session_.choose(here, q(spoken->block));
    return true;
}

// The chosen bead, of every lane that is chosen; or the lanes.
void WeaveView::removeChosen() {
    const auto gone = actedOn();
    QString text = QString("Remove %1 blocks").arg(gone.size());
    if (gone.size() == 1)
        text = "Remove " + q(project::blockName(*session_.program(), *session_.program()->find(gone[0])));
    Result<engine::Program> p = *session_.program();
    for (const auto& id : gone)
        if (p)
            p = project::removeBlock(*p, id);
    // What breaks is said; undo is one key away.
    const int broken = p ? project::brokenBy(*session_.program(), *p) : 0;
    if (session_.setProgram(p, text) && broken > 0)
        session_.report(QString("%1. %2 now stand without what fed them. Ctrl+Z brings it back.")
                            .arg(text, broken == 1 ? "One input" : QString::number(broken) + " inputs"),
                        false);
}

void WeaveView::moveChosen(int by) {
    Result<engine::Program> p = *session_.program();
    const auto all = actedOn();
    for (const auto& id : all)
        if (p)
            p = project::moveBlock(*p, id, by);
    session_.setProgram(p, "Move " + nameOf(all.front()));
}

void WeaveView::renameLane() {
    const QString id = session_.block().isEmpty() ? session_.lane() : session_.block();
    const auto* b = session_.program() ? session_.program()->find(id.toStdString()) : nullptr;
    if (!b)
        return;
    const bool several = session_.block().isEmpty() && session_.lanes().size() > 1;
    const auto said = askOne(this, "Rename",
                             {several ? "Name of the lanes; {n} counts them" : "Name",
                              q(project::blockName(*session_.program(), *b)) + (several ? " {n}" : "")});
    if (!said)
        return;
    const QString name = said->left(80);
    session_.setProgram(project::renameBlocks(*session_.program(),
                                              several ? session_.laneIds() : std::vector<std::string>{b->id},
                                              name.toStdString()),
                        "Rename to " + name);
}

// ---- looks and order ----

void WeaveView::colourChosen(const QString& thread) {
    const auto ends = chosenEnds();
    if (ends.empty())
        return session_.report("Choose the lanes that are to have this colour.");
    session_.setProgram(project::withMark(*session_.program(), ends, "colour", thread.toStdString()),
                        thread.isEmpty() ? QString("Colour as it comes") : "Colour " + thread);
}

void WeaveView::groupChosen() {
    const auto ends = chosenEnds();
    if (ends.empty())
        return session_.report("Choose the lanes that are to lie together.");
    const auto& first = *session_.program()->find(ends.front());
    const std::string stem = project::stemOf(first.label);
    const auto name = askOne(
        this, "Group",
        {"Heading of these lanes; empty takes them out of theirs", q(stem.empty() ? first.label : stem + "s")}, true);
    if (name)
        session_.setProgram(project::groupLanes(*session_.program(), ends, name->left(80).toStdString()),
                            name->isEmpty() ? QString("Take out of the group") : "Group " + *name);
}

void WeaveView::groupAll(project::GroupBy by) {
    session_.setProgram(project::groupAllLanes(*session_.program(), by), "Group the lanes");
}

void WeaveView::foldChosen(bool folded) {
    session_.setProgram(project::foldGroups(*session_.program(), chosenEnds(), folded),
                        folded ? "Fold the group" : "Open the group");
}

void WeaveView::moveLanes(int by) {
    session_.setProgram(project::moveLanes(layout_, *session_.program(), chosenEnds(), by), "Move lanes");
}

// ---- links ----

void WeaveView::linkChosen() {
    const auto ends = chosenEnds();
    if (ends.size() < 2)
        return session_.report("Choose two lanes or more to link them.");
    const auto& p = *session_.program();
    std::string name = project::stemOf(p.find(ends.front())->label);
    for (int n = 1; name.empty() || std::any_of(p.blocks.begin(), p.blocks.end(), [&](const auto& b) {
                        return project::markOf(b, "link") == name &&
                               std::find(ends.begin(), ends.end(), b.id) == ends.end();
                    });)
        name = "link " + std::to_string(n++);
    if (session_.setProgram(project::linkLanes(layout_, p, ends, name), QString("Link %1 lanes").arg(ends.size())))
        session_.report("Linked: what is set on one goes to all. Values that differed stay, and show that they are "
                        "apart.",
                        false);
}

void WeaveView::unlinkChosen() {
    session_.setProgram(project::unlinkLanes(layout_, *session_.program(), chosenEnds()), "Unlink lanes");
}

void WeaveView::relinkChosen() {
    session_.setProgram(project::relinkLane(layout_, *session_.program(), session_.lane().toStdString()),
                        "Relink values");
}

void WeaveView::restoreChosen(bool asKept) {
    session_.restore(session_.block().isEmpty() ? session_.lane() : session_.block(), asKept);
}

// ---- notes and protections ----

void WeaveView::noteChosen() {
    askNote(this, session_, session_.block().isEmpty() ? session_.lane() : session_.block());
}

void WeaveView::protectChosen() {
    flipProtection(this, session_, session_.block().isEmpty() ? session_.lane() : session_.block());
}

// ---- swatches ----

void WeaveView::keepSwatch() {
    const auto said = ask(this, "Keep as a swatch", {{"Name"}, {"Notes, for whoever uses it (may stay empty)"}});
    const QString name = said ? said->front().trimmed() : QString();
    if (name.isEmpty())
        return;
    auto swatch = project::makeSwatch(layout_, *session_.program(), session_.laneIds(), session_.block().toStdString(),
                                      name.toStdString(), said->back().toStdString());
    if (!swatch)
        return session_.report(q(swatch.error().text()));
    const auto kept = project::keepSwatch(*swatch, false);
    session_.report(kept ? "Kept in your library. / and its name inserts it anywhere. File: " + q(*kept)
                         : q(kept.error().text()),
                    !kept);
}

void WeaveView::insertSwatch(const project::Swatch& swatch) {
    if (!session_.device())
        return;
    auto in =
        project::insertSwatch(*session_.device(), session_.reachedLanes(), session_.block().toStdString(), swatch);
    if (!in)
        return session_.report(q(in.error().text()));
    const QString lane = session_.lane();
    if (!session_.setProgram(in->program, "Insert " + q(swatch.name)))
        return;
    if (swatch.chain())
        session_.choose(lane, in->blocks.empty() ? QString() : q(in->blocks.front()));
    else
        for (const auto& id : in->blocks)
            if (const auto* l = layout_.laneOf(id); !l || l->isEnd(id)) {
                session_.choose(q(id));
                break;
            }
    if (!in->leftOut.empty())
        session_.report(q(in->leftOut), false);
}

void WeaveView::renameSwatch(const QString& name) {
    const auto next = askOne(this, "Rename a swatch", {"Name", name});
    if (!next || *next == name)
        return;
    const auto done = project::renameSwatch(name.toStdString(), next->toStdString());
    session_.report(done ? name + " is called " + *next + " now." : q(done.error().text()), !done);
}

void WeaveView::removeSwatch(const QString& name) {
    const auto done = project::removeSwatch(name.toStdString());
    session_.report(done ? name + " is taken out of your library. It lies in " + q(*done) : q(done.error().text()),
                    !done);
}

void WeaveView::leaveOwnSound() {
    auto m = project::mixMinus(*session_.program(), session_.lane().toStdString(), -1);
    if (!m)
        return session_.report(q(m.error().text()));
    if (session_.setProgram(m->program, "Mix-minus")) {
        QStringList pairs;
        for (const auto& pair : m->pairs)
            pairs << q(pair);
        session_.report(
            QString("%1. %2 crossings opened, %3 closed.").arg(pairs.join(", ")).arg(m->opened).arg(m->closed), false);
    }
}

} // namespace loom::app
