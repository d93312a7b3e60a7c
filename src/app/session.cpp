#include "app/session.h"
#include "app/bench/bench_engine.h"
#include "dsp/tap_file.h"
#include "project/catalogue.h"
#include "project/findings.h"
#include "project/lane_edit.h"
#include "project/program_edit.h"
#include "project/store.h"
#include <QFile>
#include <QFileInfo>

namespace loom::app {

using project::Change;

namespace {
constexpr qint64 maxSoundFile = 256 << 20;
}

Session::Session(QObject* parent) : QObject(parent), bench_(std::make_unique<BenchEngine>()) {
    autosave_.setSingleShot(true);
    autosave_.setInterval(1500);
    connect(&autosave_, &QTimer::timeout, this, [this] {
        if (dirty() && !path_.isEmpty())
            if (auto done = project::writeJournal(project_, path_.toStdString()); !done)
                report(QString::fromStdString(done.trouble().text()));
    });
}

Session::~Session() = default;

const engine::Program* Session::program() const {
    const auto* d = device();
    return d && d->program ? &*d->program : nullptr;
}

bool Session::open(const QString& path) {
    auto loaded = project::loadProject(path.toStdString());
    if (!loaded) {
        report(QString::fromStdString(loaded.trouble().text()));
        return false;
    }
    auto recovered = project::recoverJournal(*loaded, path.toStdString());
    take(std::move(*loaded), path);
    if (recovered) { // as edits, so that undo leads back to what was saved
        for (const auto& d : recovered->devices)
            if (d.program && project_.device(d.id) && project_.device(d.id)->program != d.program)
                edit(project::setProgram(d.id, *d.program, "Recover unsaved work"));
        report("Unsaved work was recovered. Undo leads back to what was saved.", false);
    }
    return true;
}

bool Session::start(const QString& model) {
    auto made = project::newProject(model.toStdString());
    if (!made) {
        report(QString::fromStdString(made.trouble().text()));
        return false;
    }
    take(std::move(*made), {});
    return true;
}

void Session::take(project::Project project, const QString& path) {
    bench_->stop();
    project_ = std::move(project);
    history_.clear();
    path_ = path, lane_.clear(), block_.clear(), lanes_.clear(), device_.clear();
    for (const auto& d : project_.devices)
        if (d.program && device_.empty())
            device_ = d.id;
    emit fileChanged();
    emit changed({});
    emit chosen();
}

bool Session::save() {
    return saveAs(path_);
}

bool Session::saveAs(const QString& path) {
    auto done = project::saveProject(project_, path.toStdString());
    if (!done) {
        report(QString::fromStdString(done.trouble().text()));
        return false;
    }
    project::dropJournal(path_.toStdString());
    path_ = path;
    history_.markSaved();
    emit fileChanged();
    report("Saved.", false);
    return true;
}

bool Session::edit(std::unique_ptr<project::Edit> edit) {
    auto change = history_.run(std::move(edit));
    if (!change) {
        report(QString::fromStdString(change.trouble().text()));
        return false;
    }
    after(*change);
    return true;
}

bool Session::set(const QString& block, const QString& param, double value, bool merge) {
    if (lanes_.size() > 1)
        if (const auto others =
                project::counterparts(engine::layOut(*program()), *program(), laneIds(), block.toStdString());
            !others.empty()) {
            std::map<std::string, double> all{{(block + "." + param).toStdString(), value}};
            for (const auto& other : others) // that have it: they may have fewer bands
                if (engine::findParameter(*program(), other + "." + param.toStdString()).block)
                    all[other + "." + param.toStdString()] = value;
            return setAll(all, QString("Set %1 on %2 lanes").arg(param).arg(all.size()), merge);
        }
    return edit(project::setValue(project_, device_ + "/" + (block + "." + param).toStdString(), value, merge));
}

// By "block.parameter".
bool Session::setAll(const std::map<std::string, double>& values, const QString& text, bool merge) {
    return edit(project::setValues(device_, values, text.toStdString(), merge));
}

bool Session::setProgram(const Result<engine::Program>& program, const QString& text) {
    if (!program) {
        report(QString::fromStdString(program.trouble().text()));
        return false;
    }
    return edit(project::setProgram(device_, *program, text.toStdString()));
}

void Session::reshape(const QString& block, const std::string& shape, int count) {
    const auto* b = program()->find(block.toStdString());
    const auto* kind = b ? engine::findKind(b->kind) : nullptr;
    const auto* spec = kind ? kind->shapeSpec(shape) : nullptr;
    if (spec)
        setProgram(project::reshapeBlock(*program(), b->id, shape, count),
                   QString("%1: %2 %3")
                       .arg(QString::fromStdString(project::blockName(*program(), *b)))
                       .arg(count)
                       .arg(QString::fromStdString(spec->label).toLower()));
}

void Session::align(const QString& block) {
    if (program())
        setProgram(project::alignLanes(*program(), block.toStdString(), device()->rate), "Align lanes");
}

bool Session::setFile(const QString& block, const QString& key, const QString& path) {
    QFile file(path);
    std::string error;
    if (!file.open(QIODevice::ReadOnly))
        error = path.toStdString() + ": cannot be read.";
    else if (file.size() > maxSoundFile)
        error = path.toStdString() + ": is larger than 256 MB.";
    const QByteArray bytes = error.empty() ? file.readAll() : QByteArray();
    const std::vector<char> kept(bytes.begin(), bytes.end());
    const auto* b = program()->find(block.toStdString());
    const auto* kind = b ? engine::findKind(b->kind) : nullptr;
    if (error.empty() && kind && kind->taps)
        error = dsp::troubleWithTaps(kept, path.toStdString());
    else if (error.empty())
        (void)dsp::clipFrames(kept, path.toStdString(), error);
    if (!error.empty()) {
        report(QString::fromStdString(error));
        return false;
    }
    return edit(project::setFile(device_, block.toStdString(), key.toStdString(),
                                 QFileInfo(path).fileName().toStdString(), kept));
}

void Session::after(const Change& change) {
    if (const auto* p = program()) {
        if (!block_.isEmpty() && !p->find(block_.toStdString()))
            block_.clear();
        if (!lane_.isEmpty() && !p->find(lane_.toStdString()))
            lane_.clear();
        lanes_.removeIf([p](const QString& l) { return !p->find(l.toStdString()); });
        bench_->follow(project_, *device(), change);
    }
    autosave_.start();
    emit changed(change);
    emit fileChanged();
}

void Session::undo() {
    if (history_.canUndo())
        after(history_.undo());
}

void Session::redo() {
    if (history_.canRedo())
        after(history_.redo());
}

void Session::choose(const QString& lane, const QString& block) {
    // A bead of one of several lanes: the others stay chosen, so that what is set there is set on all of them.
    const QStringList lanes = lane.isEmpty()                              ? QStringList()
                              : !block.isEmpty() && lanes_.contains(lane) ? lanes_
                                                                          : QStringList(lane);
    if (lane == lane_ && block == block_ && lanes == lanes_)
        return;
    lane_ = lane, block_ = block, lanes_ = lanes;
    emit chosen();
}

void Session::chooseLanes(const QStringList& lanes) {
    lanes_ = lanes;
    lane_ = lanes.isEmpty() ? QString() : lanes.last();
    block_.clear();
    emit chosen();
}

std::vector<std::string> Session::laneIds() const {
    std::vector<std::string> ids;
    for (const auto& l : lanes_)
        ids.push_back(l.toStdString());
    return ids;
}

} // namespace loom::app
