// Streams of devices that are nobody's here: described by SDP, which somebody pastes or a network announces.
#pragma once
#include "patch/streams.h"
#include "stream/sap.h"

namespace loom::project {

// A device that stands for theirs offers the stream from now on; one that is known by its address already gets it too,
// and a newer description of the same stream takes the place of the older one. `models`: where that device's model is
// looked up. Error: it is encrypted with a key that nobody here has, or packets that cannot be heard.
Result<Edit> takeStream(const Project& project, const stream::Description& description, const ModelSource& models);
// The key of the stream that takeStream() makes or renews, in the project as it is then; "": it is not there.
std::string takenStream(const Project& project, const stream::Description& description);

// What is announced and neither offered nor taken here, in the order of its names.
std::vector<stream::Directory::Entry> announcedByOthers(const Patched& patched, const stream::Directory& announced);

} // namespace loom::project
