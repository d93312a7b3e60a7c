// What Speakers reads from outside: sheets, response files, voicings, set-ups of amplifiers. Places lie inside the
// text, what is taken can be drawn, and its own text reads back the same.
#include "voicings/output_figures.h"
#include "voicings/voicing_edit.h"
#include "voicings/voicing_fields.h"
#include "voicings/voicing_library.h"
#include <cmath>
#include <cstdlib>

using namespace loom;

namespace {

void draw(const project::Project& p, const project::Voicing& v) {
    for (const auto& h : project::curvesOf(p, v, {50, 1000, 12000}).sum)
        (void)std::abs(h);
    for (int way = -1; way < static_cast<int>(v.ways.size()); ++way)
        (void)project::fieldsOf(v, way);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    auto sheet = loudspeaker::readSheet(text);
    for (const auto& u : sheet.unread)
        if (u.line >= sheet.lines.size() || u.from >= u.to || u.to > sheet.lines[u.line].size())
            std::abort();
    for (auto& f : sheet.fields) {
        if (f.line >= sheet.lines.size() || f.from >= f.to || f.to > sheet.lines[f.line].size() || f.way < 0 ||
            f.way > static_cast<int>(sheet.ways.size()))
            std::abort();
        (void)loudspeaker::textOf(f);
        if (!f.sure())
            loudspeaker::answer(f, size % f.ask.size());
    }
    std::vector<std::string> over;
    project::Project p;
    draw(p, project::voicingFrom(sheet, {}, "fuzz", &over));
    if (const auto r = loudspeaker::readResponse(text, "fuzz"))
        for (std::size_t i = 1; i < r->hz.size(); ++i)
            if (!(r->hz[i] > r->hz[i - 1]))
                std::abort();
    if (const auto file = project::readVoicings(text, "fuzz")) {
        std::vector<std::string> made;
        const auto with = project::withVoicings(p, *file, &made);
        for (const auto& id : made)
            draw(with, *with.voicing(id));
        const auto again = project::readVoicings(project::voicingText(with, made), "again");
        if (!again || again->voicings.size() != made.size())
            std::abort();
    }
    if (const auto file = project::readSetups(text, "fuzz")) {
        static const project::Project base = [] {
            project::Project one;
            one.devices = {{"amp", "Amp", "treadle-4", ""}, {"l", "L", "oakhaven-x2", ""}};
            return one;
        }();
        if (const auto then = project::withSetup(base, "amp", *file, 0))
            (void)project::editSpeakers(base, *then, "fuzz");
    }
    return 0;
}
