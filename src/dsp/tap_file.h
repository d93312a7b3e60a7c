// Impulse responses for filters, from sound files or texts of numbers.
#pragma once
#include "dsp/audio_file.h"

namespace loom::dsp {

// Reads a text of 1 to maxTaps (convolver.h) numbers parted by spaces, commas, semicolons or line ends, with "#" or ";"
// starting a remark at a line's begin. On failure returns false and says which file and line, and what to do.
bool readTapText(const std::vector<char>& bytes, const std::string& name, std::vector<float>& taps, std::string& error);
bool isTapText(const std::vector<char>& bytes); // else it may be a sound file
// What is wrong with a file as an impulse response, or nothing. Sound files are judged by their header.
std::string errorInTaps(const std::vector<char>& bytes, const std::string& name);

} // namespace loom::dsp
