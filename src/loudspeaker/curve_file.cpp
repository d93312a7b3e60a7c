#include "loudspeaker/curve_file.h"
#include "dsp/audio_file.h"
#include "dsp/number.h"
#include "dsp/text.h"
#include "loudspeaker/curve/columns.h"
#include "loudspeaker/curve/impulse.h"
#include "loudspeaker/curve/number_table.h"
#include "loudspeaker/sheet/letters.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>
#include <optional>
#include <utility>

namespace loom::loudspeaker {
namespace {

using curve::Column;
using curve::In;
using curve::known;
using curve::NumberTable;
using curve::Role;
using curve::wordsOf;

Result<CurveReading> readingOf(const std::vector<float>& samples, double rate, CurveWindow window,
                               const std::string& name) {
    auto heard = curve::responseOfImpulse(samples, rate, window.beforeMs, window.afterMs, name);
    if (!heard)
        return heard.error();
    CurveReading r;
    r.impulse = true;
    r.window = {heard->beforeMs, heard->afterMs};
    r.columns.push_back(print("impulse response, %.0f samples at %.0f Hz", static_cast<double>(samples.size()), rate));
    r.notes.push_back(print("Its window goes from %.3g ms before the peak to %.4g ms after it, so that nothing is said "
                            "below %.3g Hz; time 0 is the peak.",
                            r.window.beforeMs, r.window.afterMs, heard->curve.hz.front()));
    r.curve = std::move(heard->curve);
    return r;
}

class Reader {
  public:
    Reader(const std::string& text, const std::string& name, CurveUse use, const CurveAnswers& answers,
           CurveWindow window)
        : name_(name), use_(use), answers_(answers), window_(window),
          t_(curve::numberTableOf(text, wanted("commas"), wanted("thousands"))) {
        // More likely decimal: its first column does not rise, or the line above names half as many columns.
        if (t_.commasOpen && !wanted("commas")) {
            auto decimal = curve::numberTableOf(text, 2, wanted("thousands"));
            if (!strictly(column(0), true) || (t_.heads.empty() && !decimal.heads.empty())) {
                t_ = std::move(decimal);
                likelyDecimal_ = true;
            }
        }
    }

    Result<CurveReading> read() {
        if (t_.rows.size() > maxResponsePoints)
            return Error{"has more than 100000 points", name_, "Thin it out."};
        if (t_.rows.size() < 2)
            return Error{"has no two points", name_, "A line is a frequency, a level in dB, and degrees."};
        if (t_.left * 5 > t_.rows.size())
            return Error{print("has %d lines with other numbers of columns than the rest", static_cast<int>(t_.left)),
                         name_, "Lines of a table have as many numbers each."};
        askCommas();
        columns();
        if (t_.columns == 1 || columns_[0].role == Role::time)
            return impulse();
        roles();
        if (failed_)
            return *failed_;
        if (auto wrong = points())
            return *wrong;
        note();
        return std::move(out_);
    }

  private:
    int wanted(const std::string& topic) const {
        const auto it = answers_.find(topic);
        return it == answers_.end() ? 0 : static_cast<int>(it->second) + 1;
    }
    // The answer to what is open, or what is likely until there is one.
    std::size_t ask(const std::string& topic, const std::string& text, std::vector<std::string> choices,
                    std::size_t likely = 0) {
        if (const auto it = answers_.find(topic); it != answers_.end() && it->second < choices.size())
            return it->second;
        out_.open.push_back({topic, text, std::move(choices), likely});
        return likely;
    }
    void askCommas() {
        if (t_.commasOpen)
            (void)ask("commas", "Its commas may part columns, or be decimal.", {"part columns", "are decimal"},
                      likelyDecimal_ ? 1 : 0);
        if (t_.thousandsOpen)
            (void)ask("thousands", "\"1,000\" may be a thousand, or one.", {"a thousand", "one"}, 1);
    }
    void columns() {
        columns_.resize(t_.columns);
        const bool units = !t_.heads.empty() && std::all_of(t_.heads[0].begin(), t_.heads[0].end(), [](const auto& h) {
            const auto all = wordsOf(h);
            return std::all_of(all.begin(), all.end(),
                               [](const auto& w) { return known(w) && known(w)->in != In::unsaid; });
        });
        for (std::size_t k = 0; k < t_.columns; ++k) {
            std::string head;
            for (std::size_t n = 0; n < t_.heads.size() && (n == 0 || (n == 1 && units)); ++n)
                if (k < t_.heads[n].size())
                    head = t_.heads[n][k] + " " + head;
            columns_[k] = curve::columnOf(head);
            if (columns_[k].in == In::unsaid && k < t_.units.size() && !t_.units[k].empty())
                columns_[k] = curve::columnOf(head + " " + t_.units[k]);
        }
        if (t_.complex && t_.columns >= 2) {
            columns_[t_.columns - 2].role = Role::real;
            columns_[t_.columns - 1].role = Role::imaginary;
        }
        const bool said = first(Role::frequency) || first(Role::time) || t_.complex;
        if (!said) // a line of remarks that happened to have as many parts
            columns_.assign(t_.columns, {});
        if (!said)
            remarks();
        if (use_ == CurveUse::impedance)
            for (auto& c : columns_)
                if (c.role == Role::real || c.role == Role::imaginary)
                    c.in = c.in == In::kilohm ? c.in : In::ohm;
    }
    // Heads that are no line of their own: "x: frequency in Hz, y: dB SPL, phase: degrees".
    void remarks() {
        for (auto it = t_.remarks.rbegin(); it != t_.remarks.rend(); ++it) {
            std::vector<Column> found;
            const std::string plain = sheet::folded(*it);
            for (const auto& word : wordsOf(plain)) {
                const auto* w = known(word);
                if (!w || word == "x" || word == "s" || word == "r" || word == "re" || word == "v" || word == "no" ||
                    word == "z" || word == "f" || w->role == Role::index)
                    continue;
                if (found.empty() || found.back().role != w->role) {
                    if (std::any_of(found.begin(), found.end(), [&](const Column& c) { return c.role == w->role; }))
                        continue;
                    found.push_back({w->role, w->in, *it});
                } else if (found.back().in == In::unsaid) {
                    found.back().in = w->in;
                }
            }
            if (found.size() == t_.columns && found[0].role == Role::frequency) {
                columns_ = found;
                return;
            }
        }
    }

    std::vector<double> column(std::size_t k) const {
        std::vector<double> all;
        for (const auto& row : t_.rows)
            if (std::isfinite(row.values[k]))
                all.push_back(row.values[k]);
        return all;
    }
    static std::pair<double, double> span(const std::vector<double>& v) {
        if (v.empty())
            return {0, 0};
        const auto [low, high] = std::minmax_element(v.begin(), v.end());
        return {*low, *high};
    }
    static bool strictly(const std::vector<double>& v, bool up) {
        for (std::size_t i = 1; i < v.size(); ++i)
            if (up ? v[i] <= v[i - 1] : v[i] >= v[i - 1])
                return false;
        return v.size() > 1;
    }
    std::optional<std::size_t> first(Role role) const {
        for (std::size_t k = 0; k < columns_.size(); ++k)
            if (columns_[k].role == role)
                return k;
        return {};
    }

    void roles() {
        frequencyColumn();
        if (failed_)
            return;
        if (!first(Role::level) && !(first(Role::real) && first(Role::imaginary)))
            levelColumns();
        if (failed_)
            return;
        severalLevels();
        frequencyUnit();
        if (const auto level = first(Role::level))
            levelUnit(columns_[*level], column(*level));
        else
            real_ = true;
        if (const auto phase = first(Role::phase); phase && !real_)
            phaseUnit(columns_[*phase], column(*phase));
    }
    void frequencyColumn() {
        // "1, 2, 3" before a column that rises as well counts the lines.
        const auto c0 = column(0);
        const bool counts = c0.size() == t_.rows.size() && t_.columns >= 3 && strictly(c0, true) &&
                            (c0[0] == 0 || c0[0] == 1) && c0.back() - c0.front() == static_cast<double>(c0.size() - 1);
        if (counts && columns_[0].role != Role::frequency && strictly(column(1), true) && column(1).front() > 0)
            columns_[0].role = Role::index;
        if (first(Role::frequency))
            return;
        for (std::size_t k = 0; k < t_.columns; ++k) {
            const auto v = column(k);
            if (columns_[k].role == Role::unknown && span(v).first >= 0 && (strictly(v, true) || strictly(v, false))) {
                columns_[k].role = Role::frequency;
                return;
            }
        }
        for (std::size_t k = 0; k < t_.columns; ++k)
            if (columns_[k].role == Role::unknown) {
                columns_[k].role = Role::frequency;
                return;
            }
        failed_ = Error{"has no column of frequencies", name_, "The first column is the frequency."};
    }
    // Without heads: level, then phase or coherence.
    void levelColumns() {
        std::vector<std::size_t> open;
        for (std::size_t k = 0; k < t_.columns; ++k)
            if (columns_[k].role == Role::unknown)
                open.push_back(k);
        if (open.empty()) {
            failed_ = Error{"has no column of levels", name_, "A line is a frequency, a level in dB, and degrees."};
            return;
        }
        const bool phaseSaid = first(Role::phase).has_value();
        columns_[open[0]].role = Role::level;
        if (open.size() < 2 || phaseSaid)
            return;
        const auto level = span(column(open[0])), next = span(column(open[1]));
        const bool fraction = next.first >= 0 && next.second <= 1;
        const bool parts = use_ == CurveUse::response && level.first < 0 && level.second < 20 && level.first > -20 &&
                           next.first < 0 && next.first > -20 && next.second < 20 && next.second > 0 &&
                           level.second > 0;
        if (fraction) {
            const auto is = ask("third column", "The column after the level goes from 0 to 1.",
                                {"coherence", "phase in radians", "phase in degrees"});
            columns_[open[1]].role = is == 0 ? Role::coherence : Role::phase;
            columns_[open[1]].in = is == 1 ? In::radians : In::degrees;
        } else if (parts) {
            const auto is = ask("columns", "Its two columns after the frequency may be real and imaginary parts.",
                                {"level and phase", "real and imaginary part"}, 1);
            if (is == 1) {
                columns_[open[0]].role = Role::real;
                columns_[open[1]].role = Role::imaginary;
            } else {
                columns_[open[1]].role = Role::phase;
            }
        } else {
            columns_[open[1]].role = Role::phase;
        }
    }
    // Of several channels one is taken, with the phase (or imaginary part) that stands before the next one.
    void severalLevels() {
        const bool parts = !first(Role::level);
        std::vector<std::size_t> levels;
        for (std::size_t k = 0; k < t_.columns; ++k)
            if (columns_[k].role == (parts ? Role::real : Role::level))
                levels.push_back(k);
        if (levels.size() < 2)
            return;
        std::vector<std::string> labels;
        labels.reserve(levels.size());
        for (const auto k : levels)
            labels.push_back(columns_[k].head.empty() ? print("column %d", static_cast<int>(k + 1))
                                                      : shown(columns_[k].head));
        const auto taken =
            ask("column", print("It has %d columns of levels.", static_cast<int>(levels.size())), labels);
        const std::size_t from = levels[taken], to = taken + 1 < levels.size() ? levels[taken + 1] : t_.columns;
        bool left = false, kept = false;
        for (std::size_t k = 0; k < t_.columns; ++k) {
            auto& role = columns_[k].role;
            const bool beside = role == Role::phase || role == Role::imaginary;
            const bool other = (role == Role::level || role == Role::real) && k != from;
            const bool own = k > from && k < to;
            kept = kept || (beside && own);
            left = left || (beside && !own);
            if (other || (beside && !own))
                role = Role::other;
        }
        if (left && !kept && !parts)
            out_.notes.push_back("A phase stands beside another level, and was left out.");
    }
    static std::string shown(const std::string& head) {
        std::string out;
        for (const char c : head)
            out += c == '\1' ? std::string("\u03a9") : c == '\2' ? std::string("\u00b0") : std::string(1, c);
        while (!out.empty() && out.front() == ' ')
            out.erase(0, 1);
        while (!out.empty() && out.back() == ' ')
            out.pop_back();
        return out;
    }
    void frequencyUnit() {
        auto& c = columns_[*first(Role::frequency)];
        auto [low, high] = span(column(*first(Role::frequency)));
        if (low == 0) // of a spectrum: the next one counts
            for (const double v : column(*first(Role::frequency)))
                if (v > 0 && (low == 0 || v < low))
                    low = v;
        const bool hertz = high >= 100 && low >= 0.5, kilohertz = high <= 110 && low <= 5;
        const In likely = hertz || !kilohertz ? In::hz : In::khz;
        const bool said = c.in == In::hz || c.in == In::khz;
        const bool fits = c.in == In::hz ? hertz : kilohertz;
        if (said && fits)
            return;
        if (!said && hertz != kilohertz && hertz) {
            c.in = In::hz;
            return;
        }
        const std::string range = print("Its frequencies go from %.4g to %.4g", low, high);
        const auto is =
            ask("frequency", range + (said ? c.in == In::hz ? ", said to be Hz." : ", said to be kHz." : "."),
                {"Hz", "kHz"}, likely == In::khz ? 1 : 0);
        c.in = is == 1 ? In::khz : In::hz;
    }
    void levelUnit(Column& c, const std::vector<double>& v) {
        const auto [low, high] = span(v);
        if (use_ == CurveUse::impedance) {
            if (c.in == In::ohm || c.in == In::kilohm)
                return;
            if (c.in == In::db || low <= 0) {
                const auto is = ask("level", print("An impedance goes from %.4g to %.4g.", low, high),
                                    {"dB above 1 ohm", "ohms"}, low <= 0 ? 0 : 1);
                c.in = is == 0 ? In::db : In::ohm;
                return;
            }
            if (low < 0.5 || high > 5000) {
                const auto is = ask("level", print("An impedance goes from %.4g to %.4g.", low, high),
                                    {"ohms", "kilohms"}, high < 5 ? 1 : 0);
                c.in = is == 1 ? In::kilohm : In::ohm;
                return;
            }
            c.in = In::ohm;
            return;
        }
        const bool canBeLinear = low >= 0, canBeDecibels = true;
        if (c.in == In::db && canBeDecibels)
            return;
        if (c.in == In::linear && canBeLinear)
            return;
        if (!canBeLinear || (low > 25 && high < 160 && high - low < 80 && c.in == In::unsaid)) {
            if (c.in != In::linear) {
                c.in = In::db;
                return;
            }
        }
        const auto is = ask("level", print("Its levels go from %.4g to %.4g.", low, high), {"dB", "linear"},
                            canBeLinear && high <= 25 ? 1 : 0);
        c.in = is == 1 ? In::linear : In::db;
        if (c.in == In::linear && !canBeLinear)
            failed_ = Error{"has linear levels below 0", name_, "Are they decibels?"};
    }
    void phaseUnit(Column& c, const std::vector<double>& v) {
        if (c.in == In::degrees || c.in == In::radians)
            return;
        const auto [low, high] = span(v);
        const double most = std::max(std::abs(low), std::abs(high));
        double jump = 0;
        for (std::size_t i = 1; i < v.size(); ++i)
            jump = std::max(jump, std::abs(v[i] - v[i - 1]));
        constexpr double pi = std::numbers::pi;
        const bool wraps = jump > 200 && jump <= 361 && most <= 361;
        const bool quarter = use_ == CurveUse::impedance && most > pi / 2 + 0.05; // passive: within a quarter turn
        if (wraps || quarter || most == 0 || (most >= 90 && most <= 180.5)) {
            c.in = In::degrees;
            return;
        }
        const auto is = ask("phase", print("Its phase goes from %.4g to %.4g.", low, high), {"degrees", "radians"},
                            most <= pi + 0.01 ? 1 : 0);
        c.in = is == 1 ? In::radians : In::degrees;
    }

    struct Point {
        double hz = 0, value = 0, deg = 0;
    };
    std::optional<Error> points() {
        const auto f = *first(Role::frequency);
        const auto level = first(Role::level), phase = first(Role::phase), real = first(Role::real),
                   imaginary = first(Role::imaginary);
        if (real_ && !(real && imaginary))
            return Error{"has no column of levels", name_, "A line is a frequency, a level in dB, and degrees."};
        std::vector<Point> all;
        const bool ohms = use_ == CurveUse::impedance;
        std::size_t empty = 0, atZero = 0;
        for (const auto& row : t_.rows) {
            Point p;
            p.hz = row.values[f] * (columns_[f].in == In::khz ? 1000 : 1);
            double linear = -1;
            if (real_) {
                const double factor = columns_[*real].in == In::kilohm ? 1000 : 1;
                linear = std::hypot(row.values[*real], row.values[*imaginary]) * factor;
                p.deg = std::atan2(row.values[*imaginary], row.values[*real]) * 180 / std::numbers::pi;
            } else {
                const double v = row.values[*level];
                const In in = columns_[*level].in;
                if (in == In::linear || in == In::ohm)
                    linear = v;
                else if (in == In::kilohm)
                    linear = v * 1000;
                else
                    p.value = v;
                if (in == In::db && ohms)
                    linear = std::pow(10.0, v / 20);
                if (phase)
                    p.deg = row.values[*phase] * (columns_[*phase].in == In::radians ? 180 / std::numbers::pi : 1);
            }
            if (linear >= 0)
                p.value = ohms ? linear : 20 * std::log10(std::max(linear, 1e-10));
            if (!std::isfinite(p.hz) || !std::isfinite(p.value) || !std::isfinite(p.deg)) {
                ++empty;
                continue;
            }
            if (p.hz == 0) {
                ++atZero;
                continue;
            }
            const double most = ohms ? 1e5 : 300;
            if (!(p.hz > 0 && p.hz <= 1e6) || !(std::abs(p.value) <= most) || (ohms && p.value <= 0) ||
                !(std::abs(p.deg) <= 1e7))
                return Error{"has a value that cannot be", name_ + ", line " + std::to_string(row.line),
                             ohms ? "Frequencies go up to 1 MHz, impedances from above 0 to 100000 ohms."
                                  : "Frequencies go up to 1 MHz, levels from -300 to 300 dB."};
            all.push_back(p);
        }
        if (empty > 0)
            out_.notes.push_back(print("%d lines without a number were left out.", static_cast<int>(empty)));
        if (atZero > 0)
            out_.notes.push_back("Its point at 0 Hz was left out.");
        if (t_.left > 0)
            out_.notes.push_back(
                print("%d lines have another number of columns and were left out.", static_cast<int>(t_.left)));
        std::string text;
        for (const auto& p : all)
            text += exactText(p.hz) + " " + exactText(p.value) + (real_ || phase ? " " + exactText(p.deg) : "") + "\n";
        auto curve = readResponse(text, name_);
        if (!curve)
            return curve.error();
        out_.curve = std::move(*curve);
        for (auto& n : out_.curve.notes)
            out_.notes.push_back(n);
        out_.curve.notes.clear();
        return {};
    }
    void note() {
        static const std::array<const char*, 11> units{"",        "Hz",   "kHz",     "dB", "linear", "degrees",
                                                       "radians", "ohms", "kilohms", "s",  "ms"};
        static const std::array<const char*, 10> roles{"not taken",
                                                       "frequency",
                                                       "level",
                                                       "phase",
                                                       "real part",
                                                       "imaginary part",
                                                       "coherence, not taken",
                                                       "time",
                                                       "number, not taken",
                                                       "not taken"};
        for (const auto& c : columns_) {
            std::string role = roles[static_cast<std::size_t>(c.role)];
            if (c.role == Role::level && use_ == CurveUse::impedance)
                role = "impedance";
            const bool unit = c.in != In::unsaid && c.role != Role::unknown && c.role != Role::other &&
                              c.role != Role::coherence && c.role != Role::index;
            out_.columns.push_back(role + (unit ? std::string(", ") + units[static_cast<std::size_t>(c.in)] : ""));
        }
    }

    Result<CurveReading> impulse() {
        std::vector<float> samples;
        for (const auto& row : t_.rows) {
            const double v = row.values[t_.columns == 1 ? 0 : 1];
            if (!(std::abs(v) <= 1e6)) // also of what is no number
                return Error{"has a value that cannot be", name_ + ", line " + std::to_string(row.line),
                             "Samples of an impulse response are numbers around 1."};
            samples.push_back(static_cast<float>(v));
        }
        if (samples.size() < 16)
            return Error{"has one number a line, and fewer than 16", name_,
                         "A line is a frequency, a level in dB, and degrees; an impulse response is longer."};
        double rate = 0;
        if (t_.columns > 1) {
            const auto time = column(0);
            const double step =
                time.size() > 1 ? (time.back() - time.front()) / static_cast<double>(time.size() - 1) : 0;
            if (!(step > 0) || !std::isfinite(step))
                return Error{"has times that do not rise", name_, "An impulse response has equal steps of time."};
            bool ms = columns_[0].in == In::ms;
            if (columns_[0].in == In::unsaid)
                ms = ask("time", print("Its times go from %.4g to %.4g.", time.front(), time.back()),
                         {"seconds", "milliseconds"}, step > 0.002 ? 1 : 0) == 1;
            rate = std::round((ms ? 1000 : 1) / step);
        } else {
            for (const auto& r : t_.remarks) { // "Sample rate: 48000 Hz", "44.1 kHz"
                const std::string plain = sheet::folded(r);
                for (const double one : {44100.0, 48000.0, 88200.0, 96000.0, 192000.0})
                    for (const auto& text :
                         {print("%.0f", one), print("%.4g khz", one / 1000), print("%.4gkhz", one / 1000)})
                        if (plain.find(text) != std::string::npos)
                            rate = one;
            }
            if (rate == 0)
                rate = std::array<double, 4>{48000, 44100, 96000, 192000}[ask(
                    "rate",
                    print("An impulse response of %d samples; its rate is not said.", static_cast<int>(samples.size())),
                    {"48 kHz", "44.1 kHz", "96 kHz", "192 kHz"})];
        }
        if (!(rate >= 1000 && rate <= 400000))
            return Error{print("would have %.4g samples a second", rate), name_, "Are its times in seconds?"};
        auto r = readingOf(samples, rate, window_, name_);
        if (r)
            r->open = std::move(out_.open);
        return r;
    }

    std::string name_;
    CurveUse use_;
    const CurveAnswers& answers_;
    CurveWindow window_;
    NumberTable t_;
    std::vector<Column> columns_;
    bool real_ = false, likelyDecimal_ = false;
    std::optional<Error> failed_;
    CurveReading out_;
};

bool isSound(const std::string& bytes) {
    const auto begins = [&](const char* four) { return bytes.compare(0, 4, four) == 0; };
    return begins("RIFF") || begins("fLaC") || begins("RF64") || begins("FORM") || begins("OggS");
}

} // namespace

Result<CurveReading> readCurve(const std::string& bytes, const std::string& name, CurveUse use,
                               const CurveAnswers& answers, CurveWindow window) {
    if (isSound(bytes)) {
        if (use == CurveUse::impedance)
            return Error{"is a sound file", name, "An impedance is a text of frequencies and ohms."};
        dsp::AudioClip clip;
        std::string error;
        if (!dsp::readClip({bytes.begin(), bytes.end()}, name, 0, clip, error))
            return Error{error, "", ""};
        return readingOf(clip.channels.empty() ? std::vector<float>{} : clip.channels[0], clip.rate, window, name);
    }
    if (bytes.size() > maxResponseBytes)
        return Error{"is larger than 8 MiB", name, "A response has some hundred lines."};
    return Reader(utf8Of(bytes), name, use, answers, window).read();
}

std::string curveText(const ResponseFile& c, CurveUse use) {
    std::string text = std::string("# Frequency Hz, ") + (use == CurveUse::impedance ? "ohms" : "level dB") +
                       (c.hasPhase ? ", phase degrees\n" : "\n");
    const bool phase = c.hasPhase && c.deg.size() == c.hz.size();
    for (std::size_t i = 0; i < c.hz.size(); ++i)
        text += exactText(c.hz[i]) + " " + exactText(c.db[i]) + (phase ? " " + exactText(c.deg[i]) : "") + "\n";
    return text;
}

} // namespace loom::loudspeaker
