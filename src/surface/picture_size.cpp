#include "surface/picture_size.h"
#include "dsp/number.h"
#include "surface/pack.h"
#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>

namespace loom::project {
namespace {

unsigned at(const std::vector<char>& b, std::size_t i) {
    return static_cast<unsigned char>(b[i]);
}

unsigned big(const std::vector<char>& b, std::size_t i, int bytes) {
    unsigned v = 0;
    for (int k = 0; k < bytes; ++k)
        v = v << 8 | at(b, i + static_cast<std::size_t>(k));
    return v;
}

bool begins(const std::vector<char>& b, std::string_view with) {
    return b.size() >= with.size() && std::equal(with.begin(), with.end(), b.begin());
}

// ISO/IEC 15948, 11.2.2: the first chunk is IHDR.
std::optional<PictureSize> png(const std::vector<char>& b) {
    if (!begins(b, std::string_view("\x89PNG\r\n\x1a\n", 8)) || b.size() < 33 || big(b, 12, 4) != 0x49484452)
        return {};
    const auto w = big(b, 16, 4), h = big(b, 20, 4);
    return w > 0 && h > 0 && w < 1u << 30 && h < 1u << 30
               ? std::optional(PictureSize{static_cast<int>(w), static_cast<int>(h), PictureSize::Kind::png})
               : std::nullopt;
}

// ITU-T T.81, B.2.2: the first start of a frame.
std::optional<PictureSize> jpeg(const std::vector<char>& b) {
    if (!begins(b, "\xff\xd8"))
        return {};
    for (std::size_t i = 2; i + 9 < b.size();) {
        if (at(b, i) != 0xff)
            return {};
        const auto marker = at(b, i + 1);
        if (marker == 0xff) { // fill
            ++i;
            continue;
        }
        const bool frame = marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc;
        if (frame) {
            const auto h = big(b, i + 5, 2), w = big(b, i + 7, 2);
            return w > 0 && h > 0
                       ? std::optional(PictureSize{static_cast<int>(w), static_cast<int>(h), PictureSize::Kind::jpeg})
                       : std::nullopt;
        }
        const auto length = big(b, i + 2, 2);
        if (length < 2)
            return {};
        i += 2 + length;
    }
    return {};
}

std::string small(std::string t) {
    for (char& c : t)
        c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return t;
}

// A value of the first tag <svg ...>.
std::string valueOf(const std::string& tag, const std::string& name) {
    for (std::size_t i = tag.find(name); i != std::string::npos; i = tag.find(name, i + 1)) {
        if (i == 0 || !std::isspace(static_cast<unsigned char>(tag[i - 1])))
            continue;
        auto k = tag.find_first_not_of(" \t\r\n", i + name.size());
        if (k == std::string::npos || tag[k] != '=')
            continue;
        k = tag.find_first_not_of(" \t\r\n", k + 1);
        if (k == std::string::npos || (tag[k] != '"' && tag[k] != '\''))
            continue;
        const auto end = tag.find(tag[k], k + 1);
        return end == std::string::npos ? "" : tag.substr(k + 1, end - k - 1);
    }
    return {};
}

std::optional<double> pixels(std::string text) {
    if (text.size() > 2 && text.substr(text.size() - 2) == "px")
        text.resize(text.size() - 2);
    const auto v = wholeNumber(text);
    return v && *v >= 1 && *v < 1e9 ? v : std::nullopt;
}

std::string textOf(const std::vector<char>& b) {
    return {b.begin(), b.end()};
}

std::optional<PictureSize> svg(const std::vector<char>& b) {
    const auto text = textOf(b);
    const auto begin = text.find("<svg");
    if (begin == std::string::npos || begin > 20000)
        return {};
    const auto tag = text.substr(begin, text.find('>', begin) - begin);
    const auto w = pixels(valueOf(tag, "width")), h = pixels(valueOf(tag, "height"));
    if (w && h)
        return PictureSize{static_cast<int>(std::ceil(*w)), static_cast<int>(std::ceil(*h)), PictureSize::Kind::svg};
    auto box = valueOf(tag, "viewBox");
    std::replace(box.begin(), box.end(), ',', ' ');
    std::vector<double> n;
    for (std::size_t i = 0; i < box.size();) {
        const auto from = box.find_first_not_of(' ', i), to = std::min(box.find(' ', from), box.size());
        if (from == std::string::npos)
            break;
        const auto v = wholeNumber(box.substr(from, to - from));
        if (!v)
            return {};
        n.push_back(*v);
        i = to;
    }
    if (n.size() != 4 || !(n[2] > 0 && n[3] > 0) || n[2] > 1e9 || n[3] > 1e9)
        return {};
    return PictureSize{static_cast<int>(std::ceil(n[2])), static_cast<int>(std::ceil(n[3])), PictureSize::Kind::svg};
}

} // namespace

Result<PictureSize> pictureSize(const std::vector<char>& b) {
    for (const auto& read : {png, jpeg, svg})
        if (const auto size = read(b))
            return *size;
    return Error{"is no PNG, JPEG or SVG whose size can be read", "picture", "Save it again as one of these."};
}

std::optional<Error> errorInPicture(const std::vector<char>& b) {
    if (b.size() > largestPicture)
        return Error{"is larger than 2 MB", "picture", "Scale it down, or save it with fewer colours."};
    const auto size = pictureSize(b);
    if (!size)
        return size.error();
    if (size->width > mostPicturePixels || size->height > mostPicturePixels)
        return Error{"is " + std::to_string(size->width) + " \u00d7 " + std::to_string(size->height) +
                         " pixels; a surface takes " + std::to_string(mostPicturePixels) + " at most",
                     "picture", "Scale it down."};
    if (size->kind != PictureSize::Kind::svg)
        return {};
    const auto text = small(textOf(b));
    for (const char* bad : {"<script", "<foreignobject", "<!entity", "javascript:", "@import", "onload", "onclick"})
        if (text.find(bad) != std::string::npos)
            return Error{std::string("has \"") + bad + "\" in it, which a picture does not need", "picture",
                         "Save it as a plain SVG."};
    for (const char* link : {"href", "url("})
        for (auto i = text.find(link); i != std::string::npos; i = text.find(link, i + 1)) {
            const auto to = text.find_first_not_of(" \t\r\n=\"'(", i + std::string_view(link).size());
            if (to != std::string::npos && text[to] != '#' && text.compare(to, 11, "data:image/") != 0)
                return Error{"asks for another file", "picture", "Put all that it shows into it."};
        }
    return {};
}

std::vector<PictureLoad> pictureLoads(const Project& p, const Surface& s) {
    std::map<std::string, PictureLoad> all;
    for (const auto& page : s.pages)
        for (const auto& ply : page.plies)
            for (const auto& c : ply.controls)
                for (const auto& name : picturesOf(c)) {
                    auto& load = all[name];
                    load.name = name;
                    const auto it = p.assets.find(name);
                    const auto size = it == p.assets.end() ? Result<PictureSize>(Error{}) : pictureSize(it->second);
                    load.lost = !size || errorInPicture(it->second);
                    if (size)
                        load.bytes = std::max(load.bytes, size->kind == PictureSize::Kind::svg
                                                              ? 4 * c.width * c.height
                                                              : 4.0 * size->width * size->height);
                }
    std::vector<PictureLoad> list;
    for (auto& [_, one] : all)
        list.push_back(std::move(one));
    std::stable_sort(list.begin(), list.end(), [](const auto& a, const auto& b) { return a.bytes > b.bytes; });
    return list;
}

} // namespace loom::project
