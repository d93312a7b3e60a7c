#include "project/catalogue.h"
#include "project/json.h"
#include "project/safe_file.h"
#include <algorithm>
#include <cstdlib>
#include <filesystem>

namespace loom::project {
namespace fs = std::filesystem;
namespace {

std::vector<PortGroup> readPorts(const nlohmann::json& list) {
    std::vector<PortGroup> groups;
    for (const auto& j : list)
        groups.push_back(
            {j.at("name").get<std::string>(), j.value("label", ""), std::clamp(j.at("count").get<int>(), 0, 512)});
    return groups;
}

Result<DeviceModel> readModel(const std::string& file) {
    auto text = readWhole(file, 1 << 20);
    if (!text)
        return text.trouble();
    auto json = parseJson(*text, file);
    if (!json)
        return json.trouble();
    try {
        const auto& j = *json;
        DeviceModel m;
        m.id = j.at("id"), m.name = j.at("name"), m.maker = j.value("maker", ""), m.purpose = j.value("purpose", "");
        m.inputs = readPorts(j.at("inputs")), m.outputs = readPorts(j.at("outputs"));
        m.workBudget = j.value("workBudget", 0.0), m.memoryBudget = j.value("memoryBudget", 0.0);
        return m;
    } catch (const nlohmann::json::exception& e) {
        return Trouble{std::string("is not a device model (") + e.what() + ")", file, "See docs/format.md."};
    }
}

} // namespace

std::vector<std::string> DeviceModel::ports(bool input) const {
    std::vector<std::string> names;
    for (const auto& g : input ? inputs : outputs)
        for (int i = 1; i <= g.count; ++i)
            names.push_back(g.name + " " + std::to_string(i));
    return names;
}

Result<std::vector<DeviceModel>> readCatalogue(const std::string& folder) {
    std::vector<std::string> files;
    std::error_code none;
    for (const auto& e : fs::directory_iterator(folder, none))
        if (e.path().extension() == ".json")
            files.push_back(e.path().string());
    std::sort(files.begin(), files.end());
    std::vector<DeviceModel> models;
    for (const auto& f : files) {
        auto m = readModel(f);
        if (!m)
            return m.trouble();
        models.push_back(*m);
    }
    return models;
}

std::string dataFolder() {
    if (const char* set = std::getenv("NIMBLE_LOOM_DATA"))
        return set;
    std::error_code none;
    const fs::path program = fs::read_symlink("/proc/self/exe", none).parent_path();
    for (const fs::path& p : {program / "../share/nimble-loom", program / "../..", program / "../../.."})
        if (fs::is_directory(p / "catalogue", none))
            return fs::weakly_canonical(p, none).string();
    return ".";
}

const std::vector<DeviceModel>& catalogue() {
    static const std::vector<DeviceModel> models = [] {
        auto read = readCatalogue(dataFolder() + "/catalogue");
        return read ? *read : std::vector<DeviceModel>{};
    }();
    return models;
}

std::vector<std::string> freePorts(const Device& device, const engine::BlockKind& kind) {
    const DeviceModel* model = findModel(device.model);
    const bool input = kind.end == engine::End::arrives;
    auto ports = model && kind.end != engine::End::none ? model->ports(input) : std::vector<std::string>{};
    if (kind.network)
        std::erase_if(ports, [](const std::string& p) { return p.rfind(networkPort, 0) != 0; });
    if (device.program)
        for (const auto& b : device.program->blocks)
            if (engine::endOf(b) == (input ? engine::End::arrives : engine::End::leaves) && b.texts.count("port"))
                std::erase(ports, b.texts.at("port"));
    return ports;
}

std::string freePort(const Device& device, const engine::BlockKind& kind) {
    const auto ports = freePorts(device, kind);
    return ports.empty() ? "" : ports.front();
}

const DeviceModel* findModel(const std::string& id) {
    for (const auto& m : catalogue())
        if (m.id == id)
            return &m;
    return nullptr;
}

Result<Project> newProject(const std::string& model) {
    const auto* found = findModel(model);
    if (!found || found->workBudget <= 0)
        return Trouble{"there is no processor model \"" + model + "\"", "", "The catalogue lists them."};
    Project p;
    Device d;
    d.id = engine::slug(found->name.substr(0, found->name.find(' '))), d.name = found->name, d.model = found->id;
    d.program.emplace();
    p.devices.push_back(std::move(d));
    return p;
}

} // namespace loom::project
