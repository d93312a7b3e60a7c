// Settling, value by value, where design and device differ: who changed what, which side is taken, what is then sent.
#pragma once
#include "site/config.h"

namespace loom::site {

enum class Take { open, design, device };

struct Row {
    project::Difference difference{};
    std::string key{}, group{}; // group: the lane, or "Set-up", as people read it
    Take take = Take::open;
    bool conflict() const { return difference.changed == project::Changed::both; }
};

// Choices made by hand, by key.
using Choices = std::map<std::string, Take>;

// What a device runs, against what was last sent to it.
enum class Standing {
    current, // that, perhaps with changes made at it
    nothing, // nothing that anybody told it: it is new, or lost at power-off what was not kept
    older,   // exactly an earlier revision: it fell back at power-off, or somebody went back
    mixed    // an earlier one, changed at the device since
};

// One row a difference, grouped by lane in the order of the design. What only one side changed is taken from that side.
// What both changed stays open, as does what was never sent from here. From a device that runs nothing or an older
// revision nothing is taken by itself: the design counts, for no work of anybody's is lost; if it was changed since,
// what differs there stays open. A device without a program never takes the design's away.
std::vector<Row> rowsOf(const Config& design, const Config& device, const Config* last, Standing standing,
                        const Choices& chosen);
int openRows(const std::vector<Row>& rows);
// The design as it is once the rows are settled; open rows stay as designed.
Config settled(const Config& design, const Config& device, const std::vector<Row>& rows);

// What will be heard to change at a destination when `to` follows on `from`: the largest change of the response from
// any source to it, on a grid of third octaves, 25 Hz to 16 kHz.
struct Heard {
    std::string where, what; // "Ceiling zone 2", "3.2 dB louder around 2 kHz" or "falls silent"
    double db = 0;           // the change; +-infinity when it starts or ends
};
std::vector<Heard> heardChanges(const Config& from, const Config& to, double rate);

} // namespace loom::site
