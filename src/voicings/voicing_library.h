// Voicings and set-ups of amplifiers as files: one loudspeaker channel's voicing, one amplifier with all that hangs on
// it, or a set of up to 100 of those; and the user's own library of voicings.
#pragma once
#include "engine/result.h"
#include "model/project.h"

namespace loom::project {

inline constexpr std::size_t mostSetups = 100;

// A voicing with the response files that it names.
struct VoicingFile {
    std::vector<Voicing> voicings;
    Assets files; // texts
};
std::string voicingText(const Project& p, const std::vector<std::string>& voicings);
// One or many. Error: not a voicing, of a later version, too large; with the place in the file.
Result<VoicingFile> readVoicings(const std::string& text, const std::string& name);
// Puts voicings into a project under ids of their own; `made`: those ids.
Project withVoicings(Project p, const VoicingFile& file, std::vector<std::string>* made);

// A whole amplifier's set-up: voicings by output, wiring, cables. Loudspeakers are recalled by their place on the
// output: what hangs there now gets the voicing.
struct AmplifierSetup {
    std::string name, model;
    struct Output {
        AmplifierOutput wiring; // its loads say ways and taps only
        std::string voicing;    // of `file`
    };
    std::map<std::string, Output> outputs;
};
struct SetupFile {
    std::vector<AmplifierSetup> setups;
    VoicingFile file;
};
std::string setupText(const Project& p, const std::vector<std::string>& amplifiers);
Result<SetupFile> readSetups(const std::string& text, const std::string& name);
// Recalls one set-up on an amplifier: outputs that it has get wiring, cable, taps and voicing; what hangs there stays.
// Error: no amplifier, or an output that it does not have.
Result<Project> withSetup(Project p, const std::string& amplifier, const SetupFile& file, std::size_t setup);
// A set on many: each goes to the amplifier of its name. `left`: names that are not in the project.
Result<Project> withSetups(Project p, const SetupFile& file, std::vector<std::string>* left);

// The user's own: $XDG_DATA_HOME/nimble-loom/voicings.
std::string voicingFolder();
struct KeptVoicing {
    std::string name, path;
    VoicingFile file;
};
std::vector<KeptVoicing> voicingLibrary(std::vector<Error>* errors = nullptr);
Result<std::string> keepVoicing(const Project& p, const std::string& voicing, bool replace);

} // namespace loom::project
