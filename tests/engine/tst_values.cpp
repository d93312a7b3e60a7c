// What people type and what they read.
#include "engine/block_kind.h"
#include "test.h"

using namespace loom::engine;

namespace {
ParamSpec spec(const char* kind, const char* param) {
    static Block b;
    b = {"b", kind, ""};
    const BlockView v(b);
    return v.table->specs()[v.table->indexOf(param)];
}
} // namespace

class TestValues : public QObject {
    Q_OBJECT
  private slots:
    void typed_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("param");
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("value");
        const auto row = [](const char* k, const char* p, const char* t, double v) {
            QTest::newRow(t) << k << p << t << v;
        };
        row("eq", "1.hz", "3k1", 3100);
        row("eq", "1.hz", "3.1k", 3100);
        row("eq", "1.hz", "3,1 kHz", 3100);
        row("eq", "1.hz", "440", 440);
        row("eq", "1.gain", "-6", -6);
        row("eq", "1.gain", "\u22126.0 dB", -6);
        row("eq", "1.gain", "+3", 3);
        row("eq", "1.q", "Q1.4", 1.4);
        row("eq", "1.q", "1oct", 1.41421356);
        row("eq", "1.q", "Q 1.41 = 1.00 oct", 1.41);
        row("eq", "1.q", "0.7oct", 2.04);
        row("delay", "time", "1.5m", 1500 / 343.2);
        row("delay", "time", "10 ft", 3048 / 343.2);
        row("delay", "time", "0.1s", 100);
        row("highpass", "shape", "bess", 2);
        row("highpass", "on", "off", 0);
        row("highpass", "shape", "linkwitz-riley", 1);
        row("highpass", "shape", "Linkwitz\u2013Riley", 1);
        row("highpass", "shape", "LR", 1);
        row("highpass", "shape", "bw", 0);
        row("highpass", "slope", "24", 3);
        row("delay", "time", "0,125 ms", 0.125);
        row("level", "gain", "off", -80);
    }
    void typed() {
        QFETCH(QString, kind);
        QFETCH(QString, param);
        QFETCH(QString, text);
        QFETCH(double, value);
        const auto v = parseValue(spec(qPrintable(kind), qPrintable(param)), text.toStdString());
        QVERIFY2(bool(v), v ? "" : v.error().text().c_str());
        QVERIFY2(std::abs(*v - value) < 0.006 * std::abs(value) + 1e-9, qPrintable(QString::number(*v)));
    }
    void anEdgeIsSaidInOneWord() {
        const Block b{"b", "highpass", ""};
        const BlockView v(b);
        const int shape = v.table->indexOf("shape");
        for (const char* text : {"lr24", "LR 24", "Linkwitz-Riley 24 dB/oct"}) {
            const auto read = v.table->parse(shape, text);
            QVERIFY2(read && read->size() == 2, text);
            QCOMPARE((*read)[0], (std::pair<std::string, double>("shape", 1)));
            QCOMPARE((*read)[1], (std::pair<std::string, double>("slope", 3)));
        }
        QCOMPARE(v.table->parse(shape, "bessel")->size(), std::size_t(1));
        for (const char* text : {"lr25", "xx24", "24", "lr24 please", ""})
            QVERIFY2(!v.table->parse(shape, text), text);
        const auto t = parseValue(spec("highpass", "shape"), "chebyshev").error();
        QVERIFY2(t.text().find("Linkwitz\u2013Riley (LR)") != std::string::npos, t.text().c_str()); // all are listed
    }
    void whatCouldBeTwoNumbersIsAsked() {
        for (const char* text : {"1,000", "12,345 Hz", "1.234,5"}) {
            const auto v = parseValue(spec("eq", "1.hz"), text);
            QVERIFY2(!v && v.error().text().find("two ways") != std::string::npos, text);
        }
    }
    void nonsense() {
        for (const char* text :
             {"", "abc", "3k1k", "--3", "1e9", "nan", "inf", "6 apples", ".", "999999999999999999999999999"})
            QVERIFY2(!parseValue(spec("eq", "1.hz"), text), text);
        QVERIFY(!parseValue(spec("eq", "1.gain"), std::string(5000, '1')));
    }
    void errorSaysTheRange() {
        const auto v = parseValue(spec("eq", "1.gain"), "99");
        QVERIFY(!v);
        QVERIFY(QString::fromStdString(v.error().text()).contains("−24.0 dB to +24.0 dB"));
        QVERIFY(QString::fromStdString(parseValue(spec("highpass", "shape"), "x").error().remedy).contains("Bessel"));
    }
    void readBackIsTypable() { // whatever is shown can be typed in again
        for (const auto& k : blockKinds()) {
            const BlockView v(Block{"b", k.id, ""});
            for (const auto& s : v.table->specs())
                for (const double x : {s.min, s.def, s.max, 0.5 * (s.min + s.max)}) {
                    const bool whole =
                        s.unit == Unit::choice || s.unit == Unit::onOff || (s.unit == Unit::none && s.step >= 1);
                    const double value = whole ? std::floor(x) : x;
                    const auto back = parseValue(s, formatValue(s, value));
                    QVERIFY2(bool(back), (k.id + "." + s.id + " " + formatValue(s, value)).c_str());
                    QVERIFY2(std::abs(*back - value) <= 0.006 * std::abs(value) + 0.06, (k.id + "." + s.id).c_str());
                }
        }
    }
    void formats() {
        QCOMPARE(QString::fromStdString(formatValue(spec("eq", "1.gain"), -6)), QString("−6.0 dB"));
        QCOMPARE(QString::fromStdString(formatValue(spec("eq", "1.hz"), 3100)), QString("3.10 kHz"));
        QCOMPARE(QString::fromStdString(formatValue(spec("eq", "1.q"), 1.4142)), QString("Q 1.41 = 1.00 oct"));
        QCOMPARE(QString::fromStdString(formatShort(spec("delay", "time"), 14.6)), QString("14.6ms"));
        QCOMPARE(QString::fromStdString(formatValue(spec("eq", "1.gain"), -0.01)), QString("0.0 dB"));
    }
};
LOOM_TEST(tst_values, TestValues)
#include "tst_values.moc"
