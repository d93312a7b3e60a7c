// What a proof tells, and what each figure has to reach.
#include "talk/prove.h"
#include <cmath>

namespace loom::project {

const std::vector<TalkFigure>& talkFigures() {
    static const std::vector<TalkFigure> all = {
        {"echo", "Hears its own echo", "dB", 1, true, -35,
         "Put an echo canceller on every microphone, with what the far end is heard by as its reference."},
        {"echo-after", "Its echo after both have talked", "dB", 1, true, -35,
         "A longer tail, or less of the far end over the loudspeakers."},
        {"sti", "Speech index, worst talker", "STI", 2, false, 0.60,
         "A nearer microphone, or less noise and reverberation at it."},
        {"steadiness", "Level moves when talkers change", "dB", 2, true, 1.5,
         "Set the preamplifiers so that every talker comes in as loud as the others."},
        {"syllable", "First syllable, late", "ms", 0, true, 20, "A lower threshold of the group, or a shorter attack."},
        {"cut", "Cut while somebody speaks", "ms", 0, true, 50, "A longer hold, or a lower threshold of the group."},
        {"noise", "Noise while nobody speaks", "dBFS A", 1, true, -50,
         "Fewer open microphones: a group that closes those nobody speaks at."},
        {"noise-rise", "Noise of all microphones over one", "dB", 1, true, 1,
         "A group that closes those nobody speaks at, with more depth."},
        {"double-talk", "Level moves while both talk", "dB", 2, true, 1.5,
         "Less suppression in the echo canceller, or less of the far end over the loudspeakers."},
        {"opened", "Microphones the far end opens", "", 0, true, 0, "Let the group hear what the loudspeakers play."},
        {"spare", "Loop gain to spare with two open", "dB", 1, false, 3,
         "Less of the microphones over the loudspeakers, or nearer microphones."},
    };
    return all;
}

const TalkFigure* talkFigure(const std::string& id) {
    for (const auto& f : talkFigures())
        if (id == f.id)
            return &f;
    return nullptr;
}

bool meets(const TalkFigure& f, double value) {
    return f.most ? value <= f.target : value >= f.target;
}

std::vector<std::string> TalkProof::missed() const {
    std::vector<std::string> all;
    for (const auto& f : talkFigures())
        if (const auto it = figures.find(f.id); it != figures.end() && !meets(f, it->second))
            all.push_back(f.id);
    return all;
}

Proof TalkProof::kept(const std::string& when, const std::string& design) const {
    Proof p;
    p.space = space, p.state = state, p.when = when, p.design = design;
    for (const auto& f : talkFigures())
        if (const auto it = figures.find(f.id); it != figures.end())
            p.figures[f.id] = std::round(it->second * 1000) / 1000;
    p.where = where;
    return p;
}

} // namespace loom::project
