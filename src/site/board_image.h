// What a small board's store holds: its program and set-up as bytes.
#pragma once
#include "site/config.h"
#include "site/intel_hex.h"

namespace loom::site {

// "LOOM", version 1, length (32 bit, least significant byte first), CRC-32 (ISO 3309) of what follows, then the
// configuration as JSON.
Bytes imageOf(const Config& config);
// Error: it is none, or damaged.
Result<Config> configOfImage(const Bytes& image);
// The same as text, if it fits the model's store. Error: how many bytes it is too long.
Result<std::string> hexImageOf(const Config& config, const project::DeviceModel& model);
Result<Config> configOfHexImage(const std::string& text, const project::DeviceModel& model);

} // namespace loom::site
