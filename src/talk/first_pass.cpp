#include "talk/first_pass.h"
#include "acoustics/pick_up.h"
#include "dsp/number.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "rooms/owned_ports.h"
#include "talk/first_work.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace first {

std::string figure(double v, int digits) {
    const auto s = fixedText(v, digits);
    return s[0] == '-' ? "\u2212" + s.substr(1) : s;
}

std::string count(std::size_t n, const char* what) {
    return std::to_string(n) + " " + what + (n == 1 ? "" : "s");
}

const Block* Work::onLane(const std::string& source, const char* kind) const {
    return beadOf(program(), source, kind);
}

void Work::lanes() {
    const auto c = talk();
    std::vector<std::pair<std::string, std::string>> missing; // port, label
    for (const auto& m : c.microphones)
        if (m.input.device == device_ && m.source.empty())
            missing.emplace_back(m.input.port, m.name);
    if (missing.empty())
        return;
    propose({"lanes " + device_,
             missing.size() == 1 ? "A lane for " + missing.front().second
                                 : "Lanes for " + count(missing.size(), "microphone"),
             "Led to " + std::as_const(p_).device(device_)->name + ", where no program takes them",
             count(missing.size(), "block"), false,
             inProgram(device_, [missing](const Project&, const Device& d) -> Result<Program> {
                 Program now = *d.program;
                 for (const auto& [port, label] : missing) {
                     std::string name = label;
                     if (const auto at = name.rfind(" microphone"); at != std::string::npos && at > 0)
                         name.resize(at);
                     auto made = addBlock(now, "source", name, {{"port", port}});
                     if (!made)
                         return made.error();
                     now = std::move(made->program);
                 }
                 return now;
             })});
}

// Outputs that are led to loudspeakers of the space, and that no program uses.
void Work::zones() {
    const auto space = *spaceSaid(p_, key_, state_);
    std::vector<std::pair<std::string, std::string>> missing; // port, label
    const auto outputs = std::as_const(p_).device(device_)->spec()->ports(false);
    for (const auto& end : zoneEnds(p_, space.space))
        if (end.device == device_ && std::find(outputs.begin(), outputs.end(), end.port) != outputs.end() &&
            !endAt(program(), end.port, engine::End::leaves))
            missing.emplace_back(end.port, "Zone " + std::to_string(missing.size() + 1));
    if (missing.empty())
        return;
    propose({"zones " + device_, count(missing.size(), "zone") + " for " + pass_.name,
             "Led to loudspeakers there, and no program plays anything to them", count(missing.size(), "block"), false,
             inProgram(device_, [missing](const Project&, const Device& d) -> Result<Program> {
                 Program now = *d.program;
                 for (const auto& [port, name] : missing) {
                     auto made = addBlock(now, "destination", name, {{"port", port}});
                     if (!made)
                         return made.error();
                     now = std::move(made->program);
                 }
                 return now;
             })});
}

// Level of whoever is nearest, A-weighted, where a microphone stands.
double Work::levelAtA(const Conversation::Microphone& m, double& distance) const {
    const SpaceModel::Voice* nearest = nullptr;
    using acoustics::operator-;
    acoustics::Point at{};
    for (const auto& one : model_.microphones)
        if (one.id == m.device)
            at = one.at;
    for (const auto& v : model_.voices)
        if (!nearest || acoustics::lengthOf(v.at - at) < acoustics::lengthOf(nearest->at - at))
            nearest = &v;
    if (!nearest)
        return 0;
    distance = std::max(acoustics::lengthOf(nearest->at - at), 0.02);
    return nearest->level - 20 * std::log10(distance);
}

void Work::preamps() {
    for (const auto& m : talk().microphones) {
        const auto* mic = std::as_const(p_).device(m.device);
        if (m.input.device != device_ || m.source.empty())
            continue;
        const bool network = mic->spec()->network;
        const char* kind = network ? "level" : "preamp";
        double distance = 0;
        const double level = levelAtA(m, distance);
        if (distance <= 0)
            continue;
        const double wanted = std::clamp(
            nominalDb -
                (level - 94 + 20 * std::log10(inputPerPascal(p_, *mic, network ? SoundEnd{m.device, ""} : m.input))),
            network ? -20.0 : 0.0, network ? 12.0 : 66.0);
        const Block* now = onLane(m.source, kind);
        const double is = now ? valueOf(*now, "gain") : 0;
        if (now && std::abs(is - wanted) < enough)
            continue;
        if (!now && network && std::abs(wanted) < enough)
            continue;
        const std::string source = m.source, name = blockName(program(), *program().find(m.source));
        const double rounded = std::round(wanted * 2) / 2;
        propose({std::string(kind) + " " + device_ + "/" + source,
                 (network ? "Level of " : "Preamp of ") + name + ": " + (now ? figure(is) + " \u2192 " : "") +
                     figure(rounded) + " dB",
                 "A talker at " + figure(distance, 2) + " m reaches \u221220 dBFS", now ? "1 value" : "1 block",
                 now && isByHand(*now, "gain"),
                 inProgram(device_, [source, kind, rounded](const Project&, const Device& d) -> Result<Program> {
                     Program p = *d.program;
                     if (!p.find(source))
                         return p; // that lane was left out
                     const Block* b = beadOf(p, source, kind);
                     std::string id = b ? b->id : "";
                     if (!b) {
                         auto made = insertBlock(p, kind, {source, 0});
                         if (!made)
                             return made.error();
                         p = std::move(made->program), id = made->block;
                     }
                     setFirst(*p.find(id), "gain", rounded);
                     return p;
                 })});
    }
}

void Work::highPasses() {
    for (const auto& m : talk().microphones) {
        if (m.input.device != device_ || m.source.empty())
            continue;
        // Where the room's noise comes near to speech there, an octave lower than where speech begins (100 Hz).
        double distance = 0;
        const double level = levelAtA(m, distance);
        if (distance <= 0)
            continue;
        const auto speech = acoustics::speechAt(level);
        const double over = speech[1] - model_.noise[1]; // at 125 Hz
        const double wanted = over < 15 ? 120 : 90;
        const Block* now = onLane(m.source, "highpass");
        if (now && std::abs(valueOf(*now, "corner") - wanted) < 31)
            continue;
        const std::string source = m.source, name = blockName(program(), *program().find(m.source));
        propose({"highpass " + device_ + "/" + source,
                 "High-pass of " + name + ": " +
                     (now ? figure(valueOf(*now, "corner"), 0) + " \u2192 " : std::string()) + figure(wanted, 0) +
                     " Hz",
                 "Speech at 125 Hz stands " + figure(over, 0) + " dB over the room's noise",
                 now ? "1 value" : "1 block", now && isByHand(*now, "corner"),
                 inProgram(device_, [source, wanted](const Project&, const Device& d) -> Result<Program> {
                     Program p = *d.program;
                     if (!p.find(source))
                         return p; // that lane was left out
                     const Block* b = beadOf(p, source, "highpass");
                     std::string id = b ? b->id : "";
                     if (!b) {
                         const Block* gain = beadOf(p, source, "preamp");
                         auto made = insertBlock(p, "highpass", {gain ? gain->id : source, 0});
                         if (!made)
                             return made.error();
                         p = std::move(made->program), id = made->block;
                         setFirst(*p.find(id), "slope", 2);
                     }
                     setFirst(*p.find(id), "corner", wanted);
                     return p;
                 })});
    }
}

// Ports of USB and telephone that belong to the space and that no program uses.
void Work::farEnds() {
    const auto space = *spaceSaid(p_, key_, state_);
    const Device d = *std::as_const(p_).device(device_); // what is proposed makes another project
    for (const auto& port : d.spec()->ports(true)) {
        const auto by = transportOf(port);
        const auto owner = d.owners.find(port);
        if ((by != Transport::usb && by != Transport::telephone) || owner == d.owners.end())
            continue;
        if (!space.owns(owner->second))
            continue;
        const bool in = endAt(*d.program, port, engine::End::arrives),
                   out = endAt(*d.program, port, engine::End::leaves);
        if (in && out)
            continue;
        const std::string number = port.substr(port.rfind(' ') + 1);
        const std::string name = (by == Transport::usb ? "Far end" : "Telephone") + (number == "1" ? "" : " " + number);
        const auto places = d.spec()->ports(false);
        const bool sends = std::find(places.begin(), places.end(), port) != places.end();
        propose({"far-end " + device_ + "/" + port, name + " on " + port + ": heard, and hears the microphones",
                 "It belongs to " + pass_.name + ", and no program uses it",
                 count((in ? 0u : 1u) + (out ? 0u : 1u), "block"), false,
                 inProgram(device_, [=](const Project&, const Device& one) -> Result<Program> {
                     Program p = *one.program;
                     if (!endAt(p, port, engine::End::arrives)) {
                         auto made = addBlock(p, "source", name, {{"port", port}});
                         if (!made)
                             return made.error();
                         p = std::move(made->program);
                     }
                     if (sends && !endAt(p, port, engine::End::leaves)) {
                         auto made = addBlock(p, "destination", name + " send", {{"port", port}});
                         if (!made)
                             return made.error();
                         p = std::move(made->program);
                     }
                     return p;
                 })});
    }
}

FirstPass Work::run() {
    const auto c = talk();
    std::map<std::string, int> processors;
    for (const auto& m : c.microphones)
        ++processors[m.input.device];
    for (const auto& [id, n] : processors)
        if (const auto* d = std::as_const(p_).device(id);
            d->program && !d->spec()->amplifier && (device_.empty() || n > processors[device_]))
            device_ = id;
    if (device_.empty()) {
        pass_.cannot.push_back(c.microphones.empty()
                                   ? "No microphone of " + pass_.name +
                                         " is led to a processor. Lead them in Patch or Survey."
                                   : "The microphones of " + pass_.name + " are led to devices without a program.");
        return pass_;
    }
    if (processors.size() > 1)
        pass_.cannot.push_back("Microphones of " + pass_.name + " are led to " + count(processors.size(), "processor") +
                               "; a group lies in one. Send the others there by a stream.");
    lanes();
    zones();
    farEnds();
    preamps();
    highPasses();
    mixes();
    echo();
    group();
    crossings();
    mutes();
    return pass_;
}

} // namespace first

FirstPass firstPassOf(const Project& p, const SpaceOf& space, std::stop_token stop) {
    return first::Work(p, space, stop).run();
}

Edit takeFirstPass(const FirstPass& pass, const std::vector<std::string>& ids) {
    std::vector<Proposal> taken;
    for (const auto& one : pass.proposals)
        if (std::find(ids.begin(), ids.end(), one.id) != ids.end())
            taken.push_back(one);
    if (taken.empty())
        return {};
    return {"First pass of " + pass.name, [taken](Project p) -> Result<Project> {
                for (const auto& one : taken) {
                    auto then = one.apply(std::move(p));
                    if (!then)
                        return then.error();
                    p = std::move(*then);
                }
                return p;
            }};
}

} // namespace loom::project
