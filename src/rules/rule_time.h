// Days and hours where a project is: what clocks of rules count in. Moments are milliseconds of UTC since 1970.
#pragma once
#include "engine/result.h"
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace date {
class time_zone;
}

namespace loom::project {

using Millis = std::int64_t;
inline constexpr Millis second = 1000, minute = 60 * second, dayLong = 24 * 60 * minute;

// A time zone with its summer time. Threads: any.
class Zone {
  public:
    Zone() = default;                                   // UTC
    static Result<Zone> named(const std::string& name); // of the IANA database; error: there is none of that name
    struct Local {
        int day = 0;      // since 1970-01-01
        Millis ofDay = 0; // by the clock on the wall
    };
    Local local(Millis utc) const;
    // A time that a day has twice is the first, one that it skips the moment at which it is skipped.
    Millis utc(int day, Millis ofDay) const;

  private:
    const date::time_zone* zone_ = nullptr;
};

// Sunrise or sunset of a day (of the calendar there), to about a minute: the middle of the sun 0.833 degrees below the
// horizon. None: it does not rise or set that day. Source: Meeus, Astronomical Algorithms (2nd ed. 1998), chapters 15,
// 25 (low accuracy) and 28.
std::optional<Millis> sunAt(int day, bool rise, double latitude, double longitude);
// Where the sun stands: declination in degrees, and by how many minutes a sundial is ahead of the clock.
struct SunPlace {
    double declination = 0, equationOfTime = 0;
};
SunPlace sunPlace(double julianDay);

int weekday(int day);          // 0: Monday
std::string dateText(int day); // "2026-03-02"
std::optional<int> readDate(const std::string& text);
// "2026-03-02T08:00:00" as it is at the place. Error: no such moment.
Result<Millis> readMoment(const std::string& text, const Zone& zone);
std::string momentText(Millis utc, const Zone& zone); // the same

// "17:45", "7:05", "17:45:30"
Result<Millis> readTimeOfDay(const std::string& text);
std::string timeOfDayText(Millis ofDay);

// "every day", "weekdays", "weekends", "Mon Wed Fri"
struct DaysOfWeek {
    unsigned set = 127; // bit 0: Monday
    bool has(int day) const { return (set >> weekday(day)) & 1; }
};
Result<DaysOfWeek> readDays(const std::string& text);
std::string daysText(const DaysOfWeek& days);

// "2026-12-24, 2026-12-27..2027-01-02, 12-25": days, from one to another, and days of every year.
class DateList {
  public:
    static Result<DateList> read(const std::string& text);
    bool has(int day) const;
    bool empty() const { return ranges_.empty() && yearly_.empty(); }

  private:
    std::vector<std::pair<int, int>> ranges_{};
    std::vector<std::pair<int, int>> yearly_{}; // month and day
};

} // namespace loom::project
