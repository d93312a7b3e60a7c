// PINs of people at touch surfaces: what a device keeps of them tells nobody what they are.
#pragma once
#include "engine/result.h"
#include <string>

namespace loom::site {

// Argon2id with a salt of its own, as text. Error: it is not 4 to 12 digits.
Result<std::string> pinPrint(const std::string& pin);
bool isPin(const std::string& print, const std::string& pin);

} // namespace loom::site
