// Spec sheets of many layouts and languages, each against the truth that was written beside it before the reader met
// it.
#ifndef Q_MOC_RUN
#include "dsp/number.h"
#include "loudspeaker/sheet.h"
#include <filesystem>
#include <fstream>
#include <random>
#include <set>
#include <sstream>
#endif
#include "test.h"

using namespace loom;
using namespace loom::loudspeaker;

class TestSheets : public QObject {
    Q_OBJECT
    static std::string textIn(const std::filesystem::path& file) {
        std::ifstream in(file);
        std::stringstream all;
        all << in.rdbuf();
        return all.str();
    }
    // "2|Bell 1800 Hz -1.5 dB Q 2.871" as what it is of, a shape, and its numbers.
    struct Fact {
        int way = 0;
        std::string kind, shape;
        std::vector<double> numbers;
        bool asked = false, used = false;
        std::string text;
    };
    static Fact factOf(int way, std::string text) {
        Fact f;
        f.way = way;
        f.text = text;
        for (auto& c : text)
            c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        for (const char* kind :
             {"high-pass", "low-pass", "high shelf", "low shelf", "noise power", "peak power", "voice coil"})
            if (text.rfind(kind, 0) == 0)
                f.kind = kind;
        if (f.kind.empty())
            f.kind = text.substr(0, text.find(' '));
        for (const char* shape : {"butterworth", "linkwitz", "bessel", "inverted", "normal"})
            if (text.find(shape) != std::string::npos)
                f.shape = shape;
        for (std::size_t i = f.kind.size(); i < text.size();) {
            const bool begins = text[i - 1] == ' ' &&
                                (std::isdigit(static_cast<unsigned char>(text[i])) || text[i] == '-' || text[i] == '+');
            const auto n = begins ? leadingNumber(std::string_view(text).substr(i)) : Leading{};
            if (n.length == 0) {
                ++i;
                continue;
            }
            i += n.length;
            f.numbers.push_back(n.value * (text.compare(i, 4, " khz") == 0 ? 1000 : 1));
        }
        return f;
    }
    static bool same(const Fact& got, const Fact& want) {
        if (got.kind != want.kind || (!got.shape.empty() && !want.shape.empty() && got.shape != want.shape))
            return false;
        if (got.numbers.size() < want.numbers.size())
            return false;
        for (std::size_t k = 0; k < want.numbers.size(); ++k)
            if (std::abs(got.numbers[k] - want.numbers[k]) > std::max(0.03, 0.01 * std::abs(want.numbers[k])))
                return false;
        return true;
    }

  private slots:
    void manyLayouts() {
        int right = 0, asked = 0, all = 0, sheets = 0;
        for (const auto& file : std::filesystem::directory_iterator(LOOM_SOURCE_DIR "/tests/samples/sheets")) {
            if (file.path().extension() != ".txt")
                continue;
            ++sheets;
            auto truth = file.path();
            std::vector<Fact> want, got;
            std::istringstream lines(textIn(truth.replace_extension(".truth")));
            for (std::string line; std::getline(lines, line);)
                want.push_back(factOf(line[0] - '0', line.substr(2)));
            const auto sheet = readSheet(textIn(file.path()));
            for (const auto& f : sheet.fields) {
                QVERIFY(f.line < sheet.lines.size() && f.from < f.to && f.to <= sheet.lines[f.line].size());
                auto one = factOf(f.way, textOf(f));
                one.asked = !f.sure();
                got.push_back(one);
            }
            const bool oneWay = std::all_of(want.begin(), want.end(), [](const Fact& f) { return f.way <= 1; });
            all += static_cast<int>(want.size());
            for (const auto& w : want)
                for (auto& g : got)
                    if (!g.used && (g.way == w.way || (oneWay && g.way == 0)) && same(g, w)) {
                        g.used = true;
                        (g.asked ? asked : right) += 1;
                        break;
                    }
            for (const auto& g : got) {
                const bool beside = g.kind == "maker" || g.kind == "name" || g.kind == "cone" || g.kind == "least";
                QVERIFY2(g.used || g.asked || beside,
                         (file.path().filename().string() + ": " + std::to_string(g.way) + " " + g.text).c_str());
            }
        }
        qInfo("%d sheets: %d of %d right, %d asked", sheets, right, all, asked);
        QVERIFY(sheets >= 60 && right + asked >= 0.95 * all && right >= 0.85 * all);
    }
    // Prose says the same however its lines are broken.
    void brokenLines() {
        int sheets = 0;
        for (const char* name : {"english-prose-again", "en-prose2", "german-prose-again", "french-prose-again",
                                 "dutch-prose", "spanish-prose-again", "it-prosa", "prose-with-taps"}) {
            const auto text = textIn(std::string(LOOM_SOURCE_DIR "/tests/samples/sheets/") + name + ".txt");
            const auto said = [](const std::string& t) {
                std::multiset<std::string> all;
                const auto sheet = readSheet(t);
                for (const auto& f : sheet.fields)
                    all.insert(std::to_string(f.way) + textOf(f) + (f.sure() ? "" : "?"));
                return all;
            };
            for (const std::size_t width : {60u, 72u, 90u}) {
                std::string broken;
                std::size_t at = 0;
                for (std::istringstream in(text); !in.eof();) {
                    std::string word;
                    in >> word;
                    if (at + word.size() > width) {
                        broken += "\n";
                        at = 0;
                    } else if (at > 0) {
                        broken += " ";
                    }
                    broken += word;
                    at += word.size() + 1;
                }
                std::string joined = broken;
                std::replace(joined.begin(), joined.end(), '\n', ' ');
                QVERIFY2(said(broken) == said(joined), (name + ("\n" + broken)).c_str());
            }
            ++sheets;
        }
        QCOMPARE(sheets, 8);
    }
    void whatIsOffIsNotApplied() {
        const auto s = readSheet(
            "[OUT A] SUB\n HPF 30 Hz BW24  LPF OFF\n PEQ1 42Hz +3.0dB BW=0.7oct   PEQ2 OFF 100Hz 2.0dB BW=1.0oct\n"
            " LIM 104Vpk  RMS 46V  ATT 500ms  REL 2s\n[OUT B] TOP\n HPF as required\n LPF 9 kHz LR24 (bypassed)\n");
        QCOMPARE(s.ways, (std::vector<std::string>{"Sub"}));
        QCOMPARE(s.fields.size(), std::size_t(2));
        QVERIFY(s.fields[0].kind == SheetKind::highPass && s.fields[1].value == 42);
        QVERIFY(s.off.size() == 3 && s.forYou.size() == 1);
        QCOMPARE(s.limits.size(), std::size_t(2));
        QVERIFY(!s.limits[0].rms && s.limits[0].value == 104 && s.limits[0].unit == "V");
        QVERIFY(s.limits[1].rms && s.limits[1].value == 46 && s.limits[1].attackMs == 500 &&
                s.limits[1].releaseMs == 2000);
    }
    void numbersAsTheyCome() {
        const auto hz = [](const char* text) {
            const auto s = readSheet(text);
            return s.fields.size() == 1 && s.fields[0].sure() ? s.fields[0].value : -1;
        };
        QCOMPARE(hz("HPF 1k1 BW24"), 1100.0);
        QCOMPARE(hz("HPF 2K5 BW24"), 2500.0);
        QCOMPARE(hz("HPF 0,85 kHz BW24"), 850.0);
        QCOMPARE(hz("HPF 1\u202f250 Hz BW24"), 1250.0);
        QCOMPARE(hz("HPF 55 cps BW24"), 55.0);
        QCOMPARE(hz("HPF 90 BW24"), 90.0); // 90 kHz is no sound
        QCOMPARE(hz("HPF 18 BW24"), -1.0); // 18 Hz, or 18 kHz: asked
        QVERIFY(readSheet("HPF 18 BW24").fields[0].ask.size() == 2);
        const auto thousands = readSheet("Sensitivity 97.5 dB\nPower 1,200 W AES\n");
        QCOMPARE(thousands.fields[1].value, 1200.0);
        const auto number = readSheet("EQ1 250 Hz -3 dB Q 2\nEQ2 4k +2 1.4\n");
        QVERIFY(number.fields.size() == 2 && number.fields[0].value == 250 && number.fields[1].ask.size() == 2);
        const auto delay = readSheet("Processor 96 kHz\nDelay 48 samples\n");
        QVERIFY(delay.fields.size() == 1 && delay.fields[0].value == 0.5);
        QVERIFY(!readSheet("Delay 48 samples").fields[0].sure());
        QVERIFY(std::abs(readSheet("Delay 0.5 m").fields[0].value - 1.4569) < 1e-4);
        const auto order = readSheet("HPF 80 Hz 3rd order Butterworth\nLPF 900 Hz 4. Ordnung Linkwitz\n");
        QVERIFY(order.fields[0].slope == 18 && order.fields[1].slope == 24 && order.fields[1].shape == 1);
    }
    // However many things are open about one fact, no answer settles another one by itself.
    void allThatIsOpenIsAsked() {
        auto edge = readSheet("LR @ 18").fields;
        QCOMPARE(edge.size(), std::size_t(1));                // Hz or kHz, which side, how steep
        QCOMPARE(edge[0].ask.size(), std::size_t(2 * 2 * 4)); // Linkwitz-Riley has four slopes
        QVERIFY(std::any_of(edge[0].ask.begin(), edge[0].ask.end(), [](const SheetChoice& c) {
            return c.kind == SheetKind::lowPass && c.value == 18000 && c.slope == 24;
        }));
        answer(edge[0], 15);
        QVERIFY(edge[0].sure() && edge[0].slope == 48 && edge[0].kind == SheetKind::lowPass && edge[0].value == 18000);
        const auto bell = readSheet("EQ1 18 -3 dB 1.2\n").fields;
        QVERIFY(bell.size() == 1 && bell[0].ask.size() == 4 && bell[0].ask[2].value == 18000 &&
                bell[0].ask[2].q == 1.2);
        const auto shelf = readSheet("Shelf 18 +2 dB\n").fields;
        QVERIFY(shelf.size() == 1 && shelf[0].ask.size() == 4);
    }
    void neverWrongInSilence() {
        const auto should =
            readSheet("As we found in the hall the high-pass should be 80 Hz, 24 dB per octave, for this box.");
        QVERIFY(should.fields.size() == 1 && should.fields[0].shape == 0 && should.fields[0].slope == 24);
        QCOMPARE(readSheet("HPF 80 Hz BE24").fields[0].shape, 2);
        const auto off = readSheet("Delay 2 ms (bypassed)\nGain -3 dB\nImpedance 8 ohms, no transformer\n");
        QVERIFY(off.fields.size() == 2 && off.off.size() == 1 && off.fields[1].kind == SheetKind::impedance);
        const auto taps = readSheet("Transformer taps 70.7 V: 30 / 15 / 7.5 / 3.7 W; 100 V: 30 / 15 / 7.5 W\n");
        QVERIFY(taps.fields.size() == 1 && taps.fields[0].list == (std::vector<double>{30, 15, 7.5}));
        QVERIFY(readSheet("Transformer taps 20 / 10 W at 70 V\n").fields.empty());
        QVERIFY(readSheet("Transformer taps 20 / 10 W at 100 V\n").fields.size() == 1);
        // Two bells of the whole in a sheet of two ways are none of its ways.
        const auto two = readSheet(
            "LOW\nHPF 40 Hz BW24\nHIGH\nHPF 1 kHz LR24\n\n| Parameter | LF | HF |\n| Gain | 0 dB | -3 dB |\n\n"
            "EQ 100 Hz -2 dB Q 1, 2 kHz +1 dB Q 2\nImpedance 8 / 16 ohms\n");
        int bells = 0, ohms = 0;
        for (const auto& f : two.fields) {
            bells += f.kind == SheetKind::bell && f.way == 0;
            ohms += f.kind == SheetKind::impedance && f.value == 8.0 * f.way;
        }
        QVERIFY(bells == 2 && ohms == 2);
    }
    void alikeInOneQuestion() {
        auto s = readSheet("EQ1 250 Hz -3 dB 2\nEQ2 4 kHz +2 dB 1.4\nHPF 80 Hz 24 dB/oct\nLPF 9 kHz 12 dB/oct\n");
        auto asked = questionsOf(s);
        QCOMPARE(asked.size(), std::size_t(2)); // widths; shapes
        QVERIFY(asked[0].fields.size() == 2 && asked[1].fields.size() == 2 && asked[1].choices.size() == 3);
        answer(s, asked[0], 1);
        QVERIFY(s.fields[0].sure() && std::abs(s.fields[1].q - 0.9921) < 1e-3 && !s.fields[2].sure());
        QVERIFY(certaintyOf(s.fields[0]) > 0.9 && certaintyOf(s.fields[2]) < 0.3);
        answer(s, questionsOf(s)[0], 1);
        QVERIFY(s.fields[2].shape == 1 && s.fields[3].shape == 1 && questionsOf(s).empty());
        // 18 dB an octave is no Linkwitz-Riley.
        QCOMPARE(readSheet("HPF 80 Hz 18 dB/oct").fields[0].ask.size(), std::size_t(2));
    }
    void whatContradictsIsAsked() {
        auto s = readSheet("Sensitivity 97 dB\nImpedance 8 ohms\nSensitivity: 94 dB (1 W / 1 m)\nImpedance 8 ohms\n");
        QVERIFY(s.fields.size() == 3 && s.notes.size() == 1); // 8 ohms twice is once
        const auto asked = questionsOf(s);
        QVERIFY(asked.size() == 1 && asked[0].fields.size() == 2);
        answer(s, asked[0], 1);
        QVERIFY(s.fields.size() == 2 && s.fields[1].value == 94 && s.fields[1].sure());
        const auto apart = readSheet("LOW\nHPF 40 Hz BW24\nLPF 300 Hz LR24\nHIGH\nHPF 2 kHz LR24\n");
        QVERIFY(apart.notes.size() == 1 && apart.notes[0].find("begins at 2000 Hz") != std::string::npos);
        QVERIFY(!readSheet("Power 1 W AES\n").fields[0].sure()); // no loudspeaker bears so little
    }
    void severalLoudspeakers() {
        std::string rows = "Model     Impedance   AES power   Sensitivity\n", blocks;
        for (int n = 0; n < 10; ++n) {
            rows += print("Sedge %d   8 ohms      %d W        %d dB\n", 10 + n, 100 + n, 90 + n);
            blocks += print("Sedge %d\n  Impedance: 8 ohms\n  AES power: %d W\n  Sensitivity: %d dB\n\n", 10 + n,
                            100 + n, 90 + n);
        }
        for (const auto& text : {rows, blocks}) {
            auto s = readSheet(text);
            const auto asked = questionsOf(s);
            QCOMPARE(asked.size(), std::size_t(1));
            QVERIFY(asked[0].choices.size() == 10 && asked[0].choices[3].find("Sedge 13") != std::string::npos);
            answer(s, asked[0], 3);
            QCOMPARE(s.fields.size(), std::size_t(3));
            for (const auto& f : s.fields)
                QVERIFY(f.sure() && (f.kind == SheetKind::impedance || f.value == 103 || f.value == 93));
        }
        // Columns that are called as no way is: by their edges ways, without edges asked.
        const auto table = [](const char* edges) {
            return std::string("| Parameter | Main | Fill |\n") + edges +
                   "| Gain | 0 dB | -3 dB |\n| Impedance | 8 ohms | 4 ohms |\n";
        };
        const auto placed = readSheet(table("| HPF | 1 kHz LR24 | 40 Hz BW24 |\n| LPF | off | 1 kHz LR24 |\n"));
        QCOMPARE(placed.ways, (std::vector<std::string>{"Fill", "Main"}));
        QVERIFY(std::all_of(placed.fields.begin(), placed.fields.end(), [](const auto& f) { return f.sure(); }));
        auto open = readSheet(table(""));
        QCOMPARE(questionsOf(open).size(), std::size_t(1));
        answer(open, questionsOf(open)[0], 1); // the other way round
        QCOMPARE(open.fields[0].way, 2);
    }
    void oneSheetInAManual() {
        std::string manual;
        const auto pages = [&](int n) {
            for (int k = 0; k < n * 40; ++k)
                manual += "Lay the cable so that nobody can stumble over it, and keep 2 m away from water.\n";
        };
        pages(100);
        manual += "HPF 80 Hz BW24\nPEQ 250 Hz -3 dB Q 2\nImpedance 8 ohms\nPower 200 W AES\nSensitivity 95 dB\n\f";
        pages(100);
        const auto s = readSheet(manual);
        QCOMPARE(s.fields.size(), std::size_t(5));
        QVERIFY(s.fields[0].line == 4000 && s.notes.size() == 1 && s.lines.size() > 8000);
        QVERIFY(readSheet(std::string(2 * maxSheetLines + 10, '\n')).lines.back().find("too long") !=
                std::string::npos);
    }
    void whatWasSaidIsRemembered() {
        const std::string first =
            "Manufacturer: Sedge & Rush\nBite: 2 kHz -3 dB 1.4\nTrim A: -4 dB\nHPF: 80 Hz 24 dB/oct\n";
        const auto plain = readSheet(first);
        QCOMPARE(wordsAt(plain, {2, 0, 6}), std::string("trim a"));
        QCOMPARE(wordsAt(plain, {2, 8, 13}), std::string("trim a")); // of its value: the words before it
        QCOMPARE(wordsAt(readSheet("97 dB"), {0, 0, 5}), std::string());
        auto p = patternOf(plain);
        QVERIFY(p.empty() && p.maker == "Sedge & Rush" && !p.labels.empty());
        p.words["level"] = {"trim a"};
        p.words["bell"] = {"bite"};
        auto said = readSheet(first, {p});
        QCOMPARE(said.pattern, p.name);
        for (const auto& q : questionsOf(said)) {
            remember(p, said.fields[q.fields.front()], 1);
            answer(said, q, 1);
        }
        QCOMPARE(p.answers.size(), std::size_t(2));
        const auto next =
            readSheet("Manufacturer: SEDGE & RUSH\nBite: 3 kHz -1 dB 2\nTrim A: -7 dB\nHPF: 60 Hz 12 dB/oct\n", {p});
        QVERIFY(next.fields.size() == 4 && questionsOf(next).empty());
        QVERIFY(next.fields[2].kind == SheetKind::gain && next.fields[2].value == -7 && next.fields[3].shape == 1);
        // Another maker's sheet is left alone.
        QVERIFY(readSheet("Manufacturer: Fen\nTrim A: -7 dB\nHPF: 60 Hz 12 dB/oct\n", {p}).pattern.empty());
        // What is about one value is no habit of the maker's.
        SheetField twice;
        twice.topic = "twice 1 7";
        twice.ask.resize(2);
        auto none = patternOf(plain);
        remember(none, twice, 1);
        QVERIFY(none.empty());
    }
    void whatIsNoSheet() {
        QVERIFY(readSheet("").fields.empty());
        QVERIFY(readSheet("\u202e\u200f\ufeff \u9650\u5b9a\u963b\u6297 \u05d0\u05d1\u05d2 8 16 24\n").fields.empty());
        QVERIFY(
            readSheet("The quick brown fox jumps over 13 lazy dogs. It cost 20 W of sweat, at most.\n").fields.size() <=
            1);
        std::mt19937 dice(3);
        for (int i = 0; i < 300; ++i) { // pieces of sheets in any order
            static const char* const pieces[] = {
                "HPF",    " 80 Hz", "|",     "\t",   ";",     "LF",   " HF",  "\n",       "(",  ")",
                " Q",     " 1/",    "2",     " dB",  "out1.", "hpf:", " kHz", "  ",       "\"", ",",
                " power", " W",     " taps", " min", "[",     "off",  " x ",  " \u2013 ", " . "};
            std::string text;
            for (int k = 0; k < 60; ++k)
                text += pieces[dice() % std::size(pieces)];
            const auto s = readSheet(text);
            for (const auto& f : s.fields)
                QVERIFY(f.line < s.lines.size() && f.from < f.to && f.to <= s.lines[f.line].size() &&
                        f.way <= static_cast<int>(s.ways.size()));
            for (const auto& u : s.unread)
                QVERIFY(u.line < s.lines.size() && u.from < u.to && u.to <= s.lines[u.line].size());
        }
    }
};

LOOM_TEST(tst_sheets, TestSheets)
#include "tst_sheets.moc"
