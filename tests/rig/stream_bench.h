// Streams between made-up devices, stepped by hand.
#pragma once
#include "models.h"
#include "rig/stream_net.h"

namespace loom::test {

inline project::Device netDevice(const std::string& id, const std::string& model) {
    project::Device d;
    d.models = test::models();
    d.id = d.name = id, d.model = model;
    return d;
}

inline project::Stream stream8() {
    project::Stream s;
    s.id = s.name = "mix";
    for (int n = 1; n <= 8; ++n)
        s.ports.push_back("net " + std::to_string(n));
    return s;
}

inline std::vector<std::string> inputs(int from, int count) {
    std::vector<std::string> all;
    for (int n = from; n < from + count; ++n)
        all.push_back("net " + std::to_string(n));
    return all;
}

// "a" offers eight channels, "b" and "c" hear them.
inline project::Project three() {
    project::Project p;
    p.devices = {netDevice("a", "heddle-16"), netDevice("b", "heddle-16"), netDevice("c", "heddle-8")};
    p.device("a")->streams = {stream8()};
    p.device("b")->receivers = {{"mix", inputs(1, 8), {"a/mix"}}};
    p.device("c")->receivers = {{"mix", inputs(9, 8), {"a/mix"}}};
    return p;
}

// A net with its cables, stepped by hand.
struct StreamBench {
    std::map<std::pair<std::string, std::string>, std::shared_ptr<engine::Cable>> out, in;
    std::map<std::string, std::shared_ptr<rig::SoundSide>> sides;
    std::map<std::pair<std::string, std::string>, std::unique_ptr<engine::Cable::Reader>> readers;
    rig::StreamNet net;
    // Addresses from 127.20.SUBNET.1 on, 250 to a subnet.
    explicit StreamBench(const project::Project& p, int subnet = 9) {
        int n = 0;
        for (const auto& d : p.devices) {
            sides[d.id] = std::make_shared<rig::SoundSide>();
            sides[d.id]->setAddress("127.20." + std::to_string(subnet + n / 250) + "." + std::to_string(n % 250 + 1));
            ++n;
        }
        const auto cable = [](auto& map) {
            return [&map](const std::string& d, const std::string& port) {
                auto& c = map[{d, port}];
                if (!c)
                    c = std::make_shared<engine::Cable>();
                return c;
            };
        };
        net.lay(p, cable(out), cable(in), [this](const std::string& d) { return sides.at(d); });
    }
    void play(const std::string& d, const std::string& port, const std::vector<float>& block) {
        out.at({d, port})->write(block.data(), rig::soundBlock);
    }
    std::vector<float> heard(const std::string& d, const std::string& port) {
        auto& r = readers[{d, port}];
        if (!r)
            r = std::make_unique<engine::Cable::Reader>(0);
        std::vector<float> all(rig::soundBlock);
        (void)r->read(*in.at({d, port}), all.data(), rig::soundBlock);
        return all;
    }
};

// A number of 24 bits for every sample of every channel.
inline float sampleOf(int channel, std::int64_t n) {
    const auto mixed = static_cast<std::uint32_t>((n + 1) * 2654435761u) ^ static_cast<std::uint32_t>(channel * 40503u);
    return static_cast<float>(static_cast<std::int32_t>(mixed) >> 8) / 8388608.0f;
}

} // namespace loom::test
