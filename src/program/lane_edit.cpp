#include "program/lane_edit.h"
#include "engine/block_kind.h"
#include "engine/schedule.h"
#include "file/project_json.h"
#include "model/notes.h"
#include "program/program_edit.h"
#include "schema/json_text.h"
#include <algorithm>

namespace loom::project {
namespace {

using engine::Block;
using engine::Layout;
using engine::Program;

constexpr const char* mark = "loomChain"; // the field that says what the text is
constexpr std::size_t mostBlocks = 200;

} // namespace

std::vector<std::string> counterparts(const Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                                      const std::string& block) {
    const auto* own = layout.laneOf(block);
    const auto* b = p.find(block);
    std::vector<std::string> found;
    if (!own || !b || own->isEnd(block))
        return found;
    int place = 0; // among the beads of its kind
    for (const auto& id : own->beads) {
        if (id == block)
            break;
        place += p.find(id)->kind == b->kind;
    }
    for (const auto& lane : lanes) {
        const auto* other = layout.laneOf(lane);
        if (!other || other == own)
            continue;
        int at = 0;
        for (const auto& id : other->beads)
            if (p.find(id)->kind == b->kind && at++ == place)
                found.push_back(id);
    }
    return found;
}

Result<Moved> moveBeads(const Layout& layout, const Program& p, const std::vector<std::string>& beads,
                        const std::string& lane, int place, bool copy) {
    const auto* to = layout.laneOf(lane);
    if (!to)
        return Error{"there is no lane to put it on", lane, "Drop it on a lane."};
    Moved m{p, {}};
    // The port that what is moved goes before; none: behind everything.
    std::string before; // a bead that stays
    for (std::size_t i = static_cast<std::size_t>(std::max(place, 0)); i < to->beads.size() && before.empty(); ++i)
        if (copy || std::find(beads.begin(), beads.end(), to->beads[i]) == beads.end())
            before = to->beads[i];
    if (before.empty() && to->destination())
        before = to->end;
    std::vector<Block> moving;
    for (const auto& id : beads) {
        const Block* b = m.program.find(id);
        if (!b || engine::inputsOf(p, *b) != 1 || engine::outputsOf(p, *b) != 1)
            return Error{"only blocks of one way in and out lie on lanes", id, ""};
        moving.push_back(*b);
        if (!copy)
            m.program = *removeBlock(m.program, id);
    }
    engine::PortRef behind{to->end, 0};
    if (before.empty()) // the last bead that is still there
        for (const auto& id : to->beads)
            behind = m.program.find(id) ? engine::PortRef{id, 0} : behind;
    if (before.empty() && !m.program.find(behind.block))
        return Error{"nothing of this lane would be left", lane, "Drop it on another lane."};
    for (Block b : moving) {
        const bool stays = layout.laneOf(b.id) == to && !copy;
        if (!stays)
            b.id = engine::freshId(m.program, to->end.substr(0, to->end.find('.')) + "." + b.kind);
        m.program.blocks.push_back(b);
        const engine::PortRef own{b.id, 0};
        if (before.empty()) {
            m.program.connections.changeIf([&](const auto& t) { return t.from == behind; },
                                           [&](auto& t) { t.from = own; });
            m.program.connections.push_back({behind, own});
            behind = own;
        } else {
            m.program.connections.changeIf(
                [&](const auto& t) {
                    return t.to == engine::PortRef{before, 0};
                },
                [&](auto& t) { t.to = own; });
            m.program.connections.push_back({own, {before, 0}});
        }
        m.beads.push_back(b.id);
    }
    if (auto order = engine::runningOrder(m.program); !order)
        return order.error();
    return m;
}

std::string copyChain(const Layout& layout, const Program& p, const std::string& lane) {
    const auto* l = layout.laneOf(lane);
    if (!l || l->beads.empty())
        return "";
    Program chain;
    for (const auto& id : l->beads)
        chain.blocks.push_back(*p.find(id));
    return nlohmann::json{{mark, 1}, {"program", toJson(chain)}}.dump(1);
}

Result<std::vector<Block>> readChain(const std::string& text) {
    const Error notOurs{"what was copied is no chain of blocks", "", "Choose a lane and copy it with Ctrl+C first."};
    if (text.empty() || text[0] != '{')
        return notOurs;
    auto json = parseJson(text, "clipboard");
    if (!json || !json->is_object() || !json->contains(mark) || !json->contains("program"))
        return notOurs;
    if ((*json)[mark] != 1)
        return Error{"this chain was copied in a later version", "", "Copy it again, in this one."};
    auto program = fromJson<engine::Program>((*json)["program"]);
    if (!program)
        return program.error();
    if (program->blocks.empty() || program->blocks.size() > mostBlocks)
        return notOurs;
    for (const auto& b : program->blocks)
        if (const auto* kind = engine::findKind(b.kind); !kind || !fitsLane(*kind))
            return Error{"there is no block \"" + b.kind + "\" for lanes here", "", "Copy a lane without it."};
    return std::vector<Block>(program->blocks.begin(), program->blocks.end());
}

Result<Program> pasteChain(const Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                           const std::vector<Block>& chain) {
    Program n = p;
    bool any = false;
    for (const auto& lane : lanes) {
        const auto* l = layout.laneOf(lane);
        if (!l)
            continue;
        any = true;
        for (const auto& id : l->beads) {
            auto less = removeBlock(n, id);
            if (!less)
                return less;
            n = std::move(*less);
        }
        engine::PortRef at{l->end, 0};
        for (const auto& b : chain) {
            // On a source's lane behind the one before; on a destination's each comes right before its end.
            auto made = insertBlock(n, b.kind, l->source() ? at : engine::PortRef{l->end, 0}, l->end);
            if (!made)
                return made.error();
            n = std::move(made->program);
            Block& now = *n.find(made->block);
            now.label = b.label;
            now.shape = b.shape;
            now.values = b.values;
            now.texts = b.texts;
            now.extra = b.extra;
            copyRemarks(b, now);
            at = {made->block, 0};
        }
    }
    if (!any)
        return Error{"no lane is chosen to paste on", "", "Choose one or several."};
    return n;
}

Result<Program> pasteSettings(const Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                              const std::vector<Block>& chain) {
    Program n = p;
    bool any = false;
    for (const auto& lane : lanes) {
        const auto* l = layout.laneOf(lane);
        std::map<std::string, std::size_t> used; // of each kind in the chain
        for (std::size_t i = 0; l && i < l->beads.size(); ++i) {
            Block& b = *n.find(l->beads[i]);
            std::size_t skip = used[b.kind];
            const auto from = std::find_if(chain.begin(), chain.end(),
                                           [&](const Block& c) { return c.kind == b.kind && skip-- == 0; });
            if (from == chain.end())
                continue;
            ++used[b.kind];
            b.values = from->values;
            any = true;
            if (b.shape != from->shape) { // values of bands that are not there stay behind
                const engine::BlockView view(b);
                std::erase_if(b.values, [&](const auto& v) { return view.table->indexOf(v.first) < 0; });
            }
        }
    }
    if (!any)
        return Error{"no block on the chosen lanes is of a kind that was copied", "", "Ctrl+V pastes the whole chain."};
    return n;
}

} // namespace loom::project
