#include "findings/surface_findings.h"
#include "dsp/number.h"
#include "rules/condition.h"
#include "surface/control_kind.h"
#include "surface/harm.h"
#include "surface/letters.h"
#include "surface/pack.h"
#include "surface/picture_size.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

using Code = FindingCode;

constexpr double fingerMm = 9, leastContrast = 4.5; // WCAG 2.1, 1.4.3

class SurfaceChecker {
  public:
    SurfaceChecker(const Project& p, const Surface& s) : p_(p), s_(s) {
        const auto* d = p.device(s.device);
        const auto* r = d ? p.room(d->room) : nullptr;
        room_ = r ? r->name : "Equipment rack";
    }
    std::vector<Finding> run() {
        if (const auto* d = p_.device(s_.device); !s_.device.empty()) {
            const auto* m = d ? d->spec() : nullptr;
            if (!d || (m && (m->screenWidth != s_.width || m->screenHeight != s_.height)))
                add(Code::surfaceSize, "", "",
                    !d ? "The device that it is for is not in the plan."
                       : "It is " + size(s_.width, s_.height) + " pixels, and the screen of " + d->name + " " +
                             size(m->screenWidth, m->screenHeight) + ".",
                    "Give it to another touch surface, or set its size in Surfaces.");
        }
        pictures();
        std::set<std::string> reached{s_.page(s_.start) ? s_.start : s_.pages.empty() ? "" : s_.pages.front().id};
        for (const auto& page : s_.pages)
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls)
                    reached.insert(c.page);
        for (const auto& page : s_.pages) {
            if (!reached.count(page.id))
                add(Code::pageUnreached, page.id, page.name, "Nothing opens this page.",
                    "Let a button open it, or begin with it.");
            for (const auto& ply : page.plies) {
                condition(ply.shown, page.id, page.name + " \u00b7 " + ply.name);
                for (std::size_t i = 0; i < ply.controls.size(); ++i) {
                    check(page, ply.controls[i]);
                    for (std::size_t k = i + 1; k < ply.controls.size(); ++k)
                        overlap(page, ply.controls[i], ply.controls[k]);
                }
            }
        }
        return std::move(found_);
    }

  private:
    static std::string size(int w, int h) { return std::to_string(w) + " \u00d7 " + std::to_string(h); }
    void add(Code code, const std::string& where, const std::string& name, std::string reason, std::string remedy) {
        found_.push_back({code, s_.id, where, s_.name + (name.empty() ? "" : " \u00b7 " + name), std::move(reason),
                          std::move(remedy), room_});
    }
    std::string nameOf(const Control& c) const {
        const auto drive = controlDrive(p_, c.param);
        const auto label = labelOf(c, drive ? &*drive : nullptr);
        const auto* kind = findControlKind(c.kind);
        return !c.name.empty() ? c.name : !label.empty() ? label : kind ? kind->label : c.kind;
    }
    void addAt(Code code, const SurfacePage& page, const Control& c, std::string reason, std::string remedy) {
        add(code, page.id + "/" + c.id, page.name + " \u00b7 " + nameOf(c), std::move(reason), std::move(remedy));
    }
    void condition(const std::string& text, const std::string& where, const std::string& name) {
        const auto c = readCondition(text);
        if (!c)
            add(Code::conditionWrong, where, name,
                "\"" + text.substr(0, 80) + "\" is no condition: " + c.error().message + ".", c.error().remedy);
        else if (*c && !controlDrive(p_, (*c)->path))
            add(Code::conditionWrong, where, name, "It asks for " + (*c)->path + ", which is not there.",
                "Ask for another parameter, or take the condition out.");
    }
    // Which are lost is told at their controls; how much they take together here.
    void pictures() {
        double bytes = 0;
        const auto loads = pictureLoads(p_, s_);
        for (const auto& load : loads) {
            bytes += load.bytes;
            if (load.lost)
                lost_.insert(load.name);
        }
        const auto* d = p_.device(s_.device);
        const auto* m = d ? d->spec() : nullptr;
        if (!m || m->pictureMegabytes <= 0 || bytes <= m->pictureMegabytes * 1e6)
            return;
        std::string heaviest;
        for (std::size_t i = 0; i < std::min<std::size_t>(3, loads.size()); ++i)
            heaviest += (i ? ", " : "") + loads[i].name + " (" + fixedText(loads[i].bytes / 1e6, 1) + " MB)";
        add(Code::picturesHeavy, "", "",
            "Its pictures take " + fixedText(bytes / 1e6, 1) + " MB while they are shown, and " + m->name + " has " +
                fixedText(m->pictureMegabytes, 0) + " MB for them. The heaviest: " + heaviest + ".",
            "Choose them on the page and scale them to what is shown.");
    }
    static bool isButton(const ControlKind& kind) { return kind.touch == Touch::press; }

    void check(const SurfacePage& page, const Control& c) {
        const auto* kind = findControlKind(c.kind);
        if (!kind)
            return addAt(Code::controlLost, page, c, "It is of a kind (" + c.kind + ") that is not known here.",
                         "Open the project with the version that made it, or show it as another kind.");
        const auto drive = controlDrive(p_, c.param);
        if (!c.param.empty() && !drive)
            addAt(Code::controlLost, page, c, "It is driven from " + c.param + ", which is not there.",
                  "Drop another parameter on it, or take it out.");
        else if (drive && !kind->drives.empty() && !kind->fits(*drive))
            addAt(Code::controlLost, page, c, kind->label + " cannot show " + detailOf(*drive) + ".",
                  "Show it as another kind.");
        else if (drive && !isToldToSurfaces(p_, *drive))
            addAt(Code::controlLost, page, c,
                  "It is driven from " + drive->label + ", and no processor tells what that is.",
                  "Name a processor that talks to it, or on whose contact it hangs; or drive it from something else.");
        else if (c.param.empty() && (kind->needed || (isButton(*kind) && c.page.empty() && c.ply.empty())))
            addAt(Code::controlIdle, page, c, "Nothing drives it, and it does nothing.",
                  "Drop a parameter on it" + std::string(isButton(*kind) ? ", or let it open a page or a ply." : "."));
        const bool noPage = !c.page.empty() && !s_.page(c.page),
                   noPly = !c.ply.empty() && std::none_of(page.plies.begin(), page.plies.end(),
                                                          [&](const Ply&ply) { return ply.id == c.ply; });
        if (noPage || noPly)
            addAt(Code::leadsNowhere, page, c,
                  noPage ? "It opens the page " + c.page + ", which is not there."
                         : "It opens the ply " + c.ply + ", which its page has not.",
                  "Choose another in its fields.");
        for (const auto* text : {&c.shown, &c.enabled})
            condition(*text, page.id + "/" + c.id, page.name + " \u00b7 " + nameOf(c));
        if (c.x < -0.5 || c.y < -0.5 || c.x + c.width > s_.width + 0.5 || c.y + c.height > s_.height + 0.5)
            addAt(Code::controlOutside, page, c, "A part of it lies outside the page.",
                  "Move it in, or make it smaller.");
        if (kind->touch != Touch::none && s_.millimetres > 0) {
            const double mm = std::min(c.width, c.height) * s_.millimetres / s_.width;
            if (mm < fingerMm - 0.05)
                addAt(Code::controlSmall, page, c,
                      "It is " + fixedText(mm, 1) + " mm at its narrowest; a finger needs " + fixedText(fingerMm, 0) +
                          " mm.",
                      "Make it larger.");
        }
        if (drive && kind->touch != Touch::none && !c.confirm)
            if (const auto harm = harmOf(p_, *drive))
                addAt(Code::harmUnasked, page, c, "Whoever brushes it does it at once: " + *harm + ".",
                      "Let it ask first, in its fields.");
        for (const auto& name : picturesOf(c))
            if (lost_.count(name))
                addAt(Code::pictureLost, page, c,
                      "Its picture " + name + " is not in the project, or is none that can be shown.",
                      "Drop the picture on it again, or leave it out.");
        const auto paint = paintOf(s_, page, c);
        const auto sketch = sketchOf(p_, s_, page, c);
        cutText(page, c, sketch, drive ? &*drive : nullptr);
        // What a text stands on: the foremost opaque thing before it that is always there, or on like it.
        for (std::size_t i = 0; i < sketch.marks.size(); ++i) {
            const auto& m = sketch.marks[i];
            if (m.kind != Mark::Kind::text || m.text.empty())
                continue;
            Colour ground = paint.page;
            for (std::size_t k = 0; k < i; ++k)
                if (const auto& g = sketch.marks[k];
                    (g.kind == Mark::Kind::rectangle || g.kind == Mark::Kind::ellipse) && g.fill.a > 0 &&
                    (g.when == Mark::When::always || g.when == m.when) && g.x.at <= m.x.at &&
                    g.width.at >= m.width.at && g.y.at <= m.y.at && g.height.at >= m.height.at)
                    ground = over(g.fill, ground);
            const double is = contrast(over(m.fill, ground), ground);
            if (is < leastContrast) {
                addAt(Code::hardToRead, page, c,
                      "Its text has a contrast of " + fixedText(is, 1) + " to 1 to what it stands on; " +
                          fixedText(leastContrast, 1) + " are needed.",
                      "Choose a lighter or darker colour.");
                break;
            }
        }
    }

    // What may stand where its value does: its ends, its choices.
    static std::vector<std::string> valuesOf(const Control& c, const Drive* drive) {
        if (!drive)
            return {};
        std::vector<std::string> all;
        const auto range = rangeOf(*drive, c);
        if (drive->kind == Drive::Kind::range || drive->kind == Drive::Kind::reading)
            for (const double v : {range.low, range.high})
                all.push_back(textOf(*drive, range, v));
        for (std::size_t i = 0; i < drive->spec.choices.size(); ++i)
            all.push_back(textOf(*drive, range, static_cast<double>(i)));
        return all;
    }
    void cutText(const SurfacePage& page, const Control& c, const Sketch& sketch, const Drive* drive) {
        for (const auto& m : sketch.marks) {
            if (m.kind != Mark::Kind::text || m.text.empty() || m.width.by != 0)
                continue;
            std::vector<std::string> texts{m.text};
            if (const auto at = m.text.find("{value}"); at != std::string::npos) {
                texts = valuesOf(c, drive);
                for (auto& one : texts)
                    one = m.text.substr(0, at) + one + m.text.substr(at + 7);
            }
            for (const auto& text : texts)
                if (setText(m, text, m.width.at, m.height.at).cut)
                    return addAt(Code::textCut, page, c, "\"" + text.substr(0, 80) + "\" does not fit where it stands.",
                                 "Make it larger, its letters smaller, or say it shorter.");
        }
    }

    void overlap(const SurfacePage& page, const Control& a, const Control& b) {
        const auto *ka = findControlKind(a.kind), *kb = findControlKind(b.kind);
        if (!ka || !kb || ka->touch == Touch::none || kb->touch == Touch::none || a.through || b.through)
            return;
        const double wide = std::min(a.x + a.width, b.x + b.width) - std::max(a.x, b.x),
                     high = std::min(a.y + a.height, b.y + b.height) - std::max(a.y, b.y);
        if (wide > 1 && high > 1)
            addAt(Code::controlsOverlap, page, a, "It and " + nameOf(b) + " lie over each other.",
                  "Part them, or let one let presses through.");
    }

    const Project& p_;
    const Surface& s_;
    std::string room_;
    std::set<std::string> lost_{}; // pictures
    std::vector<Finding> found_;
};

} // namespace

std::vector<Finding> checkSurfaces(const Project& p) {
    std::vector<Finding> all;
    for (const auto& s : p.surfaces) {
        auto found = SurfaceChecker(p, s).run();
        all.insert(all.end(), found.begin(), found.end());
    }
    return all;
}

} // namespace loom::project
