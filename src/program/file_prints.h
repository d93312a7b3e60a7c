// Files that blocks need (sounds, taps), as a program goes to a device: beside the name of each stands what is in it,
// so that the device knows which it lacks and both ends know whether they have the same. The design says nothing of it.
#pragma once
#include "model/project.h"

namespace loom::project {

// By what two contents are told apart, 16 digits: against damage, not against ill will.
std::string contentPrint(std::string_view bytes);

engine::Program withFilePrints(engine::Program program, const Assets& assets);
engine::Program withoutFilePrints(engine::Program program);
// Of a program with prints: print by the file's name.
std::map<std::string, std::string> filePrints(const engine::Program& program);

inline constexpr std::size_t largestDeviceFile = 5u << 20; // bytes of a sound that a device takes
inline constexpr std::size_t mostDeviceFiles = 32u << 20;  // bytes of all files in its store

} // namespace loom::project
