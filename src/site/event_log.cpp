#include "site/event_log.h"
#include "dsp/words.h"
#include <algorithm>
#include <cctype>
#include <chrono>
#include <ctime>
#include <sstream>

namespace loom::site {
namespace {

std::string quoted(std::string text) {
    // A table program takes what begins so for a formula; a device's name is not to become one.
    if (!text.empty() && std::string("=+-@\t\r").find(text[0]) != std::string::npos)
        text = "'" + text;
    std::string out = "\"";
    for (const char c : text)
        out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

} // namespace

std::string utcNow() {
    const std::time_t now = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
    std::tm parts{};
    gmtime_r(&now, &parts);
    char text[32];
    std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &parts);
    return text;
}

void EventLog::add(Event event) {
    events_.push_back(std::move(event));
    if (events_.size() > most)
        events_.pop_front();
}

std::vector<Event> EventLog::matching(const std::string& filter, bool badOnly) const {
    std::vector<std::string> words;
    std::istringstream in(lower(filter));
    for (std::string w; in >> w;)
        words.push_back(w);
    std::vector<Event> out;
    for (const auto& e : events_) {
        const std::string text = lower(e.time + " " + e.device + " " + e.who + " " + e.what);
        if ((!badOnly || e.bad) &&
            std::all_of(words.begin(), words.end(), [&](const auto& w) { return text.find(w) != std::string::npos; }))
            out.push_back(e);
    }
    return out;
}

std::string EventLog::csv(const std::vector<Event>& events) {
    std::string out = "time,device,who,what,trouble\r\n";
    for (const auto& e : events)
        out += quoted(e.time) + "," + quoted(e.device) + "," + quoted(e.who) + "," + quoted(e.what) + "," +
               (e.bad ? "yes" : "no") + "\r\n";
    return out;
}

} // namespace loom::site
