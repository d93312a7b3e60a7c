#include "pages/page_host.h"
#include "schema/json_text.h"
#include "surface/pack.h"
#include <algorithm>

namespace loom::project {

using nlohmann::json;

const PageHost::Served* PageHost::find(const std::string& surface) const {
    for (const auto& s : served_)
        if (s.surface == surface)
            return &s;
    return nullptr;
}

void PageHost::serve(std::vector<Served> all) {
    served_ = std::move(all);
    std::erase_if(sessions_, [&](const auto& one) {
        const auto* s = find(one.second.surface);
        const auto* surface = s ? s->project.surface(s->surface) : nullptr;
        return !surface || std::none_of(surface->roles.begin(), surface->roles.end(),
                                        [&](const auto& r) { return r.id == one.second.role; });
    });
    for (auto& [_, s] : seats_) {
        if (!s.seat)
            continue;
        if (const auto* now = find(s.surface)) {
            s.seat->follow(now->project, now->pictures);
            if (!sessions_.count(s.session))
                s.seat->be(""), s.session.clear();
        } else {
            s.seat.reset();
            s.carrier.send(dumped({{"is", "gone"}}));
        }
    }
}

int PageHost::opened(Carrier carrier, double) {
    if (seats_.size() >= mostSeats) {
        carrier.drop();
        return -1;
    }
    const int number = next_++;
    seats_[number].carrier = std::move(carrier);
    return number;
}

void PageHost::drop(int number) {
    const auto it = seats_.find(number);
    if (it == seats_.end())
        return;
    const auto away = it->second.carrier.drop;
    if (it->second.seat)
        it->second.seat->letGo();
    sessions_.erase(it->second.session);
    seats_.erase(it);
    away();
}

void PageHost::closed(int number, double now) {
    const auto it = seats_.find(number);
    if (it == seats_.end())
        return;
    if (it->second.seat)
        it->second.seat->letGo();
    if (const auto session = sessions_.find(it->second.session); session != sessions_.end())
        session->second.until = now + sessionSeconds;
    seats_.erase(it);
}

void PageHost::closeAll() {
    while (!seats_.empty())
        drop(seats_.begin()->first);
    sessions_.clear();
}

void PageHost::open(Sitting& s, const std::string& surface, const std::string& session, double now) {
    const auto* to = !surface.empty() ? find(surface) : served_.size() == 1 ? &served_.front() : nullptr;
    if (!to) {
        json list = json::array();
        for (const auto& one : served_)
            if (const auto* is = one.project.surface(one.surface))
                list.push_back({{"id", is->id}, {"name", is->name}});
        return s.carrier.send(dumped({{"is", "surfaces"}, {"surfaces", list}, {"lacks", surface}}));
    }
    s.surface = to->surface;
    s.seat = std::make_unique<Visitor>(to->project, to->surface, values_, to->pictures);
    // A session is used once: whoever has seen it cannot use it again.
    const auto it = sessions_.find(session);
    if (!session.empty() && it != sessions_.end() && it->second.surface == to->surface && it->second.until >= now) {
        const auto role = it->second.role;
        sessions_.erase(it);
        s.session = secret ? secret() : "";
        if (!s.session.empty()) {
            sessions_[s.session] = {to->surface, role, 0};
            s.seat->be(role);
            s.carrier.send(dumped({{"is", "session"}, {"session", s.session}}));
        }
    }
    tell(s);
}

void PageHost::ask(Sitting& s, const Visitor::RoleAsked& role) {
    const auto* to = find(s.surface);
    const auto* surface = to ? to->project.surface(to->surface) : nullptr;
    const bool known = surface && std::any_of(surface->roles.begin(), surface->roles.end(),
                                              [&](const auto& r) { return r.id == role.role; });
    const auto done = !known || !admit ? Result<Done>(Error{"nobody may be that here", role.role.substr(0, 60), ""})
                                       : admit(s.surface, role.role, role.pin, s.carrier.source);
    if (!done) {
        s.carrier.send(dumped({{"is", "refused"}, {"why", done.error().message}, {"remedy", done.error().remedy}}));
        return;
    }
    sessions_.erase(s.session);
    if (sessions_.size() >= mostSessions)
        std::erase_if(sessions_, [](const auto& one) { return one.second.until > 0; });
    s.session = secret ? secret() : "";
    if (!s.session.empty())
        sessions_[s.session] = {s.surface, role.role, 0};
    s.seat->be(role.role);
    s.carrier.send(dumped({{"is", "session"}, {"session", s.session}}));
    tell(s);
}

void PageHost::tell(Sitting& s) {
    if (s.seat)
        for (const auto& text : s.seat->take())
            s.carrier.send(text);
}

void PageHost::say(Sitting& s, const std::string& text, double now) {
    if (s.said == text && now - s.saidAt < 1) // once a second is enough
        return;
    s.said = text, s.saidAt = now;
    s.carrier.send(dumped({{"is", "error"}, {"why", text}}));
}

void PageHost::received(int number, const std::string& text, double now) {
    const auto it = seats_.find(number);
    if (it == seats_.end())
        return;
    auto& s = it->second;
    if (now - s.second >= 1)
        s.second = now, s.messages = 0;
    if (++s.messages > mostMessages || text.size() > Visitor::longestMessage)
        return drop(number);
    if (!s.seat) {
        const auto j = schema::parseJson(text, "message");
        const auto word = [&](std::size_t i) {
            return i < j->size() && (*j)[i].is_string() ? (*j)[i].get<std::string>() : std::string();
        };
        if (!j || !j->is_array() || word(0) != "open")
            return say(s, "the first message is [\"open\", surface, session]", now);
        return open(s, word(1), word(2), now);
    }
    if (const auto done = s.seat->received(text); !done)
        return say(s, done.error().text(), now);
    if (const auto role = s.seat->roleAsked())
        ask(s, *role);
}

void PageHost::obey(const std::string& surface, const SurfaceOrder& order) {
    for (auto& [_, s] : seats_)
        if (s.seat && s.surface == surface)
            s.seat->obey(order);
}

void PageHost::tick(double now) {
    const double passed = at_ < 0 ? 0 : std::clamp(now - at_, 0.0, 5.0);
    at_ = now;
    std::erase_if(sessions_, [&](const auto& one) { return one.second.until > 0 && one.second.until < now; });
    const bool beat = now - beatAt_ >= beatEvery;
    if (beat)
        beatAt_ = now;
    for (auto& [_, s] : seats_) {
        if (beat)
            s.carrier.send("{\"is\": \"beat\"}");
        if (!s.seat)
            continue;
        s.seat->passed(passed);
        if (s.seat->role().empty() && !s.session.empty()) { // it was left, or nobody touched it for long
            sessions_.erase(s.session);
            s.session.clear();
            s.carrier.send(dumped({{"is", "session"}, {"session", ""}}));
        }
        tell(s);
    }
}

PageHost::Served servedOf(const Project& p, const Surface& s, std::map<std::string, Asset>& pictures) {
    PageHost::Served one{p, s.id, {}};
    for (const auto& name : picturesOf(s))
        if (const auto it = p.assets.find(name); it != p.assets.end()) {
            const auto print = picturePrint(it->second);
            pictures[print] = it->second;
            one.pictures[name] = "/picture/" + print;
        }
    return one;
}

} // namespace loom::project
