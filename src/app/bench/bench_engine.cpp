#include "app/bench/bench_engine.h"
#include "dsp/spectrum.h"
#include "engine/play_list.h"
#include "program/render.h"
#include <QDateTime>
#include <QDir>
#include <QStandardPaths>
#include <chrono>

namespace loom::app {
namespace {

constexpr int earProbe = 0, eyeProbe = 1, tapeProbe = 2, firstPin = 3;
constexpr std::size_t maxRecording = 48000u * 60 * 10;

// Recorder blocks write into a folder of their own, a file a take.
std::string tapeFile(const engine::Block& block) {
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::MusicLocation) + "/Nimble Loom";
    QDir().mkpath(folder);
    const QString name = QString::fromStdString(block.label.empty() ? block.id : block.label).replace('/', '-');
    const QString when = QDateTime::currentDateTime().toString("yyyy-MM-dd HH.mm.ss");
    return (folder + "/" + name + " " + when + ".wav").toStdString();
}

} // namespace

BenchEngine::BenchEngine() : tapes_(tapeFile) {}
BenchEngine::~BenchEngine() {
    stop();
}

void BenchEngine::start(const project::Project& project, const project::Device& device) {
    stop();
    auto work = [resources = project::resourcesOf(project, device, true), program = *device.program,
                 rate = device.rate]() -> Prepared {
        auto runner = std::make_unique<engine::Runner>(rate, resources);
        if (auto done = runner->load(program); !done)
            return {nullptr, done.error()};
        return {std::move(runner), std::nullopt};
    };
    assets_.clear();
    for (const auto& [name, bytes] : project.assets)
        assets_.insert(name);
    design_ = *device.program;
    preparing_ = std::async(std::launch::async, std::move(work));
}

bool BenchEngine::poll(std::optional<Error>& error) {
    if (!preparing_.valid() || preparing_.wait_for(std::chrono::seconds(0)) != std::future_status::ready)
        return false;
    auto [runner, why] = preparing_.get();
    error = why;
    if (!runner)
        return true;
    runner_ = std::move(runner);
    audio_ = std::make_unique<engine::RealtimeThread>(*runner_);
    return true;
}

void BenchEngine::stop() {
    if (preparing_.valid())
        preparing_.get();
    ear_.close();
    if (runner_) {
        gather(tapes_.tend(runner_->program(), *runner_->schedule()));
        gather(tapes_.finish());
    }
    audio_.reset();
    runner_.reset();
    analyser_.reset();
    listening_.reset();
    watched_.reset();
    recordPort_.reset();
    seen_.clear();
    recorded_.clear();
    histories_.clear();
    tried_.clear();
    tools_.forget();
    pins_.clear();
    pinSound_.clear();
}

void BenchEngine::follow(const project::Project& project, const project::Device& device,
                         const project::Change& change) {
    if (!runner_ || !device.program)
        return;
    const auto& program = *device.program;
    design_ = program;
    for (const auto& b : program.blocks)
        for (const auto& file : engine::playList(b.texts))
            if (project.assets.count(file) && !assets_.count(file))
                return start(project, device); // a new sound file: decoded on the worker, and from the start again
    const auto* block = change.kind == project::Change::Kind::value ? program.find(change.block) : nullptr;
    if (block && runner_->program().find(change.block)) {
        // One value may switch its section on as well: every value of the block that differs goes.
        const engine::BlockView now(*block), was(*runner_->program().find(change.block));
        for (std::size_t i = 0; i < now.values.size(); ++i)
            if (now.values[i] != was.values[i])
                (void)bool(runner_->set(block->id, now.table->specs()[i].id, now.values[i]));
        return;
    }
    tried_.clear();
    (void)bool(tools_.load(*runner_, design_)); // a program with a loop keeps the last good sound; it is a finding
}

void BenchEngine::tryValue(const std::string& block, const std::string& param, double value) {
    if (runner_ && runner_->set(block, param, value))
        tried_[{block, param}] = value;
}

std::optional<double> BenchEngine::triedValue(const std::string& block, const std::string& param) const {
    const auto it = tried_.find({block, param});
    return it == tried_.end() ? std::nullopt : std::optional(it->second);
}

Result<Done> BenchEngine::putTool(const project::Tool& tool) {
    if (!runner_)
        return Error{"the bench does not run", "", "F5 starts it."};
    const auto done = tools_.put(*runner_, design_, tool);
    return done ? Result<Done>(Done{}) : Result<Done>(done.error());
}

void BenchEngine::takeTool(int number) {
    if (runner_)
        tools_.take(*runner_, number);
}

void BenchEngine::clearTools() {
    if (runner_)
        tools_.takeAll(*runner_);
    pins_.clear();
    pinSound_.clear();
    if (runner_)
        probePins();
    if (listening_)
        listen({});
}

bool BenchEngine::pin(const engine::PortRef& port) {
    if (!runner_)
        return false;
    if (const auto it = std::find(pins_.begin(), pins_.end(), port); it != pins_.end())
        pins_.erase(it);
    else if (pins_.size() < mostPins)
        pins_.push_back(port);
    else
        return false;
    probePins();
    return true;
}

void BenchEngine::probePins() {
    pinSound_.assign(pins_.size(), {});
    for (int i = 0; i < mostPins; ++i)
        runner_->probe(firstPin + i, i < static_cast<int>(pins_.size())
                                         ? std::optional(pins_[static_cast<std::size_t>(i)])
                                         : std::nullopt);
}

std::vector<double> BenchEngine::pinnedSpectrum(const engine::PortRef& port) {
    for (std::size_t i = 0; i < pins_.size(); ++i)
        if (pins_[i] == port && runner_)
            return measure(firstPin + static_cast<int>(i), pinSound_[i]);
    return {};
}

void BenchEngine::gather(const std::vector<Result<std::string>>& written) {
    for (const auto& w : written)
        news_.push_back(w ? News{"Recorded " + QString::fromStdString(*w), false}
                          : News{QString::fromStdString(w.error().text()), true});
}

engine::MeterReading BenchEngine::meter(const engine::PortRef& port) const {
    return runner_ ? runner_->meter(port) : engine::MeterReading{};
}

float BenchEngine::readout(const std::string& block, int which) const {
    const auto kernel = runner_ && runner_->schedule() ? runner_->schedule()->kernel(block) : nullptr;
    return kernel ? kernel->readout(which) : 0;
}

const std::deque<float>& BenchEngine::history(const std::string& block, int which) const {
    static const std::deque<float> none;
    const auto it = histories_.find({block, which});
    return it == histories_.end() ? none : it->second;
}

// Called every 40 ms by tend().
void BenchEngine::remember() {
    for (const auto& b : runner_->program().blocks) {
        const auto* kind = engine::findKind(b.kind);
        if (!kind || kind->readouts.empty())
            continue;
        const int lanes = kind->picture == engine::Picture::lanes ? engine::BlockView(b).inputs() : 0;
        for (int r = 0; r <= lanes; ++r) { // the first readout, and the gain of each lane
            auto& past = histories_[{b.id, r}];
            past.push_back(readout(b.id, r));
            if (past.size() > historyLength)
                past.pop_front();
        }
    }
}

std::vector<double> BenchEngine::spectrum(const engine::PortRef& port) {
    if (!runner_)
        return {};
    if (watched_ != port) {
        watched_ = port;
        seen_.clear();
        runner_->probe(eyeProbe, port);
    }
    return measure(eyeProbe, seen_);
}

// Third-octave levels of what a tap gathered.
std::vector<double> BenchEngine::measure(int slot, std::vector<float>& seen) {
    std::vector<float> part(8192);
    for (std::size_t n; (n = runner_->readProbe(slot, part)) > 0;)
        seen.insert(seen.end(), part.begin(), part.begin() + static_cast<std::ptrdiff_t>(n));
    if (!analyser_)
        analyser_ = std::make_unique<dsp::ThirdOctaveSpectrum>(runner_->rate(), 8192);
    if (seen.size() > 8192)
        seen.erase(seen.begin(), seen.end() - 8192);
    return seen.size() < 4096 ? std::vector<double>{} : analyser_->measure(seen);
}

QString BenchEngine::listen(const std::optional<engine::PortRef>& port) {
    if (!runner_)
        return "The bench does not run. F5 starts it.";
    listening_ = port;
    runner_->probe(earProbe, port);
    if (!port) {
        ear_.close();
        return {};
    }
    return ear_.open(runner_->rate());
}

void BenchEngine::record(const engine::PortRef& port) {
    if (!runner_)
        return;
    recorded_.clear();
    recordPort_ = port;
    runner_->probe(tapeProbe, port);
}

Result<double> BenchEngine::endRecording(const QString& path) {
    tend();
    const double rate = runner_ ? runner_->rate() : 48000;
    if (runner_)
        runner_->probe(tapeProbe, {});
    recordPort_.reset();
    std::string error;
    const double seconds = static_cast<double>(recorded_.size()) / rate;
    if (!dsp::writeWav(path.toStdString(), {rate, {std::move(recorded_)}}, error))
        return Error{error, "", ""};
    recorded_ = {};
    return seconds;
}

void BenchEngine::tend() {
    if (!runner_)
        return;
    runner_->tend();
    tools_.tend(*runner_, design_);
    if (runner_->schedule())
        gather(tapes_.tend(runner_->program(), *runner_->schedule()));
    remember();
    std::vector<float> part(8192);
    for (std::size_t n;
         recordPort_ && recorded_.size() < maxRecording && (n = runner_->readProbe(tapeProbe, part)) > 0;)
        recorded_.insert(recorded_.end(), part.begin(), part.begin() + static_cast<std::ptrdiff_t>(n));
    while (const auto room = ear_.room()) {
        const auto n = runner_->readProbe(earProbe, {part.data(), std::min(part.size(), room)});
        if (n == 0)
            break;
        ear_.write({part.data(), n});
    }
}

} // namespace loom::app
