// loomctl: the headless face of Nimble Loom.
#include "cli/verbs.h"
#include <CLI/CLI.hpp>
#include <iostream>

int main(int argc, char** argv) {
    CLI::App app{"loomctl: Nimble Loom without a window"};
    app.require_subcommand(1);
    app.failure_message(CLI::FailureMessage::simple);
    std::function<int()> action;
    loom::cli::addVerbs(app, action);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        const int code = app.exit(e, std::cout, std::cerr);
        return code == 0 ? 0 : 2;
    }
    return action();
}
