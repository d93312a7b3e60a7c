// No change of any parameter is heard as a step.
#include "dsp/cascade.h"
#include "dsp/edge.h"
#include "engine/demo_program.h"
#include "engine/runner.h"
#include "test.h"
#include <set>

using namespace loom;
using namespace loom::engine;

namespace {

// What a step of height h leaves behind a steep high-pass far above the tone is a peak of about h/3; the tone itself,
// and any smooth change of it, leaves nothing. The first test measures what a step of -60 dBFS leaves.
double stepIn(const std::vector<float>& x) {
    dsp::Cascade c;
    const auto d = dsp::designEdge(dsp::EdgeShape::butterworth, dsp::EdgeSide::highPass, 8, 9000, 48000);
    c.jumpTo({d.sections.data(), d.count});
    double worst = 0;
    std::vector<float> out(maxFrame);
    for (std::size_t at = 0; at + maxFrame <= x.size(); at += maxFrame) {
        c.process(x.data() + at, out.data(), maxFrame);
        if (at > 52000)
            for (const float v : out)
                worst = std::max(worst, std::abs(static_cast<double>(v)));
    }
    return worst;
}

} // namespace

class TestSmooth : public QObject {
    Q_OBJECT
  private slots:
    void theProbeSeesASmallStep() {
        std::vector<float> x(96000);
        for (std::size_t i = 0; i < x.size(); ++i)
            x[i] = static_cast<float>(std::sin(2 * dsp::pi * 1000 * static_cast<double>(i) / 48000)) +
                   (i > 60000 ? 0.001f : 0.0f);
        limit_ = stepIn(x);
        QVERIFY2(limit_ > 0.0002 && limit_ < 0.001, qPrintable(QString::number(limit_)));
    }

    void everyParameter() {
        double worst = 0;
        std::string where;
        for (const auto& kind : blockKinds()) {
            const BlockView plain(Block{"x", kind.id, ""});
            const std::set<std::string> further = {"matrix",    "selector", "sum",     "splitter", "balance",
                                                   "crossover", "ducker",   "ambient", "automixer"};
            if (!kind.channelwise() && !further.count(kind.id))
                continue;
            for (const auto& s : plain.table->specs()) {
                if (kind.id == "matrix" && s.id != "1.1")
                    continue;
                if (kind.id == "automixer" && s.id.find('.') != std::string::npos && !s.id.starts_with("1."))
                    continue; // all lanes are one code
                if (kind.id == "eq" && s.id.size() > 1 && s.id[0] != '5')
                    continue; // all bands are one code; 5 lies at 1 kHz
                for (const bool up : {true, false}) {
                    const double size = change(kind, s, up);
                    if (size > worst)
                        worst = size, where = kind.id + "." + s.id;
                    QVERIFY2(size < limit_, (kind.id + "." + s.id + (up ? " up " : " down ") +
                                             std::to_string(20 * std::log10(size / limit_) - 60) + " dBFS")
                                                .c_str());
                }
            }
        }
        qInfo("largest step: %.1f dBFS at %s", 20 * std::log10(worst / limit_) - 60, where.c_str());
    }

  private:
    double limit_ = 0;
    // Runs a 1 kHz sine through the block, moves the parameter across its range, and measures the step. The sine is as
    // large as fits full scale at the louder of the two settings.
    double change(const BlockKind& kind, const ParamSpec& s, bool up) {
        Program p;
        p.blocks = {{"g", "generator", ""}, {"x", kind.id, ""}};
        if (kind.id == "matrix")
            p.blocks.change(1).shape = {{"inputs", 1}, {"outputs", 1}};
        p.connections = {{{"g", 0}, {"x", 0}}};
        auto& values = p.blocks.change(1).values;
        if (kind.id == "eq")
            values = {{"5.on", 1}, {"5.gain", 12}, {"5.hz", 1000}};
        if (kind.id == "delay")
            values = {{"time", 3.7}};
        const double most = kind.id == "selector" ? 1 : s.max; // the first input is the one with sound
        const double from = up ? s.min : most, to = up ? most : s.min;
        double loudest = 0;
        for (const double v : {from, to}) {
            values[s.id] = v;
            loudest = std::max(loudest, std::abs(BlockView(p.blocks[1]).response(0, 0, 1000, 48000)));
        }
        p.blocks.change(0).values = {{"level", std::clamp(-20 * std::log10(std::max(loudest, 1.0)), -79.0, 0.0)}};
        values[s.id] = from;
        Runner r(48000, {});
        if (!r.load(p))
            return 1;
        std::vector<float> x;
        for (int frame = 0; frame < 1500; ++frame) {
            if (frame == 900 && !r.set("x", s.id, to))
                return 1;
            r.process({}, maxFrame);
            x.resize(x.size() + maxFrame);
            r.schedule()->read(r.schedule()->bufferOf({"x", 0}), x.data() + x.size() - maxFrame, maxFrame);
        }
        return stepIn(x);
    }
};
LOOM_TEST(tst_smooth, TestSmooth)
#include "tst_smooth.moc"
