// What surfaces come as from outside: pictures, packs for devices, files of their own, and datagrams of other devices.
#include "models.h"
#include "site/value_link.h"
#include "surface/pack.h"
#include "surface/page_svg.h"
#include "surface/picture_size.h"
#include "surface/surface_file.h"
#include <cmath>
#include <cstdlib>

using namespace loom;
using namespace loom::project;

namespace {

class Nothing : public SurfaceValues {
  public:
    std::optional<double> now(const Drive&) override { return {}; }
    void set(const Drive&, double) override {}
};

// Whatever was taken can be pressed everywhere, drawn, and saved again.
void use(const Project& p, const std::string& id) {
    Nothing values;
    SurfaceUse u(p, id, values);
    const auto* s = p.surface(id);
    for (int i = 0; s && i < 6; ++i) {
        u.press(0, s->width * (0.1 + 0.15 * i), s->height * (0.9 - 0.15 * i));
        u.move(0, s->width * 0.5, s->height * 0.5);
        u.release(0);
        u.passed(1);
        if (u.asked())
            u.answer(true);
    }
    (void)pageSvg(u);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    if (size == 0)
        return 0;
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    const std::vector<char> bytes(text.begin(), text.end());
    switch (data[0] % 4) {
    case 0: {
        const auto is = pictureSize(bytes);
        if (is && (is->width <= 0 || is->height <= 0))
            std::abort();
        if (!errorInPicture(bytes) && (!is || is->width > mostPicturePixels || is->height > mostPicturePixels))
            std::abort();
        break;
    }
    case 1:
        if (auto packed = unpackSurface(text, test::models())) {
            use(packed->project, packed->surface);
            (void)pathsUsed(packed->project, packed->project.surfaces.front());
            const auto again = packSurface(packed->project, packed->project.surfaces.front(), packed->as);
            if (again.size() <= longestPack && !unpackSurface(again, test::models()))
                std::abort();
        }
        break;
    case 2:
        if (const auto file = readSurfaceFile(text, "fuzz")) {
            const auto again = readSurfaceFile(surfaceFileText(*file), "again");
            if (!again || !(*again == *file))
                std::abort();
            Project p;
            if (const auto edit = addSurfaceFile(p, *file, ""))
                if (const auto made = edit->make(p); made && !made->surfaces.empty())
                    use(*made, made->surfaces.front().id);
        }
        break;
    default: {
        site::ValueLink link("here");
        link.be({"heddle"});
        link.read = [](const std::string&) { return std::optional(1.0); };
        link.line = [](const std::string&) { return std::string(); };
        link.taken = [](const std::string& path, double value, const std::string&) {
            if (path.rfind("heddle/", 0) != 0 || !std::isfinite(value))
                std::abort();
            return true;
        };
        link.called = [](const std::string& path, const std::string&, const std::string&) {
            if (path.rfind("heddle/", 0) != 0)
                std::abort();
        };
        link.gaveUp = [](const std::string&) {};
        link.want({"slate/a.b"});
        (void)link.heard(text, 1);
        for (const auto& told : link.take(2))
            if (told.size() > site::ValueLink::longestDatagram)
                std::abort();
    }
    }
    return 0;
}
