// How large a picture is, from the head of its file: nothing is decoded.
#pragma once
#include "engine/result.h"
#include "model/project.h"

namespace loom::project {

struct PictureSize {
    int width = 0, height = 0;
    enum class Kind { png, jpeg, svg } kind = Kind::png;
};
// Error: it is no PNG, JPEG or SVG, or says no size. An SVG without one is as large as its view box.
Result<PictureSize> pictureSize(const std::vector<char>& bytes);
// Files with scripts, or that ask for others, are none of ours. Nothing: it may be used.
std::optional<Error> errorInPicture(const std::vector<char>& bytes);

inline constexpr int mostPicturePixels = 8192; // across or down

// What the pictures of a surface take while they are shown: 4 bytes a pixel, drawn pictures (SVG) as large as they are
// shown. The heaviest first.
struct PictureLoad {
    std::string name;
    double bytes = 0;
    bool lost = false; // the project has no such file, or it is none
};
std::vector<PictureLoad> pictureLoads(const Project& project, const Surface& surface);

} // namespace loom::project
