#include "surface/page_svg.h"
#include "dsp/number.h"
#include "file/base64.h"
#include "surface/letters.h"
#include "surface/picture_size.h"
#include <cmath>
#include <numbers>

namespace loom::project {

namespace {

std::string num(double v) {
    return plainText(std::round(v * 100) / 100);
}

std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text)
        switch (c) {
        case '&':
            out += "&amp;";
            break;
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '"':
            out += "&quot;";
            break;
        default:
            out += static_cast<unsigned char>(c) < 0x20 ? ' ' : c;
        }
    return out;
}

// "fill" or "stroke" in a colour.
std::string paint(const char* what, const Colour& c) {
    const auto hex = Colour{c.r, c.g, c.b, 255}.text();
    return std::string(" ") + what + "=\"" + (c.a > 0 ? hex : "none") + "\"" +
           (c.a > 0 && c.a < 255 ? std::string(" ") + what + "-opacity=\"" + num(c.a / 255.0) + "\"" : "");
}

std::string attribute(const char* name, double v) {
    return std::string(" ") + name + "=\"" + num(v) + "\"";
}

struct SvgBox {
    double x, y, w, h;
};

std::string textOf(const Mark& m, const SvgBox& b, const Shown& s) {
    auto text = m.text;
    if (const auto at = text.find("{value}"); at != std::string::npos)
        text.replace(at, 7, s.text);
    const auto set = setText(m, text, b.w, b.h);
    const char* anchor = m.stand == Mark::Stand::left ? "start" : m.stand == Mark::Stand::right ? "end" : "middle";
    const double x = m.stand == Mark::Stand::left ? b.x : m.stand == Mark::Stand::right ? b.x + b.w : b.x + b.w / 2;
    double y = b.y + (b.h - set.high * static_cast<double>(set.lines.size())) / 2 + set.ascent;
    std::string out = std::string("<text font-family=\"") + (m.figures ? "JetBrains Mono" : "Manrope") +
                      ", sans-serif\" font-weight=\"" +
                      (m.bold      ? "700"
                       : m.figures ? "400"
                                   : "500") +
                      "\"" + attribute("font-size", set.size) + " text-anchor=\"" + anchor + "\"" +
                      paint("fill", m.fill) + ">";
    for (const auto& line : set.lines) {
        out += "<tspan" + attribute("x", x) + attribute("y", y) + ">" + escaped(line) + "</tspan>";
        y += set.high;
    }
    return out + "</text>";
}

std::string arcOf(const Mark& m, const SvgBox& b, double t) {
    const double in = m.edgeWidth / 2, rx = b.w / 2 - in, ry = b.h / 2 - in;
    const double sweep = std::clamp(m.sweep(t), -359.9, 359.9);
    const auto point = [&](double degrees) {
        const double a = (degrees - 90) * std::numbers::pi / 180;
        return num(b.x + b.w / 2 + rx * std::cos(a)) + " " + num(b.y + b.h / 2 + ry * std::sin(a));
    };
    return "<path d=\"M" + point(m.from(t)) + " A" + num(rx) + " " + num(ry) + " 0 " +
           (std::abs(sweep) > 180 ? "1 " : "0 ") + (sweep < 0 ? "0 " : "1 ") + point(m.from(t) + sweep) +
           "\" fill=\"none\"" + paint("stroke", m.edge) + attribute("stroke-width", m.edgeWidth) +
           " stroke-linecap=\"round\"/>";
}

// Parts that are not known leave a gap.
std::string curveOf(const Mark& m, const SvgBox& b, const std::vector<double>& series) {
    std::string line, below;
    bool on = false;
    double last = 0;
    const auto drop = [&] {
        if (on)
            below += " L" + num(last) + " " + num(b.y + b.h) + " Z";
        on = false;
    };
    for (std::size_t i = 0; i < series.size(); ++i) {
        if (series[i] < 0) {
            drop();
            continue;
        }
        last = b.x + (series.size() > 1 ? b.w * static_cast<double>(i) / static_cast<double>(series.size() - 1) : 0);
        const auto at = num(last) + " " + num(b.y + b.h * (1 - series[i]));
        line += (on ? " L" : " M") + at;
        below += on ? " L" + at : " M" + num(last) + " " + num(b.y + b.h) + " L" + at;
        on = true;
    }
    drop();
    return (m.fill.a > 0 ? "<path d=\"" + below + "\"" + paint("fill", m.fill) + "/>" : "") + "<path d=\"" + line +
           "\" fill=\"none\"" + paint("stroke", m.edge) + attribute("stroke-width", m.edgeWidth) + "/>";
}

std::string pictureOf(const Project& p, const SvgBox& b, const std::string& name) {
    static constexpr const char* types[] = {"image/png", "image/jpeg", "image/svg+xml"};
    const auto it = p.assets.find(name);
    const auto size =
        it == p.assets.end() || errorInPicture(it->second) ? Result<PictureSize>(Error{}) : pictureSize(it->second);
    if (!size)
        return {};
    return "<image" + attribute("x", b.x) + attribute("y", b.y) + attribute("width", b.w) + attribute("height", b.h) +
           " preserveAspectRatio=\"xMidYMid meet\" xlink:href=\"data:" + types[static_cast<int>(size->kind)] +
           ";base64," + base64Of(static_cast<const std::vector<char>&>(it->second)) + "\"/>";
}

std::string markOf(const Project& p, const Mark& m, const Shown& s) {
    const double t = positionFor(m, s);
    const SvgBox b{m.x(t), m.y(t), m.width(t), m.height(t)};
    const bool edged = m.edgeWidth > 0 && m.edge.a > 0;
    const double in = edged ? m.edgeWidth / 2 : 0; // the edge lies within the box
    const double w = std::max(0.0, b.w - 2 * in), h = std::max(0.0, b.h - 2 * in);
    const auto filled = paint("fill", m.fill) +
                        (edged ? paint("stroke", m.edge) + attribute("stroke-width", m.edgeWidth) : std::string());
    switch (m.kind) {
    case Mark::Kind::rectangle:
        return "<rect" + attribute("x", b.x + in) + attribute("y", b.y + in) + attribute("width", w) +
               attribute("height", h) + attribute("rx", std::min({m.corner, w / 2, h / 2})) + filled + "/>";
    case Mark::Kind::ellipse:
        return "<ellipse" + attribute("cx", b.x + b.w / 2) + attribute("cy", b.y + b.h / 2) + attribute("rx", w / 2) +
               attribute("ry", h / 2) + filled + "/>";
    case Mark::Kind::polygon: {
        std::string points;
        for (const auto& at : m.points)
            points += (points.empty() ? "" : " ") + num(at[0]) + "," + num(at[1]);
        return "<polygon points=\"" + points + "\"" + filled + "/>";
    }
    case Mark::Kind::line:
        return "<line" + attribute("x1", b.x) + attribute("y1", b.y) + attribute("x2", b.x + b.w) +
               attribute("y2", b.y + b.h) + paint("stroke", m.edge) + attribute("stroke-width", m.edgeWidth) +
               " stroke-linecap=\"round\"/>";
    case Mark::Kind::arc:
        return arcOf(m, b, t);
    case Mark::Kind::text:
        return textOf(m, b, s);
    case Mark::Kind::curve:
        return curveOf(m, b, s.series);
    case Mark::Kind::picture:
        return pictureOf(p, b, s.picture);
    }
    return {};
}

std::string sketchSvg(const Project& p, const Sketch& sketch, const Shown& s) {
    std::string out;
    for (const auto& m : sketch.marks)
        if (isDrawn(m, s))
            out += markOf(p, m, s) + "\n";
    return out;
}

} // namespace

std::string pageSvg(const SurfaceUse& use) {
    const auto* s = use.surface();
    const auto* page = use.page();
    if (!s || !page)
        return {};
    const auto size = std::to_string(s->width), high = std::to_string(s->height);
    std::string out = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" "
                      "xmlns:xlink=\"http://www.w3.org/1999/xlink\" width=\"" +
                      size + "\" height=\"" + high + "\" viewBox=\"0 0 " + size + " " + high + "\">\n<title>" +
                      escaped(s->name + " \u00b7 " + page->name) + "</title>\n<rect width=\"" + size + "\" height=\"" +
                      high + "\"" + paint("fill", paintOf(*s, *page).page) + "/>\n";
    for (const auto& ply : page->plies) {
        if (!use.isOpen(ply))
            continue;
        if (!ply.edge.empty()) {
            const auto box = drawerBox(*s, ply);
            out += "<rect" + attribute("x", box.x) + attribute("y", box.y) + attribute("width", box.width) +
                   attribute("height", box.height) + paint("fill", drawerFill(*s, *page, ply)) + "/>\n";
        }
        for (const auto& c : ply.controls) {
            if (!use.seen(c))
                continue;
            const auto shown = use.shown(c);
            out += "<g transform=\"translate(" + num(c.x) + " " + num(c.y) + ")\"" +
                   (shown.enabled ? "" : " opacity=\"0.45\"") + ">\n" +
                   sketchSvg(use.project(), sketchOf(use.project(), *s, *page, c), shown) + "</g>\n";
        }
    }
    if (const auto over = use.over())
        out += sketchSvg(use.project(), *over, use.overShown());
    return out + "</svg>\n";
}

} // namespace loom::project
