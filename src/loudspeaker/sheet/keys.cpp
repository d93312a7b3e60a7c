#include "loudspeaker/sheet/keys.h"
#include "dsp/number.h"
#include <array>
#include <cmath>
#include <utility>

namespace loom::loudspeaker::sheet {

bool slopeValue(double v) {
    return v >= 6 && v <= 48 && std::fmod(v, 6) == 0;
}

std::optional<SheetKind> kindOf(Means key) {
    switch (key) {
    case Means::highPass:
        return SheetKind::highPass;
    case Means::lowPass:
        return SheetKind::lowPass;
    case Means::bell:
        return SheetKind::bell;
    case Means::lowShelf:
        return SheetKind::lowShelf;
    case Means::highShelf:
        return SheetKind::highShelf;
    case Means::notch:
        return SheetKind::notch;
    case Means::allPass:
        return SheetKind::allPass;
    case Means::level:
        return SheetKind::gain;
    case Means::delay:
        return SheetKind::delay;
    case Means::polarity:
        return SheetKind::polarity;
    case Means::impedance:
        return SheetKind::impedance;
    case Means::leastImpedance:
        return SheetKind::minimumImpedance;
    case Means::power:
    case Means::noisePower:
        return SheetKind::rmsPower;
    case Means::peakPower:
        return SheetKind::peakPower;
    case Means::sensitivity:
        return SheetKind::sensitivity;
    case Means::coil:
        return SheetKind::coil;
    case Means::coverage:
        return SheetKind::coverage;
    case Means::taps:
        return SheetKind::taps;
    case Means::driver:
    case Means::compression:
    case Means::cone:
        return SheetKind::driver;
    case Means::name:
        return SheetKind::name;
    case Means::maker:
        return SheetKind::maker;
    default:
        return {};
    }
}

bool isLimit(Means key) {
    return key == Means::peakLimit || key == Means::rmsLimit || key == Means::limit || key == Means::attack ||
           key == Means::release || key == Means::threshold;
}

std::optional<Means> powerOf(const Item& item) {
    for (const Means m : {Means::noisePower, Means::peakPower, Means::otherPower, Means::power})
        if (item.has(m))
            return m;
    return {};
}

bool isPower(Means key) {
    return key == Means::power || key == Means::noisePower || key == Means::peakPower || key == Means::otherPower;
}
bool isEdge(Means key) {
    return key == Means::highPass || key == Means::lowPass || key == Means::crossover;
}
bool isEqualiser(Means key) {
    return key == Means::bell || key == Means::lowShelf || key == Means::highShelf || key == Means::shelf ||
           key == Means::notch || key == Means::allPass;
}

std::optional<WayRef> wayOf(const Item& item) {
    static const std::array<std::pair<Means, WayRef>, 6> all{{{Means::waySub, {10, "Sub"}},
                                                              {Means::wayLow, {20, "Low"}},
                                                              {Means::wayLowMid, {25, "Low mid"}},
                                                              {Means::wayMid, {30, "Mid"}},
                                                              {Means::wayHighMid, {35, "High mid"}},
                                                              {Means::wayHigh, {40, "High"}}}};
    for (const auto& [means, way] : all)
        if (item.has(means))
            return way;
    return {};
}

std::optional<WayRef> numberedWay(const Run& run, std::size_t& i) {
    if (i + 1 >= run.size() || !run[i]->has(Means::way))
        return {};
    const Item& n = *run[i + 1];
    int number = 0;
    if (n.is == Item::Is::number && n.whole && n.unit == Unit::none && !n.sign && n.value >= 1 && n.value <= 16)
        number = static_cast<int>(n.value);
    else if (n.is == Item::Is::word && n.text.size() == 1 && n.text[0] >= 'a' && n.text[0] <= 'h')
        number = n.text[0] - 'a' + 1;
    if (number == 0)
        return {};
    i += 2;
    return WayRef{100 + number, print("Way %d", number)};
}

std::optional<Means> keyOf(const Item& item) {
    if (item.is != Item::Is::word)
        return {};
    for (int m = static_cast<int>(Means::highPass); m <= static_cast<int>(Means::ignored); ++m)
        if (item.means.has(static_cast<Means>(m)))
            return static_cast<Means>(m);
    return {};
}

} // namespace loom::loudspeaker::sheet
