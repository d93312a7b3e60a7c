#include "surface/make_page.h"
#include "model/block_names.h"
#include "rooms/room_edit.h"
#include "talk/conversation.h"
#include "talk/lane_way.h"
#include <algorithm>
#include <cmath>
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

} // namespace

std::vector<Strip> stripsOf(const Project& p, const std::string& said) {
    std::vector<Strip> all;
    const auto space = spaceSaid(p, said);
    if (!space)
        return all;
    const auto c = conversationOf(p, *space);
    std::set<std::pair<std::string, std::string>> seen;
    const auto add = [&](const std::string& device, const std::string& block, bool source) {
        const auto* d = p.device(device);
        const auto* b = d && d->program ? d->program->find(block) : nullptr;
        if (!b || !seen.insert({device, block}).second)
            return;
        if (auto s = source ? ofSource(*d, *b) : ofDestination(*d, *b); turns(s))
            all.push_back(std::move(s));
    };
    for (const auto& m : c.microphones)
        add(m.input.device, m.source, true);
    for (const auto& f : c.farEnds)
        add(f.device, f.source, true);
    for (const auto& l : c.listeners)
        if (l.kind == Conversation::Listener::Kind::zone || l.kind == Conversation::Listener::Kind::loop)
            add(l.device, l.block, false);
    return all;
}

std::vector<Strip> stripsOfDevice(const Project& p, const std::string& id) {
    std::vector<Strip> all;
    const auto* d = p.device(id);
    if (!d || !d->program)
        return all;
    for (const auto end : {engine::End::arrives, engine::End::leaves})
        for (const auto& b : d->program->blocks)
            if (engine::endOf(b) == end)
                if (auto s = end == engine::End::arrives ? ofSource(*d, b) : ofDestination(*d, b); turns(s))
                    all.push_back(std::move(s));
    return all;
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
            const bool level = !strip.level.empty(), mutes = !strip.mute.empty(),
                       reads = !strip.reading.empty() && level;
            const double faderHigh = high - (mutes ? mute + gap / 2 : 0);
            std::vector<NewControl> all;
            if (level)
                all.push_back(
                    {"fader", strip.level, "controls", strip.name, x, y, wide - (reads ? meter + 4 : 0), faderHigh});
            else
                all.push_back({"text", "", "controls", strip.name, x, y, wide, faderHigh});
            if (reads)
                all.push_back({"meter", strip.reading, "controls", "", x + wide - meter, y, meter, faderHigh});
            if (mutes)
                all.push_back({"toggle", strip.mute, "controls", "Mute", x, y + high - mute, wide, mute});
            for (const auto& one : all) {
                if (auto made = addControl(project, page, one); !made)
                    return made.error();
                if (one.kind == "fader") {
                    auto& fader = page.plies.change(1).controls.changeBack();
                    fader.low = strip.low, fader.high = strip.high, fader.digits = 0;
                }
            }
            if (!level)
                page.plies.change(1).controls.changeBack().align = "centre";
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
