#include "talk/talk_fields.h"
#include "engine/block_kind.h"

namespace loom::project {

namespace {

constexpr const char* groupFields[] = {"mode", "limit", "last", "home", "depth", "hold", "lock", "priority-depth"};
constexpr const char* laneFields[] = {"priority", "behind", "weight"};

const engine::Block* blockOf(const Project& p, const Conversation& c, int group) {
    if (group < 0 || group >= static_cast<int>(c.groups.size()))
        return nullptr;
    const auto& g = c.groups[static_cast<std::size_t>(group)];
    const auto* d = p.device(g.device);
    return d && d->program ? d->program->find(g.block) : nullptr;
}

Field fieldOf(const engine::Block& b, const std::string& param, const std::string& id) {
    const engine::BlockView view(b);
    const auto i = static_cast<std::size_t>(view.table->indexOf(param));
    const auto& spec = view.table->specs()[i];
    Field f{id, spec.label};
    if (spec.unit == engine::Unit::choice || spec.unit == engine::Unit::onOff) {
        f.choices = spec.unit == engine::Unit::onOff ? std::vector<std::string>{"off", "on"} : spec.choices;
        f.choiceNames = spec.unit == engine::Unit::onOff ? std::vector<std::string>{"Off", "On"} : spec.choices;
        f.text = f.choices[static_cast<std::size_t>(view.values[i])];
    } else {
        f.unit = spec.unit == engine::Unit::decibel ? "dB" : spec.unit == engine::Unit::milliseconds ? "ms" : "";
        f.min = spec.min, f.max = spec.max, f.value = view.values[i];
        f.digits = spec.unit == engine::Unit::decibel ? 1 : 0;
    }
    return f;
}

} // namespace

std::vector<Field> talkFields(const Project& p, const Conversation& c, int group, int microphone) {
    std::vector<Field> all;
    const Conversation::Microphone* m = microphone < 0 || microphone >= static_cast<int>(c.microphones.size())
                                            ? nullptr
                                            : &c.microphones[static_cast<std::size_t>(microphone)];
    if (const auto* b = blockOf(p, c, group))
        for (const char* param : groupFields)
            all.push_back(fieldOf(*b, param, std::string("group.") + param));
    if (!m)
        return all;
    Field role{"role", "Who speaks there"};
    role.choices = {"", "chair", "delegate", "presenter", "public"};
    role.choiceNames = {"Not said", "Chair", "Delegate", "Presenter", "Public"};
    role.text = m->role;
    all.push_back(role);
    if (const auto* b = blockOf(p, c, m->group))
        for (const char* param : laneFields)
            all.push_back(fieldOf(*b, std::to_string(m->lane + 1) + "." + param, std::string("lane.") + param));
    return all;
}

Result<Edit> setTalkField(const Project& p, const Conversation& c, int group, int microphone, const std::string& id,
                          const std::string& value) {
    for (const auto& f : talkFields(p, c, group, microphone)) {
        if (f.id != id)
            continue;
        if (id == "role") {
            if (const auto wrong = errorInText(f, value))
                return *wrong;
            return changeDevice(c.microphones[static_cast<std::size_t>(microphone)].device,
                                "Who speaks there: " + value, [value](Device& d) { d.role = value; });
        }
        const bool lane = id.rfind("lane.", 0) == 0;
        const int which = lane ? c.microphones[static_cast<std::size_t>(microphone)].group : group;
        const auto* b = blockOf(p, c, which);
        const auto param =
            (lane ? std::to_string(c.microphones[static_cast<std::size_t>(microphone)].lane + 1) + "." : "") +
            id.substr(id.find('.') + 1);
        const engine::BlockView view(*b);
        const auto& spec = view.table->specs()[static_cast<std::size_t>(view.table->indexOf(param))];
        const auto read = engine::parseValue(spec, value);
        if (!read)
            return read.error();
        return setValues(c.groups[static_cast<std::size_t>(which)].device, {{b->id + "." + param, *read}},
                         f.label + ": " + engine::formatValue(spec, *read));
    }
    return Error{"there is no such field", id, ""};
}

} // namespace loom::project
