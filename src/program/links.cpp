#include "program/links.h"
#include "engine/block_kind.h"
#include "program/lane_edit.h"
#include "program/marks.h"
#include <algorithm>
#include <set>
#include <sstream>

namespace loom::project {

using engine::Block;
using engine::Layout;
using engine::Program;

namespace {

bool hasParam(const Block& b, const std::string& param) {
    return engine::findKind(b.kind) && engine::BlockView(b).table->indexOf(param) >= 0;
}

void setApart(Block& b, const std::string& param, bool apart) {
    auto all = apartOf(b);
    std::erase(all, param);
    if (apart)
        all.push_back(param);
    std::string text;
    for (const auto& a : all)
        text += (text.empty() ? "" : " ") + a;
    setMark(b, "apart", text);
}

// The end and the beads of a lane.
std::vector<std::string> blocksOf(const Layout::Lane& lane) {
    std::vector<std::string> all = lane.beads;
    if (lane.kind != Layout::Kind::inner)
        all.push_back(lane.end);
    return all;
}

// The same block on each of the lanes; ends belong together too.
std::vector<std::string> sameOn(const Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                                const std::string& block) {
    const auto* own = layout.laneOf(block);
    if (!own || !own->isEnd(block))
        return counterparts(layout, p, lanes, block);
    std::vector<std::string> ends;
    for (const auto& l : lanes)
        if (const auto* lane = layout.laneOf(l); lane && lane->kind == own->kind && lane != own && lane->isEnd(l))
            ends.push_back(l);
    return ends;
}

std::string linkOf(const Program& p, const std::string& lane) {
    const auto* b = p.find(lane);
    return b ? markOf(*b, "link") : "";
}

std::string laneOfBlock(const Layout& layout, const std::string& block) {
    const auto* lane = layout.laneOf(block);
    return lane ? lane->end : block;
}

} // namespace

std::vector<std::string> linkedWith(const Program& p, const std::string& lane) {
    std::vector<std::string> all;
    const std::string link = linkOf(p, lane);
    for (const auto& b : p.blocks)
        if (!link.empty() && b.id != lane && markOf(b, "link") == link)
            all.push_back(b.id);
    return all;
}

std::vector<std::string> withLinked(const Program& p, const std::vector<std::string>& lanes) {
    std::vector<std::string> all = lanes;
    std::set<std::string> seen(lanes.begin(), lanes.end());
    for (const auto& l : lanes)
        for (const auto& other : linkedWith(p, l))
            if (seen.insert(other).second)
                all.push_back(other);
    return all;
}

Result<Program> linkLanes(const Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                          const std::string& name) {
    const auto* first = lanes.empty() ? nullptr : layout.laneOf(lanes.front());
    if (!first || lanes.size() < 2)
        return Error{"only two lanes or more can be linked", "", "Choose them with Ctrl or Shift first."};
    for (const auto& l : lanes)
        if (const auto* lane = layout.laneOf(l); !lane || lane->kind != first->kind || !lane->isEnd(l))
            return Error{"only lanes of one side can be linked", l, "Choose sources or destinations."};
    if (name.empty())
        return Error{"a link needs a name", "", ""};
    Program n = withMark(unlinkLanes(layout, p, lanes), lanes, "link", name);
    const auto all = withLinked(n, lanes);
    const std::vector<std::string> model{lanes.front()};
    for (const auto& l : all)
        for (const auto& id : blocksOf(*layout.laneOf(l)))
            for (const auto& like : sameOn(layout, n, model, id)) {
                Block& b = *n.find(id);
                const Block& wanted = *n.find(like);
                if (!engine::findKind(b.kind))
                    continue;
                const engine::BlockView own(b), theirs(wanted);
                for (std::size_t i = 0; i < own.values.size(); ++i) {
                    const auto& param = own.table->specs()[i].id;
                    const int there = theirs.table->indexOf(param);
                    if (there >= 0 && theirs.values[static_cast<std::size_t>(there)] != own.values[i])
                        setApart(b, param, true);
                }
            }
    return n;
}

Program unlinkLanes(const Layout& layout, const Program& p, const std::vector<std::string>& lanes) {
    Program n = p;
    for (const auto& l : lanes)
        if (const auto* lane = layout.laneOf(l))
            for (const auto& id : blocksOf(*lane)) {
                setMark(*n.find(id), "link", "");
                setMark(*n.find(id), "apart", "");
            }
    return n;
}

std::vector<std::string> apartOf(const Block& block) {
    std::vector<std::string> all;
    std::istringstream in(markOf(block, "apart"));
    for (std::string w; in >> w;)
        all.push_back(w);
    return all;
}

bool isApart(const Block& block, const std::string& param) {
    if (block.marks.empty())
        return false;
    const auto all = apartOf(block);
    return std::find(all.begin(), all.end(), param) != all.end();
}

Result<Program> breakAway(const Layout& layout, const Program& p, const std::string& block, const std::string& param) {
    const std::string lane = laneOfBlock(layout, block);
    if (linkedWith(p, lane).empty())
        return Error{"this lane is linked to no other", lane, "Link lanes first."};
    Program n = p;
    Block& b = *n.find(block);
    if (!hasParam(b, param))
        return Error{"there is no such parameter", block + "." + param, ""};
    setApart(b, param, true);
    return n;
}

Result<Program> relink(const Layout& layout, const Program& p, const std::string& block, const std::string& param) {
    const std::string lane = laneOfBlock(layout, block);
    const auto* b = p.find(block);
    if (!b || !isApart(*b, param))
        return Error{"this value did not break away", block + "." + param, ""};
    Program n = p;
    setApart(*n.find(block), param, false);
    for (const auto& other : sameOn(layout, p, linkedWith(p, lane), block)) {
        const Block& like = *p.find(other);
        if (!hasParam(like, param) || isApart(like, param))
            continue;
        const auto it = like.values.find(param); // as it is stored: a value of a band that is off stays off
        it == like.values.end() ? void(n.find(block)->values.erase(param))
                                : void(n.find(block)->values[param] = it->second);
        break;
    }
    return n;
}

Result<Program> relinkLane(const Layout& layout, const Program& p, const std::string& lane) {
    const auto* l = layout.laneOf(lane);
    Program n = p;
    bool any = false;
    for (const auto& id : l ? blocksOf(*l) : std::vector<std::string>{})
        for (const auto& param : apartOf(*p.find(id))) {
            auto back = relink(layout, n, id, param);
            if (!back)
                return back;
            n = std::move(*back);
            any = true;
        }
    if (!any)
        return Error{"no value of this lane broke away", lane, ""};
    return n;
}

std::vector<std::string> reachOf(const Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                                 const std::string& block, const std::string& param) {
    const std::string own = laneOfBlock(layout, block);
    std::vector<std::string> reach{block + "." + param};
    const auto add = [&](const std::vector<std::string>& on, bool linked) {
        for (const auto& other : sameOn(layout, p, on, block)) {
            const Block& b = *p.find(other);
            const std::string address = other + "." + param;
            if (hasParam(b, param) && !(linked && isApart(b, param)) &&
                std::find(reach.begin(), reach.end(), address) == reach.end())
                reach.push_back(address);
        }
    };
    // Of several chosen lanes all get it, unless what is set lies on another lane.
    if (std::find(lanes.begin(), lanes.end(), own) != lanes.end())
        add(lanes, false);
    const auto* b = p.find(block);
    if (b && !isApart(*b, param))
        add(withLinked(p, {own}), true);
    return reach;
}

} // namespace loom::project
