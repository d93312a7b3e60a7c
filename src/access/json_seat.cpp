#include "access/json_seat.h"
#include "dsp/number.h"
#include "schema/json_text.h"
#include <algorithm>

namespace loom::project {
namespace {

using nlohmann::json;
using Verb = AccessAsk::Verb;

std::string lineOf(const json& j) { // bytes that are no UTF-8 are replaced
    return j.dump(-1, ' ', false, json::error_handler_t::replace);
}

json valueJson(const AccessItem& i, std::optional<double> v) {
    if (!v)
        return nullptr;
    if (i.signal.isNumber())
        return *v;
    if (i.signal.spec.unit == engine::Unit::onOff)
        return *v >= 0.5;
    return valueText(i.signal, *v);
}

json itemJson(const AccessItem& i) {
    json j{{"name", i.allowed.name}, {"label", i.signal.label}, {"sets", i.allowed.sets}};
    if (i.signal.pulse) {
        j["moment"] = true;
        return j;
    }
    if (i.signal.isNumber())
        j["low"] = i.low, j["high"] = i.high;
    else if (i.signal.spec.unit == engine::Unit::choice)
        j["choices"] = i.signal.spec.choices;
    return j;
}

json told(const AccessItem& i, std::optional<double> v) {
    return {{"name", i.allowed.name}, {"value", valueJson(i, v)}, {"text", v ? valueText(i.signal, *v) : "unknown"}};
}

// "" for what is none.
std::string typed(const json& j) {
    if (j.is_boolean())
        return j.get<bool>() ? "on" : "off";
    if (j.is_number())
        return plainText(j.get<double>());
    return j.is_string() ? j.get<std::string>() : std::string();
}

int statusOf(AccessAnswer::Why why) {
    switch (why) {
    case AccessAnswer::Why::unknown:
        return 404;
    case AccessAnswer::Why::pin:
        return 401;
    case AccessAnswer::Why::denied:
        return 403;
    case AccessAnswer::Why::wrong:
        return 400;
    case AccessAnswer::Why::often:
        return 429;
    case AccessAnswer::Why::away:
        return 503;
    }
    return 400;
}

json errorJson(const Error& e) {
    return {{"error", e.message}, {"place", e.place}, {"remedy", e.remedy}};
}

json answerOf(const AccessHost& host, const AccessAnswer& a) {
    switch (a.is) {
    case AccessAnswer::Is::value:
        return told(*a.item, a.value);
    case AccessAnswer::Is::done:
        return {{"done", true}};
    case AccessAnswer::Is::list: {
        json all = json::array();
        for (const auto* i : a.list) {
            auto one = itemJson(*i);
            if (!i->signal.pulse)
                one.update(told(*i, host.now(*i)));
            all.push_back(std::move(one));
        }
        return {{"values", all}};
    }
    case AccessAnswer::Is::refused:
        return errorJson(a.error);
    }
    return {};
}

// RFC 4648, 4. None: it is none.
std::optional<std::string> fromBase64(const std::string& t) {
    static constexpr std::string_view signs = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    unsigned held = 0;
    int bits = 0;
    for (const char c : t.substr(0, t.find_last_not_of('=') + 1)) {
        const auto at = signs.find(c);
        if (at == std::string_view::npos)
            return {};
        held = held << 6 | static_cast<unsigned>(at);
        if ((bits += 6) >= 8)
            out += static_cast<char>(held >> (bits -= 8) & 255);
    }
    return out;
}

JsonAnswer answered(int status, const json& j) {
    return {status, lineOf(j) + "\n"};
}

} // namespace

JsonAnswer answerJson(AccessHost& host, const std::string& method, const std::string& name, const std::string& body,
                      const std::string& authorization, const std::string& source) {
    AccessHost::Caller caller;
    caller.source = source;
    const auto put = [&](const AccessAsk& ask) {
        const auto a = host.ask(ask, caller);
        return answered(a.is == AccessAnswer::Is::refused ? statusOf(a.why) : 200, answerOf(host, a));
    };
    if (!authorization.empty()) { // RFC 7617
        const auto both = authorization.rfind("Basic ", 0) == 0 ? fromBase64(authorization.substr(6)) : std::nullopt;
        const auto colon = both ? both->find(':') : std::string::npos;
        if (colon == std::string::npos)
            return answered(400, errorJson({"is no role with its PIN", "Authorization", "As in Basic ROLE:PIN."}));
        AccessAsk pin{Verb::pin, both->substr(0, colon), both->substr(colon + 1)};
        if (const auto a = host.ask(pin, caller); a.is == AccessAnswer::Is::refused)
            return answered(401, errorJson(a.error));
    }
    if (method == "GET" || method == "HEAD")
        return put({name.empty() ? Verb::list : Verb::get, name, {}});
    const auto* item = host.find(name);
    if (body.empty() && method == "POST" && (!item || item->signal.pulse))
        return put({Verb::give, name, {}});
    const auto j = parseJson(body, "body");
    if (!j)
        return answered(400, errorJson(j.error()));
    if (method == "PUT") {
        const auto& v = j->is_object() && j->contains("value") ? (*j)["value"] : *j;
        return put({Verb::set, name, typed(v)});
    }
    if (method == "POST" && j->is_object()) {
        if (j->contains("step"))
            return put({Verb::step, name, typed((*j)["step"])});
        if (j->contains("toggle"))
            return put({Verb::toggle, name, {}});
        if (j->contains("give"))
            return put({Verb::give, name, {}});
    }
    return method == "POST" ? answered(400, errorJson({"says nothing that can be done", "body",
                                                       "{\"step\": 1}, {\"toggle\": true} and {\"give\": true} do."}))
                            : answered(405, errorJson({"only GET, PUT and POST are answered", method, ""}));
}

std::string JsonSeat::received(const std::string& message, double now) {
    const auto j = message.size() <= longestMessage ? parseJson(message, "message")
                                                    : Result<json>(Error{"is longer than 1,000 bytes", "message", ""});
    if (!j)
        return lineOf(errorJson(j.error()));
    const auto word = [&](std::size_t i) { return i < j->size() ? typed((*j)[i]) : std::string(); };
    const auto* verb = j->is_array() ? accessVerb(word(0)) : nullptr;
    if (!verb)
        return lineOf(errorJson({"is nothing that can be asked", "message", "As in [\"set\", \"hall/level\", -6]."}));
    return lineOf(answerOf(host_, seat_.ask({verb->verb, word(1), word(2)}, now)));
}

std::vector<std::string> JsonSeat::tell(const std::vector<std::optional<double>>& values) {
    std::vector<std::string> out;
    for (const auto& t : seat_.changed(values))
        out.push_back(lineOf(told(*t.item, t.value)));
    return out;
}

} // namespace loom::project
