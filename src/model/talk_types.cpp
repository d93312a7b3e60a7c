// The declarations of what is kept of conferences (model/talk.h).
#include "model/describe.h"

namespace loom::schema {

using namespace project;

namespace {

Type<Proof> proofType() {
    Type<Proof> t("proof", "A measurement of a space on the bench, kept with the design it was made on");
    t.add("kind", &Proof::kind).choices({"talk"}).always();
    t.add("space", &Proof::space).needed().help("its rooms, joined by `+`");
    t.add("state", &Proof::state).help("a wall state's id; without it all walls are closed");
    t.add("when", &Proof::when).letters(40).always().help("UTC");
    t.add("design", &Proof::design)
        .letters(80)
        .always()
        .help("a sum of what it was measured on; another one now: stale");
    t.add("figures", &Proof::figures).always();
    t.add("where", &Proof::where).help("of a figure: at whom it was the worst");
    t.extra(&Proof::extra);
    return t;
}

} // namespace

LOOM_TYPE(Proof, proofType)

} // namespace loom::schema
