#include "access/access_edit.h"
#include "dsp/words.h"
#include "engine/program.h"
#include "model/describe.h"
#include "outside/outside_address.h"
#include "rules/rule_home.h"
#include <algorithm>

namespace loom::project {
namespace {

constexpr int webPorts[]{4780, 4781}; // of pages: serve/page_server.h

Error noAccess(const std::string& device) {
    return {"nothing is allowed from outside there", device.substr(0, 80), "Allow something first."};
}

Error noDevice(const std::string& device) {
    return {"is no processor that can be asked from outside", device.substr(0, 80),
            "Choose one with a program and a network port."};
}

// With no way open and nothing allowed there is no more to remember.
Project tidy(Project p) {
    erase_if(p.access, [](const Access& a) {
        auto none = Access{};
        none.id = a.id;
        return a == none;
    });
    return p;
}

Access& accessOf(Project& p, const std::string& device) {
    if (auto* a = p.accessOf(device))
        return *a;
    Access a;
    a.id = device;
    p.access.push_back(a);
    return *p.accessOf(device);
}

AllowedSignal* allowedOf(Access* access, const std::string& name) {
    if (access)
        for (auto& a : access->allowed)
            if (a.name == name)
                return &a;
    return nullptr;
}

std::string joined(const std::vector<std::string>& all) {
    std::string text;
    for (const auto& one : all)
        text += (text.empty() ? "" : ", ") + one;
    return text;
}

} // namespace

std::vector<const Device*> accessDevices(const Project& p) {
    std::vector<const Device*> all;
    for (const auto& d : p.devices)
        if (runsRules(d))
            all.push_back(&d);
    return all;
}

bool isAccessOf(const Project& p, const std::string& device, const Signal& s) {
    if (s.path == startPath)
        return false; // nobody else may say that power came
    const bool moment = s.path.rfind(cuePrefix, 0) == 0 || s.path.rfind(scenePrefix, 0) == 0;
    return moment || tellerOf(p, s) == device;
}

std::string accessName(const Project& p, const std::string& device, const Signal& s) {
    // "Box · Hall · Level" -> "hall/level"
    static const std::string dot = " \u00b7 ";
    std::string name;
    const auto* d = p.device(device);
    const auto own = d ? d->name + dot : dot; // that it is the device's need not be said
    std::size_t at = s.label.rfind(own, 0) == 0 ? own.size() : 0;
    while (at <= s.label.size()) {
        const auto end = std::min(s.label.find(dot, at), s.label.size());
        auto part = engine::slug(s.label.substr(at, end - at));
        std::replace_if(
            part.begin(), part.end(), [](char c) { return !((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9')); }, '-');
        if (!part.empty() && part.find_first_not_of('-') != std::string::npos)
            name += (name.empty() ? "" : "/") + part;
        at = end + dot.size();
    }
    name = name.substr(0, 70);
    while (!name.empty() && (name.back() == '/' || name.back() == '-'))
        name.pop_back();
    if (!isAccessName(name))
        name = "value";
    const auto* access = p.accessOf(device);
    auto free = name;
    for (int n = 2; access && access->find(free); ++n)
        free = name + "-" + std::to_string(n);
    return free;
}

Result<Edit> allowSignal(const Project& p, const std::string& device, const std::string& signal, bool sets) {
    const auto* d = p.device(device);
    if (!d || !runsRules(*d))
        return noDevice(device);
    const auto s = signalOf(p, signal);
    if (!s)
        return Error{"there is no such signal", signal.substr(0, 120), ""};
    if (!isAccessOf(p, device, *s)) {
        const auto* other = p.device(tellerOf(p, *s));
        return Error{"is not a signal of " + d->name, s->label,
                     other ? "Allow it on " + other->name + "." : "No device tells it."};
    }
    if (const auto* a = p.accessOf(device)) {
        if (a->allowed.size() >= mostAllowed)
            return Error{"a device allows at most 2,000 signals", d->name, ""};
        for (const auto& one : a->allowed)
            if (one.signal == signal)
                return Error{"is allowed already, as " + one.name, s->label, ""};
    }
    AllowedSignal one;
    one.name = accessName(p, device, *s);
    one.signal = signal;
    one.sets = sets && canBeSet(*s);
    return Edit{"Allow " + s->label + " from outside", [device, one](Project now) -> Result<Project> {
                    auto& a = accessOf(now, device);
                    if (a.find(one.name))
                        return Error{"is allowed already", one.name, ""};
                    a.allowed.push_back(one);
                    return now;
                }};
}

Result<Edit> forbidSignal(const Project& p, const std::string& device, const std::string& name) {
    const auto* a = p.accessOf(device);
    if (!a || !a->find(name))
        return Error{"is not allowed from outside there", name.substr(0, 80), ""};
    return Edit{"Allow " + name + " no more", [device, name](Project now) -> Result<Project> {
                    if (auto* to = now.accessOf(device))
                        std::erase_if(to->allowed, [&](const auto& one) { return one.name == name; });
                    return tidy(std::move(now));
                }};
}

std::vector<Field> accessFields(const Project& p, const std::string& device) {
    Access none;
    const auto* a = p.accessOf(device);
    if (!a)
        a = &none;
    std::vector<Field> all;
    for (auto& f : shownFields(*a)) {
        const bool osc = f.id == "osc";
        if ((f.id != "oscPort" || a->osc) && (f.id != "linesPort" || a->lines)) // of ways that are open
            all.push_back(std::move(f));
        if (osc && a->osc) {
            Field to{"oscTo", "OSC tells changes to"};
            to.text = joined(a->oscTo);
            to.letters = 1000;
            all.push_back(to);
        }
    }
    return all;
}

Edit setAccessField(const std::string& device, const std::string& field, const std::string& value) {
    return {"Change control from outside", [=](Project now) -> Result<Project> {
                if (const auto* d = now.device(device); !d || !runsRules(*d))
                    return noDevice(device);
                auto& a = accessOf(now, device);
                if (field != "oscTo") {
                    if (const auto e = setShownField(a, field, value, "control from outside has no such field"))
                        return *e;
                    return tidy(std::move(now));
                }
                std::vector<std::string> all;
                std::size_t at = 0;
                while (at <= value.size()) {
                    const auto end = std::min(value.find_first_of(",;", at), value.size());
                    if (const auto one = trimmed(value.substr(at, end - at)); !one.empty()) {
                        if (const auto to = readOscTo(one); !to)
                            return to.error();
                        all.push_back(one);
                    }
                    at = end + 1;
                }
                if (all.size() > mostOscTo)
                    return Error{"changes are told to at most 16", "oscTo", ""};
                a.oscTo = all;
                return tidy(std::move(now));
            }};
}

std::vector<Field> allowedFields(const Project& p, const std::string& device, const std::string& name) {
    const auto* a = p.accessOf(device);
    const auto* one = a ? a->find(name) : nullptr;
    if (!one)
        return {};
    const auto s = signalOf(p, one->signal);
    std::vector<Field> all;
    for (auto& f : shownFields(*one))
        if (f.id != "sets" || !s || canBeSet(*s))
            all.push_back(std::move(f));
    if (s && s->isNumber() && one->sets) // as people write it, with its unit; nothing: as far as it goes
        for (const auto& [id, label, v] : {std::tuple("low", "From", one->low), {"high", "To", one->high}}) {
            Field f{id, label};
            f.text = v ? valueText(*s, *v) : std::string();
            all.push_back(f);
        }
    return all;
}

Edit setAllowedField(const std::string& device, const std::string& name, const std::string& field,
                     const std::string& value) {
    return {"Change what is allowed from outside", [=](Project now) -> Result<Project> {
                auto* a = now.accessOf(device);
                auto* one = allowedOf(a, name);
                if (!one)
                    return noAccess(device);
                if (field == "low" || field == "high") {
                    const auto s = signalOf(now, one->signal);
                    if (!s || !s->isNumber())
                        return Error{"has no range", name, ""};
                    auto& to = field == "low" ? one->low : one->high;
                    to.reset();
                    if (!trimmed(value).empty()) {
                        const auto v = readSignalValue(*s, value);
                        if (!v)
                            return v.error();
                        to = *v;
                    }
                    if (one->low.value_or(s->spec.min) >= one->high.value_or(s->spec.max))
                        return Error{"its least value does not lie below its most", name, ""};
                    return now;
                }
                if (field == "name" && value != name && a->find(value))
                    return Error{"another one has that name", value.substr(0, 80), "Choose another."};
                if (field == "name" && !isAccessName(value))
                    return Error{"is no name for others", value.substr(0, 80),
                                 "Use small letters, digits, - and, between others, /."};
                if (const auto e = setShownField(*one, field, value, "what is allowed has no such field"))
                    return *e;
                return now;
            }};
}

std::set<std::string> accessRoles(const Access& access) {
    std::set<std::string> all;
    for (const auto& one : access.allowed)
        if (!one.role.empty())
            all.insert(one.role);
    return all;
}

std::vector<Error> accessErrors(const Project& p, const Access& a) {
    std::vector<Error> all;
    const auto* d = p.device(a.id);
    if (!d || !runsRules(*d))
        return {noDevice(a.id)};
    for (const auto& one : a.allowed) {
        const auto s = signalOf(p, one.signal);
        if (!isAccessName(one.name))
            all.push_back({"is no name for others", one.name.substr(0, 80),
                           "Use small letters, digits, - and, between others, /."});
        if (!s)
            all.push_back(
                {"what it stands for is not there: " + one.signal, one.name, "Take it out, or allow another."});
        else if (!isAccessOf(p, a.id, *s))
            all.push_back({s->label + " is no signal of " + d->name, one.name, "Allow it where it is known."});
    }
    if (a.any() && a.allowed.empty())
        all.push_back({"a way is open and nothing is allowed", "", "Allow something, or close it."});
    for (const int port : webPorts)
        if (a.lines && a.linesPort == port)
            all.push_back(
                {"TCP port " + std::to_string(port) + " is that of its pages", "linesPort", "Choose another."});
    if (!a.web && !a.lines)
        for (const auto& role : accessRoles(a))
            if (a.osc)
                all.push_back({"OSC knows no PIN: what asks for that of " + role + " cannot be reached", "osc",
                               "Open another way for it, or ask for no PIN."});
    return all;
}

Result<std::pair<std::string, int>> readOscTo(const std::string& text) {
    OutsideKind osc;
    osc.link = OutsideKind::Link::osc;
    const auto at = readOutsideAddress(osc, text);
    if (!at)
        return at.error();
    if (at->port <= 0)
        return Error{"has no port", text.substr(0, 80), "As in 192.0.2.9:9000."};
    return std::pair(at->host, at->port);
}

std::vector<std::string> accessWays(const Access& a) {
    std::vector<std::string> all;
    if (a.osc)
        all.push_back("OSC 1.0: UDP " + std::to_string(a.oscPort));
    if (a.web)
        all.push_back("HTTP and WebSocket: http://\u2026:" + std::to_string(webPorts[0]) + "/api/");
    if (a.lines)
        all.push_back("Lines of text: TCP " + std::to_string(a.linesPort));
    return all;
}

} // namespace loom::project
