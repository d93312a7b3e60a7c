#include "rig/air.h"
#include "engine/block_kind.h"
#include "program/ports.h"
#include "program/render.h"
#include "talk/conversation.h"
#include "talk/speech.h"
#include <algorithm>
#include <chrono>
#include <cmath>

namespace loom::rig {

using project::SoundEnd;

// ---- what lies where ----

Air::Air(double rate, const std::string& adapter) : rate_(rate), net_(adapter) {}

Air::~Air() {
    thread_.request_stop();
    if (thread_.joinable())
        thread_.join();
}

namespace {

template <class Map> typename Map::mapped_type at(const Map& map, const typename Map::key_type& key) {
    const auto it = map.find(key);
    return it == map.end() ? nullptr : it->second;
}

} // namespace

std::shared_ptr<engine::Cable> Air::Ends::find(bool input, const SoundEnd& end) const {
    const std::lock_guard inside(door);
    return at(input ? arriving : leaving, end);
}

std::shared_ptr<engine::Cable> Air::Ends::made(bool input, const SoundEnd& end) {
    const std::lock_guard inside(door);
    auto& c = (input ? arriving : leaving)[end];
    if (!c)
        c = std::make_shared<engine::Cable>();
    return c;
}

std::shared_ptr<engine::Cable> Air::Ends::asked(bool input, const SoundEnd& end) {
    if (!project::specOf(project::transportOf(end.port)).streams || (input && spoken.count(end)))
        return find(input, end);
    return made(input, end);
}

std::shared_ptr<SoundSide> Air::side(const std::string& device) const {
    return at(sides_, device);
}

void Air::lay(const project::Project& project) {
    const auto known = [this](const std::string& device) {
        auto& s = sides_[device];
        if (!s)
            s = std::make_shared<SoundSide>();
        return s;
    };
    for (const auto& lead : project::leadsOf(project)) {
        Way w;
        w.lead = lead;
        w.side = known(lead.to.device);
        w.from.cable = ends_->made(false, lead.from);
        w.from.side = known(lead.from.device);
        w.to = ends_->made(true, lead.to);
        ways_.push_back(std::move(w));
    }
    for (const auto& end : project::microphoneInputs(project)) {
        ends_->made(true, end);
        known(end.device);
    }
    if (!project::microphoneInputs(project).empty() || !ways_.empty())
        for (const auto& end : project::drivingEnds(project)) {
            ends_->made(false, end);
            known(end.device);
        }
    for (const auto& d : project.devices)
        for (const auto& one : d.standIns)
            ends_->spoken.insert({d.id, one.port});
    const auto ends = [this](bool input) {
        return [all = ends_, input](const std::string& device, const std::string& port) {
            return all->made(input, {device, port});
        };
    };
    net_.lay(project, ends(false), ends(true), known);
    layFarEnds(project);
}

// Whoever is on USB and telephone says what stands in for that port, or what is shipped for far ends.
void Air::layFarEnds(const project::Project& project) {
    FarSide::Voice shipped;
    for (const auto& d : project.devices) {
        if (!d.program || !d.spec())
            continue;
        std::map<std::string, bool> ports; // that its program uses
        for (const bool input : {true, false})
            for (const auto& port : d.spec()->ports(input)) {
                const auto by = project::transportOf(port);
                if ((by == project::Transport::usb || by == project::Transport::telephone) &&
                    project::endAt(*d.program, port, input ? engine::End::arrives : engine::End::leaves))
                    ports[port] = true;
            }
        if (ports.empty())
            continue;
        auto& s = sides_[d.id];
        if (!s)
            s = std::make_shared<SoundSide>();
        std::vector<FarSide::Port> all;
        for (const auto& [port, _] : ports) {
            FarSide::Voice voice;
            for (const auto& one : d.standIns)
                if (one.port == port)
                    if (const auto clip = project::clipOf(project.assets, one.asset, rate_);
                        clip && !clip->channels.empty())
                        voice = std::make_shared<const std::vector<float>>(clip->channels[0]);
            if (!voice && !shipped) {
                const auto speech = project::readSpeech(project::speechFolder());
                shipped = std::make_shared<const std::vector<float>>(speech ? speech->farEnd : std::vector<float>{});
            }
            all.push_back(
                {port, voice ? voice : shipped, ends_->made(false, {d.id, port}), ends_->made(true, {d.id, port})});
        }
        farSides_[d.id] = std::make_shared<FarSide>(std::move(all), s);
    }
}

std::shared_ptr<FarSide> Air::farSide(const std::string& device) const {
    return at(farSides_, device);
}

void Air::setWalls(std::set<std::string> open) {
    const std::lock_guard inside(wallDoor_);
    open_ = std::move(open);
}

std::set<std::string> Air::walls() const {
    const std::lock_guard inside(wallDoor_);
    return open_;
}

// A room is as its walls are, and no part of a larger one that open walls make.
bool Air::isAtWork(const Room& r, const std::set<std::string>& open) const {
    if (!std::includes(open.begin(), open.end(), r.open.begin(), r.open.end()))
        return false;
    return std::none_of(rooms_.begin(), rooms_.end(), [&](const auto& other) {
        return other->rooms.size() > r.rooms.size() &&
               std::includes(open.begin(), open.end(), other->open.begin(), other->open.end()) &&
               std::includes(other->rooms.begin(), other->rooms.end(), r.rooms.begin(), r.rooms.end());
    });
}

engine::Resources Air::joined(engine::Resources own, const std::string& device) const {
    engine::Resources r = own;
    r.feed = [all = ends_, device, feed = own.feed](const std::string& port, double rate) {
        return !feed || all->asked(true, {device, port}) ? engine::Feed{} : feed(port, rate);
    };
    r.arriving = [all = ends_, device](const std::string& port) { return all->asked(true, {device, port}); };
    r.leaving = [all = ends_, device](const std::string& port) { return all->asked(false, {device, port}); };
    return r;
}

void Air::furnish(const project::Project& project, std::stop_token stop) {
    for (const auto& of : project::spacesToTalkIn(project)) {
        auto sound = project::roomSoundOf(project, of.space, of.state, {rate_}, stop);
        if (stop.stop_requested())
            return;
        std::set<std::string> rooms;
        for (const auto* r : of.space.rooms)
            rooms.insert(r->id);
        if (!sound.targets.empty() && !sound.sources.empty())
            add(std::move(sound), std::move(rooms), of.walls());
    }
    furnished_ = true;
}

void Air::add(project::RoomSound sound, std::set<std::string> rooms, std::set<std::string> open) {
    auto r = std::make_unique<Room>(std::move(sound));
    if (rooms_.empty())
        began_ = steps_; // people begin to talk
    r->rooms = std::move(rooms);
    r->open = std::move(open);
    const auto& s = r->sound;
    for (std::size_t i = 0; i < s.sources.size(); ++i) {
        SoundLane l;
        if (!s.sources[i].voice) {
            l.cable = leaving(s.sources[i].from);
            l.side = side(s.sources[i].from.device);
        }
        r->loudspeakers.push_back(std::move(l));
        for (std::size_t t = 0; t < s.targets.size(); ++t)
            r->convolver.set(i, t, s.response(i, t));
    }
    for (const auto& target : s.targets) {
        const auto& end = target.end;
        // An array is a device with an output; other microphones are at the end of a cable.
        const bool isOutput = std::any_of(ways_.begin(), ways_.end(), [&](const Way& w) { return w.lead.from == end; });
        r->ears.push_back(isOutput ? leaving(end) : arriving(end));
        r->earSides.push_back(isOutput ? side(end.device) : nullptr);
        r->out.emplace_back(block);
    }
    r->sound.responses.clear(); // the convolver has them
    rooms_.push_back(std::move(r));
    rooms_.back()->gain = isAtWork(*rooms_.back(), walls()) ? 1.0f : 0.0f;
}

// ---- at work ----

void Air::carry(Way& w) {
    w.from.read();
    w.from.side->level(SoundSide::Way::leaves, w.lead.from.port, peakOf(w.from.samples));
    for (float& v : w.from.samples)
        v = static_cast<float>(v * w.lead.gain);
    w.side->level(SoundSide::Way::comes, w.lead.to.port, peakOf(w.from.samples));
    w.to->write(w.from.samples.data(), block);
}

void Air::sound(Room& r, bool atWork) {
    std::vector<const float*> in(r.sound.sources.size());
    std::vector<float*> out;
    for (auto& o : r.out)
        out.push_back(o.data());
    for (std::size_t i = 0; i < in.size(); ++i) {
        auto& lane = r.loudspeakers[i];
        const auto& source = r.sound.sources[i];
        if (source.voice) {
            const auto& clip = source.voice->channels[0];
            auto at =
                static_cast<std::size_t>((steps_ - began_) * block) % clip.size(); // they go on while a wall moves
            for (float& v : lane.samples) {
                v = clip[at];
                at = (at + 1) % clip.size();
            }
        } else {
            lane.read();
            for (float& v : lane.samples)
                v = std::clamp(v, static_cast<float>(-source.most), static_cast<float>(source.most));
        }
        in[i] = lane.samples.data();
    }
    r.convolver.process(in.data(), out.data());
    const float to = atWork ? 1.0f : 0.0f, step = (to - r.gain) / block;
    for (std::size_t t = 0; t < r.ears.size(); ++t) {
        if (r.earSides[t] && r.earSides[t]->quiet)
            std::fill(r.out[t].begin(), r.out[t].end(), 0.0f);
        for (int i = 0; i < block; ++i)
            r.out[t][static_cast<std::size_t>(i)] *= r.gain + step * static_cast<float>(i + 1);
    }
    r.gain = to;
}

// A microphone hears the room that it is in now; while a wall moves, both.
void Air::soundRooms() {
    const auto open = walls();
    std::map<engine::Cable*, std::vector<float>> heard;
    for (auto& r : rooms_) {
        const bool atWork = isAtWork(*r, open);
        if (!atWork && r->gain == 0)
            continue;
        sound(*r, atWork);
        for (std::size_t t = 0; t < r->ears.size(); ++t) {
            auto& sum = heard[r->ears[t].get()];
            sum.resize(block);
            for (int i = 0; i < block; ++i)
                sum[static_cast<std::size_t>(i)] += r->out[t][static_cast<std::size_t>(i)];
        }
    }
    for (auto& [cable, samples] : heard)
        cable->write(samples.data(), block);
}

void Air::step() {
    soundRooms();
    for (auto& [_, far] : farSides_)
        far->step();
    ++steps_;
    for (auto& w : ways_)
        if (!project::specOf(project::transportOf(w.lead.to.port)).streams) // those go by the net
            carry(w);
    net_.step();
}

void Air::start(const project::Project& project) {
    // The project is copied: it may go before its rooms are worked out.
    thread_ = std::jthread([this, project](std::stop_token stop) {
        furnish(project, stop);
        const auto pace = std::chrono::duration_cast<std::chrono::steady_clock::duration>(
            std::chrono::duration<double>(block / rate_));
        for (auto due = std::chrono::steady_clock::now(); !stop.stop_requested();) {
            step();
            due += pace;
            if (const auto now = std::chrono::steady_clock::now(); now > due + 8 * pace)
                due = now; // however far behind, others get their turn
            std::this_thread::sleep_until(due);
        }
    });
}

} // namespace loom::rig
