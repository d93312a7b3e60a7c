#include "model/voicing.h"
#include <algorithm>
#include <array>

namespace loom::project {
namespace {

engine::Block block(const std::string& kind, std::map<std::string, double> values = {}) {
    engine::Block b;
    b.id = b.kind = kind;
    b.values = std::move(values);
    return b;
}

} // namespace

std::vector<engine::Block> newChain() {
    std::vector<engine::Block> chain{block("highpass", {{"on", 0}}),
                                     block("lowpass", {{"on", 0}}),
                                     block("eq"),
                                     block("delay"),
                                     block("level"),
                                     block("limiter")};
    chain[2].shape["bands"] = static_cast<int>(mostBells);
    return chain;
}

Voicing newVoicing(const std::string& id, const std::string& name, int ways) {
    static constexpr std::array<std::array<const char*, 4>, 4> names{
        {{"Full range"}, {"Low", "High"}, {"Low", "Mid", "High"}, {"Sub", "Low", "Mid", "High"}}};
    Voicing v;
    v.id = id;
    v.name = name;
    v.whole = block("eq", {{"on", 1}});
    v.whole.id = "whole";
    v.whole.shape["bands"] = static_cast<int>(mostBells);
    const int count = std::clamp(ways, 1, static_cast<int>(mostWays));
    for (int w = 0; w < count; ++w) {
        Way way;
        way.name = names[static_cast<std::size_t>(count - 1)][static_cast<std::size_t>(w)];
        way.chain = newChain();
        v.ways.push_back(std::move(way));
    }
    v.whole.values.clear(); // an equaliser is on as it comes, with all of its bands off
    return v;
}

const engine::Block* partOf(const Voicing& v, const std::string& part) {
    if (part == "whole")
        return &v.whole;
    const auto dot = part.find('.');
    const int way = dot == 1 ? part[0] - '1' : -1;
    if (way < 0 || way >= static_cast<int>(v.ways.size()))
        return nullptr;
    for (const auto& b : v.ways[static_cast<std::size_t>(way)].chain)
        if (b.id == part.substr(2))
            return &b;
    return nullptr;
}

engine::Block* partOf(Voicing& v, const std::string& part) {
    return const_cast<engine::Block*>(partOf(static_cast<const Voicing&>(v), part));
}

bool hasDelays(const Voicing& v) {
    for (const auto& w : v.ways)
        for (const auto& b : w.chain)
            if (const auto time = b.values.find("time");
                b.kind == "delay" && time != b.values.end() && time->second > 0)
                return true;
    return false;
}

std::vector<std::string> partsOf(const Voicing& v) {
    std::vector<std::string> all{"whole"};
    for (std::size_t w = 0; w < v.ways.size(); ++w)
        for (const auto& b : v.ways[w].chain)
            all.push_back(std::to_string(w + 1) + "." + b.id);
    return all;
}

double minimumOhms(const Way& way) {
    return way.minimumOhms > 0 ? way.minimumOhms : 0.8 * way.nominalOhms;
}

} // namespace loom::project
