// Edits of touch surfaces: their pages, plies and controls.
#pragma once
#include "model/edit.h"
#include "schema/field.h"
#include "surface/control_kind.h"

namespace loom::project {

// ---- surfaces ----
// For a device of the plan (its model says how large it is), or "" with the size that is typed. With one empty page.
Result<Edit> addSurface(const Project& project, const std::string& name, const std::string& device, int width = 1280,
                        int height = 800);
// Touch surfaces of the plan that have none yet.
std::vector<const Device*> freeScreens(const Project& project);
Result<Edit> removeSurface(const Project& project, const std::string& surface);
// By id or name. Error: there is no such.
Result<const Surface*> surfaceSaid(const Project& project, const std::string& said);
Result<const SurfacePage*> pageSaid(const Surface& surface, const std::string& said);

// ---- pages ----
Result<Edit> addPage(const Project& project, const std::string& surface, const std::string& name);
// A copy behind it, with all that is on it.
Result<Edit> copyPage(const Project& project, const std::string& surface, const std::string& page);
Result<Edit> removePage(const Project& project, const std::string& surface, const std::string& page);
Result<Edit> movePage(const Project& project, const std::string& surface, const std::string& page, int by);

// Where an edit is made.
struct PagePlace {
    std::string surface, page;
    bool operator==(const PagePlace&) const = default;
};
// Changes a page; what is told by `change` refuses it.
Edit changePage(const PagePlace& place, std::string text, std::function<std::optional<Error>(SurfacePage&)> change,
                bool merge = false);

// ---- roles ----
// Names, as they are from now on: those that are there already stay who they are; pages forget those that are gone.
Edit setRoles(const std::string& surface, const std::vector<std::string>& names);

// ---- plies ----
Edit addPly(const PagePlace& place, const std::string& name);         // in front of all
Edit removePly(const PagePlace& place, const std::string& ply);       // with its controls; the last one stays
Edit movePly(const PagePlace& place, const std::string& ply, int by); // to the front is more

// ---- controls ----
// As a kind begins, on a ply ("": the foremost that is not locked, rather one that is open from the start), its corner
// at (x, y).
struct NewControl {
    std::string kind, param{}, ply{}, text{};
    double x = 0, y = 0;
    double width = 0, height = 0; // 0: as the kind begins
    std::optional<double> low{}, high{};
    int digits = -1;
    std::string align{};
};
// The page with it, and its id. Error: no such kind, or a parameter that does not fit it.
Result<std::string> addControl(const Project& project, SurfacePage& page, const NewControl& control);
Edit addControls(const PagePlace& place, std::vector<NewControl> controls, std::string text = "");
Edit removeControls(const PagePlace& place, const std::vector<std::string>& ids);
Edit moveControls(const PagePlace& place, const std::vector<std::string>& ids, double dx, double dy, bool merge);
Edit resizeControl(const PagePlace& place, const std::string& id, double x, double y, double width, double height,
                   bool merge);
Edit copyControls(const PagePlace& place, const std::vector<std::string>& ids, double dx, double dy);
// Copies of them of another kind that fits, beside those they are of: to the right, else below, else over them.
Result<Edit> copyAs(const Project& project, const PagePlace& place, const std::vector<std::string>& ids,
                    const std::string& kind);
Edit orderControls(const PagePlace& place, const std::vector<std::string>& ids, int by); // within their ply
Edit controlsToPly(const PagePlace& place, const std::vector<std::string>& ids, const std::string& ply);
Edit groupControls(const PagePlace& place, const std::vector<std::string>& ids, bool together);
// Another kind in their place, where it fits what drives them. Error: it fits none.
Result<Edit> showAs(const Project& project, const PagePlace& place, const std::vector<std::string>& ids,
                    const std::string& kind);
// Driven from something else; kinds that do not fit it become the usual one.
Result<Edit> driveFrom(const Project& project, const PagePlace& place, const std::vector<std::string>& ids,
                       const std::string& path);
// A picture into the project, onto controls (`state`: "always", "off", "on", "mixed", "unknown", "held"), or as one of
// its own with its middle at (x, y), as large as it is where there is room. Error: it is none, or too large.
Result<Edit> setPicture(const Project& project, const PagePlace& place, const std::vector<std::string>& ids,
                        const std::string& state, const std::string& name, std::vector<char> bytes);
Result<Edit> addPicture(const Project& project, const PagePlace& place, const std::string& name,
                        std::vector<char> bytes, double x, double y, const std::string& ply = "");
Edit copyLook(const PagePlace& place, const std::string& from, const std::vector<std::string>& to);

// ---- fields ----
// Of controls (mixed where they differ), or of a ply, a page, a surface.
std::vector<Field> controlFields(const Surface& surface, const SurfacePage& page, const std::vector<std::string>& ids);
Edit setControlField(const PagePlace& place, const std::vector<std::string>& ids, const std::string& field,
                     const std::string& value);
std::vector<Field> plyFields(const SurfacePage& page, const std::string& ply);
Edit setPlyField(const PagePlace& place, const std::string& ply, const std::string& field, const std::string& value);
std::vector<Field> pageFields(const Surface& surface, const SurfacePage& page);
Edit setPageField(const PagePlace& place, const std::string& field, const std::string& value);
std::vector<Field> surfaceFields(const Surface& surface);
Edit setSurfaceField(const std::string& surface, const std::string& field, const std::string& value);

} // namespace loom::project
