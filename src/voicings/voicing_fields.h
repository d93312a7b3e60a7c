// The fields of a voicing and its ways, typed as sheets write them: "47 Hz BW24", "205 Hz -2.2 dB Q 1.6".
#pragma once
#include "loudspeaker/sheet.h"
#include "model/voicing.h"
#include "schema/field.h"

namespace loom::project {

// way: from 0; -1: of the whole loudspeaker.
std::vector<Field> fieldsOf(const Voicing& voicing, int way);
// Error: what is wrong with it; nothing was set. A value that is entered is on.
std::optional<Error> setField(Voicing& voicing, int way, const std::string& field, const std::string& value);

// A voicing of what a sheet says: its fields that are sure and not left out. Bells beyond eight are told in `over`.
Voicing voicingFrom(const loudspeaker::Sheet& sheet, const std::vector<bool>& leftOut, const std::string& id,
                    std::vector<std::string>* over = nullptr);

} // namespace loom::project
