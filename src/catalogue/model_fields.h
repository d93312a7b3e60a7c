// A device model as a form: its fields, and the file that is made of it.
#pragma once
#include "catalogue/catalogue.h"
#include "schema/field.h"

namespace loom::project {

// What a model that somebody makes begins as. kind: "loudspeaker", "microphone", "array", "other".
DeviceModel blankModel(const std::string& kind);
std::vector<Field> fieldsOf(const DeviceModel& model);
// Sets one field from what people type. Error: what is wrong with it; nothing was set.
std::optional<Error> setField(DeviceModel& model, const std::string& field, const std::string& value);
// What is still missing before it can go on that shelf; empty: nothing.
std::vector<Error> errorsOf(const DeviceModel& model, const Catalogue& shelf);
// The model as JSON text: what readModel() reads (docs/schema/model.schema.json).
std::string modelText(const DeviceModel& model);

} // namespace loom::project
