// Settings with paths: "out1.hpf.freq: 38.0 Hz".
#include "loudspeaker/sheet/reader.h"
#include <algorithm>

namespace loom::loudspeaker::sheet {

bool Reader::pathLine(const Letters& l, std::size_t& ends) {
    std::size_t dots = 0, i = 0;
    for (; i < l.size(); ++i) {
        const char c = l[i].c;
        if (c == '.' && i > 0 && i + 1 < l.size() && l[i + 1].c != ' ' && l[i - 1].c != '.')
            ++dots;
        else if (c == ':' || c == '=')
            break;
        else if (c == ' ') {
            std::size_t k = i;
            while (k < l.size() && l[k].c == ' ')
                ++k;
            if (k >= l.size() || (l[k].c != ':' && l[k].c != '='))
                return false;
        } else if (!((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_' || c == '-'))
            return false;
    }
    ends = i;
    return dots >= 1 && i < l.size() && l[0].c >= 'a';
}

// Lines that begin with the same path but for its last part are one fact.
bool Reader::paths() {
    Row& row = rows_[at_];
    std::size_t ends = 0;
    if (row.cells.empty() || !pathLine(row.cells[0].letters, ends))
        return false;
    struct Line {
        std::string group, key;
        Letters attribute, value, keyLetters;
    };
    const auto parsed = [&](Row& r, Line& out) {
        std::size_t colon = 0;
        if (r.merged || r.cells.empty() || !pathLine(r.cells[0].letters, colon))
            return false;
        Letters l;
        for (auto& c : r.cells) {
            if (!l.empty())
                for (const auto& b : blanks(l, 1))
                    l.push_back(b);
            l.insert(l.end(), c.letters.begin(), c.letters.end());
        }
        std::vector<Letters> parts(1);
        for (std::size_t i = 0; i < colon; ++i)
            if (l[i].c == '.')
                parts.emplace_back();
            else if (l[i].c != ' ')
                parts.back().push_back(l[i]);
        const auto text = [](const Letters& p) {
            std::string t;
            for (const auto& one : p)
                t += one.c;
            return t;
        };
        out.group = text(parts[0]);
        out.attribute = parts.back();
        for (std::size_t p = 1; p + 1 < parts.size(); ++p) {
            out.key += text(parts[p]) + ".";
            out.keyLetters.insert(out.keyLetters.end(), parts[p].begin(), parts[p].end());
            for (const auto& b : blanks(out.keyLetters, 1))
                out.keyLetters.push_back(b);
        }
        out.value.assign(l.begin() + static_cast<std::ptrdiff_t>(colon) + 1, l.end());
        return true;
    };
    Line first;
    if (!parsed(row, first))
        return false;
    for (auto& c : row.cells)
        use(c.items);
    // Whom the group is: "out1", or its name.
    if (groupWays_.find(first.group) == groupWays_.end()) {
        WayRef way{};
        const auto items = lexer_->itemsOf(lettersOf(first.group, row.line));
        for (auto* i : items)
            i->used = true;
        std::size_t k = 0;
        if (!items.empty()) {
            if (const auto w = wayOf(*items[0]))
                way = *w;
            else if (const auto n = numberedWay(items, k))
                way = *n;
        }
        groupWays_[first.group] = way;
    }
    const auto attributeItems = lexer_->itemsOf(first.attribute);
    for (auto* i : attributeItems)
        i->used = true;
    if (first.key.empty() && !attributeItems.empty() &&
        (attributeItems[0]->has(Means::name) || attributeItems[0]->text == "name" ||
         attributeItems[0]->text == "label")) {
        const auto items = lexer_->itemsOf(first.value);
        if (const auto w = wayCell(items)) {
            groupWays_[first.group] = *w;
            for (auto* i : items)
                i->used = true;
            ++at_;
            return true;
        }
    }
    Run run;
    const auto take = [&](const Line& one) {
        auto attribute = lexer_->itemsOf(one.attribute);
        for (auto* i : attribute)
            i->used = true;
        auto value = lexer_->itemsOf(one.value);
        const bool has = !attribute.empty();
        if (has && attribute[0]->has(Means::frequency))
            give(value, Unit::hz);
        if (has && attribute[0]->has(Means::slope))
            give(value, Unit::slope);
        if (has && attribute[0]->has(Means::level))
            give(value, Unit::db);
        if (has && attribute[0]->has(Means::width) && attribute[0]->text == "q")
            give(value, Unit::quality);
        for (auto* i : value) {
            if (i->is == Item::Is::word && i->text == "true")
                i->used = true;
            else
                run.push_back(i);
        }
    };
    std::optional<Means> key;
    if (first.key.empty()) { // "out1.gain: -1.5 dB"
        auto attribute = lexer_->itemsOf(first.attribute);
        Unit unit = Unit::none;
        key = labelOf(attribute, unit);
        for (auto* i : lexer_->itemsOf(first.value))
            run.push_back(i);
        ++at_;
    } else {
        auto keyItems = lexer_->itemsOf(first.keyLetters);
        Unit unit = Unit::none;
        key = labelOf(keyItems, unit);
        std::vector<Line> lines{first};
        std::size_t n = at_ + 1;
        for (; n < rows_.size(); ++n) {
            Line next;
            if (!parsed(rows_[n], next) || next.group != first.group || next.key != first.key)
                break;
            for (auto& c : rows_[n].cells)
                use(c.items);
            lines.push_back(next);
        }
        // In the order in which a fact is said: frequency, gain, then the rest.
        const auto rank = [&](const Line& l) {
            const auto items = lexer_->itemsOf(l.attribute);
            for (auto* i : items)
                i->used = true;
            return items.empty() ? 2 : items[0]->has(Means::frequency) ? 0 : items[0]->has(Means::level) ? 1 : 2;
        };
        std::stable_sort(lines.begin(), lines.end(), [&](const Line& a, const Line& b) { return rank(a) < rank(b); });
        for (const auto& one : lines)
            take(one);
        at_ = n;
    }
    if (key)
        facts_.read(run, {groupWays_[first.group], key, {}});
    return true;
}

} // namespace loom::loudspeaker::sheet
