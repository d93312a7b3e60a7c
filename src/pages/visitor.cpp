#include "pages/visitor.h"
#include "schema/json_text.h"
#include "surface/over.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

using nlohmann::json;

namespace {

const char* touchWord(Touch t) {
    switch (t) {
    case Touch::none:
        return "";
    case Touch::slide:
    case Touch::turn:
        return "slide";
    case Touch::toggle:
    case Touch::press:
        return "press";
    case Touch::hold:
        return "hold";
    case Touch::pick:
        return "pick";
    case Touch::step:
        return "step";
    case Touch::unfold:
    case Touch::type:
        return "open";
    case Touch::dial:
        return "dial";
    }
    return "";
}

} // namespace

Visitor::Visitor(Project project, const std::string& surface, SurfaceValues& values,
                 std::map<std::string, std::string> pictures)
    : use_(std::move(project), surface, values), pictures_(std::move(pictures)) {}

void Visitor::follow(Project project, std::map<std::string, std::string> pictures) {
    use_.follow(std::move(project));
    pictures_ = std::move(pictures);
    fresh_ = true;
}

void Visitor::letGo() {
    for (const int finger : std::exchange(fingers_, {}))
        use_.release(finger);
}

Result<Done> Visitor::received(const std::string& text) {
    const Error wrong{"is no message of a page", text.substr(0, 60), "docs/surfaces-line.md lists them."};
    if (text.size() > longestMessage)
        return Error{"is longer than 1,000 bytes", text.substr(0, 60), ""};
    const auto read = schema::parseJson(text, "message");
    if (!read || !read->is_array() || read->empty() || !(*read)[0].is_string())
        return wrong;
    const auto& j = *read;
    const auto what = j[0].get<std::string>();
    const auto word = [&](std::size_t i) {
        return i < j.size() && j[i].is_string() ? std::optional(j[i].get<std::string>()) : std::nullopt;
    };
    const auto number = [&](std::size_t i) -> std::optional<double> {
        if (i >= j.size() || !j[i].is_number())
            return {};
        const double v = j[i].get<double>();
        return std::isfinite(v) && std::abs(v) <= 1e6 ? std::optional(v) : std::nullopt;
    };
    const auto control = [&]() -> const Control* {
        const auto id = word(1);
        const auto* page = use_.page();
        const auto* c = id && page ? page->control(*id) : nullptr;
        if (!c || !use_.seen(*c))
            return nullptr;
        for (const auto& ply : page->plies) // what lies on a closed ply is not there
            if (!use_.isOpen(ply))
                for (const auto& one : ply.controls)
                    if (one.id == c->id)
                        return nullptr;
        return c;
    };
    if (what == "press" || what == "move" || what == "release" || what == "cancel") {
        const auto finger = number(1), x = number(2), y = number(3);
        if (!finger || *finger != std::floor(*finger) || ((what == "press" || what == "move") && (!x || !y)))
            return wrong;
        const int f = static_cast<int>(*finger);
        if (what == "press") {
            if (fingers_.size() >= mostFingers && !fingers_.count(f))
                return Error{"has more than 10 fingers", "press", ""};
            fingers_.insert(f);
            use_.press(f, *x, *y);
        } else if (what == "move") {
            use_.move(f, *x, *y);
        } else {
            fingers_.erase(f);
            what == "release" ? use_.release(f) : use_.cancel(f);
        }
        return Done{};
    }
    if (what == "click" || what == "step" || what == "key") {
        const auto* c = control();
        if (!c)
            return Error{"there is no such control on this page", word(1).value_or("").substr(0, 60), ""};
        if (what == "click") {
            use_.click(*c);
        } else if (what == "step") {
            const auto by = number(2);
            if (!by || std::abs(*by) > 100)
                return wrong;
            use_.step(*c, static_cast<int>(*by));
        } else if (const auto key = word(2); key && key->size() <= 8) {
            use_.key(*c, *key);
        } else {
            return wrong;
        }
        return Done{};
    }
    if (what == "over") {
        const auto key = word(1);
        if (!key || key->size() > 8)
            return wrong;
        use_.overKey(*key);
    } else if (what == "choose") {
        const auto part = number(1);
        if (!part || *part != std::floor(*part) || *part < 0 || *part > 1000)
            return wrong;
        use_.choose(static_cast<int>(*part));
    } else if (what == "answer") {
        if (j.size() < 2 || !j[1].is_boolean())
            return wrong;
        use_.answer(j[1].get<bool>());
    } else if (what == "be") {
        const auto role = word(1), pin = word(2);
        if (!role || !pin || role->size() > 200 || pin->size() > 12)
            return wrong;
        asksRole_ = RoleAsked{*role, *pin};
    } else if (what == "leave") {
        use_.be("");
    } else if (what == "let-be") {
        use_.letBe();
    } else {
        return wrong;
    }
    return Done{};
}

json Visitor::pageJson() const {
    const auto* s = use_.surface();
    const auto* page = use_.page();
    json j{{"is", "page"}};
    if (!s)
        return j;
    j["surface"] = {{"id", s->id}, {"name", s->name}, {"width", s->width}, {"height", s->height}};
    j["role"] = use_.role();
    for (const auto& r : s->roles)
        j["roles"].push_back({{"id", r.id}, {"name", r.name}});
    if (!page)
        return j;
    const auto paint = paintOf(*s, *page);
    j["page"] = {{"id", page->id},
                 {"name", page->name},
                 {"fill", paint.page.text()},
                 {"ink", paint.ink.text()},
                 {"accent", paint.accent.text()},
                 {"onAccent", paint.onAccent.text()},
                 {"key", paint.fill.text()}};
    for (const auto& ply : page->plies) {
        json p{{"id", ply.id}, {"controls", json::array()}};
        if (!ply.comes.empty())
            p["comes"] = ply.comes;
        if (!ply.edge.empty()) {
            const auto box = drawerBox(*s, ply);
            p["drawer"] = {{"edge", ply.edge}, {"x", box.x},      {"y", box.y},
                           {"w", box.width},   {"h", box.height}, {"fill", drawerFill(*s, *page, ply).text()}};
        }
        for (const auto& c : ply.controls) {
            const auto* kind = findControlKind(c.kind);
            const auto drive = c.param.empty() ? std::nullopt : controlDrive(use_.project(), c.param);
            json one{{"id", c.id}, {"kind", c.kind}, {"x", c.x}, {"y", c.y}, {"w", c.width}, {"h", c.height}};
            one["sketch"] = sketchJson(sketchOf(use_.project(), *s, *page, c));
            auto name = labelOf(c, drive ? &*drive : nullptr);
            one["name"] = !name.empty() ? name : !c.name.empty() ? c.name : kind ? kind->label : c.kind;
            if (kind && kind->touch != Touch::none && !c.through)
                one["touch"] = touchWord(kind->touch);
            if (kind)
                one["role"] = kind->role;
            if (drive && drive->kind == Drive::Kind::choice)
                one["parts"] = drive->spec.choices;
            if (kind && kind->touch == Touch::dial)
                one["parts"] = {"1", "2", "3", "4", "5", "6", "7", "8", "9", "*", "0", "#", "Call", "Back"};
            p["controls"].push_back(std::move(one));
        }
        j["plies"].push_back(std::move(p));
    }
    j["pictures"] = pictures_;
    return j;
}

json Visitor::nowJson() {
    json j{{"is", "now"}};
    const auto* page = use_.page();
    std::set<std::string> open, seen;
    for (const auto& ply : page ? page->plies : List<Ply>{}) {
        const bool here = use_.isOpen(ply);
        if (here)
            open.insert(ply.id);
        for (const auto& c : ply.controls) {
            if (!use_.seen(c))
                continue;
            seen.insert(c.id);
            if (!here && ply.comes.empty())
                continue; // told as soon as it opens
            auto shown = use_.shown(c);
            const auto it = shown_.find(c.id);
            if (it != shown_.end() && it->second == shown)
                continue;
            j["controls"][c.id] = shownJson(shown);
            shown_[c.id] = std::move(shown);
        }
    }
    if (fresh_ || open != openPlies_)
        j["open"] = openPlies_ = open;
    if (fresh_ || seen != seen_)
        j["seen"] = seen_ = seen;
    std::optional<json> over, ask;
    if (const auto lies = use_.over()) {
        over = sketchJson(*lies);
        (*over)["now"] = shownJson(use_.overShown());
        (*over)["of"] = use_.overOf();
        const auto* c = page->control(use_.overOf());
        const auto drive = controlDrive(use_.project(), c->param);
        const auto* kind = findControlKind(c->kind);
        (*over)["names"] = kind && kind->touch == Touch::type ? numberKeys() : drive->spec.choices;
        (*over)["typed"] = kind && kind->touch == Touch::type;
    }
    if (use_.asked()) {
        const auto* c = page ? page->control(*use_.asked()) : nullptr;
        const auto drive = c && !c->param.empty() ? controlDrive(use_.project(), c->param) : std::nullopt;
        ask = json(c ? labelOf(*c, drive ? &*drive : nullptr) : "");
    }
    if (over != over_)
        j["over"] = (over_ = over) ? *over : json();
    if (ask != ask_)
        j["ask"] = (ask_ = ask) ? *ask : json();
    if (use_.said() != said_)
        j["said"] = said_ = use_.said();
    if (use_.wanted() != wanted_) {
        wanted_ = use_.wanted();
        json who = json::array();
        const auto* wanted = use_.surface() ? use_.surface()->page(wanted_) : nullptr;
        for (const auto& r : wanted ? wanted->roles : std::vector<std::string>{})
            who.push_back(r);
        j["wanted"] = wanted ? json{{"page", wanted->name}, {"roles", who}} : json();
    }
    fresh_ = false;
    return j;
}

std::vector<std::string> Visitor::take() {
    std::vector<std::string> all;
    const auto* page = use_.page();
    const std::string now = page ? page->id : "";
    if (fresh_ || now != page_ || use_.role() != role_) {
        fresh_ = true;
        page_ = now, role_ = use_.role();
        shown_.clear();
        over_.reset(), ask_.reset();
        wanted_.clear();
        all.push_back(dumped(pageJson()));
    }
    const auto j = nowJson();
    if (j.size() > 1)
        all.push_back(dumped(j));
    return all;
}

} // namespace loom::project
