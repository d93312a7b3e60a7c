#include "client/fleet.h"
#include <QElapsedTimer>
#include <QHostInfo>
#include <algorithm>

namespace loom::client {

namespace {
constexpr int pollMs = 50, soonMs = 30;
}

Fleet::Fleet(std::shared_ptr<Network> network, std::shared_ptr<Design> design, Tickets tickets, QObject* parent)
    : QObject(parent), ownNetwork_(std::move(network)), ownDesign_(std::move(design)), network_(*ownNetwork_),
      design_(*ownDesign_), tickets_(std::move(tickets)), discovery_(network_, design_.models()),
      work_(network_.here()), announcements_(network_), ear_(network_), eye_(network_),
      poll_(network_.here(), Timer::Mode::again, [this] { poll(); }),
      meterTimer_(network_.here(), Timer::Mode::again, [this] { askMeters(); }),
      soon_(network_.here(), Timer::Mode::once, // many devices answer at once: views hear of it once
            [this] {
                tellHealth();
                const auto all = std::exchange(stale_, {});
                emit memberChanged(all.size() == 1 ? *all.begin() : std::string());
            }),
      bySlices_(network_.here(), Timer::Mode::again, [this] { someTurns(); }),
      turns_(network_.here(), Timer::Mode::again,
             [this] {
                 const auto next =
                     std::find_if(watchers_.begin(), watchers_.end(), [](const auto& w) { return w.waits; });
                 if (next == watchers_.end())
                     return turns_.stop();
                 next->waits = false;
                 toldAt_ = network_.here().now();
                 if (next->who)
                     next->tell();
             }),
      illness_(network_.here(), Timer::Mode::once, [this] { tellIll(); }) {
    discovery_.changed = [this] {
        sync();
        emit foundChanged();
    };
    announcements_.changed = [this] { emit announced(); };
    work_.changed = [this] {
        if (!work_.running() && !leaving_.empty()) // its end is still to be told
            network_.here().post([self = QPointer(this)] {
                if (self && !self->work_.running())
                    self->leaving_.clear();
            });
        emit workChanged();
    };
    connect(this, &Fleet::memberChanged, this, &Fleet::tellWatchers);
    connect(this, &Fleet::foundChanged, this, &Fleet::tellWatchers);
    poll_.start(pollMs);
}

Fleet::~Fleet() = default;

std::string Fleet::me() const {
    if (!name_.empty())
        return name_;
    const auto user = qEnvironmentVariable("USER", "somebody");
    return (user + " at " + QHostInfo::localHostName()).toStdString();
}

std::string Fleet::nameOf(const std::string& device) const {
    const auto* d = design_.project().device(device);
    return d ? d->name : device;
}

void Fleet::note(const std::string& device, const std::string& who, const std::string& what, bool bad) {
    log_.add({site::utcNow(), device.empty() ? "" : nameOf(device), who, what, bad});
    emit logChanged();
}

void Fleet::changedSoon(const std::string& device) {
    stale_.insert(device);
    if (!soon_.active())
        soon_.start(soonMs);
}

void Fleet::whenChanged(QObject* who, std::function<void()> tell) {
    watchers_.push_back({who, std::move(tell)});
}

void Fleet::tellWatchers() {
    for (auto& w : watchers_)
        w.waits = true;
    if (std::max({members_.size(), discovery_.found().size(), design_.project().devices.size()}) > few)
        return turns_.start(breathMs);
    for (std::size_t i = 0; i < watchers_.size(); ++i)
        if (std::exchange(watchers_[i].waits, false) && watchers_[i].who)
            watchers_[i].tell();
}

// Connecting, comparing and asking, a few milliseconds at a time.
void Fleet::someTurns() {
    constexpr int atOnceMs = 2;
    if (network_.here().now() - toldAt_ < breathMs) // what was shown is still to be painted
        return;
    QElapsedTimer clock;
    clock.start();
    const auto holders = toConnect_.empty() ? std::map<std::string, int>() : holdersOfAddresses();
    while (!toConnect_.empty() && clock.elapsed() < atOnceMs)
        if (auto* m = member(toConnect_.extract(toConnect_.begin()).value()))
            connectTo(*m, holders);
    while (!toCompare_.empty() && clock.elapsed() < atOnceMs)
        if (auto* m = member(toCompare_.extract(toCompare_.begin()).value()))
            compare(*m);
    while (!toAsk_.empty() && clock.elapsed() < atOnceMs)
        if (auto* m = member(toAsk_.extract(toAsk_.begin()).value()); m && m->link.up())
            askState(*m);
    if (toConnect_.empty() && toCompare_.empty() && toAsk_.empty())
        bySlices_.stop();
}

void Fleet::goOn() {
    if (!bySlices_.active())
        bySlices_.start(0);
}

void Fleet::compareSoon(const std::string& device) {
    toCompare_.insert(device);
    goOn();
}

void Fleet::askSoon(const std::string& device) {
    toAsk_.insert(device);
    goOn();
}

void Fleet::compareNow(Member& m) {
    if (toCompare_.erase(m.device))
        compare(m);
}

// ---- members ----

const Member* Fleet::member(const std::string& device) const {
    const auto it = members_.find(device);
    return it == members_.end() ? nullptr : it->second.get();
}
Member* Fleet::member(const std::string& device) {
    const auto it = members_.find(device);
    return it == members_.end() ? nullptr : it->second.get();
}

std::vector<const Member*> Fleet::members() const {
    std::vector<const Member*> all;
    for (const auto& d : design_.project().devices)
        if (const auto* m = member(d.id))
            all.push_back(m);
    return all;
}

int Fleet::planned() const {
    const auto& all = design_.project().devices;
    return static_cast<int>(std::count_if(all.begin(), all.end(), site::onSite));
}

} // namespace loom::client
