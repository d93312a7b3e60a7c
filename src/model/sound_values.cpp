#include "model/sound_values.h"
#include "dsp/number.h"
#include "model/describe.h"
#include <algorithm>

namespace loom::project {
namespace {

using engine::ParamSpec;

const std::vector<ParamSpec>& ofBothEnds() {
    static const std::vector<ParamSpec> all{engine::levelParam("level", "Level", -100, 20, 0),
                                            engine::onOffParam("muted", "Muted", false),
                                            engine::onOffParam("inverted", "Polarity inverted", false)};
    return all;
}

template <class T> double valueOf(const T& one, const std::string& param) {
    return param == "level" ? one.levelDb : param == "muted" ? one.muted : one.inverted;
}

template <class T> void setValueOf(T& one, const std::string& param, double value) {
    if (param == "level")
        one.levelDb = value;
    else
        (param == "muted" ? one.muted : one.inverted) = value >= 0.5;
}

template <class T>
void addValues(std::vector<SoundValue>& all, const T& one, const char* kind, const std::string& name) {
    for (const auto& spec : ofBothEnds())
        all.push_back({std::string(kind) + "." + one.id + "." + spec.id, name + " \u00b7 " + spec.label, spec,
                       valueOf(one, spec.id)});
}

std::string textOf(const nlohmann::json& j) {
    return j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

} // namespace

std::vector<SoundValue> soundValues(const DeviceSound& sound) {
    std::vector<SoundValue> all;
    for (const auto& s : sound.streams)
        addValues(all, s, "stream", s.name);
    for (const auto& r : sound.receivers) {
        addValues(all, r, "receiver", r.id);
        if (r.streams.size() > 1)
            all.push_back({"receiver." + r.id + ".chosen", r.id + " \u00b7 Hears",
                           engine::choiceParam("chosen", "Hears", r.streams), static_cast<double>(r.chosen)});
    }
    return all;
}

Result<SoundValue> soundValue(const DeviceSound& sound, const std::string& path) {
    for (auto& v : soundValues(sound))
        if (v.path == path)
            return v;
    return Error{"there is no such parameter", path,
                 "Streams have stream.ID.level, muted and inverted; receivers have those and, with several streams, "
                 "receiver.ID.chosen."};
}

Result<std::pair<std::string, std::string>> withSoundValue(const DeviceSound& sound, const std::string& path,
                                                           double value) {
    const auto now = soundValue(sound, path);
    if (!now)
        return now.error();
    const auto& spec = now->spec;
    if (!(value >= spec.min && value <= spec.max))
        return Error{exactText(value) + " is outside the range", path,
                     "Use " + engine::formatValue(spec, spec.min) + " to " + engine::formatValue(spec, spec.max) + "."};
    const auto dot = path.find('.');
    const std::string id = path.substr(dot + 1, path.rfind('.') - dot - 1);
    const auto called = [&](const auto& one) { return one.id == id; };
    if (path.starts_with("stream.")) {
        auto s = *std::find_if(sound.streams.begin(), sound.streams.end(), called);
        setValueOf(s, spec.id, value);
        return std::pair{"stream " + id, textOf(toJson(s))};
    }
    auto r = *std::find_if(sound.receivers.begin(), sound.receivers.end(), called);
    if (spec.id == "chosen")
        r.chosen = static_cast<int>(value);
    else
        setValueOf(r, spec.id, value);
    return std::pair{"receiver " + id, textOf(toJson(r))};
}

} // namespace loom::project
