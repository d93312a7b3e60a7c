// loomctl: the formats of files as they are declared.
#include "cli/format_verbs.h"
#include "catalogue/describe.h"
#include "cli/answer.h"
#include "program/swatch.h"
#include "schema/schema_page.h"
#include "site/protocol.h"
#include "site/scenario.h"
#include "surface/surface_file.h"
#include <CLI/CLI.hpp>
#include <algorithm>
#include <iostream>
#include <map>

namespace loom::cli {
namespace format_verbs { // of this file

// The members of one side of a message, in a cell of a table: "`path` (text up to 400): such as `chair.eq.2.gain`".
std::string cellOf(const schema::Json& type) {
    std::string cell;
    const auto needed = type.value("required", schema::Json::array());
    const auto members = type.value("properties", schema::Json::object());
    for (const auto& [key, member] : members.items()) {
        cell += (cell.empty() ? "`" : ", `") + key + "`";
        if (std::find(needed.begin(), needed.end(), key) == needed.end())
            cell += "?";
        if (const auto help = member.value("description", std::string()); !help.empty())
            cell += " (" + help + ")";
    }
    return cell;
}

std::string protocolTables() {
    constexpr std::size_t longCell = 200;
    std::map<std::string, std::string> told; // long answers, with the message that tells them in full
    for (const auto& m : site::allMessages())
        if (cellOf(m.ask).empty())
            told.try_emplace(cellOf(m.answer), m.name);
    std::string page = "| message | who may ask it | asked | answered | what it does |\n|---|---|---|---|---|\n";
    for (const auto& m : site::allMessages()) {
        std::string answer = cellOf(m.answer);
        if (const auto it = told.find(answer); answer.size() > longCell && it != told.end() && it->second != m.name)
            answer = "as `" + it->second + "`";
        page += "| `" + m.name + "` | " + site::wordOf(m.caller) + " | " + cellOf(m.ask) + " | " + answer + " | " +
                m.says + " |\n";
    }
    page += "\nWhat devices tell by themselves:\n\n| notice | with | what it tells |\n|---|---|---|\n";
    for (const auto& n : site::allNotices())
        page += "| `" + n.name + "` | " + cellOf(n.what) + " | " + n.says + " |\n";
    return page;
}

schema::Json protocolSchema(const std::string& title) {
    schema::Json all{{"title", title}, {"messages", schema::Json::object()}, {"notices", schema::Json::object()}};
    for (const auto& m : site::allMessages())
        all["messages"][m.name] = {{"who", site::wordOf(m.caller)}, {"asked", m.ask}, {"answered", m.answer}};
    for (const auto& n : site::allNotices())
        all["notices"][n.name] = n.what;
    return all;
}

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
    {"surface", "Nimble Loom touch surface, version 1", schema::jsonSchema<project::SurfaceFile>,
     schema::pageOf<project::SurfaceFile>},
    {"scenario", "Nimble Loom scenario of a rig", schema::jsonSchema<site::Scenario>, schema::pageOf<site::Scenario>},
    {"protocol", "Nimble Loom device protocol", protocolSchema, protocolTables}};

} // namespace format_verbs

void addFormatVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace format_verbs;
    auto* verb = app.add_subcommand("format", "A file format: its JSON Schema, or its fields as a table.\n"
                                              "Example: loomctl format project --table");
    auto name = std::make_shared<std::string>();
    auto table = std::make_shared<bool>(false);
    verb->add_option("KIND", *name, "project, model, swatch, surface, scenario or protocol")->required();
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
            return fail({"there is no format \"" + *name + "\"", "",
                         "Say project, model, swatch, surface, scenario or protocol."});
        };
    });
}

} // namespace loom::cli
