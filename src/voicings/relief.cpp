#include "voicings/relief.h"
#include "dsp/number.h"
#include "patch/limits.h"
#include "patch/patch_edit.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include <algorithm>

namespace loom::project {
namespace {

constexpr double full = 0.8; // of a cable

// What changes of a project as sound takes another way.
class Rerouter {
  public:
    explicit Rerouter(const Project& p) : p_(p) {}
    const Project& project() const { return p_; }

    // Outputs of another transport that give the same as these.
    std::optional<std::vector<std::string>> alsoLeaving(const std::string& device,
                                                        const std::vector<std::string>& ports, Transport transport) {
        auto& d = *p_.device(device);
        std::vector<std::string> all;
        for (const auto& port : ports) {
            const auto free = freePort(d, false, transport, d.program && !d.program->blocks.empty() ? "" : port);
            if (free.empty())
                return {};
            if (d.program && !d.program->blocks.empty() && !tapped(d, port, free))
                return {};
            taken_.insert(device + "/out/" + free);
            all.push_back(free);
        }
        return all;
    }
    // Inputs of another transport in place of these: what heard them hears those.
    std::optional<std::vector<std::string>> coming(const std::string& device, const std::vector<std::string>& inputs,
                                                   Transport transport) {
        auto& d = *p_.device(device);
        std::vector<std::string> all;
        for (const auto& input : inputs) {
            if (input.empty()) {
                all.emplace_back();
                continue;
            }
            const bool programmed = d.program && !d.program->blocks.empty();
            const auto free = freePort(d, true, transport, programmed ? "" : input);
            if (free.empty())
                return {};
            if (programmed)
                if (const auto* b = endAt(std::as_const(*d.program), input, engine::End::arrives))
                    d.program->find(b->id)->texts["port"] = free;
            taken_.insert(device + "/in/" + free);
            all.push_back(free);
        }
        return all;
    }
    // Lanes of a device from free inputs of one transport to free outputs of another.
    std::optional<std::pair<std::vector<std::string>, std::vector<std::string>>>
    passing(const std::string& device, std::size_t channels, Transport from, Transport to) {
        auto& d = *p_.device(device);
        const auto* m = d.spec();
        if (!d.program || !m || m->workBudget <= 0)
            return {};
        std::vector<std::string> ins, outs;
        for (std::size_t n = 0; n < channels; ++n) {
            const auto in = freePort(d, true, from, ""), out = freePort(d, false, to, "");
            if (in.empty() || out.empty())
                return {};
            auto source = addBlock(*d.program, "source", "On from " + in, {{"port", in}});
            auto end = source ? addBlock(source->program, "destination", "On to " + out, {{"port", out}}) : source;
            auto drawn = end ? drawThread(end->program, {source->block, 0}, {end->block, 0})
                             : Result<engine::Program>(end.error());
            if (!drawn)
                return {};
            d.program = std::move(*drawn);
            taken_.insert(device + "/in/" + in);
            taken_.insert(device + "/out/" + out);
            ins.push_back(in);
            outs.push_back(out);
        }
        return std::pair(ins, outs);
    }
    // A stream of these outputs with the settings of another; its key.
    std::string offer(const std::string& device, const Stream& like, const std::vector<std::string>& ports) {
        auto& d = *p_.device(device);
        Stream s = like;
        s.ports = ports;
        s.unicast = false;
        s.address.clear();
        const auto used = [&](const std::string& name) {
            return std::any_of(p_.devices.begin(), p_.devices.end(), [&](const Device& one) {
                return std::any_of(one.streams.begin(), one.streams.end(),
                                   [&](const Stream& other) { return other.name == name || other.id == name; });
            });
        };
        std::string name = like.name + " on";
        for (int n = 2; used(name); ++n)
            name = like.name + " on " + std::to_string(n);
        s.name = name;
        s.id = engine::slug(name);
        d.streams.push_back(s);
        return device + "/" + s.id;
    }
    void hear(const std::string& device, const std::string& key, const std::vector<std::string>& inputs) {
        Receiver r;
        r.id = key.substr(key.find('/') + 1);
        r.inputs = inputs;
        r.streams = {key};
        p_.device(device)->receivers.push_back(std::move(r));
    }
    // A receiver hears this instead, by these inputs.
    void turn(const std::string& device, const std::string& receiver, const std::string& key,
              const std::vector<std::string>& inputs) {
        for (auto& r : p_.device(device)->receivers)
            if (r.id == receiver) {
                r.streams = {key};
                r.chosen = 0;
                r.inputs = inputs;
                r.delayMs = 0;
            }
    }
    void withdrawUnheard(const std::string& key) {
        const auto patched = patchedOf(p_);
        if (const auto* o = patched.offer(key); o && o->heardBy.empty()) {
            auto& streams = p_.device(o->device->id)->streams;
            const std::string id = o->stream->id;
            std::erase_if(streams, [&](const Stream& s) { return s.id == id; });
        }
    }

  private:
    // One more destination for what leaves a port.
    static bool tapped(Device& d, const std::string& port, const std::string& free) {
        const auto* b = endAt(std::as_const(*d.program), port, engine::End::leaves);
        for (const auto& c : b ? d.program->connections : List<engine::Connection>{})
            if (c.to.block == b->id) {
                const auto from = c.from;
                auto end = addBlock(*d.program, "destination", (b->label.empty() ? b->id : b->label) + " on",
                                    {{"port", free}});
                auto drawn =
                    end ? drawThread(end->program, from, {end->block, 0}) : Result<engine::Program>(end.error());
                if (!drawn)
                    return false;
                d.program = std::move(*drawn);
                return true;
            }
        return false;
    }
    // like: the port whose number it has to have; "": any.
    std::string freePort(const Device& d, bool input, Transport transport, const std::string& like) const {
        const auto* m = d.spec();
        if (!m)
            return {};
        std::set<std::string> used;
        for (const auto& s : d.streams)
            if (!input)
                used.insert(s.ports.begin(), s.ports.end());
        for (const auto& r : d.receivers)
            if (input)
                used.insert(r.inputs.begin(), r.inputs.end());
        for (const auto& b : d.program ? d.program->blocks : List<engine::Block>{})
            if (const auto it = b.texts.find("port"); it != b.texts.end())
                if (engine::endOf(b) == (input ? engine::End::arrives : engine::End::leaves))
                    used.insert(it->second);
        const auto number = [](const std::string& port) { return port.substr(port.rfind(' ') + 1); };
        for (const auto& port : m->ports(input))
            if (transportOf(port) == transport && !used.count(port) &&
                !taken_.count(d.id + (input ? "/in/" : "/out/") + port) &&
                (like.empty() || number(like) == number(port)))
                return port;
        return {};
    }
    Project p_;
    std::set<std::string> taken_;
};

double fuller(const WireLoad& l) {
    return std::max(l.there, l.back);
}

class Reliever {
  public:
    Reliever(const Project& p, std::size_t wire)
        : p_(p), patched_(patchedOf(p)), wired_(wiredOf(p, patched_)), wire_(wire) {}

    std::vector<Relief> run() {
        std::vector<Relief> all;
        for (const auto& way : wired_.deliveries)
            if (way.runs && patched_.offers[way.offer].transport == Transport::network &&
                std::find(way.wires.begin(), way.wires.end(), wire_) != way.wires.end())
                if (auto found = forOne(way))
                    all.push_back(std::move(*found));
        std::stable_sort(all.begin(), all.end(), [](const Relief& a, const Relief& b) { return a.after < b.after; });
        return all;
    }

  private:
    const Ring* ringOf(const std::string& device) const {
        for (const auto& r : wired_.rings)
            for (const int n : r.devices)
                if (id(n) == device)
                    return &r;
        return nullptr;
    }
    const std::string& id(int n) const { return p_.devices[static_cast<std::size_t>(n)].id; }

    std::optional<Relief> forOne(const Delivery& way) {
        const auto& o = patched_.offers[way.offer];
        const auto& h = patched_.hearings[way.hearing];
        const std::string from = o.device->id, to = h.device->id;
        if (isOutside(*o.device) || h.receiver->streams.size() != 1)
            return {};
        const auto *ours = ringOf(from), *theirs = ringOf(to);
        if (ours && ours == theirs)
            if (auto r = tried(o, h, ""))
                return r;
        for (const auto* ring : {ours, theirs})
            if (ring && ours != theirs)
                for (const int n : ring->devices)
                    if (id(n) != from && id(n) != to)
                        if (auto r = tried(o, h, id(n)))
                            return r;
        return {};
    }

    std::optional<Relief> tried(const Offer& o, const Hearing& h, const std::string& over) {
        Rerouter next(p_);
        const std::string from = o.device->id, to = h.device->id;
        const auto channels = o.stream->ports.size();
        auto inputs = h.receiver->inputs;
        inputs.resize(channels);
        if (over.empty()) {
            const auto outs = next.alsoLeaving(from, o.stream->ports, Transport::ring);
            const auto ins = outs ? next.coming(to, inputs, Transport::ring) : std::nullopt;
            if (!ins)
                return {};
            next.turn(to, h.receiver->id, next.offer(from, *o.stream, *outs), *ins);
        } else if (ringOf(from) && ringOf(over) == ringOf(from)) { // the ring first
            const auto outs = next.alsoLeaving(from, o.stream->ports, Transport::ring);
            const auto lanes = outs ? next.passing(over, channels, Transport::ring, Transport::network) : std::nullopt;
            if (!lanes)
                return {};
            next.hear(over, next.offer(from, *o.stream, *outs), lanes->first);
            Stream plain = *o.stream;
            plain.levelDb = 0, plain.muted = plain.inverted = false;
            next.turn(to, h.receiver->id, next.offer(over, plain, lanes->second), inputs);
        } else { // the network first
            const auto lanes = next.passing(over, channels, Transport::network, Transport::ring);
            const auto ins = lanes ? next.coming(to, inputs, Transport::ring) : std::nullopt;
            if (!ins)
                return {};
            next.hear(over, o.key, lanes->first);
            Stream plain = *o.stream;
            plain.levelDb = 0, plain.muted = plain.inverted = false;
            next.turn(to, h.receiver->id, next.offer(over, plain, lanes->second), *ins);
        }
        next.withdrawUnheard(o.key);
        return judged(next.project(), o, h, over);
    }

    std::optional<Relief> judged(const Project& then, const Offer& o, const Hearing& h, const std::string& over) {
        const auto patched = patchedOf(then);
        const auto wired = wiredOf(then, patched);
        Relief r{o.key, h.key, over, fuller(wired_.wires[wire_]), fuller(wired.wires[wire_])};
        if (r.after > r.before - 0.01)
            return {};
        for (std::size_t n = 0; n < wired.wires.size(); ++n) {
            const auto &was = wired_.wires[n], &now = wired.wires[n];
            if (fuller(now) > fuller(was) + 0.01) {
                if (now.busy() > full)
                    return {};
                r.more.push_back({now.wire->id, fuller(was), fuller(now)});
            }
        }
        for (const auto& ring : wired.rings)
            if (ring.used > ring.most)
                return {};
        for (const auto& one : {o.device->id, h.device->id, over})
            if (const auto* d = then.device(one))
                for (const auto& l : limitsOf(patched, *d))
                    if (l.over())
                        return {};
        const auto* heard = patched.hearing(h.key);
        const auto* way = heard ? wired.delivery(static_cast<std::size_t>(heard - patched.hearings.data())) : nullptr;
        if (!way || !way->runs)
            return {};
        r.edit = editBetween(p_, then, "Lead " + o.stream->name + " to " + h.device->name + " over the ring");
        return r;
    }

    const Project& p_;
    const Patched patched_;
    const Wired wired_;
    std::size_t wire_;
};

} // namespace

Result<std::vector<Relief>> reliefsOf(const Project& p, const std::string& wire) {
    const auto wired = wiredOf(p, patchedOf(p));
    for (std::size_t n = 0; n < wired.wires.size(); ++n)
        if (p.wires[n].id == wire || p.wires[n].number == wire) {
            if (wired.wires[n].transport != Transport::network)
                return Error{"is no cable of the network", wire, "A ring and a lead carry what they carry."};
            return Reliever(p, n).run();
        }
    return Error{"There is no cable \"" + wire.substr(0, 80) + "\"", "", "loomctl wires lists them."};
}

std::string wordsOf(const Project& p, const Relief& r) {
    const auto name = [&](const std::string& key) {
        const auto [device, rest] = endOf(key);
        const auto* d = p.device(device);
        return std::pair(d ? d->name : device, rest);
    };
    const auto [sender, stream] = name(r.stream);
    const auto* over = p.device(r.over);
    std::string more;
    for (const auto& m : r.more)
        more += print("; %s %.1f to %.1f", m.wire.c_str(), m.before, m.after);
    return stream + " to " + name(r.receiver).first +
           (over ? ", over ring and network by " + over->name : std::string(", round the ring")) +
           print(": %.1f to %.1f Mbit/s", r.before, r.after) + more;
}

} // namespace loom::project
