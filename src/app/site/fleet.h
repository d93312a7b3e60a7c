// All devices on site: those found, those paired with planned ones, what each is like and where it differs.
#pragma once
#include "app/session.h"
#include "app/site/all_or_none.h"
#include "app/site/device_tools.h"
#include "app/site/member.h"
#include "app/site/sweep.h"
#ifndef Q_MOC_RUN
#include "site/event_log.h"
#include "site/sound_links.h"
#endif

namespace loom::app {

class Fleet : public QObject {
    Q_OBJECT
  public:
    using Member = app::Member;
    explicit Fleet(Session& session, QObject* parent = nullptr);
    ~Fleet() override;
    Session& session() { return session_; }
    Sweep& sweep() { return sweep_; }
    const Sweep& sweep() const { return sweep_; }
    const site::EventLog& log() const { return log_; }
    AllOrNone& work() { return work_; }
    DeviceTools& tools() { return tools_; }

    // -- finding --
    void look(const site::Subnet& range);
    void addAddress(const QString& address);
    bool looked() const { return looked_; }
    std::vector<site::Found> found() const { return sweep_.list(); }
    std::vector<site::SiteFinding> findings() const;
    void cure(const site::SiteFinding& finding);
    void readdress(const std::string& serial, const std::string& address);
    void addToPlan(const std::vector<std::string>& serials, const std::string& room);

    // -- pairing; edits of the project --
    void pair(const std::string& device, const std::string& serial);
    int pairAll(const std::vector<site::PairBy>& ways); // how many
    void unpair(const std::string& device);
    void swapPairs(const std::string& a, const std::string& b);
    const Member* member(const std::string& device) const;
    Member* member(const std::string& device);
    std::vector<const Member*> members() const; // in the order of the plan
    int planned() const;                        // devices that have an address
    enum class Sign { blink, tone };
    void identify(const std::string& serial, bool on, Sign sign = Sign::blink);

    // -- settling --
    void choose(const std::string& device, const std::string& key, site::Take take);
    // Open rows, or all: design, device, or by who changed last where only one side did.
    void chooseAll(const std::vector<std::string>& devices, site::Take take, bool openOnly);
    void tryNow(const std::vector<std::string>& devices);
    void keep(const std::vector<std::string>& devices);
    void goBack(const std::string& device, int revision);
    void takeFrom(const std::vector<std::string>& devices); // into the design; nothing is sent
    void powerCycle(const std::vector<std::string>& devices);
    void update(const std::string& device, bool back);

    // -- live --
    void setLive(bool on);
    bool live() const { return live_; }

    // -- sealing --
    void unlock(const std::string& password); // all that are locked; kept in memory for those that come back
    void seal(const std::vector<std::string>& devices, const std::string& password);
    void unseal(const std::vector<std::string>& devices, const std::string& password);
    // A key for the sound between the chosen devices that send or take sound over the network; all or none. An empty
    // phrase: a new key is made. It goes to the devices and nowhere else.
    void encryptSound(const std::vector<std::string>& devices, const std::string& phrase);
    void openSound(const std::vector<std::string>& devices);
    std::vector<site::SoundLink> soundLinks() const;

    // `tell` when devices, found or paired, have changed; with hundreds of devices one after another and not all in
    // one turn of the event loop, so that nobody waits for long. Ends with `who`.
    void whenChanged(QObject* who, std::function<void()> tell);

    void call(const std::string& device, const std::string& method, const nlohmann::json& params); // reports
    void note(const std::string& device, const std::string& who, const QString& what, bool bad = false);

  signals:
    void foundChanged();
    void memberChanged(const QString& device); // "" : several
    void metersCame();
    void logChanged();
    void liveChanged();
    void turned(const QString& device, const QString& knob); // at the device
    void alarm(const QString& text);                         // something is not well that was

  private:
    // Up to so many are compared, and views told, in one turn of the event loop.
    static constexpr std::size_t few = 20;
    void sync();
    void connectTo(Member& m, const std::map<std::string, int>& holders);
    void lineChanged(Member& m);
    void poll();
    void askState(Member& m);
    void fetchConfig(Member& m);
    void compare(Member& m);
    void noteFallBack(Member& m);
    void compareSoon(const std::string& device); // many are compared a few at a time
    void askSoon(const std::string& device);
    void compareNow(Member& m); // if it waits for it
    void told(Member& m, const QString& method, const nlohmann::json& params);
    void followChange(const project::Change& change);
    void sendChange(Member& m, const std::string& block);
    void noteAgreed(); // what went to and fro live, into the project
    void tellHealth();
    void tellIll(); // those that are still not well a while after they fell ill
    void sendKey(const std::vector<std::string>& devices, const std::string& key, const QString& title);
    void changedSoon(const std::string& device);
    RigLink* linkTo(const std::string& serial); // a paired one's, else a loose line to a found one
    std::string nameOf(const std::string& device) const;
    std::string me() const;

    Session& session_;
    Sweep sweep_;
    AllOrNone work_;
    DeviceTools tools_;
    site::EventLog log_;
    std::map<std::string, std::unique_ptr<Member>> members_; // by device
    std::map<std::string, std::unique_ptr<RigLink>> loose_;  // by serial
    struct Watcher {
        QPointer<QObject> who;
        std::function<void()> tell;
        bool waits = false;
    };
    std::vector<Watcher> watchers_;
    void tellWatchers();
    QTimer poll_, meterTimer_, soon_, bySlices_, turns_, illness_;
    std::set<std::string> stale_, toCompare_, toAsk_, ill_, seen_; // ill_: fell ill a moment ago; seen_: were reached
    std::string password_;
    bool live_ = false, looked_ = false;
    int tick_ = 0, opened_ = 0;
};

} // namespace loom::app
