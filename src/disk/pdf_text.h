// The text of a PDF, read by poppler's pdftotext in a process of its own, so that a broken file harms nothing here.
#pragma once
#include "engine/result.h"

namespace loom::project {

inline constexpr std::size_t maxPdfBytes = 64u << 20, maxPdfText = 16u << 20;

bool isPdf(const std::string& bytes); // by how it begins
// With its layout: columns stand where they stand on the page, a form feed ends a page. Waits up to 20 s. Error: no
// PDF, encrypted, no text in it (a scan), too large, or pdftotext is not installed; each says so.
Result<std::string> pdfText(const std::string& path);

} // namespace loom::project
