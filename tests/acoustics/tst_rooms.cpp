// The room layer against tests/vectors/make-rooms.py, published figures, and simple cases worked out by hand.
#include "acoustics/band_response.h"
#include "acoustics/ceiling_grid.h"
#include "acoustics/decay.h"
#include "acoustics/field.h"
#include "acoustics/image_source.h"
#include "acoustics/loop_gain.h"
#include "acoustics/map.h"
#include "acoustics/noise_curve.h"
#include "acoustics/octaves.h"
#include "acoustics/pick_up.h"
#include "test.h"
#include <QFile>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>

using namespace loom::acoustics;
using nlohmann::json;

class TestRooms : public QObject {
    Q_OBJECT
    json all_;

    static bool near(double a, double b, double relative) { return std::abs(a - b) <= relative * std::abs(b); }
    Reverberation roomOf(const json& r) {
        std::vector<Surface> surfaces;
        for (std::size_t i = 0; i < 6; ++i)
            surfaces.push_back({r["areas"][i], r["absorption"][i].get<Bands>()});
        const auto size = r["size"].get<std::vector<double>>();
        return reverberation(size[0] * size[1] * size[2], surfaces, {r["celsius"], r["humidity"], 101.325});
    }
    // The loop itself, a sample at a time: does it ring up?
    static bool rings(const std::vector<float>& h, double gainDb) {
        std::vector<double> out(48000, 0.0);
        const double g = std::pow(10, gainDb / 20);
        std::mt19937 noise(3);
        for (std::size_t n = 0; n < out.size(); ++n) {
            double v = n < 2000 ? double(noise()) / 4294967296.0 - 0.5 : 0;
            for (std::size_t k = 1; k < h.size() && k <= n; ++k)
                v += g * h[k] * out[n - k];
            out[n] = v;
            if (std::abs(v) > 1e6)
                return true;
        }
        double early = 0, late = 0;
        for (std::size_t n = 0; n < 8000; ++n)
            early = std::max(early, std::abs(out[24000 + n])), late = std::max(late, std::abs(out[40000 + n]));
        return late > early;
    }

  private slots:
    void initTestCase() {
        QFile file(LOOM_SOURCE_DIR "/tests/vectors/rooms.json");
        QVERIFY(file.open(QIODevice::ReadOnly));
        all_ = json::parse(file.readAll().toStdString());
    }
    void airAsInTheStandard() { // ISO 9613-2, table 2: dB/km at 20 degrees and 70 %
        const Bands wanted{0.1, 0.3, 1.1, 2.8, 5.0, 9.0, 22.9, 76.6};
        for (std::size_t b = 0; b < bandCount; ++b)
            QVERIFY2(std::abs(airAttenuation(1000 * std::pow(10, 0.3 * (double(b) - 4)), {20, 70, 101.325}) * 1000 -
                              wanted[b]) < 0.06 + 0.01 * wanted[b],
                     qPrintable(QString::number(bandHz[b])));
        QVERIFY(std::abs(speedOfSound({20, 50, 101.325}) - 343.2) < 0.1);
    }
    void reverberationMatches() {
        for (const auto& r : all_["rooms"]) {
            const auto got = roomOf(r);
            for (std::size_t b = 0; b < bandCount; ++b) {
                QVERIFY(near(got.sabine[b], r["sabine"][b], 0.001));
                QVERIFY(near(got.eyring[b], r["eyring"][b], 0.001));
                QVERIFY(near(got.constant[b], r["constant"][b], 0.001));
            }
        }
        // By hand: 200 m3, 40 m2 of absorption, air of no weight at 63 Hz: 0.161 * 200 / 40.
        const Surface s[] = {{210, filled(40.0 / 210)}};
        QVERIFY(near(reverberation(200, s).sabine[0], 0.161 * 200 / 40, 0.003));
        QVERIFY(near(criticalDistance(1, 40), 0.141 * std::sqrt(40.0), 0.002));
    }
    void patternsHaveTheirFactors() {
        for (const auto& s : all_["scenes"]) {
            const Directivity d(s["horizontal"].get<Bands>(), s["vertical"].get<Bands>());
            for (std::size_t b = 0; b < bandCount; ++b)
                QVERIFY2(std::abs(10 * std::log10(d.factor()[b] / s["factor"][b].get<double>())) < 0.05,
                         qPrintable(QString("%1 against %2").arg(d.factor()[b]).arg(s["factor"][b].get<double>())));
        }
        QVERIFY(near(Directivity().factor()[4], 1, 1e-9));
        const Directivity ninety(filled(90), filled(90));
        const Aim down = aimed(0, -90);
        QVERIFY(std::abs(ninety.towards(down, {1, 0, -1})[4] + 6) < 1e-9); // half of 90 degrees: -6 dB
        QVERIFY(std::abs(ninety.towards(down, {0, 0, -1})[4]) < 1e-9);
        QVERIFY(near(microphoneFactor(0.5), 3, 1e-9) && near(microphoneFactor(0.25), 4, 1e-9)); // published: 3 and 4
        QVERIFY(std::abs(microphoneLevel(0.5, 90) + 6.02) < 0.01);
    }
    void scenesMatch() {
        double level = 0, sti = 0, clarity = 0;
        for (const auto& s : all_["scenes"]) {
            const auto& r = all_["rooms"][s["room"].get<std::size_t>()];
            const Directivity pattern(s["horizontal"].get<Bands>(), s["vertical"].get<Bands>());
            Field f;
            f.room = roomOf(r), f.decay = f.room.eyring, f.noise = s["noise"].get<Bands>();
            f.air = {r["celsius"], r["humidity"], 101.325};
            for (const auto& e : s["emitters"])
                f.emitters.push_back(
                    {e["at"].get<Point>(), aimed(e["turn"], e["tilt"]), e["level"].get<Bands>(), &pattern, e["delay"]});
            const Prediction p(f);
            for (const auto& place : s["places"]) {
                const auto v = p.at(place["at"].get<Point>());
                for (std::size_t b = 0; b < bandCount; ++b) {
                    level = std::max(level, std::abs(v.direct[b] - place["direct"][b].get<double>()));
                    level = std::max(level, std::abs(v.total[b] - place["total"][b].get<double>()));
                }
                level = std::max(level, std::abs(v.totalA - place["totalA"].get<double>()));
                sti = std::max(sti, std::abs(v.sti - place["sti"].get<double>()));
                clarity = std::max(clarity, std::abs(v.clarity - place["c50"].get<double>()));
            }
        }
        qInfo("levels within %.4f dB, STI within %.5f, C50 within %.4f dB", level, sti, clarity);
        QVERIFY(level < 0.2 && sti < 0.02 && clarity < 0.2);
    }
    void imagesMatchSampleBySample() {
        for (const auto& i : all_["images"]) {
            Shoebox box{i["size"].get<Point>(), i["absorption"].get<std::array<double, 6>>()};
            const auto wanted = i["response"].get<std::vector<double>>();
            const auto got = imageSourceResponse(box, i["source"].get<Point>(), i["receiver"].get<Point>(), i["rate"],
                                                 static_cast<int>(wanted.size()), i["speed"]);
            double rest = 0, whole = 0;
            for (std::size_t n = 0; n < wanted.size(); ++n)
                rest += std::pow(got[n] - wanted[n], 2), whole += wanted[n] * wanted[n];
            qInfo("residual %.1f dB", 10 * std::log10(rest / whole));
            QVERIFY(10 * std::log10(rest / whole) < -60);
        }
    }
    // Where all octaves are the same, it is the response of image sources; each octave alone is that of its walls.
    void bandsOfImages() {
        const Point size{7, 5.2, 3.1}, from{1.2, 1.7, 1.4}, to{5.1, 3.3, 1.2};
        const auto plain = [](const Point&, const Point&) { return filled(1); };
        BandBox even{size, {}, {}, 343.2};
        even.absorption.fill(filled(0.3));
        Shoebox same{size, {}};
        same.absorption.fill(0.3);
        const auto h = bandResponse(even, from, to, 48000, 12000, plain);
        const auto wanted = imageSourceResponse(same, from, to, 48000, 12000);
        std::vector<float> difference(wanted.size()), whole(wanted.size());
        for (std::size_t i = 0; i < wanted.size(); ++i) {
            whole[i] = static_cast<float>(wanted[i] * 4 * std::numbers::pi);
            difference[i] = h[i] - whole[i];
        }
        for (const double hz : {125.0, 1000.0, 8000.0}) { // late images have fewer taps, which shows above 16 kHz
            double error = 0, all = 0;
            for (const double v : octaveBand(difference, hz, 48000))
                error += v * v;
            for (const double v : octaveBand(whole, hz, 48000))
                all += v * v;
            qInfo("a response of one kind of walls differs by %.1f dB at %.0f Hz", 10 * std::log10(error / all), hz);
            QVERIFY(error < all * 1e-4);
        }
        // Walls that take more the higher the octave, air that takes 0.1 dB/m of 4 kHz, a source that is half as strong
        // from 500 Hz on and a quarter as strong from 4 kHz on.
        BandBox uneven = even;
        for (auto& wall : uneven.absorption)
            wall = {0.05, 0.08, 0.12, 0.2, 0.3, 0.4, 0.5, 0.6};
        uneven.air[6] = 0.1;
        const auto g = bandResponse(uneven, from, to, 16000, 9000, [](const Point&, const Point&) {
            Bands b = filled(1);
            b[3] = b[4] = b[5] = 0.5, b[6] = b[7] = 0.25;
            return b;
        });
        for (std::size_t b = 3; b < 7; ++b) {
            same.absorption.fill(uneven.absorption[0][b]);
            const auto one = imageSourceResponse(same, from, to, 16000, 9000);
            const auto alone =
                octaveResponse(uneven, b, from, to, 16000, 9000, [](const auto&, const auto&) { return 0.5; });
            std::vector<float> apart(one.size()), all(one.size());
            for (std::size_t i = 0; i < one.size(); ++i) {
                all[i] = static_cast<float>(0.5 * one[i] * 4 * std::numbers::pi);
                apart[i] = alone[i] - all[i];
            }
            double error = 0, whole = 0;
            for (const double v : octaveBand(apart, 1000, 16000))
                error += v * v;
            for (const double v : octaveBand(all, 1000, 16000))
                whole += v * v;
            qInfo("one octave alone differs by %.1f dB", 10 * std::log10(error / whole));
            QVERIFY(error < 1e-5 * whole);
            const auto mine = octaveBand(g, bandHz[b], 16000), theirs = octaveBand(one, bandHz[b], 16000);
            double m = 0, t = 0;
            for (std::size_t i = 0; i < mine.size(); ++i)
                m += mine[i] * mine[i], t += theirs[i] * theirs[i];
            const double db = 10 * std::log10(m / t) - 20 * std::log10(4 * std::numbers::pi);
            qInfo("%.0f Hz: %.2f dB", bandHz[b], db);
            if (b == 4)
                QVERIFY(std::abs(db + 6.02) < 0.5);
            else if (b == 6)
                QVERIFY(db < -11 && db > -13.5); // and 4 m of air and more
            else
                QVERIFY(db < -4 && db > -8.5); // beside another one
            if (b == 6)                        // air shortens it
                continue;
            const std::vector<float> low(mine.begin(), mine.end()), other(theirs.begin(), theirs.end());
            const double is = reverberationTime(low, 16000), wanted = reverberationTime(other, 16000);
            // Beside octaves that die away otherwise: between theirs.
            QVERIFY2(is > 0.7 * wanted && is < 1.4 * wanted, qPrintable(QString("%1 %2").arg(is).arg(wanted)));
        }
    }
    void quickFactors() {
        for (double db = -230; db < 80; db += 0.37)
            QVERIFY(near(quickFactor(db) / std::pow(10, db / 20), 1, 1e-5));
        QVERIFY(near(microphoneTakes(0.5, 1), 1, 1e-12) && near(microphoneTakes(0.5, -1), 0.01, 1e-12) &&
                near(microphoneTakes(0.25, -1), 0.5, 1e-12));
    }
    void noiseOfBands() {
        const Bands wanted{40, 38, 37, 34, 31, 28, 24, 22};
        const auto x = bandNoise(wanted, 48000, 1 << 17, 5), y = bandNoise(wanted, 48000, 1 << 17, 6);
        double both = 0, own = 0;
        for (std::size_t i = 0; i < x.size(); ++i)
            both += static_cast<double>(x[i]) * y[i], own += static_cast<double>(x[i]) * x[i];
        QVERIFY(std::abs(both) < 0.05 * own); // another noise
        std::vector<float> twice = x;
        twice.insert(twice.end(), x.begin(), x.end()); // it goes on into itself
        for (std::size_t b = 1; b < bandCount; ++b) {
            const auto part = octaveBand(twice, bandHz[b], 48000);
            double sum = 0;
            for (std::size_t i = x.size() / 2; i < x.size() / 2 + x.size(); ++i)
                sum += part[i] * part[i];
            const double level = 10 * std::log10(sum / static_cast<double>(x.size()));
            QVERIFY2(std::abs(level - wanted[b]) < 0.7, qPrintable(QString::number(level)));
        }
    }
    void directionsOfImages() { // one reflection at the floor: it leaves downwards and comes from below
        const Shoebox dead{{8, 6, 4}, {1, 1, 1, 1, 0, 1}};
        std::vector<std::pair<Point, Point>> ways;
        (void)imageSourceResponse(dead, {2, 3, 2}, {6, 3, 2}, 8000, 800, 343, [&](const Point& l, const Point& c) {
            ways.emplace_back(l, c);
            return 1.0;
        });
        QCOMPARE(ways.size(), std::size_t(2));
        for (const auto& [leaves, comes] : ways) {
            QVERIFY(std::abs(leaves[0] - 4) < 1e-9 && std::abs(comes[0] - 4) < 1e-9);
            if (std::abs(leaves[2]) > 1e-9)
                QVERIFY(leaves[2] < 0 && comes[2] > 0);
        }
    }
    void indexOfResponsesMatches() {
        for (const auto& r : all_["responses"]) {
            std::vector<float> h(72000);
            std::uint64_t x = r["seed"].get<std::uint64_t>();
            double sum = 0;
            std::vector<double> exact(h.size());
            for (std::size_t i = 0; i < h.size(); ++i) {
                x = (1103515245 * x + 12345) % (1ull << 31);
                exact[i] =
                    (double(x) / double(1 << 30) - 1) * std::exp(-6.9078 * double(i) / 48000 / r["T"].get<double>());
                sum += exact[i] * exact[i];
            }
            exact[0] += r["direct"].get<double>() * std::sqrt(sum);
            std::copy(exact.begin(), exact.end(), h.begin());
            const auto m = modulationOf(h, 48000);
            const double sti = speechIndex(m);
            qInfo("T %.1f s: STI %.4f, script %.4f", r["T"].get<double>(), sti, r["sti"].get<double>());
            QVERIFY(std::abs(sti - r["sti"].get<double>()) < 0.02);
        }
        Modulation whole{};
        for (auto& b : whole)
            b.fill(1);
        QVERIFY(speechIndex(whole) > 0.999);
        for (auto& b : whole)
            b.fill(0.5); // as much noise as speech: every band at 0.5
        QVERIFY(std::abs(speechIndex(whole) - 0.5) < 1e-6);
        QVERIFY(std::abs(decayModulation(2, 1.0) - 1 / std::hypot(1.0, 2 * std::numbers::pi * 2 / 13.8)) < 1e-12);
    }
    void noiseCurves() {
        QVERIFY(std::abs(aWeighted(noiseCriterion(35)) - 44.2) < 0.1); // summed by hand
        QCOMPARE(noiseCriterion(30)[4], 31.0);
        QVERIFY(std::abs(noiseCriterion(32)[4] - 33) < 1e-9); // between 31 and 36
        QCOMPARE(noiseRating(40)[4], 40.0);
        QVERIFY(std::abs(noiseRating(25)[0] - 55.25) < 1e-9);
        QCOMPARE(noiseCriterion(200), noiseCriterion(65));
    }
    void loopRingsWhereItIsSaid_data() {
        QTest::addColumn<double>("x");
        for (const double x : {2.0, 4.5, 7.3})
            QTest::newRow(qPrintable(QString("microphone at %1 m").arg(x))) << x;
    }
    void loopRingsWhereItIsSaid() {
        QFETCH(double, x);
        const Shoebox box{{9, 6.5, 3.1}, {.25, .3, .2, .35, .3, .5}};
        auto h = imageSourceResponse(box, {1.2, 3, 2.8}, {x, 3.9, 1.1}, 16000, 3000);
        for (int pass = 0; pass < 2; ++pass) { // no loudspeaker goes down to 0 Hz
            const double k = std::exp(-2 * std::numbers::pi * 120 / 16000);
            float in = 0, out = 0;
            for (float& v : h) {
                out = static_cast<float>(k * (out + v - in));
                in = std::exchange(v, out);
            }
        }
        const auto limit = loopLimit(h, 16000);
        QVERIFY(limit.hz > 20 && limit.hz < 8000);
        double stays = limit.gainDb - 6, goes = limit.gainDb + 6; // bisect what the loop itself does
        QVERIFY(!rings(h, stays) && rings(h, goes));
        while (goes - stays > 0.25)
            (rings(h, (stays + goes) / 2) ? goes : stays) = (stays + goes) / 2;
        qInfo("predicted %.2f dB, rings from %.2f dB", limit.gainDb, goes);
        QVERIFY(std::abs(limit.gainDb - (stays + goes) / 2) < 2);
    }
    void mapIsTheSameInPieces() {
        const Directivity pattern(filled(100), filled(100));
        Field f;
        const Surface s[] = {{300, filled(0.2)}};
        f.room = reverberation(300, s), f.decay = f.room.eyring, f.noise = noiseCriterion(30);
        for (int i = 0; i < 5; ++i)
            f.emitters.push_back({{2.0 * i, 3, 3}, aimed(0, -90), filled(70), &pattern, 0});
        const Prediction p(f);
        std::vector<Point> places;
        for (int i = 0; i < 500; ++i)
            places.push_back({0.02 * i, 2, 1.2});
        Progress progress;
        const auto two = mapOf(p, places, {}, &progress, 2);
        QCOMPARE(two.size(), places.size());
        QCOMPARE(progress.done.load(), places.size());
        for (std::size_t i = 0; i < places.size(); ++i)
            QCOMPARE(two[i].totalA, p.at(places[i]).totalA);
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(mapOf(p, places, stop.get_token()).empty());
        QCOMPARE(two.front().loudest, 0);
        QVERIFY(two.back().loudest == 4 || two.back().loudest == 5 - 1);
    }
    void outlines() {
        const Outline l{{0, 0}, {6, 0}, {6, 3}, {3, 3}, {3, 5}, {0, 5}};
        QVERIFY(near(areaOf(l), 24, 1e-12) && near(perimeterOf(l), 22, 1e-12));
        QVERIFY(contains(l, {1, 4}) && !contains(l, {4, 4}));
        QVERIFY(!crossingWalls(l));
        QCOMPARE(crossingWalls({{0, 0}, {4, 4}, {4, 0}, {0, 4}})->first, std::size_t(0));
        QVERIFY(crossingWalls({{0, 0}, {4, 0}, {2, 0}, {2, 3}}));
        QCOMPARE(gridInside(rectangle({0, 0}, 4, 2), 1).size(), std::size_t(8));
        QCOMPARE(gridInside(rectangle({0, 0}, 4, 3), 1, 1).size(), std::size_t(2));
        const auto both = joined(rectangle({0, 0}, 8, 10), rectangle({8.1, 0}, 8, 10));
        QVERIFY(both && near(areaOf(*both), 161, 0.01));
        QVERIFY(!joined(rectangle({0, 0}, 2, 2), rectangle({5, 5}, 2, 2)));
    }
    void ceilingGrids() {
        QVERIFY(near(coverageAtEars(3, 1.2, 90), 3.6, 1e-9)); // 2 * 1.8 * tan 45
        QVERIFY(near(gridSpacing(3.6, 0.5), 1.8, 1e-12));
        const auto six = gridOf(rectangle({0, 0}, 12, 8), 6);
        QCOMPARE(six.size(), std::size_t(6));
        QVERIFY(near(six[0][0], 2, 1e-9) && near(six[0][1], 2, 1e-9)); // three columns and two rows, 4 m apart
        for (const auto& s : gridBySpacing(rectangle({0, 0}, 12, 8), 2.5))
            QVERIFY(s[0] > 0 && s[0] < 12);
        QCOMPARE(gridBySpacing(rectangle({0, 0}, 12, 8), 2.5).size(), std::size_t(20));
        QVERIFY(gridOf({}, 4).empty() && gridBySpacing(rectangle({0, 0}, 1, 1), -1).empty());
    }
    void pickUpByHand() { // 60 dB(A) at 1 m, cardioid at 0.5 m: 6 dB more; noise 4.8 dB less
        const Surface s[] = {{200, filled(0.25)}};
        const auto r = reverberation(150, s);
        const auto up = pickUp({0, 0, 1}, filled(3), {0.5, 0, 1}, speechAt(60), r, noiseCriterion(30));
        QVERIFY(std::abs(up.toNoise - (60 + 6.02 - (aWeighted(noiseCriterion(30)) - 4.77))) < 0.1);
        const double dc = criticalDistance(3, r.constant[4]);
        const auto there = pickUp({0, 0, 1}, filled(3), {dc, 0, 1}, speechAt(60), r, noiseCriterion(30));
        QVERIFY(std::abs(there.toReverberant) < 0.3); // as strong at the critical distance
    }
    void reverberationTimeOfImages() { // an even box dies away as Eyring says
        const auto h = imageSourceResponse({{7, 5.2, 3.7}, {.2, .2, .2, .2, .2, .2}}, {1.3, 1.1, 1.4}, {4.9, 3.2, 2.1},
                                           16000, 12000);
        const auto band = octaveBand(h, 1000, 16000);
        const double t = reverberationTime(std::vector<float>(band.begin(), band.end()), 16000);
        const Surface s[] = {{2 * (7 * 5.2 + 7 * 3.7 + 5.2 * 3.7), filled(0.2)}};
        const double eyring = reverberation(7 * 5.2 * 3.7, s).eyring[0];
        qInfo("T20 by image sources %.2f s, Eyring %.2f s", t, eyring);
        QVERIFY(t > 0.95 * eyring &&
                t < 1.6 * eyring); // boxes die away later than diffuse rooms, along their long axes
    }
};

LOOM_TEST(tst_rooms, TestRooms)
#include "tst_rooms.moc"
