// The declarations of touch surfaces (model/surface.h).
#include "dsp/number.h"
#include "model/colour.h"
#include "model/describe.h"
#include <cmath>
#include <set>

namespace loom::schema {

using namespace project;

namespace {

constexpr double mostPixels = 16384;

// What is typed as people write colours is kept as "#RRGGBB", "#RRGGBBAA" or "none".
FieldOf<SurfaceLook> colourField(const char* id, const char* label, std::string SurfaceLook::*member) {
    FieldOf<SurfaceLook> f{{id, label}};
    f.look.letters = 60;
    f.text = [member](const SurfaceLook& l) { return l.*member; };
    f.check = [](const std::string& v) -> std::optional<Error> {
        const auto read = v.empty() ? Result<Colour>(Colour{}) : readColour(v);
        return read ? std::nullopt : std::optional(read.error());
    };
    f.setText = [member](SurfaceLook& l, const std::string& v) { l.*member = v.empty() ? "" : readColour(v)->text(); };
    return f;
}

// A number that may be left out: then nothing stands there.
template <class T>
FieldOf<T> openField(const char* id, const char* label, double min, double max, bool whole,
                     std::function<std::optional<double>(const T&)> get,
                     std::function<void(T&, std::optional<double>)> set) {
    Field number{id, label};
    number.min = min, number.max = max;
    FieldOf<T> f{{id, label}};
    f.look.letters = 30;
    f.text = [get](const T& t) {
        const auto v = get(t);
        return v ? plainText(*v) : std::string();
    };
    f.check = [number, whole](const std::string& v) -> std::optional<Error> {
        const auto read = v.empty() ? Result<double>(0.0) : readNumber(number, v);
        if (read && whole && !v.empty() && *read != std::floor(*read))
            return Error{"\"" + v.substr(0, 40) + "\" is no whole number", number.label,
                         "Type a whole number, or nothing."};
        return read ? std::nullopt : std::optional(read.error());
    };
    f.setText = [number, set](T& t, const std::string& v) {
        set(t, v.empty() ? std::nullopt : std::optional(*readNumber(number, v)));
    };
    return f;
}

// Of those that are below 0 while they are left out.
FieldOf<SurfaceLook> openLook(const char* id, const char* label, double max, double SurfaceLook::*member) {
    return openField<SurfaceLook>(
        id, label, 0, max, false,
        [member](const SurfaceLook& l) { return l.*member < 0 ? std::nullopt : std::optional(l.*member); },
        [member](SurfaceLook& l, std::optional<double> v) { l.*member = v.value_or(-1); });
}

Type<SurfaceLook> lookType() {
    Type<SurfaceLook> t("surfaceLook", "How something on a touch surface looks; what is left out is as around it");
    for (const auto& [key, label, member] : {std::tuple("fill", "Fill", &SurfaceLook::fill),
                                             {"edge", "Edge", &SurfaceLook::edge},
                                             {"ink", "Text colour", &SurfaceLook::ink},
                                             {"accent", "Colour when on", &SurfaceLook::accent}}) {
        t.add(key, member).setting().letters(9).help("`#RRGGBB`, `#RRGGBBAA` or `none`");
        t.form([field = colourField(key, label, member)](const SurfaceLook&) { return std::vector{field}; });
    }
    for (const auto& [key, label, most, member] : {std::tuple("corner", "Corner, px", 4000.0, &SurfaceLook::corner),
                                                   {"edgeWidth", "Edge, px", 200.0, &SurfaceLook::edgeWidth},
                                                   {"textSize", "Text, px", 1000.0, &SurfaceLook::textSize}}) {
        t.add(key, member).setting().range(-1, most).help("-1: as around it");
        t.form([field = openLook(key, label, most, member)](const SurfaceLook&) { return std::vector{field}; });
    }
    t.rule([](const SurfaceLook& l, const At& at, Reading& r) {
        for (const auto& [key, member] : {std::pair("fill", &SurfaceLook::fill),
                                          {"edge", &SurfaceLook::edge},
                                          {"ink", &SurfaceLook::ink},
                                          {"accent", &SurfaceLook::accent}}) {
            const auto& v = l.*member;
            if (!v.empty() && v != "none" && (v[0] != '#' || (v.size() != 7 && v.size() != 9) || !readColour(v)))
                return r.fail(At(at, key), "must be a colour as in #2A7F7A, #2A7F7A80 or none");
        }
    });
    t.extra(&SurfaceLook::extra);
    return t;
}

Type<ControlPictures> picturesType() {
    Type<ControlPictures> t("controlPictures", "Pictures of a control: files of the project");
    for (const auto& [key, label, member] : {std::tuple("always", "Picture", &ControlPictures::always),
                                             {"off", "Picture while off", &ControlPictures::off},
                                             {"on", "Picture while on", &ControlPictures::on},
                                             {"mixed", "Picture while partly on", &ControlPictures::mixed},
                                             {"unknown", "Picture while not known", &ControlPictures::unknown},
                                             {"held", "Picture while pressed", &ControlPictures::held}})
        t.add(key, member).setting().letters(200).label(label);
    t.extra(&ControlPictures::extra);
    return t;
}

Type<Control> controlType() {
    Type<Control> t("control", "Something on a page of a touch surface that is seen or pressed");
    t.add("id", &Control::id).id();
    t.add("kind", &Control::kind).needed().letters(40).help("`loomctl controls` lists them");
    t.add("name", &Control::name).letters(120).label("Name");
    t.add("x", &Control::x).range(-mostPixels, mostPixels).label("Left", "px", 0).always();
    t.add("y", &Control::y).range(-mostPixels, mostPixels).label("Top", "px", 0).always();
    t.add("width", &Control::width).range(1, mostPixels).label("Width", "px", 0).always();
    t.add("height", &Control::height).range(1, mostPixels).label("Height", "px", 0).always();
    t.add("param", &Control::param).letters(500).label("Driven from").help("what it shows and sets");
    t.add("text", &Control::text).setting().letters(500).label("Text").help("without it what the parameter is called");
    t.add("align", &Control::align)
        .setting()
        .choices({"", "left", "centre", "right"})
        .named({"As its kind has it", "Left", "Centre", "Right"})
        .label("Text stands");
    t.add("shape", &Control::shape)
        .setting()
        .choices({"", "rectangle", "ellipse", "triangle", "diamond", "polygon", "line"})
        .named({"Rectangle", "Rectangle", "Ellipse", "Triangle", "Diamond", "Polygon", "Line"})
        .label("Shape")
        .when([](const Control& c) { return c.kind == "shape"; });
    t.add("corners", &Control::corners).setting().letters(1000).help("of a polygon, pairs in percent of its box");
    t.form([](const Control& c) {
        std::vector<FieldOf<Control>> all;
        if (c.shape != "polygon" || c.kind != "shape")
            return all;
        FieldOf<Control> f{{"corners", "Corners, %"}};
        f.look.letters = 1000;
        f.text = [](const Control& one) { return one.corners; };
        f.check = [](const std::string& v) -> std::optional<Error> {
            const auto read = readCorners(v);
            return read ? std::nullopt : std::optional(read.error());
        };
        f.setText = [](Control& one, const std::string& v) { one.corners = v; };
        all.push_back(f);
        return all;
    });
    t.add("page", &Control::page).label("Opens the page").letters(200).help("id of a page that pressing it opens");
    t.add("ply", &Control::ply).label("Opens the ply").letters(200).help("id of a ply of its page");
    t.add("low", &Control::low).setting().help("narrower than the parameter's own range");
    t.add("high", &Control::high).setting();
    t.form([](const Control& c) {
        std::vector<FieldOf<Control>> all;
        if (c.param.empty())
            return all;
        for (const auto& [id, label, member] :
             {std::tuple("low", "Not below", &Control::low), {"high", "Not above", &Control::high}})
            all.push_back(openField<Control>(
                id, label, -1e9, 1e9, false, [m = member](const Control& one) { return one.*m; },
                [m = member](Control& one, std::optional<double> v) { one.*m = v; }));
        all.push_back(openField<Control>(
            "digits", "Digits", 0, 6, true,
            [](const Control& one) { return one.digits < 0 ? std::nullopt : std::optional<double>(one.digits); },
            [](Control& one, std::optional<double> v) { one.digits = static_cast<int>(v.value_or(-1)); }));
        return all;
    });
    t.add("digits", &Control::digits).setting().range(-1, 6).help("-1: as the parameter has it");
    t.add("value", &Control::value).setting().label("Sets").typed(-1e6, 1e6).when([](const Control& c) {
        return c.kind == "press" || c.kind == "hold";
    });
    t.add("shown", &Control::shown).setting().letters(500).label("Seen while").help("a condition");
    t.add("enabled", &Control::enabled).setting().letters(500).label("Works while").help("a condition");
    t.add("look", &Control::look);
    t.add("touched", &Control::touched).help("while a finger is on it").when([](const Control&) { return false; });
    t.form([](const Control&) { // of all of a look these are what a touch changes
        std::vector<FieldOf<Control>> all;
        for (const auto& [id, label, member] : {std::tuple("touchedFill", "Fill when touched", &SurfaceLook::fill),
                                                {"touchedEdge", "Edge when touched", &SurfaceLook::edge}}) {
            const auto inner = colourField(id, label, member);
            FieldOf<Control> f{inner.look};
            f.text = [inner](const Control& c) { return inner.text(c.touched); };
            f.check = inner.check;
            f.setText = [inner](Control& c, const std::string& v) { inner.setText(c.touched, v); };
            all.push_back(f);
        }
        return all;
    });
    t.add("pictures", &Control::pictures);
    t.add("icon", &Control::icon).setting().letters(40).label("Icon").help("`loomctl controls` lists them");
    t.add("through", &Control::through).setting().label("Lets presses through");
    t.add("confirm", &Control::confirm).setting().label("Asks first");
    t.add("locked", &Control::locked).label("Locked");
    t.add("group", &Control::group).letters(200);
    t.rule([](const Control& c, const At& at, Reading& r) {
        if (c.low && c.high && !(*c.low < *c.high))
            r.fail(At(at, "high"), "must be above \"low\"");
    });
    t.extra(&Control::extra);
    return t;
}

template <class List> void ids(const List& list, const char* key, const char* what, const At& at, Reading& r) {
    std::set<std::string_view> seen;
    const At here(at, key);
    for (std::size_t i = 0; i < list.size(); ++i)
        if (!seen.insert(list[i].id).second) {
            const At one(here, i);
            return r.fail(At(one, "id"), std::string("is used by two ") + what);
        }
}

Type<Ply> plyType() {
    Type<Ply> t("ply", "A stacked part of a page of a touch surface");
    t.add("id", &Ply::id).id();
    t.add("name", &Ply::name).letters(120).label("Name").always();
    t.add("closed", &Ply::closed).setting().label("Closed at the start");
    t.add("shown", &Ply::shown).setting().letters(500).label("Open while").help("a condition");
    t.add("comes", &Ply::comes)
        .setting()
        .choices({"", "fade", "slide"})
        .named({"At once", "Fading", "Sliding in"})
        .label("Opens");
    t.add("edge", &Ply::edge)
        .setting()
        .choices({"", "left", "right", "top", "bottom"})
        .named({"No drawer", "A drawer on the left", "A drawer on the right", "A drawer above", "A drawer below"})
        .label("Drawer");
    t.add("extent", &Ply::extent).setting().range(8, 8192).label("Drawer's extent", "px", 0).when([](const Ply& p) {
        return !p.edge.empty();
    });
    t.add("outside", &Ply::outside).setting().label("Closes by a press beside it");
    t.add("closesAfter", &Ply::closesAfter).setting().range(0, 86400).label("Closes after", "s", 0).help("0: never");
    t.add("look", &Ply::look).help("of a drawer, and of what lies on it").when([](const Ply& p) {
        return !p.edge.empty();
    });
    t.add("locked", &Ply::locked).label("Locked here");
    t.add("hiddenHere", &Ply::hiddenHere).label("Hidden here").help("while editing; devices never hear of it");
    t.add("controls", &Ply::controls).items(0, mostOnPage).help("from back to front");
    t.extra(&Ply::extra);
    return t;
}

Type<SurfacePage> pageType() {
    Type<SurfacePage> t("surfacePage", "A page of a touch surface");
    t.add("id", &SurfacePage::id).id();
    t.add("name", &SurfacePage::name).letters(120).label("Name").always();
    t.add("roles", &SurfacePage::roles).items(0, 50).help("who may open it; without them anyone");
    t.add("look", &SurfacePage::look);
    t.add("guidesAcross", &SurfacePage::guidesAcross).items(0, 200).help("upright guides, by their x");
    t.add("guidesDown", &SurfacePage::guidesDown).items(0, 200).help("level guides, by their y");
    t.add("plies", &SurfacePage::plies).items(0, mostPlies).help("from back to front");
    t.rule([](const SurfacePage& p, const At& at, Reading& r) {
        ids(p.plies, "plies", "plies", at, r);
        std::set<std::string_view> seen;
        for (const auto& ply : p.plies)
            for (const auto& c : ply.controls)
                if (!seen.insert(c.id).second)
                    return r.fail(At(at, "plies"), "have two controls with the id \"" + c.id + "\"");
    });
    t.extra(&SurfacePage::extra);
    return t;
}

Type<SurfaceRole> roleType() {
    Type<SurfaceRole> t("surfaceRole", "Somebody who may open more of a touch surface; the PIN lives in the device");
    t.add("id", &SurfaceRole::id).id();
    t.add("name", &SurfaceRole::name).letters(120).label("Name").always();
    t.extra(&SurfaceRole::extra);
    return t;
}

Type<Surface> surfaceType() {
    Type<Surface> t("surface", "What people see and press on a touch surface");
    t.add("id", &Surface::id).id();
    t.add("name", &Surface::name).letters(120).label("Name").always();
    t.add("device", &Surface::device).letters(200).help("id of the touch surface that it is for");
    t.add("width", &Surface::width).range(64, 8192).label("Width", "px", 0).always();
    t.add("height", &Surface::height).range(64, 8192).label("Height", "px", 0).always();
    t.add("millimetres", &Surface::millimetres).range(0, 20000).label("Screen across", "mm", 0).help("0: not known");
    t.add("start", &Surface::start).letters(200).label("Begins with the page").help("without it the first");
    t.add("idleSeconds", &Surface::idleSeconds).range(0, 86400).label("Goes back there after", "s", 0).help("0: never");
    t.add("roles", &Surface::roles).items(0, 50);
    t.add("look", &Surface::look);
    t.add("pages", &Surface::pages).items(0, mostPages);
    t.rule([](const Surface& s, const At& at, Reading& r) {
        ids(s.pages, "pages", "pages", at, r);
        ids(s.roles, "roles", "roles", at, r);
    });
    t.extra(&Surface::extra);
    return t;
}

} // namespace

LOOM_TYPE(SurfaceLook, lookType)
LOOM_TYPE(ControlPictures, picturesType)
LOOM_TYPE(Control, controlType)
LOOM_TYPE(Ply, plyType)
LOOM_TYPE(SurfacePage, pageType)
LOOM_TYPE(SurfaceRole, roleType)
LOOM_TYPE(Surface, surfaceType)

} // namespace loom::schema
