// Which processor a rule runs on.
#pragma once
#include "rules/rule_book.h"
#include <set>

namespace loom::project {

struct RuleHome {
    std::string device{};           // "": no processor is there
    std::set<std::string> others{}; // whose signals it needs over the line
};
// The processor that stands in its room; else the one that it sets most of, or has ports of the room; else the first.
RuleHome homeOf(const Project& project, const Rule& rule);
RuleHome homeOf(const Project& project, const Scene& scene);
// What a processor runs by itself.
RuleShare shareOf(const Project& project, const std::string& device);
// Every path that a rule speaks of; those of its scenes and scripts too.
std::set<std::string> pathsOf(const Project& project, const Rule& rule);

} // namespace loom::project
