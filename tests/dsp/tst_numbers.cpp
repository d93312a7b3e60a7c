// Numbers as text, in a locale that writes decimals with a comma.
#include "dsp/number.h"
#include "test.h"
#include <QtTest>
#include <clocale>
#include <cmath>

using namespace loom;

class NumbersTest : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() {
        QVERIFY2(std::setlocale(LC_ALL, "de_DE.UTF-8"), "de_DE.UTF-8 is missing: scripts/bootstrap makes it");
        QCOMPARE(std::string(std::localeconv()->decimal_point), std::string(","));
    }

    void filesHavePoints() {
        QCOMPARE(leadingNumber("3.25 m").value, 3.25);
        QCOMPARE(leadingNumber("3.25 m").length, std::size_t(4));
        QCOMPARE(leadingNumber(" \t-2.5e3x").value, -2500.0);
        QCOMPARE(leadingNumber("\u22120.5").value, -0.5);
        QCOMPARE(leadingNumber("+.5").value, 0.5);
        QCOMPARE(leadingNumber("3,25").length, std::size_t(1));
        for (const char* none : {"", "-", "x1", "inf", "nan", "-inf", ".", "--1", "1e999"})
            QVERIFY2(leadingNumber(none).length == 0, none);
        QCOMPARE(wholeNumber(" 12.5\r\n").value(), 12.5);
        QVERIFY(!wholeNumber("12.5 m") && !wholeNumber("") && !wholeNumber("1 2"));
        QCOMPARE(wholeInteger("42", 1, 42).value(), 42);
        QVERIFY(!wholeInteger("43", 1, 42) && !wholeInteger("0", 1, 42) && !wholeInteger("1.5", 1, 42));
    }

    void peopleTypeCommasToo() {
        const struct {
            const char* text;
            double value;
            std::size_t length;
            bool unsure;
        } cases[] = {
            {"4,75", 4.75, 4, false},      {"4.75", 4.75, 4, false},    {"-2,5 dB", -2.5, 4, false},
            {"0,125", 0.125, 5, false},    {"1,000", 1.0, 5, true},     {"12,345", 12.345, 6, true},
            {"1,0000", 1.0, 6, false},     {"1.234,5", 1.234, 7, true}, {"1,234,567", 1.234, 5, true},
            {"1,234.5", 1.234, 5, true},   {"3,", 3, 1, false},         {"3, 4", 3, 1, false},
            {"\u22124,5", -4.5, 6, false}, {"1e3", 1, 1, false},        {"1,2,3", 1.2, 3, true},
        };
        for (const auto& c : cases) {
            const auto n = typedNumber(c.text);
            QCOMPARE(n.length, c.length);
            QCOMPARE(n.unsure, c.unsure);
            QCOMPARE(n.value, c.value);
        }
    }

    void listsSayWhatParts() {
        using L = std::vector<double>;
        QCOMPARE(typedNumbers("30 15 7.5").value(), (L{30, 15, 7.5}));
        QCOMPARE(typedNumbers("30,15,7.5").value(), (L{30, 15, 7.5}));
        QCOMPARE(typedNumbers("30 15 7,5").value(), (L{30, 15, 7.5}));
        QCOMPARE(typedNumbers("30, 15").value(), (L{30, 15}));
        QCOMPARE(typedNumbers("4,1; 5; 3,05").value(), (L{4.1, 5, 3.05}));
        QCOMPARE(typedNumbers("30/15").value(), (L{30, 15}));
        QCOMPARE(typedNumbers("-1.5 \u22122").value(), (L{-1.5, -2}));
        QCOMPARE(typedNumbers("").value(), L{});
        QVERIFY(!typedNumbers("30,15") && !typedNumbers("30 x") && !typedNumbers("1,000 2") && !typedNumbers("5m"));
    }

    void writtenWithPoints() {
        QCOMPARE(fixedText(-0.5, 2), std::string("-0.50"));
        QCOMPARE(fixedText(1e300, 0).size(), std::size_t(301));
        QCOMPARE(shortText(0.5), std::string("0.5"));
        QCOMPARE(shortText(1e6), std::string("1e+06"));
        QCOMPARE(shortText(1234.5678, 3), std::string("1.23e+03"));
        for (const double v : {0.1, 1.0 / 3, -2.5e-300, 48000.0, 1e22})
            QCOMPARE(wholeNumber(exactText(v)).value(), v);
    }

    void sentences() {
        QCOMPARE(print("%d of %s: %.1f dB, %+.3g dB, %g %%", 3, "them", -2.25, 4.0, 0.5),
                 std::string("3 of them: -2.2 dB, +4 dB, 0.5 %"));
        QCOMPARE(print("%.0f W", 120), std::string("120 W"));
        QCOMPARE(print("%+.1f and %+d", -1.5, std::size_t(2)), std::string("-1.5 and +2"));
        QCOMPARE(print("%s", std::string("a") + "b"), std::string("ab"));
        QCOMPARE(print("%d left", 1), std::string("1 left"));
        QCOMPARE(print("none %d"), std::string("none "));
    }
};

LOOM_TEST(tst_numbers, NumbersTest)
#include "tst_numbers.moc"
