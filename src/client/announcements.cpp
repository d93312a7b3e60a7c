#include "client/announcements.h"

namespace loom::client {

struct Announcements::Core {
    std::unique_ptr<GroupListener> listener{};
};

Announcements::Announcements(Network& network)
    : network_(network), core_(std::make_shared<Core>()), self_(std::make_shared<Announcements*>(this)),
      forget_(network.here(), Timer::Mode::again,
              [this] {
                  if (known_.forget(now()) && changed)
                      changed();
              }),
      soon_(network.here(), Timer::Mode::once, [this] {
          if (changed)
              changed();
      }) {}

Announcements::~Announcements() {
    network_.there().post([core = std::move(core_)] { core->listener.reset(); });
}

void Announcements::listen(bool loopback) {
    if (listening_ && loopback == loopback_)
        return;
    listening_ = true;
    loopback_ = loopback;
    forget_.start(forgetMs);
    network_.there().post([core = core_, self = std::weak_ptr(self_), &network = network_, loopback] {
        if (!core->listener) {
            core->listener = network.newListener();
            core->listener->heard = [self, &network](std::vector<std::vector<std::uint8_t>> packets) {
                network.here().post([self, packets = std::move(packets)] {
                    if (const auto there = self.lock())
                        (*there)->heard(packets);
                });
            };
        }
        core->listener->join(group, port, loopback);
    });
}

void Announcements::heard(const std::vector<std::vector<std::uint8_t>>& packets) {
    bool news = false;
    for (const auto& packet : packets)
        news = known_.take(packet, now()) || news;
    if (news && !soon_.active()) // hundreds come one after another
        soon_.start(100);
}

} // namespace loom::client
