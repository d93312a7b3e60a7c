// Impulse responses for filters, from sound files or texts of numbers.
#pragma once
#include "dsp/audio_file.h"

namespace loom::dsp {

// Reads an impulse response of 1 to maxTaps taps (convolver.h): the first channel of a sound file, converted to `rate`
// (0: as it is), or a text of numbers parted by spaces, commas, semicolons or line ends, with "#" or ";" starting a
// remark at a line's begin. On failure returns false and says which file (and line), and what to do.
bool readTaps(const std::vector<char>& bytes, const std::string& name, double rate, std::vector<float>& taps,
              std::string& error);
// The same without converting: says what is wrong with the file, or nothing. Large sound files are judged by their
// header.
std::string troubleWithTaps(const std::vector<char>& bytes, const std::string& name);

} // namespace loom::dsp
