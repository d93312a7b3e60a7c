// Changes of voicings, of what hangs on amplifiers, and of whom they reach. Each gives a project as it would be; one
// edit makes it so, with every program that a voicing runs in.
#pragma once
#include "loudspeaker/curve_file.h"
#include "model/edit.h"
#include "voicings/voiced.h"

namespace loom::project {

// From now to then: voicings, and fields of devices that both have. Programs are brought in step with the voicings.
// merge: joins with the step before if that had the same text. Null: there is no difference.
Edit editSpeakers(const Project& now, Project then, std::string text, bool merge = false);

// A voicing in its place, or a new one; ids stay. Error: no name.
Result<Project> withVoicing(Project p, const Voicing& voicing);
// Takes a voicing out; loudspeakers that had it have none.
Result<Project> withoutVoicing(Project p, const std::string& voicing);
std::string freeVoicingId(const Project& p, const std::string& name);
// Loudspeakers get a voicing ("": none).
Result<Project> voiced(Project p, const std::vector<std::string>& loudspeakers, const std::string& voicing);
// A copy of its voicing for one loudspeaker alone, named after it. `made`: its id.
Result<Project> withOwnVoicing(Project p, const std::string& loudspeaker, std::string* made);
// Hangs loudspeakers on an output, in place of what hung there; each hangs with one way on one output only. An
// amplifier that processes gets a program that plays its inputs, if it has none or an empty one. Error: no amplifier,
// no such output, no loudspeaker.
Result<Project> hung(Project p, const std::string& amplifier, const std::string& port, const AmplifierOutput& output);
// "device/port" whose sound comes to an amplifier's input; "": none.
Result<Project> fed(Project p, const std::string& amplifier, const std::string& input, const std::string& from);

// A response for a way, or (-1) as the target; it is kept as a file of the project. Error: there is no such way.
Result<Project> withResponse(Project p, const std::string& voicing, int way, const std::string& name,
                             const loudspeaker::ResponseFile& curve);
// An impedance curve: it is kept, and its lowest point is the way's least impedance. Error: ohms must be above 0.
Result<Project> withImpedance(Project p, const std::string& voicing, std::size_t way, const std::string& name,
                              const loudspeaker::ResponseFile& curve);
// A FIR filter for a way, from a file of taps or sound that goes into the project; empty bytes take it out. Error:
// what is wrong with the file.
Result<Project> withTaps(Project p, const std::string& voicing, std::size_t way, std::string name,
                         const std::vector<char>& bytes);

// Sets a parameter by path, e.g. "heddle/delegate-3.eq.2.gain". Entering a band's value switches the band on, and the
// block with it; that of a voicing is set for all that have it. merge: joins with the step before if that set the same
// parameter (dragging, wheel).
Edit setValue(const Project& project, const std::string& path, double value, bool merge = false);

} // namespace loom::project
