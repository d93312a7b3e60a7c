#include "model/notes.h"
#include "engine/block_kind.h"
#include "model/block_names.h"
#include <set>

namespace loom::project {
namespace {

constexpr const char* noteKey = "note";
constexpr const char* protectKey = "protect";

std::string keyOf(const char* key, const std::string& param) {
    return param.empty() ? key : std::string(key) + " " + param;
}

std::string markAt(const engine::Block& block, const std::string& key) {
    const auto it = block.marks.find(key);
    return it == block.marks.end() ? "" : it->second;
}

Result<engine::Program> withRemark(const engine::Program& p, const std::string& block, const std::string& key,
                                   const std::string& text) {
    if (text.size() > longestRemark)
        return Error{"the text is longer than " + std::to_string(longestRemark) + " bytes", block, "Shorten it."};
    engine::Program next = p;
    auto* b = next.find(block);
    if (!b)
        return Error{"there is no such block", block, ""};
    if (text.empty())
        b->marks.erase(key);
    else
        b->marks[key] = text;
    return next;
}

// Parameters whose values differ, by name; an unset one has its default.
std::set<std::string> differing(const engine::Block& a, const engine::Block& b) {
    std::set<std::string> all;
    for (const auto* one : {&a, &b})
        for (const auto& [param, value] : one->values) {
            const auto there = (one == &a ? b : a).values.find(param);
            if (there == (one == &a ? b : a).values.end() || there->second != value)
                all.insert(param);
        }
    return all;
}

std::string labelOf(const engine::Block& b, const std::string& param) {
    const auto* kind = engine::findKind(b.kind);
    if (!kind)
        return param;
    const auto& table = engine::paramTable(*kind, engine::fullShape(*kind, b));
    const int i = table.indexOf(param);
    return i < 0 ? param : table.specs()[static_cast<std::size_t>(i)].label;
}

void addChanged(const Device& device, const engine::Block& was, const engine::Block* now, std::vector<Guarded>& all) {
    const std::string name = device.name + " \u00b7 " + blockName(*device.program, was);
    const auto add = [&](const std::string& param, const std::string& reason) {
        all.push_back(
            {device.id, was.id, param, param.empty() ? name : name + " \u00b7 " + labelOf(was, param), reason});
    };
    const std::string whole = protectionOf(was);
    const bool other = !now || now->kind != was.kind || now->shape != was.shape || now->texts != was.texts;
    if (!whole.empty() && other)
        return add("", whole);
    const auto changed = now ? differing(was, *now) : std::set<std::string>{};
    for (const auto& [key, reason] : was.marks) {
        if (key.rfind(std::string(protectKey) + " ", 0) != 0)
            continue;
        const std::string param = key.substr(std::string(protectKey).size() + 1);
        if (!now || now->kind != was.kind || changed.count(param))
            add(param, reason);
    }
    if (!whole.empty())
        for (const auto& param : changed)
            if (markAt(was, keyOf(protectKey, param)).empty())
                add(param, whole);
}

bool anyProtection(const engine::Block& b) {
    const auto it = b.marks.lower_bound(protectKey);
    return it != b.marks.end() && it->first.rfind(protectKey, 0) == 0;
}

} // namespace

std::string noteOf(const engine::Block& block, const std::string& param) {
    return markAt(block, keyOf(noteKey, param));
}

std::string protectionOf(const engine::Block& block, const std::string& param) {
    const std::string own = markAt(block, keyOf(protectKey, param));
    return own.empty() && !param.empty() ? markAt(block, protectKey) : own;
}

Result<engine::Program> withNote(const engine::Program& p, const std::string& block, const std::string& param,
                                 const std::string& text) {
    return withRemark(p, block, keyOf(noteKey, param), text);
}

Result<engine::Program> withProtection(const engine::Program& p, const std::string& block, const std::string& param,
                                       const std::string& reason) {
    return withRemark(p, block, keyOf(protectKey, param), reason);
}

void copyRemarks(const engine::Block& from, engine::Block& to) {
    for (const auto& [key, text] : from.marks)
        if (const auto word = key.substr(0, key.find(' ')); word == noteKey || word == protectKey)
            to.marks[key] = text;
}

std::vector<Guarded> guardedChanges(const Project& before, const Project& after) {
    std::vector<Guarded> all;
    if (before.devices.is(after.devices))
        return all;
    for (const auto& d : before.devices) {
        if (!d.program)
            continue;
        const auto* device = after.device(d.id);
        const auto* next = device && device->program ? &*device->program : nullptr;
        const auto& blocks = d.program->blocks;
        blocks.eachApart(next ? next->blocks : List<engine::Block>(), [&](std::size_t i) {
            const auto& b = blocks[i];
            if (!anyProtection(b))
                return;
            const auto* now = next ? next->find(b.id) : nullptr;
            if (!now || !(*now == b))
                addChanged(d, b, now, all);
        });
    }
    return all;
}

Error guardedError(const std::vector<Guarded>& all) {
    const auto& first = all.front();
    std::string more;
    if (all.size() > 1)
        more = " (and " + std::to_string(all.size() - 1) + " more)";
    return {"is protected: " + first.reason + more, first.name, "Nothing was changed."};
}

} // namespace loom::project
