// Text: words that stand there.
#include "surface/control_kind.h"

namespace loom::project::text_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& look = d.control.look;
    if (!look.fill.empty() || !look.edge.empty())
        s.marks.push_back(box(d, look.fill.empty() ? Colour{0, 0, 0, 0} : d.paint.fill));
    auto words = label(d, 0, 0, d.width, d.height, d.label, d.paint.ink, d.paint.textSize);
    words.stand = standOf(d.control, Mark::Stand::left);
    s.marks.push_back(words);
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "text", k.label = "Text", k.purpose = "Words that stand there";
    k.width = 320, k.height = 40;
    k.role = "heading";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::text_control
