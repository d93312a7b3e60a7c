#include "project/model_fields.h"
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <sstream>

namespace loom::project {
namespace {

const std::vector<std::string> groups{"Pick up", "Reproduce", "Drive and process", "Touch and press",
                                      "Network and rack"};
const std::vector<std::string> mounts{"ceiling", "wall", "table", "floor", "hand", "rack"};

// "90" or eight numbers, 63 Hz to 8 kHz.
std::optional<room::Bands> readAngles(const std::string& text) {
    std::istringstream in(text);
    std::vector<double> all;
    for (double v = 0; in >> v;)
        all.push_back(v);
    const bool numbers = in.eof() && std::all_of(all.begin(), all.end(), [](double v) { return v >= 1 && v <= 360; });
    if (!numbers || (all.size() != 1 && all.size() != 8))
        return {};
    room::Bands b = room::filled(all.front());
    if (all.size() == 8)
        std::copy(all.begin(), all.end(), b.begin());
    return b;
}

std::string anglesText(const room::Bands& b) {
    std::ostringstream out;
    const bool same = std::all_of(b.begin(), b.end(), [&](double v) { return v == b.front(); });
    for (std::size_t i = 0; i < (same ? 1 : b.size()); ++i)
        out << (i ? " " : "") << b[i];
    return out.str();
}

using ModelField = FieldOf<DeviceModel>;

ModelField anglesField(const char* id, const char* label, std::function<room::Bands&(DeviceModel&)> where) {
    ModelField f{{id, label}};
    f.text = [where](const DeviceModel& m) {
        DeviceModel copy = m;
        return anglesText(where(copy));
    };
    f.setText = [where](DeviceModel& m, const std::string& v) { where(m) = *readAngles(v); };
    f.check = [label = std::string(label)](const std::string& v) -> std::optional<Trouble> {
        if (readAngles(v))
            return {};
        return Trouble{"\"" + v.substr(0, 40) + "\" is no coverage", label,
                       "Type one angle such as 90, or eight from 63 Hz to 8 kHz, each from 1 to 360."};
    };
    return f;
}

ModelField portsField(const char* id, const char* label, const char* name, std::vector<PortGroup> DeviceModel::*side) {
    ModelField f{{id, label, "", 0, -0.5, 512, 0}};
    f.number = [side, name](const DeviceModel& m) {
        for (const auto& g : m.*side)
            if (g.name == name)
                return static_cast<double>(g.count);
        return 0.0;
    };
    f.setNumber = [side, name, label](DeviceModel& m, double v) {
        const int count = std::max(0, static_cast<int>(std::lround(v)));
        auto& all = m.*side;
        const auto at = std::find_if(all.begin(), all.end(), [&](const auto& g) { return g.name == name; });
        if (count == 0 && at != all.end())
            all.erase(at);
        else if (count > 0)
            at == all.end() ? void(all.push_back({name, label, count})) : void(at->count = count);
    };
    return f;
}

std::vector<ModelField> fieldsFor(const DeviceModel& m) {
    std::vector<ModelField> all{
        textField("name", "Name", &DeviceModel::name),
        textField("maker", "Maker", &DeviceModel::maker),
        textField("purpose", "What it is for", &DeviceModel::purpose),
        choiceField<DeviceModel>(
            "group", "On the shelf under", groups, groups, [](const DeviceModel& one) { return one.group; },
            [](DeviceModel& one, const std::string& v) { one.group = v; }),
        textField("use", "Use, one word for names", &DeviceModel::use),
        choiceField<DeviceModel>(
            "mount", "Mounted on", mounts, mounts, [](const DeviceModel& one) { return one.mount; },
            [](DeviceModel& one, const std::string& v) { one.mount = v; })};
    const auto inside = [&](const char* id, const char* label, const char* unit, double min, double max, int digits,
                            std::function<double&(DeviceModel&)> where) {
        ModelField f{{id, label, unit, 0, min, max, digits}};
        f.number = [where](const DeviceModel& one) {
            DeviceModel copy = one;
            return where(copy);
        };
        f.setNumber = [where](DeviceModel& one, double v) { where(one) = v; };
        all.push_back(f);
    };
    if (m.loudspeaker) {
        inside("sensitivity", "Sensitivity, 1 W at 1 m", "dB", 40, 130, 1,
               [](DeviceModel& one) -> double& { return one.loudspeaker->sensitivity; });
        inside("maxLevel", "Most for long, at 1 m", "dB", 40, 170, 1,
               [](DeviceModel& one) -> double& { return one.loudspeaker->maxLevel; });
        all.push_back(anglesField("horizontal", "Coverage across, \u00b0",
                                  [](DeviceModel& one) -> room::Bands& { return one.loudspeaker->horizontal; }));
        all.push_back(anglesField("vertical", "Coverage up and down, \u00b0",
                                  [](DeviceModel& one) -> room::Bands& { return one.loudspeaker->vertical; }));
    }
    if (m.microphone && m.microphone->lobes == 0)
        inside("pattern", "Pattern (1 all round, 0.5 cardioid)", "", 0, 1, 2,
               [](DeviceModel& one) -> double& { return one.microphone->pattern; });
    if (m.microphone && m.microphone->lobes > 0) {
        ModelField lobes{{"lobes", "Beams", "", 0, 1, 64, 0}};
        lobes.number = [](const DeviceModel& one) { return static_cast<double>(one.microphone->lobes); };
        lobes.setNumber = [](DeviceModel& one, double v) { one.microphone->lobes = static_cast<int>(std::lround(v)); };
        all.push_back(lobes);
        all.push_back(anglesField("beam", "Width of a beam, \u00b0",
                                  [](DeviceModel& one) -> room::Bands& { return one.microphone->beam; }));
    }
    if (m.microphone)
        all.push_back(choiceField<DeviceModel>(
            "reinforced", "Heard in its own room", {"yes", "no"}, {"Yes", "No"},
            [](const DeviceModel& one) { return one.microphone->reinforced ? "yes" : "no"; },
            [](DeviceModel& one, const std::string& v) { one.microphone->reinforced = v == "yes"; }));
    all.push_back(portsField("inputs", "Inputs", "in", &DeviceModel::inputs));
    all.push_back(portsField("outputs", "Outputs", "out", &DeviceModel::outputs));
    all.push_back(choiceField<DeviceModel>(
        "network", "On the network", {"no", "yes"}, {"No", "Yes"},
        [](const DeviceModel& one) { return one.network ? "yes" : "no"; },
        [](DeviceModel& one, const std::string& v) { one.network = v == "yes"; }));
    all.push_back(textField("firmware", "Newest firmware", &DeviceModel::firmware));
    ModelField poe{{"poeClass", "PoE class it takes", "", 0, -0.5, 8, 0}};
    poe.number = [](const DeviceModel& one) { return static_cast<double>(one.poeClass); };
    poe.setNumber = [](DeviceModel& one, double v) { one.poeClass = std::max(0, static_cast<int>(std::lround(v))); };
    all.push_back(poe);
    inside("poeWatts", "PoE power it takes", "W", 0, 100, 1, [](DeviceModel& one) -> double& { return one.poeWatts; });
    inside("poeBudget", "PoE power it offers", "W", 0, 1e5, 0,
           [](DeviceModel& one) -> double& { return one.poeBudget; });
    inside("watts", "Mains power", "W", 0, 1e6, 0, [](DeviceModel& one) -> double& { return one.watts; });
    inside("heat", "Heat", "W", 0, 1e6, 0, [](DeviceModel& one) -> double& { return one.heat; });
    ModelField units{{"rackUnits", "Rack units", "", 0, -0.5, 60, 0}};
    units.number = [](const DeviceModel& one) { return static_cast<double>(one.rackUnits); };
    units.setNumber = [](DeviceModel& one, double v) { one.rackUnits = std::max(0, static_cast<int>(std::lround(v))); };
    all.push_back(units);
    return all;
}

nlohmann::json portsJson(const std::vector<PortGroup>& groups_) {
    auto all = nlohmann::json::array();
    for (const auto& g : groups_)
        all.push_back({{"name", g.name}, {"label", g.label}, {"count", g.count}});
    return all;
}

} // namespace

DeviceModel blankModel(const std::string& kind) {
    DeviceModel m;
    m.group = "Drive and process", m.mount = "rack";
    if (kind == "loudspeaker") {
        m.group = "Reproduce", m.use = "loudspeaker", m.mount = "wall";
        m.loudspeaker = LoudspeakerData{};
        m.loudspeaker->horizontal = m.loudspeaker->vertical = room::filled(90);
        m.inputs = {{"in", "Inputs", 1}};
    } else if (kind == "microphone" || kind == "array") {
        m.group = "Pick up", m.use = kind, m.mount = kind == "array" ? "ceiling" : "table";
        m.microphone = MicrophoneData{};
        m.microphone->beam = room::filled(60);
        m.microphone->pattern = 0.5, m.microphone->lobes = kind == "array" ? 8 : 0;
        m.outputs = {{"out", "Outputs", 1}};
    }
    return m;
}

std::vector<Field> fieldsOf(const DeviceModel& model) {
    std::vector<Field> all;
    for (const auto& f : fieldsFor(model))
        all.push_back(f.shown(model));
    return all;
}

std::optional<Trouble> setField(DeviceModel& model, const std::string& field, const std::string& value) {
    for (const auto& f : fieldsFor(model))
        if (f.look.id == field)
            return f.set(model, value);
    return Trouble{"a model has no such field", field, ""};
}

std::vector<Trouble> troublesOf(const DeviceModel& m) {
    std::vector<Trouble> all;
    if (m.name.find_first_not_of(" \t") == std::string::npos)
        all.push_back({"It has no name", "Name", "Type the name that stands on it."});
    else if (findModel(engine::slug(m.name)))
        all.push_back({"There is a " + m.name + " on the shelf already", "Name", "Give it another name."});
    if (m.loudspeaker && m.loudspeaker->maxLevel <= m.loudspeaker->sensitivity)
        all.push_back({"It bears less than one watt by these figures", "Most for long",
                       "The most it bears is its sensitivity and 10\u00b7log10 of its power in watts."});
    return all;
}

std::string modelText(const DeviceModel& m) {
    nlohmann::json j = {{"id", m.id.empty() ? engine::slug(m.name) : m.id},
                        {"name", m.name},
                        {"maker", m.maker},
                        {"purpose", m.purpose},
                        {"group", m.group},
                        {"use", m.use},
                        {"mount", m.mount},
                        {"inputs", portsJson(m.inputs)},
                        {"outputs", portsJson(m.outputs)},
                        {"network", m.network}};
    if (!m.firmware.empty())
        j["firmware"] = m.firmware;
    if (m.usb)
        j["usb"] = true, j["storeBytes"] = m.storeBytes, j["knobs"] = m.knobs, j["switches"] = m.switches;
    if (const auto& l = m.loudspeaker)
        j["loudspeaker"] = {{"sensitivity", l->sensitivity},
                            {"maxLevel", l->maxLevel},
                            {"bands", l->bands},
                            {"horizontal", l->horizontal},
                            {"vertical", l->vertical}};
    if (const auto& mic = m.microphone) {
        j["microphone"] = {{"pattern", mic->pattern}, {"lobes", mic->lobes}, {"reinforced", mic->reinforced}};
        if (mic->lobes > 0)
            j["microphone"]["beam"] = mic->beam;
    }
    if (const auto& a = m.amplifier) {
        j["amplifier"] = {{"gainDb", a->gainDb},         {"fullScaleDbu", a->fullScaleDbu},
                          {"leastOhms", a->leastOhms},   {"sourceOhms", a->sourceOhms},
                          {"totalWatts", a->totalWatts}, {"lineWatts", a->lineWatts}};
        for (const auto& p : a->power)
            j["amplifier"]["power"].push_back({{"ohms", p.ohms}, {"watts", p.watts}});
    }
    if (m.fullScaleDbu != 18)
        j["fullScaleDbu"] = m.fullScaleDbu;
    for (const auto& [key, value] : {std::pair("watts", m.watts),
                                     {"heat", m.heat},
                                     {"poeWatts", m.poeWatts},
                                     {"poeBudget", m.poeBudget},
                                     {"workBudget", m.workBudget},
                                     {"memoryBudget", m.memoryBudget}})
        if (value > 0)
            j[key] = value;
    for (const auto& [key, value] :
         {std::pair("poeClass", m.poeClass), {"poePorts", m.poePorts}, {"rackUnits", m.rackUnits}})
        if (value > 0)
            j[key] = value;
    return j.dump(2) + "\n";
}

} // namespace loom::project
