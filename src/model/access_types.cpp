// The declarations of control from outside (model/access.h).
#include "model/describe.h"
#include <algorithm>
#include <set>

namespace loom::schema {

using namespace project;

namespace {

Type<AllowedSignal> allowedType() {
    Type<AllowedSignal> t("allowedSignal", "What others may know of a device, and maybe set");
    t.add("name", &AllowedSignal::name).letters(80).label("Name").help("letters, digits, `-` and `/`").always();
    t.add("signal", &AllowedSignal::signal).letters(400).help("path of a parameter or of another signal").always();
    t.add("sets", &AllowedSignal::sets).label("May be set");
    t.add("role", &AllowedSignal::role)
        .letters(60)
        .label("Asks for the PIN of")
        .help("without it anybody may who reaches the device");
    t.add("low", &AllowedSignal::low)
        .range(-1e9, 1e9)
        .help("the least that it may be set to; without it as far as it goes");
    t.add("high", &AllowedSignal::high).range(-1e9, 1e9).help("the most");
    t.extra(&AllowedSignal::extra);
    return t;
}

Type<Access> accessType() {
    Type<Access> t("access", "What programs and controllers of others may know and set of a device");
    t.add("id", &Access::id).letters(200).help("the device's").always();
    t.add("osc", &Access::osc).label("OSC 1.0");
    t.add("oscPort", &Access::oscPort).range(1, 65535).label("UDP port");
    t.add("oscTo", &Access::oscTo).items(0, mostOscTo).help("who is told of every change over OSC: `192.0.2.9:9000`");
    t.add("web", &Access::web).label("HTTP and WebSocket").help("where its touch surfaces are, below `/api/`");
    t.add("lines", &Access::lines).label("Lines of text over TCP");
    t.add("linesPort", &Access::linesPort).range(1, 65535).label("TCP port");
    t.add("allowed", &Access::allowed).items(0, mostAllowed);
    t.rule([](const Access& a, const At& at, Reading& r) {
        std::set<std::string> names;
        for (const auto& s : a.allowed)
            if (!names.insert(s.name).second)
                r.fail(At(at, "allowed"), "has the name \"" + s.name + "\" twice");
    });
    t.extra(&Access::extra);
    return t;
}

} // namespace

LOOM_TYPE(AllowedSignal, allowedType)
LOOM_TYPE(Access, accessType)

} // namespace loom::schema
