// Echo canceller, noise reduction and feedback suppressor with shipped speech in simulated halls.
#include "dsp/cascade.h"
#include "dsp/edge.h"
#include "dsp/noise.h"
#include "engine/echo_room.h"
#include "engine/solo.h"
#include "test.h"

using namespace loom;
using namespace loom::engine;

namespace {

constexpr double speechRate = 48000;
using Sound = std::vector<float>;

// Runs whole sounds through a block, a frame at a time; gives its first output.
Sound through(Solo& solo, const std::vector<const Sound*>& in) {
    Sound out(in[0]->size());
    std::vector<float> rest(maxFrame);
    for (std::size_t at = 0; at + maxFrame <= out.size(); at += maxFrame) {
        std::vector<const float*> ins;
        for (const Sound* s : in)
            ins.push_back(s->data() + at);
        std::vector<float*> outs{out.data() + at};
        while (static_cast<int>(outs.size()) < solo.view().outputs())
            outs.push_back(rest.data());
        solo.run(ins, outs, maxFrame);
    }
    return out;
}

double power(const Sound& x, double from, double to, int late = 0) {
    double sum = 0;
    for (auto i = static_cast<std::size_t>(from * speechRate); i < static_cast<std::size_t>(to * speechRate); ++i)
        sum += std::pow(static_cast<double>(x.at(i + static_cast<std::size_t>(late))), 2);
    return sum;
}
double enhancement(const Sound& before, const Sound& after, double from, double to) {
    return 10 * std::log10(power(before, from, to) / power(after, from, to, 512));
}

} // namespace

class TestSpeech : public QObject {
    Q_OBJECT
    std::unique_ptr<EchoRoom> room_;

  private slots:
    void initTestCase() { room_ = std::make_unique<EchoRoom>(16); }

    void echoIsTakenAway() {
        Solo solo(Block{"e", "echo", ""}, speechRate);
        const auto out = through(solo, {&room_->echo[0], &room_->far});
        const double db = enhancement(room_->echo[0], out, 8, 10);
        qInfo("echo return loss enhancement after 8 s: %.1f dB; shown %.1f dB", db,
              static_cast<double>(solo.kernel().readout(0)));
        QVERIFY(db >= 30);
        QVERIFY(std::abs(static_cast<double>(solo.kernel().readout(0)) - enhancement(room_->echo[0], out, 15, 15.9)) <
                6);
    }

    void movedMicrophoneIsLearnedAnew() {
        Sound walk = room_->echo[0];
        std::copy(room_->moved[0].begin() + 8 * 48000, room_->moved[0].end(), walk.begin() + 8 * 48000);
        Solo solo(Block{"e", "echo", ""}, speechRate);
        const auto out = through(solo, {&walk, &room_->far});
        const double at = enhancement(walk, out, 8, 8.5), later = enhancement(walk, out, 11, 12);
        qInfo("moved 30 cm: %.1f dB in the first half second, %.1f dB in the fourth second", at, later);
        QVERIFY(at < 20); // or the microphone did not move
        QVERIFY(later >= 25);
    }

    void voiceInTheRoomIsKept() {
        Sound both = room_->echo[0], voice(both.size());
        for (std::size_t i = 8 * 48000; i < both.size(); ++i)
            both[i] += voice[i] = room_->near[i];
        Solo solo(Block{"e", "echo", ""}, speechRate);
        const auto out = through(solo, {&both, &room_->far});
        double nn = 0, no = 0, oo = 0;
        for (std::size_t i = 9 * 48000; i + 512 < both.size(); ++i) {
            const double n = static_cast<double>(voice[i]), o = static_cast<double>(out[i + 512]);
            nn += n * n, no += n * o, oo += o * o;
        }
        const double level = 20 * std::log10(no / nn), likeness = no / std::sqrt(nn * oo);
        qInfo("double talk: level of the voice %.2f dB, correlation %.3f", level, likeness);
        QVERIFY(std::abs(level) < 3);
        QVERIFY(likeness > 0.94);
    }

    void lateBlocksAreLateByWhatTheySay() { // a click comes out where the latency says, whole
        for (const char* kind : {"echo", "denoise"}) {
            Block b{"b", kind, ""};
            b.values = {{"suppression", 0}, {"reduction", 0}};
            Solo solo(b, speechRate);
            Sound click(9600), silence(9600);
            click[4000] = 0.5f;
            const auto out = through(solo, {&click, &silence});
            const auto peak = std::max_element(out.begin(), out.end()) - out.begin();
            QCOMPARE(static_cast<int>(peak) - 4000, solo.view().kind->latency(solo.view().look(), speechRate));
            QVERIFY(std::abs(out[static_cast<std::size_t>(peak)] - 0.5f) < 1e-4f);
        }
    }

    void manyMicrophonesAsOne() { // sharing the reference changes nothing
        Block b{"e", "echo", ""};
        Solo one(b, speechRate);
        b.shape["channels"] = 3;
        Solo three(b, speechRate);
        const Sound far(room_->far.begin(), room_->far.begin() + 96000),
            mic(room_->echo[0].begin(), room_->echo[0].begin() + 96000), other(96000, 0.01f);
        QVERIFY(through(one, {&mic, &far}) == through(three, {&mic, &other, &mic, &far}));
    }

    void noiseGoesSpeechStays() {
        Sound speech = EchoRoom::voice("delegate-1.flac", 10 * 48000), noisy = speech;
        dsp::PinkNoise pink;
        for (std::size_t i = 0; i < speech.size(); ++i) {
            const auto second = i / 48000;
            if (second < 2 || second == 6) // pauses to measure the noise in
                speech[i] = 0;
            noisy[i] = speech[i] + static_cast<float>(0.02 * pink.step());
        }
        Solo solo(Block{"n", "denoise", ""}, speechRate);
        const auto out = through(solo, {&noisy});
        const double pause = enhancement(noisy, out, 1, 1.9), later = enhancement(noisy, out, 6.3, 6.9);
        double ss = 0, so = 0, before = 0, after = 0;
        for (std::size_t i = 2 * 48000; i + 512 < speech.size(); ++i) {
            const double s = static_cast<double>(speech[i]), o = static_cast<double>(out[i + 512]),
                         n = static_cast<double>(noisy[i]);
            ss += s * s, so += s * o, before += (n - s) * (n - s), after += (o - s) * (o - s);
        }
        const double level = 20 * std::log10(so / ss), gained = 10 * std::log10(before / after);
        qInfo("noise in pauses %.1f and %.1f dB down, speech %.2f dB, signal to noise ratio %.1f dB better", pause,
              later, level, gained);
        QVERIFY(pause > 9 && later > 9 && pause < 13);
        QVERIFY(std::abs(level) < 1);
        QVERIFY(gained > 2);
    }

    void ringingIsFoundAndHeldDown() { // a loop 4 dB above the point where it may ring
        acoustics::Shoebox box{{9, 7, 3}, {}};
        box.absorption.fill(0.3);
        auto h = acoustics::imageSourceResponse(box, {4.5, 0.4, 2.4}, {4, 4, 1.2}, speechRate, 8192);
        dsp::Cascade loudspeaker; // gives neither the lowest nor the highest; image sources do
        const auto low = dsp::designEdge(dsp::EdgeShape::butterworth, dsp::EdgeSide::highPass, 4, 120, speechRate),
                   high = dsp::designEdge(dsp::EdgeShape::butterworth, dsp::EdgeSide::lowPass, 2, 5000, speechRate);
        std::vector<dsp::Section> both(low.sections.begin(), low.sections.begin() + static_cast<long>(low.count));
        both.insert(both.end(), high.sections.begin(), high.sections.begin() + static_cast<long>(high.count));
        loudspeaker.jumpTo(both);
        for (std::size_t at = 0; at + maxFrame <= h.size(); at += maxFrame)
            loudspeaker.process(h.data() + at, h.data() + at, maxFrame);
        double strongest = 0; // loop gain at the frequency where it is highest
        for (double hz = 100; hz < 10000; hz *= 1.002) {
            dsp::Complex sum = 0;
            for (std::size_t i = 0; i < h.size(); i += 1)
                sum += static_cast<double>(h[i]) *
                       std::polar(1.0, -2 * dsp::pi * hz / speechRate * static_cast<double>(i));
            strongest = std::max(strongest, std::abs(sum));
        }
        const auto taps = std::make_shared<dsp::ConvolverTaps>(h);
        const auto speech = EchoRoom::voice("delegate-1.flac", 12 * 48000);
        const auto loudest = [&](Solo& solo) {
            dsp::Convolver air(taps);
            const auto gain = static_cast<float>(1.6 / strongest);
            std::vector<float> back(maxFrame), mic(maxFrame), out(maxFrame);
            float worst = 0;
            for (std::size_t at = 0; at + maxFrame <= speech.size(); at += maxFrame) {
                for (std::size_t i = 0; i < maxFrame; ++i)
                    mic[i] = std::clamp(0.05f * speech[at + i] + back[i], -1.0f, 1.0f); // the amplifier's limit
                std::vector<const float*> in{mic.data()};
                std::vector<float*> to{out.data()};
                solo.run(in, to, maxFrame);
                air.process(out.data(), back.data(), maxFrame);
                for (float& x : back)
                    x *= gain;
                if (at > 8 * 48000)
                    for (const float x : out)
                        worst = std::max(worst, std::abs(x));
            }
            return worst;
        };
        Block off{"f", "feedback", ""};
        off.values = {{"on", 0}};
        Solo without(off, speechRate), with(Block{"f", "feedback", ""}, speechRate);
        const float rings = loudest(without), held = loudest(with);
        qInfo("loudest after 8 s: %.2f without, %.3f with %g notches", static_cast<double>(rings),
              static_cast<double>(held), static_cast<double>(with.kernel().readout(0)));
        QVERIFY(rings > 0.9f);
        QVERIFY(held < 0.3f);
        QVERIFY(with.kernel().readout(0) >= 1);
        const float hz = with.kernel().readout(1), depth = with.kernel().readout(2);
        QVERIFY(hz > 80 && hz < 14000 && depth <= -5.9f);
        // Freed when asked.
        with.kernel().set(with.view().table->indexOf("clear"), 1);
        Sound quiet(48000);
        (void)through(with, {&quiet});
        QCOMPARE(with.kernel().readout(0), 0.0f);
        QCOMPARE(with.kernel().readout(1), 0.0f);
    }

    void speechAndMusicAreNotRinging() {
        for (const char* file : {"delegate-1.flac", "delegate-2.flac", "far-end.flac", "programme-l.flac"}) {
            Solo solo(Block{"f", "feedback", ""}, speechRate);
            const auto x = EchoRoom::voice(file, 10 * 48000);
            (void)through(solo, {&x});
            QVERIFY2(solo.kernel().readout(0) == 0, file);
        }
    }
};
LOOM_TEST(tst_speech, TestSpeech)
#include "tst_speech.moc"
