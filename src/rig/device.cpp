#include "rig/device.h"
#include "engine/block_kind.h"
#include "findings/findings.h"
#include "model/sound_values.h"
#include "program/file_prints.h"
#include "program/render.h"
#include "rig/clock.h"
#include "site/audio_key.h"
#include "site/board_image.h"
#include "site/password.h"
#include <algorithm>
#include <chrono>
#include <cmath>

namespace loom::rig {

using nlohmann::json;

namespace {

constexpr double identifyDb = -30; // of the tone at every output

} // namespace

Device::Device(DeviceSetup setup)
    : setup_(std::move(setup)), model_(setup_.models.find(setup_.model)),
      store_(setup_.folder + "/" + setup_.serial + ".store"), conversing_(setup_.serial),
      values_(setup_.serial, secondsNow, [this](const std::string& what, bool bad) { note("The network", what, bad); }),
      rules_(setup_.models, ruleOwner(), secondsNow, values_),
      outside_({[this](const std::string& signal, double value) { rules_.happened(signal, value); },
                [this](const std::string& who, const std::string& what, bool bad) { note(who, what, bad); }},
               secondsNow),
      access_(accessOwner(), secondsNow), surfaces_(setup_.models, surfaceOwner(), secondsNow, values_) {
    conversing_.set = [this](const std::string& block, const std::string& param, double value) {
        if (runner_)
            (void)bool(runner_->set(block, param, value));
    };
    conversing_.own = [this](bool muted) {
        muted_ = muted;
        soundChanged();
    };
    conversing_.note = [this](const std::string& what) { note("a computer", what); };
    powerOn();
}

Device::~Device() = default;

// ---- what it is told to be ----

site::Config Device::whole(site::Config config) const {
    for (const auto& [id, value] : running_.setUp)
        config.setUp.try_emplace(id, value);
    return config;
}

int Device::nextRevision() const {
    int most = revision_;
    for (const auto& r : store_.revisions())
        most = std::max(most, r.number);
    return most + 1;
}

Result<Done> Device::check(const site::Config& config) const {
    if (model_)
        if (auto done = project::checkSetUp(*model_, config.setUp); !done)
            return done;
    if (auto done = project::checkControls(config.setUp, config.program); !done)
        return done;
    if (!config.surfaces.empty() && (!model_ || !model_->network))
        return Error{"this model shows no touch surfaces", setup_.serial, "Send it its set-up alone."};
    if (auto done = SurfaceSide::check(config, setup_.models,
                                       [this](const std::string& print) { return store_.hasPicture(print); });
        !done)
        return done;
    if (!config.rules.empty() && (!model_ || !model_->network))
        return Error{"this model runs no rules", setup_.serial, "Send it its set-up alone."};
    if (auto done = RuleSide::check(config, setup_.models); !done)
        return done;
    if (!config.program)
        return Done{};
    for (const auto& [name, print] : project::filePrints(*config.program))
        if (!store_.hasPicture(print))
            return Error{"its file " + name + " was not sent", "program", "Send it first."};
    if (!model_ || model_->workBudget <= 0)
        return Error{"this model runs no program", setup_.serial, "Send it its set-up alone."};
    project::Device planned{"device", setup_.serial, setup_.model, "", setup_.models};
    planned.program = config.program;
    for (const auto& f : project::check(planned))
        if (f.code == project::FindingCode::overBudget || f.code == project::FindingCode::noSuchPort)
            return Error{f.reason, f.place, f.remedy};
    if (model_->usb)
        if (const auto image = site::hexImageOf(config, *model_); !image)
            return image.error();
    return Done{};
}

Result<Done> Device::run(const site::Config& config) {
    taps_.forget();
    const auto filesBefore = std::exchange(files_, config.program ? project::filePrints(*config.program)
                                                                  : std::map<std::string, std::string>{});
    std::erase_if(clips_, [&](const auto& c) {
        return std::none_of(files_.begin(), files_.end(), [&](const auto& f) { return f.second == c.first.first; });
    });
    const auto loaded = load(config);
    if (!loaded)
        files_ = filesBefore;
    return loaded;
}

// What its blocks play: from its store, else, where nothing was sent, what stands in for it on this computer.
engine::Resources Device::resources() {
    auto r = setup_.resources;
    r.clip = [this, before = setup_.resources.clip](const std::string& name,
                                                    double rate) -> std::shared_ptr<const dsp::AudioClip> {
        const auto it = files_.find(name);
        if (it == files_.end())
            return before ? before(name, rate) : nullptr;
        auto& clip = clips_[{it->second, rate}];
        if (!clip) {
            project::Assets one;
            one[name] = project::Asset(store_.picture(it->second));
            clip = project::clipOf(one, name, rate);
        }
        return clip;
    };
    return r;
}

Result<Done> Device::load(const site::Config& config) {
    if (!config.program) {
        thread_.reset();
        runner_.reset();
        tools_.forget();
    } else if (!runner_) {
        auto runner = std::make_unique<engine::Runner>(setup_.rate, resources());
        if (auto done = runner->load(*config.program); !done)
            return done;
        runner_ = std::move(runner);
        thread_ = std::make_unique<engine::RealtimeThread>(*runner_);
    } else if (auto done = tools_.load(*runner_, *config.program); !done) {
        return done;
    }
    running_ = config;
    std::erase_if(running_.surfaces, [](const auto& one) { return one.second.empty(); });
    soundTold();
    conversationTold();
    rulesTold();
    surfacesTold();
    return Done{};
}

void Device::soundTold() {
    std::erase_if(running_.setUp,
                  [](const auto& one) { return project::comesAndGoes(one.first) && one.second.empty(); });
    if (setup_.sound && model_ && model_->network) // others are told nothing of it
        setup_.sound->tell(project::soundOf(running_.setUp));
}

Result<Done> Device::tryConfig(const site::Config& config, const std::string& author, int revision) {
    if (auto done = stage(config, author, revision); !done)
        return done;
    return commit();
}

Result<Done> Device::stage(const site::Config& config, const std::string& author, int revision) {
    const auto all = whole(config);
    if (auto done = check(all); !done)
        return done;
    if (all.program) { // a loop would be found only when it is to run
        engine::Runner trial(setup_.rate, setup_.resources);
        if (auto done = trial.load(*all.program); !done)
            return done;
    }
    staged_ = Staged{all, author, revision};
    return Done{};
}

Result<Done> Device::commit() {
    if (!staged_)
        return Error{"nothing is staged", setup_.serial, "Stage it first."};
    const auto s = *std::exchange(staged_, {});
    Running before{running_, author_, time_, revision_};
    if (auto done = run(s.config); !done)
        return done;
    before_ = std::move(before);
    author_ = s.author;
    time_ = site::utcNow();
    revision_ = s.revision > 0 ? s.revision : nextRevision();
    told_ = site::fingerprint(running_);
    return Done{};
}

Result<Done> Device::revert() {
    if (!before_)
        return Error{"there is nothing to go back to", setup_.serial, ""};
    const auto b = *std::exchange(before_, {});
    if (auto done = run(b.config); !done)
        return done;
    author_ = b.author;
    time_ = b.time;
    revision_ = b.revision;
    told_ = site::fingerprint(running_);
    return Done{};
}

Result<Done> Device::keep() {
    if (factory())
        return Error{"nothing was tried yet", setup_.serial, "Try something first."};
    if (auto done = store_.add({revision_, site::utcNow(), author_, running_}); !done)
        return done;
    std::set<std::string> used;
    const auto uses = [&](const site::Config& config) {
        used.merge(SurfaceSide::picturesIn(config));
        if (config.program)
            for (const auto& [_, print] : project::filePrints(*config.program))
                used.insert(print);
    };
    uses(running_);
    for (const auto& r : store_.revisions())
        uses(r.config);
    store_.keepPictures(used);
    return Done{};
}

Result<Done> Device::goBack(int number) {
    const auto* r = store_.find(number);
    if (!r)
        return Error{"it holds no revision " + std::to_string(number), setup_.serial,
                     "revisions tells which it holds."};
    return tryConfig(r->config, r->author, r->number);
}

void Device::powerOff() {
    taps_.forget();
    thread_.reset();
    runner_.reset();
    tools_.forget();
    staged_.reset();
    before_.reset();
    stagedKey_.reset();
    keyBefore_.reset();
    tones_.clear();
    running_ = {};
    author_.clear();
    time_.clear();
    revision_ = 0;
    powered_ = identifying_ = muted_ = false;
    conversing_.powered(false, secondsNow());
    rules_.off();
    outside_.off();
    access_.off();
    surfaces_.off();
    knobs_.clear();
    if (showsOthers)
        showsOthers();
    soundChanged();
}

void Device::powerOn() {
    powered_ = true;
    bootedAt_ = secondsNow();
    conversing_.powered(true, bootedAt_);
    boot_ = site::keyText(site::newKeys().open).substr(0, 8);
    running_.setUp = model_ ? project::factorySetUp(*model_) : project::SetUp{};
    if (!setup_.name.empty())
        running_.setUp["name"] = setup_.name;
    if (const auto* k = store_.kept())
        if (run(whole(k->config))) // what cannot run leaves the device silent and says so in state()
        {
            author_ = k->author;
            time_ = k->time;
            revision_ = k->number;
            told_ = site::fingerprint(running_);
        }
    soundChanged();
    conversationTold();
    rulesTold();
    surfacesTold();
}

// ---- small boards ----

Result<Done> Device::stageImage(const std::string& hex, const std::string& author, int revision) {
    if (!model_ || !model_->usb)
        return Error{"it takes no image", setup_.serial, "Stage a configuration."};
    const auto config = site::configOfHexImage(hex, *model_);
    if (!config)
        return config.error();
    return stage(*config, author, revision);
}

Result<std::string> Device::image() const {
    if (!model_ || !model_->usb)
        return Error{"it has no image", setup_.serial, ""};
    if (!store_.kept())
        return Error{"its store is empty", setup_.serial, "Keep something first."};
    auto bytes = site::imageOf(store_.kept()->config);
    if (store_.fault == Store::Fault::corrupt)
        bytes[bytes.size() / 2] ^= 4;
    return site::toIntelHex(bytes);
}

Result<Done> Device::turnKnob(const std::string& id, double at) {
    const auto it = running_.setUp.find(id);
    const bool wallKnob = model_ && model_->use == "dial" && id == "knob 1"; // it only tells
    if (!wallKnob && (it == running_.setUp.end() || !project::isControl(id)))
        return Error{"it has no such knob or push-button", id, ""};
    if (!(at >= 0 && at <= 1))
        return Error{"a knob stands between 0 and 1", id, ""};
    tellOf(site::notice::turned, {id, site::utcNow(), at});
    knobs_[id] = at;
    rules_.happenedHere(project::knobPrefix, id, at);
    if (wallKnob)
        return Done{};
    const auto use = project::readKnob(it->second);
    if (!use || use->path.empty() || !running_.program)
        return Done{};
    const auto place = engine::findParameter(*running_.program, use->path);
    if (!place.block)
        return Done{};
    const engine::BlockView view(*place.block);
    const auto& spec = view.table->specs()[static_cast<std::size_t>(place.index)];
    if (auto done = set(use->path, project::knobValue(*use, spec, at), project::setUpLabel(id)); !done)
        return done.error();
    return Done{};
}

// ---- sound between devices ----

Result<Done> Device::stageAudioKey(const std::string& key) {
    if (store_.lock().empty())
        return Error{"it is not sealed", setup_.serial, "Seal it with the room's password first."};
    if (!key.empty() && !site::readKey(key))
        return Error{"\"key\" is no key", setup_.serial, ""};
    stagedKey_ = key;
    return Done{};
}

Result<Done> Device::commitAudioKey() {
    if (!stagedKey_)
        return Error{"no key is staged", setup_.serial, "Stage it first."};
    const auto before = store_.audioKey();
    if (auto done = store_.setAudioKey(*stagedKey_); !done)
        return done;
    keyBefore_ = before;
    stagedKey_.reset();
    soundChanged();
    return Done{};
}

Result<Done> Device::revertAudioKey() {
    if (!keyBefore_)
        return Error{"there is no key to go back to", setup_.serial, ""};
    if (auto done = store_.setAudioKey(*keyBefore_); !done)
        return done;
    keyBefore_.reset();
    soundChanged();
    return Done{};
}

Result<Done> Device::unseal() {
    if (auto done = store_.setAudioKey(""); !done)
        return done;
    if (auto done = store_.setLock(""); !done)
        return done;
    soundChanged();
    return Done{};
}

void Device::soundChanged() {
    values_.setKey(store_.audioKey().empty() ? std::nullopt : site::readKey(store_.audioKey()));
    if (!setup_.sound)
        return;
    setup_.sound->quiet = (identifying_ && tones_.empty()) || muted_;
    conversing_.setKey(store_.audioKey().empty() ? std::nullopt : site::readKey(store_.audioKey()));
    setup_.sound->setKey(store_.audioKey().empty() ? std::nullopt : site::readKey(store_.audioKey()));
}

// ---- values ----

Result<double> Device::get(const std::string& path) const {
    const auto at = running_.program ? engine::findParameter(*running_.program, path) : engine::Address{};
    if (!at.block) {
        const auto value = project::soundValue(soundNow(), path);
        return value ? Result<double>(value->value)
                     : Error{"there is no such parameter", path, "describe and config tell what there is."};
    }
    if (const auto moved = conversing_.moved(path))
        return *moved;
    return engine::BlockView(*at.block).values[static_cast<std::size_t>(at.index)];
}

Result<double> Device::set(const std::string& path, double value, const std::string& who) {
    if (auto now = get(path); !now)
        return now;
    const auto at = running_.program ? engine::findParameter(*running_.program, path) : engine::Address{};
    if (!at.block) { // of a stream or receiver, which stand in the set-up
        const auto then = project::withSoundValue(soundNow(), path, value);
        if (!then)
            return then.error();
        if (auto done = setUp(then->first, then->second, who); !done)
            return done.error();
        return value;
    }
    const engine::BlockView view(*at.block);
    const auto& spec = view.table->specs()[static_cast<std::size_t>(at.index)];
    if (!(value >= spec.min && value <= spec.max))
        return Error{"the value is outside the range", path,
                     "Use " + formatValue(spec, spec.min) + " to " + formatValue(spec, spec.max) + "."};
    if (const auto done = conversing_.setMoved(path, value, secondsNow())) { // its design stays as it is
        if (!*done)
            return done->error();
        tellOf(site::notice::changed, {path, "", "", who, site::utcNow(), value});
        rules_.parameterSet(path, value);
        return value;
    }
    engine::Block& block = *running_.program->find(at.block->id);
    if (value == spec.def)
        block.values.erase(at.param);
    else
        block.values[at.param] = value;
    if (auto done = runner_->set(block.id, at.param, value); !done)
        return done.error();
    tellOf(site::notice::changed, {path, "", "", who, site::utcNow(), value});
    rules_.parameterSet(path, value);
    return value;
}

Result<Done> Device::setUp(const std::string& id, const std::string& value, const std::string& who) {
    if (!model_)
        return Error{"it has no set-up", setup_.serial, ""};
    if (auto done = project::checkSetUp(*model_, {{id, value}}); !done)
        return done;
    running_.setUp[id] = value;
    if (project::isSound(id))
        soundTold();
    else
        conversationTold();
    tellOf(site::notice::changed, {"", id, value, who, site::utcNow(), 0});
    return Done{};
}

Result<int> Device::putTool(const project::Tool& tool) {
    if (!runner_)
        return Error{"no program runs", setup_.serial, "Try one first."};
    return tools_.put(*runner_, *running_.program, tool);
}

void Device::takeTool(int number) {
    if (runner_)
        tools_.take(*runner_, number);
}

void Device::takeTools() {
    if (runner_)
        tools_.takeAll(*runner_);
}

// ---- what it tells ----

site::DiscoveredDevice Device::describe() const {
    const auto it = running_.setUp.find("name");
    site::DiscoveredDevice f;
    f.model = setup_.model;
    f.modelName = model_ ? model_->name : setup_.model;
    f.serial = setup_.serial;
    f.name = it != running_.setUp.end() ? it->second : setup_.name;
    f.identity = site::keyText(store_.identity().open);
    f.sealed = !store_.lock().empty();
    if (const auto lock = site::readLock(store_.lock()))
        f.salt = site::saltText(lock->salt);
    f.fresh = store_.revisions().empty() && factory();
    f.firmware = !store_.firmware().empty() ? store_.firmware()
                 : !setup_.firmware.empty() ? setup_.firmware
                 : model_                   ? model_->firmware
                                            : "";
    return f;
}

site::DeviceState Device::state() const {
    site::DeviceState s;
    s.powered = powered_;
    s.boot = boot_;
    s.fingerprint = site::fingerprint(running_);
    if (!factory())
        s.running = site::Runs{revision_, s.fingerprint, author_, time_, s.fingerprint != told_};
    if (const auto* k = store_.kept())
        s.kept = site::Runs{k->number, site::fingerprint(k->config), k->author, k->time};
    s.tools = static_cast<int>(tools_.list().size());
    s.missed = thread_ ? static_cast<int>(std::min<std::uint64_t>(thread_->missed(), 2000000000u)) : 0;
    if (const auto key = site::readKey(store_.audioKey()))
        s.audioKey = site::audioKeyPrint(*key);
    return s;
}

std::vector<site::RevisionInfo> Device::revisions() const {
    std::vector<site::RevisionInfo> list;
    for (const auto& r : store_.revisions())
        list.push_back({r.number, r.time, r.author, store_.kept() && store_.kept()->number == r.number});
    return list;
}

std::map<std::string, double> Device::meters() const {
    std::map<std::string, double> peaks;
    if (!runner_)
        return peaks;
    for (const auto& b : running_.program->blocks)
        if (const auto m = runner_->meter({b.id, 0}); m.peakDb > -120)
            peaks[b.id] = std::round(m.peakDb * 10) / 10;
    return peaks;
}

std::map<std::string, double> Device::portLevels(SoundSide::Way way) const {
    return setup_.sound ? setup_.sound->levels(way) : std::map<std::string, double>{};
}

Result<PortTaps::Heard> Device::sound(const std::string& port, bool input, std::uint64_t after) {
    const auto all = model_ ? model_->ports(input) : std::vector<std::string>{};
    if (std::find(all.begin(), all.end(), port) == all.end())
        return Error{std::string("it has no such ") + (input ? "input" : "output"), port.substr(0, 40), ""};
    return taps_.take(runner_.get(), setup_.resources, port, input, after, secondsNow());
}

// Temperature: what its heat warms it above a rack of 24 degrees, by 0.25 K a watt, a made-up figure for a made-up box.
site::Vitals Device::health() const {
    const double warm = 24 + 0.25 * (model_ ? std::max(model_->heat, 4.0) : 4.0);
    site::Vitals v;
    v.clip = faults_.clip;
    if (runner_)
        for (const auto& b : running_.program->blocks)
            v.clip = v.clip || runner_->meter({b.id, 0}).peakDb > -0.05;
    if (model_ && model_->amplifier)
        for (const auto& port : model_->ports(false)) {
            const auto it = faults_.outputs.find(port);
            if (port.rfind("out", 0) == 0)
                v.outputs[port] = it == faults_.outputs.end() ? "good" : it->second;
        }
    if (setup_.sound)
        for (const auto& [port, how] : setup_.sound->heard())
            v.sounds[port] = how;
    v.contacts = conversing_.contacts();
    v.mutes = conversing_.mutes();
    if (setup_.far)
        v.lines = setup_.far->words();
    v.celsius = faults_.celsius > 0 ? faults_.celsius : std::round(warm * 10) / 10;
    v.clockLost = faults_.clockLost;
    if (setup_.sound) {
        static constexpr const char* words[]{"", "leads", "follows", "free"};
        const auto clock = setup_.sound->clock();
        v.clock = words[static_cast<std::size_t>(clock.how)];
        v.clockFrom = clock.leader;
        v.clockAhead = std::round(clock.aheadSamples * 10) / 10;
    }
    v.firmware = describe().firmware;
    v.firmwareBefore = store_.firmwareBefore();
    v.uptime = std::floor(secondsNow() - bootedAt_);
    v.muted = muted_;
    v.lamp = identifying_                          ? "blinks"
             : !muted_                             ? "live"
             : conversing_.ownAgreed(secondsNow()) ? "muted"
                                                   : "waits"; // nobody who cuts the sound was heard of
    return v;
}

// ---- people at the device ----

void Device::identify(bool on, bool tone) {
    for (const int number : std::exchange(tones_, {}))
        takeTool(number);
    identifying_ = on;
    if (on && tone && runner_)
        for (const auto& b : running_.program->blocks)
            if (engine::endOf(b) == engine::End::leaves && tools_.list().size() < project::ToolsAtWork::most) {
                project::Tool t;
                t.kind = project::Tool::Kind::inject;
                t.at = {b.id, 0};
                t.signal = "sine";
                t.hz = 1000;
                t.levelDb = identifyDb;
                if (const auto number = tools_.put(*runner_, *running_.program, t))
                    tones_.push_back(*number);
            }
    soundChanged();
}

void Device::pressButton() {
    holdButton(true);
    holdButton(false);
}

void Device::holdButton(bool down) {
    if (!down)
        return rules_.button(false);
    if (running_.setUp.count("mute self")) {
        conversing_.press(secondsNow());
    } else {
        muted_ = !muted_;
        soundChanged();
    }
    tellOf(site::notice::pressed, {muted_, site::utcNow()});
    rules_.button(true);
}

void Device::factoryReset() {
    powerOff();
    store_.erase();
    powerOn();
}

Result<Done> Device::update(const std::string& firmware) {
    if (!model_ || firmware != model_->firmware)
        return Error{"there is no firmware " + firmware.substr(0, 20) + " for it", setup_.serial, ""};
    const auto now = describe().firmware;
    if (now == firmware)
        return Error{"it has that firmware already", setup_.serial, ""};
    return store_.setFirmware(firmware, now);
}

Result<Done> Device::rollBack() {
    if (store_.firmwareBefore().empty())
        return Error{"it knows no firmware before this one", setup_.serial, ""};
    return store_.setFirmware(store_.firmwareBefore(), "");
}

void Device::note(const std::string& who, const std::string& what, bool bad) {
    const site::Event e{site::utcNow(), setup_.serial, who, what, bad};
    store_.note(e);
    tellOf(site::notice::event, e);
}

void Device::tend() {
    taps_.tend(runner_.get(), secondsNow());
    if (!runner_)
        return;
    runner_->tend();
    tools_.tend(*runner_, *running_.program);
}

} // namespace loom::rig
