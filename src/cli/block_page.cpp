#include "cli/block_page.h"
#include "cli/answer.h"
#include "engine/block_kind.h"
#include "engine/path_response.h"
#include <filesystem>
#include <fstream>
#include <iomanip>
#include <sstream>

namespace loom::cli {
namespace block_page { // of this file

using engine::BlockView;

// For the picture of a filter that takes its taps from a file: 48 of them, a Hann window.
engine::Resources exampleTaps() {
    auto clip = std::make_shared<dsp::AudioClip>();
    clip->rate = 48000;
    clip->channels.resize(1);
    for (int n = 0; n < 48; ++n)
        clip->channels[0].push_back(static_cast<float>((1 - std::cos(2 * dsp::pi * (n + 0.5) / 48)) / 48));
    engine::Resources r;
    r.clip = [clip](const std::string&, double) { return clip; };
    return r;
}

// What a block does, drawn: gain over frequency from 20 Hz to 20 kHz, or level out over level in, as the code that runs
// works it out. Empty for a block that has neither.
std::string drawing(const engine::BlockKind& k) {
    engine::Block block{"x", k.id, ""};
    block.values = k.example;
    if (k.taps)
        block.texts["file"] = "hann.txt";
    const BlockView view(block);
    constexpr double width = 360, height = 120;
    const bool transfer = k.picture == engine::Picture::transfer;
    if (!transfer && k.picture != engine::Picture::curve)
        return {};
    std::ostringstream out;
    out << std::fixed << std::setprecision(1) << "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" << width
        << "\" height=\"" << height << "\" viewBox=\"0 0 " << width << " " << height
        << "\"><rect width=\"100%\" height=\"100%\" fill=\"#FBF8F1\"/>\n";
    for (int i = 1; i < 4; ++i) // every 6 dB of 24, or every 20 dB of 80
        out << "<path d=\"M0 " << height * i / 4 << "H" << width << "\" stroke=\"#DDD3C0\"/>\n";
    std::vector<std::vector<double>> lines; // dB at every other pixel; several outputs, and then their sum
    std::vector<double> hz, levels;
    for (int x = 0; x <= static_cast<int>(width); x += 2) {
        hz.push_back(20 * std::pow(1000.0, x / width));
        if (transfer)
            levels.push_back(k.transfer(view.look(), -80 + 80 * x / width));
    }
    if (transfer)
        lines.push_back(levels);
    std::vector<dsp::Complex> sum(hz.size(), 0.0);
    const int outputs = transfer ? 0 : k.channelwise() ? 1 : view.outputs();
    for (int o = 0; o < outputs; ++o) {
        const auto h = engine::blockResponse(block, 0, o, hz, 48000, exampleTaps());
        for (std::size_t i = 0; i < h.size(); ++i)
            sum[i] += h[i];
        lines.push_back(engine::tabulate(hz, h).db);
    }
    if (outputs > 1)
        lines.push_back(engine::tabulate(hz, sum).db);
    for (std::size_t line = 0; line < lines.size(); ++line) {
        const bool ofAll = outputs > 1 && line == lines.size() - 1;
        out << "<path fill=\"none\" stroke=\"#26292E\" stroke-width=\"" << (ofAll ? 1.0 : 2.0)
            << (ofAll ? "\" stroke-dasharray=\"4 3" : "") << "\" d=\"";
        for (std::size_t i = 0; i < lines[line].size(); ++i) {
            const double db = lines[line][i], y = transfer ? -db / 80 * height : height / 2 - db / 24 * height;
            out << (i ? "L" : "M") << 2 * i << " " << std::clamp(y, -10.0, height + 10);
        }
        out << "\"/>\n";
    }
    out << "</svg>\n";
    return out.str();
}

} // namespace block_page

int blockDrawings(const std::string& folder) {
    using namespace block_page;
    std::error_code fault;
    std::filesystem::create_directories(folder, fault);
    for (const auto& k : engine::blockKinds())
        if (const auto svg = drawing(k); !svg.empty()) {
            std::ofstream file(folder + "/" + k.id + ".svg");
            if (!(file << svg))
                return fail({"cannot be written", folder + "/" + k.id + ".svg", "Choose another folder."});
        }
    return 0;
}

// docs/blocks.md: the declarations as a page.
int blocksPage() {
    using namespace block_page;
    const std::pair<engine::Group, const char*> groups[] = {
        {engine::Group::level, "Level"},     {engine::Group::routing, "Routing"},   {engine::Group::filters, "Filters"},
        {engine::Group::delay, "Delay"},     {engine::Group::dynamics, "Dynamics"}, {engine::Group::speech, "Speech"},
        {engine::Group::sources, "Sources"}, {engine::Group::eyes, "Eyes"},         {engine::Group::ends, "Ends"}};
    std::cout << "# Blocks\n\nMade from the declarations by `loomctl blocks --page`; do not edit.\n";
    for (const auto& [group, title] : groups) {
        std::cout << "\n## " << title << "\n";
        for (const auto& k : engine::blockKinds()) {
            if (k.group != group)
                continue;
            const BlockView view(engine::Block{"x", k.id, ""});
            const int late = k.latency ? k.latency(view.look(), 48000) : 0;
            std::cout << "\n### " << k.label << " (`" << k.id << "`)\n\n"
                      << k.purpose << " In: " << view.inputs() << ", out: " << view.outputs();
            for (const auto& s : k.shape)
                std::cout << "; " << s.label << " " << s.min << " to " << s.max;
            std::cout << (late ? "; " + std::to_string(late) + " samples later" : "") << ".\n\n";
            if (!drawing(k).empty())
                std::cout << "![" << k.label
                          << (k.picture == engine::Picture::transfer ? ": level out over level in, \u221280 to 0 dBFS"
                                                                     : ": \u221212 to 12 dB, 20 Hz to 20 kHz")
                          << (k.taps                                   ? "; with a Hann window of 48 taps"
                              : view.outputs() > 1 && !k.channelwise() ? "; dashed: the sum"
                                                                       : "")
                          << "](blocks/" << k.id << ".svg)\n\n";
            if (view.table->size() == 0)
                continue;
            std::cout << "| parameter | range | default |\n|---|---|---|\n";
            std::size_t shown = 0;
            for (const auto& s : view.table->specs()) {
                if (shown++ == 24) {
                    std::cout << "| and " << view.table->size() - 24 << " more of these | | |\n";
                    break;
                }
                std::string range;
                for (const auto& c : s.choices)
                    range += (range.empty() ? "" : ", ") + c;
                if (range.empty())
                    range = s.unit == engine::Unit::onOff
                                ? "on, off"
                                : engine::formatValue(s, s.min) + " to " + engine::formatValue(s, s.max);
                std::cout << "| `" << s.id << "` " << s.label << " | " << range << " | "
                          << engine::formatValue(s, s.def) << " |\n";
            }
        }
    }
    return 0;
}

} // namespace loom::cli
