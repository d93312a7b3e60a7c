#include "program/ports.h"
#include "catalogue/device_model.h"

namespace loom::project {

std::vector<std::string> freePorts(const Device& device, const engine::BlockKind& kind) {
    const DeviceModel* model = device.spec();
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

Result<Project> newProject(const std::string& model, const ModelSource& models) {
    const auto* found = models.find(model);
    if (!found || found->workBudget <= 0)
        return Error{"there is no processor model \"" + model + "\"", "", "The catalogue lists them."};
    Project p;
    Device d;
    d.id = engine::slug(found->name.substr(0, found->name.find(' ')));
    d.name = found->name;
    d.model = found->id;
    d.models = models;
    d.program.emplace();
    p.devices.push_back(std::move(d));
    return p;
}

const engine::Block* endAt(const engine::Program& program, const std::string& port, engine::End end) {
    for (const auto& b : program.blocks)
        if (const auto it = b.texts.find("port"); it != b.texts.end() && it->second == port && engine::endOf(b) == end)
            return &b;
    return nullptr;
}

} // namespace loom::project
