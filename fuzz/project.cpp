// A project file as bytes: as a ZIP, and its project.json as text.
#include "file/project_json.h"
#include "file/store.h"
#include "findings/findings.h"
#include "models.h"
#include "schema/json_text.h"
#include <cstdlib>

using namespace loom::project;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string bytes(reinterpret_cast<const char*>(data), size);
    (void)bool(unpackProject(bytes, "fuzz.loom", loom::test::models()));
    auto json = parseJson(bytes, "fuzz.json");
    if (!json)
        return 0;
    auto project = projectFromJson(*json, loom::test::models());
    if (!project)
        return project.error().message.empty() ? std::abort(), 0 : 0;
    (void)check(*project);
    auto again = projectFromJson(toJson(*project), loom::test::models()); // what was read can be written and read again
    if (!again || toJson(*again) != toJson(*project))
        std::abort();
    return 0;
}
