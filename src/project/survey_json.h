// Rooms, furniture and places as JSON.
#pragma once
#include "project/json_reader.h"
#include "project/survey.h"

namespace loom::project {

Room readRoom(Reader& reader);
Building readBuilding(Reader& reader);
Place readPlace(Reader& reader);
nlohmann::json toJson(const Room& room);
nlohmann::json toJson(const Building& building);
nlohmann::json toJson(const Place& place);
// A list of eight numbers, one an octave; anything else is a failure of the reader.
room::Bands readBands(Reader& reader, const char* key, const room::Bands& def, double min, double max);

} // namespace loom::project
