// Voicings and what hangs on amplifiers, as JSON.
#pragma once
#include "project/json_reader.h"
#include "project/model.h"

namespace loom::project {

Voicing readVoicing(Reader& reader);
nlohmann::json toJson(const Voicing& voicing);
AmplifierOutputs readOutputs(Reader& reader, const char* key);
nlohmann::json toJson(const AmplifierOutputs& outputs);

} // namespace loom::project
