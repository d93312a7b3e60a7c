#include "patch/patch_edit.h"
#include "dsp/number.h"
#include "dsp/words.h"
#include "model/describe.h"
#include <algorithm>

namespace loom::project {
namespace {

Error noDevice(const std::string& id) {
    return {"There is no device \"" + id.substr(0, 80) + "\"", "", ""};
}

Edit withDevice(Device d, std::string text) {
    const std::string id = d.id;
    return setDevices({{id, std::move(d)}}, std::move(text));
}

template <class T> T* byId(std::vector<T>& all, const std::string& id) {
    const auto it = std::find_if(all.begin(), all.end(), [&](const T& one) { return one.id == id; });
    return it == all.end() ? nullptr : &*it;
}

// Takes part `key` ("device/id") of a list of a copy of its device, and gives what `how` makes of it.
template <class T, class How>
Result<Edit> changed(const Project& p, const std::string& key, std::vector<T> Device::*list, const char* what,
                     How how) {
    const auto [device, id] = endOf(key);
    const auto* d = p.device(device);
    Device then = d ? *d : Device{};
    T* one = d ? byId(then.*list, id) : nullptr;
    if (!one)
        return Error{std::string("There is no ") + what + " \"" + key.substr(0, 80) + "\"", "", ""};
    Result<std::string> text = how(*one);
    return text ? Result<Edit>(withDevice(std::move(then), *text)) : Result<Edit>(text.error());
}

// One after the other, each on what the ones before left.
class Steps {
  public:
    explicit Steps(const Project& p) : now_(p) {}
    const Project& now() const { return now_; }
    std::optional<Error> take(const Result<Edit>& edit) {
        if (!edit)
            return edit.error();
        auto next = edit->make(now_);
        if (!next)
            return next.error();
        now_ = std::move(*next);
        return {};
    }
    Edit made(const Project& before, std::string text) { return editBetween(before, std::move(now_), std::move(text)); }

  private:
    Project now_;
};

} // namespace

Result<Edit> hearChannel(const Project& p, const std::string& key, int channel, const std::string& device,
                         const std::string& slot) {
    const auto patched = patchedOf(p);
    const auto* o = patched.offer(key);
    const auto* d = p.device(device);
    if (!o)
        return Error{"There is no stream \"" + key.substr(0, 80) + "\"", "", ""};
    if (!d)
        return noDevice(device);
    const int count = static_cast<int>(o->stream->ports.size());
    if (channel < 0 || channel >= count)
        return Error{print("There is no channel %d", channel + 1), o->stream->name, print("It has %d.", count)};
    const auto* m = d->spec();
    const auto ports = m ? m->ports(true) : std::vector<std::string>{};
    if (d == o->device || std::find(ports.begin(), ports.end(), slot) == ports.end() ||
        transportOf(slot) != o->transport)
        return Error{"\"" + slot.substr(0, 40) + "\" is no input for it", d->name,
                     "Choose an input of another device on the same transport."};
    for (const auto& r : d->receivers)
        if (std::find(r.inputs.begin(), r.inputs.end(), slot) != r.inputs.end())
            return Error{slot + " hears something already", d->name, "Let it go first, or choose another input."};
    if (d->feeds.count(slot))
        return Error{slot + " hears something already", d->name, "Let it go first, or choose another input."};
    Device then = *d;
    const auto at = static_cast<std::size_t>(channel);
    Receiver* here = nullptr; // that hears this stream alone and has the channel free
    for (auto& r : then.receivers)
        if (r.streams == std::vector{key} && (r.inputs.size() <= at || r.inputs[at].empty()))
            here = &r;
    if (!here) {
        Receiver r;
        r.id = o->stream->id;
        for (int n = 2; byId(then.receivers, r.id); ++n)
            r.id = o->stream->id + "-" + std::to_string(n);
        r.streams = {key};
        then.receivers.push_back(std::move(r));
        here = &then.receivers.back();
    }
    here->inputs.resize(std::max({here->inputs.size(), at + 1, static_cast<std::size_t>(count)}));
    here->inputs[at] = slot;
    return withDevice(std::move(then), d->name + " hears " + o->stream->name + print(", channel %d", channel + 1));
}

Result<Edit> hearAllOf(const Project& p, const std::string& from, const std::string& to) {
    const auto *a = p.device(from), *b = p.device(to);
    if (!a || !b)
        return noDevice(a ? to : from);
    if (a->streams.empty())
        return Error{"offers nothing", a->name, "Offer a stream of it first."};
    Steps steps(p);
    bool any = false;
    for (const auto& s : a->streams) {
        const std::string key = from + "/" + s.id;
        if (std::any_of(b->receivers.begin(), b->receivers.end(), [&](const Receiver& r) {
                return std::find(r.streams.begin(), r.streams.end(), key) != r.streams.end();
            }))
            continue;
        if (auto wrong = steps.take(hearStream(steps.now(), key, to)))
            return *wrong;
        any = true;
    }
    if (!any)
        return Error{"hears all of " + a->name + " already", b->name, ""};
    return steps.made(p, b->name + " hears " + a->name);
}

namespace {

// "hall-mix", or "3 streams".
std::string several(const std::vector<std::string>& keys) {
    return keys.size() == 1 ? endOf(keys[0]).second : print("%d streams", static_cast<int>(keys.size()));
}

// The first input of the same kind of cable that nothing comes to; "": there is none.
std::string freeLeadInput(const Device& d, Transport transport) {
    if (const auto* m = d.spec())
        for (const auto& port : m->ports(true))
            if (transportOf(port) == transport && !d.feeds.count(port))
                return port;
    return {};
}

} // namespace

Result<std::vector<std::string>> portsSaid(const Device& d, const std::string& text) {
    const auto all = d.spec() ? d.spec()->ports(false) : std::vector<std::string>{};
    std::vector<std::string> said;
    std::string kind; // the word before, for "net 1, 3"
    std::size_t at = 0;
    while (at <= text.size()) {
        const auto comma = std::min(text.find(',', at), text.size());
        std::string one = trimmed(std::string_view(text).substr(at, comma - at));
        at = comma + 1;
        if (one.empty())
            continue;
        if (const auto blank = one.find_last_of(" \t"); blank != std::string::npos) {
            kind = lower(trimmed(one.substr(0, blank)));
            one = one.substr(blank + 1);
        }
        const auto dash = one.find('-');
        const auto number = [](const std::string& s) {
            return s.empty() || s.size() > 4 || s.find_first_not_of("0123456789") != s.npos ? -1 : std::stoi(s);
        };
        const int from = number(one.substr(0, dash)),
                  to = dash == std::string::npos ? from : number(one.substr(dash + 1));
        if (from < 1 || to < from || to - from >= 512)
            return Error{"\"" + trimmed(text).substr(0, 60) + "\" names no outputs", d.name,
                         "Type them as net 1-4, net 7."};
        for (int n = from; n <= to; ++n) {
            const std::string port = kind + " " + std::to_string(n);
            if (std::find(all.begin(), all.end(), port) == all.end())
                return Error{"has no output \"" + port.substr(0, 40) + "\"", d.name, ""};
            said.push_back(port);
        }
    }
    if (said.empty())
        return Error{"no outputs are named", d.name, "Type them as net 1-4, net 7."};
    return said;
}

Result<Edit> sendTo(const Project& p, const std::vector<std::string>& keys, const std::string& device,
                    const std::string& slot) {
    const auto* d = p.device(device);
    if (!d)
        return noDevice(device);
    if (keys.empty())
        return Error{"no stream is chosen", "", "Choose what is to be heard first."};
    Steps steps(p);
    std::string at = slot;
    for (const auto& key : keys) {
        std::optional<Error> wrong;
        if (patchedOf(steps.now()).offer(key)) {
            wrong = steps.take(hearStream(steps.now(), key, device, at));
        } else {
            const auto transport = transportOf(endOf(key).second);
            const std::string input = at.empty() ? freeLeadInput(*steps.now().device(device), transport) : at;
            if (input.empty())
                return Error{"has no free input for " + endOf(key).second, d->name, "Take a lead away first."};
            wrong = steps.take(lead(steps.now(), key, device + "/" + input));
        }
        if (wrong)
            return *wrong;
        at.clear();
    }
    return steps.made(p, d->name + " hears " + several(keys));
}

Result<Edit> withdrawAll(const Project& p, const std::vector<std::string>& keys) {
    if (keys.empty())
        return Error{"no stream is chosen", "", "Choose one on the left."};
    Steps steps(p);
    for (const auto& key : keys)
        if (auto wrong = steps.take(withdrawStream(steps.now(), key)))
            return *wrong;
    return steps.made(p, "Withdraw " + several(keys));
}

std::vector<std::string> receiversOfStreams(const Project& p, const std::vector<std::string>& keys) {
    const auto patched = patchedOf(p);
    std::vector<std::string> all;
    for (const auto& key : keys)
        if (const auto* o = patched.offer(key))
            for (const auto h : o->heardBy)
                all.push_back(patched.hearings[h].key);
    return all;
}

std::vector<std::string> receiversOf(const Project& p, const std::string& device) {
    std::vector<std::string> all;
    if (const auto* d = p.device(device))
        for (const auto& r : d->receivers)
            all.push_back(d->id + "/" + r.id);
    return all;
}

Result<Edit> dropReceivers(const Project& p, const std::vector<std::string>& receivers) {
    std::map<std::string, std::optional<Device>> then;
    for (const auto& key : receivers) {
        const auto [device, id] = endOf(key);
        const auto* d = p.device(device);
        if (!d ||
            std::none_of(d->receivers.begin(), d->receivers.end(), [&, &i = id](const auto& r) { return r.id == i; }))
            return Error{"There is no receiver \"" + key.substr(0, 80) + "\"", "", ""};
        auto& one = then.try_emplace(device, *d).first->second;
        std::erase_if(one->receivers, [&, &i = id](const Receiver& r) { return r.id == i; });
    }
    if (then.empty())
        return Error{"nothing is heard there", "", ""};
    return setDevices(std::move(then), receivers.size() == 1 ? "Let go of " + endOf(receivers[0]).second
                                                             : print("Let go of %d receivers", receivers.size()));
}

Result<Edit> addChoice(const Project& p, const std::string& receiver, const std::string& key) {
    const auto patched = patchedOf(p);
    const auto* o = patched.offer(key);
    if (!o)
        return Error{"There is no stream \"" + key.substr(0, 80) + "\"", "", ""};
    return changed(p, receiver, &Device::receivers, "receiver", [&](Receiver& r) -> Result<std::string> {
        if (std::find(r.streams.begin(), r.streams.end(), key) != r.streams.end())
            return Error{"has " + o->stream->name + " among its streams already", receiver, ""};
        if (o->device->id == endOf(receiver).first)
            return Error{"offers " + o->stream->name + " itself", o->device->name, ""};
        r.streams.push_back(key);
        return r.id + " may hear " + o->stream->name;
    });
}

Result<Edit> chooseStream(const Project& p, const std::string& receiver, int chosen) {
    return changed(p, receiver, &Device::receivers, "receiver", [&](Receiver& r) -> Result<std::string> {
        if (chosen < 0 || chosen >= static_cast<int>(r.streams.size()))
            return Error{print("has no stream %d", chosen + 1), receiver,
                         print("It has %d.", static_cast<int>(r.streams.size()))};
        r.chosen = chosen;
        return r.id + " hears " + r.streams[static_cast<std::size_t>(chosen)];
    });
}

// ---- fields ----

namespace {

constexpr const char* chosenField = "chosen"; // which of its streams a receiver hears

template <class T> std::vector<Field> fieldsAt(const Project& p, const std::string& key, std::vector<T> Device::*list) {
    const auto [device, id] = endOf(key);
    if (const auto* d = p.device(device))
        for (const auto& one : d->*list)
            if (one.id == id)
                return shownFields(one);
    return {};
}

} // namespace

std::vector<Field> streamFields(const Project& p, const std::string& key) {
    return fieldsAt(p, key, &Device::streams);
}

std::vector<Field> receiverFields(const Project& p, const std::string& key) {
    auto all = fieldsAt(p, key, &Device::receivers);
    const auto patched = patchedOf(p);
    const auto* h = patched.hearing(key);
    if (!h || h->receiver->streams.size() < 2)
        return all;
    Field f{chosenField, "Hears"};
    for (std::size_t n = 0; n < h->receiver->streams.size(); ++n) {
        const auto& stream = h->receiver->streams[n];
        const auto* o = patched.offer(stream);
        f.choices.push_back(std::to_string(n));
        f.choiceNames.push_back(o ? o->stream->name : stream);
    }
    f.text = std::to_string(h->receiver->chosen);
    all.insert(all.begin(), std::move(f));
    return all;
}

Result<Edit> setStreamField(const Project& p, const std::string& key, const std::string& field,
                            const std::string& value) {
    return changed(p, key, &Device::streams, "stream", [&](Stream& s) -> Result<std::string> {
        const std::string name = s.name;
        Stream then = s;
        if (auto wrong = setShownField(then, field, value, "A stream has no such field"))
            return *wrong;
        if (then.name.empty() || then.name.find('/') != std::string::npos)
            return Error{"\"" + then.name + "\" is no name for a stream", "Name",
                         "Take 1 to 60 letters without a slash."};
        if (!then.address.empty() && !stream::isIpv4(then.address))
            return Error{"\"" + value.substr(0, 40) + "\" is no address", "Address",
                         "Type four numbers such as 239.20.1.7, or nothing for one of the range."};
        if (then.packetMs != s.packetMs && (then.packetMs < 0.1249 || then.packetMs > 4.0001))
            return Error{value.substr(0, 40) + " ms is no packet time", "Packet time", "Type 0.125 to 4 ms."};
        s = then;
        return "Set " + name + " " + field;
    });
}

Result<Edit> setReceiverField(const Project& p, const std::string& key, const std::string& field,
                              const std::string& value) {
    if (field == chosenField) {
        for (const auto& f : receiverFields(p, key))
            if (f.id == field)
                if (auto wrong = errorInText(f, value))
                    return *wrong;
        return chooseStream(p, key, value.size() == 1 || value.size() == 2 ? std::atoi(value.c_str()) : -1);
    }
    return changed(p, key, &Device::receivers, "receiver", [&](Receiver& r) -> Result<std::string> {
        if (auto wrong = setShownField(r, field, value, "A receiver has no such field"))
            return *wrong;
        return "Set " + r.id + " " + field;
    });
}

Result<Edit> alignReceivers(const Project& p, const std::string& key) {
    const auto patched = patchedOf(p);
    const auto* o = patched.offer(key);
    if (!o)
        return Error{"There is no stream \"" + key.substr(0, 80) + "\"", "", ""};
    const auto wired = wiredOf(p, patched);
    double most = 0;
    for (const auto h : o->heardBy)
        if (const auto* d = wired.delivery(h))
            most = std::max(most, delayOf(p, patched, wired, *d).total());
    if (most <= 0)
        return Error{"nobody hears " + o->stream->name, o->device->name, "Lead it to a device first."};
    std::map<std::string, std::optional<Device>> then;
    for (const auto n : o->heardBy) {
        const auto& h = patched.hearings[n];
        auto& one = then.try_emplace(h.device->id, *h.device).first->second;
        byId(one->receivers, h.receiver->id)->delayMs = most;
    }
    return setDevices(std::move(then), "Give all that hear " + o->stream->name + " the same delay");
}

// ---- leads ----

Result<Edit> lead(const Project& p, const std::string& from, const std::string& to) {
    const auto [device, in] = endOf(to);
    const auto* d = p.device(device);
    if (!d)
        return noDevice(device);
    Device then = *d;
    if (from.empty()) {
        if (!then.feeds.erase(in))
            return Error{"nothing comes to " + in.substr(0, 40), d->name, ""};
        return withDevice(std::move(then), "Take the lead to " + d->name + " " + in + " away");
    }
    const auto [source, out] = endOf(from);
    const auto* s = p.device(source);
    if (!s)
        return noDevice(source);
    const auto has = [](const Device& one, bool input, const std::string& port) {
        const auto all = one.spec() ? one.spec()->ports(input) : std::vector<std::string>{};
        return std::find(all.begin(), all.end(), port) != all.end();
    };
    if (!has(*s, false, out))
        return Error{"has no output \"" + out.substr(0, 40) + "\"", s->name, ""};
    if (!has(*d, true, in))
        return Error{"has no input \"" + in.substr(0, 40) + "\"", d->name, ""};
    if (transportOf(out) != transportOf(in))
        return Error{"no cable fits " + out + " and " + in, s->name,
                     "Choose ports of the same kind: " + std::string(specOf(transportOf(out)).name) + "."};
    if (specOf(transportOf(out)).streams)
        return Error{out + " goes as a stream", s->name, "Offer it, and let " + d->name + " hear it."};
    if (const auto there = d->feeds.find(in); there != d->feeds.end() && there->second != from)
        return Error{in + " gets sound of " + there->second + " already", d->name, "Take that away first."};
    then.feeds[in] = from;
    return withDevice(std::move(then), "Lead " + s->name + " " + out + " to " + d->name + " " + in);
}

namespace {

// What comes to this input as a channel of a stream goes; a receiver of nothing goes too.
void dropInput(Device& d, const std::string& input) {
    for (auto& r : d.receivers)
        std::replace(r.inputs.begin(), r.inputs.end(), input, std::string());
    std::erase_if(d.receivers, [](const Receiver& r) {
        return std::all_of(r.inputs.begin(), r.inputs.end(), [](const auto& i) { return i.empty(); });
    });
}

} // namespace

Result<Project> joined(Project p, const std::string& from, const std::string& to) {
    const auto [device, in] = endOf(to);
    if (!p.device(device))
        return noDevice(device);
    p.device(device)->feeds.erase(in);
    dropInput(*p.device(device), in);
    if (from.empty())
        return p;
    const auto [source, out] = endOf(from);
    if (!specOf(transportOf(out)).streams) {
        auto edit = lead(p, from, to);
        return edit ? edit->make(p) : Result<Project>(edit.error());
    }
    const auto* s = std::as_const(p).device(source);
    if (!s)
        return noDevice(source);
    const Stream* offered = nullptr;
    for (const auto& one : s->streams)
        if (!offered && std::find(one.ports.begin(), one.ports.end(), out) != one.ports.end())
            offered = &one;
    if (!offered) {
        const std::string wanted = source + " " + out;
        std::string name = wanted;
        for (int n = 2; streamKey(p, name); ++n) // another may be called so
            name = wanted + " " + std::to_string(n);
        auto edit = offerStream(p, source, name, {out});
        auto next = edit ? edit->make(std::move(p)) : Result<Project>(edit.error());
        if (!next)
            return next;
        p = std::move(*next);
        offered = &std::as_const(p).device(source)->streams.back();
    }
    const auto channel = std::find(offered->ports.begin(), offered->ports.end(), out) - offered->ports.begin();
    auto edit = hearChannel(p, source + "/" + offered->id, static_cast<int>(channel), device, in);
    return edit ? edit->make(std::move(p)) : Result<Project>(edit.error());
}

// ---- what is typed ----

Result<Edit> sendPhrase(const Project& p, const std::vector<std::string>& keys, const std::string& text) {
    std::string words = text;
    if (const auto arrow = words.find('>'); arrow != std::string::npos)
        words = words.substr(arrow + 1);
    words = trimmed(words);
    if (keys.empty())
        return Error{"no stream is chosen", "", "Choose what is to be heard first."};
    if (words.empty())
        return Error{"say who is to hear it", "", "Type \"> recorder\", or \"> recorder in 3\"."};
    // The last words may be an input: "in 3", "net 3", "3". The rest is a device: its id, its name, or words of it.
    const auto devices = [&](const std::string& said) {
        std::vector<const Device*> all;
        const std::string small = lower(said);
        for (const auto& d : p.devices)
            if (lower(d.id) == small || lower(d.name) == small)
                return std::vector<const Device*>{&d};
        for (const auto& d : p.devices)
            if (const auto* m = d.spec(); m && lower(d.name).find(small) != std::string::npos &&
                                          std::any_of(m->inputs.begin(), m->inputs.end(), [](const PortGroup& g) {
                                              return specOf(transportOf(g.name + " ")).streams;
                                          }))
                all.push_back(&d);
        return all;
    };
    std::string who = words, slot;
    auto found = devices(who);
    if (found.empty())
        if (const auto blank = words.rfind(' '); blank != std::string::npos) {
            const std::string number = words.substr(blank + 1);
            if (!number.empty() &&
                std::all_of(number.begin(), number.end(), [](char c) { return c >= '0' && c <= '9'; })) {
                who = trimmed(words.substr(0, blank));
                slot = number;
                for (const char* word : {" in", " net", " ring"})
                    if (const std::string w = word; who.size() > w.size() && lower(who).ends_with(w))
                        who = trimmed(who.substr(0, who.size() - w.size()));
                found = devices(who);
            }
        }
    if (found.size() != 1)
        return Error{print("%d devices are called \"", static_cast<int>(found.size())) + who.substr(0, 60) + "\"", "",
                     found.empty() ? "Type a name of the list on the right."
                                   : "Say which one: " + found[0]->name + ", " + found[1]->name + "."};
    const auto patched = patchedOf(p);
    const auto* first = patched.offer(keys[0]);
    const Transport on = first ? first->transport : transportOf(endOf(keys[0]).second);
    const char* prefix = on == Transport::cable ? "in " : specOf(on).prefix;
    return sendTo(p, keys, found[0]->id, slot.empty() ? "" : prefix + slot);
}

} // namespace loom::project
