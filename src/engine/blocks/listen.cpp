// Listen point: a place in the program that has a name and can be heard on the bench; nothing leaves it.
#include "engine/blocks/common.h"

namespace loom::engine {

BlockKind declare_listen() {
    BlockKind k;
    k.id = "listen", k.label = "Listen point", k.group = Group::ends;
    k.purpose = "Marks a place to listen at: choose its lane and press Space on the bench. Nothing leaves it.";
    k.params = [](const Shape&) { return std::vector<ParamSpec>{}; };
    k.inputs = [](const Shape&) { return 1; };
    k.outputs = noPorts;
    k.cost = [](const Shape&, double) { return Cost{1.3, 16}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<Kernel>(t, v, s.rate);
    };
    k.glyph = Glyph::port;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
