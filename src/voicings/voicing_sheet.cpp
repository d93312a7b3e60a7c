#include "voicings/voicing_sheet.h"
#include "dsp/number.h"
#include "engine/block_kind.h"
#include <algorithm>
#include <utility>

namespace loom::project {
namespace {

using engine::Block;
using Lines = std::vector<std::pair<std::string, std::string>>; // label, value

double enteredIn(const Block& b, const std::string& param) {
    const engine::BlockView view(b);
    const int i = view.table->indexOf(param);
    return i < 0 ? 0 : view.values[static_cast<std::size_t>(i)];
}

std::string edge(const Block& b) {
    static const char* const shapes[] = {"Butterworth", "Linkwitz-Riley", "Bessel"};
    return plainText(enteredIn(b, "corner")) + " Hz, " +
           shapes[std::clamp(static_cast<int>(enteredIn(b, "shape")), 0, 2)] +
           print(", %d dB/oct", 6 * (static_cast<int>(enteredIn(b, "slope")) + 1));
}

std::string signedText(double v) {
    return v == 0 ? "0" : (v < 0 ? "" : "+") + plainText(v); // also of -0
}

void sayBells(Lines& lines, const Block& eq) {
    int n = 0;
    for (std::size_t k = 1; k <= mostBells; ++k) {
        const std::string at = std::to_string(k) + ".";
        if (enteredIn(eq, at + "on") < 0.5)
            continue;
        const int kind = static_cast<int>(enteredIn(eq, at + "kind"));
        lines.emplace_back((kind == 1   ? "Low shelf"
                            : kind == 2 ? "High shelf"
                                        : "Bell") +
                               (" " + std::to_string(++n)),
                           plainText(enteredIn(eq, at + "hz")) + " Hz, " + signedText(enteredIn(eq, at + "gain")) +
                               " dB, Q " + plainText(enteredIn(eq, at + "q")));
    }
}

Lines linesOfWhole(const Voicing& v) {
    Lines lines;
    if (v.across > 0)
        lines.emplace_back("Coverage", plainText(v.across) + " x " + plainText(v.upDown) + " degrees");
    if (!v.taps.empty()) {
        std::string all;
        for (const double w : v.taps)
            all += (all.empty() ? "" : " / ") + plainText(w);
        lines.emplace_back("Transformer taps 100 V", all + " W");
    }
    sayBells(lines, v.whole);
    return lines;
}

Lines linesOfWay(const Voicing& v, std::size_t way) {
    const Way& w = v.ways[way];
    Lines lines;
    const auto add = [&](const char* label, double value, const char* unit) {
        if (value > 0)
            lines.emplace_back(label, plainText(value) + " " + unit);
    };
    lines.emplace_back("Driver", w.driver == loudspeaker::DriverKind::compression ? "compression driver" : "cone");
    add("Impedance", w.nominalOhms, "ohms");
    add("Minimum impedance", w.minimumOhms, "ohms");
    add("Noise power", w.rmsWatts, "W");
    add("Peak power", w.peakWatts, "W");
    add("Sensitivity", w.sensitivity, "dB");
    add("Voice coil", w.coilMm, "mm");
    const std::string number = std::to_string(way + 1) + ".";
    for (const auto& [part, label] : {std::pair("highpass", "High-pass"), {"lowpass", "Low-pass"}}) {
        const auto* b = partOf(v, number + part);
        lines.emplace_back(label, b && enteredIn(*b, "on") >= 0.5 ? edge(*b) : "off");
    }
    if (const auto* eq = partOf(v, number + "eq"))
        sayBells(lines, *eq);
    if (const auto* level = partOf(v, number + "level")) {
        lines.emplace_back("Gain", signedText(enteredIn(*level, "gain")) + " dB");
        lines.emplace_back("Polarity", enteredIn(*level, "polarity") >= 0.5 ? "inverted" : "normal");
    }
    if (const auto* delay = partOf(v, number + "delay"))
        lines.emplace_back("Delay", plainText(std::max(0.0, enteredIn(*delay, "time"))) + " ms");
    for (const auto& [label, limit] : {std::pair("Peak limit", w.peakLimit), {"RMS limit", w.rmsLimit}})
        if (loudspeaker::statedLimit(limit))
            lines.emplace_back(label, limit);
    return lines;
}

std::string headOf(const Voicing& v, std::size_t way) {
    return print("Way %d of %d: ", static_cast<int>(way + 1), static_cast<int>(v.ways.size())) + v.ways[way].name;
}

std::string quoted(const std::string& text) {
    std::string all = "\"";
    for (const char c : text)
        all += c == '"' ? std::string("\"\"") : c == '\n' ? std::string(" ") : std::string(1, c);
    return all + "\"";
}

} // namespace

std::string sheetText(const Voicing& v) {
    std::string text = "Model: " + v.name + "\n";
    if (!v.maker.empty())
        text += "Manufacturer: " + v.maker + "\n";
    const auto section = [&](const std::string& head, const Lines& lines) {
        if (lines.empty())
            return;
        text += "\n" + head + "\n";
        for (const auto& [label, value] : lines)
            text += "  " + label + ":" + std::string(24 - std::min<std::size_t>(label.size(), 23), ' ') + value + "\n";
    };
    section("Whole system", linesOfWhole(v));
    for (std::size_t w = 0; w < v.ways.size(); ++w)
        section(headOf(v, w), linesOfWay(v, w));
    return text;
}

std::string sheetCsv(const Voicing& v) {
    std::string text = quoted("Model") + "," + quoted(v.name) + "\n";
    if (!v.maker.empty())
        text += quoted("Manufacturer") + "," + quoted(v.maker) + "\n";
    const Lines whole = linesOfWhole(v);
    if (!whole.empty())
        text += quoted("Whole system") + "\n";
    for (const auto& [label, value] : whole)
        text += quoted(label) + "," + quoted(value) + "\n";
    text += "\n" + quoted("Parameter");
    std::vector<Lines> ways;
    for (std::size_t w = 0; w < v.ways.size(); ++w) {
        text += "," + quoted(headOf(v, w));
        ways.push_back(linesOfWay(v, w));
    }
    std::vector<std::string> labels{"Driver",      "Impedance",  "Minimum impedance", "Noise power", "Peak power",
                                    "Sensitivity", "Voice coil", "High-pass",         "Low-pass"};
    for (std::size_t n = 1; n <= mostBells; ++n) // by their numbers, so that each way keeps its order
        for (const char* kind : {"Bell ", "Low shelf ", "High shelf "})
            labels.push_back(kind + std::to_string(n));
    labels.insert(labels.end(), {"Gain", "Polarity", "Delay", "Peak limit", "RMS limit"});
    std::erase_if(labels, [&](const std::string& label) {
        return std::none_of(ways.begin(), ways.end(), [&](const Lines& lines) {
            return std::any_of(lines.begin(), lines.end(), [&](const auto& l) { return l.first == label; });
        });
    });
    text += "\n";
    for (const auto& label : labels) {
        text += quoted(label);
        for (const auto& lines : ways) {
            const auto it = std::find_if(lines.begin(), lines.end(), [&](const auto& l) { return l.first == label; });
            text += "," + quoted(it == lines.end() ? "" : it->second);
        }
        text += "\n";
    }
    return text;
}

} // namespace loom::project
