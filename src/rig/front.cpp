#include "rig/front.h"
#include "file/project_json.h"
#include "schema/json_text.h"
#include <algorithm>

namespace loom::rig {

using nlohmann::json;
using site::Caller;
using site::Code;
using site::Refusal;

namespace {

std::string errorText(const json& id, Code code, const std::string& text) {
    return json{{"jsonrpc", "2.0"}, {"id", id}, {"error", {{"code", static_cast<int>(code)}, {"message", text}}}}.dump(
        -1, ' ', false, json::error_handler_t::replace);
}

// Reads what is asked by its declaration, and writes what is answered.
template <class Ask, class Answer, class Function> json answered(const json& params, Function function) {
    auto ask = schema::fromJson<Ask>(params, "params");
    if (!ask)
        throw Refusal{Code::wrongParams, ask.error()};
    return schema::toJson<Answer>(function(*ask));
}

const char* const notProved = "A password was tried, and not proved.";

} // namespace

Front::Front(Device& device, std::function<double()> now) : device_(device), now_(std::move(now)) {
#define LOOM_ONE(id, wire, Ask, Answer, who, says)                                                                     \
    handlers_[wire] = {Caller::who, [this](const json& params, Line& line) {                                           \
                           return answered<site::Ask, site::Answer>(                                                   \
                               params, [&](const site::Ask& ask) { return id(ask, line); });                           \
                       }};
    LOOM_MESSAGES(LOOM_ONE)
#undef LOOM_ONE
    device_.tell = [this](const std::string& text) { tellAll(text); };
}

Front::~Front() {
    device_.tell = nullptr;
}

bool Front::may(const Line& line, Caller caller) const {
    if (caller == Caller::anyone)
        return true;
    return line.channel && (caller == Caller::encrypted || device_.store().lock().empty() || line.unlocked);
}

// ---- lines ----

bool Front::makeRoom(const std::string& source) {
    std::map<std::string, int> bySource;
    ++bySource[source];
    for (const auto& [_, line] : lines_)
        if (!line.known)
            ++bySource[line.source];
    const Line* goes = nullptr;
    const auto before = [&](const Line& a, const Line& b) { // a goes before b
        const auto rank = [&](const Line& l) {
            return std::tuple(-bySource[l.source], l.channel.has_value(), may(l, Caller::unlocked), l.heardAt);
        };
        return rank(a) < rank(b);
    };
    for (const auto& [_, line] : lines_)
        if (!line.known && (!goes || before(line, *goes)))
            goes = &line;
    if (!goes)
        return false;
    end(goes->number);
    return true;
}

int Front::opened(const std::string& source, Carrier carrier) {
    if (lines_.size() >= mostLines && !makeRoom(source)) {
        carrier.drop();
        return -1;
    }
    const int number = nextLine_++;
    auto& line = lines_[number];
    line.number = number;
    line.source = source;
    line.carrier = std::move(carrier);
    line.openedAt = line.heardAt = now_();
    line.carrier.allow(site::mostBeforeUnlocked);
    return number;
}

void Front::closed(int number) {
    const auto line = lines_.find(number);
    if (line == lines_.end())
        return;
    const bool tried = line->second.check.has_value();
    lines_.erase(line);
    if (tried)
        device_.note("somebody", notProved, true);
    for (auto it = toolOwners_.begin(); it != toolOwners_.end();)
        if (it->second == number) { // nobody is left to take it away
            device_.takeTool(it->first);
            it = toolOwners_.erase(it);
        } else {
            ++it;
        }
    if (lines_.empty()) {
        device_.identify(false);
        device_.discard();
    }
}

void Front::end(int number) {
    const auto it = lines_.find(number);
    if (it == lines_.end())
        return;
    const auto drop = it->second.carrier.drop;
    closed(number);
    drop();
}

void Front::closeAll() {
    const auto lines = std::exchange(lines_, {});
    toolOwners_.clear();
    device_.takeTools();
    for (const auto& [_, line] : lines)
        line.carrier.drop();
}

void Front::tick() {
    const double now = now_();
    std::vector<int> late;
    for (const auto& [number, line] : lines_)
        if (!may(line, Caller::unlocked) && ((!line.channel && now - line.openedAt > encryptWithin) ||
                                             now - line.heardAt > silentFor || now - line.openedAt > unlockWithin))
            late.push_back(number);
    for (const int number : late)
        end(number);
}

void Front::allowAll() {
    for (const auto& [_, line] : lines_)
        line.carrier.allow(may(line, Caller::unlocked) ? site::mostUnlocked : site::mostBeforeUnlocked);
}

void Front::send(Line& line, const std::string& text) {
    line.channel ? line.carrier.send(line.channel->seal(text), true) : line.carrier.send(text, false);
}

void Front::tellAll(const std::string& text) {
    for (auto& [_, line] : lines_)
        if (may(line, Caller::unlocked))
            send(line, text);
}

void Front::received(int number, const std::string& bytes, bool box) {
    auto it = lines_.find(number);
    if (it == lines_.end())
        return;
    Line& line = it->second;
    const std::size_t most = may(line, Caller::unlocked) ? site::mostUnlocked : site::mostBeforeUnlocked;
    // An encrypted line takes nothing in the open any more, and the other way round.
    if (bytes.size() > most || box != line.channel.has_value())
        return end(number);
    line.heardAt = now_();
    std::string text = bytes;
    if (box) {
        auto opened = line.channel->open(bytes);
        if (!opened) {
            device_.note("somebody", "A message that did not belong to its line was thrown away.", true);
            return end(number);
        }
        text = std::move(*opened);
    }
    const auto answer = reply(text, line);
    send(line, answer);
    if (next_) {
        line.channel = std::exchange(next_, std::nullopt);
        allowAll();
    }
    if (const auto after = std::exchange(after_, nullptr))
        after();
}

std::string Front::reply(const std::string& message, Line& line) {
    json id = nullptr;
    const auto request = project::parseJson(message, "message");
    if (!request)
        return errorText(id, Code::notJson, request.error().text());
    if (!request->is_object() || !request->value("method", json()).is_string())
        return errorText(id, Code::noRequest, "A request is an object with jsonrpc, id, method and params.");
    id = request->value("id", json());
    if (!id.is_null() && !id.is_number() && !(id.is_string() && id.get_ref<const std::string&>().size() < 100))
        return errorText(nullptr, Code::noRequest, "An id is a number or a short text.");
    const auto& method = request->at("method").get_ref<const std::string&>();
    try {
        const auto it = handlers_.find(method);
        if (it == handlers_.end())
            throw Refusal{Code::noMethod,
                          {"there is no method \"" + method.substr(0, 60) + "\"", "", "docs/protocol.md lists them."}};
        if (!may(line, it->second.caller))
            throw site::refusalFor(it->second.caller, line.channel.has_value(), device_.made().serial);
        const json params = request->value("params", json::object());
        const json result = it->second.handler(params, line);
        return json{{"jsonrpc", "2.0"}, {"id", id}, {"result", result}}.dump(-1, ' ', false,
                                                                             json::error_handler_t::replace);
    } catch (const Refusal& r) {
        return errorText(id, r.code, r.why.text());
    }
}

Result<Done> Front::setPassword(const std::string& password) {
    if (password.empty())
        return setLock("");
    const auto lock = site::lockOf(password);
    if (!lock)
        return lock.error();
    return setLock(site::lockText(*lock));
}

Result<Done> Front::setLock(const std::string& text) {
    if (auto done = device_.store().setLock(text); !done)
        return done;
    for (auto& [_, line] : lines_) {
        line.unlocked = line.known = false;
        line.check.reset();
    }
    allowAll();
    return Done{};
}

} // namespace loom::rig
