#include "client/tickets.h"
#include "disk/safe_file.h"
#include "file/journal.h"
#include "file/project_json.h"
#include "schema/json_text.h"
#include <filesystem>

namespace loom::client {

std::string Tickets::usualPath() {
    return project::stateFolder() + "/tickets.json";
}

Tickets::Tickets(std::string path) : path_(std::move(path)) {
    read();
}

void Tickets::read() {
    const auto text = path_.empty() ? Result<std::string>(Error{}) : project::readWhole(path_, 1u << 20);
    const auto j = text ? project::parseJson(*text, path_) : Result<nlohmann::json>(Error{});
    if (j && j->is_object())
        for (const auto& [identity, ticket] : j->items())
            if (ticket.is_string() && all_.size() < most)
                all_[identity] = ticket.get<std::string>();
}

std::string Tickets::of(const std::string& identity) const {
    const auto it = all_.find(identity);
    return it == all_.end() ? "" : it->second;
}

Result<Done> Tickets::keep(const std::string& identity, const std::string& ticket) {
    if (identity.empty() || ticket.empty() || of(identity) == ticket)
        return Done{};
    read(); // another program may have kept some since
    if (all_.size() >= most && !all_.count(identity))
        all_.erase(all_.begin());
    all_[identity] = ticket;
    if (path_.empty())
        return Done{};
    if (auto done = project::makePrivateFolder(std::filesystem::path(path_).parent_path().string()); !done)
        return done;
    return project::writePrivate(path_, nlohmann::json(all_).dump(1), false);
}

} // namespace loom::client
