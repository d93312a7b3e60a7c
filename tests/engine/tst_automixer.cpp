// The automatic mixer in a reverberant hall: the shipped speech of two delegates through image sources, ten
// microphones.
#include "acoustics/image_source.h"
#include "dsp/audio_file.h"
#include "dsp/convolver.h"
#include "engine/solo.h"
#include "test.h"
#include <random>

using namespace loom;
using namespace loom::engine;

namespace {

constexpr int lanes = 10, talkers = 2;
constexpr double rate = 48000, seconds = 10;
const acoustics::Point hall{14, 10, 4};

acoustics::Point microphone(int lane) { // along a horseshoe, one and a half metres apart
    const double angle = 3.14159 * (lane + 0.5) / lanes;
    return {7 + 4.5 * std::cos(angle), 2 + 4 * std::sin(angle), 1.1};
}
acoustics::Point mouth(int lane) { // 40 cm behind and above its microphone
    const auto m = microphone(lane);
    const double angle = 3.14159 * (lane + 0.5) / lanes;
    return {m[0] + 0.36 * std::cos(angle), m[1] + 0.36 * std::sin(angle), 1.3};
}

// Somebody who reads without taking breath for longer than a fifth of a second.
std::vector<float> withoutPauses(const std::vector<float>& x) {
    std::vector<float> y;
    std::size_t quiet = 1 << 20;
    for (const float v : x) {
        quiet = std::abs(v) > 0.01f ? 0 : quiet + 1;
        if (quiet < 9600)
            y.push_back(v);
    }
    return y;
}

std::vector<float> through(const std::vector<float>& x, const std::vector<float>& h) {
    std::vector<float> y(x.size());
    dsp::Convolver c(std::make_shared<dsp::ConvolverTaps>(h));
    c.process(x.data(), y.data(), static_cast<int>(x.size()));
    return y;
}

// When the first word begins at its microphone: the first 5 ms within 13 dB of the talker's loudest that stand 3 dB
// above everything else that is heard there (before that the voice is buried in the other's).
double wordAt(const std::vector<float>& own, const std::vector<float>& all) {
    std::vector<double> voice, rest;
    for (std::size_t i = 0; i + 240 <= own.size(); i += 240) {
        double p = 0, q = 0;
        for (std::size_t k = i; k < i + 240; ++k)
            p += static_cast<double>(own[k]) * own[k], q += std::pow(static_cast<double>(all[k]) - own[k], 2);
        voice.push_back(p), rest.push_back(q);
    }
    const double loudest = *std::max_element(voice.begin(), voice.end());
    std::size_t first = 0;
    while (voice[first] < 0.05 * loudest || voice[first] < 2 * rest[first])
        ++first;
    return static_cast<double>(first) * 240 / rate;
}

} // namespace

class TestAutomixer : public QObject {
    Q_OBJECT
    const int lane_[talkers] = {2, 6};
    std::vector<std::vector<float>> speech_, sound_,
        own_{talkers}; // at the mouths; at the microphones; own voices there

  private slots:
    void initTestCase() {
        const char* files[talkers] = {"delegate-2.flac", "delegate-6.flac"};
        for (const char* file : files) {
            dsp::AudioClip clip;
            std::string error;
            QVERIFY(dsp::readClip(std::string(LOOM_SOURCE_DIR "/demo/marram-point/assets/") + file, rate, clip, error));
            // From the first word on, over and over; the second joins in after 3 s.
            const auto x = withoutPauses(clip.channels[0]);
            const auto start = static_cast<std::size_t>(speech_.empty() ? rate : 3 * rate);
            std::vector<float> y(static_cast<std::size_t>(rate * seconds));
            for (std::size_t i = 0; i < y.size(); ++i)
                y[i] = i < start ? 0 : x[(i - start) % x.size()];
            speech_.push_back(y);
        }
        acoustics::Shoebox box{hall, {}};
        box.absorption.fill(acoustics::absorptionForReverberation(hall, 0.6));
        std::mt19937 random(1);
        std::normal_distribution<float> hiss(0, 3e-5f);
        for (int m = 0; m < lanes; ++m) {
            std::vector<float> at(static_cast<std::size_t>(rate * seconds));
            for (int t = 0; t < talkers; ++t) {
                const auto h = acoustics::imageSourceResponse(box, mouth(lane_[t]), microphone(m), rate, 16000);
                const auto y = through(speech_[static_cast<std::size_t>(t)], h);
                for (std::size_t i = 0; i < at.size(); ++i)
                    at[i] += y[i];
                if (m == lane_[t])
                    own_[static_cast<std::size_t>(t)] = y;
            }
            for (auto& v : at)
                v += hiss(random);
            sound_.push_back(at);
        }
    }

    void ownLanesOpenAndOthersStayClosed() {
        Block b{"b", "automixer", "", {{"lanes", lanes}}};
        b.values = {{"depth", -80}, {"limit", 4}, {"last", 0}, {"hold", 300}, {"release", 100}};
        Solo mixer(b, rate);
        std::vector<const float*> in(lanes);
        std::vector<std::vector<float>> outs(lanes + 1, std::vector<float>(maxFrame));
        std::vector<float*> out;
        for (auto& o : outs)
            out.push_back(o.data());
        double opened[talkers] = {-1, -1};
        long frames = 0;
        std::vector<long> open(lanes, 0);
        const auto total = static_cast<std::size_t>(rate * seconds);
        for (std::size_t at = 0; at + maxFrame <= total; at += maxFrame) {
            for (std::size_t m = 0; m < lanes; ++m)
                in[m] = sound_[m].data() + at;
            mixer.run(in, out, maxFrame);
            ++frames;
            for (int m = 0; m < lanes; ++m) {
                const bool is = mixer.kernel().readout(1 + m) > -10;
                open[static_cast<std::size_t>(m)] += is;
                for (int t = 0; t < talkers; ++t)
                    if (is && m == lane_[t] && opened[t] < 0 && static_cast<double>(at) > rate * (t == 0 ? 1.0 : 3.0))
                        opened[t] = static_cast<double>(at + maxFrame) / rate;
            }
        }
        for (int t = 0; t < talkers; ++t) {
            const auto n = static_cast<std::size_t>(t);
            const double late = opened[t] - wordAt(own_[n], sound_[static_cast<std::size_t>(lane_[t])]);
            qInfo("lane of talker %d opened %.1f ms after the word", t, 1000 * late);
            QVERIFY(opened[t] > 0 && late < 0.025);
        }
        for (int m = 0; m < lanes; ++m) {
            const double part = static_cast<double>(open[static_cast<std::size_t>(m)]) / static_cast<double>(frames);
            const bool own = m == lane_[0] || m == lane_[1];
            double speaking = 0;
            if (own) { // of the 20 ms pieces in which its talker speaks
                const auto& x = speech_[m == lane_[0] ? 0 : 1];
                double loudest = 0, speaks = 0;
                std::vector<double> power;
                for (std::size_t i = 0; i + 960 <= x.size(); i += 960) {
                    double p = 0;
                    for (std::size_t k = i; k < i + 960; ++k)
                        p += static_cast<double>(x[k]) * x[k];
                    power.push_back(p), loudest = std::max(loudest, p);
                }
                for (const double p : power)
                    speaks += p > loudest * 0.003;
                speaking = speaks / static_cast<double>(power.size());
                qInfo("its talker speaks %.1f %% of the time", 100 * speaking);
            }
            qInfo("lane %d open %.1f %% of the time%s", m, 100 * part, own ? " (talker)" : "");
            QVERIFY(own ? part > 0.3 : part < 0.05);
        }
    }

    void limitLastAndSharing() {
        Block b{"b", "automixer", "", {{"lanes", 4}}};
        b.values = {{"limit", 1}, {"last", 1}, {"hold", 50}, {"depth", -80}};
        const auto gains = [&](const Block& block, double hearing) {
            Solo mixer(block, rate);
            std::vector<std::vector<float>> ins(4, std::vector<float>(maxFrame)), outs(5, std::vector<float>(maxFrame));
            std::vector<const float*> in;
            std::vector<float*> out;
            for (auto& v : ins)
                in.push_back(v.data());
            for (auto& v : outs)
                out.push_back(v.data());
            for (int frame = 0; frame < 3000; ++frame) {
                for (int i = 0; i < maxFrame; ++i) { // quiet, then lane 2 loud and lane 3 nearly so, then quiet
                    const double s = std::sin(2 * dsp::pi * 800 / rate * (frame * maxFrame + i));
                    const bool talk = frame > 800 && frame < hearing;
                    for (std::size_t l = 0; l < 4; ++l)
                        ins[l][static_cast<std::size_t>(i)] = static_cast<float>(s * (talk && l == 1   ? 0.2
                                                                                      : talk && l == 2 ? 0.15
                                                                                                       : 1e-4));
                }
                mixer.run(in, out, maxFrame);
            }
            std::vector<double> g;
            for (int l = 0; l < 4; ++l)
                g.push_back(mixer.kernel().readout(1 + l));
            return g;
        };
        auto g = gains(b, 1e9);
        QVERIFY(g[1] > -1 && g[0] < -60 && g[2] < -60 && g[3] < -60);
        g = gains(b, 1500); // nobody speaks any more: the latest stays open
        QVERIFY(g[1] > -1 && g[2] < -60);
        b.values["last"] = 0;
        g = gains(b, 1500);
        QVERIFY(g[1] < -60);
        b.values["mode"] = 1; // gain sharing: powers of the gains add up to one
        g = gains(b, 1e9);
        double sum = 0;
        for (const double db : g)
            sum += std::pow(10, db / 10);
        QVERIFY2(std::abs(sum - 1) < 0.01, qPrintable(QString::number(sum)));
    }

    // Two lanes with noise: somebody speaks at the first, something happens at the second.
    static std::vector<std::vector<double>> gainsOf(Block b, const std::vector<std::vector<float>>& sound, int lanes_) {
        Solo mixer(b, rate);
        const auto ins = sound.size();
        std::vector<std::vector<float>> outs(static_cast<std::size_t>(lanes_) + 1, std::vector<float>(maxFrame));
        std::vector<const float*> in(ins);
        std::vector<float*> out;
        for (auto& o : outs)
            out.push_back(o.data());
        std::vector<std::vector<double>> gains(static_cast<std::size_t>(lanes_));
        for (std::size_t at = 0; at + maxFrame <= sound[0].size(); at += maxFrame) {
            for (std::size_t i = 0; i < ins; ++i)
                in[i] = sound[i].data() + at;
            mixer.run(in, out, maxFrame);
            for (int l = 0; l < lanes_; ++l)
                gains[static_cast<std::size_t>(l)].push_back(mixer.kernel().readout(1 + l));
        }
        return gains;
    }
    static std::vector<float> hissOf(double seconds_, float level, unsigned seed) {
        std::vector<float> x(static_cast<std::size_t>(rate * seconds_));
        std::mt19937 random(seed);
        std::normal_distribution<float> hiss(0, level);
        for (float& v : x)
            v = hiss(random);
        return x;
    }
    // A knock (10 ms, dying away with the room's 0.6 s), and keys that go on for two seconds.
    void knocksAreOverAtOnce() {
        auto speaks = hissOf(8, 1e-4f, 1), knocked = hissOf(8, 1e-4f, 2);
        for (std::size_t i = static_cast<std::size_t>(rate); i < speaks.size(); ++i)
            speaks[i] += 0.5f * speech_[0][i];
        std::mt19937 random(9);
        std::normal_distribution<float> one(0, 1);
        const auto click = [&](double at, double level, double direct) {
            const auto from = static_cast<std::size_t>(at * rate);
            for (std::size_t i = 0; from + i < knocked.size() && i < 30000; ++i) {
                const double t = static_cast<double>(i) / rate;
                const double e = t < direct ? level : level * 0.12 * std::pow(10, -3 * t / 0.6);
                knocked[from + i] += static_cast<float>(e * one(random));
            }
        };
        click(3, 0.3, 0.010);
        for (int k = 0; k < 10; ++k)
            click(5 + 0.2 * k, 0.03, 0.006);
        for (const double limit : {1.0, 2.0}) {
            Block b{"b", "automixer", "", {{"lanes", 2}}};
            b.values = {{"limit", limit}, {"depth", -40}, {"last", 1}, {"decay", 0.6}};
            const auto g = gainsOf(b, {speaks, knocked}, 2);
            double longest = 0, now = 0;
            for (const double db : g[1]) {
                now = db > -12 ? now + 1000.0 * maxFrame / rate : 0;
                longest = std::max(longest, now);
            }
            qInfo("limit %.0f: longest open %.0f ms", limit, longest);
            QVERIFY(longest > 0 && longest <= 250);
            double least = 0; // of who speaks, from when he does
            for (std::size_t i = static_cast<std::size_t>(1.3 * rate / maxFrame); i < g[0].size(); ++i)
                least = std::min(least, g[0][i]);
            QVERIFY2(least > -4, qPrintable(QString::number(least)));
        }
    }
    // Loudspeakers play what the far end says: it opens nothing, from the first word on; who speaks in the room does.
    void whatLoudspeakersPlayOpensNothing() {
        const auto far = speech_[1];
        for (const double gain : {0.03, 0.3, 2.0}) {
            std::vector<std::vector<float>> sound{hissOf(10, 1e-4f, 3), hissOf(10, 1e-4f, 4), far};
            for (std::size_t i = 480; i < far.size(); ++i) {
                sound[0][i] += static_cast<float>(gain * far[i - 480]);
                sound[1][i] += static_cast<float>(0.5 * gain * far[i - 400]);
            }
            Block b{"b", "automixer", "", {{"lanes", 2}, {"heard", 1}}};
            b.values = {{"depth", -40}, {"last", 0}};
            const auto quiet = gainsOf(b, sound, 2);
            for (const auto& lane : quiet)
                QVERIFY2(*std::max_element(lane.begin(), lane.end()) < -30, qPrintable(QString::number(gain)));
            b.shape["heard"] = 0; // without hearing them it opens
            auto deaf = sound;
            deaf.pop_back();
            const auto opened = gainsOf(b, deaf, 2);
            QVERIFY(*std::max_element(opened[0].begin(), opened[0].end()) > -6);
            b.shape["heard"] = 1;
            const auto from = static_cast<std::size_t>(8 * rate); // louder than what comes back
            std::vector<float> own(sound[0].size(), 0.0f);
            for (std::size_t i = from; i < own.size(); ++i)
                own[i] = static_cast<float>(std::max(1.0, 4 * gain)) * speech_[0][i - from + 48000];
            for (std::size_t i = from; i < own.size(); ++i)
                sound[0][i] += own[i];
            const auto both = gainsOf(b, sound, 2);
            const auto opens = std::find_if(both[0].begin() + static_cast<long>(from / maxFrame), both[0].end(),
                                            [](double db) { return db > -6; });
            const double late =
                1000 * (static_cast<double>((opens - both[0].begin()) * maxFrame) / rate - wordAt(own, sound[0]));
            qInfo("loudspeakers heard at %.0f dB: opens %.0f ms after the word", 20 * std::log10(gain), late);
            QVERIFY(opens != both[0].end() && late < 300); // the last syllable of the far end is still believed in
        }
    }

    void whoSpeaksKeepsTheFloor() { // lane 2 speaks first, then lane 1 louder as well, then lane 2 falls silent
        const auto opens = [](double lock, double priority) {
            Block b{"b", "automixer", "", {{"lanes", 3}}};
            b.values = {{"lock", lock}, {"1.priority", priority}, {"hold", 100}, {"last", 0}, {"margin", 0}};
            Solo mixer(b, rate);
            std::vector<std::vector<float>> ins(3, std::vector<float>(maxFrame)), outs(4, std::vector<float>(maxFrame));
            std::vector<const float*> in{ins[0].data(), ins[1].data(), ins[2].data()};
            std::vector<float*> out{outs[0].data(), outs[1].data(), outs[2].data(), outs[3].data()};
            std::vector<bool> open;
            for (int frame = 0; frame < 3000; ++frame) {
                for (int i = 0; i < maxFrame; ++i) {
                    const int n = frame * maxFrame + i;
                    const double one = std::sin(2 * dsp::pi * 800 / rate * n),
                                 two = std::sin(2 * dsp::pi * 1300 / rate * n);
                    const auto at = static_cast<std::size_t>(i);
                    ins[0][at] = static_cast<float>(one * (frame > 1200 ? 0.3 : 1e-4));
                    ins[1][at] = static_cast<float>(two * (frame > 800 && frame < 2000 ? 0.2 : 1e-4));
                    ins[2][at] = static_cast<float>(one * 1e-4);
                }
                mixer.run(in, out, maxFrame);
                if (frame == 1900 || frame == 2900)
                    open.insert(open.end(), {mixer.kernel().readout(1) > -6, mixer.kernel().readout(2) > -6});
            }
            return open;
        };
        QCOMPARE(opens(1, 0), (std::vector<bool>{false, true, true, false})); // his turn comes when the other is done
        QVERIFY(opens(0, 0)[0]);
        QVERIFY(opens(1, 1)[0]);
    }
};
LOOM_TEST(tst_automixer, TestAutomixer)
#include "tst_automixer.moc"
