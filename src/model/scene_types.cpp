// The declaration of scenes (model/scene.h).
#include "model/describe.h"
#include <cmath>

namespace loom::schema {

using namespace project;

namespace {

Type<Scene> sceneType() {
    Type<Scene> t("scene", "Values of parameters that are set at once");
    t.add("id", &Scene::id).id();
    t.add("name", &Scene::name).letters(120).label("Name").always();
    t.add("room", &Scene::room).letters(400).help("a space, as in `tern+plover`; without it of the whole project");
    t.add("fade", &Scene::fade).range(0, longestFade).label("Takes", "s", 1).help("s; 0: at once");
    t.add("switches", &Scene::switches)
        .choices({"start", "middle", "end"})
        .named({"As it begins", "In the middle", "At its end"})
        .label("Switches change")
        .help("when in a fade what is on or off, or a choice, changes over");
    t.add("atStart", &Scene::atStart).label("When power comes").help("recalled when power comes").yesFirst();
    t.add("values", &Scene::values).help("by parameter; what is not named is left alone");
    t.rule([](const Scene& s, const At& at, Reading& r) {
        if (s.values.size() > mostInScene)
            return r.fail(At(at, "values"), "has more than " + std::to_string(mostInScene) + " values");
        for (const auto& [path, v] : s.values)
            if (!std::isfinite(v))
                return r.fail(At(At(at, "values"), path.substr(0, 80)), "is no value of a parameter");
    });
    t.extra(&Scene::extra);
    return t;
}

} // namespace

LOOM_TYPE(Scene, sceneType)

} // namespace loom::schema
