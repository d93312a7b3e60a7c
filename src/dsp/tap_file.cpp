#include "dsp/tap_file.h"
#include "dsp/convolver.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <string_view>

namespace loom::dsp {
namespace {

constexpr double largestTap = 1000; // 60 dB

std::string tooLong(const std::string& name, const std::string& count) {
    return name + ": has " + count + " taps; a filter has up to " + std::to_string(maxTaps) +
           ". Cut it: what counts is usually at the beginning.";
}

std::string empty(const std::string& name) {
    return name + ": is empty. Choose a sound file or a text with one tap a line.";
}

bool readText(std::string_view text, const std::string& name, std::vector<float>& taps, std::string& error) {
    int line = 1;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::string_view rest = text.substr(at, end - at);
        const auto isGap = [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == ',' || c == ';'; };
        const bool remark = !rest.empty() && (rest[0] == '#' || rest[0] == ';');
        while (!remark) {
            while (!rest.empty() && isGap(rest[0]))
                rest.remove_prefix(1);
            if (rest.empty())
                break;
            if (rest[0] == '+')
                rest.remove_prefix(1);
            double value = 0;
            const auto [stop, fault] = std::from_chars(rest.data(), rest.data() + rest.size(), value);
            rest.remove_prefix(static_cast<std::size_t>(stop - rest.data()));
            if (fault != std::errc() || !std::isfinite(value) || std::abs(value) > largestTap ||
                (!rest.empty() && !isGap(rest[0]))) {
                error = name + ", line " + std::to_string(line) +
                        ": not a tap (a number from \u22121000 to 1000 is). Write one number a line.";
                return false;
            }
            if (taps.size() >= maxTaps) {
                error = tooLong(name, "more than " + std::to_string(maxTaps));
                return false;
            }
            taps.push_back(static_cast<float>(value));
        }
        at = end + 1;
        ++line;
    }
    return true;
}

} // namespace

bool isTapText(const std::vector<char>& bytes) {
    const auto seen = std::min<std::size_t>(bytes.size(), 512);
    return std::all_of(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(seen),
                       [](char c) { return (c >= ' ' && c < 127) || c == '\n' || c == '\r' || c == '\t'; });
}

bool readTapText(const std::vector<char>& bytes, const std::string& name, std::vector<float>& taps,
                 std::string& error) {
    taps.clear();
    if (!readText({bytes.data(), bytes.size()}, name, taps, error))
        return false;
    if (taps.empty())
        error = empty(name);
    return error.empty();
}

std::string errorInTaps(const std::vector<char>& bytes, const std::string& name) {
    std::string error;
    if (isTapText(bytes)) {
        std::vector<float> taps;
        (void)readTapText(bytes, name, taps, error);
        return error;
    }
    const std::int64_t frames = clipFrames(bytes, name, error);
    if (!error.empty())
        return error;
    return frames < 1                                    ? empty(name)
           : frames > static_cast<std::int64_t>(maxTaps) ? tooLong(name, std::to_string(frames))
                                                         : "";
}

} // namespace loom::dsp
