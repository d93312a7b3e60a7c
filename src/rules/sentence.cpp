#include "rules/sentence.h"
#include "dsp/number.h"
#include "engine/play_list.h"
#include "model/block_names.h"
#include "rules/rule_time.h"
#include "rules/search_words.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace loom::project {
namespace {

constexpr double longestSpan = 86400; // s
constexpr std::size_t longestNumber = 40;

using Pattern = std::vector<SentencePart>; // without brackets, words joined

std::string squeezed(const std::string& text) { // blanks once, none at the ends
    std::string out;
    for (const char c : text) {
        const bool blank = c == ' ' || c == '\t' || c == '\n' || c == '\r';
        if (!blank)
            out += c;
        else if (!out.empty() && out.back() != ' ')
            out += ' ';
    }
    while (!out.empty() && out.back() == ' ')
        out.pop_back();
    return out;
}

// Every way to say a sentence: with and without what stands in brackets, with the most first.
std::vector<Pattern> waysToSay(const ClauseKind& kind) {
    const auto& parts = sentenceParts(kind);
    int brackets = 0;
    for (const auto& p : parts)
        brackets = std::max(brackets, p.open);
    std::vector<Pattern> all;
    for (unsigned left = 0; left < (1u << brackets); ++left) {
        Pattern one;
        for (const auto& p : parts) {
            if (p.open > 0 && (left >> (p.open - 1)) & 1)
                continue;
            if (!one.empty() && one.back().gap.empty() && p.gap.empty())
                one.back().words += p.words;
            else
                one.push_back({p.words, p.gap});
        }
        all.push_back(std::move(one));
    }
    return all;
}

const std::map<const ClauseKind*, std::vector<Pattern>>& patterns() {
    static const auto all = [] {
        std::map<const ClauseKind*, std::vector<Pattern>> m;
        for (const auto& k : clauseKinds())
            m[&k] = waysToSay(k);
        return m;
    }();
    return all;
}

// A sentence begins with whatever fills its first gap, so words may begin with a blank.
bool startsWith(const std::string& lowText, std::size_t at, const std::string& words) {
    return lowText.compare(at, words.size(), lowered(words)) == 0;
}

bool fits(Gap gap, const Signal& s) {
    const bool twofold =
        s.spec.unit == engine::Unit::onOff || (s.spec.unit == engine::Unit::choice && s.spec.choices.size() == 2);
    switch (gap) {
    case Gap::signal:
        return !s.pulse;
    case Gap::level:
        return s.isNumber();
    case Gap::target:
        return s.settable && !s.pulse;
    case Gap::amount:
        return s.settable && s.isNumber();
    case Gap::toggled:
        return s.settable && twofold;
    case Gap::line:
        return isLine(s);
    default:
        return false;
    }
}

bool isSignalGap(Gap g) {
    return g == Gap::signal || g == Gap::level || g == Gap::target || g == Gap::amount || g == Gap::toggled ||
           g == Gap::line;
}

Error notThere(const std::string& what, const std::string& typed, std::string remedy) {
    return {"there is no " + what + " \"" + typed.substr(0, 60) + "\"", "", std::move(remedy)};
}

// One of some things by id, by name, or by words that only one of them has.
Result<std::string> chosenOf(const std::vector<GapChoice>& all, const std::string& typed, const std::string& what) {
    const auto low = lowered(typed);
    for (const auto& c : all)
        if (c.value == typed)
            return c.value;
    std::vector<const GapChoice*> named, having;
    const auto words = searchWords(typed);
    for (const auto& c : all) {
        if (lowered(c.text) == low)
            named.push_back(&c);
        if (!words.empty() && hasWords(c.text + " " + c.value + " " + c.help, words))
            having.push_back(&c);
    }
    const auto& found = named.empty() ? having : named;
    if (found.size() == 1)
        return found[0]->value;
    if (found.empty()) {
        std::string some;
        for (std::size_t i = 0; i < all.size() && i < 4; ++i)
            some += (i ? ", " : "") + all[i].text;
        return notThere(what, typed, some.empty() ? "There is none yet." : "As in " + some + ".");
    }
    return Error{"\"" + typed.substr(0, 60) + "\" could be " + found[0]->text + " or " + found[1]->text, "",
                 "Say which."};
}

template <class List> std::vector<GapChoice> namedOnes(const List& list, const char* help = "") {
    std::vector<GapChoice> all;
    for (const auto& one : list)
        all.push_back({one.id, one.name.empty() ? one.id : one.name, help});
    return all;
}

// All that could fill a gap where that is a short list.
std::vector<GapChoice> listFor(const Project& p, const Clause& c, Gap gap) {
    std::vector<GapChoice> all;
    const auto* surface = p.surface(c["surface"]);
    switch (gap) {
    case Gap::scene:
        return namedOnes(p.scenes);
    case Gap::script:
        return namedOnes(p.scripts);
    case Gap::rule:
        return namedOnes(p.rules);
    case Gap::surface:
        return namedOnes(p.surfaces);
    case Gap::page:
        return surface ? namedOnes(surface->pages) : all;
    case Gap::ply:
        if (surface)
            for (const auto& page : surface->pages)
                for (const auto& ply : page.plies)
                    all.push_back({page.id + "/" + ply.id, page.name + " \u00b7 " + ply.name, ""});
        return all;
    case Gap::cue:
        for (const auto& cue : cuesOf(p))
            all.push_back({cuePrefix + cue, cue, ""});
        return all;
    case Gap::player:
        return playersOf(p);
    case Gap::file:
        for (const auto& f : filesOf(p, c["player"]))
            all.push_back({f, f, ""});
        return all;
    case Gap::side:
        return {{"before", "before", ""}, {"after", "after", ""}};
    case Gap::sun:
        return {{"sunrise", "sunrise", ""}, {"sunset", "sunset", ""}};
    default:
        return all;
    }
}

const char* whatItIs(Gap gap) {
    switch (gap) {
    case Gap::scene:
        return "scene";
    case Gap::script:
        return "script";
    case Gap::rule:
        return "rule";
    case Gap::surface:
        return "touch surface";
    case Gap::page:
        return "page of this surface";
    case Gap::ply:
        return "ply of this surface";
    case Gap::player:
        return "player";
    case Gap::file:
        return "file on this player";
    default:
        return "word here called";
    }
}

Result<std::string> readSignalGap(const Project& p, Gap gap, const std::string& typed) {
    return signalSaid(p, typed, [gap](const Signal& s) { return fits(gap, s); });
}

Result<std::string> readMinutes(const std::string& typed) {
    auto text = lowered(typed);
    const auto n = typedNumber(text);
    auto unit = n.length ? squeezed(text.substr(n.length)) : "";
    const double factor = unit.empty() || unit == "min" || unit == "minutes" || unit == "minute" ? 1
                          : unit == "h" || unit == "hours" || unit == "hour"                     ? 60
                          : unit == "s"                                                          ? 1 / 60.0
                                                                                                 : 0;
    if (n.length == 0 || n.unsure || factor == 0 || !(n.value * factor > 0 && n.value * factor <= 1440))
        return Error{"\"" + typed.substr(0, 40) + "\" is no span of minutes", "", "As in 15 min, at most 24 h."};
    return plainText(n.value * factor);
}

// What fills a gap, as files have it.
Result<std::string> readGap(const Project& p, const ClauseKind&, const Clause& c, const GapSpec& gap,
                            const std::string& said) {
    const auto typed = squeezed(said);
    if (typed.empty())
        return Error{"nothing is said there", gap.id, ""};
    if (isSignalGap(gap.gap))
        return readSignalGap(p, gap.gap, typed);
    switch (gap.gap) {
    case Gap::state: {
        const auto s = signalOfGap(p, c, gap);
        if (!s)
            return Error{"it is not known what \"" + typed.substr(0, 40) + "\" is a value of", "", ""};
        const auto v = readSignalValue(*s, typed);
        return v ? Result<std::string>(plainValue(*s, *v)) : v.error();
    }
    case Gap::change: {
        const auto s = signalOfGap(p, c, gap);
        if (!s)
            return Error{"it is not known what \"" + typed.substr(0, 40) + "\" is a change of", "", ""};
        auto spec = s->spec; // as wide as its range, either way
        const double width = spec.max - spec.min;
        spec.min = -width, spec.max = width, spec.minIsOff = false, spec.taper = engine::Taper::linear;
        const auto v = engine::parseValue(spec, typed);
        return v ? Result<std::string>(plainText(*v)) : v.error();
    }
    case Gap::cue: {
        const auto name = behind(typed, cuePrefix).value_or(typed);
        if (name.size() > 60 || name.empty())
            return Error{"a cue's name has at most 60 letters", typed.substr(0, 40), ""};
        return cuePrefix + name;
    }
    case Gap::seconds: {
        const auto v = readSeconds(typed);
        return v ? Result<std::string>(plainText(*v)) : v.error();
    }
    case Gap::minutes:
        return readMinutes(typed);
    case Gap::time: {
        const auto t = readTimeOfDay(typed);
        return t ? Result<std::string>(timeOfDayText(*t)) : t.error();
    }
    case Gap::days: {
        const auto d = readDays(typed);
        return d ? Result<std::string>(daysText(*d)) : d.error();
    }
    case Gap::dates: {
        const auto d = DateList::read(typed);
        return d ? Result<std::string>(typed) : d.error();
    }
    case Gap::text:
        return typed;
    case Gap::number:
        if (typed.size() > longestNumber || typed.find_first_not_of("0123456789*#+ ") != std::string::npos)
            return Error{"\"" + typed.substr(0, 40) + "\" is no telephone number", "", "Type digits, * and #."};
        return typed;
    default:
        return chosenOf(listFor(p, c, gap.gap), typed, whatItIs(gap.gap));
    }
}

// ---- reading ----

class Reader {
  public:
    Reader(const Project& p, Part part, const std::string& text)
        : p_(p), part_(part), text_(squeezed(text)), low_(lowered(text_)) {}
    Result<Clause> run() {
        if (text_.empty())
            return Error{"nothing was typed", "", "Type a sentence, such as: " + example() + "."};
        if (text_.size() > longestSentence)
            return Error{"the sentence is longer than 500 bytes", "", "Say it in several."};
        for (const auto& k : clauseKinds()) {
            if (k.part != part_)
                continue;
            for (const auto& way : patterns().at(&k)) {
                Clause c;
                c.kind = k.id;
                if (match(k, way, 0, 0, c))
                    return c;
            }
        }
        if (furthest_ == 0)
            return Error{"\"" + text_.substr(0, 60) + "\" is no sentence here", "", "As in: " + example() + "."};
        return error_;
    }

  private:
    std::string example() const {
        return part_ == Part::trigger     ? "it is 17:45 on weekdays"
               : part_ == Part::condition ? "it is between 8:00 and 18:00"
                                          : "wait 2 s";
    }
    // What is wrong where most could be read is what is told.
    void failed(std::size_t known, const Error& e) {
        if (known <= furthest_)
            return;
        furthest_ = known;
        error_ = e;
    }
    bool match(const ClauseKind& k, const Pattern& way, std::size_t i, std::size_t at, Clause& c,
               std::size_t known = 0) {
        if (i == way.size())
            return at == text_.size() && fill(k, c, known);
        const auto& part = way[i];
        if (part.gap.empty()) {
            auto words = part.words;
            if (at == 0 && words[0] == ' ') // it begins with a gap that is left out
                words.erase(0, 1);
            while (i + 1 == way.size() && words.back() == ' ')
                words.pop_back();
            return startsWith(low_, at, words) && match(k, way, i + 1, at + words.size(), c, known + words.size());
        }
        if (i + 1 == way.size()) {
            if (at >= text_.size())
                return false;
            c.gaps[part.gap] = text_.substr(at);
            const bool good = fill(k, c, known);
            c.gaps.erase(part.gap);
            if (good)
                c = filled_;
            return good;
        }
        const auto next = lowered(way[i + 1].words);
        for (auto end = low_.find(next, at + 1); end != std::string::npos; end = low_.find(next, end + 1)) {
            c.gaps[part.gap] = text_.substr(at, end - at);
            if (match(k, way, i + 1, end, c, known))
                return true;
        }
        c.gaps.erase(part.gap);
        return false;
    }
    // Reads what stands in the gaps; those that others depend on first.
    bool fill(const ClauseKind& k, Clause& typed, std::size_t known) {
        Clause c;
        c.kind = k.id;
        for (const bool dependent : {false, true})
            for (const auto& g : k.gaps) {
                const auto it = typed.gaps.find(g.id);
                const bool depends = g.gap == Gap::state || g.gap == Gap::change || g.gap == Gap::file ||
                                     g.gap == Gap::page || g.gap == Gap::ply;
                if (it == typed.gaps.end() || depends != dependent)
                    continue;
                const auto read = cached(k, c, g, it->second);
                if (!read) {
                    failed(known + 1, {read.error().message, "", read.error().remedy});
                    return false;
                }
                c.gaps[g.id] = *read;
            }
        typed = filled_ = c;
        return true;
    }
    const Result<std::string>& cached(const ClauseKind& k, const Clause& c, const GapSpec& g,
                                      const std::string& typed) {
        std::string key = std::to_string(static_cast<int>(g.gap)) + "\n" + typed;
        for (const auto& [id, text] : c.gaps)
            key += "\n" + text;
        auto it = read_.find(key);
        if (it == read_.end())
            it = read_.emplace(key, readGap(p_, k, c, g, typed)).first;
        return it->second;
    }
    const Project& p_;
    Part part_;
    std::string text_, low_;
    std::size_t furthest_ = 0;
    Error error_{};
    Clause filled_{};
    std::map<std::string, Result<std::string>> read_{};
};

// What a gap shows; none: what fills it is not there.
std::optional<std::string> gapText(const Project& p, const Clause& c, const GapSpec& g) {
    const auto& v = c[g.id];
    if (isSignalGap(g.gap)) {
        const auto s = signalOf(p, v);
        return s && fits(g.gap, *s) ? std::optional(s->label) : std::nullopt;
    }
    switch (g.gap) {
    case Gap::state: {
        const auto s = signalOfGap(p, c, g);
        const auto read = s ? readSignalValue(*s, v) : Result<double>(Error{});
        return read ? std::optional(valueText(*s, *read)) : std::nullopt;
    }
    case Gap::change: {
        const auto s = signalOfGap(p, c, g);
        const auto n = wholeNumber(v);
        if (!s || !n)
            return {};
        auto spec = s->spec;
        spec.minIsOff = false;
        return (*n > 0 ? "+" : "") + engine::formatValue(spec, *n);
    }
    case Gap::cue:
        return behind(v, cuePrefix);
    case Gap::seconds: {
        const auto n = wholeNumber(v);
        return n && *n >= 0 ? std::optional(secondsText(*n)) : std::nullopt;
    }
    case Gap::minutes: {
        const auto n = wholeNumber(v);
        return n && *n > 0 ? std::optional(plainText(*n) + " min") : std::nullopt;
    }
    case Gap::time: {
        const auto t = readTimeOfDay(v);
        return t ? std::optional(timeOfDayText(*t)) : std::nullopt;
    }
    case Gap::days: {
        const auto d = readDays(v);
        return d && !v.empty() ? std::optional(daysText(*d)) : std::nullopt;
    }
    case Gap::dates:
        return DateList::read(v) && !v.empty() ? std::optional(v) : std::nullopt;
    case Gap::text:
    case Gap::number:
        return v.empty() ? std::nullopt : std::optional(v);
    default:
        for (const auto& one : listFor(p, c, g.gap))
            if (one.value == v)
                return one.text;
        return {};
    }
}

} // namespace

Result<double> readSeconds(const std::string& typed) {
    auto text = lowered(typed);
    const auto n = typedNumber(text);
    const auto unit = n.length ? squeezed(text.substr(n.length)) : "";
    const double factor = unit.empty() || unit == "s" || unit == "seconds" || unit == "second" ? 1
                          : unit == "ms"                                                       ? 0.001
                          : unit == "min" || unit == "minutes" || unit == "minute"             ? 60
                          : unit == "h" || unit == "hours" || unit == "hour"                   ? 3600
                                                                                               : 0;
    if (n.length == 0 || n.unsure || factor == 0 || !(n.value >= 0 && n.value * factor <= longestSpan))
        return Error{"\"" + typed.substr(0, 40) + "\" is no span of time", "",
                     "As in 0.8 s, 500 ms or 5 min, at most 24 h."};
    return std::round(n.value * factor * 1000) / 1000; // rules count milliseconds
}

std::string secondsText(double s) {
    if (s >= 60 && std::fmod(s, 60) == 0)
        return plainText(s / 60) + " min";
    return plainText(s) + " s";
}

std::vector<GapChoice> playersOf(const Project& p) {
    std::vector<GapChoice> all;
    for (const auto& d : p.devices)
        if (d.program)
            for (const auto& b : d.program->blocks)
                if (b.kind == "player")
                    all.push_back({d.id + "/" + b.id, d.name + " \u00b7 " + blockName(*d.program, b), ""});
    return all;
}

std::vector<std::string> filesOf(const Project& p, const std::string& player) {
    const auto slash = player.find('/');
    const auto* d = p.device(player.substr(0, slash));
    const auto* b =
        d && d->program && slash != std::string::npos ? d->program->find(player.substr(slash + 1)) : nullptr;
    return b ? engine::playList(b->texts) : std::vector<std::string>{};
}

std::optional<Signal> signalOfGap(const Project& p, const Clause& c, const GapSpec& g) {
    return signalOf(p, g.id == "level" ? c["player"] + ".level" : c["signal"]);
}

std::vector<SentencePiece> sentenceOf(const Project& p, Part part, const Clause& c) {
    const auto* kind = findClauseKind(part, c.kind);
    if (!kind)
        return {{"\"" + c.kind.substr(0, 40) + "\" is not known here", "kind", true}};
    std::vector<SentencePiece> all;
    const auto words = [&](const std::string& text) {
        if (!all.empty() && all.back().gap.empty())
            all.back().text += text;
        else
            all.push_back({text, ""});
    };
    const auto& parts = sentenceParts(*kind);
    for (std::size_t i = 0; i < parts.size(); ++i) {
        // Brackets are shown where something in them is filled.
        if (parts[i].open > 0 && std::none_of(parts.begin(), parts.end(), [&](const auto& one) {
                return one.open == parts[i].open && !one.gap.empty() && !c[one.gap].empty();
            }))
            continue;
        if (parts[i].gap.empty()) {
            words(all.empty() && parts[i].words[0] == ' ' ? parts[i].words.substr(1) : parts[i].words);
            continue;
        }
        const auto* gap = kind->gap(parts[i].gap);
        const auto text = gapText(p, c, *gap);
        const auto& raw = c[gap->id];
        all.push_back({text ? *text : raw.empty() ? std::string("\u2026") : raw, gap->id, !text});
    }
    return all;
}

std::string sentenceText(const Project& p, Part part, const Clause& c) {
    std::string all;
    for (const auto& piece : sentenceOf(p, part, c))
        all += piece.text;
    return squeezed(all);
}

Result<Clause> readClause(const Project& p, Part part, const std::string& text) {
    return Reader(p, part, text).run();
}

std::vector<GapChoice> gapChoices(const Project& p, const ClauseKind& kind, const Clause& c, const std::string& id,
                                  const std::string& typed, std::size_t most) {
    const auto* gap = kind.gap(id);
    std::vector<GapChoice> all;
    if (!gap)
        return all;
    if (isSignalGap(gap->gap)) {
        for (const auto& s : findSignals(p, typed, most * 20))
            if (fits(gap->gap, s) && all.size() < most)
                all.push_back(
                    {s.path, s.label,
                     s.isNumber() ? valueText(s, s.spec.min) + " \u2026 " + valueText(s, s.spec.max) : s.group});
        return all;
    }
    if (gap->gap == Gap::state || gap->gap == Gap::change) {
        const auto s = signalOfGap(p, c, *gap);
        if (s && gap->gap == Gap::state) {
            if (s->spec.unit == engine::Unit::onOff)
                all = {{"on", "on", ""}, {"off", "off", ""}};
            for (const auto& one : s->spec.choices)
                all.push_back({one, one, ""});
            if (all.empty())
                for (const double v : {s->spec.def, s->spec.min, s->spec.max})
                    if (std::none_of(all.begin(), all.end(),
                                     [&](const auto& one) { return one.value == plainValue(*s, v); }))
                        all.push_back({plainValue(*s, v), valueText(*s, v), ""});
        }
    } else if (gap->gap == Gap::seconds) {
        all = {{"0.5", "0.5 s", ""}, {"2", "2 s", ""}, {"10", "10 s", ""}, {"60", "1 min", ""}};
    } else if (gap->gap == Gap::minutes) {
        all = {{"5", "5 min", ""}, {"15", "15 min", ""}, {"60", "60 min", ""}};
    } else if (gap->gap == Gap::days) {
        all = {{"every day", "every day", ""}, {"weekdays", "weekdays", ""}, {"weekends", "weekends", ""}};
    } else if (gap->gap == Gap::time) {
        all = {{"08:00", "08:00", ""}, {"17:45", "17:45", ""}, {"23:30", "23:30", ""}};
    } else {
        all = listFor(p, c, gap->gap);
    }
    const auto words = searchWords(typed);
    erase_if(all, [&](const auto& one) { return !hasWords(one.text + " " + one.value, words); });
    if (all.size() > most)
        all.resize(most);
    return all;
}

Result<Clause> withGap(const Project& p, Part part, const Clause& clause, const std::string& id,
                       const std::string& typed) {
    const auto* kind = findClauseKind(part, clause.kind);
    const auto* gap = kind ? kind->gap(id) : nullptr;
    if (!gap)
        return Error{"this sentence has no such gap", id.substr(0, 40), ""};
    Clause c = clause;
    if (squeezed(typed).empty()) {
        if (kind->needs(id))
            return Error{"the sentence needs something there", id, ""};
        // What stands in one pair of brackets goes together.
        const auto& parts = sentenceParts(*kind);
        const auto here = std::find_if(parts.begin(), parts.end(), [&](const auto& one) { return one.gap == id; });
        for (const auto& one : parts)
            if (!one.gap.empty() && one.open == here->open)
                c.gaps.erase(one.gap);
        return c;
    }
    const auto read = readGap(p, *kind, c, *gap, typed);
    if (!read)
        return read.error();
    c.gaps[id] = *read;
    for (const auto& g : kind->gaps) // what depended on it and does not fit any more is open again
        if (g.id != id &&
            (g.gap == Gap::state || g.gap == Gap::change || g.gap == Gap::file || g.gap == Gap::page ||
             g.gap == Gap::ply) &&
            !c[g.id].empty() && !gapText(p, c, g))
            c.gaps.erase(g.id);
    return c;
}

std::vector<Completion> completionsOf(const Project& p, Part part, const std::string& said, std::size_t most) {
    const auto first = said.find_first_not_of(' ');
    const auto text = first == std::string::npos ? std::string() : said.substr(first);
    const auto low = lowered(text);
    std::vector<Completion> all;
    const auto add = [&](Completion one) {
        if (all.size() < most && one.line != text &&
            std::none_of(all.begin(), all.end(), [&](const auto& a) { return a.line == one.line; }))
            all.push_back(std::move(one));
    };
    if (text.size() > longestSentence)
        return all;
    for (const auto& k : clauseKinds()) {
        if (k.part != part)
            continue;
        for (const auto& way : patterns().at(&k)) {
            std::size_t at = 0;
            Clause c;
            c.kind = k.id;
            for (std::size_t i = 0; i < way.size(); ++i) {
                const bool last = i + 1 == way.size();
                if (way[i].gap.empty()) {
                    auto words = way[i].words;
                    if (at == 0 && words[0] == ' ')
                        words.erase(0, 1);
                    while (last && words.back() == ' ')
                        words.pop_back();
                    const auto rest = low.substr(at);
                    if (rest.size() < words.size()) {
                        if (lowered(words).compare(0, rest.size(), rest) == 0)
                            add({text.substr(0, at) + words, text.substr(0, at) + words + (last ? "" : "\u2026"),
                                 k.help, last});
                        break;
                    }
                    if (!startsWith(low, at, words))
                        break;
                    at += words.size();
                    continue;
                }
                const auto* gap = k.gap(way[i].gap);
                const auto next = last ? std::string::npos : low.find(lowered(way[i + 1].words), at + 1);
                if (next != std::string::npos) {
                    const auto read = readGap(p, k, c, *gap, text.substr(at, next - at));
                    if (!read)
                        break;
                    c.gaps[gap->id] = *read;
                    at = next;
                    continue;
                }
                auto typed = text.substr(std::min(at, text.size()));
                // The words that follow may have begun already.
                if (!last)
                    for (auto n = std::min(typed.size(), way[i + 1].words.size() - 1); n > 1; --n)
                        if (lowered(typed.substr(typed.size() - n)) == lowered(way[i + 1].words.substr(0, n))) {
                            const auto before = typed.substr(0, typed.size() - n);
                            if (!before.empty() && readGap(p, k, c, *gap, before))
                                add({text.substr(0, at) + before + way[i + 1].words,
                                     text.substr(0, at) + before + way[i + 1].words + "\u2026", k.help});
                            break;
                        }
                for (const auto& choice : gapChoices(p, k, c, gap->id, typed, 12))
                    add({text.substr(0, at) + choice.text + (last ? "" : way[i + 1].words),
                         text.substr(0, at) + choice.text + (last ? "" : way[i + 1].words + "\u2026"),
                         choice.help.empty() ? k.help : choice.help, last});
                break;
            }
        }
    }
    return all;
}

} // namespace loom::project
