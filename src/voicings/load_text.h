// What hangs on an amplifier's output and how it is wired, as people write it: one grammar for the window and loomctl.
#pragma once
#include "model/project.h"

namespace loom::project {

// Loudspeakers by name (in any case of plain letters) or id, parted by commas: "Column L", "Main L: Low" or "main-l: 1"
// for one way of its voicing, "Foyer ceiling 1-10" for ten, "Bar @ 6 W" with a transformer's tap. Error: a name that
// nobody has, a way its voicing has not, a tap that is no power up to 10 kW.
Result<std::vector<LoudspeakerLoad>> readLoads(const Project& project, const std::string& text);
// The same the other way: numbered ones in a row that are alike are told by their ends, "Foyer ceiling 1–10 @ 6 W".
// What has a name that could be read in another way is told by its id.
std::string loadsText(const Project& project, const AmplifierOutput& output);
// The output with what was typed hanging on it instead; "@ 6 W" gives all that hang there that tap. Taps make an output
// that was no line a 100 V line.
Result<AmplifierOutput> withLoads(const Project& project, AmplifierOutput output, const std::string& text);

const std::vector<std::string>&
wiringNames(); // in the order of Wiring: "parallel", "series", "70 V line", "100 V line"
// By its beginning: "ser", "100". Error: it fits none.
Result<Wiring> readWiring(const std::string& text);
// A cable's cross-section of 0.05 to 100 mm² and, behind a comma, its temperature of -50 to 150 °C: "2.5", "2.5, 40".
Result<AmplifierOutput> withCrossSection(AmplifierOutput output, const std::string& text);

} // namespace loom::project
