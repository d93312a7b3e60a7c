// Outside devices: descriptions, templates, addresses, OSC, and whatever one may answer.
#include "model/describe.h"
#include "outside/osc.h"
#include "outside/outside_address.h"
#include "outside/outside_edit.h"
#include "outside/outside_talk.h"
#include <cstdlib>

using namespace loom::project;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size < 2)
        return 0;
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    switch (data[0] % 4) {
    case 0: { // a template, and what is heard behind the first line
        const auto cut = std::min(text.find('\n'), text.size());
        if (const auto t = Template::read(text.substr(0, cut), data[0] & 16)) {
            (void)t->match(text.substr(std::min(text.size(), cut + 1)));
            if (const auto said = t->compose("17"); said && !t->hasAny())
                if (const auto back = t->match(*said); t->hasValue() && back && back->empty())
                    std::abort(); // a value that was said is heard again
        }
        break;
    }
    case 1: // a packet
        if (const auto all = readOsc(text))
            for (const auto& m : *all)
                if (const auto again = readOscText(oscText(m)))
                    (void)bool(oscBytes(*again));
        (void)bool(readOscText(text));
        break;
    case 2: { // a description
        const auto kind = readOutsideKind(text);
        if (kind) {
            const auto again = readOutsideKind(outsideKindText(*kind));
            if (!again || !(*again == *kind))
                std::abort();
            (void)bool(readOutsideAddress(*kind, text.substr(0, 40)));
        }
        break;
    }
    default: { // a device that answers this
        static const auto kinds = shippedOutsideKinds();
        OutsideKind kind = kinds.empty() ? OutsideKind{} : kinds[static_cast<std::size_t>(data[0] / 4) % kinds.size()];
        OutsideTalk talk(kind);
        double now = 0;
        talk.connected(true, now);
        for (std::size_t at = 0; at < text.size(); at += 7) {
            now += static_cast<unsigned char>(text[at]) / 50.0;
            talk.heard(text.substr(at, 7), now);
            if (text[at] & 1)
                talk.heardWhole(text.substr(at), now);
            if (!kind.states.empty())
                (void)bool(talk.set(kind.states[0].id, text[at] & 3, now));
            talk.step(now);
            (void)talk.take();
        }
        break;
    }
    }
    return 0;
}
