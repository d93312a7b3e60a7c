#include "pages/sketch_json.h"
#include <cmath>

namespace loom::project {

using nlohmann::json;

namespace {

double rounded(double v) {
    return std::round(v * 100) / 100;
}

json lengthJson(const Along& a) {
    return a.by == 0 ? json(rounded(a.at)) : json{rounded(a.at), rounded(a.by)};
}

} // namespace

json markJson(const Mark& m) {
    static constexpr const char* kinds[] = {"r", "e", "p", "l", "a", "t", "c", "i"};
    static constexpr const char* whens[] = {"", "on", "off", "unknown", "known", "chosen", "held"};
    static constexpr const char* stands[] = {"left", "", "right"};
    json j{{"k", kinds[static_cast<int>(m.kind)]}};
    for (const auto& [key, length] : {std::pair("x", &m.x), {"y", &m.y}, {"w", &m.width}, {"h", &m.height}})
        if (length->at != 0 || length->by != 0)
            j[key] = lengthJson(*length);
    if (m.kind == Mark::Kind::polygon)
        for (const auto& p : m.points)
            j["points"].push_back({rounded(p[0]), rounded(p[1])});
    if (m.kind == Mark::Kind::arc)
        j["from"] = lengthJson(m.from), j["sweep"] = lengthJson(m.sweep);
    if (m.corner > 0)
        j["corner"] = rounded(m.corner);
    if (m.fill.a > 0)
        j["fill"] = m.fill.text();
    if (m.edge.a > 0 && m.edgeWidth > 0)
        j["edge"] = m.edge.text(), j["thick"] = rounded(m.edgeWidth);
    if (m.kind == Mark::Kind::text) {
        j["text"] = m.text;
        j["size"] = std::lround(std::max(1.0, m.size));
        if (m.bold)
            j["bold"] = true;
        if (m.figures)
            j["figures"] = true;
        if (m.stand != Mark::Stand::centre)
            j["stand"] = stands[static_cast<int>(m.stand)];
    }
    if (m.when != Mark::When::always)
        j["when"] = whens[static_cast<int>(m.when)];
    if (m.part >= 0)
        j["part"] = m.part;
    if (m.of >= 0)
        j["of"] = m.of;
    return j;
}

json sketchJson(const Sketch& s) {
    json j{{"marks", json::array()}};
    for (const auto& m : s.marks)
        j["marks"].push_back(markJson(m));
    if (s.parts > 0)
        j["parts"] = s.parts;
    return j;
}

json shownJson(const Shown& s) {
    json j = json::object();
    if (s.known)
        j["known"] = true;
    if (!s.enabled)
        j["asleep"] = true;
    if (s.t != 0)
        j["t"] = std::round(s.t * 1e4) / 1e4;
    if (!s.text.empty())
        j["text"] = s.text;
    if (s.on)
        j["on"] = true;
    if (s.mixed)
        j["mixed"] = true;
    if (s.chosen >= 0)
        j["chosen"] = s.chosen;
    if (!s.held.empty())
        j["held"] = s.held;
    for (const double v : s.series)
        j["series"].push_back(std::round(v * 1e3) / 1e3);
    if (!s.picture.empty())
        j["picture"] = s.picture;
    return j;
}

std::string dumped(const json& j) {
    return j.dump(-1, ' ', false, json::error_handler_t::replace);
}

} // namespace loom::project
