#include "rules/rule_time.h"
#include "dsp/number.h"
#include "rules/search_words.h"
#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <date/tz.h>
#include <numbers>

namespace loom::project {
namespace {

using std::chrono::milliseconds;
constexpr std::array<const char*, 7> dayNames{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"};
constexpr unsigned weekdaysSet = 31, weekendsSet = 96, everyDaySet = 127;
constexpr double radians = std::numbers::pi / 180;
constexpr std::size_t mostDates = 400;

date::sys_time<milliseconds> sysTime(Millis utc) {
    return date::sys_time<milliseconds>(milliseconds(utc));
}

// Whole numbers parted by a sign: "2026-12-24".
std::optional<std::vector<int>> parted(const std::string& text, char by, std::size_t least, std::size_t most) {
    std::vector<int> all;
    std::size_t at = 0;
    while (true) {
        const auto end = std::min(text.find(by, at), text.size());
        const auto piece = text.substr(at, end - at);
        if (piece.empty() || piece.size() > 4 || piece.find_first_not_of("0123456789") != std::string::npos)
            return {};
        all.push_back(*wholeInteger(piece, 0, 9999));
        if (end == text.size())
            break;
        at = end + 1;
    }
    return all.size() >= least && all.size() <= most ? std::optional(all) : std::nullopt;
}

std::string withoutBlanks(const std::string& t) {
    const auto begin = t.find_first_not_of(' ');
    return begin == std::string::npos ? "" : t.substr(begin, t.find_last_not_of(' ') - begin + 1);
}

} // namespace

Result<Zone> Zone::named(const std::string& name) {
    Zone z;
    if (name.empty() || name == "UTC")
        return z;
    try { // the library says so by exceptions
        z.zone_ = date::locate_zone(name);
    } catch (const std::exception&) {
        return Error{"there is no time zone \"" + name.substr(0, 60) + "\"", "place",
                     "Name it as in Europe/Berlin or America/New_York."};
    }
    return z;
}

Zone::Local Zone::local(Millis utc) const {
    Millis there = utc;
    if (zone_)
        there += std::chrono::duration_cast<milliseconds>(zone_->get_info(sysTime(utc)).offset).count();
    const Millis day = there >= 0 ? there / dayLong : -((dayLong - 1 - there) / dayLong);
    return {static_cast<int>(day), there - day * dayLong};
}

Millis Zone::utc(int day, Millis ofDay) const {
    const Millis there = day * dayLong + ofDay;
    if (!zone_)
        return there;
    const auto info = zone_->get_info(date::local_time<milliseconds>(milliseconds(there)));
    if (info.result == date::local_info::nonexistent)
        return std::chrono::duration_cast<milliseconds>(info.first.end.time_since_epoch()).count();
    return there - std::chrono::duration_cast<milliseconds>(info.first.offset).count();
}

// ---- the sun ----

SunPlace sunPlace(double julianDay) {
    const double t = (julianDay - 2451545) / 36525; // (25.1)
    const double l0 = std::fmod(280.46646 + t * (36000.76983 + t * 0.0003032), 360);
    const double m = 357.52911 + t * (35999.05029 - t * 0.0001537);
    const double e = 0.016708634 - t * (0.000042037 + t * 0.0000001267);
    const double c = (1.914602 - t * (0.004817 + t * 0.000014)) * std::sin(m * radians) +
                     (0.019993 - t * 0.000101) * std::sin(2 * m * radians) + 0.000289 * std::sin(3 * m * radians);
    const double omega = 125.04 - 1934.136 * t;
    const double seen = l0 + c - 0.00569 - 0.00478 * std::sin(omega * radians);
    const double tilt = 23 + (26 + (21.448 - t * (46.815 + t * (0.00059 - t * 0.001813))) / 60) / 60 +
                        0.00256 * std::cos(omega * radians);
    SunPlace s;
    s.declination = std::asin(std::sin(tilt * radians) * std::sin(seen * radians)) / radians;
    const double y = std::pow(std::tan(tilt / 2 * radians), 2); // (28.3)
    s.equationOfTime = 4 / radians *
                       (y * std::sin(2 * l0 * radians) - 2 * e * std::sin(m * radians) +
                        4 * e * y * std::sin(m * radians) * std::cos(2 * l0 * radians) -
                        0.5 * y * y * std::sin(4 * l0 * radians) - 1.25 * e * e * std::sin(2 * m * radians));
    return s;
}

std::optional<Millis> sunAt(int day, bool rise, double latitude, double longitude) {
    constexpr double altitude = -0.833, unixEpoch = 2440587.5; // refraction and the sun's radius; a Julian day
    double minutes = 720 - 4 * longitude;                      // of the day in UTC
    for (int i = 0; i < 3; ++i) {                              // the sun moves while it rises
        const auto sun = sunPlace(unixEpoch + day + minutes / 1440);
        const double d = sun.declination * radians, f = latitude * radians;
        const double h = (std::sin(altitude * radians) - std::sin(f) * std::sin(d)) / (std::cos(f) * std::cos(d));
        if (!(h >= -1 && h <= 1))
            return {};
        const double angle = std::acos(h) / radians; // (15.1)
        minutes = 720 - 4 * (longitude + (rise ? angle : -angle)) - sun.equationOfTime;
    }
    return day * dayLong + static_cast<Millis>(std::llround(minutes * 60000));
}

// ---- dates and times as text ----

int weekday(int day) {
    return ((day + 3) % 7 + 7) % 7; // 1970-01-01 was a Thursday
}

std::string dateText(int day) {
    const date::year_month_day d{date::sys_days(date::days(day))};
    const auto two = [](unsigned v) { return (v < 10 ? "0" : "") + std::to_string(v); };
    return std::to_string(static_cast<int>(d.year())) + "-" + two(static_cast<unsigned>(d.month())) + "-" +
           two(static_cast<unsigned>(d.day()));
}

std::optional<int> readDate(const std::string& text) {
    const auto n = parted(text, '-', 3, 3);
    if (!n || (*n)[0] < 1970 || (*n)[0] > 2200)
        return {};
    const date::year_month_day d{date::year((*n)[0]), date::month(static_cast<unsigned>((*n)[1])),
                                 date::day(static_cast<unsigned>((*n)[2]))};
    if (!d.ok())
        return {};
    return static_cast<int>(date::sys_days(d).time_since_epoch().count());
}

Result<Millis> readMoment(const std::string& text, const Zone& zone) {
    const auto day =
        text.size() > 10 && (text[10] == 'T' || text[10] == ' ') ? readDate(text.substr(0, 10)) : std::nullopt;
    const auto time = day ? readTimeOfDay(text.substr(11)) : Result<Millis>(Error{});
    if (!time)
        return Error{"\"" + text.substr(0, 40) + "\" is no moment", "", "As in 2026-03-02T08:00:00."};
    return zone.utc(*day, *time);
}

std::string momentText(Millis utc, const Zone& zone) {
    const auto here = zone.local(utc);
    auto time = timeOfDayText(here.ofDay);
    return dateText(here.day) + "T" + time + (time.size() == 5 ? ":00" : "");
}

Result<Millis> readTimeOfDay(const std::string& said) {
    const auto text = withoutBlanks(said);
    const auto n = parted(text, ':', 2, 3);
    if (!n || (*n)[0] > 23 || (*n)[1] > 59 || (n->size() == 3 && (*n)[2] > 59))
        return Error{"\"" + text.substr(0, 40) + "\" is no time of day", "", "As in 17:45."};
    return (*n)[0] * 60 * minute + (*n)[1] * minute + (n->size() == 3 ? (*n)[2] * second : 0);
}

std::string timeOfDayText(Millis ofDay) {
    const auto two = [](Millis v) { return (v < 10 ? "0" : "") + std::to_string(v); };
    const Millis s = ofDay / second % 60;
    return two(ofDay / (60 * minute)) + ":" + two(ofDay / minute % 60) + (s ? ":" + two(s) : "");
}

Result<DaysOfWeek> readDays(const std::string& said) {
    const auto text = lowered(withoutBlanks(said));
    if (text.empty() || text == "every day")
        return DaysOfWeek{everyDaySet};
    if (text == "weekdays")
        return DaysOfWeek{weekdaysSet};
    if (text == "weekends")
        return DaysOfWeek{weekendsSet};
    DaysOfWeek days{0};
    auto words = text;
    std::replace(words.begin(), words.end(), ',', ' ');
    for (const auto& word : searchWords(words)) {
        if (word == "and")
            continue;
        std::size_t i = 0;
        for (; i < dayNames.size(); ++i)
            if (word.size() >= 2 && word.size() <= 9 &&
                word.compare(0, std::min<std::size_t>(3, word.size()), lowered(dayNames[i]), 0,
                             std::min<std::size_t>(3, word.size())) == 0)
                break;
        if (i == dayNames.size())
            return Error{"\"" + word.substr(0, 40) + "\" is no day of the week", "",
                         "As in weekdays, weekends, every day, or Mon Wed Fri."};
        days.set |= 1u << i;
    }
    if (!days.set)
        return Error{"no day is named", "", "As in weekdays, weekends, every day, or Mon Wed Fri."};
    return days;
}

std::string daysText(const DaysOfWeek& days) {
    if (days.set == everyDaySet)
        return "every day";
    if (days.set == weekdaysSet)
        return "weekdays";
    if (days.set == weekendsSet)
        return "weekends";
    std::string all;
    for (std::size_t i = 0; i < dayNames.size(); ++i)
        if ((days.set >> i) & 1)
            all += (all.empty() ? "" : " ") + std::string(dayNames[i]);
    return all;
}

Result<DateList> DateList::read(const std::string& text) {
    DateList list;
    std::size_t at = 0;
    while (at < text.size()) {
        const auto end = std::min(text.find(',', at), text.size());
        const auto one = withoutBlanks(text.substr(at, end - at));
        at = end + 1;
        if (one.empty())
            continue;
        if (list.ranges_.size() + list.yearly_.size() >= mostDates)
            return Error{"has more than 400 dates", "", "Name spans of days, as in 2026-12-24..2027-01-02."};
        if (const auto dots = one.find(".."); dots != std::string::npos) {
            const auto from = readDate(withoutBlanks(one.substr(0, dots))),
                       to = readDate(withoutBlanks(one.substr(dots + 2)));
            if (!from || !to || *to < *from)
                return Error{"\"" + one.substr(0, 40) + "\" is no span of days", "", "As in 2026-12-24..2027-01-02."};
            list.ranges_.push_back({*from, *to});
        } else if (const auto day = readDate(one)) {
            list.ranges_.push_back({*day, *day});
        } else {
            const auto n = parted(one, '-', 2, 2);
            const date::month_day d =
                n ? date::month(static_cast<unsigned>((*n)[0])) / static_cast<int>((*n)[1]) : date::month(0) / 0;
            if (!d.ok())
                return Error{"\"" + one.substr(0, 40) + "\" is no date", "",
                             "As in 2026-12-24, 12-25 of every year, or 2026-12-24..2027-01-02."};
            list.yearly_.push_back({(*n)[0], (*n)[1]});
        }
    }
    return list;
}

bool DateList::has(int day) const {
    for (const auto& [from, to] : ranges_)
        if (day >= from && day <= to)
            return true;
    if (yearly_.empty())
        return false;
    const date::year_month_day d{date::sys_days(date::days(day))};
    const std::pair now{static_cast<int>(static_cast<unsigned>(d.month())),
                        static_cast<int>(static_cast<unsigned>(d.day()))};
    return std::find(yearly_.begin(), yearly_.end(), now) != yearly_.end();
}

} // namespace loom::project
