// Days, hours, summer time and the sun.
#include "rules/rule_book.h"
#include "test.h"
#include <fstream>
#include <nlohmann/json.hpp>

using namespace loom;
using namespace loom::project;

class TestRuleTime : public QObject {
    Q_OBJECT
    Zone berlin_ = *Zone::named("Europe/Berlin");
    Millis at(const char* text) { return *readMoment(text, berlin_); }
    QString text(std::optional<Millis> t) {
        return t ? QString::fromStdString(momentText(*t, berlin_)) : QString("never");
    }
    RuleClock daily(const char* time, const char* days = "every day", const char* except = "") {
        RuleClock c;
        c.ofDay = *readTimeOfDay(time);
        c.days = *readDays(days);
        c.except = *DateList::read(except);
        return c;
    }

  private slots:
    // Meeus, Astronomical Algorithms, examples 25.a and 28.a: 1992 October 13, 0h TD.
    void sunOfTheBook() {
        const auto s = sunPlace(2448908.5);
        QVERIFY(std::abs(s.declination - -7.78507) < 0.0003);
        QVERIFY(std::abs(s.equationOfTime - (13 + 42.6 / 60)) < 0.02);
    }
    // PyEphem, scripts/vectors/sun.py: within a minute and a half, away from days without one.
    void sunOfOthers() {
        std::ifstream in(LOOM_SOURCE_DIR "/tests/vectors/sun.json");
        const auto all = nlohmann::json::parse(in);
        QVERIFY(all.size() > 50);
        for (const auto& v : all) {
            const auto got = sunAt(*readDate(v["day"].get<std::string>()), v["rise"], v["latitude"], v["longitude"]);
            const auto want = v["utc"];
            if (want.is_null()) {
                QVERIFY2(!got, v.dump().c_str());
                continue;
            }
            QVERIFY2(got, v.dump().c_str());
            QVERIFY2(std::abs(*got - want.get<Millis>()) < 90 * second, v.dump().c_str());
        }
    }
    void datesAndTimes() {
        QCOMPARE(weekday(*readDate("2026-11-30")), 0); // a Monday
        QCOMPARE(weekday(*readDate("1970-01-01")), 3);
        QVERIFY(!readDate("2026-02-29") && readDate("2028-02-29") && !readDate("2026-13-01") && !readDate("26-1-1"));
        QVERIFY(!readTimeOfDay("24:00") && !readTimeOfDay("7") && !readTimeOfDay("7:60") && !readTimeOfDay("7:0:61"));
        QCOMPARE(QString::fromStdString(timeOfDayText(*readTimeOfDay("7:05"))), QString("07:05"));
        QCOMPARE(QString::fromStdString(timeOfDayText(*readTimeOfDay("07:05:09"))), QString("07:05:09"));
        QCOMPARE(QString::fromStdString(daysText(*readDays("fri, sat and mon"))), QString("Mon Fri Sat"));
        QVERIFY(!readDays("mo tu xx") && !readDays(","));
        const auto list = *DateList::read("2026-12-24, 2026-12-27..2027-01-02, 05-01");
        for (const char* in : {"2026-12-24", "2026-12-27", "2026-12-31", "2027-01-02", "2026-05-01", "2031-05-01"})
            QVERIFY2(list.has(*readDate(in)), in);
        for (const char* out : {"2026-12-25", "2026-12-26", "2027-01-03", "2027-12-24"})
            QVERIFY2(!list.has(*readDate(out)), out);
        QVERIFY(!DateList::read("2027-01-02..2026-12-27") && !DateList::read("soon") && !DateList::read("02-30"));
    }
    void zones() {
        QVERIFY(!Zone::named("Nowhere/Else"));
        QCOMPARE(berlin_.local(at("2026-07-01T12:00:00")).ofDay, 12 * 60 * minute);
        QCOMPARE(at("2026-07-01T12:00:00") % dayLong, 10 * 60 * minute);
        QCOMPARE(at("2026-01-01T12:00:00") % dayLong, 11 * 60 * minute);
        // A night that skips 2:00 to 3:00, and one that has it twice.
        QCOMPARE(text(at("2026-03-29T02:30:00")), QString("2026-03-29T03:00:00"));
        QCOMPARE(at("2026-10-25T02:30:00") % dayLong, 30 * minute);
        QCOMPARE(Zone().local(-1).day, -1);
    }
    void clocksGoOn() {
        const auto closing = daily("17:45", "weekdays", "2026-12-24..2026-12-31");
        QCOMPARE(text(closing.next(at("2026-11-30T08:00:00"), berlin_, {})), QString("2026-11-30T17:45:00"));
        QCOMPARE(text(closing.next(at("2026-11-30T17:45:00"), berlin_, {})), QString("2026-12-01T17:45:00"));
        QCOMPARE(text(closing.next(at("2026-12-04T18:00:00"), berlin_, {})), QString("2026-12-07T17:45:00"));
        QCOMPARE(text(closing.next(at("2026-12-23T18:00:00"), berlin_, {})), QString("2027-01-01T17:45:00"));
        // In the night that skips it, it comes when it is skipped; in the one that has it twice, once.
        const auto night = daily("2:30");
        QCOMPARE(text(night.next(at("2026-03-28T12:00:00"), berlin_, {})), QString("2026-03-29T03:00:00"));
        const auto first = night.next(at("2026-10-24T12:00:00"), berlin_, {});
        QCOMPARE(*first % dayLong, 30 * minute);
        QCOMPARE(text(night.next(*first, berlin_, {})), QString("2026-10-26T02:30:00"));
        RuleClock quarter;
        quarter.kind = RuleClock::Kind::every;
        quarter.every = 15 * minute;
        QCOMPARE(text(quarter.next(at("2026-11-30T08:00:01"), berlin_, {})), QString("2026-11-30T08:15:00"));
        QCOMPARE(text(quarter.next(at("2026-11-30T08:15:00"), berlin_, {})), QString("2026-11-30T08:30:00"));
        QVERIFY(!daily("8:00", "every day", "2026-01-01..2029-01-01").next(at("2026-11-30T08:00:00"), berlin_, {}));
    }
};

LOOM_TEST(tst_rule_time, TestRuleTime)
#include "tst_rule_time.moc"
