#include "voicings/voicing_fields.h"
#include "dsp/number.h"
#include "engine/block_kind.h"
#include "file/project_json.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

using engine::Block;
using engine::enterValue;
using loudspeaker::SheetField;
using loudspeaker::SheetKind;

double valueOf(const Block& b, const std::string& param) {
    const engine::BlockView view(b);
    return view.values[static_cast<std::size_t>(view.table->indexOf(param))];
}

std::string hertz(double v) {
    return v >= 1000 ? print("%.5g kHz", v / 1000) : print("%.5g Hz", v);
}

std::string edgeText(const Block& b) {
    static const char* const shapes[] = {"BW", "LR", "BE"};
    if (valueOf(b, "on") < 0.5)
        return "";
    return hertz(valueOf(b, "corner")) + " " + shapes[static_cast<int>(valueOf(b, "shape"))] +
           print("%.0f", 6 * (valueOf(b, "slope") + 1));
}

// With a real minus sign, as everywhere people read numbers.
std::string signedText(const char* format, double v) {
    std::string text = print(format, v);
    if (const auto at = text.find('-'); at != std::string::npos)
        text.replace(at, 1, "\u2212");
    return text;
}

std::string bellText(const Block& b, int n) {
    const std::string at = std::to_string(n) + ".";
    if (valueOf(b, at + "on") < 0.5)
        return "";
    const int kind = static_cast<int>(valueOf(b, at + "kind"));
    return std::string(kind == 1   ? "low shelf "
                       : kind == 2 ? "high shelf "
                                   : "") +
           hertz(valueOf(b, at + "hz")) + signedText(" %+.3g dB", valueOf(b, at + "gain")) +
           print(" Q %.3g", valueOf(b, at + "q"));
}

// The one thing that a typed text says, as a sheet would. Error: it says something else, or is not sure.
Result<SheetField> readOne(const std::string& typed, const std::string& label) {
    auto sheet = loudspeaker::readSheet(typed);
    if (sheet.fields.size() != 1 || !sheet.unread.empty())
        return Error{"\"" + typed.substr(0, 60) + "\" was not understood", label,
                     "Type it as 47 Hz BW24, 430 Hz LR12, 205 Hz -2.2 dB Q 1.6, or 3 kHz +2 dB 0.7 oct."};
    if (sheet.fields[0].topic == "shape") // who types a slope alone means the usual one, and sees it at once
        loudspeaker::answer(sheet.fields[0], 0);
    if (!sheet.fields[0].sure())
        return Error{sheet.fields[0].question, label, "Type the unit, or Q or oct."};
    return sheet.fields[0];
}

std::optional<Error> putEdge(Block& b, const SheetField& f, const std::string& label) {
    if (!(f.value >= 20 && f.value <= 20000))
        return Error{hertz(f.value) + " is outside the range", label, "20 Hz to 20 kHz."};
    if (f.shape == 1 && f.slope % 12 != 0)
        return Error{"Linkwitz\u2013Riley has 12, 24, 36 or 48 dB/oct", label, "Take one of these, or Butterworth."};
    enterValue(b, "corner", f.value);
    enterValue(b, "shape", f.shape);
    enterValue(b, "slope", f.slope / 6 - 1);
    enterValue(b, "on", 1);
    return {};
}

std::optional<Error> putBell(Block& b, int n, const SheetField& f, const std::string& label) {
    const double q = f.q > 0 ? f.q : 0.71;
    if (!(f.value >= 20 && f.value <= 20000) || std::abs(f.second) > 24 || !(q >= 0.1 && q <= 40))
        return Error{"this is outside the range", label, "20 Hz to 20 kHz, -24 to 24 dB, Q 0.1 to 40."};
    if (f.q <= 0 && f.kind == SheetKind::bell)
        return Error{"its width is not said", label, "Add Q 1.4, 1 oct, or width 180 Hz."};
    const std::string at = std::to_string(n) + ".";
    enterValue(b, at + "kind", f.kind == SheetKind::lowShelf ? 1 : f.kind == SheetKind::highShelf ? 2 : 0);
    enterValue(b, at + "hz", f.value);
    enterValue(b, at + "gain", f.second);
    enterValue(b, at + "q", q);
    enterValue(b, at + "on", 1);
    return {};
}

void bellOff(Block& b, int n) {
    for (const char* param : {"on", "kind", "hz", "gain", "q"})
        b.values.erase(std::to_string(n) + "." + param);
}

void addBells(std::vector<FieldOf<Voicing>>& all, const Voicing& v, const std::string& part) {
    int used = 0;
    for (int n = 1; n <= static_cast<int>(mostBells); ++n)
        if (valueOf(*partOf(v, part), std::to_string(n) + ".on") >= 0.5)
            used = n;
    // One more than there are: where the next is typed.
    for (int n = 1; n <= std::min(used + 1, static_cast<int>(mostBells)); ++n) {
        const std::string label = "Bell " + std::to_string(n);
        FieldOf<Voicing> f{{"bell." + std::to_string(n), label}};
        f.text = [part, n](const Voicing& one) { return bellText(*partOf(one, part), n); };
        f.check = [label](const std::string& typed) -> std::optional<Error> {
            if (typed.empty())
                return {};
            const std::string lower = typed.find("shelf") != std::string::npos ? typed : "bell " + typed;
            const auto read = readOne(lower, label);
            if (!read)
                return read.error();
            Block probe;
            probe.id = probe.kind = "eq";
            return putBell(probe, 1, *read, label);
        };
        f.setText = [part, n, label](Voicing& one, const std::string& typed) {
            auto& b = *partOf(one, part);
            if (typed.empty())
                return bellOff(b, n);
            (void)putBell(b, n, *readOne(typed.find("shelf") != std::string::npos ? typed : "bell " + typed, label),
                          label);
        };
        all.push_back(f);
    }
}

// The bells stand behind the maker.
std::vector<FieldOf<Voicing>> wholeFields(const Voicing& v) {
    std::vector<FieldOf<Voicing>> all;
    for (auto& f : schema::formOf(v)) {
        const bool maker = f.look.id == "maker";
        all.push_back(std::move(f));
        if (maker)
            addBells(all, v, "whole");
    }
    return all;
}

std::vector<FieldOf<Voicing>> wayFields(const Voicing& v, int way) {
    const auto w = static_cast<std::size_t>(way);
    const std::string number = std::to_string(way + 1) + ".";
    std::vector<FieldOf<Voicing>> all;
    const auto own = schema::detail::lifted<Voicing, Way>(
        schema::Describe<Way>::type(), v, [w](auto& one) -> auto& { return one.ways[w]; });
    all.push_back(own.front()); // its name; what it does stands before what it is
    for (const auto& [id, label, kind] :
         {std::tuple("highpass", "High-pass", "HPF "), {"lowpass", "Low-pass", "LPF "}}) {
        FieldOf<Voicing> f{{id, label}};
        const std::string part = number + id, word = kind, say = label;
        f.text = [part](const Voicing& one) { return edgeText(*partOf(one, part)); };
        f.check = [word, say](const std::string& typed) -> std::optional<Error> {
            if (typed.empty() || typed == "off")
                return {};
            const auto read = readOne(word + typed, say);
            Block probe;
            probe.id = probe.kind = "highpass";
            return read ? putEdge(probe, *read, say) : std::optional(read.error());
        };
        f.setText = [part, word, say](Voicing& one, const std::string& typed) {
            auto& b = *partOf(one, part);
            if (typed.empty() || typed == "off")
                b.values = {{"on", 0}};
            else
                (void)putEdge(b, *readOne(word + typed, say), say);
        };
        all.push_back(f);
    }
    addBells(all, v, number + "eq");
    const auto param = [&](const char* id, const char* label, const std::string& part, const char* name_,
                           const char* unit, double min, double max, int digits) {
        FieldOf<Voicing> f{{id, label, unit, 0, min, max, digits}};
        f.number = [part, name_ = std::string(name_)](const Voicing& one) {
            return valueOf(*partOf(one, part), name_);
        };
        f.setNumber = [part, name_ = std::string(name_)](Voicing& one, double value) {
            enterValue(*partOf(one, part), name_, value);
        };
        all.push_back(f);
    };
    param("gain", "Level", number + "level", "gain", "dB", -80, 12, 1);
    param("delay", "Delay", number + "delay", "time", "ms", -0.0001, 500, 3);
    all.push_back(choiceField<Voicing>(
        "polarity", "Polarity", {"normal", "inverted"}, {"Normal", "Inverted"},
        [part = number + "level"](const Voicing& one) {
            return valueOf(*partOf(one, part), "polarity") >= 0.5 ? "inverted" : "normal";
        },
        [part = number + "level"](Voicing& one, const std::string& typed) {
            enterValue(*partOf(one, part), "polarity", typed == "inverted");
        }));
    all.insert(all.end(), own.begin() + 1, own.end());
    return all;
}

std::vector<FieldOf<Voicing>> allFields(const Voicing& v, int way) {
    return way < 0                                 ? wholeFields(v)
           : way < static_cast<int>(v.ways.size()) ? wayFields(v, way)
                                                   : std::vector<FieldOf<Voicing>>{};
}

} // namespace

std::vector<Field> fieldsOf(const Voicing& v, int way) {
    std::vector<Field> all;
    for (const auto& f : allFields(v, way))
        all.push_back(f.shown(v));
    return all;
}

std::optional<Error> setField(Voicing& v, int way, const std::string& field, const std::string& value) {
    for (const auto& f : allFields(v, way))
        if (f.look.id == field)
            return f.set(v, value);
    return Error{"a voicing has no such field", field, ""};
}

Voicing voicingFrom(const loudspeaker::Sheet& sheet, const std::vector<bool>& leftOut, const std::string& id,
                    std::vector<std::string>* over) {
    const int ways = std::clamp(static_cast<int>(sheet.ways.size()), 1, static_cast<int>(mostWays));
    Voicing v = newVoicing(id, id, ways);
    if (const auto title = loudspeaker::titleOf(sheet); !title.empty())
        v.name = title;
    for (std::size_t i = 0; i < sheet.ways.size() && i < v.ways.size(); ++i)
        v.ways[i].name = sheet.ways[i];
    std::map<std::string, int> bells;
    for (std::size_t i = 0; i < sheet.fields.size(); ++i) {
        const auto& f = sheet.fields[i];
        if (!f.sure() || (i < leftOut.size() && leftOut[i]) || f.way > ways)
            continue;
        const int way = f.way > 0 ? f.way : ways == 1 ? 1 : 0; // with one way all belongs to it
        const std::string number = std::to_string(std::max(way, 1)) + ".";
        Way& w = v.ways[static_cast<std::size_t>(std::max(way, 1) - 1)];
        std::optional<Error> wrong;
        switch (f.kind) {
        case SheetKind::name:
            v.name = f.text.substr(0, 200);
            break;
        case SheetKind::maker:
            v.maker = f.text.substr(0, 200);
            break;
        case SheetKind::driver:
            w.driver = f.value > 0 ? loudspeaker::DriverKind::compression : loudspeaker::DriverKind::cone;
            break;
        case SheetKind::impedance:
            wrong = setField(v, std::max(way, 1) - 1, "ohms", exactText(f.value));
            break;
        case SheetKind::minimumImpedance:
            wrong = setField(v, std::max(way, 1) - 1, "leastOhms", exactText(f.value));
            break;
        case SheetKind::rmsPower:
            wrong = setField(v, std::max(way, 1) - 1, "watts", exactText(f.value));
            break;
        case SheetKind::peakPower:
            wrong = setField(v, std::max(way, 1) - 1, "peakWatts", exactText(f.value));
            break;
        case SheetKind::sensitivity:
            wrong = setField(v, std::max(way, 1) - 1, "sensitivity", exactText(f.value));
            break;
        case SheetKind::coil:
            wrong = setField(v, std::max(way, 1) - 1, "coil", exactText(f.value));
            break;
        case SheetKind::coverage:
            v.across = std::clamp(f.value, 0.0, 360.0);
            v.upDown = std::clamp(f.second, 0.0, 360.0);
            break;
        case SheetKind::taps:
            v.taps = f.list;
            std::erase_if(v.taps, [](double t) { return !(t > 0 && t <= 10000); });
            v.taps.resize(std::min<std::size_t>(v.taps.size(), 20));
            break;
        case SheetKind::highPass:
        case SheetKind::lowPass: {
            const bool high = f.kind == SheetKind::highPass;
            // What is said of the whole loudspeaker: below its lowest way, above its highest.
            const int at = way > 0 ? way : high ? 1 : ways;
            wrong = putEdge(*partOf(v, std::to_string(at) + (high ? ".highpass" : ".lowpass")), f, textOf(f));
            break;
        }
        case SheetKind::bell:
        case SheetKind::lowShelf:
        case SheetKind::highShelf: {
            const bool whole = way <= 0 || (f.way == 0 && !sheet.ways.empty());
            const std::string part = whole ? "whole" : number + "eq";
            const int n = ++bells[part];
            if (n > static_cast<int>(mostBells))
                wrong = Error{"there is room for eight bells", textOf(f), ""};
            else
                wrong = putBell(*partOf(v, part), n, f, textOf(f));
            break;
        }
        case SheetKind::notch:
        case SheetKind::allPass:
            wrong =
                Error{"a voicing has no place for it", textOf(f), "Use a narrow bell, or add the block to the lane."};
            break;
        case SheetKind::gain:
            for (int k = way > 0 ? way : 1; k <= (way > 0 ? way : ways); ++k)
                wrong = setField(v, k - 1, "gain", exactText(f.value));
            break;
        case SheetKind::polarity:
            enterValue(*partOf(v, number + "level"), "polarity", f.value);
            break;
        case SheetKind::delay:
            wrong = setField(v, std::max(way, 1) - 1, "delay", exactText(f.value));
            break;
        }
        if (wrong && over)
            over->push_back(wrong->text());
    }
    for (const auto& l : sheet.limits) { // held beside those that follow from the powers
        if (l.way > ways)
            continue;
        Way& w = v.ways[static_cast<std::size_t>(std::max(l.way, 1) - 1)];
        const std::string said = plainText(l.value) + " " + l.unit;
        if (l.value != 0 && loudspeaker::statedLimit(said))
            (l.rms ? w.rmsLimit : w.peakLimit) = said;
        else if (l.value != 0 && over)
            over->push_back("the limit of " + said + ": only V and dBu can be held");
        if (!l.rms || w.limitAttackMs == 0) {
            w.limitAttackMs = l.attackMs > 0 ? l.attackMs : w.limitAttackMs;
            w.limitReleaseMs = l.releaseMs > 0 ? l.releaseMs : w.limitReleaseMs;
        }
    }
    return v;
}

} // namespace loom::project
