#include "file/project_json.h"
#include "file/migrate.h"
#include "model/describe.h"

namespace loom::project {

using nlohmann::json;

Result<Project> projectFromJson(json j, const ModelSource& models) {
    if (!j.is_object() || j.value("format", json()) != "nimble-loom-project")
        return Error{"this is not a Nimble Loom project", "/format", "Open a .loom file or a folder made from one."};
    const json version = j.value("version", json());
    if (!version.is_number_integer() || version.get<double>() < 1)
        return Error{"the version is missing or not a whole number", "/version", "Use the file as it was saved."};
    if (version.get<double>() > formatVersion)
        return Error{"the project was made by a later version of Nimble Loom (format " + version.dump() +
                         "; this one reads up to " + std::to_string(formatVersion) + ")",
                     "/version", "Open it with a newer Nimble Loom."};
    try {
        if (version == 1)
            j = migrateFrom1(std::move(j));
        if (j.at("version") == 2)
            j = migrateFrom2(std::move(j));
    } catch (const json::exception&) {
        return Error{"the project does not hold what its version says", "/", "Open an earlier copy of it."};
    }
    auto project = schema::fromJson<Project>(j);
    if (project)
        for (std::size_t i = 0; i < project->devices.size(); ++i)
            project->devices.change(i).models = models;
    return project;
}

} // namespace loom::project
