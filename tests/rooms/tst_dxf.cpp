// Plans from DXF files: written by another program (plans.py, ezdxf), and every point held against where that says it
// is; outlines that become rooms; and files that lie.
#ifndef Q_MOC_RUN
#include "rooms/dxf_plan.h"
#include <cmath>
#include <fstream>
#include <map>
#include <random>
#include <sstream>
#endif
#include "test.h"
#include <QProcess>
#include <QTemporaryDir>

using namespace loom;
using namespace loom::project;

class TestDxf : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    std::string textOf(const std::string& name) const {
        std::ifstream in(dir_.filePath(QString::fromStdString(name)).toStdString(), std::ios::binary);
        std::stringstream all;
        all << in.rdbuf();
        return all.str();
    }
    using P = DxfPoint;
    // Segments by squares of a grid, so that the nearest is found among few.
    class Near {
      public:
        explicit Near(double cell) : cell_(cell) {}
        void add(P a, P b) {
            const auto n = segments_.size();
            segments_.push_back({a, b});
            const double far = std::max(std::abs(a.x - b.x), std::abs(a.y - b.y));
            const int steps = static_cast<int>(far / cell_ * 2) + 1;
            for (int i = 0; i <= steps; ++i) {
                const double k = static_cast<double>(i) / steps;
                auto& in = grid_[key(a.x + k * (b.x - a.x), a.y + k * (b.y - a.y))];
                if (in.empty() || in.back() != n)
                    in.push_back(n);
            }
        }
        double distance(P p) const {
            double best = 1e300;
            const auto [column, row] = key(p.x, p.y);
            for (long dx = -1; dx <= 1; ++dx)
                for (long dy = -1; dy <= 1; ++dy)
                    if (const auto it = grid_.find({column + dx, row + dy}); it != grid_.end())
                        for (const auto n : it->second) {
                            const auto& [a, b] = segments_[n];
                            const double ux = b.x - a.x, uy = b.y - a.y, length = ux * ux + uy * uy;
                            const double t =
                                length > 0 ? std::clamp(((p.x - a.x) * ux + (p.y - a.y) * uy) / length, 0.0, 1.0) : 0;
                            best = std::min(best, std::hypot(a.x + t * ux - p.x, a.y + t * uy - p.y));
                        }
            return best;
        }

      private:
        std::pair<long, long> key(double x, double y) const {
            return {std::lround(std::floor(x / cell_)), std::lround(std::floor(y / cell_))};
        }
        double cell_;
        std::vector<std::pair<P, P>> segments_;
        std::map<std::pair<long, long>, std::vector<std::size_t>> grid_;
    };
    static std::string pairs(const char* text) { // "0 LINE 10 5": a word and the next are two lines
        std::istringstream in(text);
        std::string all;
        for (std::string word; in >> word;)
            all += word + "\n";
        return all;
    }
    static std::string entities(const char* text) {
        return pairs("0 SECTION 2 ENTITIES") + pairs(text) + pairs("0 ENDSEC 0 EOF");
    }

  private slots:
    void initTestCase() {
        QProcess python;
        python.start("/usr/bin/python3", {LOOM_SOURCE_DIR "/tests/rooms/plans.py", dir_.path()});
        QVERIFY2(python.waitForFinished(240000) && python.exitCode() == 0, python.readAllStandardError().constData());
    }
    void asItsWriterSays_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<double>("metres");
        for (const char* version : {"R12", "R2000", "R2004", "R2010", "R2018"})
            for (const auto& [unit, metres] : {std::pair("in", 0.0254), {"ft", 0.3048}, {"mm", 0.001}, {"m", 1.0}})
                QTest::newRow((std::string(version) + "-" + unit).c_str())
                    << QString::fromStdString(std::string(version) + "-" + unit) << metres;
    }
    void asItsWriterSays() {
        QFETCH(QString, name);
        QFETCH(double, metres);
        const auto plan = readDxfPlan(textOf(name.toStdString() + ".dxf"), "plan");
        QVERIFY2(bool(plan), plan ? "" : plan.error().text().c_str());
        QCOMPARE(plan->metresPerUnit, name.startsWith("R12-") ? 0 : metres); // R12 has no word for units
        const double cell = 0.25 / metres, tenth = 1e-4 / metres;
        Near ours(cell), theirs(cell);
        for (const auto& line : plan->lines)
            for (std::uint32_t k = 1; k < line.count; ++k)
                ours.add(plan->points[line.first + k - 1], plan->points[line.first + k]);
        std::istringstream points(textOf(name.toStdString() + ".points"));
        long last = -1;
        P before{};
        std::string kind, lastKind;
        double far = 0;
        std::map<std::string, int> kinds;
        for (long n; points >> n;) {
            P p{};
            points >> kind >> p.x >> p.y;
            ++kinds[kind];
            const double d = ours.distance(p);
            far = std::max(far, d);
            QVERIFY2(d <= tenth, (kind + " is " + std::to_string(d * metres * 1000) + " mm away at " +
                                  std::to_string(p.x) + " " + std::to_string(p.y))
                                     .c_str());
            if (n == last)
                theirs.add(before, p);
            last = n;
            before = p;
        }
        QVERIFY(kinds.size() >= (name.startsWith("R12-") ? 6u : 10u));
        double other = 0;
        for (const auto& p : plan->points) {
            const double d = theirs.distance(p);
            other = std::max(other, d);
            QVERIFY2(d <= tenth, (std::to_string(d * metres * 1000) + " mm away at " + std::to_string(p.x) + " " +
                                  std::to_string(p.y))
                                     .c_str());
        }
        qInfo("%s: theirs within %.4f mm of ours, ours within %.4f mm of theirs", qPrintable(name), far * metres * 1000,
              other * metres * 1000);
        // Texts, layers, what is off.
        std::map<std::string, const DxfText*> texts;
        for (const auto& t : plan->texts)
            texts[t.text] = &t;
        QVERIFY(texts.count("Foyer \u00b0") && std::abs(texts["Foyer \u00b0"]->height * metres - 0.3) < 1e-9);
        if (!name.startsWith("R12-"))
            QVERIFY(texts.count("Hall Two") && texts["Hall Two"]->across == 0.5 && texts["Hall Two"]->up == 0.5);
        QCOMPARE(hiddenBy(*plan), (std::vector<std::string>{"hidden", "frozen"}));
    }
    void roomsOfOutlines() {
        const auto plan = readDxfPlan(
            pairs("0 SECTION 2 HEADER 9 $INSUNITS 70 4 0 ENDSEC") +
                entities("0 LWPOLYLINE 8 A 70 1 10 0 20 0 10 8000 20 0 10 8000 20 6000 10 4000 20 6000 10 0 20 6000 "
                         // four lines that meet: one is written backwards
                         "0 LINE 8 A 10 9000 20 0 11 14000 21 0 0 LINE 8 A 10 14000 20 5000 11 14000 21 0 "
                         "0 LINE 8 A 10 14000 20 5000 11 9000 21 5000 0 LINE 8 A 10 9000 20 5000 11 9000 21 0 "
                         // a table in the first, a bow tie, an open one
                         "0 LWPOLYLINE 8 B 70 1 10 1000 20 1000 10 3000 20 1000 10 3000 20 1900 10 1000 20 1900 "
                         "0 LWPOLYLINE 8 B 70 1 10 20000 20 0 10 24000 20 4000 10 24000 20 0 10 20000 20 4000 "
                         "0 LWPOLYLINE 8 A 70 0 10 0 20 9000 10 5000 20 9000 10 5000 20 13000 "
                         "0 TEXT 8 T 10 3000 20 3000 40 250 1 Foyer 0 TEXT 8 T 10 3000 20 2600 40 150 1 48m2 "
                         "0 TEXT 8 T 10 11000 20 2000 40 250 1 Saal 0 TEXT 8 T 10 1200 20 1200 40 90 1 Desk "),
            "rooms");
        QVERIFY2(bool(plan), plan ? "" : plan.error().text().c_str());
        const auto found = outlinesOf(*plan, {}, plan->metresPerUnit);
        QCOMPARE(found.size(), std::size_t(2)); // the table has 1.8 m2
        QVERIFY(found[0].name == "Foyer" && std::abs(found[0].area - 48) < 1e-9 && found[0].corners.size() == 4);
        QVERIFY(found[1].name == "Saal" && std::abs(found[1].area - 25) < 1e-9 && found[1].layer == "A");
        QVERIFY(found[0].likely && found[1].likely);
        for (const auto& c : found[1].corners) // from the left upper corner of what is drawn, 13 m up
            QVERIFY(c[0] >= 9 - 1e-9 && c[0] <= 14 + 1e-9 && c[1] >= 8 - 1e-9 && c[1] <= 13 + 1e-9);
        QVERIFY(outlinesOf(*plan, {"A"}, plan->metresPerUnit).empty());
    }
    void filesThatLie() {
        const auto refuses = [](const std::string& text, const char* why) {
            const auto r = readDxfPlan(text, "f.dxf");
            return !r && r.error().text().find(why) != std::string::npos;
        };
        QVERIFY(refuses("", "not a DXF") && refuses("words", "not a DXF") && refuses("AC1015 x", "another format"));
        QVERIFY(refuses(entities(""), "nothing drawn") && refuses(entities("0 ACAD_PROXY_ENTITY 8 0"), "ACAD_PROXY"));
        const auto one = entities("0 LINE 8 0 10 0 20 0 11 5 21 5");
        const auto line = readDxfPlan(one, "f.dxf");
        QVERIFY(line && line->lines.size() == 1 && line->metresPerUnit == 0 && line->likelyMetres() == 1);
        std::string windows; // line ends
        for (const char c : one)
            windows += c == '\n' ? std::string("\r\n") : std::string(1, c);
        QVERIFY(readDxfPlan(windows, "f.dxf")->points.size() == 2);
        for (std::size_t cut = 0; cut < one.size(); cut += 3)
            (void)readDxfPlan(one.substr(0, cut), "cut");
        // Blocks that hold themselves, each other, or more than there can be.
        const auto blocks = [](const char* text) {
            return pairs("0 SECTION 2 BLOCKS") + pairs(text) + pairs("0 ENDSEC");
        };
        const auto self =
            readDxfPlan(blocks("0 BLOCK 2 A 10 0 20 0 0 INSERT 2 A 10 1 20 1 0 INSERT 2 B 0 LINE 10 0 20 0 11 "
                               "1 21 0 0 ENDBLK 0 BLOCK 2 B 0 INSERT 2 a 0 ENDBLK") +
                            entities("0 INSERT 2 A 10 0 20 0 0 INSERT 2 GONE"),
                        "self");
        QVERIFY(self && self->lines.size() == 1 && self->passedOver.count("INSERT, of itself") &&
                self->passedOver.count("INSERT, of a block that is not there"));
        std::string bomb;
        for (int n = 0; n < 14; ++n) {
            bomb += "0 BLOCK 2 N" + std::to_string(n) + " ";
            for (int k = 0; k < 10; ++k)
                bomb += n == 0 ? "0 LINE 10 0 20 0 11 1 21 1 " : "0 INSERT 2 N" + std::to_string(n - 1) + " ";
            bomb += "0 ENDBLK ";
        }
        QVERIFY(refuses(blocks(bomb.c_str()) + entities("0 INSERT 2 N13"), "can hold"));
        QVERIFY(refuses(blocks("0 BLOCK 2 A 0 LINE 10 0 20 0 11 1 21 1 0 ENDBLK") +
                            entities("0 INSERT 2 A 70 2000000000 71 2000000000 44 1 45 1"),
                        "can hold"));
        // Splines that are none, numbers that are none, places beyond all.
        const auto odd = readDxfPlan(
            entities(
                "0 SPLINE 71 99 40 0 40 1 10 0 20 0 10 1 20 1 0 SPLINE 71 3 10 0 20 0 0 LINE 10 x 20 nan 11 1e300 21 5 "
                "0 LINE 10 0 20 0 11 4 21 4 0 ELLIPSE 10 0 20 0 11 0 21 0 40 0.5 0 ARC 10 0 20 0 40 0 "
                "0 LWPOLYLINE 90 2147483647 10 1 20 1 10 2 20 2 42 1e30 0 HATCH 91 999999 92 2 93 99999999 10 0 20 0"),
            "odd");
        QVERIFY(odd && odd->passedOver.count("SPLINE, of too high a degree") &&
                odd->passedOver.count("SPLINE, not whole"));
        for (const auto& p : odd->points)
            QVERIFY(std::isfinite(p.x) && std::isfinite(p.y));
        // an outline that begins with a y of no point: what is whole after it is drawn
        const auto hatch = readDxfPlan(
            pairs("0 SECTION 2 ENTITIES 0 HATCH 91 1 92 2 20 5 10 0 20 0 10 4 20 0 10 4 20 3 97 0"), "hatch");
        QVERIFY(hatch && hatch->lines.size() == 1 && hatch->lines[0].count == 4);
        QCOMPARE(hatch->high.x - hatch->low.x, 4.0);
        int asked = 0;
        std::string many = "0 SECTION 2 ENTITIES ";
        for (int n = 0; n < 10000; ++n)
            many += "0 LINE 10 0 20 0 11 1 21 1 ";
        const auto stopped = readDxfPlan(pairs(many.c_str()), "many", [&](double share) {
            ++asked;
            return share < 0.1;
        });
        QVERIFY(!stopped && asked >= 1 && asked < 8);
    }
    void piecesInAnyOrder() {
        std::mt19937 dice(7);
        static const char* const pieces[] = {"0 SECTION 2 ENTITIES ",
                                             "0 SECTION 2 BLOCKS ",
                                             "0 BLOCK 2 A ",
                                             "0 ENDBLK ",
                                             "0 ENDSEC ",
                                             "0 LINE ",
                                             "0 LWPOLYLINE ",
                                             "0 POLYLINE 66 1 ",
                                             "0 VERTEX ",
                                             "0 SEQEND ",
                                             "0 INSERT 2 A ",
                                             "0 HATCH 91 2 ",
                                             "92 1 ",
                                             "92 2 ",
                                             "72 4 ",
                                             "72 2 ",
                                             "0 SPLINE ",
                                             "10 5 ",
                                             "20 7 ",
                                             "40 3 ",
                                             "42 -0.5 ",
                                             "71 3 ",
                                             "70 1 ",
                                             "230 -1 ",
                                             "0 ELLIPSE 11 2 21 1 "};
        for (int n = 0; n < 2000; ++n) {
            std::string text = "0 SECTION 2 ENTITIES ";
            for (int k = 0; k < 40; ++k)
                text += pieces[dice() % std::size(pieces)];
            const auto plan = readDxfPlan(pairs(text.c_str()), "f");
            if (!plan)
                continue;
            for (const auto& line : plan->lines)
                QVERIFY(std::size_t(line.first) + line.count <= plan->points.size() &&
                        static_cast<std::size_t>(line.layer) < plan->layers.size());
            (void)outlinesOf(*plan, {}, 1);
        }
    }
};

LOOM_TEST(tst_dxf, TestDxf)
#include "tst_dxf.moc"
