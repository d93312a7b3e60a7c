// A network made up for tests: devices of the rig without sockets, on a clock that the test steps.
#pragma once
#ifndef Q_MOC_RUN
#include "client/network.h"
#include "models.h"
#include "rig/front.h"
#include <map>
#include <queue>
#include <random>
#endif

namespace loom::test {

using client::Scheduler;

// Turns in the order of their time; of the same time, in the order in which they came.
class Turns : public Scheduler {
  public:
    qint64 now() const override { return now_; }
    void post(std::function<void()> what) override { add(now_, std::move(what)); }
    void after(int ms, std::function<void()> what) override { add(now_ + ms, std::move(what)); }
    bool step() { // false: nothing is to be done
        if (all_.empty())
            return false;
        auto first = all_.extract(all_.begin());
        now_ = std::max(now_, first.key().first);
        ++steps_;
        first.mapped()();
        return true;
    }
    void run(int ms) { // everything of so many milliseconds
        const qint64 end = now_ + ms;
        while (!all_.empty() && all_.begin()->first.first <= end)
            step();
        now_ = end;
    }
    template <class Done> bool runUntil(Done done, int ms = 60000) {
        const qint64 end = now_ + ms;
        while (!done()) {
            if (all_.empty() || all_.begin()->first.first > end)
                return false;
            step();
        }
        return true;
    }
    std::size_t steps() const { return steps_; }
    void clear() { // what waits is not done any more
        while (!all_.empty())
            (void)all_.extract(all_.begin()); // what goes with it may have something to say
    }

  private:
    void add(qint64 at, std::function<void()> what) { all_.emplace(std::pair(at, next_++), std::move(what)); }
    std::map<std::pair<qint64, std::uint64_t>, std::function<void()>> all_;
    qint64 now_ = 1000;
    std::uint64_t next_ = 0;
    std::size_t steps_ = 0;
};

class FakeLine;

// One device with its front.
struct Station {
    std::unique_ptr<rig::Device> device;
    std::unique_ptr<rig::Front> front;
    std::string address, always; // its own, and where it answers whatever that is
    bool plugged = true;
    std::vector<FakeLine*> lines{};
    void cut(); // all its lines
};

class FakeNetwork : public client::Network {
    struct FakeListener : client::GroupListener {
        explicit FakeListener(FakeNetwork& n) : network(n) {}
        ~FakeListener() override { network.listeners.erase(this); }
        void join(const std::string&, std::uint16_t, bool) override { network.listeners.insert(this); }
        FakeNetwork& network;
    };

  public:
    explicit FakeNetwork(unsigned seed = 1) : dice(seed) {}
    ~FakeNetwork() override { turns.clear(); } // lines go before the devices that they lead to
    Turns turns;
    std::mt19937 dice;
    int least = 1, most = 1;                                  // ms on the way
    std::map<std::string, std::unique_ptr<Station>> stations; // by serial

    Station& add(const std::string& serial, const std::string& model, const std::string& address,
                 const std::string& folder) {
        rig::DeviceSetup setup;
        setup.models = test::models();
        setup.model = model, setup.serial = serial, setup.address = address, setup.folder = folder;
        auto s = std::make_unique<Station>();
        s->device = std::make_unique<rig::Device>(setup);
        s->front = std::make_unique<rig::Front>(*s->device, [this] { return static_cast<double>(turns.now()) / 1000; });
        s->address = address;
        s->front->where = [raw = s.get()] { return raw->address; };
        s->always = "127.254.0." + std::to_string(stations.size() + 1);
        s->front->reachedAt = [raw = s.get()] { return raw->always; };
        s->front->moveTo = [raw = s.get()](const std::string& to) {
            raw->cut();
            raw->address = to;
        };
        s->front->restart = [this, raw = s.get()](int ms) { // once it has answered
            turns.after(10, [this, raw, ms] {
                raw->cut();
                raw->device->powerOff();
                turns.after(ms, [raw] { raw->device->powerOn(); });
            });
        };
        return *(stations[serial] = std::move(s));
    }
    Station* at(const std::string& address) {
        for (auto& [_, s] : stations)
            if ((s->address == address || s->always == address) && s->plugged && s->device->powered())
                return s.get();
        return nullptr;
    }
    int delay() { return std::uniform_int_distribution<int>(least, most)(dice); }

    Scheduler& here() override { return turns; }
    Scheduler& there() override { return turns; }
    std::unique_ptr<client::Line> newLine() override;
    std::unique_ptr<client::Finder> newFinder() override;
    std::unique_ptr<client::GroupListener> newListener() override { return std::make_unique<FakeListener>(*this); }
    std::set<client::GroupListener*> listeners;
    void announce(const std::vector<std::uint8_t>& packet) { // to all that listen
        for (auto* l : listeners)
            if (l->heard)
                l->heard({packet});
    }
    void work(std::function<void()> job) override { turns.post(std::move(job)); }
};

class FakeLine : public client::Line {
  public:
    explicit FakeLine(FakeNetwork& n) : network_(n) {}
    ~FakeLine() override { close(); }
    void open(const std::string& address, std::uint16_t) override {
        close();
        later([this, address] {
            station_ = network_.at(address);
            if (!station_)
                return closed();
            station_->lines.push_back(this);
            number_ = station_->front->opened("desk", {[this](const std::string& bytes, bool box) { come(bytes, box); },
                                                       [this] { cut(); }, [](std::size_t) {}});
            if (station_)
                opened();
        });
    }
    void send(const std::string& bytes, bool box) override {
        if (!station_)
            return;
        later([this, bytes, box] {
            if (station_)
                station_->front->received(number_, bytes, box);
        });
    }
    void close() override {
        run_.reset();
        leave();
    }
    void allow(std::size_t) override {}
    // By the other end, or on the way; told a little later, as the front may be in the midst of it.
    void cut() {
        if (!station_)
            return;
        run_.reset();
        leave();
        later([this] { closed(); });
    }

  private:
    void come(const std::string& bytes, bool box) {
        later([this, bytes, box] {
            if (station_ && received)
                received(bytes, box);
        });
    }
    void leave() {
        if (!station_)
            return;
        auto* s = std::exchange(station_, nullptr);
        std::erase(s->lines, this);
        network_.turns.post([&n = network_, s, number = number_] {
            for (const auto& [_, one] : n.stations)
                if (one.get() == s)
                    s->front->closed(number);
        });
    }
    // In its order, however long each is on the way.
    void later(std::function<void()> what) {
        if (!run_)
            run_ = std::make_shared<int>();
        free_ = std::max(free_, network_.turns.now() + network_.delay());
        network_.turns.after(static_cast<int>(free_ - network_.turns.now()),
                             [weak = std::weak_ptr(run_), what = std::move(what)] {
                                 if (const auto still = weak.lock())
                                     what();
                             });
    }
    FakeNetwork& network_;
    Station* station_ = nullptr;
    int number_ = -1;
    qint64 free_ = 0;
    std::shared_ptr<int> run_{};
};

class FakeFinder : public client::Finder {
  public:
    explicit FakeFinder(FakeNetwork& n) : network_(n) {}
    void ask(const std::vector<std::string>&, std::uint16_t) override {
        network_.turns.after(network_.delay(), [this, weak = std::weak_ptr(run_)] {
            if (weak.expired() || !heard)
                return;
            std::vector<site::DiscoveredDevice> all;
            for (const auto& [_, s] : network_.stations)
                if (s->plugged && s->device->powered())
                    all.push_back(s->front->about());
            heard(std::move(all));
        });
    }

  private:
    FakeNetwork& network_;
    std::shared_ptr<int> run_ = std::make_shared<int>();
};

inline std::unique_ptr<client::Line> FakeNetwork::newLine() {
    return std::make_unique<FakeLine>(*this);
}
inline std::unique_ptr<client::Finder> FakeNetwork::newFinder() {
    return std::make_unique<FakeFinder>(*this);
}
inline void Station::cut() {
    for (auto* line : std::vector(lines))
        line->cut();
}

} // namespace loom::test
