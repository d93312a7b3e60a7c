#include "rig/device.h"
#include "engine/block_kind.h"
#include "project/catalogue.h"
#include "project/findings.h"
#include "project/json.h"
#include "project/safe_file.h"
#include <cinttypes>
#include <filesystem>

namespace loom::rig {

using engine::Program;
using nlohmann::json;

namespace {

constexpr std::size_t storeSize = 4u << 20;

// FNV-1a, 64 bit (Fowler, Noll, Vo): enough against damage, not against ill will.
std::string checksum(const std::string& text) {
    std::uint64_t h = 0xcbf29ce484222325ull;
    for (const char c : text)
        h = (h ^ static_cast<unsigned char>(c)) * 0x100000001b3ull;
    char hex[20];
    std::snprintf(hex, sizeof hex, "%016" PRIx64, h);
    return hex;
}

} // namespace

std::string fingerprint(const Program& program) {
    json j = project::toJson(program);
    j.erase("revision");
    for (auto& b : j["blocks"])
        b.erase("marks");
    return checksum(j.dump(-1, ' ', false, json::error_handler_t::replace));
}

Device::Device(DeviceSetup setup) : setup_(std::move(setup)) {
    std::error_code none;
    std::filesystem::create_directories(setup_.folder, none);
    powerOn();
}

Device::~Device() = default;

std::string Device::storePath() const {
    return setup_.folder + "/" + setup_.serial + ".store";
}

Result<Done> Device::run(const Program& program) {
    if (!runner_) {
        auto runner = std::make_unique<engine::Runner>(setup_.rate, setup_.resources);
        if (auto done = runner->load(program); !done)
            return done;
        runner_ = std::move(runner);
        thread_ = std::make_unique<engine::RealtimeThread>(*runner_);
    } else if (auto done = tools_.load(*runner_, program); !done) {
        return done;
    }
    running_ = program;
    return Done{};
}

Result<Done> Device::tryProgram(const Program& program, const std::string& author) {
    project::Device planned{"device", setup_.name, setup_.model, ""};
    planned.program = program;
    for (const auto& f : project::check(planned))
        if (f.code == "over-budget" || f.code == "no-such-port")
            return Trouble{f.reason, f.place, f.remedy};
    auto done = run(program);
    if (done)
        author_ = author;
    return done;
}

Result<Done> Device::keep() {
    if (!running_)
        return Trouble{"no program runs", setup_.name, "Try one first."};
    const json program = project::toJson(*running_);
    const std::string text = program.dump(-1, ' ', false, json::error_handler_t::replace);
    if (text.size() > storeSize)
        return Trouble{"the program is larger than the store (4 MiB)", setup_.name, "Remove blocks."};
    const json store = {{"sum", checksum(text)}, {"author", author_}, {"program", text}};
    return project::writeWhole(storePath(), store.dump(), true);
}

std::optional<Program> Device::readStore(const std::string& path) const {
    auto text = project::readWhole(path, 4 * storeSize);
    if (!text)
        return {};
    auto store = project::parseJson(*text, path);
    if (!store || !store->is_object())
        return {};
    const json body = store->value("program", json());
    if (!body.is_string() || store->value("sum", json()) != checksum(body.get<std::string>()))
        return {};
    auto parsed = project::parseJson(body.get<std::string>(), path);
    if (!parsed)
        return {};
    auto program = project::programFromJson(*parsed);
    return program ? std::optional<Program>(*program) : std::nullopt;
}

std::optional<Program> Device::kept() const {
    auto program = readStore(storePath());
    return program ? program : readStore(storePath() + ".previous");
}

void Device::powerOff() {
    thread_.reset();
    runner_.reset();
    running_.reset();
    tools_.forget();
    author_.clear();
    powered_ = false;
}

void Device::powerOn() {
    powered_ = true;
    if (const auto program = kept())
        (void)bool(run(*program)); // what cannot run leaves the device silent and says so in state()
}

Result<double> Device::get(const std::string& path) const {
    const auto at = running_ ? engine::findParameter(*running_, path) : engine::Address{};
    if (!at.block)
        return Trouble{"there is no such parameter", path, "describe and program tell what there is."};
    return engine::BlockView(*at.block).values[static_cast<std::size_t>(at.index)];
}

Result<double> Device::set(const std::string& path, double value) {
    if (auto now = get(path); !now)
        return now;
    const auto at = engine::findParameter(*running_, path);
    const engine::BlockView view(*at.block);
    const auto& spec = view.table->specs()[static_cast<std::size_t>(at.index)];
    if (!(value >= spec.min && value <= spec.max))
        return Trouble{"the value is outside the range", path,
                       "Use " + formatValue(spec, spec.min) + " to " + formatValue(spec, spec.max) + "."};
    engine::Block& block = *running_->find(at.block->id);
    if (value == spec.def)
        block.values.erase(at.param);
    else
        block.values[at.param] = value;
    if (auto done = runner_->set(block.id, at.param, value); !done)
        return done.trouble();
    return value;
}

Result<int> Device::putTool(const project::Tool& tool) {
    if (!runner_)
        return Trouble{"no program runs", setup_.name, "Try one first."};
    return tools_.put(*runner_, *running_, tool);
}

void Device::takeTool(int number) {
    if (runner_)
        tools_.take(*runner_, number);
}

void Device::takeTools() {
    if (runner_)
        tools_.takeAll(*runner_);
}

json Device::describe() const {
    const auto* model = project::findModel(setup_.model);
    return {{"model", setup_.model},   {"modelName", model ? model->name : setup_.model},
            {"serial", setup_.serial}, {"name", setup_.name},
            {"rate", setup_.rate},     {"firmware", "1.0"}};
}

json Device::state() const {
    json j = {{"powered", powered_}, {"running", nullptr}, {"kept", nullptr}};
    if (running_)
        j["running"] = {{"revision", running_->revision}, {"fingerprint", fingerprint(*running_)}, {"author", author_}};
    if (const auto k = kept())
        j["kept"] = {{"revision", k->revision}, {"fingerprint", fingerprint(*k)}};
    j["tools"] = tools_.list().size();
    j["missed"] = thread_ ? thread_->missed() : 0;
    return j;
}

json Device::meters() const {
    json j = json::object();
    if (!runner_)
        return j;
    for (const auto& b : running_->blocks)
        if (const auto m = runner_->meter({b.id, 0}); m.peakDb > -120)
            j[b.id] = std::round(m.peakDb * 10) / 10;
    return j;
}

void Device::tend() {
    if (!runner_)
        return;
    runner_->tend();
    tools_.tend(*runner_, *running_);
}

} // namespace loom::rig
