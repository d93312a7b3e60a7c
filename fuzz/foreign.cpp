// Files of others: curves in any dialect, DXF plans, patterns of makers' sheets. What is taken lies where it says it
// does, and our own text of it reads back the same.
#include "dsp/text.h"
#include "loudspeaker/curve_file.h"
#include "rooms/dxf_plan.h"
#include "voicings/sheet_patterns.h"
#include <cmath>
#include <cstdlib>

using namespace loom;

namespace {

void curves(const std::string& text, std::size_t choice) {
    using namespace loudspeaker;
    for (const auto use : {CurveUse::response, CurveUse::impedance, CurveUse::calibration}) {
        CurveAnswers answers;
        for (int guard = 0; guard < 8; ++guard) {
            const auto r = readCurve(text, "fuzz", use, answers);
            if (!r)
                break;
            if (r->curve.hz.size() != r->curve.db.size() || r->curve.hz.size() != r->curve.deg.size())
                std::abort();
            for (std::size_t i = 0; i < r->curve.hz.size(); ++i)
                if (!std::isfinite(r->curve.db[i]) || !std::isfinite(r->curve.deg[i]) ||
                    (i > 0 && !(r->curve.hz[i] > r->curve.hz[i - 1])))
                    std::abort();
            if (r->open.empty()) {
                const auto again = readResponse(curveText(r->curve, use), "again");
                if (!again || again->hz != r->curve.hz || again->db != r->curve.db)
                    std::abort();
                break;
            }
            for (const auto& q : r->open) {
                if (q.choices.empty() || q.likely >= q.choices.size())
                    std::abort();
                answers[q.topic] = choice % q.choices.size();
            }
        }
    }
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    if (utf8Of(text).size() > 3 * text.size() + 3)
        std::abort();
    curves(text, size);
    if (const auto plan = project::readDxfPlan(text, "fuzz")) {
        for (const auto& line : plan->lines)
            if (std::size_t(line.first) + line.count > plan->points.size() || line.layer < 0 ||
                static_cast<std::size_t>(line.layer) >= plan->layers.size())
                std::abort();
        for (const auto& p : plan->points)
            if (!std::isfinite(p.x) || !std::isfinite(p.y))
                std::abort();
        if (plan->points.size() < 20000)
            for (const auto& o : project::outlinesOf(*plan, {}, plan->likelyMetres()))
                if (o.corners.size() < 3 || !(o.area >= 2))
                    std::abort();
    }
    if (const auto pattern = project::readPattern(text, "fuzz")) {
        const auto again = project::readPattern(project::patternText(*pattern), "again");
        if (!again || project::patternText(*again) != project::patternText(*pattern))
            std::abort();
        (void)loudspeaker::readSheet("Trim A  -3 dB\nHPF 80 Hz BW24\n", {*pattern});
    }
    return 0;
}
