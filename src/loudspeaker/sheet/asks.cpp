#include "loudspeaker/sheet/asks.h"
#include <algorithm>
#include <map>
#include <utility>

namespace loom::loudspeaker {
namespace sheet {

void alsoAsk(SheetField& f, const std::string& topic, const std::string& question,
             const std::vector<SheetChoice>& more) {
    f.question += (f.question.empty() ? "" : " ") + question;
    f.topic += (f.topic.empty() ? "" : ", ") + topic;
    if (f.ask.empty()) {
        f.ask = more;
        return;
    }
    std::vector<SheetChoice> all;
    for (const auto& one : f.ask)
        for (const auto& other : more) {
            auto both = one;
            both.label += ", " + other.label;
            both.kind = other.kind ? other.kind : one.kind;
            both.value = other.value ? other.value : one.value;
            both.q = other.q ? other.q : one.q;
            both.slope = other.slope ? other.slope : one.slope;
            both.shape = other.shape ? other.shape : one.shape;
            both.way = other.way ? other.way : one.way;
            both.leave = one.leave || other.leave;
            all.push_back(std::move(both));
        }
    f.ask = std::move(all);
}

} // namespace sheet

void answer(SheetField& f, std::size_t choice) {
    if (choice >= f.ask.size())
        return;
    const auto chosen = f.ask[choice];
    f.kind = chosen.kind.value_or(f.kind);
    f.value = chosen.value.value_or(f.value);
    f.q = chosen.q.value_or(f.q);
    f.slope = chosen.slope.value_or(f.slope);
    f.shaped = f.shaped || chosen.shape;
    f.shape = chosen.shape.value_or(f.shape);
    f.way = chosen.way.value_or(f.way);
    f.left = chosen.leave;
    f.ask.clear();
    f.question.clear();
    f.topic.clear();
}

std::vector<SheetQuestion> questionsOf(const Sheet& sheet) {
    std::vector<SheetQuestion> all;
    std::map<std::pair<std::string, std::size_t>, std::size_t> known; // topic, number of choices
    for (std::size_t i = 0; i < sheet.fields.size(); ++i) {
        const auto& f = sheet.fields[i];
        if (f.sure())
            continue;
        const auto [it, fresh] = known.try_emplace({f.topic, f.ask.size()}, all.size());
        if (fresh) {
            SheetQuestion q{f.question, {}, {}};
            for (const auto& c : f.ask)
                q.choices.push_back(c.label);
            all.push_back(std::move(q));
        }
        all[it->second].fields.push_back(i);
    }
    return all;
}

void answer(Sheet& sheet, const SheetQuestion& question, std::size_t choice) {
    for (const auto i : question.fields)
        if (i < sheet.fields.size())
            answer(sheet.fields[i], choice);
    std::erase_if(sheet.fields, [](const SheetField& f) { return f.left; });
    std::vector<int> number(sheet.ways.size() + 1, 0);
    for (const auto& f : sheet.fields)
        if (f.way > 0 && f.way < static_cast<int>(number.size()))
            number[static_cast<std::size_t>(f.way)] = 1;
    if (std::none_of(sheet.fields.begin(), sheet.fields.end(), [](const SheetField& f) { return f.way > 0; }) ||
        std::find(number.begin() + 1, number.end(), 0) == number.end())
        return;
    std::vector<std::string> ways;
    for (std::size_t w = 1; w < number.size(); ++w)
        if (number[w]) {
            ways.push_back(sheet.ways[w - 1]);
            number[w] = static_cast<int>(ways.size());
        }
    sheet.ways = ways;
    for (auto& f : sheet.fields)
        if (f.way > 0 && f.way < static_cast<int>(number.size()))
            f.way = number[static_cast<std::size_t>(f.way)];
    for (auto& l : sheet.limits)
        l.way = l.way > 0 && l.way < static_cast<int>(number.size()) ? number[static_cast<std::size_t>(l.way)] : 0;
}

double certaintyOf(const SheetField& f) {
    const bool edge = f.kind == SheetKind::highPass || f.kind == SheetKind::lowPass;
    const bool words = f.kind == SheetKind::name || f.kind == SheetKind::maker || f.kind == SheetKind::driver ||
                       f.kind == SheetKind::polarity;
    double c = 0.7;
    c += f.unitSaid || words ? 0.2 : 0;
    c += !edge || f.shaped ? 0.1 : 0;
    return f.sure() ? c : std::max(0.2, 0.6 / static_cast<double>(f.ask.size()));
}

} // namespace loom::loudspeaker
