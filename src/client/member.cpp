#include "client/member.h"

namespace loom::client {

int Member::runningRevision() const {
    return state && state->running ? state->running->revision : -1;
}

int Member::revisionBefore() const {
    int newest = 0;
    for (const auto& r : revisions)
        if (r.revision < runningRevision())
            newest = std::max(newest, r.revision);
    return newest;
}

int Member::keptRevision() const {
    return state && state->kept ? state->kept->revision : -1;
}

bool Member::turned() const {
    return state && state->running && state->running->turned;
}

site::Standing Member::standing() const {
    const int revision = runningRevision();
    if (revision < 0)
        return site::Standing::nothing;
    // What was changed live since it was told is gone: by power-off, or by going back to what it was told.
    const bool fellBack =
        revision <= agreedRevision && (wentBack || (!agreedBoot.empty() && (state->boot != agreedBoot || !turned())));
    if (revision >= agreedRevision && !fellBack)
        return site::Standing::current;
    return turned() ? site::Standing::mixed : site::Standing::older;
}

bool Member::kept() const {
    const std::string running = state && state->running ? state->running->fingerprint : "";
    return running == (state && state->kept ? state->kept->fingerprint : "");
}

} // namespace loom::client
