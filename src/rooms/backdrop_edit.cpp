#include "rooms/backdrop_edit.h"
#include "dsp/number.h"
#include "model/asset_name.h"
#include "model/project.h"
#include "rooms/room_edit.h"
#include <algorithm>

namespace loom::project {

Edit addBackdrop(const Project& p, const std::string& building, const std::string& name, const Asset& content,
                 double metresPerUnit, std::vector<std::string> hidden) {
    auto buildings = p.buildings;
    if (buildings.empty())
        buildings.push_back({"building", p.name});
    Backdrop b;
    b.asset = freeAssetName(p.assets, name, content);
    b.metresPerUnit = metresPerUnit;
    b.hidden = std::move(hidden);
    const auto at =
        std::find_if(buildings.begin(), buildings.end(), [&](const Building& one) { return one.id == building; });
    buildings.change(at == buildings.end() ? 0 : static_cast<std::size_t>(at - buildings.begin())).backdrops = {b};
    std::vector<Edit> edits;
    edits.push_back(addAsset(b.asset, content));
    edits.push_back(setBuildings(std::move(buildings), "Backdrop"));
    return together(std::move(edits), "Open backdrop");
}

Edit setBackdrop(const Project& p, const std::string& building, std::vector<std::string> hidden, double metresPerUnit) {
    auto buildings = p.buildings;
    for (std::size_t i = 0; i < buildings.size(); ++i)
        if (buildings[i].id == building && !buildings[i].backdrops.empty()) {
            auto& b = buildings.change(i).backdrops.front();
            const bool units = b.metresPerUnit != metresPerUnit;
            b.hidden = std::move(hidden);
            b.metresPerUnit = metresPerUnit;
            return setBuildings(std::move(buildings), units ? "Units of the drawing" : "Layers of the drawing");
        }
    return {};
}

Edit removeBackdrops(const Project& p) {
    auto buildings = p.buildings;
    buildings.changeEach([](auto& b) { b.backdrops.clear(); });
    return setBuildings(std::move(buildings), "Take the backdrop away");
}

Result<Edit> roomsOfOutlines(const Project& p, const std::string& building, const std::vector<DxfOutline>& outlines,
                             double height, std::vector<std::string>* made) {
    Project then = p;
    const auto at =
        std::find_if(p.buildings.begin(), p.buildings.end(), [&](const Building& b) { return b.id == building; });
    if (at == p.buildings.end() || (*at).backdrops.empty())
        return Error{"has no drawing below it", building, "Open one first."};
    const auto& below = (*at).backdrops.front();
    int number = 0;
    for (const auto& o : outlines) {
        acoustics::Outline outline;
        for (const auto& c : o.corners)
            outline.push_back({below.x + c[0], below.y + c[1]});
        const std::string name = o.name.empty() ? print("Room %d", ++number) : o.name;
        std::string id;
        auto buildings = withRoom(then, std::move(outline), height, name, &id, building);
        if (!buildings)
            return Error{buildings.error().message, name, buildings.error().remedy};
        then.buildings = std::move(*buildings);
        if (made)
            made->push_back(id);
    }
    return setBuildings(then.buildings, outlines.size() == 1
                                            ? "A room of an outline"
                                            : print("%d rooms of outlines", static_cast<int>(outlines.size())));
}

} // namespace loom::project
