#include "program/phrase.h"
#include "dsp/number.h"
#include "dsp/words.h"
#include "engine/block_kind.h"
#include "engine/schedule.h"
#include "program/lane_edit.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>

namespace loom::project {
namespace {

using engine::BlockKind;
using engine::ParamSpec;
using engine::PortRef;
using engine::Program;
using engine::Unit;

constexpr int mostCopies = 64;
constexpr std::size_t longestPhrase = 2000, mostPhraseBlocks = 64;

std::vector<std::string> wordsOf(const std::string& text) {
    std::vector<std::string> words;
    std::istringstream in(text);
    for (std::string w; in >> w;)
        words.push_back(w);
    return words;
}

const BlockKind* kindOf(const std::string& word) {
    if (const auto* kind = engine::findKind(lower(word)))
        return kind;
    const BlockKind* found = nullptr;
    for (const auto& k : engine::blockKinds()) {
        const std::string label = lower(k.label);
        if (word.size() < 3 ||
            (label.compare(0, word.size(), lower(word)) != 0 && k.id.compare(0, word.size(), lower(word)) != 0))
            continue;
        if (found)
            return nullptr;
        found = &k;
    }
    return found;
}

bool isEnd(const BlockKind& k) {
    return k.end != engine::End::none;
}

// The part of a dotted parameter that says which band it belongs to: "2" of "2.gain".
std::string groupOf(const std::string& param) {
    const auto dot = param.find('.');
    return dot == std::string::npos ? "" : param.substr(0, dot);
}

// Puts words into the parameters of one block.
class Filler {
  public:
    explicit Filler(SaidBlock& said)
        : said_(said), table_(engine::paramTable(
                           *engine::findKind(said.kind),
                           engine::fullShape(*engine::findKind(said.kind), engine::Block{"x", said.kind, ""}))) {}
    bool take(const std::string& word) {
        const auto equals = word.find('=');
        if (equals != std::string::npos)
            return named(word.substr(0, equals), word.substr(equals + 1));
        const int own = table_.indexOf(lower(word));
        if (own >= 0 && spec(own).unit == Unit::onOff) // the name of a switch
            return keep(own, 1);
        const char first = word[0];
        const bool digit = std::isdigit(static_cast<unsigned char>(first)) || first == '.';
        const bool sign = first == '+' || first == '-' || word.compare(0, 3, "\u2212") == 0;
        if (!digit && !sign && lower(word)[0] != 'q')
            return choice(word);
        bool reached = group_.empty();
        for (int i = 0; i < static_cast<int>(table_.size()); ++i) {
            const auto& s = spec(i);
            reached = reached || groupOf(s.id) == group_;
            if (!reached || said_.values.count(s.id) || !suits(s, word, sign, digit))
                continue;
            if (auto value = engine::parseValue(s, word))
                return keep(i, *value);
        }
        return false;
    }

  private:
    const ParamSpec& spec(int i) const { return table_.specs()[static_cast<std::size_t>(i)]; }
    bool keep(int i, double value) {
        said_.values[spec(i).id] = value;
        group_ = groupOf(spec(i).id);
        return true;
    }
    bool named(const std::string& param, const std::string& text) {
        const int i = table_.indexOf(lower(param));
        return i >= 0 && keepAll(table_.parse(i, text), i);
    }
    bool choice(const std::string& word) {
        if (word.size() < 2)
            return false;
        for (int i = 0; i < static_cast<int>(table_.size()); ++i)
            if (spec(i).unit == Unit::choice && !said_.values.count(spec(i).id))
                if (keepAll(table_.parse(i, word), i))
                    return true;
        return false;
    }
    bool keepAll(const Result<std::vector<std::pair<std::string, double>>>& values, int i) {
        if (values)
            for (const auto& [param, v] : *values)
                said_.values[param] = v;
        group_ = values ? groupOf(spec(i).id) : group_;
        return static_cast<bool>(values);
    }
    // Whether a word could be meant for a parameter, before it is read: a sign means decibels, "q" a width, and what
    // has neither may be anything that is counted.
    static bool suits(const ParamSpec& s, const std::string& word, bool sign, bool digit) {
        switch (s.unit) {
        case Unit::onOff:
        case Unit::choice:
            return false;
        case Unit::quality:
            return lower(word)[0] == 'q' || lower(word).ends_with("oct") || digit;
        case Unit::hertz:
            return digit;
        default:
            return digit || (sign && (s.unit == Unit::decibel || s.min < 0));
        }
    }
    SaidBlock& said_;
    const engine::ParamTable& table_;
    std::string group_;
};

bool copiesWord(const std::string& word, int& copies) {
    const bool before = word.size() > 1 && (word[0] == 'x' || word[0] == 'X');
    const std::string digits = before ? word.substr(1) : word.substr(0, word.find_last_not_of("xX") + 1);
    if ((!before && digits.size() == word.size()) || digits.empty() || digits.size() > 3 ||
        !std::all_of(digits.begin(), digits.end(), [](unsigned char c) { return std::isdigit(c); }))
        return false;
    copies = wholeInteger(digits, 0, 999).value_or(0);
    return copies >= 1 && copies <= mostCopies;
}

Error notUnderstood(const std::string& word, const std::string& kind) {
    if (kind.empty())
        return {"\"" + word.substr(0, 60) + "\" is no block", "", "Begin with a block, such as eq or level."};
    return {"\"" + word.substr(0, 60) + "\" is neither a value of " + engine::findKind(kind)->label + " nor a block",
            "", "Values are said as 3k1, +3, Q2, 8ms, or by name: threshold=-20."};
}

std::string counted(std::string pattern, int n, bool always) {
    const auto at = pattern.find("{n}");
    if (at != std::string::npos)
        return pattern.replace(at, 3, std::to_string(n));
    return always ? pattern + " " + std::to_string(n) : pattern;
}

class Speaker {
  public:
    Speaker(const Device& device, const std::vector<std::string>& lanes, const std::string& after)
        : device_(device), lanes_(lanes), after_(after) {
        spoken_.program = *device.program;
        if (after.empty())
            return;
        const auto layout = engine::layOut(*device.program); // the same bead on each of the lanes
        for (const auto& bead : counterparts(layout, *device.program, lanes, after))
            afterOn_[layout.laneOf(bead)->end] = bead;
        const auto* own = layout.laneOf(after);
        afterOn_[own ? own->end : lanes.empty() ? "" : lanes.front()] = after;
    }

    Result<Spoken> say(const std::vector<SaidBlock>& blocks) {
        for (const auto& said : blocks) {
            const auto& kind = *engine::findKind(said.kind);
            if (!isEnd(kind) && ends_) {
                lanes_ = made_;
                ends_ = false;
            } // what is said behind new lanes is meant for them
            const auto error = isEnd(kind)                         ? newEnds(said, kind)
                               : fitsLane(kind) && !lanes_.empty() ? onLanes(said, kind)
                                                                   : meeting(said, kind);
            if (error)
                return *error;
            what_ += (what_.empty() ? "" : ", ") + kind.label;
        }
        spoken_.text = "Insert " + what_ + (lanes_.size() > 1 ? " on " + std::to_string(lanes_.size()) + " lanes" : "");
        if (!made_.empty())
            spoken_.lanes = made_;
        return std::move(spoken_);
    }

  private:
    using MaybeError = std::optional<Error>;
    Program& program() { return spoken_.program; }

    void fill(const std::string& block, const SaidBlock& said) {
        for (const auto& [param, value] : said.values)
            engine::enterValue(*program().find(block), param, value);
    }

    MaybeError newEnds(const SaidBlock& said, const BlockKind& kind) {
        ends_ = true;
        for (int n = 1; n <= said.copies; ++n) {
            Device now = device_;
            now.program = program();
            std::string port = freePort(now, kind);
            if (!said.port.empty() && n == 1) {
                const auto free = freePorts(now, kind);
                const auto there = std::find_if(free.begin(), free.end(), [&](const auto& f) {
                    std::string bare;
                    std::copy_if(f.begin(), f.end(), std::back_inserter(bare), [](char c) { return c != ' '; });
                    return bare == lower(said.port) || f == lower(said.port);
                });
                if (there == free.end())
                    return Error{"there is no free port \"" + said.port + "\"", device_.name,
                                 free.empty() ? "All are in use." : "The first free one is " + free.front() + "."};
                port = *there;
            }
            if (port.empty())
                return Error{"every " + lower(kind.label) + " port of " + device_.name + " is in use", "",
                             "Remove one, or take a larger processor."};
            const std::string label = said.label.empty() ? kind.label : said.label;
            auto made = addBlock(program(), kind.id, counted(label, n, said.copies > 1), {{"port", port}});
            if (!made)
                return made.error();
            program() = std::move(made->program);
            made_.push_back(made->block);
        }
        return {};
    }

    MaybeError onLanes(const SaidBlock& said, const BlockKind& kind) {
        for (auto& lane : lanes_) {
            const auto* end = program().find(lane);
            const bool destination = end && engine::outputsOf(program(), *end) == 0;
            const auto behind = afterOn_.find(lane);
            const PortRef at = behind != afterOn_.end() ? PortRef{behind->second, 0}
                               : destination            ? PortRef{lane, 0}
                                                        : openEnd(program(), lane);
            auto made = insertBlock(program(), kind.id, at, lane);
            if (!made)
                return made.error();
            program() = std::move(made->program);
            fill(made->block, said);
            if (behind != afterOn_.end() || lanes_.size() == 1)
                afterOn_[lane] = made->block;
            if (lanes_.size() == 1 || (!after_.empty() && lane == lanes_.front()))
                spoken_.block = made->block;
        }
        return {};
    }

    // A block that lanes meet at, or one that stands alone.
    MaybeError meeting(const SaidBlock& said, const BlockKind& kind) {
        std::vector<PortRef> ins, outs;
        const engine::BlockView plain(engine::Block{"x", kind.id, ""});
        for (const auto& lane : lanes_) {
            const auto* end = program().find(lane);
            if (plain.inputs() == 0) // makes sound itself: a lane of its own
                break;
            if (end && engine::outputsOf(program(), *end) == 0)
                outs.push_back(entryOf(program(), lane));
            else if (end)
                if (const auto at = openEnd(program(), lane); std::find(ins.begin(), ins.end(), at) == ins.end())
                    ins.push_back(at);
        }
        if (fitsLane(kind))
            return Error{"a " + kind.label + " lies on a lane", "", "Choose the lanes it is meant for first."};
        auto made = addBlock(program(), kind.id, said.label, {});
        if (!made)
            return made.error();
        program() = std::move(made->program);
        auto& block = *program().find(made->block);
        fitShape(kind, block, ins.size(), outs.size());
        fill(block.id, said);
        const engine::BlockView view(block);
        if (static_cast<int>(ins.size()) > view.inputs())
            return Error{"a " + kind.label + " has only " + std::to_string(view.inputs()) + " ways in", "",
                         "Choose fewer lanes."};
        for (std::size_t i = 0; i < ins.size(); ++i) {
            const int port = static_cast<int>(i), out = outputFor(view, port);
            // what the lane fed is fed through the block now
            program().connections.changeIf([&](const auto& t) { return t.from == ins[i] && out >= 0; },
                                           [&](auto& t) {
                                               t.from = {made->block, out};
                                           });
            program().connections.push_back({ins[i], {made->block, port}});
        }
        for (std::size_t o = 0; o < outs.size() && static_cast<int>(o) < view.outputs(); ++o) {
            auto drawn = drawThread(program(), {made->block, static_cast<int>(o)}, outs[o]);
            if (!drawn)
                return drawn.error();
            program() = std::move(*drawn);
        }
        if (auto order = engine::runningOrder(program()); !order)
            return order.error();
        // Lanes end where they are mixed: that is what is worked on next. Several that go on stay chosen.
        if (lanes_.size() < 2 || view.inputs() == 0 || outputFor(view, 0) < 0)
            made_ = {made->block};
        return {};
    }

    // As many channels as lanes, for the counts that make ways in and out.
    void fitShape(const BlockKind& kind, engine::Block& block, std::size_t ins, std::size_t outs) const {
        for (const auto& s : kind.shape) {
            const std::size_t want = s.id == "outputs"                                           ? outs
                                     : s.id == "inputs" || s.id == "lanes" || s.id == "channels" ? ins
                                                                                                 : 0;
            if (want == 0)
                continue;
            const int count = std::clamp(static_cast<int>(want), s.min, s.max);
            if (count != s.def)
                block.shape[s.id] = count;
        }
    }

    const Device& device_;
    std::vector<std::string> lanes_, made_;
    std::string after_, what_;
    std::map<std::string, std::string> afterOn_; // the bead to go on behind, by lane
    bool ends_ = false;                          // made_ are new lanes
    Spoken spoken_;
};

} // namespace

Result<std::vector<SaidBlock>> readPhrase(const std::string& text) {
    if (text.size() > longestPhrase)
        return Error{"this phrase is too long", "", "Say it in several."};
    std::vector<SaidBlock> all;
    std::optional<Filler> filler;
    all.reserve(mostPhraseBlocks); // a Filler refers to the block it fills
    bool open = false;             // a block is being spoken of
    for (std::string word : wordsOf(text)) {
        const bool closes = word.back() == ',' || word == "/";
        while (!word.empty() && (word.back() == ',' || word == "/"))
            word.pop_back();
        const bool end = !all.empty() && isEnd(*engine::findKind(all.back().kind));
        if (word.empty()) {
        } else if (open && end) {
            SaidBlock& b = all.back();
            if (word[0] == '@')
                b.port = word.substr(1);
            else if (!copiesWord(word, b.copies))
                b.label += (b.label.empty() ? "" : " ") + word;
        } else if (!open || !filler->take(word)) {
            // "source Chair, Delegate x8": behind the comma of an end only a whole id is another kind.
            const auto* kind = end ? engine::findKind(lower(word)) : kindOf(word);
            const bool another = !kind && !open && end;
            if (!kind && !another)
                return notUnderstood(word, open ? all.back().kind : "");
            if (all.size() >= mostPhraseBlocks)
                return Error{"this phrase has too many blocks", "", "Say it in several."};
            all.push_back({another ? all.back().kind : kind->id});
            if (another)
                all.back().label = word;
            filler.emplace(all.back());
            open = true;
        }
        open = open && !closes;
    }
    if (all.empty())
        return Error{"nothing was said", "", "Begin with a block, such as eq or level."};
    return all;
}

Program renameBlocks(const Program& p, const std::vector<std::string>& blocks, const std::string& pattern) {
    Program n = p;
    int at = 0;
    for (const auto& id : blocks)
        if (auto* b = n.find(id))
            b->label = counted(pattern, ++at, blocks.size() > 1);
    return n;
}

Result<Spoken> speak(const Device& device, const std::vector<std::string>& lanes, const std::string& after,
                     const std::string& phrase) {
    if (!device.program)
        return Error{"has no program", device.id, "Choose a processor."};
    auto words = wordsOf(phrase);
    if (!words.empty() && (words[0][0] == '>' || words[0] == "\u2192")) {
        std::string pattern = words[0][0] == '>' ? words[0].substr(1) : "";
        words.erase(words.begin());
        double level = 0;
        const auto spec = engine::levelParam("level", "the level", -80, 12, 0, true);
        const char sign = words.empty() ? ' ' : words.back()[0];
        if (words.size() + !pattern.empty() > 1 && (sign == '-' || sign == '+' || words.back() == "0")) {
            auto value = engine::parseValue(spec, words.back());
            if (!value)
                return value.error();
            level = *value;
            words.pop_back();
        }
        for (const auto& w : words)
            pattern += (pattern.empty() ? "" : " ") + w;
        auto routed = routeLanes(*device.program, lanes, pattern, level);
        if (!routed)
            return routed.error();
        return Spoken{std::move(*routed), {}, {}, "Route to " + pattern};
    }
    auto blocks = readPhrase(phrase);
    if (!blocks)
        return blocks.error();
    return Speaker(device, lanes, after).say(*blocks);
}

} // namespace loom::project
