// How a verb of loomctl comes into being: its words, an example, and what it does with what was said.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>
#include <string>

namespace loom::cli {

// `call` lives as long as the program.
template <class Call>
CLI::App* addVerb(CLI::App& app, std::function<int()>& action, Call& call, const char* name, const char* does,
                  const char* example, int (*go)(const Call&)) {
    auto* v = app.add_subcommand(name, does);
    v->footer(std::string("Example: ") + example);
    v->callback([&action, &call, go] { action = [&call, go] { return go(call); }; });
    return v;
}

} // namespace loom::cli
