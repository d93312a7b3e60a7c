#include "loudspeaker/sheet/asks.h"

namespace loom::loudspeaker::sheet {

void alsoAsk(SheetField& f, const std::string& question, const std::vector<SheetChoice>& more,
             void (*take)(SheetChoice&, const SheetChoice&)) {
    f.question += (f.question.empty() ? "" : " ") + question;
    if (f.ask.empty()) {
        f.ask = more;
        return;
    }
    std::vector<SheetChoice> all;
    for (const auto& one : f.ask)
        for (const auto& other : more) {
            auto both = one;
            both.label += ", " + other.label;
            take(both, other);
            all.push_back(std::move(both));
        }
    f.ask = std::move(all);
}
void takeKind(SheetChoice& c, const SheetChoice& from) {
    c.kind = from.kind;
}
void takeQ(SheetChoice& c, const SheetChoice& from) {
    c.q = from.q;
}
void takeSlope(SheetChoice& c, const SheetChoice& from) {
    c.slope = from.slope;
}

} // namespace loom::loudspeaker::sheet
