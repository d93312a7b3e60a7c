#include "rooms/dxf_plan.h"
#include "dsp/number.h"
#include "rooms/dxf/curves.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <unordered_map>

namespace loom::project {

using namespace dxf;

namespace {

// Metres of a drawing unit by its $INSUNITS; 0: not told, or none that a building is drawn in.
double metresOf(int units) {
    switch (units) {
    case 1:
        return 0.0254;
    case 2:
        return 0.3048;
    case 4:
        return 0.001;
    case 5:
        return 0.01;
    case 6:
        return 1;
    case 7:
        return 1000;
    case 10:
        return 0.9144;
    case 14:
        return 0.1;
    case 21:
        return 1200.0 / 3937; // the survey foot
    default:
        return 0;
    }
}

constexpr double finest = 5e-5; // m between a curve and its chords

std::string folded(std::string_view name) {
    std::string all(name);
    for (auto& c : all)
        c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return all;
}

struct Block {
    V3 base{};
    std::vector<Entity> entities;
    bool outside = false; // its content is in another file
};

class PlanReader {
  public:
    // `unit`: metres of a drawing unit where the file says none.
    PlanReader(std::string_view bytes, const std::function<bool(double)>& progress, double unit)
        : groups_(bytes), progress_(progress) {
        fine_.sagitta = finest / unit / 3; // it may as well be inches
    }

    bool full() const { return full_; }
    bool cancelled() const { return cancelled_; }
    DxfPlan take() { return std::move(plan_); }

    void read() {
        layerOf("0");
        std::string_view section;
        bool more = groups_.next(now_);
        while (more && !stopped()) {
            if (now_.code == 0 && now_.value == "SECTION") {
                more = groups_.next(now_);
                section = now_.code == 2 ? now_.value : std::string_view();
                more = groups_.next(now_);
                continue;
            }
            if (now_.code == 0 && now_.value == "ENDSEC")
                section = {};
            if (section == "HEADER")
                more = header();
            else if (section == "TABLES" && now_.code == 0 && now_.value == "LAYER")
                more = layer();
            else if (section == "BLOCKS" && now_.code == 0 && now_.value == "BLOCK")
                more = block();
            else if (section == "ENTITIES" && now_.code == 0)
                more = entities();
            else
                more = groups_.next(now_);
        }
        extent();
    }

  private:
    bool stopped() {
        if (progress_ && (++asked_ & 4095) == 0)
            cancelled_ = cancelled_ || !progress_(groups_.share());
        return full_ || cancelled_;
    }
    bool header() {
        if (now_.code != 9)
            return groups_.next(now_);
        const auto variable = now_.value;
        bool more = groups_.next(now_);
        if (more && variable == "$INSUNITS" && now_.code == 70) {
            plan_.metresPerUnit = metresOf(now_.whole());
            if (plan_.metresPerUnit > 0)
                fine_.sagitta = finest / plan_.metresPerUnit;
        }
        return more;
    }
    std::int32_t layerOf(std::string_view name) {
        const auto key = folded(name);
        if (const auto it = layers_.find(key); it != layers_.end())
            return it->second;
        const auto n = static_cast<std::int32_t>(plan_.layers.size());
        plan_.layers.push_back({plainText(name, false)});
        layers_[key] = n;
        return n;
    }
    bool layer() {
        std::string_view name;
        int flags = 0, colour = 7;
        bool more;
        while ((more = groups_.next(now_)) && now_.code != 0) {
            if (now_.code == 2)
                name = now_.value;
            else if (now_.code == 70)
                flags = now_.whole();
            else if (now_.code == 62)
                colour = now_.whole();
        }
        if (plan_.layers.size() < 10000) {
            auto& l = plan_.layers[static_cast<std::size_t>(layerOf(name))];
            l.on = colour >= 0;
            l.frozen = (flags & 1) != 0;
        }
        return more;
    }
    // The entity whose 0 is the group now; afterwards that of the next one is.
    bool entity(Entity& e) {
        const auto kind = now_.value;
        parts_.clear();
        bool more;
        while ((more = groups_.next(now_)) && now_.code != 0)
            if (parts_.size() < 4'000'000)
                parts_.push_back(now_);
        e = entityOf(kind, parts_);
        return more;
    }
    // A polyline takes its vertices, an insert its attributes, which are handed to `also`.
    template <class Also> bool whole(Entity& e, bool more, const Also& also) {
        if (!e.follows)
            return more;
        while (more && now_.code == 0 && (now_.value == "VERTEX" || now_.value == "ATTRIB" || now_.value == "SEQEND") &&
               !stopped()) {
            Entity part;
            more = entity(part);
            if (part.is == Entity::Is::end)
                break;
            if (part.is == Entity::Is::vertex && !((e.flags & 4) && (part.flags & 16)) &&
                !((part.flags & 128) && !(part.flags & 64))) {
                e.points.push_back(part.points.front());
                e.bulges.push_back(part.bulges.front());
            } else if (part.is == Entity::Is::attribute) {
                also(std::move(part));
            }
        }
        return more;
    }
    bool block() {
        std::string_view name;
        Block b;
        bool more;
        while ((more = groups_.next(now_)) && now_.code != 0) {
            if (now_.code == 2)
                name = now_.value;
            else if (now_.code == 10)
                b.base.x = now_.number();
            else if (now_.code == 20)
                b.base.y = now_.number();
            else if (now_.code == 30)
                b.base.z = now_.number();
            else if (now_.code == 70)
                b.outside = (now_.whole() & 4) != 0;
        }
        while (more && now_.code == 0 && now_.value != "ENDBLK" && now_.value != "ENDSEC" && now_.value != "BLOCK" &&
               !stopped()) {
            Entity e;
            more = entity(e);
            std::vector<Entity> attributes;
            more = whole(e, more, [&](Entity a) { attributes.push_back(std::move(a)); });
            b.entities.push_back(std::move(e));
            for (auto& a : attributes)
                b.entities.push_back(std::move(a));
            if (b.entities.size() > maxDxfPoints / 4)
                full_ = true;
        }
        blocks_[folded(name)] = std::move(b);
        return more;
    }
    bool entities() {
        Entity e;
        bool more = entity(e);
        more = whole(e, more, [&](Entity a) { draw(a, {}, -1, 0); });
        draw(e, {}, -1, 0);
        return more;
    }

    void pass(std::string_view kind, const char* why = "") {
        ++plan_.passedOver[std::string(kind.substr(0, 40)) + why];
    }
    // `from`: the layer of the insert it is in; -1: none
    void draw(const Entity& e, const Transform& t, std::int32_t from, int depth) {
        using Is = Entity::Is;
        if (stopped())
            return;
        if (e.paper || e.hidden)
            return pass(e.kind, e.paper ? ", on paper" : ", hidden");
        std::int32_t layer = layerOf(e.layer);
        if (layer == 0 && from >= 0)
            layer = from;
        if (from >= 0 && plan_.layers[static_cast<std::size_t>(from)].frozen)
            layer = from; // what is frozen hides all that it holds
        if (plan_.layers.size() > 10000) {
            full_ = true;
            return;
        }
        const Transform own = e.world ? t : t * objectAxes(e.normal);
        Fine fine = fine_;
        fine.scale = own.stretch();
        points_.clear();
        switch (e.is) {
        case Is::line:
            points_ = e.points;
            put(own, layer);
            break;
        case Is::polyline:
            if (e.flags & (16 | 64))
                return pass(e.kind, ", a mesh");
            for (std::size_t i = 0; i + 1 < e.points.size(); ++i)
                addBulge(points_, e.points[i], e.points[i + 1], e.bulges[i], fine);
            if (e.closed && e.points.size() > 1)
                addBulge(points_, e.points.back(), e.points.front(), e.bulges.back(), fine);
            put(own, layer);
            break;
        case Is::arc:
            addArc(points_, e.points.front(), e.radius, e.from, e.to, fine);
            put(own, layer);
            break;
        case Is::ellipse: {
            const V3 major = e.points[1], up = e.normal * (1 / std::max(e.normal.length(), 1e-12));
            addEllipse(points_, e.points[0], major, cross(up, major) * e.ratio, e.from, e.to, fine);
            put(own, layer);
            break;
        }
        case Is::spline:
            if (!addSpline(points_, e.spline, fine))
                return pass(e.kind, e.spline.degree > maxDegree ? ", of too high a degree" : ", not whole");
            put(own, layer);
            break;
        case Is::face:
            points_ = e.points;
            if (!points_.empty())
                points_.push_back(points_.front());
            put(own, layer);
            break;
        case Is::hatch:
            hatch(e, own, layer, fine);
            break;
        case Is::text:
        case Is::attribute:
            text(e, own, layer);
            break;
        case Is::insert:
        case Is::dimension:
            insert(e, own, layer, depth);
            return;
        default:
            return pass(e.kind);
        }
        ++plan_.drawn[std::string(e.kind)];
    }
    void put(const Transform& t, std::int32_t layer) {
        if (points_.size() < 2)
            return;
        if (plan_.points.size() + points_.size() > maxDxfPoints) {
            full_ = true;
            return;
        }
        DxfLine line{static_cast<std::uint32_t>(plan_.points.size()), static_cast<std::uint32_t>(points_.size()),
                     layer};
        for (const auto& p : points_) {
            const V3 at = t(p);
            if (!std::isfinite(at.x) || !std::isfinite(at.y) || std::abs(at.x) > 1e12 || std::abs(at.y) > 1e12) {
                plan_.points.resize(line.first);
                return pass("a point that lies nowhere");
            }
            plan_.points.push_back({at.x, at.y});
        }
        ++plan_.layers[static_cast<std::size_t>(layer)].lines;
        plan_.lines.push_back(line);
    }
    void hatch(const Entity& e, const Transform& own, std::int32_t layer, const Fine& fine) {
        for (std::size_t n = 0; n < e.loops.size(); ++n) {
            points_.clear();
            for (std::size_t i = 0; i + 1 < e.loops[n].size(); ++i)
                addBulge(points_, e.loops[n][i], e.loops[n][i + 1], e.loopBulges[n][i], fine);
            put(own, layer);
        }
        for (const auto& path : e.paths) {
            for (const auto& piece : path) {
                points_.clear();
                if (piece.is == Piece::Is::line)
                    points_ = {piece.a, piece.b};
                else if (piece.is == Piece::Is::arc)
                    addArc(points_, piece.a, piece.radius, piece.from, piece.to, fine);
                else if (piece.is == Piece::Is::ellipse)
                    addEllipse(points_, piece.a, piece.b, cross({0, 0, 1}, piece.b) * piece.ratio, piece.from, piece.to,
                               fine);
                else if (!addSpline(points_, piece.spline, fine))
                    pass("SPLINE", ", in a hatch");
                put(own, layer);
            }
        }
    }
    void text(const Entity& e, const Transform& own, std::int32_t layer) {
        if (e.text.empty() || e.points.empty() || plan_.texts.size() >= 200000)
            return;
        const V3 at = own(e.points.front()), along = own.direction({std::cos(e.rotation), std::sin(e.rotation), 0});
        if (!std::isfinite(at.x) || !std::isfinite(at.y) || std::abs(at.x) > 1e12 || std::abs(at.y) > 1e12)
            return;
        const V3 up = own.direction({-std::sin(e.rotation), std::cos(e.rotation), 0});
        DxfText t;
        t.layer = layer;
        t.at = {at.x, at.y};
        t.height = e.height * std::hypot(up.x, up.y);
        t.degrees = std::atan2(along.y, along.x) * 180 / std::numbers::pi;
        t.across = e.across;
        t.up = e.up;
        t.text = e.text;
        ++plan_.layers[static_cast<std::size_t>(layer)].texts;
        plan_.texts.push_back(std::move(t));
    }
    void insert(const Entity& e, const Transform& own, std::int32_t layer, int depth) {
        const std::string key = folded(e.name);
        const auto it = blocks_.find(key);
        if (it == blocks_.end())
            return pass(e.kind, ", of a block that is not there");
        if (it->second.outside)
            return pass(e.kind, ", of another file");
        if (depth >= maxDxfDepth || std::find(inside_.begin(), inside_.end(), &it->second) != inside_.end())
            return pass(e.kind, depth >= maxDxfDepth ? ", too deep" : ", of itself");
        const Block& block = it->second;
        const bool dimension = e.is == Entity::Is::dimension;
        Transform turn;
        turn.x = {std::cos(e.rotation), std::sin(e.rotation), 0};
        turn.y = {-std::sin(e.rotation), std::cos(e.rotation), 0};
        if (!e.points.empty())
            turn.at = e.points.front();
        Transform stretch;
        if (!dimension) {
            stretch.x = {e.scale.x, 0, 0};
            stretch.y = {0, e.scale.y, 0};
            stretch.z = {0, 0, e.scale.z};
            stretch.at = stretch.direction(block.base * -1);
        }
        inside_.push_back(&block);
        ++plan_.drawn[std::string(e.kind)];
        for (int row = 0; row < e.rows; ++row)
            for (int column = 0; column < e.columns && !stopped(); ++column) {
                if (++inserts_ > maxDxfInserts) {
                    full_ = true;
                    break;
                }
                Transform step;
                step.at = {column * e.columnStep, row * e.rowStep, 0};
                const Transform t = own * turn * step * stretch;
                for (const auto& one : block.entities)
                    draw(one, t, layer, depth + 1);
            }
        inside_.pop_back();
    }
    void extent() {
        for (const bool all : {false, true}) {
            double left = std::numeric_limits<double>::infinity(), low = left, right = -left, high = -left;
            for (const auto& line : plan_.lines) {
                if (!all && !plan_.layers[static_cast<std::size_t>(line.layer)].shown())
                    continue;
                for (std::uint32_t k = 0; k < line.count; ++k) {
                    const auto& p = plan_.points[line.first + k];
                    left = std::min(left, p.x);
                    right = std::max(right, p.x);
                    low = std::min(low, p.y);
                    high = std::max(high, p.y);
                }
            }
            for (const auto& t : plan_.texts) { // as wide as letters usually are
                if (!(left <= right) || (!all && !plan_.layers[static_cast<std::size_t>(t.layer)].shown()) ||
                    t.height <= 0)
                    continue;
                const double wide = 0.7 * t.height * static_cast<double>(std::min<std::size_t>(t.text.size(), 60));
                const double turn = t.degrees * std::numbers::pi / 180, c = std::cos(turn), n = std::sin(turn);
                for (const double u : {-t.across * wide, (1 - t.across) * wide})
                    for (const double v : {-(t.up + 0.4) * t.height, (1.2 - t.up) * t.height}) {
                        left = std::min(left, t.at.x + u * c - v * n);
                        right = std::max(right, t.at.x + u * c - v * n);
                        low = std::min(low, t.at.y + u * n + v * c);
                        high = std::max(high, t.at.y + u * n + v * c);
                    }
            }
            if (left <= right) {
                plan_.low = {left, low};
                plan_.high = {right, high};
                return;
            }
        }
    }

    Groups groups_;
    const std::function<bool(double)>& progress_;
    Group now_{};
    DxfPlan plan_;
    std::unordered_map<std::string, std::int32_t> layers_;
    std::unordered_map<std::string, Block> blocks_;
    std::vector<const Block*> inside_;
    std::vector<Group> parts_;
    std::vector<V3> points_;
    Fine fine_{};
    std::size_t inserts_ = 0;
    unsigned asked_ = 0;
    bool full_ = false, cancelled_ = false;
};

} // namespace

double DxfPlan::likelyMetres() const {
    if (metresPerUnit > 0)
        return metresPerUnit;
    const double wide = std::max(high.x - low.x, high.y - low.y);
    for (const double metres : {0.001, 1.0, 0.01, 0.0254, 0.3048})
        if (wide * metres >= 5 && wide * metres <= 1000)
            return metres;
    return 0.001;
}

Result<DxfPlan> readDxfPlan(std::string_view bytes, const std::string& name,
                            const std::function<bool(double)>& progress) {
    if (bytes.size() > maxDxfBytes)
        return Error{"is larger than 128 MiB", name, "Save only the floor plan's layers from your drawing program."};
    if (bytes.substr(0, 30).find("Binary DXF") != std::string_view::npos)
        return Error{"is a binary DXF drawing", name, "Save it as DXF text (ASCII)."};
    if (bytes.substr(0, 6).find("AC10") == 0)
        return Error{"is a drawing in another format", name, "Save it as DXF text (ASCII)."};
    if (bytes.find("SECTION") == std::string_view::npos)
        return Error{"is not a DXF drawing as text", name, "Save it as ASCII DXF."};
    DxfPlan plan;
    double unit = 0.001;
    for (const int pass : {1, 2}) {
        PlanReader reader(bytes, progress, unit);
        reader.read();
        if (reader.cancelled())
            return Error{"was not read to its end", name, "Open it again."};
        if (reader.full())
            return Error{"draws more than this can hold: 12 million points, a million inserts, 10,000 layers", name,
                         "Save only the floor plan's layers from your drawing program."};
        plan = reader.take();
        // Without units curves were drawn as if of millimetres; once the size is known they are drawn as it asks.
        if (pass == 2 || plan.metresPerUnit > 0 || plan.likelyMetres() < 1.5 * unit)
            break;
        unit = plan.likelyMetres();
    }
    if (plan.lines.empty()) {
        std::string passed;
        for (const auto& [kind, count] : plan.passedOver)
            if (passed.size() < 200)
                passed += (passed.empty() ? " Passed over: " : "; ") + kind + print(" (%d)", static_cast<int>(count));
        return Error{"has nothing drawn in it." + passed, name,
                     "Does it hold the plan itself, or only sheets of paper?"};
    }
    if (plan.metresPerUnit > 0 &&
        std::max(plan.high.x - plan.low.x, plan.high.y - plan.low.y) * plan.metresPerUnit > 10000)
        plan.metresPerUnit = 0; // more than 10 km: it says a wrong unit, or none that counts
    return plan;
}

std::vector<std::string> hiddenBy(const DxfPlan& plan) {
    std::vector<std::string> all;
    for (const auto& l : plan.layers)
        if (!l.shown())
            all.push_back(l.name);
    return all;
}

} // namespace loom::project
