#include "model/surface.h"
#include "dsp/number.h"
#include <algorithm>

namespace loom::project {

const Control* SurfacePage::control(const std::string& id) const {
    for (const auto& ply : plies)
        for (const auto& c : ply.controls)
            if (c.id == id)
                return &c;
    return nullptr;
}

const SurfacePage* Surface::page(const std::string& id) const {
    for (const auto& p : pages)
        if (p.id == id)
            return &p;
    return nullptr;
}

Result<std::vector<std::array<double, 2>>> readCorners(const std::string& text) {
    const Error wrong{"\"" + text.substr(0, 40) + "\" are no corners", "Corners",
                      "Type 3 to 60 pairs in percent of the box, as in 0 0, 100 20, 50 100."};
    std::vector<std::array<double, 2>> all;
    for (std::size_t at = 0; at <= text.size();) {
        const auto end = std::min(text.find(',', at), text.size());
        const auto pair = text.substr(at, end - at);
        const auto begin = pair.find_first_not_of(' ');
        const auto gap = begin == std::string::npos ? begin : pair.find(' ', begin);
        if (gap == std::string::npos)
            return wrong;
        const auto last = pair.find_last_not_of(' ');
        const auto second = pair.find_first_not_of(' ', gap);
        if (second == std::string::npos)
            return wrong;
        const auto x = wholeNumber(pair.substr(begin, gap - begin)),
                   y = wholeNumber(pair.substr(second, last + 1 - second));
        if (!x || !y || *x < 0 || *x > 100 || *y < 0 || *y > 100)
            return wrong;
        all.push_back({*x, *y});
        at = end + 1;
    }
    if (all.size() < 3 || all.size() > 60)
        return wrong;
    return all;
}

} // namespace loom::project
