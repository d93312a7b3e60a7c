// What happened on site, newest last: kept in bounds, searched, written as CSV.
#pragma once
#include <deque>
#include <string>
#include <vector>

namespace loom::site {

std::string utcNow(); // "2026-11-09T10:40:07Z"

struct Event {
    std::string time, device, who, what; // time: ISO 8601, UTC
    bool bad = false;
    int times = 1; // as often in a row, the last at `time`
    bool operator==(const Event&) const = default;
};

class EventLog {
  public:
    static constexpr std::size_t most = 10000; // the oldest go
    void add(Event event);
    // Those whose words hold all of the words of `filter` (letters' case does not matter), oldest first.
    std::vector<Event> matching(const std::string& filter, bool badOnly = false) const;
    std::size_t size() const { return events_.size(); }
    void clear() { events_.clear(); }
    static std::string csv(const std::vector<Event>& events); // RFC 4180, with a heading

  private:
    std::deque<Event> events_;
};

} // namespace loom::site
