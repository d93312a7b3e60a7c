#include "surface/arrange.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

const std::vector<ArrangeKind>& arrangeKinds() {
    static const std::vector<ArrangeKind> all{
        {Arrange::left, "left", "Left edges in line", 2},
        {Arrange::right, "right", "Right edges in line", 2},
        {Arrange::top, "top", "Top edges in line", 2},
        {Arrange::bottom, "bottom", "Bottom edges in line", 2},
        {Arrange::centreAcross, "centre-across", "Middles below each other", 2},
        {Arrange::centreDown, "centre-down", "Middles beside each other", 2},
        {Arrange::sameWidth, "same-width", "The same width", 2},
        {Arrange::sameHeight, "same-height", "The same height", 2},
        {Arrange::sameSize, "same-size", "The same size", 2},
        {Arrange::gapAcross, "gap-across", "The same gap from left to right", 3},
        {Arrange::gapDown, "gap-down", "The same gap from top to bottom", 3},
        {Arrange::stackAcross, "stack-across", "Stack from left to right", 2},
        {Arrange::stackDown, "stack-down", "Stack from top to bottom", 2},
    };
    return all;
}

namespace {

// Gaps alike between those that lie outermost; along x or y.
void evenGaps(std::vector<Control*>& all, double Control::*at, double Control::*size) {
    std::stable_sort(all.begin(), all.end(), [&](const auto* a, const auto* b) { return a->*at < b->*at; });
    double taken = 0;
    for (const auto* c : all)
        taken += c->*size;
    const double from = all.front()->*at, to = all.back()->*at + all.back()->*size,
                 gap = (to - from - taken) / static_cast<double>(all.size() - 1);
    double place = from;
    for (auto* c : all) {
        c->*at = std::round(place);
        place += c->*size + gap;
    }
}

void stack(std::vector<Control*>& all, double Control::*at, double Control::*size, double Control::*other, double gap) {
    const Control leading = *all.front();
    std::stable_sort(all.begin() + 1, all.end(), [&](const auto* a, const auto* b) { return a->*at < b->*at; });
    double place = leading.*at;
    for (auto* c : all) {
        c->*at = place;
        c->*other = leading.*other;
        place += c->*size + gap;
    }
}

} // namespace

Result<Edit> arrange(const Project& project, const PagePlace& place, const std::vector<std::string>& ids, Arrange how,
                     double gap) {
    const auto& kind = arrangeKinds()[static_cast<std::size_t>(how)];
    const auto* s = project.surface(place.surface);
    const auto* page = s ? s->page(place.page) : nullptr;
    if (!page)
        return Error{"there is no such page", place.page, ""};
    if (ids.size() < kind.least)
        return Error{std::string(kind.label) + ": too few controls", page->name,
                     "Choose " + std::to_string(kind.least) + " or more; the first one leads."};
    for (const auto& id : ids)
        if (!page->control(id))
            return Error{"there is no such control", id, ""};
    return changePage(place, kind.label, [=](SurfacePage& p) -> std::optional<Error> {
        std::vector<Control*> all(ids.size(), nullptr);
        for (std::size_t i = 0; i < p.plies.size(); ++i)
            for (std::size_t k = 0; k < p.plies[i].controls.size(); ++k) {
                const auto& c = p.plies[i].controls[k];
                const auto it = std::find(ids.begin(), ids.end(), c.id);
                if (it == ids.end())
                    continue;
                if (it != ids.begin() && (c.locked || p.plies[i].locked))
                    return Error{"is locked", c.id, "Unlock it or its ply first."};
                all[static_cast<std::size_t>(it - ids.begin())] = &p.plies.change(i).controls.change(k);
            }
        if (std::find(all.begin(), all.end(), nullptr) != all.end())
            return Error{"there is no such control", place.page, ""};
        const Control lead = *all.front();
        switch (how) {
        case Arrange::gapAcross:
            return evenGaps(all, &Control::x, &Control::width), std::nullopt;
        case Arrange::gapDown:
            return evenGaps(all, &Control::y, &Control::height), std::nullopt;
        case Arrange::stackAcross:
            return stack(all, &Control::x, &Control::width, &Control::y, gap), std::nullopt;
        case Arrange::stackDown:
            return stack(all, &Control::y, &Control::height, &Control::x, gap), std::nullopt;
        default:
            break;
        }
        for (auto* c : all) {
            if (how == Arrange::left)
                c->x = lead.x;
            if (how == Arrange::right)
                c->x = lead.x + lead.width - c->width;
            if (how == Arrange::top)
                c->y = lead.y;
            if (how == Arrange::bottom)
                c->y = lead.y + lead.height - c->height;
            if (how == Arrange::centreAcross)
                c->x = lead.x + (lead.width - c->width) / 2;
            if (how == Arrange::centreDown)
                c->y = lead.y + (lead.height - c->height) / 2;
            if (how == Arrange::sameWidth || how == Arrange::sameSize)
                c->width = lead.width;
            if (how == Arrange::sameHeight || how == Arrange::sameSize)
                c->height = lead.height;
        }
        return {};
    });
}

Snap snapTo(const Surface& s, const SurfacePage& page, const std::vector<std::string>& dragged, double x, double y,
            double width, double height, double reach) {
    std::vector<double> across{0, s.width / 2.0, static_cast<double>(s.width)},
        down{0, s.height / 2.0, static_cast<double>(s.height)};
    across.insert(across.end(), page.guidesAcross.begin(), page.guidesAcross.end());
    down.insert(down.end(), page.guidesDown.begin(), page.guidesDown.end());
    for (const auto& ply : page.plies)
        for (const auto& c : ply.controls)
            if (!ply.hiddenHere && std::find(dragged.begin(), dragged.end(), c.id) == dragged.end()) {
                across.insert(across.end(), {c.x, c.x + c.width / 2, c.x + c.width});
                down.insert(down.end(), {c.y, c.y + c.height / 2, c.y + c.height});
            }
    const auto nearest = [reach](const std::vector<double>& lines, double at, double size, double& by) {
        std::optional<double> drew;
        double best = reach;
        for (const double line : lines)
            for (const double part : {at, at + size / 2, at + size})
                if (std::abs(line - part) < best || (!drew && std::abs(line - part) <= best))
                    best = std::abs(line - part), by = line - part, drew = line;
        return drew;
    };
    Snap snap;
    snap.across = nearest(across, x, width, snap.dx);
    snap.down = nearest(down, y, height, snap.dy);
    return snap;
}

} // namespace loom::project
