#include "loudspeaker/response_file.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <numbers>
#include <sstream>

namespace loom::loudspeaker {
namespace {

struct Point {
    double hz = 0, db = 0, deg = 0;
};

} // namespace

dsp::Complex ResponseFile::at(double f) const {
    if (hz.empty() || !(f > 0))
        return 0;
    double level, phase;
    if (f <= hz.front()) {
        level = db.front() - 24 * std::log2(hz.front() / f);
        phase = deg.front();
    } else if (f >= hz.back()) {
        level = db.back() - 24 * std::log2(f / hz.back());
        phase = deg.back();
    } else {
        const auto i = static_cast<std::size_t>(std::upper_bound(hz.begin(), hz.end(), f) - hz.begin());
        const double k = std::log(f / hz[i - 1]) / std::log(hz[i] / hz[i - 1]);
        level = db[i - 1] + k * (db[i] - db[i - 1]);
        phase = deg[i - 1] + k * (deg[i] - deg[i - 1]);
    }
    return std::polar(std::pow(10.0, level / 20), phase * std::numbers::pi / 180);
}

Result<ResponseFile> readResponse(const std::string& text, const std::string& name) {
    if (text.size() > maxResponseBytes)
        return Error{"is larger than 8 MiB", name, "A response has some hundred lines."};
    std::vector<Point> points;
    bool phase = true;
    std::istringstream in(text);
    int number = 0;
    for (std::string line; std::getline(in, line);) {
        ++number;
        std::replace_if(
            line.begin(), line.end(), [](char c) { return c == ',' || c == ';' || c == '\t' || c == '\r'; }, ' ');
        double v[3]{};
        int count = 0;
        for (std::string_view rest = line; count < 3; ++count) {
            const auto next = leadingNumber(rest);
            if (next.length == 0)
                break;
            v[count] = next.value;
            rest.remove_prefix(next.length);
        }
        if (count == 0)
            continue; // a remark
        const std::string place = name + ", line " + std::to_string(number);
        if (count == 1)
            return Error{"has one number only", place, "A line is a frequency, a level in dB, and degrees."};
        if (!(v[0] > 0 && v[0] <= 1e6) || !(std::abs(v[1]) <= 300) || !(std::abs(v[2]) <= 1e7))
            return Error{"has a value that cannot be", place,
                         "Frequencies go up to 1 MHz, levels from -300 to 300 dB; decimals have a point."};
        phase = phase && count == 3;
        points.push_back({v[0], v[1], v[2]});
        if (points.size() > maxResponsePoints)
            return Error{"has more than 100000 points", place, "Thin it out."};
    }
    if (points.size() < 2)
        return Error{"has no two points", name, "A line is a frequency, a level in dB, and degrees."};
    ResponseFile r;
    r.hasPhase = phase;
    if (!phase)
        r.notes.push_back("It has no phase: sums of ways take it as 0.");
    const auto earlier = [](const Point& a, const Point& b) { return a.hz < b.hz; };
    if (!std::is_sorted(points.begin(), points.end(), earlier)) {
        std::stable_sort(points.begin(), points.end(), earlier);
        r.notes.push_back("Its frequencies were not in order; they were sorted.");
    }
    const auto before = points.size();
    points.erase(std::unique(points.begin(), points.end(), [](const Point& a, const Point& b) { return a.hz == b.hz; }),
                 points.end());
    if (before != points.size())
        r.notes.push_back(std::to_string(before - points.size()) +
                          " points have the frequency of another; the first counts.");
    if (points.size() < 2)
        return Error{"has one frequency only", name, "A response needs two or more."};
    double turns = 0;
    for (std::size_t i = 0; i < points.size(); ++i) {
        const auto& p = points[i];
        if (i > 0 && phase) { // the nearest turn to the point before
            const double last = r.deg.back();
            turns = 360 * std::round((last - p.deg) / 360);
        }
        if (i > 0 && p.hz > 2 * points[i - 1].hz) {
            r.notes.push_back(print("It has a gap from %g to %g Hz.", points[i - 1].hz, p.hz));
        }
        r.hz.push_back(p.hz);
        r.db.push_back(p.db);
        r.deg.push_back(phase ? p.deg + turns : 0);
    }
    return r;
}

} // namespace loom::loudspeaker
