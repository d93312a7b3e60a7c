#include "catalogue/device_model.h"
#include "acoustics/directivity.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

double AmplifierData::wattsInto(double ohms) const {
    if (power.empty() || ohms <= 0)
        return 0;
    auto sorted = power;
    std::sort(sorted.begin(), sorted.end(), [](const auto& a, const auto& b) { return a.ohms < b.ohms; });
    if (ohms >= sorted.back().ohms) // as many volts
        return sorted.back().watts * sorted.back().ohms / ohms;
    if (ohms <= sorted.front().ohms) // as many amperes
        return sorted.front().watts * ohms / sorted.front().ohms;
    std::size_t i = 1;
    while (sorted[i].ohms < ohms)
        ++i;
    const double k = (ohms - sorted[i - 1].ohms) / (sorted[i].ohms - sorted[i - 1].ohms);
    return sorted[i - 1].watts + k * (sorted[i].watts - sorted[i - 1].watts);
}

double AmplifierData::maxVolts() const {
    double most = 0;
    for (const auto& p : power)
        most = std::max(most, std::sqrt(p.watts * p.ohms));
    return most;
}

std::vector<std::string> DeviceModel::ports(bool input) const {
    std::vector<std::string> names;
    for (const auto& g : input ? inputs : outputs)
        for (int i = 1; i <= g.count; ++i)
            names.push_back(g.name + " " + std::to_string(i));
    return names;
}

acoustics::Bands MicrophoneData::factor() const {
    return lobes > 0 ? acoustics::Directivity(beam, beam).factor()
                     : acoustics::filled(acoustics::microphoneFactor(pattern));
}

} // namespace loom::project
