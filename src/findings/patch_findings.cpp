#include "findings/patch_findings.h"
#include "dsp/number.h"
#include "dsp/words.h"
#include "model/address.h"
#include "patch/clock.h"
#include "patch/delays.h"
#include "patch/limits.h"
#include "patch/ways.h"
#include "patch/wire_edit.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

using Code = FindingCode;

std::string quoted(const std::string& name) {
    return "\"" + name + "\"";
}

class PatchChecker {
  public:
    explicit PatchChecker(const Project& p)
        : p_(p), patched_(patchedOf(p)), wired_(wiredOf(p, patched_)), ways_(p, patched_, wired_) {}

    std::vector<Finding> run() {
        checkOffers();
        for (std::size_t h = 0; h < patched_.hearings.size(); ++h)
            checkHearing(h);
        for (const auto& d : p_.devices)
            checkDevice(d);
        checkClocks();
        checkWires();
        checkRings();
        checkPower();
        checkLoop();
        checkFaults();
        return std::move(found_);
    }

  private:
    // part: of the device, a stream, receiver or cable.
    void add(Code code, const Device* d, const std::string& part, const std::string& words, std::string reason,
             std::string remedy) {
        const auto* room = d ? p_.room(d->room) : nullptr;
        found_.push_back({code, d ? d->id : "", part,
                          (d ? d->name : p_.name) + (words.empty() ? "" : " \u00b7 " + words), std::move(reason),
                          std::move(remedy), room ? room->name : "Equipment rack"});
    }
    void at(Code code, const Offer& o, std::string reason, std::string remedy) {
        add(code, o.device, o.stream->id, o.stream->name, std::move(reason), std::move(remedy));
    }
    const Device& device(int n) const { return p_.devices[static_cast<std::size_t>(n)]; }

    // ---- streams ----

    void checkOffers() {
        std::map<std::pair<std::string, std::string>, const Offer*> names; // network, name
        std::map<std::string, const Offer*> addresses;
        for (const auto& h : patched_.hearings) // what a receiver can switch to is not unheard
            listed_.insert(h.receiver->streams.begin(), h.receiver->streams.end());
        for (const auto& o : patched_.offers) {
            const auto [name, fresh] = names.try_emplace({o.network(), lower(o.stream->name)}, &o);
            if (!fresh)
                at(Code::streamName, o,
                   name->second->device->name + " offers a stream called " + quoted(name->second->stream->name) +
                       " too.",
                   "Give one of them another name.");
            checkPorts(o.stream->ports, *o.device, false, o.stream->id, o.stream->name);
            if (o.heardBy.empty() && !listed_.count(o.key) && !isOutside(*o.device))
                at(Code::unheard, o, "Nobody hears this stream.", "Lead it to a device, or withdraw it.");
            if (o.transport != Transport::network)
                continue;
            checkAddress(o, addresses);
            checkFormat(o);
        }
    }

    void checkAddress(const Offer& o, std::map<std::string, const Offer*>& addresses) {
        const auto& address = o.description.address;
        if (o.stream->unicast) {
            if (o.heardBy.size() > 1)
                at(Code::streamAddress, o,
                   print("It goes to one receiver only, and %d hear it.", static_cast<int>(o.heardBy.size())),
                   "Let it go to all, or offer another.");
            else if (!o.heardBy.empty() && address.empty())
                at(Code::streamAddress, o, "Its receiver has no address.", "Give that device one, in Survey.");
            return;
        }
        if (!stream::isIpv4(address) || !multicast(address))
            at(Code::streamAddress, o, quoted(address) + " is no address for many to hear.",
               "Take one from 239.0.0.0 to 239.255.255.255, or none.");
        else if (!address.starts_with("239.") && !isOutside(*o.device)) // what others do is theirs
            at(Code::streamAddress, o, address + " is not one of those that a building may give itself (239...).",
               "Take one from 239.0.0.0 to 239.255.255.255, or none.");
        const auto [other, fresh] = addresses.try_emplace(address + ":" + std::to_string(o.stream->port), &o);
        if (!fresh)
            at(Code::streamAddress, o,
               quoted(other->second->stream->name) + " of " + other->second->device->name + " has the address " +
                   address + " too: who hears one hears both.",
               "Leave the address empty, and it gets one of its own.");
    }
    static bool multicast(const std::string& address) {
        const int first = std::atoi(address.c_str());
        return first >= 224 && first <= 239;
    }

    void checkFormat(const Offer& o) {
        if (const auto wrong = stream::errorIn(o.description.format)) {
            at(Code::packetTooLarge, o, wrong->message + ".", wrong->remedy);
            return;
        }
        unknownTo(o, *o.device);
        for (const auto n : o.heardBy)
            unknownTo(o, *patched_.hearings[n].device);
    }
    void unknownTo(const Offer& o, const Device& d) {
        const auto* m = d.spec();
        if (!m || !m->soundNetwork)
            return;
        const auto& can = *m->soundNetwork;
        const std::string samples = stream::nameOf(o.description.format.encoding);
        if (!can.samples.empty() && std::find(can.samples.begin(), can.samples.end(), samples) == can.samples.end())
            at(Code::formatUnknown, o, d.name + " does not know " + samples + ".",
               "Take " + can.samples.front() + ", or another device.");
        const double ms = o.stream->packetMs;
        if (!can.packetMs.empty() && std::none_of(can.packetMs.begin(), can.packetMs.end(),
                                                  [&](double one) { return std::abs(one - ms) < 1e-6; }))
            at(Code::formatUnknown, o, d.name + print(" does not know packets of %g ms.", ms),
               print("Take %g ms.", can.packetMs.front()));
        if (can.streamChannels > 0 && o.description.format.channels > can.streamChannels)
            at(Code::formatUnknown, o,
               d.name + print(" knows streams of up to %d channels; this one has %d.", can.streamChannels,
                              o.description.format.channels),
               "Part it into two streams.");
    }

    void checkPorts(const std::vector<std::string>& ports, const Device& d, bool input, const std::string& part,
                    const std::string& words) {
        const auto* m = d.spec();
        if (!m)
            return;
        const auto all = m->ports(input);
        for (const auto& port : ports) {
            if (port.empty())
                continue;
            if (std::find(all.begin(), all.end(), port) == all.end())
                return add(Code::streamPorts, &d, part, words,
                           "The " + m->name + " has no " + (input ? "input " : "output ") + quoted(port) + ".",
                           "Take it off, and draw it anew.");
            if (transportOf(port) != transportOf(ports.front()) && !ports.front().empty())
                return add(Code::streamPorts, &d, part, words,
                           ports.front() + " and " + port + " lie on different transports.",
                           "Take ports of the network or of the ring, not both.");
        }
    }

    // ---- receivers ----

    void checkHearing(std::size_t n) {
        const auto& h = patched_.hearings[n];
        const auto at = [&](Code code, std::string reason, std::string remedy) {
            add(code, h.device, h.receiver->id, h.receiver->id, std::move(reason), std::move(remedy));
        };
        checkPorts(h.receiver->inputs, *h.device, true, h.receiver->id, h.receiver->id);
        for (const auto& slot : h.receiver->inputs)
            if (!slot.empty() && !slots_.emplace(h.device->id + "/" + slot).second)
                at(Code::slotTwice, "Two sounds come to " + slot + ".", "Take one off, or lead it to another input.");
        if (h.waits())
            return at(Code::streamGone, "Nobody offers " + quoted(h.stream) + "; it waits.",
                      "Offer it, choose another stream, or take the receiver off.");
        if (h.offer < 0)
            return;
        const auto& o = patched_.offers[static_cast<std::size_t>(h.offer)];
        if (const auto has = h.receiver->inputs.size(), comes = o.stream->ports.size(); has != comes)
            at(Code::widthApart,
               print("It has %d channels, %s has %d.", static_cast<int>(has), o.stream->name.c_str(),
                     static_cast<int>(comes)),
               "Take it off and lead the stream here again.");
        const auto* d = wired_.delivery(n);
        if (o.device->rate != h.device->rate)
            at(Code::ratesApart, d->why, "Give both the same rate.");
        else if (o.network() != h.device->soundNetwork && !isOutside(*o.device))
            at(Code::networksApart, d->why, "Give both the same sound network, or let " + o.device->name + " go.");
        else if (d && !d->runs)
            at(Code::noWay, quoted(o.stream->name) + " of " + o.device->name + " does not get here: " + d->why,
               "Draw the cable, under How it is wired.");
        else if (d && o.transport == Transport::network)
            if (const auto late = delayOf(p_, patched_, wired_, *d); late.late())
                at(Code::comesLate,
                   print("It waits %g ms; the packets of ", h.receiver->delayMs) + quoted(o.stream->name) +
                       print(" come up to %.3g ms late.", late.packet + late.network),
                   print("Give it %.3g ms.", std::ceil(1000 * (leastDelayMs(o, h) + late.network)) / 1000));
    }

    void checkDevice(const Device& d) {
        for (const auto& [input, from] : d.feeds)
            if (specOf(transportOf(input)).streams)
                add(Code::streamPorts, &d, input, input, "A lead comes to " + input + ", where only streams are heard.",
                    "Lead " + from + " there again: it becomes a stream.");
            else if (slots_.count(d.id + "/" + input))
                add(Code::slotTwice, &d, input, input, "A stream and " + from + " come to " + input + ".",
                    "Take one off, or lead it to another input.");
        if (!patched_.uses.count(d.id))
            return;
        for (const auto& l : limitsOf(patched_, d))
            if (l.over())
                add(Code::overLimit, &d, print("limit-%d", static_cast<int>(l.what)), "",
                    print("It is asked for %g %s; it can do %g.", std::round(l.used * 100) / 100, l.words.c_str(),
                          l.most),
                    "Withdraw or let go of some, put several into one stream, or take a larger device.");
    }

    void checkClocks() {
        std::set<int> sounding;
        for (const auto& d : wired_.deliveries)
            if (d.runs && patched_.offers[d.offer].transport == Transport::network)
                sounding.insert(static_cast<int>(numberOf(*patched_.offers[d.offer].device)));
        for (const auto& c : clocksOf(p_, wired_))
            if (!c.leads && std::any_of(c.order.begin(), c.order.end(), [&](int n) { return sounding.count(n) > 0; }))
                add(Code::noClock, &device(c.order.front()), "clock", "",
                    "None of the devices on this sound network may lead its clock.",
                    "Give one a clock priority below 255.");
    }
    std::size_t numberOf(const Device& d) {
        if (numbers_.empty())
            for (std::size_t n = 0; n < p_.devices.size(); ++n)
                numbers_[&p_.devices[n]] = n;
        return numbers_.at(&d);
    }

    // ---- cables ----

    std::string between(const WireLoad& l) const {
        const auto end = [&](int n, const std::string& text) {
            return n < 0 ? text : device(n).name + " " + endOf(text).second;
        };
        return (l.wire->number.empty() ? "" : l.wire->number + ": ") + end(l.from, l.wire->from) + " to " +
               end(l.to, l.wire->to);
    }

    void checkWires() {
        std::map<std::string, const WireLoad*> ends;
        for (const auto& l : wired_.wires) {
            const auto* d = l.from >= 0 ? &device(l.from) : l.to >= 0 ? &device(l.to) : nullptr;
            const auto at = [&](Code code, std::string reason, std::string remedy) {
                add(code, d, l.wire->id, between(l), std::move(reason), std::move(remedy));
            };
            if (l.from < 0 || l.to < 0) {
                at(Code::wireEnd, "One of its ends is at a device that is not there.", "Take the cable away.");
                continue;
            }
            bool good = l.from != l.to;
            for (const auto* end : {&l.wire->from, &l.wire->to})
                if (!ends.try_emplace(*end, &l).second) {
                    at(Code::wireEnd, "Another cable is in " + *end + " too.", "Take one away.");
                    good = false;
                }
            if (!l.works && good)
                at(Code::wireEnd, "Its ends are no two sockets of one kind.", "Take it away, and draw it anew.");
            if (const auto fault = faultOf(l))
                at(fault->grade ? Code::wireGrade : Code::wireLong, fault->reason, fault->remedy);
            if (l.busy() > 0.8)
                at(Code::linkBusy,
                   print("Streams take %.0f of its %.0f Mbit/s, %.0f %%.", std::max(l.there, l.back), l.megabits,
                         100 * l.busy()),
                   "Lead some another way, send only where it is heard, or take a faster link.");
        }
    }

    void checkRings() {
        for (const auto& r : wired_.rings) {
            const auto* d = &device(r.devices.front());
            if (r.used > r.most)
                add(Code::ringFull, d, r.name, r.name, print("%d channels are on it; it has %d slots.", r.used, r.most),
                    "Withdraw some, or lead them over the network.");
            if (r.crossed)
                add(Code::ringCrossed, d, r.name, r.name, "A socket a is joined to an a, or b to b.",
                    "Join each ring b with the next ring a.");
            else if (!r.closed && r.devices.size() > 1)
                add(Code::ringGap, d, r.name, r.name,
                    "It is not closed: sound has one way only, and one more break silences it.",
                    "Join " + device(r.devices.back()).name + " with " + d->name + ".");
        }
    }

    void checkPower() {
        for (const auto& u : powerUse(p_, wired_))
            if (u.taken > u.most)
                add(Code::switchPower, &device(u.device), "power", "",
                    print("What hangs on it takes %.0f W; it gives %.0f W.", u.taken, u.most),
                    "Move some to another switch, or feed them by other means.");
        for (const int n : unpowered(p_, wired_))
            add(Code::noPower, &device(n), "power", "",
                "It takes its power from the network, and its socket gives none.", "Put it on a socket that feeds.");
    }

    // ---- of the whole ----

    void checkLoop() {
        const auto loop = ways_.loop();
        if (loop.empty())
            return;
        std::set<std::string> devices;
        std::string way;
        for (const auto& port : loop)
            if (const auto id = endOf(port).first; devices.insert(id).second)
                way += (way.empty() ? "" : ", ") + (p_.device(id) ? p_.device(id)->name : id);
        add(Code::soundLoop, p_.device(endOf(loop.front()).first), endOf(loop.front()).second, "",
            "Its sound comes back to it over " + way + ": it may howl.", "Close a crossing, or let one stream go.");
    }

    // Rooms all of whose loudspeakers depend on one cable or switch.
    void checkFaults() {
        std::map<std::string, std::set<std::string>> drives; // room -> outputs that drive its loudspeakers
        for (const auto& a : p_.devices)
            for (const auto& [port, out] : a.outputs)
                for (const auto& l : out.loads)
                    if (const auto* s = p_.device(l.device); s && p_.room(s->room))
                        drives[s->room].insert(a.id + "/" + port);
        if (drives.empty())
            return;
        std::map<std::string, std::vector<std::size_t>> comes; // what is heard, by "device/input"
        for (std::size_t h = 0; h < patched_.hearings.size(); ++h)
            for (const auto& input : patched_.hearings[h].receiver->inputs)
                if (const auto* d = wired_.delivery(h); d && d->runs && !input.empty())
                    comes[patched_.hearings[h].device->id + "/" + input].push_back(h);
        for (const auto& [room, outputs] : drives) {
            std::set<std::size_t> heard;
            bool cable = false; // something comes by a cable of its own
            for (const auto& output : outputs)
                for (const auto& input : ways_.inputsTo(output)) {
                    const auto [device, port] = endOf(input);
                    cable = cable || p_.device(device)->feeds.count(port);
                    if (const auto it = comes.find(input); it != comes.end())
                        heard.insert(it->second.begin(), it->second.end());
                }
            if (!cable && !heard.empty())
                faultsOf(room, endOf(*outputs.begin()).first, {heard.begin(), heard.end()});
        }
    }
    template <class T> static void keep(std::optional<std::set<T>>& all, const std::vector<T>& these) {
        const std::set<T> here(these.begin(), these.end());
        if (!all)
            all = here;
        else
            std::erase_if(*all, [&](const T& one) { return !here.count(one); });
    }
    void faultsOf(const std::string& room, const std::string& amplifier, const std::vector<std::size_t>& heard) {
        std::optional<std::set<std::size_t>> wires; // that all of it takes
        std::optional<std::set<int>> devices;       // that all of it passes
        for (const auto h : heard) {
            const auto& d = *wired_.delivery(h);
            keep(wires, d.wires);
            keep(devices, d.devices.size() > 2 ? std::vector<int>(d.devices.begin() + 1, d.devices.end() - 1)
                                               : std::vector<int>{});
        }
        const auto silences = [&](const Cut& cut) {
            const auto after = wiredOf(p_, patched_, cut, &heard);
            return std::none_of(after.deliveries.begin(), after.deliveries.end(), [](const auto& d) { return d.runs; });
        };
        std::string what;
        for (const int n : *devices)
            if (what.empty() && silences({{}, {device(n).id}}))
                what = device(n).name;
        for (const auto w : *wires)
            if (what.empty() && silences({{wired_.wires[w].wire->id}, {}}))
                what = between(wired_.wires[w]);
        if (what.empty())
            return;
        const auto* r = p_.room(room);
        found_.push_back({Code::oneFault, amplifier, room, r->name,
                          "If " + what + " fails, nothing is heard in " + r->name + ".",
                          "Join them over a second way or a ring, or leave it with the reason.", r->name});
    }

    const Project& p_;
    const Patched patched_;
    const Wired wired_;
    const SoundWays ways_;
    std::set<std::string> listed_; // streams that some receiver has among its own
    std::set<std::string> slots_;  // "device/input" that hear something
    std::map<const Device*, std::size_t> numbers_;
    std::vector<Finding> found_;
};

} // namespace

std::vector<Finding> checkPatch(const Project& project) {
    return PatchChecker(project).run();
}

} // namespace loom::project
