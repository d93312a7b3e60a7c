#include "model/rule.h"
#include "dsp/number.h"
#include <chrono>

namespace loom::project {

const std::string& Clause::operator[](const std::string& slot) const {
    static const std::string none;
    const auto it = gaps.find(slot);
    return it == gaps.end() ? none : it->second;
}

bool isMoment(const std::string& t) {
    if (t.size() != 19 || t[4] != '-' || t[7] != '-' || t[10] != 'T' || t[13] != ':' || t[16] != ':')
        return false;
    const auto part = [&](std::size_t at, std::size_t n, int min, int max) {
        const auto text = t.substr(at, n);
        return text.find_first_not_of("0123456789") == std::string::npos ? wholeInteger(text, min, max) : std::nullopt;
    };
    const auto year = part(0, 4, 1970, 2200), month = part(5, 2, 1, 12), day = part(8, 2, 1, 31);
    return year && month && day && part(11, 2, 0, 23) && part(14, 2, 0, 59) && part(17, 2, 0, 59) &&
           std::chrono::year_month_day(std::chrono::year(*year), std::chrono::month(static_cast<unsigned>(*month)),
                                       std::chrono::day(static_cast<unsigned>(*day)))
               .ok();
}

} // namespace loom::project
