#include "surface/make_page.h"
#include "model/block_names.h"
#include "rooms/room_edit.h"
#include "talk/conversation.h"
#include "talk/lane_way.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace loom::project {

namespace {

// What turns a source: the last level before lanes meet, else its preamplifier; and a mute on it.
Strip ofSource(const Device& d, const engine::Block& source) {
    const auto& p = *d.program;
    Strip s{blockName(p, source)};
    for (const char* kind : {"level", "preamp"})
        if (const auto* b = first::beadOf(p, source.id, kind); b && s.level.empty()) {
            s.level = d.id + "/" + b->id + ".gain";
            if (b->kind == "preamp") { // as it was set, and a little around it
                const engine::BlockView view(*b);
                const double now = view.values[static_cast<std::size_t>(view.table->indexOf("gain"))];
                s.low = now - 12, s.high = now + 6;
            }
        }
    for (const char* kind : {"mute", "level", "preamp"})
        if (const auto* b = first::beadOf(p, source.id, kind); b && s.mute.empty()) {
            const engine::BlockView view(*b);
            for (const char* param : {"muted", "mute"})
                if (view.table->indexOf(param) >= 0 && s.mute.empty())
                    s.mute = d.id + "/" + b->id + "." + param;
        }
    s.reading = d.id + "/" + first::laneEnd(p, source.id).block + "@level";
    return s;
}

// What turns a destination: beads on the way to it alone, nearest first.
Strip ofDestination(const Device& d, const engine::Block& destination) {
    const auto& p = *d.program;
    Strip s{blockName(p, destination)};
    engine::PortRef at{destination.id, 0};
    for (int i = 0; i < 64; ++i) {
        const auto* c = p.into(at);
        const auto* b = c ? p.find(c->from.block) : nullptr;
        if (!b || !engine::findKind(b->kind) || engine::inputsOf(p, *b) != 1)
            break;
        const engine::BlockView view(*b);
        if (s.level.empty() && b->kind == "level")
            s.level = d.id + "/" + b->id + ".gain";
        if (s.mute.empty())
            for (const char* param : {"muted", "mute"})
                if (view.table->indexOf(param) >= 0)
                    s.mute = d.id + "/" + b->id + "." + param;
        at = {b->id, 0};
    }
    s.reading = d.id + "/" + destination.id + "@level";
    return s;
}

bool turns(const Strip& s) {
    return !s.level.empty() || !s.mute.empty();
}

std::vector<Strip> ofSpace(const Project& p, const SpaceOf& space) {
    std::vector<Strip> all;
    const auto c = conversationOf(p, space);
    std::set<std::pair<std::string, std::string>> seen;
    const auto add = [&](const std::string& device, const std::string& block) {
        const auto* d = p.device(device);
        const auto* b = d && d->program ? d->program->find(block) : nullptr;
        if (!b || !seen.insert({device, block}).second)
            return;
        if (auto s = stripOf(*d, *b))
            all.push_back(std::move(*s));
    };
    for (const auto& m : c.microphones)
        add(m.input.device, m.source);
    for (const auto& f : c.farEnds)
        add(f.device, f.source);
    for (const auto& l : c.listeners)
        if (l.kind == Conversation::Listener::Kind::zone || l.kind == Conversation::Listener::Kind::loop)
            add(l.device, l.block);
    return all;
}

std::vector<Strip> ofProcessor(const Device& d) {
    std::vector<Strip> all;
    for (const auto end : {engine::End::arrives, engine::End::leaves})
        for (const auto& b : d.program->blocks)
            if (engine::endOf(b) == end)
                if (auto s = stripOf(d, b))
                    all.push_back(std::move(*s));
    return all;
}

// Whose lane comes to each input of a group: back over blocks of one input to the source.
std::vector<Strip> ofGroup(const Device& d, const engine::Block& group) {
    std::vector<Strip> all;
    std::set<std::string> seen;
    for (int i = 0; i < engine::inputsOf(*d.program, group); ++i) {
        engine::PortRef at{group.id, i};
        for (int hop = 0; hop < 64; ++hop) {
            const auto* c = d.program->into(at);
            const auto* b = c ? d.program->find(c->from.block) : nullptr;
            if (!b)
                break;
            if (engine::endOf(*b) == engine::End::arrives) {
                if (seen.insert(b->id).second)
                    if (auto s = stripOf(d, *b))
                        all.push_back(std::move(*s));
                break;
            }
            at = {b->id, engine::inputsOf(*d.program, *b) > c->from.port ? c->from.port : 0};
        }
    }
    return all;
}

const char* const modelWord = "model:";

// Parameters of one block are one strip, as far as one has room for them.
void addParameter(const Project& p, const Drive& drive, std::vector<Strip>& all,
                  std::map<std::string, std::size_t>& byBlock) {
    const auto key = drive.device + "/" + drive.block;
    const auto it = drive.block.empty() ? byBlock.end() : byBlock.find(key);
    Strip fresh;
    const auto* d = p.device(drive.device);
    const auto* b = d && d->program ? d->program->find(drive.block) : nullptr;
    fresh.name = b ? blockName(*d->program, *b) : drive.label;
    const auto into = [&](std::string Strip::*part) {
        if (it != byBlock.end() && all[it->second].other.empty() && (all[it->second].*part).empty()) {
            all[it->second].*part = drive.path;
            return;
        }
        fresh.*part = drive.path;
        if (it == byBlock.end() && !drive.block.empty())
            byBlock[key] = all.size();
        all.push_back(fresh);
    };
    if (drive.kind == Drive::Kind::range)
        into(&Strip::level);
    else if (drive.kind == Drive::Kind::onOff && !isSignal(drive))
        into(&Strip::mute);
    else if (drive.kind == Drive::Kind::reading)
        into(&Strip::reading);
    else
        fresh.name = drive.label, fresh.other = drive.path, all.push_back(fresh);
}

// What stands in it and is talked to: what of that can be set.
std::vector<Strip> outsideOf(const Project& p, const SpaceOf& space) {
    std::vector<Strip> all;
    std::map<std::string, std::size_t> byBlock;
    for (const auto& d : p.outside)
        if (const auto* kind = p.outsideKind(d.kind); kind && space.space.has(d.room))
            for (const auto& state : kind->states)
                if (const auto drive = controlDrive(p, outsidePrefix + d.id + "/" + state.id);
                    drive && isSet(*drive) && isToldToSurfaces(p, *drive))
                    addParameter(p, *drive, all, byBlock);
    return all;
}

} // namespace

std::optional<Strip> stripOf(const Device& d, const engine::Block& end) {
    if (!d.program || engine::endOf(end) == engine::End::none)
        return {};
    auto s = engine::endOf(end) == engine::End::arrives ? ofSource(d, end) : ofDestination(d, end);
    return turns(s) ? std::optional(std::move(s)) : std::nullopt;
}

std::vector<NewControl> stripControls(const Project& p, const Strip& s, double x, double y, double wide, double high,
                                      double mute, double meter) {
    std::vector<NewControl> all;
    if (!s.other.empty()) {
        if (const auto drive = controlDrive(p, s.other))
            all.push_back(
                {usualKind(*drive).id, s.other, "", "", x, y, wide, std::min(high, std::max(mute * 2, 90.0))});
        return all;
    }
    const bool level = !s.level.empty(), mutes = !s.mute.empty(), reads = !s.reading.empty();
    const double top = high - (mutes ? mute + 6 : 0);
    if (level) {
        NewControl fader{"fader", s.level, "", s.name, x, y, wide - (reads ? meter + 4 : 0), top};
        fader.low = s.low, fader.high = s.high, fader.digits = 0;
        all.push_back(fader);
        if (reads)
            all.push_back({"meter", s.reading, "", "", x + wide - meter, y, meter, top});
    } else if (reads && !mutes) {
        all.push_back({"meter", s.reading, "", s.name, x, y, wide, top});
    } else {
        NewControl words{"text", "", "", s.name, x, y, wide, std::min(top, mute)};
        words.align = "centre";
        all.push_back(words);
    }
    if (mutes) {
        const auto drive = controlDrive(p, s.mute);
        const bool isMute = drive && (drive->param == "muted" || drive->param == "mute");
        all.push_back({"toggle", s.mute, "", isMute ? "Mute" : "", x, level || reads ? y + high - mute : y + mute + 6,
                       wide, mute});
    }
    return all;
}

std::vector<PageSource> pageSources(const Project& p) {
    std::vector<PageSource> all;
    for (const auto& s : spacesThatTalk(p))
        all.push_back({s.key(), s.space.name});
    std::map<std::string, int> models;
    for (const auto& d : p.devices)
        if (d.program && !ofProcessor(d).empty()) {
            all.push_back({d.id, d.name});
            ++models[d.model];
        }
    for (const auto& d : p.devices)
        for (const auto& b : d.program ? d.program->blocks : List<engine::Block>{})
            if (b.kind == "automixer")
                all.push_back({d.id + "/" + b.id, d.name + " \u00b7 " + blockName(*d.program, b)});
    for (const auto& d : p.devices)
        if (const auto it = models.find(d.model); d.program && it != models.end() && it->second > 1) {
            const auto* m = d.spec();
            all.push_back({modelWord + d.model,
                           "All " + std::to_string(it->second) + " " + (m ? m->name : d.model) + " side by side"});
            models.erase(it);
        }
    return all;
}

Result<PageSource> pageSource(const Project& p, const std::vector<std::string>& said) {
    PageSource made;
    std::vector<std::pair<std::string, std::vector<Strip>>> parts; // of which processor; "": of several
    std::map<std::string, std::size_t> byBlock;
    std::vector<Strip> loose;
    const auto title = [&](const std::string& name) { made.title += (made.title.empty() ? "" : ", ") + name; };
    for (const auto& one : said) {
        const auto* d = p.device(one);
        const auto slash = one.find('/');
        const auto* of = slash == std::string::npos ? nullptr : p.device(one.substr(0, slash));
        const auto* b = of && of->program ? of->program->find(one.substr(slash + 1)) : nullptr;
        if (d && d->program) {
            title(d->name);
            parts.emplace_back(d->id, ofProcessor(*d));
        } else if (one.rfind(modelWord, 0) == 0) {
            for (const auto& each : p.devices)
                if (each.program && modelWord + each.model == one)
                    title(each.name), parts.emplace_back(each.id, ofProcessor(each));
        } else if (b && b->kind == "automixer") {
            title(blockName(*of->program, *b));
            parts.emplace_back(of->id, ofGroup(*of, *b));
        } else if (b && engine::endOf(*b) != engine::End::none) {
            title(blockName(*of->program, *b));
            if (auto s = stripOf(*of, *b))
                parts.emplace_back(of->id, std::vector{*s});
        } else if (b && engine::findKind(b->kind)) {
            for (const auto& spec : engine::BlockView(*b).table->specs())
                if (const auto field = controlDrive(p, one + "." + spec.id);
                    field && spec.id.find('.') == std::string::npos)
                    addParameter(p, *field, loose, byBlock);
        } else if (const auto drive = controlDrive(p, one)) {
            addParameter(p, *drive, loose, byBlock);
        } else if (const auto space = spaceSaid(p, one)) {
            title(space->space.name);
            parts.emplace_back("", ofSpace(p, *space));
            parts.emplace_back("", outsideOf(p, *space));
        } else {
            return Error{"there is no such room, processor, group or parameter", one,
                         "loomctl rooms, info and drives list what there is."};
        }
    }
    std::set<std::string> processors;
    for (const auto& [of, _] : parts)
        processors.insert(of);
    for (auto& [of, strips] : parts)
        for (auto& s : strips) {
            const auto* d = p.device(of);
            if (d && processors.size() > 1)
                s.name = d->name + " \u00b7 " + s.name;
            made.strips.push_back(std::move(s));
        }
    if (!loose.empty())
        title(loose.size() == 1 ? loose.front().name : "Controls");
    made.strips.insert(made.strips.end(), loose.begin(), loose.end());
    if (made.strips.empty())
        return Error{"nothing there can be turned", made.title.empty() ? "page" : made.title,
                     "Give its lanes levels or mutes in Weave, or press First pass in Talk."};
    made.title = made.title.substr(0, 120);
    return made;
}

Result<Edit> makePages(const Project& project, const std::string& id, const std::string& title,
                       const std::vector<Strip>& strips) {
    const auto* s = project.surface(id);
    if (!s)
        return Error{"there is no such surface", id, "loomctl surfaces lists them."};
    if (strips.empty())
        return Error{"nothing there can be turned", title,
                     "Give its lanes levels or mutes in Weave, or press First pass in Talk."};
    // 9 mm for a finger, where it is known how large the screen is.
    const double finger = s->millimetres > 0 ? 9 * s->width / s->millimetres : 53;
    const double margin = std::round(s->width * 0.04), gap = 12, text = std::clamp(finger * 0.3, 12.0, 40.0);
    const double titleHigh = std::round(text * 3.2), mute = std::max(std::round(finger * 1.1), 40.0);
    const double least = std::max(std::round(finger * 1.9), 92.0), most = std::max(least, 190.0);
    const auto fits =
        static_cast<std::size_t>(std::max(1.0, std::floor((s->width - 2 * margin + gap) / (least + gap))));
    const double room = s->height - titleHigh - 2 * margin * 0.6;
    const double leastHigh = mute * 4.2;
    const auto rows =
        strips.size() <= fits
            ? std::size_t{1}
            : static_cast<std::size_t>(std::clamp(std::floor((room + gap) / (leastHigh + gap)), 1.0, 2.0));
    // Rows as full as each other, and strips as wide as there is room for.
    const auto perPage = std::min(fits * rows, strips.size());
    const auto across = (perPage + rows - 1) / rows;
    const double n = static_cast<double>(across);
    const double wide = std::floor(std::min(most, (s->width - 2 * margin - gap * (n - 1)) / n)),
                 meter = std::min(std::round(wide * 0.25), 36.0);
    const double high = std::floor((room - gap * static_cast<double>(rows - 1)) / static_cast<double>(rows));
    std::vector<SurfacePage> pages;
    for (std::size_t from = 0; from < strips.size(); from += perPage) {
        SurfacePage page;
        page.name = title + (pages.empty() ? "" : " " + std::to_string(pages.size() + 1));
        page.look.textSize = std::round(text);
        page.plies.push_back({"frames", "Frames"});
        page.plies.push_back({"controls", "Controls"});
        const double top = std::round(margin * 0.5), turn = std::round(finger * 1.5);
        NewControl head{"text",   "", "controls", page.name, margin, top, s->width - 2 * margin - 2 * (turn + gap),
                        titleHigh};
        if (auto made = addControl(project, page, head); !made)
            return made.error();
        page.plies.change(1).controls.changeBack().look.textSize = std::round(text * 1.7);
        // To the page before and the one behind: which they are is known once they have ids.
        for (const bool on : {false, true})
            if (on ? from + perPage < strips.size() : from > 0) {
                NewControl go{"press", "", "controls", on ? "\u203a" : "\u2039"};
                go.x = s->width - margin - turn - (on ? 0 : turn + gap), go.y = top, go.width = turn;
                go.height = std::max(titleHigh - gap, std::ceil(finger));
                if (auto made = addControl(project, page, go); !made)
                    return made.error();
                page.plies.change(1).controls.changeBack().page = on ? "+" : "-";
            }
        for (std::size_t i = from; i < std::min(from + perPage, strips.size()); ++i) {
            const auto& strip = strips[i];
            const auto at = i - from;
            const double x = margin + static_cast<double>(at % across) * (wide + gap),
                         y = std::round(margin * 0.5) + titleHigh + static_cast<double>(at / across) * (high + gap);
            for (auto& one : stripControls(project, strip, x, y, wide, high, mute, meter)) {
                one.ply = "controls";
                if (auto made = addControl(project, page, one); !made)
                    return made.error();
            }
        }
        erase_if(page.plies, [](const Ply& ply) { return ply.controls.empty(); });
        pages.push_back(std::move(page));
    }
    return Edit{"Make a page for " + title, [id, pages](Project p) -> Result<Project> {
                    auto* now = p.surface(id);
                    if (!now)
                        return Error{"there is no such surface", id, ""};
                    const bool empty = now->pages.size() == 1 &&
                                       std::all_of(now->pages.front().plies.begin(), now->pages.front().plies.end(),
                                                   [](const Ply& ply) { return ply.controls.empty(); });
                    if (empty)
                        now->pages.clear();
                    std::set<std::string> taken;
                    for (const auto& page : now->pages)
                        taken.insert(page.id);
                    std::vector<std::string> ids;
                    for (const auto& page : pages)
                        ids.push_back(freeId(taken, page.name));
                    for (std::size_t i = 0; i < pages.size(); ++i) {
                        auto page = pages[i];
                        page.id = ids[i];
                        for (std::size_t k = 0; k < page.plies.size(); ++k)
                            for (std::size_t c = 0; c < page.plies[k].controls.size(); ++c)
                                if (const auto& to = page.plies[k].controls[c].page; !to.empty())
                                    page.plies.change(k).controls.change(c).page = ids[to == "+" ? i + 1 : i - 1];
                        now->pages.push_back(std::move(page));
                    }
                    return p;
                }};
}

} // namespace loom::project
