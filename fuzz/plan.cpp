// What Survey reads from outside: device models, things from the clipboard. Models that are taken come back
// the same from their own text; things that are pasted can be drawn, predicted and undone.
#include "catalogue/model_fields.h"
#include "findings/room_findings.h"
#include "model/history.h"
#include "models.h"
#include "rooms/plan_clip.h"
#include <cstdlib>

using namespace loom;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    if (const auto m = project::readModel(text, "fuzz")) {
        const auto again = project::readModel(project::modelText(*m), "again");
        if (!again || project::modelText(*again) != project::modelText(*m))
            std::abort();
    }
    static const project::Project base = [] {
        project::Project p;
        p.buildings = *project::withRoom(p, acoustics::rectangle({0, 0}, 8, 6), 3, "Room");
        return p;
    }();
    std::vector<std::string> made;
    if (auto edit = project::pasteClip(base, text, loom::test::models(), "room", {4, 3}, &made); edit && *edit) {
        project::Project p = base;
        project::History history(p);
        if (history.run(std::move(*edit))) {
            (void)project::planItems(p, p.buildings.front());
            (void)project::checkRooms(p);
            for (const auto& key : made)
                (void)project::fieldsOf(p, key);
            history.undo();
            if (!(p.buildings == base.buildings) || p.devices.size() != base.devices.size())
                std::abort();
        }
    }
    return 0;
}
