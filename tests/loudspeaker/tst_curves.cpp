// Responses, impedances and calibrations in the dialects of other programs: each against the truth that was written
// before the reader met it (samples/curves/make.py).
#ifndef Q_MOC_RUN
#include "dsp/audio_file.h"
#include "dsp/number.h"
#include "dsp/text.h"
#include "loudspeaker/curve_file.h"
#include <cmath>
#include <fstream>
#include <numbers>
#include <random>
#include <sstream>
#endif
#include "test.h"

using namespace loom;
using namespace loom::loudspeaker;

class TestCurves : public QObject {
    Q_OBJECT
    static std::string bytesOf(const std::string& name) {
        std::ifstream in(LOOM_SOURCE_DIR "/tests/samples/curves/" + name, std::ios::binary);
        std::stringstream all;
        all << in.rdbuf();
        return all.str();
    }
    static std::vector<std::string> parts(const std::string& line) {
        std::vector<std::string> all;
        std::size_t at = 0;
        for (std::size_t bar; (bar = line.find(" | ", at)) != std::string::npos; at = bar + 3)
            all.push_back(line.substr(at, bar - at));
        all.push_back(line.substr(at));
        return all;
    }

  private slots:
    void dialects() {
        std::istringstream truth(bytesOf("truth.txt"));
        int files = 0;
        for (std::string line; std::getline(truth, line); ++files) {
            const auto said = parts(line);
            QCOMPARE(said.size(), std::size_t(5));
            const auto use = said[1] == "impedance"     ? CurveUse::impedance
                             : said[1] == "calibration" ? CurveUse::calibration
                                                        : CurveUse::response;
            const auto bytes = bytesOf(said[0]);
            QVERIFY2(!bytes.empty(), said[0].c_str());
            CurveAnswers answers;
            auto r = readCurve(bytes, said[0], use);
            QVERIFY2(bool(r), (said[0] + ": " + (r ? "" : r.error().text())).c_str());
            const std::string asked = r->open.empty() ? "-" : r->open[0].topic;
            QVERIFY2(r->open.size() <= 1 && asked == said[2], (said[0] + " asks " + asked).c_str());
            if (!r->open.empty()) {
                const auto& choices = r->open[0].choices;
                for (std::size_t k = 0; k < choices.size(); ++k)
                    if (choices[k].find(said[3]) != std::string::npos && !answers.count(asked))
                        answers[asked] = k;
                QVERIFY2(answers.size() == 1, said[0].c_str());
                r = readCurve(bytes, said[0], use, answers);
                QVERIFY2(r && r->open.empty(), said[0].c_str());
            }
            std::istringstream point(said[4]);
            double hz = 0, value = 0;
            std::string deg;
            point >> hz >> value >> deg;
            const auto& c = r->curve;
            QCOMPARE(c.hasPhase, deg != "-");
            std::size_t at = 0;
            while (at + 1 < c.hz.size() && c.hz[at] < hz * 0.999)
                ++at;
            const auto told = said[0] + print(": %.4g Hz %.4g %.4g", c.hz[at], c.db[at], c.deg[at]);
            QVERIFY2(std::abs(c.hz[at] / hz - 1) < 1e-3 && std::abs(c.db[at] - value) < 2e-3, told.c_str());
            if (c.hasPhase)
                QVERIFY2(std::abs(std::remainder(c.deg[at] - leadingNumber(deg).value, 360)) < 0.02, told.c_str());
            QVERIFY2(c.hz.size() == 31, told.c_str());
            // Ours is read back the same, without a question, by both readers.
            const auto text = curveText(c, use);
            const auto plain = readResponse(text, "ours");
            const auto again = readCurve(text, "ours", use);
            QVERIFY(plain && plain->hz == c.hz && plain->db == c.db && plain->deg == c.deg);
            QVERIFY2(again && again->open.empty() && again->curve.db == c.db, said[0].c_str());
        }
        QVERIFY(files >= 30);
    }
    void severalChannels() {
        const char* two =
            "Hz\tA dB\tA deg\tB dB\tB deg\n100\t80\t10\t60\t-100\n200\t81\t20\t61\t-120\n400\t82\t30\t62\t-140\n";
        const auto asks = readCurve(two, "two", CurveUse::response);
        QVERIFY(asks && asks->open.size() == 1 && asks->open[0].topic == "column" && asks->open[0].choices.size() == 2);
        const auto b = readCurve(two, "two", CurveUse::response, {{"column", 1}});
        QVERIFY(b && b->open.empty() && b->curve.db[0] == 60 && b->curve.deg[0] == -100);
        const auto a = readCurve(two, "two", CurveUse::response, {{"column", 0}});
        QVERIFY(a && a->curve.db[2] == 82 && a->curve.deg[2] == 30);
        // A phase that is of one channel only is not given to the other.
        const char* one = "Hz\tA dB\tB dB\tB deg\n100\t80\t60\t-100\n200\t81\t61\t-120\n400\t82\t62\t-140\n";
        const auto alone = readCurve(one, "one", CurveUse::response, {{"column", 0}});
        QVERIFY(alone && !alone->curve.hasPhase && alone->notes.size() >= 1);
        const char* parts = "Hz;Re A;Im A;Re B;Im B\n100;1;0;0;0.5\n200;1;0;0;0.5\n400;1;0;0;0.5\n";
        const auto c = readCurve(parts, "parts", CurveUse::response, {{"column", 1}});
        QVERIFY(c && std::abs(c->curve.deg[0] - 90) < 1e-9 && std::abs(c->curve.db[0] + 6.0206) < 1e-3);
        QVERIFY(!readCurve(parts, "parts", CurveUse::response)->open.empty());
    }
    void encodings() {
        QCOMPARE(utf8Of("a\r\nb\rc\u2028d\n"), std::string("a\nb\nc\nd\n"));
        using namespace std::string_literals;
        QCOMPARE(utf8Of("\xff\xfe\x41\x00\xac\x20\x3d\xd8\x00\xde"s), "A\u20ac\U0001f600"s);
        QCOMPARE(utf8Of("\xfe\xff\x00\x41\x20\xac"s), "A\u20ac"s);
        QCOMPARE(utf8Of("\x00H\x00z\x00 \x00\x31"s), "Hz 1"s);
        QCOMPARE(utf8Of("H\0z\0 \0\x31\0"s), "Hz 1"s);
        QCOMPARE(utf8Of("\xef\xbb\xbf\x35"), "5"s);
        QCOMPARE(utf8Of("gr\xfc\xdf \x80 \x96"), "gr\u00fc\u00df \u20ac \u2013"s); // Windows-1252
        QCOMPARE(utf8Of("gr\u00fc\u00df"), "gr\u00fc\u00df"s);
        QCOMPARE(utf8Of("\xe2\x82"), "\u00e2\u201a"s); // cut off: no UTF-8
    }
    void impulses() {
        // A one-pole low-pass at 1 kHz, 20 samples late: known in closed form.
        const double rate = 48000, a = std::exp(-2 * std::numbers::pi * 1000 / rate);
        std::string text = "# Sample rate 48 kHz\n", timed = "Time (ms)\tValue\n", bare;
        dsp::AudioClip clip;
        clip.channels.resize(1);
        for (int n = 0; n < 9600; ++n) {
            const double v = n < 20 ? 0 : (1 - a) * std::pow(a, n - 20);
            text += print("%.9f\n", v);
            bare += print("%.9f\n", v);
            timed += print("%.6f", n / rate * 1000) + print("\t%.9f\n", v);
            clip.channels[0].push_back(static_cast<float>(v));
        }
        std::string error;
        QTemporaryDir dir;
        const auto path = dir.filePath("ir.wav").toStdString();
        QVERIFY(dsp::writeWav(path, clip, error));
        std::ifstream in(path, std::ios::binary);
        std::stringstream wav;
        wav << in.rdbuf();
        for (const auto& bytes : {text, timed, wav.str()}) {
            const auto r = readCurve(bytes, "ir", CurveUse::response);
            QVERIFY2(r && r->open.empty() && r->impulse, r ? "asks" : r.error().text().c_str());
            QVERIFY(std::any_of(r->notes.begin(), r->notes.end(),
                                [](const auto& n) { return n.find("window") != std::string::npos; }));
            for (std::size_t i = 0; i < r->curve.hz.size(); i += 40) {
                const auto z = std::polar(1.0, -2 * std::numbers::pi * r->curve.hz[i] / rate);
                const auto h = (1 - a) / (1.0 - a * z);
                QVERIFY(std::abs(r->curve.db[i] - 20 * std::log10(std::abs(h))) < 0.02);
                QVERIFY(std::abs(std::remainder(r->curve.deg[i] - std::arg(h) * 180 / std::numbers::pi, 360)) < 0.2);
            }
        }
        auto asks = readCurve(bare, "ir", CurveUse::response);
        QVERIFY(asks && asks->open.size() == 1 && asks->open[0].topic == "rate");
        const auto at96 = readCurve(bare, "ir", CurveUse::response, {{"rate", 2}});
        QVERIFY(at96 && at96->open.empty() && std::abs(at96->curve.at(2000)) > 0.7 &&
                std::abs(at96->curve.at(2000)) < 0.72);
        const auto shorter = readCurve(text, "ir", CurveUse::response, {}, {1, 10});
        QVERIFY(shorter && shorter->curve.hz.front() >= 100 && std::abs(shorter->window.afterMs - 10) < 0.1);
        const auto bad = readCurve(text + "1e300\n", "ir", CurveUse::response); // found by fuzzing
        QVERIFY(!bad && bad.error().text().find("line 9602") != std::string::npos);
        QVERIFY(!readCurve(wav.str(), "ir", CurveUse::impedance));
        QVERIFY(!readCurve("0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n0\n", "silent", CurveUse::response));
    }
    void refusesAndSays() {
        const auto says = [](const std::string& text, const char* what) {
            const auto r = readCurve(text, "f", CurveUse::response);
            return !r && r.error().text().find(what) != std::string::npos;
        };
        QVERIFY(says("", "no two points"));
        QVERIFY(says("words where\nnumbers should be\n", "no two points"));
        QVERIFY(says("100 80\n200 81\n300 82 1 2 3\n400 1 2\n500 8\n", "other numbers of columns"));
        QVERIFY(says("Hz dB\n100 80\n-200 81\n", "line 3"));
        QVERIFY(says("Hz dB\n100 80\n200 8100\n", "line 3"));
        QVERIFY(says(std::string(maxResponseBytes + 1, ' '), "8 MiB"));
        const auto gaps = readCurve("Hz dB deg\n100 80 1\n110 nan 2\n120 81 3\n", "f", CurveUse::response);
        QVERIFY(gaps && gaps->curve.hz.size() == 2 && gaps->notes.size() == 1);
        QVERIFY(!readCurve("Hz ohm\n100 8\n200 0\n", "f", CurveUse::impedance));
        // Open in several ways: each is asked.
        const auto open = readCurve("0.02 0.5 0.1\n0.2 1.5 0.2\n2 1.2 3\n20 0.2 -2\n", "f", CurveUse::response);
        QVERIFY(open && open->open.size() == 3);
        std::mt19937 dice(5);
        static const char* const pieces[] = {"100", " ",  ",", ";", "\t", ".",  "5", "-",    "e",
                                             "\n",  "\"", "|", "i", "+",  "Hz", "#", "\xff", "0"};
        for (int n = 0; n < 500; ++n) {
            std::string text;
            for (int k = 0; k < 80; ++k)
                text += pieces[dice() % std::size(pieces)];
            for (const auto use : {CurveUse::response, CurveUse::impedance})
                if (const auto r = readCurve(text, "f", use); r && !r->impulse)
                    QVERIFY(readResponse(curveText(r->curve, use), "again"));
        }
    }
};

LOOM_TEST(tst_curves, TestCurves)
#include "tst_curves.moc"
