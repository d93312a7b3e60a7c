#include "rig/conversing.h"
#include "catalogue/transport.h"
#include "program/wall_switch.h"
#include "talk/mute_board.h"
#include <algorithm>

namespace loom::rig {

using project::ContactUse;

Conversing::Conversing(const std::string& serial) : link_(serial) {
    link_.changed = [this](const std::string& space, bool muted) { apply(space, muted); };
}

void Conversing::powered(bool on, double now) {
    onSince_ = now;
    if (on)
        return;
    link_.setSpaces({}, {}, now); // nothing of it is kept
    link_.join({}, now);
    places_.clear(), uses_.clear(), relays_.clear(), cuts_.clear(), spaces_.clear();
    switches_.clear(), moved_.clear(), waits_.clear();
}

void Conversing::told(const project::SetUp& setUp, const std::optional<engine::Program>& program,
                      const std::shared_ptr<FarSide>& far, double now) {
    places_.clear(), uses_.clear(), cuts_.clear(), spaces_.clear(), switches_.clear(), moved_.clear();
    far_ = far;
    std::map<std::string, std::string> ports; // space by port
    for (const auto& [id, text] : setUp) {
        if (id.rfind("mute ", 0) == 0) {
            if (const auto use = project::readMuteUse(text)) {
                places_[id.substr(5)] = *use;
                spaces_.insert(use->space);
                if (id != "mute self")
                    ports[id.substr(5)] = use->space;
            }
        } else if (project::isLink(id)) {
            if (const auto use = project::readContact(id, text); use && use->kind != ContactUse::Kind::none) {
                uses_[id] = *use;
                if (use->kind != ContactUse::Kind::wall)
                    spaces_.insert(use->space);
            }
        }
    }
    std::set<std::string> cutting;
    if (program) {
        cuts_ = project::mutedBlocks(*program, ports);
        for (const auto& [space, blocks] : cuts_)
            if (!blocks.empty())
                cutting.insert(space);
        for (const auto& b : program->blocks)
            if (project::isWallSwitch(b))
                switches_.push_back(b);
    }
    link_.setSpaces(spaces_, cutting, now);
    followWalls(now);
    waits_.clear();
    for (const auto& space : spaces_) {
        const bool unsure = !link_.known(space) && now - onSince_ < asksFor && cutting.count(space) > 0;
        if (unsure)
            waits_.insert(space);
        apply(space, unsure || link_.muted(space));
    }
}

void Conversing::move(const std::string& block, const std::string& param, double value) {
    moved_[block + "." + param] = value;
    if (set)
        set(block, param, value);
}

void Conversing::apply(const std::string& space, bool muted) {
    if (link_.known(space))
        waits_.erase(space);
    if (const auto it = cuts_.find(space); it != cuts_.end())
        for (const auto& block : it->second)
            move(block, "muted", muted ? 1 : 0);
    for (const auto& [key, use] : places_) {
        if (use.space != space)
            continue;
        if (key == "self") {
            if (own)
                own(muted);
        } else if (far_) {
            far_->setMuted(key, muted);
        }
    }
    for (const auto& [id, use] : uses_)
        if (use.kind == ContactUse::Kind::lamp && use.space == space)
            relays_[id] = muted;
}

std::set<std::string> Conversing::openWalls() const {
    std::set<std::string> open;
    for (const auto& [id, use] : uses_)
        if (use.kind == ContactUse::Kind::wall)
            if (const auto it = contacts_.find(id); it != contacts_.end() && !it->second)
                open.insert(use.wall); // a contact that nobody heard of is that of a closed wall
    return open;
}

void Conversing::followWalls(double now) {
    const auto open = openWalls();
    for (const auto& b : switches_)
        for (const auto& [param, value] : project::wallValues(b, open))
            move(b.id, param, value);
    std::set<std::string> together;
    for (const auto& [_, use] : uses_)
        if (use.kind == ContactUse::Kind::wall && open.count(use.wall))
            together.insert(use.space);
    link_.join(together, now);
}

void Conversing::setContact(const std::string& id, bool closed, double now) {
    const auto before = contacts_.find(id);
    const bool pressed = closed && (before == contacts_.end() || !before->second);
    contacts_[id] = closed;
    const auto it = uses_.find(id);
    if (it == uses_.end())
        return;
    if (it->second.kind == ContactUse::Kind::wall)
        followWalls(now);
    else if (it->second.kind == ContactUse::Kind::mute && pressed)
        link_.set(it->second.space, !link_.muted(it->second.space), now);
}

void Conversing::press(double now) {
    if (const auto it = places_.find("self"); it != places_.end() && it->second.sets)
        link_.set(it->second.space, !link_.muted(it->second.space), now);
}

bool Conversing::ownAgreed(double now) const {
    const auto it = places_.find("self");
    return it == places_.end() || link_.cut(it->second.space, now);
}

Result<bool> Conversing::mute(const std::string& space, bool muted, const std::string& who, double now) {
    if (!spaces_.count(space))
        return Error{"it takes no part in the mute of that space", space.substr(0, 60),
                     "health tells in which it does."};
    link_.set(space, muted, now);
    if (note)
        note(who + (muted ? " muted " : " unmuted ") + space + ".");
    return link_.muted(space);
}

bool Conversing::relay(const std::string& id) const {
    const auto it = relays_.find(id);
    return it != relays_.end() && it->second;
}

void Conversing::setRelay(const std::string& id, bool closed) {
    relays_[id] = closed;
}

std::optional<bool> Conversing::muted(const std::string& space) const {
    return spaces_.count(space) ? std::optional(link_.muted(space)) : std::nullopt;
}

std::optional<double> Conversing::moved(const std::string& path) const {
    const auto it = moved_.find(path);
    return it == moved_.end() ? std::nullopt : std::optional(it->second);
}

std::optional<Result<Done>> Conversing::setMoved(const std::string& path, double value, double now) {
    if (!moved_.count(path))
        return {};
    for (const auto& [space, blocks] : cuts_)
        for (const auto& block : blocks)
            if (path == block + ".muted") {
                link_.set(space, value >= 0.5, now);
                return Result<Done>(Done{});
            }
    return Result<Done>(Error{"it follows the wall", path, "Move the wall, or let the block follow none."});
}

void Conversing::beat(double now) {
    for (const auto& [key, use] : places_)
        if (far_ && key != "self")
            if (const auto pressed = far_->pressed(key)) {
                if (use.sets)
                    link_.set(use.space, *pressed, now);
                else
                    far_->setMuted(key, link_.muted(use.space)); // it follows and does not set
            }
    if (!waits_.empty() && now - onSince_ >= asksFor)
        for (const auto& space : std::exchange(waits_, {}))
            apply(space, link_.muted(space));
}

std::map<std::string, bool> Conversing::mutes() const {
    std::map<std::string, bool> all;
    for (const auto& [key, use] : places_)
        all[key] = key != "self" && far_ && project::transportOf(key) == project::Transport::usb
                       ? far_->computerMuted()
                       : link_.muted(use.space);
    for (const auto& [id, closed] : relays_)
        all[id] = closed;
    for (const auto& [space, blocks] : cuts_)
        if (!blocks.empty())
            all[space] = std::all_of(blocks.begin(), blocks.end(), [&](const auto& b) {
                const auto v = moved(b + ".muted");
                return v && *v >= 0.5;
            });
    return all;
}

} // namespace loom::rig
