#include "program/wall_switch.h"
#include "engine/block_kind.h"
#include <algorithm>
#include <sstream>

namespace loom::project {

namespace {

std::vector<std::string> split(const std::string& text, char at) {
    std::vector<std::string> all;
    std::istringstream in(text);
    for (std::string one; std::getline(in, one, at);)
        if (!one.empty())
            all.push_back(one);
    return all;
}

std::string markAt(const engine::Block& b, const char* key) {
    const auto it = b.marks.find(key);
    return it == b.marks.end() ? std::string() : it->second;
}

} // namespace

std::string wallsText(const std::set<std::string>& open) {
    std::string all;
    for (const auto& w : open)
        all += (all.empty() ? "" : "+") + w;
    return all;
}

std::set<std::string> readWalls(const std::string& text) {
    const auto all = split(text, '+');
    return {all.begin(), all.end()};
}

std::string wallsOf(const engine::Block& b) {
    return markAt(b, wallsMark);
}

bool isAtWork(const engine::Block& b, const std::string& walls) {
    const auto its = wallsOf(b);
    return its == walls || its == "any";
}

bool isWallSwitch(const engine::Block& b) {
    return b.kind == "selector" && b.marks.count(wallSwitchMark) > 0;
}

std::vector<std::string> statesOf(const engine::Block& b) {
    if (!isWallSwitch(b))
        return {};
    auto all = split(markAt(b, wallSwitchMark), ';');
    for (auto& one : all)
        if (one == "-")
            one.clear();
    return all;
}

std::map<std::string, double> wallValues(const engine::Block& b, const std::set<std::string>& open) {
    const auto states = statesOf(b);
    int best = -1;
    std::size_t most = 0;
    for (std::size_t i = 0; i < states.size(); ++i) {
        const auto walls = readWalls(states[i]);
        const bool holds = std::includes(open.begin(), open.end(), walls.begin(), walls.end());
        if (holds && (best < 0 || walls.size() > most))
            best = static_cast<int>(i), most = walls.size();
    }
    std::map<std::string, double> all;
    if (best < 0)
        return all;
    const engine::BlockView view(b);
    const int outputs = view.outputs();
    for (int k = 0; k < outputs; ++k)
        if (const int input = best * outputs + k; input < view.inputs())
            all[std::to_string(k + 1)] = input + 1;
    return all;
}

engine::Program atWalls(engine::Program p, const std::set<std::string>& open) {
    std::vector<std::pair<std::string, std::map<std::string, double>>> all;
    for (const auto& b : std::as_const(p.blocks))
        if (isWallSwitch(b))
            all.emplace_back(b.id, wallValues(b, open));
    for (const auto& [id, values] : all)
        for (const auto& [param, value] : values)
            engine::enterValue(*p.find(id), param, value);
    return p;
}

} // namespace loom::project
