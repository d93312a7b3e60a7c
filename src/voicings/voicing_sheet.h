// A voicing written as a clean spec sheet, which the reader of sheets (loudspeaker/sheet.h) reads back without a
// question: what it is called and by whom it is made, coverage, taps, and of each way its driver's data, edges, bells,
// level, delay and polarity. Notes, response files, FIR filters, margins and what is switched off are no part of it.
#pragma once
#include "model/voicing.h"

namespace loom::project {

std::string sheetText(const Voicing& voicing); // a label and a value a line, a section a way
std::string sheetCsv(const Voicing& voicing);  // a row a parameter, a column a way

} // namespace loom::project
