#include "client/discovery.h"
#include <algorithm>

namespace loom::client {

struct Discovery::Core {
    std::unique_ptr<Finder> finder{};
};

Discovery::Discovery(Network& network, const project::ModelSource& models)
    : network_(network), models_(models), core_(std::make_shared<Core>()), self_(std::make_shared<Discovery*>(this)),
      timer_(network.here(), Timer::Mode::again, [this] { ask(); }), soon_(network.here(), Timer::Mode::once, [this] {
          if (changed)
              changed();
      }) {}

Discovery::~Discovery() {
    network_.there().post([core = std::move(core_)] { core->finder.reset(); });
}

void Discovery::look(const site::Subnet& range) {
    if (!range_ || range_->base != range.base || range_->bits != range.bits)
        found_.clear();
    range_ = range;
    asked_ = 0;
    ask();
    timer_.start(againMs);
}

void Discovery::addAddress(const std::string& address) {
    if (std::find(more_.begin(), more_.end(), address) == more_.end())
        more_.push_back(address);
    if (range_)
        ask();
}

std::vector<site::DiscoveredDevice> Discovery::list() const {
    std::multimap<std::uint32_t, const site::DiscoveredDevice*> sorted;
    for (const auto& [_, f] : found_)
        sorted.emplace(site::readAddress(f.address).value_or(0), &f);
    std::vector<site::DiscoveredDevice> all;
    all.reserve(sorted.size());
    for (const auto& [_, f] : sorted)
        all.push_back(*f);
    return all;
}

// To all at once, which also devices with a wrong address hear; now and then to each address, for networks that carry
// no broadcasts.
void Discovery::ask() {
    if (!range_)
        return;
    const bool loopback = range_->base >> 24 == 127;
    const std::uint32_t last = range_->base | ((range_->bits < 32 ? (1u << (32 - range_->bits)) : 1) - 1);
    std::vector<std::string> to{loopback ? "127.255.255.255" : site::addressText(last)};
    if ((loopback && asked_ > 0 && found_.empty()) || (asked_ % 5 == 0 && !loopback))
        for (const auto& a : range_->hosts())
            to.push_back(a);
    ++asked_;
    for (const auto& a : site::usbSockets())
        to.push_back(a);
    to.insert(to.end(), more_.begin(), more_.end());
    network_.there().post([core = core_, self = std::weak_ptr(self_), &network = network_, to, port = port_] {
        if (!core->finder) {
            core->finder = network.newFinder();
            core->finder->heard = [self, &network](std::vector<site::DiscoveredDevice> found) {
                network.here().post([self, found = std::move(found)] {
                    if (const auto there = self.lock())
                        (*there)->heard(found);
                });
            };
        }
        core->finder->ask(to, port);
    });
    const double now = static_cast<double>(network_.here().now()) / 1000;
    if (std::erase_if(found_, [&](const auto& f) { return now - f.second.seen > forgetMs / 1000.0; }) > 0 && changed)
        changed();
}

void Discovery::heard(std::vector<site::DiscoveredDevice> found) {
    bool news = false;
    for (auto& f : found) {
        if (found_.size() >= most && !found_.count(f.serial))
            continue;
        f.seen = static_cast<double>(network_.here().now()) / 1000;
        if (std::find(more_.begin(), more_.end(), f.asked) == more_.end())
            f.asked.clear();
        f.models = models_;
        auto& known = found_[f.serial];
        news = news || !site::tellsTheSame(known, f);
        known = std::move(f);
    }
    if (news && !soon_.active())
        soon_.start(30);
}

} // namespace loom::client
