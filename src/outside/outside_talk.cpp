#include "outside/outside_talk.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

std::string trimmed(std::string_view text) {
    const auto begin = text.find_first_not_of(" \t\r\n");
    return begin == std::string_view::npos
               ? std::string()
               : std::string(text.substr(begin, text.find_last_not_of(" \t\r\n") - begin + 1));
}

std::string lower(std::string text) {
    for (char& c : text)
        c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return text;
}

} // namespace

OutsideTalk::OutsideTalk(OutsideKind kind) : kind_(std::move(kind)) {
    const auto read = [&](const std::string& text) -> std::optional<Template> {
        auto t = text.empty() ? Result<Template>(Error{}) : Template::read(text, kind_.hex);
        return t ? std::optional(*t) : std::nullopt;
    };
    for (const auto& s : kind_.states)
        lines_.push_back({read(s.set), read(s.ask), read(s.answer)});
    for (const auto& c : kind_.commands)
        if (const auto t = read(c.send))
            commands_[c.id] = *t;
}

int OutsideTalk::indexOf(const std::string& state) const {
    for (std::size_t i = 0; i < kind_.states.size(); ++i)
        if (kind_.states[i].id == state)
            return static_cast<int>(i);
    return -1;
}

std::optional<std::string> OutsideTalk::codeOf(const OutsideState& s, double value) {
    if (s.choices.empty()) {
        if (!(value >= s.low && value <= s.high))
            return {};
        return plainText(s.step >= 1 ? std::round(value) : value);
    }
    const auto i = static_cast<std::size_t>(std::max(0.0, value + 0.5));
    if (!(value >= -0.5) || i >= s.choices.size())
        return {};
    return i < s.codes.size() ? s.codes[i] : s.choices[i];
}

std::optional<double> OutsideTalk::valueOf(const OutsideState& s, const std::string& heard) {
    const auto code = trimmed(heard);
    if (s.choices.empty()) {
        const auto v = wholeNumber(code);
        return v && *v >= s.low && *v <= s.high ? v : std::nullopt;
    }
    const auto& words = s.codes.size() == s.choices.size() ? s.codes : s.choices;
    for (std::size_t i = 0; i < words.size(); ++i) {
        if (lower(words[i]) == lower(code))
            return static_cast<double>(i);
        const auto a = codeNumber(words[i]), b = codeNumber(code); // "01" and "0x1"
        if (a && b && *a == *b)
            return static_cast<double>(i);
    }
    return {};
}

// ---- the line ----

void OutsideTalk::be(bool there) {
    if (told_ && there == there_)
        return;
    if (!there)
        wanted_.clear();
    if (told_ || there)
        notes_.push_back(there ? "answers" : "does not answer");
    there_ = there;
    told_ = true;
    changes_.push_back({outsideThere, there ? 1.0 : 0.0});
}

void OutsideTalk::connected(bool is, double now) {
    open_ = is;
    waits_.reset();
    buffer_.clear();
    tooLong_ = false;
    if (!is) {
        be(false);
        std::erase_if(jobs_, [](const Job& j) { return j.asks >= 0; });
        return;
    }
    nextAt_ = now;
    const bool asks = std::any_of(lines_.begin(), lines_.end(), [](const Line& l) { return l.ask.has_value(); });
    if (!asks) // nothing else tells
        be(true);
    askAll(now);
}

void OutsideTalk::askAll(double now) {
    for (std::size_t i = 0; i < lines_.size(); ++i)
        (void)bool(ask(kind_.states[i].id, now));
}

void OutsideTalk::put(Job job) {
    // A newer value takes the place of one that was not sent yet; what is asked already is asked once.
    for (auto& waiting : jobs_) {
        if (job.sets >= 0 && waiting.sets == job.sets) {
            waiting = std::move(job);
            return;
        }
        if (job.asks >= 0 && waiting.asks == job.asks)
            return;
    }
    if (jobs_.size() >= mostWaiting) {
        if (job.asks < 0)
            notes_.push_back("is told more than it can take; the oldest is dropped");
        jobs_.pop_front();
    }
    jobs_.push_back(std::move(job));
}

Result<Done> OutsideTalk::set(const std::string& state, double value, double now) {
    const int i = indexOf(state);
    if (i < 0 || !lines_[static_cast<std::size_t>(i)].set)
        return Error{"it has nothing called " + state.substr(0, 40) + " that is set", state.substr(0, 40), ""};
    const auto& s = kind_.states[static_cast<std::size_t>(i)];
    const auto code = codeOf(s, value);
    if (!code)
        return Error{"this is no value of it", state, ""};
    auto bytes = lines_[static_cast<std::size_t>(i)].set->compose(*code);
    if (!bytes)
        return bytes.error();
    put({*bytes, -1, i, 1});
    if (ask(state, now)) // what became of it
        wanted_[i] = value;
    else
        know(i, value);
    return Done{};
}

Result<Done> OutsideTalk::say(const std::string& command, double) {
    const auto it = commands_.find(command);
    if (it == commands_.end())
        return Error{"it has no command " + command.substr(0, 40), command.substr(0, 40), ""};
    auto bytes = it->second.compose("");
    if (!bytes)
        return bytes.error();
    put({*bytes, -1, -1, 1});
    return Done{};
}

Result<Done> OutsideTalk::ask(const std::string& state, double now) {
    const int i = indexOf(state);
    if (i < 0 || !lines_[static_cast<std::size_t>(i)].ask)
        return Error{"it has nothing called " + state.substr(0, 40) + " that is asked for", state.substr(0, 40), ""};
    auto& line = lines_[static_cast<std::size_t>(i)];
    line.askedAt = now;
    auto bytes = line.ask->compose("");
    if (!bytes)
        return bytes.error();
    put({*bytes, i, -1, std::max(1, kind_.tries)});
    return Done{};
}

std::optional<double> OutsideTalk::value(const std::string& state) const {
    if (state == outsideThere)
        return told_ ? std::optional(there_ ? 1.0 : 0.0) : std::nullopt;
    if (const auto set = wanted_.find(indexOf(state)); set != wanted_.end())
        return set->second;
    const auto it = values_.find(indexOf(state));
    return it == values_.end() ? std::nullopt : std::optional(it->second);
}

void OutsideTalk::know(int state, double v) {
    const auto it = values_.find(state);
    if (it != values_.end() && it->second == v)
        return;
    values_[state] = v;
    changes_.push_back({kind_.states[static_cast<std::size_t>(state)].id, v});
}

void OutsideTalk::line(const std::string& answer, double now) {
    if (answer.empty() || (!kind_.hello.empty() && answer == kind_.hello))
        return;
    for (std::size_t i = 0; i < lines_.size(); ++i) {
        const auto code = lines_[i].answer ? lines_[i].answer->match(answer) : std::nullopt;
        const auto v = code ? valueOf(kind_.states[i], *code) : std::nullopt;
        if (!v)
            continue;
        if (waits_ && waits_->asks == static_cast<int>(i)) {
            waits_.reset();
            nextAt_ = now + kind_.pause;
        }
        be(true);
        // What was set meanwhile is not taken back by an older answer.
        if (std::none_of(jobs_.begin(), jobs_.end(), [&](const Job& j) { return j.sets == static_cast<int>(i); })) {
            wanted_.erase(static_cast<int>(i));
            know(static_cast<int>(i), *v);
        }
        return;
    }
    if (now - rubbishAt_ >= rubbishEvery) {
        rubbishAt_ = now;
        notes_.push_back("says what its description does not know: " + shownBytes(answer));
    }
}

void OutsideTalk::heardWhole(const std::string& answer, double now) {
    if (answer.size() <= longestAnswer)
        return line(answer, now);
    if (now - rubbishAt_ >= rubbishEvery) {
        rubbishAt_ = now;
        notes_.push_back("says more than 4,096 bytes at once; it is not taken");
    }
}

void OutsideTalk::heard(std::string_view bytes, double now) {
    heardAt_ = now;
    while (!bytes.empty()) {
        const auto room = longestAnswer + 1 - std::min(buffer_.size(), longestAnswer);
        const auto part = bytes.substr(0, room);
        bytes.remove_prefix(part.size());
        buffer_.append(part);
        if (!kind_.ends.empty())
            for (auto end = buffer_.find(kind_.ends); end != std::string::npos; end = buffer_.find(kind_.ends)) {
                const auto answer = buffer_.substr(0, end);
                buffer_.erase(0, end + kind_.ends.size());
                if (!std::exchange(tooLong_, false))
                    line(answer, now);
            }
        if (buffer_.size() > longestAnswer) {
            if (!tooLong_)
                heardWhole(buffer_, now); // says so
            tooLong_ = true;
            buffer_.clear();
        }
    }
}

void OutsideTalk::step(double now) {
    if (kind_.ends.empty() && !buffer_.empty() && now - heardAt_ >= std::max(kind_.pause, 0.02)) {
        const auto answer = std::exchange(buffer_, {});
        if (!std::exchange(tooLong_, false))
            line(answer, now);
    }
    if (!open_)
        return;
    if (waits_ && now >= until_) {
        auto job = *std::exchange(waits_, std::nullopt);
        if (--job.left > 0) {
            jobs_.push_front(std::move(job));
        } else {
            be(false);
            lostAt_ = now;
            std::erase_if(jobs_, [](const Job& j) { return j.asks >= 0; });
        }
    }
    if (!there_ && told_ && now - lostAt_ >= askAgain && jobs_.empty() && !waits_) {
        lostAt_ = now;
        for (std::size_t i = 0; i < lines_.size(); ++i)
            if (lines_[i].ask) { // one will do
                (void)bool(ask(kind_.states[i].id, now));
                break;
            }
    }
    if (there_)
        for (std::size_t i = 0; i < lines_.size(); ++i)
            if (lines_[i].ask && kind_.states[i].every > 0 && now - lines_[i].askedAt >= kind_.states[i].every)
                (void)bool(ask(kind_.states[i].id, now));
    if (waits_ || jobs_.empty() || now < nextAt_)
        return;
    auto job = jobs_.front();
    jobs_.pop_front();
    out_.push_back(job.bytes);
    nextAt_ = now + kind_.pause;
    if (job.asks >= 0) {
        until_ = now + kind_.patience;
        waits_ = std::move(job);
    }
}

} // namespace loom::project
