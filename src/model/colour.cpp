#include "model/colour.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace loom::project {
namespace {

constexpr double degree = std::numbers::pi / 180;

double linear(int v) { // IEC 61966-2-1
    const double x = v / 255.0;
    return x <= 0.04045 ? x / 12.92 : std::pow((x + 0.055) / 1.055, 2.4);
}
double encoded(double x) {
    return x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1 / 2.4) - 0.055;
}

std::array<double, 3> linearFrom(double lightness, double a, double b) {
    const double l = std::pow(lightness + 0.3963377774 * a + 0.2158037573 * b, 3),
                 m = std::pow(lightness - 0.1055613458 * a - 0.0638541728 * b, 3),
                 s = std::pow(lightness - 0.0894841775 * a - 1.2914855480 * b, 3);
    return {4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
            -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
            -0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s};
}

// Numbers of a text, whatever stands between them.
std::vector<double> numbersIn(const std::string& text) {
    std::vector<double> all;
    for (std::size_t i = 0; i < text.size();) {
        const auto end = std::min(text.find_first_not_of("0123456789.-+", i), text.size());
        if (end == i) {
            ++i;
            continue;
        }
        if (const auto v = wholeNumber(text.substr(i, end - i)))
            all.push_back(*v);
        i = end;
    }
    return all;
}

int digit(char c) {
    return c >= '0' && c <= '9'   ? c - '0'
           : c >= 'a' && c <= 'f' ? c - 'a' + 10
           : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                  : -1;
}

} // namespace

std::string Colour::text() const {
    constexpr char hex[] = "0123456789ABCDEF";
    if (a == 0)
        return "none";
    std::string t = "#";
    for (const int v : {r, g, b, a}) {
        t += hex[v / 16];
        t += hex[v % 16];
    }
    return a == 255 ? t.substr(0, 7) : t;
}

Result<Colour> readColour(const std::string& said) {
    std::string t;
    for (const char c : said)
        t += static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    t.erase(0, t.find_first_not_of(' '));
    t.erase(t.find_last_not_of(' ') + 1);
    const Error none{"\"" + said.substr(0, 40) + "\" is no colour", "Colour",
                     "Type #2A7F7A, rgb(42, 127, 122), oklch(0.55 0.08 190) or none."};
    if (t == "none")
        return Colour{0, 0, 0, 0};
    if (!t.empty() && t[0] == '#') {
        std::vector<int> d;
        for (std::size_t i = 1; i < t.size(); ++i) {
            if (digit(t[i]) < 0)
                return none;
            d.push_back(digit(t[i]));
        }
        if (d.size() == 3 || d.size() == 4) { // each twice
            std::vector<int> twice;
            for (const int v : d)
                twice.insert(twice.end(), {v, v});
            d = twice;
        }
        if (d.size() != 6 && d.size() != 8)
            return none;
        return Colour{d[0] * 16 + d[1], d[2] * 16 + d[3], d[4] * 16 + d[5], d.size() == 8 ? d[6] * 16 + d[7] : 255};
    }
    const auto n = numbersIn(t);
    const auto share = [](double v) { return static_cast<int>(std::lround(std::clamp(v, 0.0, 1.0) * 255)); };
    if (t.rfind("rgb", 0) == 0 && (n.size() == 3 || n.size() == 4)) {
        if (!std::all_of(n.begin(), n.begin() + 3, [](double v) { return v >= 0 && v <= 255; }))
            return none;
        return Colour{static_cast<int>(std::lround(n[0])), static_cast<int>(std::lround(n[1])),
                      static_cast<int>(std::lround(n[2])), n.size() == 4 ? share(n[3]) : 255};
    }
    if ((t.rfind("oklch", 0) == 0 || t[0] == 'l') && (n.size() == 3 || n.size() == 4)) {
        const double light = n[0] > 1 ? n[0] / 100 : n[0]; // in percent, as people read it
        if (!(light >= 0 && light <= 1 && n[1] >= 0 && n[1] <= 1 && std::abs(n[2]) <= 360))
            return none;
        return fromOklch(light, n[1], n[2], n.size() == 4 ? share(n[3]) : 255);
    }
    return none;
}

std::array<double, 3> oklchOf(const Colour& c) {
    const double r = linear(c.r), g = linear(c.g), b = linear(c.b);
    const double l = std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b),
                 m = std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b),
                 s = std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    const double lightness = 0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
                 a = 1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
                 bb = 0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s;
    double hue = std::atan2(bb, a) / degree;
    if (hue < 0)
        hue += 360;
    return {lightness, std::hypot(a, bb), hue};
}

Colour fromOklch(double lightness, double chroma, double hue, int alpha) {
    const auto at = [&](double c) {
        return linearFrom(lightness, c * std::cos(hue * degree), c * std::sin(hue * degree));
    };
    const auto shown = [](const std::array<double, 3>& rgb) {
        return std::all_of(rgb.begin(), rgb.end(), [](double v) { return v >= -1e-4 && v <= 1 + 1e-4; });
    };
    double most = chroma;
    if (!shown(at(most))) {
        double least = 0;
        for (int i = 0; i < 24; ++i) {
            const double middle = (least + most) / 2;
            (shown(at(middle)) ? least : most) = middle;
        }
        most = least;
    }
    const auto rgb = at(most);
    const auto part = [](double v) {
        return static_cast<int>(std::lround(std::clamp(encoded(std::clamp(v, 0.0, 1.0)), 0.0, 1.0) * 255));
    };
    return {part(rgb[0]), part(rgb[1]), part(rgb[2]), alpha};
}

Colour over(const Colour& above, const Colour& below) {
    const double a = above.a / 255.0;
    const auto part = [a](int x, int y) { return static_cast<int>(std::lround(x * a + y * (1 - a))); };
    return {part(above.r, below.r), part(above.g, below.g), part(above.b, below.b), below.a};
}

Colour mixed(const Colour& a, const Colour& b, double share) {
    const auto part = [share](int x, int y) { return static_cast<int>(std::lround(x + (y - x) * share)); };
    return {part(a.r, b.r), part(a.g, b.g), part(a.b, b.b), part(a.a, b.a)};
}

double contrast(const Colour& a, const Colour& b) {
    const auto luminance = [](const Colour& c) {
        return 0.2126 * linear(c.r) + 0.7152 * linear(c.g) + 0.0722 * linear(c.b);
    };
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

} // namespace loom::project
