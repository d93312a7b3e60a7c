// A sheet printed into a PDF, as text that other programs and the reader of sheets find again.
#pragma once
#include <QString>

namespace loom::app {

// Lines "label: value" with sections; the first line is its title. False: the file cannot be written.
bool writeSheetPdf(const QString& sheet, const QString& file);

} // namespace loom::app
