#include "app/session.h"
#include "app/bench/bench_engine.h"
#include "client/fleet.h"
#include "dsp/tap_file.h"
#include "file/journal.h"
#include "file/store.h"
#include "model/block_names.h"
#include "program/compare.h"
#include "program/links.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "voicings/voicing_edit.h"
#include <QFile>
#include <QFileInfo>

namespace loom::app {

using project::Change;

namespace {
constexpr qint64 maxSoundFile = 256 << 20;
}

Session::Session(QObject* parent)
    : QObject(parent), bench_(std::make_unique<BenchEngine>()), saved_(std::make_shared<project::Project>()),
      journal_(project::freshUnnamedJournal()), journalist_([this](const std::string& error) {
          if (!error.empty())
              report("Unsaved work cannot be kept safe: " + QString::fromStdString(error));
      }) {
    autosave_.setSingleShot(true);
    autosave_.setInterval(1500); // from the first edit, however many follow
    connect(&autosave_, &QTimer::timeout, this, &Session::keepJournal);
}

Session::~Session() {
    journalist_.finish();
    if (!dirty() && !readingOnly())
        project::dropJournal(journal_);
}

// Writes the work as it is to the journal, or takes the journal away where nothing is unsaved; on a thread of its own.
void Session::keepJournal() {
    if (readingOnly())
        return;
    if (!dirty())
        return journalist_.start([journal = journal_](const std::stop_token&) {
            project::dropJournal(journal);
            return std::string();
        });
    journalist_.start([now = std::make_shared<const project::Project>(project_), base = saved_,
                       journal = journal_](const std::stop_token&) {
        const auto done = project::writeJournal(*now, *base, journal);
        return done ? std::string() : done.error().text();
    });
}

void Session::keepNow() {
    autosave_.stop();
    keepJournal();
    journalist_.finish();
}

void Session::discard() {
    autosave_.stop();
    journalist_.finish();
    if (!readingOnly())
        project::dropJournal(journal_);
    history_.markSaved();
}

void Session::work(const std::string& device) {
    const auto* d = project_.device(device);
    if (!d || !d->program || device == device_)
        return;
    bench_->stop();
    device_ = device;
    lane_.clear();
    block_.clear();
    lanes_.clear();
    laidOut_ = false;
    comparison_.reset();
    emit atWorkChanged();
    emit changed({});
    emit chosen();
}

const engine::Program* Session::program() const {
    const auto* d = device();
    return d && d->program ? &*d->program : nullptr;
}

const engine::Layout& Session::layout() const {
    if (!laidOut_)
        layout_ = program() ? engine::layOut(*program()) : engine::Layout{};
    laidOut_ = true;
    return layout_;
}

bool Session::open(const QString& path) {
    const std::string file = path.toStdString();
    const bool same = path == path_;
    if (same)
        lock_ = {}; // it is taken anew
    auto lock = project::ProjectLock::take(file);
    const auto onDisk = project::diskStamp(file); // before it is read: what comes after is somebody else's
    auto loaded = project::loadProject(file, *models_);
    if (!loaded) {
        if (same)
            lock_ = std::move(lock);
        report(QString::fromStdString(loaded.error().text()));
        return false;
    }
    take(std::move(*loaded), path);
    lock_ = std::move(lock);
    savedOnDisk_ = onDisk;
    emit fileChanged(); // whether it is for reading only
    if (!readingOnly()) {
        recover();
        return true;
    }
    report(QString("%1 works on this project since %2: it is open for reading only. Save it as another file to work on "
                   "a copy (Ctrl+Shift+S).")
               .arg(QString::fromStdString(lock_.other()->who.empty() ? "Somebody" : lock_.other()->who),
                    QString::fromStdString(lock_.other()->since)));
    return true;
}

// Unsaved work beside the project that was opened comes back as one step, so that undo leads to what was saved. Where
// something else was saved since, it becomes a file of its own and replaces nothing.
void Session::recover() {
    auto work = project::readJournal(journal_, project_, *models_);
    if (!work)
        return;
    QString gone;
    for (const auto& name : work->gone)
        gone += (gone.isEmpty() ? " These files could not be recovered: " : ", ") + QString::fromStdString(name);
    const QString when = QString::fromStdString(work->when);
    if (work->based == project::contentStamp(project_)) {
        if (project::contentStamp(work->project) == work->based)
            return keepJournal();
        if (!edit(project::replaceProject(std::move(work->project), "Recover unsaved work")))
            return; // it says why; the journal stays
        return report("Unsaved work of " + when + " was recovered. Undo leads back to what was saved." + gone,
                      !gone.isEmpty());
    }
    const QFileInfo file(path_);
    const QString aside = file.absolutePath() + "/" + file.completeBaseName() + ", unsaved work of " +
                          QString(when).replace(':', '.') + ".loom";
    if (const auto done = project::saveProject(work->project, aside.toStdString()); !done)
        return report("There is unsaved work of " + when + ", based on an earlier state of this project. It stays in " +
                      QString::fromStdString(journal_) + ": " + QString::fromStdString(done.error().text()));
    keepJournal();
    report("This project was saved since by something else. Unsaved work of " + when + " is in \u201c" +
               QFileInfo(aside).fileName() + "\u201d beside it." + gone,
           true);
}

bool Session::recoverUnnamed() {
    for (const auto& left : project::unnamedJournals()) {
        auto work = project::readJournal(left, {}, *models_);
        if (!work)
            continue;
        take({}, {});
        if (!edit(project::replaceProject(std::move(work->project), "Recover unsaved work")))
            continue;
        if (const auto done = project::writeJournal(project_, *saved_, journal_); done)
            project::dropJournal(left);
        report("Work of " + QString::fromStdString(work->when) + " that was never saved was recovered.", false);
        return true;
    }
    return false;
}

bool Session::start(const QString& model) {
    auto made = project::newProject(model.toStdString(), *models_);
    if (!made) {
        report(QString::fromStdString(made.error().text()));
        return false;
    }
    take(std::move(*made), {});
    return true;
}

void Session::startEmpty() {
    take({}, {});
}

void Session::take(project::Project project, const QString& path) {
    bench_->stop();
    autosave_.stop();
    journalist_.finish();
    if (!readingOnly())
        project::dropJournal(journal_); // whoever leaves unsaved work behind was asked
    project_ = std::move(project);
    history_.clear();
    saved_ = std::make_shared<const project::Project>(project_);
    journal_ = path.isEmpty() ? project::freshUnnamedJournal() : project::journalPath(path.toStdString());
    savedOnDisk_.clear();
    lock_ = {};
    path_ = path;
    lane_.clear();
    block_.clear();
    lanes_.clear();
    device_.clear();
    for (const auto& d : project_.devices)
        if (d.program && device_.empty())
            device_ = d.id;
    laidOut_ = false;
    comparison_.reset();
    emit opened();
    emit atWorkChanged();
    emit fileChanged();
    emit changed({});
    emit chosen();
}

bool Session::save() {
    return saveAs(path_);
}

bool Session::saveAs(const QString& path) {
    const std::string file = path.toStdString();
    const bool same = path == path_;
    project::ProjectLock lock;
    if (!same || readingOnly()) {
        lock = project::ProjectLock::take(file);
        if (lock.other()) {
            report(path + " is being worked on by " + QString::fromStdString(lock.other()->who) + " since " +
                   QString::fromStdString(lock.other()->since) + ". Save under another name.");
            return false;
        }
    }
    if (same && project::diskStamp(file) != savedOnDisk_) { // touched; is it another?
        const auto there = project::loadProject(file, *models_);
        if (there && project::contentStamp(*there) != project::contentStamp(*saved_)) {
            report(
                "The file was changed by something else since it was opened here. Save under another name, or open it "
                "again; nothing was written.");
            return false;
        }
    }
    auto done = project::saveProject(project_, file);
    if (!done) {
        report(QString::fromStdString(done.error().text()));
        return false;
    }
    autosave_.stop();
    journalist_.finish();
    project::dropJournal(journal_);
    if (!same || readingOnly())
        lock_ = std::move(lock);
    path_ = path;
    journal_ = project::journalPath(file);
    savedOnDisk_ = project::diskStamp(file);
    project::dropJournal(journal_); // of what lay there before
    saved_ = std::make_shared<const project::Project>(project_);
    history_.markSaved();
    emit fileChanged();
    report("Saved.", false);
    return true;
}

bool Session::mayEdit() {
    if (readingOnly())
        report("This project is open for reading only: " + QString::fromStdString(lock_.other()->who) +
               " works on it. Save it as another file to work on a copy (Ctrl+Shift+S).");
    return !readingOnly();
}

namespace {

std::string keyOf(const project::Guarded& g) {
    return g.device + "/" + g.block + " " + g.param;
}

} // namespace

bool Session::edit(project::Edit edit) {
    if (!mayEdit())
        return false;
    auto change = history_.run(edit);
    const auto guarded = history_.guarded();
    if (!change && !guarded.empty()) {
        if (!std::all_of(guarded.begin(), guarded.end(), [&](const auto& g) { return meant_.count(keyOf(g)) > 0; })) {
            held_ = {std::move(edit), guarded};
            const Error& why = change.error();
            emit asked(QString::fromStdString(why.place), QString::fromStdString(why.message));
            return false;
        }
        change = history_.run(edit, project::History::Protected::changed);
    }
    if (!change) {
        report(change.error());
        return false;
    }
    after(*change);
    return true;
}

// Asked once a value: what is being turned is not asked about at every step.
void Session::editAnyway() {
    const auto held = std::exchange(held_, {});
    if (!held.edit)
        return;
    for (const auto& g : held.about)
        meant_.insert(keyOf(g));
    edit(held.edit);
}

bool Session::note(const project::Edit& edit) {
    if (readingOnly())
        return false;
    auto change = history_.note(edit);
    if (change)
        after(*change);
    return static_cast<bool>(change);
}

// On the block, on the same one of the other chosen lanes, and on that of linked lanes.
bool Session::set(const QString& block, const QString& param, double value, bool merge) {
    const std::string id = block.toStdString(), name = param.toStdString();
    const auto* b = program() ? program()->find(id) : nullptr;
    const auto reach = b ? project::reachOf(layout(), *program(), laneIds(), id, name) : std::vector<std::string>{};
    if (reach.size() < 2)
        return edit(project::setValue(project_, device_ + "/" + id + "." + name, value, merge));
    std::map<std::string, double> all;
    for (const auto& address : reach)
        all[address] = value;
    return setAll(all, QString("Set %1 on %2 lanes").arg(param).arg(all.size()), merge);
}

// By "block.parameter".
bool Session::setAll(const std::map<std::string, double>& values, const QString& text, bool merge) {
    return edit(project::setValues(device_, values, text.toStdString(), merge));
}

bool Session::setProgram(const Result<engine::Program>& program, const QString& text) {
    if (!program) {
        report(program.error());
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
        error = dsp::errorInTaps(kept, path.toStdString());
    else if (error.empty())
        (void)dsp::clipFrames(kept, path.toStdString(), error);
    if (!error.empty()) {
        report(QString::fromStdString(error));
        return false;
    }
    return edit(project::setFile(device_, block.toStdString(), key.toStdString(),
                                 QFileInfo(path).fileName().toStdString(), kept));
}

void Session::restore(const QString& block, bool asKept) {
    if (asKept && !kept())
        return report("Nothing was kept on a device yet.");
    if (const auto* b = program() ? program()->find(block.toStdString()) : nullptr)
        setProgram(project::restoreBlock(*program(), b->id, asKept ? kept() : nullptr),
                   QString(asKept ? "Restore %1 as kept" : "Restore %1")
                       .arg(QString::fromStdString(project::blockName(*program(), *b))));
}

void Session::restoreValue(const QString& block, const QString& param, bool asKept) {
    const auto* b = program() ? program()->find(block.toStdString()) : nullptr;
    if (!b)
        return;
    const auto* like = asKept && kept() ? kept()->find(block.toStdString()) : nullptr;
    if (asKept && !like)
        return report("This block was not kept on a device yet.");
    const engine::BlockView view(*b);
    const int i = view.table->indexOf(param.toStdString());
    if (i < 0)
        return;
    double value = view.table->specs()[static_cast<std::size_t>(i)].def;
    if (like)
        if (const auto it = like->values.find(param.toStdString()); it != like->values.end())
            value = it->second;
    set(block, param, value);
}

const engine::Program* Session::kept() const {
    const auto* d = device();
    return d && d->known.kept ? &*d->known.kept : nullptr;
}

void Session::beginComparison(const QString& lane) {
    if (!program())
        return;
    comparison_ = Comparison{lane.toStdString(), *program()};
    emit atWorkChanged();
}

void Session::flipComparison() {
    if (!comparison_ || !program())
        return;
    auto& c = *comparison_;
    engine::Program now = *program();
    const char next = c.heard == 'A' ? 'B' : 'A';
    // A lane that is not there any more leaves only the whole program to compare.
    const auto other = c.lane.empty() ? c.other : project::withChainOf(layout(), now, c.other, c.lane);
    if (!edit(project::setProgram(device_, other, std::string("Compare: hear ") + next)))
        return;
    c.other = std::move(now);
    c.heard = next;
    emit atWorkChanged();
}

void Session::endComparison() {
    comparison_.reset();
    emit atWorkChanged();
}

void Session::after(const Change& change) {
    if (change.kind == Change::Kind::surface) { // nothing of it sounds
        held_ = {};
        if (!autosave_.isActive())
            autosave_.start();
        emit surfacesChanged();
        emit fileChanged();
        return;
    }
    held_ = {};                                                        // it was made from what is no longer
    if (const auto* d = project_.device(device_); !d || !d->program) { // it has gone, or the first one came
        device_.clear();
        for (const auto& other : project_.devices)
            if (other.program && device_.empty())
                device_ = other.id;
    }
    laidOut_ = laidOut_ && (change.kind == Change::Kind::value || change.kind == Change::Kind::survey);
    if (const auto* p = program()) {
        if (!block_.isEmpty() && !p->find(block_.toStdString()))
            block_.clear();
        if (!lane_.isEmpty() && !p->find(lane_.toStdString()))
            lane_.clear();
        lanes_.removeIf([p](const QString& l) { return !p->find(l.toStdString()); });
        bench_->follow(project_, *device(), change);
    }
    if (!autosave_.isActive())
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

void Session::setHealth(project::SiteHealth health) {
    if (health == health_)
        return;
    health_ = std::move(health);
    emit healthChanged();
}

void Session::report(const Error& error) {
    report(QString::fromStdString(error.text()));
    if (!error.way.empty())
        emit refused(error.way);
}

// ---- tools ----

void Session::setFleet(client::Fleet* fleet) {
    fleet_ = fleet;
    deviceTools_ = &fleet->tools();
    connect(deviceTools_, &client::DeviceTools::changed, this, &Session::atWorkChanged);
    connect(deviceTools_, &client::DeviceTools::said, this, [this](const QString& error) { report(error); });
    connect(fleet, &QObject::destroyed, this, [this] {
        fleet_ = nullptr;
        deviceTools_ = nullptr;
    });
}

bool Session::toolsReach() const {
    return bench_->running() || (deviceTools_ && deviceTools_->live());
}

void Session::putTool(const project::Tool& tool) {
    if (!toolsReach())
        return report("Neither the bench runs nor is a device live. F5 starts the bench.");
    const QString what = QString::fromStdString(project::describe(*program(), tool));
    if (!bench_->running()) {
        deviceTools_->put(tool);
        return report(what + ", on the device, until you leave live. F9 takes all tools away.", false);
    }
    if (const auto done = bench_->putTool(tool); !done)
        return report(done.error());
    report(what + ". F9 takes all tools away.", false);
    emit atWorkChanged();
}

void Session::takeTool(int number) {
    if (number < 0 && deviceTools_)
        return deviceTools_->take(-number);
    bench_->takeTool(number);
    emit atWorkChanged();
}

void Session::clearTools() {
    bench_->clearTools();
    if (deviceTools_)
        deviceTools_->clear();
    emit atWorkChanged();
}

std::vector<project::Tool> Session::tools() const {
    auto all = bench_->tools();
    if (deviceTools_)
        for (auto tool : deviceTools_->list()) {
            tool.number = -tool.number;
            all.push_back(tool);
        }
    return all;
}

void Session::choose(const QString& lane, const QString& block) {
    // A bead of one of several lanes: the others stay chosen, so that what is set there is set on all of them.
    const QStringList lanes = lane.isEmpty()                              ? QStringList()
                              : !block.isEmpty() && lanes_.contains(lane) ? lanes_
                                                                          : QStringList(lane);
    if (lane == lane_ && block == block_ && lanes == lanes_)
        return;
    lane_ = lane;
    block_ = block;
    lanes_ = lanes;
    forgetMeant();
    emit chosen();
}

void Session::chooseLanes(const QStringList& lanes) {
    lanes_ = lanes;
    lane_ = lanes.isEmpty() ? QString() : lanes.last();
    block_.clear();
    forgetMeant();
    emit chosen();
}

// Something else is worked on: what is protected is asked about anew.
void Session::forgetMeant() {
    held_ = {};
    meant_.clear();
}

std::vector<std::string> Session::reachedLanes() const {
    return program() ? project::withLinked(*program(), laneIds()) : laneIds();
}

std::optional<engine::PortRef> Session::chosenPort() const {
    if (lane_.isEmpty())
        return {};
    if (!block_.isEmpty())
        return engine::PortRef{block_.toStdString(), 0};
    const auto* lane = layout().laneOf(lane_.toStdString());
    if (lane && !lane->destination())
        return lane->open;
    return engine::PortRef{lane_.toStdString(), 0};
}

std::vector<std::string> Session::laneIds() const {
    std::vector<std::string> ids;
    for (const auto& l : lanes_)
        ids.push_back(l.toStdString());
    return ids;
}

} // namespace loom::app
