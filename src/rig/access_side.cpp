#include "rig/access_side.h"
#include "file/project_json.h"

namespace loom::rig {

using namespace project;

AccessSide::AccessSide(Owner owner, std::function<double()> clock)
    : owner_(std::move(owner)), host_([this] {
          AccessHost::Owner o;
          o.now = [this](const std::string& signal) { return owner_.now(signal, driveOf(signal)); };
          o.set = [this](const std::string& signal, double value, const std::string& who) {
              return owner_.set(signal, driveOf(signal), value, who);
          };
          o.give = [this](const std::string& moment) { return owner_.give(moment); };
          o.call = [this](const std::string& line, const std::string& does, const std::string& number,
                          const std::string& who) -> Result<Done> {
              const auto& drive = driveOf(line);
              return drive ? owner_.call(drive->block, does, number, who) : Error{"it is not there", line, ""};
          };
          o.admit = [this](const std::string& role, const std::string& pin, const std::string& source) {
              return admit(role, pin, source);
          };
          return o;
      }()),
      gate_(std::move(clock),
            [this](const std::string& source) { owner_.note("A wrong PIN came from " + source + ".", true); }) {}

const std::optional<Drive>& AccessSide::driveOf(const std::string& signal) const {
    static const std::optional<Drive> none;
    const auto it = drives_.find(signal);
    return it == drives_.end() ? none : it->second;
}

Result<Done> AccessSide::admit(const std::string& role, const std::string& pin, const std::string& source) {
    const auto print = owner_.pinPrint(role);
    if (print.empty())
        return Error{"it has no PIN on this device yet", role.substr(0, 60),
                     "Give it one in Rules while the device is paired."};
    return gate_.admit(role, print, pin, source);
}

void AccessSide::told(const RulePack& pack) {
    const auto* access = pack.project.accessOf(pack.as);
    const auto made =
        access ? toJson(pack.project).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) : std::string();
    if (made == told_)
        return;
    told_ = made;
    access_ = access ? *access : Access{};
    drives_.clear();
    for (const auto& one : access_.allowed)
        drives_[one.signal] = project::driveOf(pack.project, one.signal);
    host_.serve(pack.project, access_);
}

void AccessSide::off() {
    told_.clear();
    access_ = Access{};
    drives_.clear();
    host_.serve(Project{}, access_);
}

} // namespace loom::rig
