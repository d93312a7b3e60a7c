// loomctl: the formats of files as they are declared.
#include "cli/format_verbs.h"
#include "cli/answer.h"
#include "model/schema_page.h"
#include "project/swatch.h"
#include "site/scenario.h"
#include <CLI/CLI.hpp>
#include <iostream>

namespace loom::cli {
namespace {

struct Format {
    const char* name;
    const char* title;
    schema::Json (*made)(const std::string& title);
    std::string (*page)();
};
const Format formats[] = {
    {"project", "Nimble Loom project, version 2", schema::jsonSchema<project::Project>,
     schema::pageOf<project::Project>},
    {"model", "Nimble Loom device model", schema::jsonSchema<project::DeviceModel>,
     schema::pageOf<project::DeviceModel>},
    {"swatch", "Nimble Loom swatch, version 1", schema::jsonSchema<project::Swatch>, schema::pageOf<project::Swatch>},
    {"scenario", "Nimble Loom scenario of a rig", schema::jsonSchema<site::Scenario>, schema::pageOf<site::Scenario>}};

} // namespace

void addFormatVerbs(CLI::App& app, std::function<int()>& action) {
    auto* verb = app.add_subcommand("format", "A file format: its JSON Schema, or its fields as a table.\n"
                                              "Example: loomctl format project --table");
    auto name = std::make_shared<std::string>();
    auto table = std::make_shared<bool>(false);
    verb->add_option("KIND", *name, "project, model, swatch or scenario")->required();
    verb->add_flag("--table", *table, "A table in Markdown");
    auto asJson = std::make_shared<bool>(true);
    verb->add_flag("--json", *asJson, "The JSON Schema (as without it)");
    verb->callback([=, &action] {
        action = [=] {
            for (const auto& f : formats)
                if (*name == f.name) {
                    std::cout << (*table ? f.page() : f.made(f.title).dump(1) + "\n");
                    return 0;
                }
            return fail({"there is no format \"" + *name + "\"", "", "Say project, model, swatch or scenario."});
        };
    });
}

} // namespace loom::cli
