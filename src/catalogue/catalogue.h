// Device models: data files in catalogue/, made-up makers.
#pragma once
#include "catalogue/device_model.h"
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

// One model from JSON text. Error: names the file and the field.
Result<DeviceModel> readModel(const std::string& text, const std::string& name);
// Reads every .json of a folder. Files that are no models are told in `errors`, or else are the error.
Result<std::vector<DeviceModel>> readCatalogue(const std::string& folder, std::vector<Error>* errors = nullptr);
std::string modelFolder(); // the user's own models: $XDG_DATA_HOME/nimble-loom/models
// Takes a model file into the user's own and the catalogue of this run. Error: it is none, or its id is taken.
Result<std::string> addModel(const std::string& text, const std::string& name);
// The catalogue that belongs to this build: $NIMBLE_LOOM_DATA, else the installed one, else the source tree's.
const std::vector<DeviceModel>& catalogue();
const DeviceModel* findModel(const std::string& id);
std::string dataFolder(); // where catalogue/ and demo/ lie

} // namespace loom::project
