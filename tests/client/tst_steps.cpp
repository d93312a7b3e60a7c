// One step on several devices, with every fault at every point; and two computers that work on the same devices.
#include "fake_network.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "catalogue/catalogue.h"
#include "client/fleet.h"
#endif
#include "test.h"
#include <QTemporaryDir>

using namespace loom;
using namespace loom::test;
using client::DeviceSession;
using client::Transaction;
using How = Transaction::Outcome::How;

namespace {

int countFrom(const char* name, int usual) {
    const int n = qEnvironmentVariableIntValue(name);
    return n > 0 ? n : usual;
}

// The project of one computer, without a window.
class Paper : public client::PlainDesign {
  public:
    using PlainDesign::PlainDesign;
    void say(const std::string& text, bool bad) override { said.push_back((bad ? "! " : "") + text); }
    bool hasSaid(const std::string& words) const {
        return std::any_of(said.begin(), said.end(), [&](const auto& s) { return s.find(words) != std::string::npos; });
    }
    std::vector<std::string> said;
};

project::Project taps(int count) {
    project::Project p;
    for (int i = 0; i < count; ++i) {
        project::Device d;
        d.models = test::models();
        d.id = "tap-" + std::to_string(i), d.name = "Tap " + std::to_string(i), d.model = "tap";
        d.serial = "T" + std::to_string(i), d.address = "127.0.0." + std::to_string(1 + i);
        p.devices.push_back(d);
    }
    return p;
}

} // namespace

class TestSteps : public QObject {
    Q_OBJECT
    std::unique_ptr<QTemporaryDir> folder_;

    std::string folder() { return folder_->path().toStdString(); }
    void fill(FakeNetwork& net, int count) {
        for (int i = 0; i < count; ++i)
            net.add("T" + std::to_string(i), "tap", "127.0.0." + std::to_string(1 + i), folder());
    }
    std::unique_ptr<DeviceSession> aloneWith(FakeNetwork& net) { // one device, its line up
        fill(net, 1);
        auto s = std::make_unique<DeviceSession>(net);
        s->open("127.0.0.1", 4710, {});
        if (!net.turns.runUntil([&] { return s->up(); }))
            qFatal("its line does not come up");
        return s;
    }
    static std::string lamp(const Station& s) { return s.device->running().setUp.at("lampLive"); }

  private slots:
    void init() {
        const QString fast = QFileInfo("/dev/shm").isWritable() ? "/dev/shm/loom-XXXXXX" : QString();
        folder_ = fast.isEmpty() ? std::make_unique<QTemporaryDir>() : std::make_unique<QTemporaryDir>(fast);
    }

    // Three devices are to change their lamp as one step. At each turn of it one thing goes wrong; then all have
    // changed or none has, but for those of which it is said that nobody knows.
    void everyFaultAtEveryPoint() {
        constexpr int devices = 3;
        enum Fault { cut, powerOff, unplugged, gone, cancelled, refused, faults };
        int scenarios = 0;
        std::map<How, int> ended;
        FakeNetwork net;
        fill(net, devices);
        std::vector<std::unique_ptr<DeviceSession>> sessions(devices);
        const auto connect = [&](int i) {
            auto& s = sessions[static_cast<std::size_t>(i)];
            s = std::make_unique<DeviceSession>(net);
            s->open("127.0.0." + std::to_string(1 + i), 4710, {});
        };
        for (int fault = 0; fault < faults; ++fault)
            for (int who = 0; who < devices; ++who)
                for (std::size_t at = 0;; ++at) {
                    // Everything is as it was before.
                    for (int i = 0; i < devices; ++i) {
                        auto& s = *net.stations.at("T" + std::to_string(i));
                        if (!s.device->powered())
                            s.device->powerOn();
                        s.plugged = true;
                        s.device->discard();
                        QVERIFY(bool(s.device->tryConfig({{}, {{"lampLive", "white"}}}, "", 1)));
                        if (!sessions[static_cast<std::size_t>(i)] || !sessions[static_cast<std::size_t>(i)]->up())
                            connect(i);
                    }
                    QVERIFY(net.turns.runUntil([&] {
                        return std::all_of(sessions.begin(), sessions.end(), [](const auto& s) { return s->up(); });
                    }));
                    net.turns.run(20);
                    Transaction work(net.turns);
                    std::vector<Transaction::Part> parts;
                    site::Staging green;
                    green.config = site::Config{{}, {{"lampLive", "green"}}};
                    site::Staging wrong = green;
                    wrong.config->setUp["no such"] = "x";
                    for (int i = 0; i < devices; ++i) {
                        Transaction::Part p;
                        p.device = p.name = "T" + std::to_string(i);
                        p.session = sessions[static_cast<std::size_t>(i)]->watch();
                        p.prepare = client::asking(site::message::stage, fault == refused && who == i ? wrong : green);
                        p.unprepare = client::asking(site::message::discard);
                        p.commit = client::asking(site::message::commit);
                        p.uncommit = client::asking(site::message::revert);
                        parts.push_back(std::move(p));
                    }
                    int ends = 0;
                    Transaction::Outcome outcome;
                    const auto begin = net.turns.steps();
                    work.start("Lamp", std::move(parts), [&](const Transaction::Outcome& o) { ++ends, outcome = o; });
                    while (net.turns.steps() < begin + at && work.running())
                        net.turns.step();
                    const bool over = !work.running();
                    auto& station = *net.stations.at("T" + std::to_string(who));
                    if (!over)
                        switch (fault) {
                        case cut:
                            station.cut();
                            break;
                        case powerOff: // it forgets what it was not told to keep
                            station.cut();
                            station.device->powerOff();
                            break;
                        case unplugged: // nothing is heard of it any more, and it hears nothing
                            station.plugged = false;
                            station.cut();
                            break;
                        case gone: // it is unpaired here
                            sessions[static_cast<std::size_t>(who)].reset();
                            break;
                        case cancelled:
                            work.cancel();
                            break;
                        default:
                            break;
                        }
                    QVERIFY2(net.turns.runUntil([&] { return !work.running(); }, 60000),
                             qPrintable(QString("fault %1 of %2 at %3 never ended").arg(fault).arg(who).arg(at)));
                    net.turns.run(50);
                    QCOMPARE(ends, 1);
                    ++scenarios, ++ended[outcome.how];
                    for (int i = 0; i < devices; ++i) {
                        const auto& s = *net.stations.at("T" + std::to_string(i));
                        if (!s.device->powered())
                            continue;
                        const std::string name = "T" + std::to_string(i);
                        const bool unsure =
                            std::find(outcome.unsure.begin(), outcome.unsure.end(), name) != outcome.unsure.end();
                        const std::string want = outcome ? "green" : "white";
                        QVERIFY2(unsure || lamp(s) == want,
                                 qPrintable(QString("fault %1 of %2 at %3: %4 is %5, and it ended: %6")
                                                .arg(fault)
                                                .arg(who)
                                                .arg(at)
                                                .arg(QString::fromStdString(name), QString::fromStdString(lamp(s)),
                                                     QString::fromStdString(inWords(outcome)))));
                    }
                    if (outcome.how != How::done)
                        QVERIFY(!inWords(outcome).empty());
                    using At = Transaction::Part::At;
                    for (const auto& p : work.parts()) { // each is told to be where it is
                        const bool unsure =
                            std::find(outcome.unsure.begin(), outcome.unsure.end(), p.name) != outcome.unsure.end();
                        QCOMPARE(p.at == At::unsure, unsure);
                        QVERIFY(outcome ? p.at == At::committed : unsure || p.at == At::undone || p.at == At::failed);
                    }
                    if (over || fault == refused)
                        break;
                }
        for (const How how : {How::done, How::refused, How::lost, How::cancelled})
            QVERIFY(ended[how] > 0);
        qInfo("%d scenarios: %d done, %d refused, %d lost, %d cancelled", scenarios, ended[How::done],
              ended[How::refused], ended[How::lost], ended[How::cancelled]);
        QVERIFY(scenarios > 200);
    }
    void whatWaitsIsNotBegunAnyMore() {
        FakeNetwork net;
        Transaction work(net.turns);
        const auto s = aloneWith(net);
        std::vector<Transaction::Part> parts(25);
        int begun = 0, undone = 0;
        for (auto& p : parts) {
            p.device = p.name = "T0", p.session = s->watch();
            p.prepare = [&](DeviceSession&, Transaction::Answered answered) {
                ++begun;
                net.turns.after(5, [answered] { answered({}, ""); });
            };
            p.unprepare = [&](DeviceSession&, Transaction::Answered answered) {
                ++undone;
                answered({}, "");
            };
            p.commit = [](DeviceSession&, Transaction::Answered) { QFAIL("nothing is to be committed"); };
        }
        std::optional<Transaction::Outcome> outcome;
        work.start("Lamp", std::move(parts), [&](const Transaction::Outcome& o) { outcome = o; });
        work.cancel();
        QVERIFY(net.turns.runUntil([&] { return !work.running(); }));
        QVERIFY(outcome && outcome->how == How::cancelled && outcome->unsure.empty());
        QVERIFY(begun > 0 && begun < 25);
        QCOMPARE(undone, begun);
        for (const auto& p : work.parts())
            QCOMPARE(p.at, Transaction::Part::At::undone);
        QCOMPARE(work.finished(), 25);
    }
    void oneStepAtATime() {
        FakeNetwork net;
        Transaction work(net.turns);
        const auto s = aloneWith(net);
        Transaction::Part p;
        p.device = "T0", p.session = s->watch(), p.commit = client::asking(site::message::state);
        std::vector<How> ends;
        const auto end = [&](const Transaction::Outcome& o) { ends.push_back(o.how); };
        work.start("One", {p}, end);
        work.start("Two", {p}, end);
        QCOMPARE(ends.size(), std::size_t(1));
        QVERIFY(ends[0] == How::refused && work.title() == "One");
        QVERIFY(net.turns.runUntil([&] { return !work.running(); }));
        QVERIFY(ends.size() == 2 && ends[1] == How::done && work.finished() == 1);
        work.start("None", {}, end);
        QVERIFY(ends.size() == 3 && ends[2] == How::done);
        work.cancel(); // nothing runs
        QCOMPARE(ends.size(), std::size_t(3));
    }
    // A step is known to be done by what the devices answered to it, not by what is asked afterwards: what was kept
    // before is not taken for kept.
    void keptIsWhatRunsNow() {
        FakeNetwork net;
        fill(net, 2);
        const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
        auto p = taps(2);
        for (auto& [serial, s] : net.stations)
            for (const char* id : {"tap-0", "tap-1"})
                if (p.device(id)->serial == serial)
                    p.device(id)->known.identity = s->device->describe().identity;
        const auto paper = std::make_shared<Paper>(p, test::models());
        client::Fleet fleet(shared, paper, client::Tickets());
        paper->changed = [&](const project::Change& c) { fleet.follow(c); };
        fleet.look(*site::readSubnet("127.0.0.0/24"));
        fleet.follow({});
        const std::vector<std::string> ids{"tap-0", "tap-1"};
        const auto all = [&](auto what) {
            return std::all_of(ids.begin(), ids.end(), [&](const auto& id) { return what(*fleet.member(id)); });
        };
        const auto ended = [&] { return net.turns.runUntil([&] { return !fleet.work().running(); }, 30000); };
        QVERIFY(net.turns.runUntil([&] { return all([](const auto& m) { return m.config && m.state; }); }, 30000));
        for (int round = 1; round <= 3; ++round) {
            for (const auto& id : ids)
                paper->edit(project::changeDevice(id, "Lamp", [&](project::Device& d) {
                    project::adoptSetUp(d, {{"lampLive", round % 2 ? "amber" : "white"}});
                }));
            fleet.chooseAll(ids, site::Take::design, false);
            fleet.tryNow(ids);
            QVERIFY(fleet.work().running() && ended());
            QVERIFY(all([&](const auto& m) { return m.runningRevision() == round && !m.kept() && m.rows.empty(); }));
            fleet.keep(ids);
            QVERIFY(fleet.work().running() && ended());
            QVERIFY(all([&](const auto& m) { return m.keptRevision() == round && m.kept(); }));
            for (auto& [_, s] : net.stations)
                QVERIFY(s->device->store().kept() && s->device->store().kept()->number == round);
        }
    }
    // A client's whole day without a window: found, paired, tried, kept, sealed, cut, unlocked by itself.
    void aDayWithoutAWindow() {
        FakeNetwork net;
        fill(net, 3);
        auto p = taps(3);
        for (const char* id : {"tap-0", "tap-1", "tap-2"})
            p.device(id)->serial.clear();
        const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
        const auto paper = std::make_shared<Paper>(p, test::models());
        client::Fleet fleet(shared, paper, client::Tickets());
        paper->changed = [&](const project::Change& c) { fleet.follow(c); };
        fleet.look(*site::readSubnet("127.0.0.0/24"));
        QVERIFY(net.turns.runUntil([&] { return fleet.found().size() == 3; }));
        QCOMPARE(fleet.pairAll({site::PairBy::position}), 3);
        const auto all = [&](auto what) {
            return net.turns.runUntil(
                [&] {
                    const auto members = fleet.members();
                    return members.size() == 3 &&
                           std::all_of(members.begin(), members.end(), [&](const auto* m) { return what(*m); });
                },
                30000);
        };
        QVERIFY(all([](const client::Member& m) { return m.link.up() && m.config && m.state; }));
        const std::vector<std::string> ids{"tap-0", "tap-1", "tap-2"};
        fleet.tryNow(ids);
        QVERIFY(all([](const client::Member& m) { return m.runningRevision() > 0 && m.rows.empty(); }));
        QVERIFY(all([&](const client::Member&) { return !fleet.work().running(); }));
        fleet.keep(ids);
        QVERIFY(all([](const client::Member& m) { return m.kept(); }));
        QVERIFY(all([&](const client::Member&) { return !fleet.work().running(); }));
        fleet.seal(ids, "short grass");
        QVERIFY(all([](const client::Member& m) { return m.sealed && !m.locked; }));
        // Once more, with another one: it ends when the devices have that, and each knows this computer again.
        std::map<std::string, std::string> first;
        for (auto& [serial, s] : net.stations)
            first[serial] = s->device->store().lock();
        int ended = 0;
        fleet.seal(ids, "tall grass by the sea", [&] { ++ended; });
        QVERIFY(net.turns.runUntil([&] { return ended > 0; }, 30000) && !fleet.work().running());
        QVERIFY(paper->said.back() == "3 devices are sealed.");
        for (const auto* m : fleet.members())
            QVERIFY2(m->sealed && !m->locked, qPrintable(QString("%1: %2 wait").arg(m->locked).arg(m->link.waiting())));
        for (auto& [serial, s] : net.stations)
            QVERIFY(s->device->store().lock() != first[serial]);
        fleet.seal({"nobody"}, "tall grass by the sea", [&] { ++ended; });
        QCOMPARE(ended, 2);
        QVERIFY(paper->hasSaid("None of them can be reached."));
        for (auto& [_, s] : net.stations) {
            QVERIFY2(!s->device->store().lock().empty(), paper->said.back().c_str());
            s->cut();
        }
        QVERIFY(all([](const client::Member& m) { return !m.link.up(); }));
        QVERIFY(all([](const client::Member& m) { return m.link.up() && m.sealed && !m.locked; }));
        // Another computer has to give the password; a wrong one opens nothing.
        const auto second = std::make_shared<Paper>(paper->project(), test::models());
        client::Fleet other(shared, second, client::Tickets());
        second->changed = [&](const project::Change& c) { other.follow(c); };
        other.look(*site::readSubnet("127.0.0.0/24"));
        const auto locked = [&](bool want) {
            return net.turns.runUntil(
                [&] {
                    const auto members = other.members();
                    return members.size() == 3 && std::all_of(members.begin(), members.end(), [&](const auto* m) {
                               return m->link.up() && m->sealed && m->locked == want;
                           });
                },
                30000);
        };
        QVERIFY(locked(true));
        other.unlock("something else");
        net.turns.run(3000);
        QVERIFY(locked(true) && second->hasSaid("wrong"));
        other.unlock("tall grass by the sea");
        QVERIFY(locked(false));
    }
    // What ails a device is noted when it begins, not at every answer; and again when it comes back.
    void whatAilsADeviceIsNotedOnce() {
        FakeNetwork net;
        fill(net, 1);
        const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
        const auto paper = std::make_shared<Paper>(taps(1), test::models());
        client::Fleet fleet(shared, paper, client::Tickets());
        fleet.look(*site::readSubnet("127.0.0.0/24"));
        QVERIFY(net.turns.runUntil([&] { return !fleet.members().empty() && fleet.members()[0]->config; }));
        auto& device = *net.stations.at("T0")->device;
        const auto noted = [&](const char* words) {
            int times = 0;
            for (const auto& e : fleet.log().matching(words, true))
                times += e.times;
            return times;
        };
        const auto ails = [&](const char* fault, const nlohmann::json& how) {
            if (!device.setFault(fault, how))
                qFatal("no such fault");
            net.turns.run(10000);
        };
        ails("temperature", project::hotCelsius - 0.1);
        QVERIFY(noted("warm") == 0 && noted("clips") == 0 && noted("clock") == 0);
        ails("temperature", project::hotCelsius);
        ails("clip", true);
        ails("clock", true);
        QVERIFY(noted("70 \u00b0C warm") == 1 && noted("clips") == 1 && noted("clock") == 1);
        ails("temperature", project::hotCelsius + 5); // still hot: nothing new
        QCOMPARE(noted("warm"), 1);
        ails("clip", false);
        ails("clip", true);
        ails("temperature", 40);
        ails("temperature", 71);
        QVERIFY(noted("clips") == 2 && noted("71 \u00b0C warm") == 1 && noted("clock") == 1);
    }
    // Values set at a device are taken into the design; a revision that was kept runs again; what cannot be is said.
    void takenFromADeviceAndGoneBack() {
        FakeNetwork net;
        fill(net, 1);
        const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
        const auto paper = std::make_shared<Paper>(taps(1), test::models());
        client::Fleet fleet(shared, paper, client::Tickets());
        paper->changed = [&](const project::Change& c) { fleet.follow(c); };
        fleet.look(*site::readSubnet("127.0.0.0/24"));
        const auto soon = [&](auto what) {
            return net.turns.runUntil([&] { return fleet.members().size() == 1 && what(*fleet.members()[0]); }, 30000);
        };
        QVERIFY(soon([](const client::Member& m) { return m.link.up() && m.config && m.state; }));
        auto& device = *net.stations.at("T0")->device;
        const auto lampHere = [&] { return project::setUpOf(*paper->project().device("tap-0")).at("lampLive"); };
        const auto paint = [&](const char* colour) {
            paper->edit(project::changeDevice("tap-0", "Lamp", [&](project::Device& d) {
                project::adoptSetUp(d, {{"lampLive", colour}});
            }));
        };
        const auto tryAndKeep = [&] {
            fleet.tryNow({"tap-0"});
            const bool tried =
                soon([&](const client::Member& m) { return m.rows.empty() && !fleet.work().running() && !m.kept(); });
            fleet.keep({"tap-0"});
            return tried && soon([&](const client::Member& m) { return m.kept() && !fleet.work().running(); });
        };
        paint("green");
        QVERIFY(tryAndKeep());
        const int first = fleet.members()[0]->runningRevision();
        paint("amber");
        QVERIFY(tryAndKeep());
        QVERIFY(fleet.members()[0]->runningRevision() == first + 1 && device.running().setUp.at("lampLive") == "amber");
        fleet.goBack("tap-0", 99);
        net.turns.run(5000);
        QVERIFY(device.running().setUp.at("lampLive") == "amber" && !fleet.members()[0]->wentBack);
        QVERIFY2(paper->said.back().rfind("! ", 0) == 0, paper->said.back().c_str());
        fleet.goBack("tap-0", first);
        QVERIFY(soon([](const client::Member& m) { return m.wentBack && !m.rows.empty(); }));
        QVERIFY(device.running().setUp.at("lampLive") == "green" && lampHere() == "amber");
        QVERIFY(paper->hasSaid("Revision " + std::to_string(first) + " runs again"));
        fleet.takeFrom({"tap-0", "nobody"});
        QVERIFY(lampHere() == "green");
        QVERIFY(soon([](const client::Member& m) { return m.rows.empty() && !m.wentBack; }));
        const auto before = paper->project();
        fleet.takeFrom({"tap-0"});
        QVERIFY(paper->said.back().find("Nothing differs") != std::string::npos && paper->project() == before);
        fleet.powerCycle({"nobody"});
        QVERIFY(paper->hasSaid("! It is not paired yet"));
        fleet.powerCycle({"tap-0"});
        QVERIFY(soon([](const client::Member& m) { return !m.link.up(); }));
        QVERIFY2(paper->hasSaid("Power is off"), paper->said.back().c_str());
        QVERIFY(soon([](const client::Member& m) { return m.link.up() && m.config; }));
        QVERIFY(device.running().setUp.at("lampLive") == "amber"); // what it keeps is the newest that was kept
    }
    // A sealed device that shares its address with another one is given one of its own: on the line where it answers
    // whatever its address is, with the password that was given, and only if it is the paired one by its key.
    void aSealedDeviceIsGivenAnAddress() {
        FakeNetwork net;
        fill(net, 2);
        auto& one = *net.stations.at("T1");
        QVERIFY(bool(one.front->setPassword("tall grass by the sea")));
        one.address = "127.0.0.1"; // T0 has it
        auto p = taps(2);
        p.device("tap-1")->known.identity = one.front->about().identity;
        const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
        const auto paper = std::make_shared<Paper>(p, test::models());
        client::Fleet fleet(shared, paper, client::Tickets());
        paper->changed = [&](const project::Change& c) { fleet.follow(c); };
        fleet.look(*site::readSubnet("127.0.0.0/24"));
        QVERIFY(net.turns.runUntil([&] { return fleet.found().size() == 2; }));
        fleet.readdress("T1", "127.0.0.9");
        net.turns.run(8000);
        QVERIFY(paper->hasSaid("sealed") && one.address == "127.0.0.1");
        fleet.unlock("tall grass by the sea"); // nobody can be asked yet: it is remembered
        // A stranger that announces itself as that device does not get so much as a try.
        paper->edit(project::changeDevice("tap-1", "x", [](auto& d) { d.known.identity = site::keyText({1}); }));
        net.turns.run(20000);
        const auto tries = one.device->store().log().size();
        fleet.readdress("T1", "127.0.0.9");
        net.turns.run(8000);
        QVERIFY(one.address == "127.0.0.1" && one.device->store().log().size() == tries);
        paper->edit(
            project::changeDevice("tap-1", "x", [&](auto& d) { d.known.identity = one.front->about().identity; }));
        net.stations.at("T1")->cut();
        net.turns.run(2000);
        fleet.readdress("T1", "127.0.0.9");
        QVERIFY2(net.turns.runUntil([&] { return one.address == "127.0.0.9"; }, 10000), paper->said.back().c_str());
    }
    // Another project is opened while a step waits: it ends once, undone, and nothing of it is noted there.
    void anotherProjectEndsWhatIsOnTheWay() {
        for (int turn = 0; turn < 40; ++turn) {
            FakeNetwork net;
            fill(net, 2);
            const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
            const auto paper = std::make_shared<Paper>(taps(2), test::models());
            client::Fleet fleet(shared, paper, client::Tickets());
            paper->changed = [&](const project::Change& c) { fleet.follow(c); };
            fleet.look(*site::readSubnet("127.0.0.0/24"));
            QVERIFY(net.turns.runUntil([&] {
                const auto m = fleet.members();
                return m.size() == 2 && m[0]->config && m[1]->config;
            }));
            net.turns.run(200);
            fleet.tryNow({"tap-0", "tap-1"});
            QVERIFY(fleet.work().running());
            for (int i = 0; i < turn && fleet.work().running(); ++i)
                net.turns.step();
            const bool was = fleet.work().running();
            fleet.anotherProject();
            paper->edit(project::replaceProject(taps(0), "Open"));
            QVERIFY(net.turns.runUntil([&] { return !fleet.work().running(); }, 20000));
            net.turns.run(1000);
            if (was)
                for (auto& [_, s] : net.stations)
                    QVERIFY2(!s->device->state().running, qPrintable(QString::number(turn)));
            QVERIFY(paper->project().devices.empty());
        }
    }
    // Two computers work live on the same devices, in any order of their messages: at the end the devices and both
    // designs hold the same.
    void twoComputersAgree() {
        const int runs = countFrom("LOOM_INTERLEAVINGS", 300);
        int changes = 0;
        for (int run = 0; run < runs; ++run) {
            FakeNetwork net(static_cast<unsigned>(run + 1));
            net.most = 30;
            fill(net, 2);
            const auto shared = std::shared_ptr<client::Network>(&net, [](auto*) {});
            std::vector<std::shared_ptr<Paper>> papers;
            std::vector<std::unique_ptr<client::Fleet>> fleets;
            for (const char* user : {"ana", "ben"}) {
                papers.push_back(std::make_shared<Paper>(taps(2), test::models()));
                fleets.push_back(std::make_unique<client::Fleet>(shared, papers.back(), client::Tickets()));
                fleets.back()->setName(user);
                papers.back()->changed = [f = fleets.back().get()](const project::Change& c) { f->follow(c); };
                fleets.back()->look(*site::readSubnet("127.0.0.0/24"));
            }
            const auto ready = [&] {
                return std::all_of(fleets.begin(), fleets.end(), [](const auto& f) {
                    const auto m = f->members();
                    return m.size() == 2 && m[0]->link.up() && m[1]->link.up() && m[0]->config && m[1]->config;
                });
            };
            QVERIFY(net.turns.runUntil(ready));
            fleets[0]->tryNow({"tap-0", "tap-1"});
            net.turns.run(2000);
            for (auto& f : fleets)
                f->setLive(true);
            auto& dice = net.dice;
            const auto pick = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(dice); };
            for (int i = 0; i < 12; ++i, ++changes) {
                auto& paper = *papers[static_cast<std::size_t>(pick(2))];
                const std::string id = "tap-" + std::to_string(pick(2));
                const char* colours[] = {"red", "green", "blue", "amber", "white"};
                paper.edit(project::changeDevice(id, "Lamp", [&](project::Device& d) {
                    project::adoptSetUp(d, {{pick(2) ? "lampLive" : "lampMuted", colours[pick(5)]}});
                }));
                net.turns.run(pick(60));
            }
            net.turns.run(5000);
            for (int i = 0; i < 2; ++i) {
                const auto& there = net.stations.at("T" + std::to_string(i))->device->running().setUp;
                for (auto& paper : papers) {
                    const auto here = project::setUpOf(*paper->project().device("tap-" + std::to_string(i)));
                    for (const char* lamp : {"lampLive", "lampMuted"})
                        QVERIFY2(here.at(lamp) == there.at(lamp),
                                 qPrintable(QString("run %1, tap %2, %3: %4 here, %5 there")
                                                .arg(run)
                                                .arg(i)
                                                .arg(lamp, QString::fromStdString(here.at(lamp)),
                                                     QString::fromStdString(there.at(lamp)))));
                }
                for (auto& f : fleets)
                    QVERIFY(std::as_const(*f).member("tap-" + std::to_string(i))->rows.empty());
            }
        }
        qInfo("%d interleavings, %d changes", runs, changes);
    }
};

LOOM_TEST(tst_steps, TestSteps)
#include "tst_steps.moc"
