#include "program/marks.h"
#include "engine/block_kind.h"
#include <algorithm>
#include <set>

namespace loom::project {

using engine::Block;
using engine::End;
using engine::Layout;
using engine::Program;

std::string markOf(const Block& block, const std::string& key) {
    const auto it = block.marks.find(key);
    return it == block.marks.end() ? "" : it->second;
}

void setMark(Block& block, const std::string& key, const std::string& value) {
    value.empty() ? void(block.marks.erase(key)) : void(block.marks[key] = value);
}

Program withMark(const Program& p, const std::vector<std::string>& blocks, const std::string& key,
                 const std::string& value) {
    Program n = p;
    for (const auto& id : blocks)
        if (auto* b = n.find(id))
            setMark(*b, key, value);
    return n;
}

std::string stemOf(const std::string& label) {
    const auto end = label.find_last_not_of("0123456789");
    std::string stem = end == std::string::npos ? "" : label.substr(0, end + 1);
    while (!stem.empty() && stem.back() == ' ')
        stem.pop_back();
    return stem;
}

Program groupLanes(const Program& p, const std::vector<std::string>& ends, const std::string& name) {
    Program n = withMark(p, ends, "group", name);
    for (const auto& id : ends)
        if (auto* b = n.find(id))
            setMark(*b, "folded", "");
    return n;
}

Program groupAllLanes(const Program& p, GroupBy by) {
    Program n = p;
    std::map<std::pair<End, std::string>, std::vector<Block*>> groups;
    for (std::size_t i = 0; i < n.blocks.size(); ++i) {
        const auto end = engine::endOf(n.blocks[i]);
        if (end == End::none)
            continue;
        Block& b = n.blocks.change(i);
        setMark(b, "group", "");
        setMark(b, "folded", "");
        const auto port = b.texts.find("port");
        groups[{end, by == GroupBy::port ? (port == b.texts.end() ? "" : port->second.substr(0, port->second.find(' ')))
                                         : stemOf(b.label)}]
            .push_back(&b);
    }
    const std::map<std::string, std::string> sorts{
        {"in", "Mic and line inputs"}, {"out", "Line outputs"},     {"net", "Network"}, {"usb", "USB"},
        {"tel", "Telephone"},          {"amp", "Amplifier outputs"}};
    for (const auto& [what, blocks] : groups) {
        if (by == GroupBy::none || what.second.empty() || blocks.size() < 2)
            continue;
        const auto sort = by == GroupBy::port ? sorts.find(what.second) : sorts.end();
        for (auto* b : blocks)
            setMark(*b, "group", sort == sorts.end() ? what.second : sort->second);
    }
    return n;
}

Result<Program> foldGroups(const Program& p, const std::vector<std::string>& ends, bool folded) {
    std::set<std::pair<End, std::string>> groups;
    for (const auto& id : ends)
        if (const auto* b = p.find(id); b && !markOf(*b, "group").empty())
            groups.insert({engine::endOf(*b), markOf(*b, "group")});
    if (groups.empty())
        return Error{"these lanes lie in no group", "", "Choose lanes and group them first."};
    Program n = p;
    n.blocks.changeIf(
        [&](const Block& b) {
            return groups.count({engine::endOf(b), markOf(b, "group")}) > 0;
        },
        [&](Block& b) { setMark(b, "folded", folded ? "yes" : ""); });
    return n;
}

Result<Program> moveLanes(const Layout& layout, const Program& p, const std::vector<std::string>& ends, int by) {
    std::vector<const Layout::Lane*> side; // as they lie
    const auto* first = ends.empty() ? nullptr : layout.laneOf(ends.front());
    if (!first || first->kind == Layout::Kind::inner)
        return Error{"only lanes of sources and destinations have an order", "", "Choose one of them."};
    for (const auto& l : layout.lanes)
        if (l.kind == first->kind)
            side.push_back(&l);
    const std::set<std::string> chosen(ends.begin(), ends.end());
    if (by > 0)
        std::reverse(side.begin(), side.end());
    // Groups of which every lane is meant move as one; the others lane by lane inside theirs.
    const auto meant = [&](const Layout::Lane* l) { return chosen.count(l->end) > 0; };
    const auto wholeGroup = [&](const std::string& group) {
        return !group.empty() &&
               std::all_of(side.begin(), side.end(), [&](const auto* l) { return l->group != group || meant(l); });
    };
    std::vector<std::vector<const Layout::Lane*>> parts; // what moves past what
    for (const auto* l : side) {
        const bool joins = !parts.empty() && !l->group.empty() && parts.back().back()->group == l->group &&
                           (wholeGroup(l->group) || !std::any_of(side.begin(), side.end(), [&](const auto* m) {
                                return m->group == l->group && meant(m);
                            }));
        joins ? parts.back().push_back(l) : parts.push_back({l});
    }
    bool moved = false;
    for (std::size_t i = 1; i < parts.size(); ++i) {
        const bool stays = !meant(parts[i].front()) || meant(parts[i - 1].front());
        const auto& group = parts[i].front()->group;
        const bool leaves = !group.empty() && !wholeGroup(group) && parts[i - 1].front()->group != group;
        if (stays || leaves)
            continue;
        std::swap(parts[i], parts[i - 1]);
        moved = true;
    }
    if (!moved)
        return Error{"these lanes cannot go further", "", ""};
    if (by > 0)
        std::reverse(parts.begin(), parts.end());
    Program n = p;
    int place = 0;
    for (auto& part : parts) {
        if (by > 0)
            std::reverse(part.begin(), part.end());
        for (const auto* l : part)
            setMark(*n.find(l->end), "place", std::to_string(++place));
    }
    return n;
}

} // namespace loom::project
