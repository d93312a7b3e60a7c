#include "rooms/dxf/entity.h"
#include "dsp/text.h"
#include <algorithm>
#include <numbers>

namespace loom::project::dxf {
namespace {

constexpr double radians = std::numbers::pi / 180;

// Points whose coordinates come as code, code + 10, code + 20.
void takePoint(std::vector<V3>& points, const Group& g, int code) {
    if (g.code == code)
        points.push_back({g.number(), 0, 0});
    else if (!points.empty() && g.code == code + 10)
        points.back().y = g.number();
    else if (!points.empty() && g.code == code + 20)
        points.back().z = g.number();
}

void takeSpline(Spline& s, const Group& g) {
    switch (g.code) {
    case 70:
        s.closed = (g.whole() & 1) != 0;
        break;
    case 71:
        s.degree = g.whole();
        break;
    case 40:
        s.knots.push_back(g.number());
        break;
    case 41:
        s.weights.push_back(g.number());
        break;
    default:
        for (const int at : {10, 20, 30})
            if (g.code == at)
                takePoint(s.control, g, 10);
        for (const int at : {11, 21, 31})
            if (g.code == at)
                takePoint(s.fit, g, 11);
    }
}

// The outlines of a hatch: counts in it are not trusted, groups tell by their codes what they are.
class HatchReader {
  public:
    HatchReader(Entity& e, const std::vector<Group>& groups) : e_(e), groups_(groups) {}
    void read() {
        std::size_t i = 0;
        while (i < groups_.size() && groups_[i].code != 91) {
            if (groups_[i].code == 30)
                elevation_ = groups_[i].number();
            ++i;
        }
        ++i;
        while (i < groups_.size() && groups_[i].code != 75 && groups_[i].code != 98) {
            if (groups_[i].code != 92) {
                ++i;
                continue;
            }
            const int flags = groups_[i++].whole();
            if (flags & 2)
                polyline(i);
            else
                edges(i);
        }
    }

  private:
    bool ends(std::size_t i) const {
        const int code = i < groups_.size() ? groups_[i].code : 92;
        return code == 92 || code == 97 || code == 75 || code == 98;
    }
    void polyline(std::size_t& i) {
        std::vector<V3> points;
        std::vector<double> bulges;
        bool closed = true;
        for (; !ends(i); ++i) {
            const auto& g = groups_[i];
            if (g.code == 73)
                closed = g.whole() != 0;
            else if (g.code == 42 && !bulges.empty())
                bulges.back() = g.number();
            else if (g.code == 10 || g.code == 20) {
                takePoint(points, g, 10);
                if (!points.empty())
                    points.back().z = elevation_;
                bulges.resize(points.size());
            }
        }
        if (points.size() > 1) {
            if (closed) {
                points.push_back(points.front());
                bulges.push_back(0);
            }
            e_.loops.push_back(std::move(points));
            e_.loopBulges.push_back(std::move(bulges));
        }
    }
    void edges(std::size_t& i) {
        std::vector<Piece> path;
        while (i < groups_.size() && !(groups_[i].code == 92 || groups_[i].code == 75 || groups_[i].code == 98)) {
            if (groups_[i].code == 97) { // sources, or fit points of a spline
                ++i;
                continue;
            }
            if (groups_[i].code != 72) {
                ++i;
                continue;
            }
            const int kind = groups_[i++].whole();
            std::size_t end = i;
            while (end < groups_.size() && groups_[end].code != 72 && groups_[end].code != 92 &&
                   groups_[end].code != 75 && groups_[end].code != 98 && groups_[end].code != 330)
                ++end;
            path.push_back(piece(kind, i, end));
            i = end;
        }
        if (!path.empty())
            e_.paths.push_back(std::move(path));
    }
    Piece piece(int kind, std::size_t from, std::size_t to) const {
        Piece p;
        std::vector<V3> first, second;
        bool anticlockwise = true;
        double ratio = 0, start = 0, end = 360;
        for (std::size_t i = from; i < to; ++i) {
            const auto& g = groups_[i];
            if (kind == 4) {
                if (g.code == 94)
                    p.spline.degree = g.whole();
                else if (g.code == 40)
                    p.spline.knots.push_back(g.number());
                else if (g.code == 42)
                    p.spline.weights.push_back(g.number());
                else if (g.code == 10 || g.code == 20)
                    takePoint(p.spline.control, g, 10);
                else if (g.code == 11 || g.code == 21)
                    takePoint(p.spline.fit, g, 11);
                continue;
            }
            if (g.code == 10 || g.code == 20)
                takePoint(first, g, 10);
            else if (g.code == 11 || g.code == 21)
                takePoint(second, g, 11);
            else if (g.code == 40)
                ratio = g.number();
            else if (g.code == 50)
                start = g.number();
            else if (g.code == 51)
                end = g.number();
            else if (g.code == 73)
                anticlockwise = g.whole() != 0;
        }
        for (auto* all : {&first, &second, &p.spline.control, &p.spline.fit})
            for (auto& v : *all)
                v.z = elevation_;
        p.a = first.empty() ? V3{} : first.front();
        p.b = second.empty() ? V3{} : second.front();
        if (!anticlockwise) { // clockwise ones have their angles mirrored
            const double was = start;
            start = 360 - end;
            end = 360 - was;
        }
        p.from = start * radians;
        p.to = end * radians;
        p.radius = ratio;
        p.ratio = ratio;
        p.is = kind == 2   ? Piece::Is::arc
               : kind == 3 ? Piece::Is::ellipse
               : kind == 4 ? Piece::Is::spline
                           : Piece::Is::line;
        if (p.is == Piece::Is::ellipse)
            p.b.z = 0;
        return p;
    }
    Entity& e_;
    const std::vector<Group>& groups_;
    double elevation_ = 0;
};

void takeText(Entity& e, const std::vector<Group>& groups, bool rich) {
    std::string text;
    std::vector<V3> first, second;
    int side = 0, tall = 0, attachment = 1;
    for (const auto& g : groups)
        switch (g.code) {
        case 1:
        case 3:
            text += g.value;
            break;
        case 40:
            e.height = g.number();
            break;
        case 50:
            e.rotation = g.number() * radians;
            break;
        case 71:
            attachment = std::clamp(g.whole(), 1, 9);
            break;
        case 72:
            side = g.whole();
            break;
        case 73:
            tall = g.whole();
            break;
        case 10:
        case 20:
        case 30:
            takePoint(first, g, 10);
            break;
        case 11:
        case 21:
        case 31:
            takePoint(second, g, 11);
            break;
        default:
            break;
        }
    e.text = plainText(text, rich);
    if (rich) {
        e.points = first;
        e.world = true;
        if (!second.empty()) // its direction
            e.rotation = std::atan2(second.front().y, second.front().x);
        e.across = 0.5 * ((attachment - 1) % 3);
        e.up = 1 - 0.5 * ((attachment - 1) / 3);
    } else {
        const bool aligned = (side != 0 || tall != 0) && !second.empty() && side != 3 && side != 5;
        e.points = aligned ? second : first;
        if (aligned) {
            e.across = side == 1 || side == 4 ? 0.5 : side == 2 ? 1 : 0;
            e.up = side == 4 || tall == 2 ? 0.5 : tall == 3 ? 1 : 0;
        }
    }
    if (e.points.size() > 1)
        e.points.resize(1);
}

} // namespace

Entity entityOf(std::string_view kind, const std::vector<Group>& groups) {
    Entity e;
    e.kind = kind;
    for (const auto& g : groups)
        switch (g.code) {
        case 8:
            e.layer = g.value;
            break;
        case 60:
            e.hidden = g.whole() != 0;
            break;
        case 67:
            e.paper = g.whole() != 0;
            break;
        case 210:
            e.normal.x = g.number();
            break;
        case 220:
            e.normal.y = g.number();
            break;
        case 230:
            e.normal.z = g.number();
            break;
        default:
            break;
        }
    using Is = Entity::Is;
    const auto first = [&](int code) -> const Group* {
        const auto it = std::find_if(groups.begin(), groups.end(), [&](const Group& g) { return g.code == code; });
        return it == groups.end() ? nullptr : &*it;
    };
    const auto number = [&](int code, double otherwise = 0) {
        const auto* g = first(code);
        return g ? g->number() : otherwise;
    };
    if (kind == "LINE") {
        e.is = Is::line;
        e.world = true;
        e.points = {{number(10), number(20), number(30)}, {number(11), number(21), number(31)}};
    } else if (kind == "LWPOLYLINE") {
        e.is = Is::polyline;
        const double z = number(38);
        for (const auto& g : groups) {
            if (g.code == 10 || g.code == 20) {
                takePoint(e.points, g, 10);
                if (!e.points.empty())
                    e.points.back().z = z;
                e.bulges.resize(e.points.size());
            } else if (g.code == 42 && !e.bulges.empty()) {
                e.bulges.back() = g.number();
            }
        }
        e.closed = first(70) && (first(70)->whole() & 1);
    } else if (kind == "POLYLINE") {
        e.is = Is::polyline;
        e.flags = first(70) ? first(70)->whole() : 0;
        e.closed = (e.flags & 1) != 0;
        e.world = (e.flags & 8) != 0;
        e.follows = true;
    } else if (kind == "VERTEX") {
        e.is = Is::vertex;
        e.flags = first(70) ? first(70)->whole() : 0;
        e.points = {{number(10), number(20), number(30)}};
        e.bulges = {number(42)};
    } else if (kind == "SEQEND") {
        e.is = Is::end;
    } else if (kind == "ARC" || kind == "CIRCLE") {
        e.is = Is::arc;
        e.points = {{number(10), number(20), number(30)}};
        e.radius = number(40);
        e.from = kind == "ARC" ? number(50) * radians : 0;
        e.to = kind == "ARC" ? number(51) * radians : 2 * std::numbers::pi;
        e.closed = kind == "CIRCLE";
    } else if (kind == "ELLIPSE") {
        e.is = Is::ellipse;
        e.world = true;
        e.points = {{number(10), number(20), number(30)}, {number(11), number(21), number(31)}};
        e.ratio = number(40, 1);
        e.from = number(41);
        e.to = number(42, 2 * std::numbers::pi);
    } else if (kind == "SPLINE") {
        e.is = Is::spline;
        e.world = true;
        for (const auto& g : groups)
            takeSpline(e.spline, g);
    } else if (kind == "TEXT" || kind == "ATTRIB") {
        e.is = kind == "TEXT" ? Is::text : Is::attribute;
        takeText(e, groups, false);
        if (const auto* flags = first(70); kind == "ATTRIB" && flags && (flags->whole() & 1))
            e.hidden = true;
    } else if (kind == "MTEXT") {
        e.is = Is::text;
        takeText(e, groups, true);
    } else if (kind == "INSERT") {
        e.is = Is::insert;
        e.name = first(2) ? first(2)->value : std::string_view();
        e.points = {{number(10), number(20), number(30)}};
        e.scale = {number(41, 1), number(42, 1), number(43, 1)};
        e.rotation = number(50) * radians;
        e.columns = std::max(1, first(70) ? first(70)->whole() : 1);
        e.rows = std::max(1, first(71) ? first(71)->whole() : 1);
        e.columnStep = number(44);
        e.rowStep = number(45);
        e.follows = first(66) && first(66)->whole() == 1;
    } else if (kind == "DIMENSION") {
        e.is = Is::dimension;
        e.name = first(2) ? first(2)->value : std::string_view();
        e.normal = {0, 0, 1}; // what its block holds is in world coordinates
    } else if (kind == "LEADER") {
        e.is = Is::polyline;
        e.world = true;
        for (const auto& g : groups)
            if (g.code == 10 || g.code == 20 || g.code == 30)
                takePoint(e.points, g, 10);
        e.bulges.resize(e.points.size());
    } else if (kind == "SOLID" || kind == "TRACE" || kind == "3DFACE") {
        e.is = Is::face;
        e.world = kind == "3DFACE";
        for (const int at : {10, 11, 12, 13})
            if (first(at))
                e.points.push_back({number(at), number(at + 10), number(at + 20)});
        if (e.points.size() == 4 && !e.world)
            std::swap(e.points[2], e.points[3]); // their corners go crosswise
    } else if (kind == "HATCH") {
        e.is = Is::hatch;
        HatchReader(e, groups).read();
    }
    return e;
}

std::string plainText(std::string_view text, bool rich) {
    std::string out;
    const auto hex = [&](std::size_t at, std::size_t count, char32_t& code) {
        code = 0;
        for (std::size_t k = 0; k < count; ++k) {
            if (at + k >= text.size() || !std::isxdigit(static_cast<unsigned char>(text[at + k])))
                return false;
            const char c = text[at + k];
            code = code * 16 + static_cast<char32_t>(c <= '9' ? c - '0' : (c | 32) - 'a' + 10);
        }
        return true;
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        char32_t code = 0;
        if (c == '\\' && i + 6 < text.size() && (text[i + 1] == 'U' || text[i + 1] == 'u') && text[i + 2] == '+' &&
            hex(i + 3, 4, code)) {
            putUtf8(out, code);
            i += 6;
        } else if (c == '%' && i + 2 < text.size() && text[i + 1] == '%') {
            const char what = static_cast<char>(text[i + 2] | 32);
            putUtf8(out, what == 'd'          ? 0xb0
                         : what == 'c'        ? 0x2205
                         : what == 'p'        ? 0xb1
                         : text[i + 2] == '%' ? '%'
                                              : ' ');
            i += 2;
        } else if (rich && c == '\\' && i + 1 < text.size()) {
            const char what = text[++i];
            if (what == 'P' || what == 'n' || what == '~' || what == 'N')
                out += ' ';
            else if (what == '\\' || what == '{' || what == '}')
                out += what;
            else if (what == 'S') { // stacked: "1/2;"
                while (++i < text.size() && text[i] != ';')
                    out += text[i] == '#' || text[i] == '^' ? '/' : text[i];
            } else if (std::string_view("LlOoKkX").find(what) == std::string_view::npos) {
                while (i < text.size() && text[i] != ';') // with a value up to a semicolon
                    ++i;
            }
        } else if (rich && (c == '{' || c == '}')) {
            continue;
        } else if (c == '^' && i + 1 < text.size() &&
                   (text[i + 1] == 'J' || text[i + 1] == 'I' || text[i + 1] == 'M')) {
            out += ' ';
            ++i;
        } else {
            out += c;
        }
    }
    std::string line;
    for (const char c : utf8Of(out)) {
        const bool blank = static_cast<unsigned char>(c) <= ' ';
        if (!blank)
            line += c;
        else if (!line.empty() && line.back() != ' ')
            line += ' ';
    }
    while (!line.empty() && line.back() == ' ')
        line.pop_back();
    return line.substr(0, 500);
}

} // namespace loom::project::dxf
