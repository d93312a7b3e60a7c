#include "catalogue/model_fields.h"
#include "catalogue/catalogue.h"
#include "catalogue/describe.h"
#include "engine/program.h"

namespace loom::project {
DeviceModel blankModel(const std::string& kind) {
    DeviceModel m;
    m.group = "Drive and process";
    m.mount = "rack";
    if (kind == "loudspeaker") {
        m.group = "Reproduce";
        m.use = "loudspeaker";
        m.mount = "wall";
        m.loudspeaker = LoudspeakerData{};
        m.loudspeaker->horizontal = m.loudspeaker->vertical = acoustics::filled(90);
        m.inputs = {{"in", "Inputs", 1}};
    } else if (kind == "microphone" || kind == "array") {
        m.group = "Pick up";
        m.use = kind;
        m.mount = kind == "array" ? "ceiling" : "table";
        m.microphone = MicrophoneData{};
        m.microphone->beam = acoustics::filled(60);
        m.microphone->pattern = 0.5;
        m.microphone->lobes = kind == "array" ? 8 : 0;
        m.outputs = {{"out", "Outputs", 1}};
    }
    return m;
}

std::vector<Field> fieldsOf(const DeviceModel& model) {
    return schema::shownFields(model);
}

std::optional<Error> setField(DeviceModel& model, const std::string& field, const std::string& value) {
    return schema::setShownField(model, field, value, "a model has no such field");
}

std::vector<Error> errorsOf(const DeviceModel& m, const Catalogue& shelf) {
    std::vector<Error> all;
    if (m.name.find_first_not_of(" \t") == std::string::npos)
        all.push_back({"It has no name", "Name", "Type the name that stands on it."});
    else if (shelf.find(engine::slug(m.name)))
        all.push_back({"There is a " + m.name + " on the shelf already", "Name", "Give it another name."});
    if (m.loudspeaker && m.loudspeaker->maxLevel <= m.loudspeaker->sensitivity)
        all.push_back({"It bears less than one watt by these figures", "Most for long",
                       "The most it bears is its sensitivity and 10\u00b7log10 of its power in watts."});
    return all;
}

std::string modelText(const DeviceModel& m) {
    DeviceModel named = m;
    if (named.id.empty())
        named.id = engine::slug(m.name);
    return schema::toJson(named).dump(2) + "\n";
}

} // namespace loom::project
