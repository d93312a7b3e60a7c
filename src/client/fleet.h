// All devices on site: those found, those paired with planned ones, what each is like and where it differs. Views show
// it and call it; what it has to say to people goes through Design::say().
#pragma once
#ifndef Q_MOC_RUN
#include "client/announcements.h"
#include "client/design.h"
#include "client/device_tools.h"
#include "client/discovery.h"
#include "client/member.h"
#include "client/port_tap.h"
#include "client/tickets.h"
#include "client/transaction.h"
#include "client/unlock.h"
#include "model/change.h"
#include "site/event_log.h"
#include "site/sound_links.h"
#endif
#include <QPointer>
#include <set>

namespace loom::client {

class Fleet : public QObject {
    Q_OBJECT
  public:
    Fleet(std::shared_ptr<Network> network, std::shared_ptr<Design> design, Tickets tickets, QObject* parent = nullptr);
    ~Fleet() override;
    Design& design() { return design_; }
    // By which others know who changed something; else the user's and this computer's.
    void setName(const std::string& name) { name_ = name; }
    Discovery& discovery() { return discovery_; }
    const Discovery& discovery() const { return discovery_; }
    const site::EventLog& log() const { return log_; }
    Transaction& work() { return work_; }
    DeviceTools& tools() { return tools_; }

    // -- finding (fleet_find.cpp) --
    void look(const site::Subnet& range);
    void addAddress(const std::string& address); // or a host's name
    bool looked() const { return looked_; }
    std::vector<site::DiscoveredDevice> found() const { return discovery_.list(); }
    std::vector<site::SiteFinding> findings() const;
    std::map<std::string, project::Vitals> vitals() const; // of those that are reached, by device
    void cure(const site::SiteFinding& finding);
    void readdress(const std::string& serial, const std::string& address);
    void addToPlan(const std::vector<std::string>& serials, const std::string& room);
    enum class Sign { blink, tone };
    void identify(const std::string& serial, bool on, Sign sign = Sign::blink);

    // -- pairing; edits of the project (fleet_pair.cpp) --
    void pair(const std::string& device, const std::string& serial);
    int pairAll(const std::vector<site::PairBy>& ways); // how many
    void unpair(const std::string& device);
    void swapPairs(const std::string& a, const std::string& b);
    const Member* member(const std::string& device) const;
    Member* member(const std::string& device);
    std::vector<const Member*> members() const; // in the order of the plan
    int planned() const;                        // devices that have an address

    // -- settling (fleet_settle.cpp) --
    void choose(const std::string& device, const std::string& key, site::Take take);
    // Open rows, or all: design, device, or by who changed last where only one side did.
    void chooseAll(const std::vector<std::string>& devices, site::Take take, bool openOnly);
    void tryNow(const std::vector<std::string>& devices);
    void keep(const std::vector<std::string>& devices);
    void goBack(const std::string& device, int revision);
    void takeFrom(const std::vector<std::string>& devices); // into the design; nothing is sent
    void powerCycle(const std::vector<std::string>& devices);
    void update(const std::string& device, bool back);

    // -- conversations (fleet_settle.cpp) --
    void mute(const std::string& device, const std::string& space, bool muted);
    // does: dial, answer, hold, resume, keys or hang-up; number: or keys.
    void call(const std::string& device, const std::string& port, const std::string& does, const std::string& number);
    void setLineSecret(const std::string& device, const std::string& secret); // it goes there and nowhere else
    // PIN of a role of a touch surface, likewise; "": none any more.
    void setPin(const std::string& device, const std::string& surface, const std::string& role, const std::string& pin);

    // -- live (fleet_live.cpp) --
    void setLive(bool on);
    bool live() const { return live_; }
    void follow(const project::Change& change); // the project was changed
    void anotherProject();                      // another one is open: what was on the way ends, undone

    // -- sound of devices, here --
    Announcements& announcements() { return announcements_; }
    PortTap& ear() { return ear_; } // what somebody listens to
    PortTap& eye() { return eye_; } // what somebody looks at
    // Brings what passes a port here. False: its device is not there, and it was said unless `quietly`.
    bool bring(PortTap& to, const PortTap::Place& place, bool quietly = false);

    // -- sealing (fleet_seal.cpp) --
    void unlock(const std::string& password); // all that are locked; kept in memory for those that come back
    // `then`: it has been said how it went, and those that were sealed know this computer. Not called if this goes.
    void seal(const std::vector<std::string>& devices, const std::string& password, std::function<void()> then = {});
    void unseal(const std::vector<std::string>& devices, const std::string& password);
    // A key for the sound between the chosen devices that send or take sound over the network; all or none. An empty
    // phrase: a new key is made. It goes to the devices and nowhere else.
    void encryptSound(const std::vector<std::string>& devices, const std::string& phrase);
    void openSound(const std::vector<std::string>& devices);
    std::vector<site::SoundLink> soundLinks() const;

    // `tell` when devices, found or paired, have changed; with hundreds of devices one after another and not all in
    // one turn of the event loop, so that nobody waits for long. Ends with `who`.
    void whenChanged(QObject* who, std::function<void()> tell);
    void note(const std::string& device, const std::string& who, const std::string& what, bool bad = false);
    bool askedSomething() const { return !loose_.empty() || work_.running(); }

  signals:
    void foundChanged();
    void memberChanged(const std::string& device); // "" : several
    void metersCame();
    void announced(); // streams, by whoever it is
    void logChanged();
    void liveChanged();
    void workChanged();                                              // the step on several devices: now and then
    void turned(const std::string& device, const std::string& knob); // at the device
    void alarm(const std::string& text);                             // something is not well that was

  private:
    // Up to so many are compared, and views told, in one turn of the event loop.
    static constexpr std::size_t few = 20;
    static constexpr int breathMs = 4; // between those who show hundreds of devices, for what they showed to be painted
    // An answer for a member that may be gone by then.
    template <class T, class F> Then<T> answer(const Member& m, F f) {
        return [this, watch = m.link.watch(), id = m.device, f](const Reply<T>& reply) {
            if (!watch.get()) // and maybe this is gone as well
                return;
            const auto it = members_.find(id);
            if (it != members_.end() && &it->second->link == watch.get())
                f(*it->second, reply);
        };
    }
    // -- lines (fleet_lines.cpp) --
    void sync();
    void connectTo(Member& m, const std::map<std::string, int>& holders);
    std::map<std::string, int> holdersOfAddresses() const;
    void lineChanged(Member& m);
    void poll();
    void askAbout(Member& m);
    void askState(Member& m);
    void heardState(Member& m, const site::DeviceState& state);
    void fetchConfig(Member& m);
    void askMeters();
    void told(Member& m, const std::string& method, const nlohmann::json& params);
    void changedThere(Member& m, const site::Changed& what);
    void pressedThere(Member& m, const site::Pressed& what);
    void isAnother(const std::string& device, const std::string& serial, const std::string& identity);
    void pin(Member& m);
    void unlockLine(Member& m, std::function<void(Member&, const Reply<site::Unlocked>&)> then);
    // Once the line to a found device is up, or with a error.
    void onceUp(const std::string& serial, std::function<void(DeviceSession*, const std::string& error)> then);
    bool isPaired(const std::string& serial, const std::string& identity) const; // and its key is known
    // -- comparing (fleet_settle.cpp) --
    void compare(Member& m);
    void noteFallBack(Member& m);
    void compareSoon(const std::string& device); // many are compared a few at a time
    void askSoon(const std::string& device);
    void compareNow(Member& m); // if it waits for it
    void someTurns();
    void goOn(); // with those turns
    struct Sending;
    std::optional<site::Staging> stagingFor(const std::string& device, const project::DeviceModel* model,
                                            std::map<std::string, Sending>& sent);
    void tried(const Transaction::Outcome& outcome, std::map<std::string, Sending>& sent, std::size_t lost);
    void sendChange(Member& m, const std::string& block);
    void noteAgreed(); // what went to and fro live, into the project
    template <class A, class B>
    void command(const std::string& device, const site::Message<A, B>& message, std::type_identity_t<A> ask,
                 const std::string& what);
    // -- health (fleet_health.cpp) --
    void tellHealth();
    void tellIll(); // those that are still not well a while after they fell ill
    void sealWith(const std::vector<std::string>& ids, std::shared_ptr<Password> password, const site::Lock& lock,
                  std::function<void()> then);
    void sendKey(const std::vector<std::string>& devices, const std::string& key, const std::string& title);
    void changedSoon(const std::string& device);
    std::string nameOf(const std::string& device) const;
    std::string me() const;
    bool isWorking(const Member& m) const { return m.device == design_.working(); }

    std::shared_ptr<Network> ownNetwork_; // both outlive what follows
    std::shared_ptr<Design> ownDesign_;
    Network& network_;
    Design& design_;
    Tickets tickets_;
    Discovery discovery_;
    Transaction work_;
    DeviceTools tools_;
    Announcements announcements_;
    PortTap ear_, eye_;
    site::EventLog log_;
    std::map<std::string, std::unique_ptr<Member>> members_; // by device
    std::vector<std::unique_ptr<Member>> leaving_;           // of another project, until the step they are in has ended
    struct Loose { // a line to a found device that is not paired, or cannot be reached at its own address
        std::unique_ptr<DeviceSession> session;
        std::unique_ptr<Timer> patience;
        std::vector<std::function<void(DeviceSession*, const std::string&)>> waiting;
    };
    std::map<std::string, Loose> loose_; // by serial
    struct Watcher {
        QPointer<QObject> who;
        std::function<void()> tell;
        bool waits = false;
    };
    std::vector<Watcher> watchers_;
    void tellWatchers();
    Timer poll_, meterTimer_, soon_, bySlices_, turns_, illness_;
    qint64 toldAt_ = 0; // when one of many who show was told last
    std::set<std::string> stale_, toConnect_, toCompare_, toAsk_, ill_,
        seen_; // ill_: fell ill a moment ago; seen_: were reached
    std::shared_ptr<Password> password_{};
    bool live_ = false, looked_ = false;
    int tick_ = 0, opened_ = 0;
    std::string name_{};
};

} // namespace loom::client
