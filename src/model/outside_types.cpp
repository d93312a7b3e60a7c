// The declarations of outside devices (model/outside.h).
#include "model/describe.h"
#include <set>

namespace loom::schema {

using namespace project;

namespace {

constexpr std::size_t longestMessage = 1000; // bytes of what is said at once

Type<OutsideState> stateType() {
    Type<OutsideState> t("outsideState", "What an outside device is, can be asked for and maybe set");
    t.add("id", &OutsideState::id).id();
    t.add("name", &OutsideState::name).letters(80).label("Name").always();
    t.add("choices", &OutsideState::choices).items(0, 100).help("none: it is a number");
    t.add("codes", &OutsideState::codes).items(0, 100).help("how the device writes each of them");
    t.add("low", &OutsideState::low).range(-1e6, 1e6);
    t.add("high", &OutsideState::high).range(-1e6, 1e6);
    t.add("step", &OutsideState::step).above(0, 1e6);
    t.add("unit", &OutsideState::unit).letters(40);
    t.add("set", &OutsideState::set).letters(longestMessage).help("what sets it, with `{value}`");
    t.add("ask", &OutsideState::ask).letters(longestMessage).help("what asks for it");
    t.add("answer", &OutsideState::answer).letters(longestMessage).help("what is heard of it, with `{value}`");
    t.add("every", &OutsideState::every).range(0, 86400).help("s from one question to the next");
    t.rule([](const OutsideState& s, const At& at, Reading& r) {
        if (s.id == outsideThere)
            r.fail(At(at, "id"), "is what every device has by itself");
    });
    t.extra(&OutsideState::extra);
    return t;
}

Type<OutsideCommand> commandType() {
    Type<OutsideCommand> t("outsideCommand", "What is said to an outside device");
    t.add("id", &OutsideCommand::id).id();
    t.add("name", &OutsideCommand::name).letters(80).label("Name").always();
    t.add("send", &OutsideCommand::send).letters(longestMessage).always();
    t.extra(&OutsideCommand::extra);
    return t;
}

Type<OutsideKind> kindType() {
    Type<OutsideKind> t("outsideKind", "A kind of outside device: how it is reached and what it understands");
    t.add("id", &OutsideKind::id).id();
    t.add("name", &OutsideKind::name).letters(120).label("Name").always();
    t.add("link", &OutsideKind::link)
        .choices({"tcp", "udp", "http", "serial", "osc", "wake"})
        .named({"TCP", "UDP", "HTTP", "Serial line", "OSC 1.0", "Wake-on-LAN"})
        .label("Connection")
        .always();
    t.add("port", &OutsideKind::port).range(0, 65535).label("Port");
    t.add("baud", &OutsideKind::baud)
        .range(300, 921600)
        .label("Baud")
        .help("of a serial line: 8 bits, no parity, 1 stop");
    t.add("hex", &OutsideKind::hex).label("Written in hex").help("messages are pairs of hexadecimal digits");
    t.add("ends", &OutsideKind::ends).letters(40).help("what every answer ends with; without it a pause does");
    t.add("pause", &OutsideKind::pause).range(0, 60).label("Pause", "s").help("that it needs between two messages");
    t.add("patience", &OutsideKind::patience).above(0, 60).label("Patience", "s").help("that it may take to answer");
    t.add("tries", &OutsideKind::tries).range(1, 20).label("Tries").help("of a question; then it is lost");
    t.add("hello", &OutsideKind::hello).letters(longestMessage).help("what it says by itself when somebody connects");
    t.add("states", &OutsideKind::states).items(0, mostOutsideStates);
    t.add("commands", &OutsideKind::commands).items(0, mostOutsideStates);
    t.rule([](const OutsideKind& k, const At& at, Reading& r) {
        std::set<std::string> ids;
        for (const auto& s : k.states)
            if (!ids.insert(s.id).second)
                r.fail(At(at, "states"), "has the id \"" + s.id + "\" twice");
        for (const auto& c : k.commands)
            if (!ids.insert(c.id).second)
                r.fail(At(at, "commands"), "has the id \"" + c.id + "\" twice");
    });
    t.extra(&OutsideKind::extra);
    return t;
}

Type<OutsideDevice> deviceType() {
    Type<OutsideDevice> t("outsideDevice", "A device with a language of its own");
    t.add("id", &OutsideDevice::id).id();
    t.add("name", &OutsideDevice::name).letters(120).label("Name").always();
    t.add("room", &OutsideDevice::room).letters(400).help("a room's id");
    t.add("kind", &OutsideDevice::kind).letters(80).help("the id of one of `outsideKinds`").always();
    t.add("address", &OutsideDevice::address).letters(200).label("Address").always();
    t.add("processor", &OutsideDevice::processor).letters(80).help("the device that talks to it");
    t.extra(&OutsideDevice::extra);
    return t;
}

} // namespace

LOOM_TYPE(OutsideState, stateType)
LOOM_TYPE(OutsideCommand, commandType)
LOOM_TYPE(OutsideKind, kindType)
LOOM_TYPE(OutsideDevice, deviceType)

} // namespace loom::schema
