#include "talk/by_hand.h"
#include <cmath>
#include <sstream>

namespace loom::project::first {

using engine::Block;

namespace {

std::map<std::string, double> setBefore(const Block& b) {
    std::map<std::string, double> all;
    const auto it = b.marks.find(firstPassMark);
    std::istringstream in(it == b.marks.end() ? "" : it->second);
    in.imbue(std::locale::classic());
    for (std::string one; std::getline(in, one, ';');)
        if (const auto eq = one.find('='); eq != std::string::npos) {
            std::istringstream number(one.substr(eq + 1));
            number.imbue(std::locale::classic());
            number >> all[one.substr(0, eq)];
        }
    return all;
}

} // namespace

bool isByHand(const Block& b, const std::string& param) {
    const auto now = b.values.find(param);
    if (now == b.values.end())
        return false;
    const auto set = setBefore(b);
    const auto was = set.find(param);
    return was == set.end() || std::abs(was->second - now->second) > 1e-6;
}

void setFirst(Block& b, const std::string& param, double value) {
    value = std::round(value * 10) / 10;
    engine::enterValue(b, param, value);
    auto all = setBefore(b);
    all[param] = value;
    std::ostringstream out;
    out.imbue(std::locale::classic());
    for (const auto& [p, v] : all)
        out << (out.tellp() > 0 ? ";" : "") << p << "=" << v;
    b.marks[firstPassMark] = out.str();
}

double valueOf(const Block& b, const std::string& param) {
    const engine::BlockView view(b);
    const int i = view.table->indexOf(param);
    return i < 0 ? 0 : view.values[static_cast<std::size_t>(i)];
}

} // namespace loom::project::first
