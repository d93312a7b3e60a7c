// What Site works out: pairing, what is wrong, settling, the sealed line, events, scenarios.
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#include "file/store.h"
#include "models.h"
#include "site/audio_key.h"
#include "site/channel.h"
#include "site/event_log.h"
#include "site/found.h"
#include "site/protocol.h"
#include "site/reconcile.h"
#include "site/scenario.h"
#include "site/sound_links.h"
#include <algorithm>
#include <cmath>
#endif
#include "test.h"
#include <QFile>

using namespace loom;
using site::DiscoveredDevice;
using site::PairBy;
using site::Standing;
using site::Take;

class TestSite : public QObject {
    Q_OBJECT
    static project::Device planned(const std::string& id, const std::string& model, const std::string& name,
                                   const std::string& address) {
        project::Device d;
        d.models = test::models();
        d.id = id, d.model = model, d.name = name, d.address = address;
        return d;
    }
    static DiscoveredDevice found(const std::string& serial, const std::string& model, const std::string& address,
                                  const std::string& name = "", const std::string& firmware = "9") {
        DiscoveredDevice f;
        f.models = test::models();
        f.serial = serial, f.model = model, f.modelName = model, f.address = address, f.name = name;
        f.firmware = firmware;
        return f;
    }
    static project::Project hall() {
        project::Project p;
        p.devices = {planned("a", "canopy-8", "Hall canopy", "127.20.4.20"),
                     planned("b", "canopy-8", "Tern canopy", "127.20.4.21"),
                     planned("c", "slate-10", "Hall slate", "127.20.4.30"), planned("d", "bobbin-c6", "Ceiling 1", "")};
        return p;
    }
    static site::Config demoConfig() {
        const auto p = test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        return site::designOf(*p, p->devices[0]);
    }
    static const site::Row* rowOf(const std::vector<site::Row>& rows, const std::string& key) {
        for (const auto& r : rows)
            if (r.key == key)
                return &r;
        return nullptr;
    }

  private slots:
    // ---- pairing ----
    void pairsOnlyWhatIsCertain() {
        const auto p = hall();
        const std::vector<DiscoveredDevice> there{found("1", "canopy-8", "127.20.4.90"),
                                                  found("2", "canopy-8", "127.20.4.91"),
                                                  found("3", "slate-10", "127.20.4.92")};
        const auto sure = site::matches(p, there, {PairBy::serial, PairBy::name, PairBy::address, PairBy::model});
        QCOMPARE(sure.size(), std::size_t(1)); // two canopies could be either
        QVERIFY(sure[0].device == "c" && sure[0].serial == "3");
        const auto all = site::matches(p, there, {PairBy::model, PairBy::position});
        QCOMPARE(all.size(), std::size_t(3));
        for (const auto& m : all)
            if (m.device == "a")
                QCOMPARE(m.serial, std::string("1")); // by address, in the order of the plan
    }
    void nameAndAddressDecide() {
        const auto p = hall();
        const auto byName = site::matches(
            p, {found("1", "canopy-8", "127.20.4.90", "Tern canopy"), found("2", "canopy-8", "127.20.4.91")},
            {PairBy::name, PairBy::model});
        QCOMPARE(byName.size(), std::size_t(2)); // the other follows, being the only one left
        QVERIFY(byName[0].device == "b" && byName[0].serial == "1" && byName[0].why == "same name");
        const auto byAddress = site::matches(
            p, {found("1", "canopy-8", "127.20.4.20"), found("2", "slate-10", "127.20.4.21")}, {PairBy::address});
        QCOMPARE(byAddress.size(), std::size_t(1)); // another model at an address is no match
        QCOMPARE(byAddress[0].device, std::string("a"));
    }
    void whatIsPairedIsLeftAlone() {
        auto p = hall();
        p.devices.change(0).serial = "1";
        const auto m =
            site::matches(p, {found("1", "canopy-8", "127.20.4.21", "Tern canopy")}, {PairBy::name, PairBy::position});
        QVERIFY(m.empty());
    }
    // ---- what is wrong ----
    void duplicateAddressIsCured() {
        auto p = hall();
        const std::vector<DiscoveredDevice> there{found("1", "canopy-8", "127.20.4.20"),
                                                  found("2", "canopy-8", "127.20.4.20")};
        const auto net = *site::readSubnet("127.20.4.0/24");
        const auto all = site::siteFindings(p, there, net, {});
        const auto it = std::find_if(all.begin(), all.end(), [](const auto& f) { return f.id() == "address-shared"; });
        QVERIFY(it != all.end() && it->cure == site::SiteFinding::Cure::readdress);
        QCOMPARE(it->serial, std::string("2"));
        QCOMPARE(it->address, std::string("127.20.4.21")); // that of the planned canopy it may stand for
        QCOMPARE(site::proposeAddress(p, {there[0], there[1], found("3", "canopy-8", "127.20.4.21")}, there[1], net),
                 std::string("127.20.4.10")); // none is left for it: the first that is free
        const auto both = site::siteFindings(p, {there[0], there[1], found("3", "canopy-8", "10.0.0.3")}, net, {});
        std::set<std::string> offered; // one address is not offered to two
        for (const auto& f : both)
            if (f.cure == site::SiteFinding::Cure::readdress)
                QVERIFY(offered.insert(f.address).second);
        QCOMPARE(offered.size(), std::size_t(2));
        p.devices.change(0).serial = "2"; // the one that belongs there stays, the other goes
        const auto again = site::siteFindings(p, there, net, {});
        QCOMPARE(
            std::find_if(again.begin(), again.end(), [](const auto& f) { return f.id() == "address-shared"; })->serial,
            std::string("1"));
    }
    void findingsOfEachKind() {
        auto p = hall();
        p.devices.change(0).serial = "dead";
        p.devices.change(2).serial = "3";
        const std::vector<DiscoveredDevice> there{found("1", "canopy-8", "127.20.4.20"),
                                                  found("3", "slate-10", "127.20.4.30", "", "1.0"),
                                                  found("4", "tap", "10.0.0.9")};
        const auto all = site::siteFindings(p, there, site::readSubnet("127.20.4.0/24"), {"dead"});
        const auto has = [&](const std::string& code) {
            return std::find_if(all.begin(), all.end(), [&](const auto& f) { return f.id() == code; });
        };
        QVERIFY(has("lost") != all.end() && has("lost")->cure == site::SiteFinding::Cure::replace);
        QCOMPARE(has("lost")->serial, std::string("1"));
        QVERIFY(has("firmware") != all.end() && !has("firmware")->fix() && has("firmware")->device == "c");
        QVERIFY(has("wrong-subnet") != all.end() && has("wrong-subnet")->serial == "4");
        QVERIFY(site::readSubnet("127.20.4.0/24")->holds(has("wrong-subnet")->address));
        QVERIFY(has("not-planned") != all.end() && has("not-planned")->serial == "4");
        for (const auto& f : all)
            QVERIFY(!f.reason.empty() && !f.remedy.empty());
        p.devices.pop_back();
        const auto none = site::siteFindings(p, {}, site::readSubnet("127.20.4.0/24"), {});
        QCOMPARE(std::count_if(none.begin(), none.end(), [](const auto& f) { return f.id() == "not-found"; }), 1);
    }
    void subnets() {
        QVERIFY(!site::readSubnet("127.20.4.0") && !site::readSubnet("127.20.4.0/31") && !site::readSubnet("x/24") &&
                !site::readSubnet("1.2.3.4/") && !site::readSubnet("1.2.3.4/2x"));
        const auto s = site::readSubnet("10.20.5.77/23");
        QVERIFY(s && s->holds("10.20.4.1") && s->holds("10.20.5.254") && !s->holds("10.20.6.1"));
        QCOMPARE(s->hosts().size(), std::size_t(510));
        QCOMPARE(s->hosts().front(), std::string("10.20.4.1"));
        QVERIFY(site::older("1.2", "1.10") && !site::older("1.10", "1.9") && !site::older("2", "2"));
    }
    void foundIsReadWithCare() {
        for (const char* bad : {"7", "{}", R"({"serial":7,"model":"x"})", R"({"serial":"","model":"x"})"})
            QVERIFY(!schema::fromJson<site::DiscoveredDevice>(nlohmann::json::parse(bad)));
        const auto f = found("1", "canopy-8", "127.20.4.20", "N");
        const auto back = schema::fromJson<site::DiscoveredDevice>(schema::toJson(f));
        QVERIFY(back && back->serial == "1" && back->address == "127.20.4.20" && back->name == "N");
        const auto d = site::plannedFrom(hall(), found("9", "canopy-8", "127.20.4.77"), "");
        QVERIFY(d.serial == "9" && d.address == "127.20.4.77" && !d.id.empty() && !hall().device(d.id));
    }
    // ---- settling ----
    void threeWays() {
        const auto sent = demoConfig();
        auto design = sent, device = sent;
        design.program->find("chair.eq")->values["2.gain"] = 3;      // here
        device.program->find("chair.preamp")->values["gain"] = 20;   // there
        design.program->find("delegate-1.eq")->values["2.gain"] = 1; // both
        device.program->find("delegate-1.eq")->values["2.gain"] = -1;
        device.setUp["lampLive"] = "red";
        const auto rows = site::rowsOf(design, device, &sent, Standing::current, {});
        QCOMPARE(rows.size(), std::size_t(4));
        QVERIFY(rowOf(rows, "chair.eq.2.gain")->take == Take::design);
        QVERIFY(rowOf(rows, "chair.preamp.gain")->take == Take::device);
        QVERIFY(rowOf(rows, "setUp/lampLive")->take == Take::device);
        const auto* both = rowOf(rows, "delegate-1.eq.2.gain");
        QVERIFY(both->take == Take::open && both->conflict() && site::openRows(rows) == 1);
        QCOMPARE(both->group, std::string("Delegate 1"));
        const auto now =
            site::rowsOf(design, device, &sent, Standing::current, {{"delegate-1.eq.2.gain", Take::device}});
        const auto result = site::settled(design, device, now);
        QVERIFY(site::openRows(now) == 0);
        QCOMPARE(result.program->find("chair.eq")->values.at("2.gain"), 3.0);
        QCOMPARE(result.program->find("chair.preamp")->values.at("gain"), 20.0);
        QCOMPARE(result.program->find("delegate-1.eq")->values.at("2.gain"), -1.0);
        QCOMPARE(result.setUp.at("lampLive"), std::string("red"));
        QVERIFY(site::differences(result, result, nullptr).empty());
    }
    void neverSentWaitsUnlessFresh() {
        auto design = demoConfig(), device = design;
        device.program->find("chair.eq")->values["2.gain"] = 3;
        QCOMPARE(site::openRows(site::rowsOf(design, device, nullptr, Standing::current, {})), 1);
        QCOMPARE(site::openRows(site::rowsOf(design, device, nullptr, Standing::nothing, {})), 0);
        device.program.reset();
        QCOMPARE(site::settled(design, device,
                               site::rowsOf(design, device, &design, Standing::current, {{"program", Take::device}}))
                     .program->blocks.size(),
                 design.program->blocks.size()); // what was lost at power-off takes nothing away
        const auto rows = site::rowsOf(design, device, nullptr, Standing::nothing, {});
        QVERIFY(rows.size() == 1 && rows[0].key == "program" && rows[0].take == Take::design);
        // A system met for the first time: all of it from the device.
        site::Config empty;
        empty.setUp = design.setUp;
        const auto met = site::rowsOf(empty, design, nullptr, Standing::current, {{"program", Take::device}});
        QVERIFY(site::settled(empty, design, met).program->blocks == design.program->blocks);
    }
    void whatFellBackTakesNothing() { // tried, not kept, power cut: the device comes back with what it kept before
        auto sent = demoConfig(), design = sent, device = sent;
        sent.program->find("chair.eq")->values["2.gain"] = 5;
        design = sent;
        design.program->find("chair.preamp")->values["gain"] = 22;
        device.program->find("chair.preamp")->values["gain"] = 10;
        auto rows = site::rowsOf(design, device, &sent, Standing::older, {});
        QCOMPARE(rows.size(), std::size_t(2));
        for (const auto& r : rows) {
            QCOMPARE(r.take, Take::design);
            QCOMPARE(project::wordsOf(r.difference.changed), std::string("older at the device"));
        }
        rows = site::rowsOf(design, device, &sent, Standing::mixed, {}); // and somebody turned something since
        QCOMPARE(site::openRows(rows), 2);
    }
    void structureIsSettledWhole() {
        const auto sent = demoConfig();
        auto design = sent, device = sent;
        erase_if(device.program->blocks, [](const auto& b) { return b.id == "chair.eq"; });
        device.program->connections.changeIf([](const auto& t) { return t.from.block == "chair.eq"; },
                                             [](auto& t) {
                                                 t.from = {"chair.preamp", 0};
                                             });
        erase_if(device.program->connections, [](const auto& t) { return t.to.block == "chair.eq"; });
        auto rows = site::rowsOf(design, device, &sent, Standing::current, {});
        QVERIFY(rowOf(rows, "chair.eq") && rowOf(rows, "threads"));
        const auto taken = site::settled(design, device, rows); // only there: taken from there
        QVERIFY(!taken.program->find("chair.eq"));
        for (const auto& t : taken.program->connections)
            QVERIFY(taken.program->find(t.from.block) && taken.program->find(t.to.block));
        rows = site::rowsOf(design, device, &sent, Standing::current,
                            {{"chair.eq", Take::design}, {"threads", Take::design}});
        QVERIFY(site::fingerprint(site::settled(design, device, rows)) == site::fingerprint(design));
    }
    void whatWillBeHeard() {
        const auto from = demoConfig();
        auto to = from;
        to.program->find("chair.preamp")->values["gain"] += 3;
        auto heard = site::heardChanges(from, to, 48000);
        QVERIFY(!heard.empty());
        for (const auto& h : heard)
            QVERIFY2(std::abs(h.db - 3) < 0.01, h.what.c_str());
        QVERIFY(site::heardChanges(from, from, 48000).empty());
        site::Config nothing;
        for (const auto& h : site::heardChanges(from, nothing, 48000))
            QVERIFY(std::isinf(h.db) && h.db < 0);
        QVERIFY(!site::heardChanges(from, nothing, 48000).empty());
    }
    void configsAreReadWithCare() {
        const auto c = demoConfig();
        const auto back = schema::fromJson<site::Config>(schema::toJson(c));
        QVERIFY(back && site::fingerprint(*back) == site::fingerprint(c));
        auto other = c;
        other.program->revision += 5;
        QVERIFY(site::fingerprint(other) == site::fingerprint(c)); // a number alone is no difference
        other.setUp["lampLive"] = "blue";
        QVERIFY(site::fingerprint(other) != site::fingerprint(c));
        for (const char* bad : {"7", "[]", R"({"setUp":7})", R"({"setUp":{"a":7}})", R"({"program":7})"})
            QVERIFY2(!schema::fromJson<site::Config>(nlohmann::json::parse(bad)), bad);
    }
    // ---- sealed lines ----
    void onlyTheTwoEndsRead() {
        const auto identity = site::newKeys(), desk = site::newKeys(), device = site::newKeys();
        auto a = site::Channel::desk(desk, device.open, identity.open);
        auto b = site::Channel::device(device, identity, desk.open);
        QVERIFY(a.usable() && b.usable());
        for (const std::string text : {"hello", "", "Tern canopy: +3.2 dB"}) {
            const auto box = a.seal(text);
            QVERIFY(box.find("Tern") == std::string::npos);
            QCOMPARE(*b.open(box), text);
        }
        QCOMPARE(*a.open(b.seal("back")), std::string("back"));
        const auto first = a.seal("one"), second = a.seal("two");
        QVERIFY(!b.open(second)); // not in its turn
        QVERIFY(b.open(first) && b.open(second));
        QVERIFY(!b.open(second)); // a second time
        auto spoilt = a.seal("three");
        spoilt[3] = static_cast<char>(spoilt[3] ^ 1);
        QVERIFY(!b.open(spoilt) && !b.open("") && !b.open("short"));
    }
    void nobodyPosesAsTheDevice() {
        const auto identity = site::newKeys(), other = site::newKeys(), desk = site::newKeys(),
                   device = site::newKeys();
        auto a = site::Channel::desk(desk, device.open, identity.open);
        auto b = site::Channel::device(device, other, desk.open); // does not know the identity's secret
        QVERIFY(!b.open(a.seal("password")));
        QVERIFY(!a.open(b.seal("fine")));
        QVERIFY(!site::Channel::desk(desk, site::Key{}, identity.open).usable()); // a key of zeros
        QVERIFY(!site::readKey("short") && !site::readKey(std::string(44, '!')) &&
                site::readKey(site::keyText(identity.open)) == identity.open);
    }
    // ---- passwords ----
    // Against a script of its own (tests/vectors/make-password.py) that works in plain integers.
    void passwordVectors() {
        QFile file(LOOM_SOURCE_DIR "/tests/vectors/password.json");
        QVERIFY(file.open(QIODevice::ReadOnly));
        const auto all = nlohmann::json::parse(file.readAll().toStdString());
        QVERIFY(all.size() >= 5);
        for (const auto& v : all) {
            const auto key = [&](const char* name) { return *site::readKey(v[name]); };
            const site::Secret secret{key("w0"), key("w1")};
            const auto lock = site::lockOf(secret, {});
            QCOMPARE(site::keyText(lock.l), v["l"].get<std::string>());
            const site::PasswordAsker asker(secret, key("line"), key("identity"), key("x"));
            QCOMPARE(asker.share(), v["shareAsker"].get<std::string>());
            const auto check = site::PasswordCheck::begin(lock, key("line"), key("identity"), asker.share(), key("y"));
            QVERIFY(check.has_value());
            QCOMPARE(check->answer().share, v["shareDevice"].get<std::string>());
            QCOMPARE(check->answer().confirm, v["confirmDevice"].get<std::string>());
            const auto proof = asker.answered(check->answer().share, check->answer().confirm);
            QVERIFY(proof && *proof == v["confirmAsker"].get<std::string>());
            QVERIFY(check->proves(*proof) && !check->proves("") && !check->proves(check->answer().confirm));
        }
    }
    void passwordsAreProvedAndNotTold() {
        QVERIFY(!site::lockOf("short") && !site::lockOf(std::string(201, 'x')));
        const auto lock = *site::lockOf("tall grass by the sea");
        const auto text = site::lockText(lock);
        QVERIFY(site::readLock(text) && *site::readLock(text) == lock && text.find("grass") == std::string::npos);
        for (const auto& bad : {std::string(), std::string("spake2+ a b c"), text.substr(0, text.size() - 2),
                                "x" + text, std::string("$argon2id$v=19$m=65536,t=2,p=1$abc$def")})
            QVERIFY2(!site::readLock(bad), bad.c_str());
        const auto right = *site::secretOf("tall grass by the sea", lock.salt),
                   wrong = *site::secretOf("tall grass by the see", lock.salt);
        const auto line = site::newKeys().open, other = site::newKeys().open, identity = site::newKeys().open;
        const site::PasswordAsker asker(right, line, identity), guess(wrong, line, identity);
        const auto check = site::PasswordCheck::begin(lock, line, identity, asker.share());
        const auto proof = asker.answered(check->answer().share, check->answer().confirm);
        QVERIFY(proof && check->proves(*proof));
        // A wrong password, another line, another device, somebody in the device's place.
        const auto tried = site::PasswordCheck::begin(lock, line, identity, guess.share());
        QVERIFY(!guess.answered(tried->answer().share, tried->answer().confirm));
        const auto moved = site::PasswordCheck::begin(lock, other, identity, asker.share());
        QVERIFY(!asker.answered(moved->answer().share, moved->answer().confirm));
        const auto posed = site::PasswordCheck::begin(lock, line, other, asker.share());
        QVERIFY(!asker.answered(posed->answer().share, posed->answer().confirm));
        const auto impostor = site::PasswordCheck::begin(*site::lockOf("another one"), line, identity, asker.share());
        QVERIFY(!asker.answered(impostor->answer().share, impostor->answer().confirm));
        for (const auto& bad : {std::string(), site::keyText({}), std::string(44, '!'), site::keyText(line)})
            if (bad != site::keyText(line)) // a random key is a point now and then
                QVERIFY2(!site::PasswordCheck::begin(lock, line, identity, bad), bad.c_str());
        QVERIFY(asker.share() != site::PasswordAsker(right, line, identity).share());
    }
    // ---- events, vitals, scenarios ----
    void eventsAreBoundedFilteredAndSaved() {
        site::EventLog log;
        for (std::size_t i = 0; i < site::EventLog::most + 5; ++i)
            log.add({"2026-11-09T10:00:00Z", "Heddle", "", "event " + std::to_string(i), i % 2 == 0});
        QCOMPARE(log.size(), site::EventLog::most);
        QCOMPARE(log.matching("heddle EVENT 77", false).front().what, std::string("event 77"));
        QVERIFY(log.matching("77", true).size() < log.matching("77", false).size());
        const auto csv = site::EventLog::csv({{"t", "=cmd", "who", "says \"no\", twice", true}});
        QVERIFY(csv.find("\"'=cmd\"") != std::string::npos &&
                csv.find("\"says \"\"no\"\", twice\",yes\r\n") != std::string::npos);
    }
    void vitalsBecomeWords() {
        const auto word = [](const char* text) {
            project::DeviceReport r;
            r.paired = r.reachable = true;
            const auto v = schema::fromJson<site::Vitals>(nlohmann::json::parse(text));
            r.vitals = v ? *v : site::Vitals{};
            return project::wordOf(r).word;
        };
        QCOMPARE(word("{}"), std::string("well"));
        QCOMPARE(word("7"), std::string("well"));
        QCOMPARE(word(R"({"temperature": 82})"), std::string("hot"));
        QCOMPARE(word(R"({"clip": true})"), std::string("clips"));
        QCOMPARE(word(R"({"clockLost": true, "clip": true})"), std::string("no clock"));
        QCOMPARE(word(R"({"outputs": {"out 1": "good", "out 2": "open"}})"), std::string("output open"));
    }
    void scenariosAreReadWithCare() {
        const auto error = [](const char* text) {
            const auto s = site::scenarioFromJson(nlohmann::json::parse(text));
            return s ? std::string() : s.error().place + ": " + s.error().message;
        };
        QCOMPARE(error(R"({"devices":[{"serial":"1","model":"tap","address":"127.20.4.9"}],"steps":[]})"),
                 std::string());
        QVERIFY(error("7").find("object") != std::string::npos);
        QVERIFY(error(R"({"devices":[{"serial":"1","model":"tap","address":"here"}]})").find("/devices/0/address") ==
                0);
        QVERIFY(error(R"({"steps":[{"device":"1","at":-3}]})").find("/steps/0/at") == 0);
        QVERIFY(
            error(R"({"devices":[{"serial":"1","model":"tap","address":"127.20.4.9","faults":7}]})").find("faults") !=
            std::string::npos);
        const auto demo = site::deliveredFor(*test::load(LOOM_SOURCE_DIR "/demo/marram-point"));
        QVERIFY(demo.devices.size() > 10);
        std::set<std::string> serials;
        for (const auto& d : demo.devices)
            QVERIFY(serials.insert(d.serial).second && !d.prepared);
    }
    void keysOfSound() {
        const auto key = site::newAudioKey(), other = site::newAudioKey();
        QVERIFY(key != other && site::audioKeyPrint(key) != site::audioKeyPrint(other));
        const site::Salt salt{1, 2, 3}, elsewhere{1, 2, 4};
        const auto typed = site::audioKeyFrom("a long way to the sea", salt),
                   again = site::audioKeyFrom("a long way to the sea", salt);
        QVERIFY(typed && again && *typed == *again && *typed != *site::audioKeyFrom("a long way to the sky", salt));
        QVERIFY(*typed != *site::audioKeyFrom("a long way to the sea", elsewhere)); // another project's
        QVERIFY(!site::audioKeyFrom("short", salt));
    }
    void linksSayWhetherTheyAreEncrypted() {
        auto p = hall();
        auto desk = planned("desk", "heddle-16", "Desk", "127.20.4.10"),
             amplifier = planned("amp", "treadle-4", "Amp", "127.20.4.11");
        const auto stream = [](const char* id) {
            project::Stream s;
            s.id = s.name = id;
            s.ports = {"net 1"};
            return s;
        };
        p.device("a")->streams = {stream("left")};
        p.device("b")->streams = {stream("right")};
        desk.streams = {stream("mix")};
        desk.receivers = {{"1", {"net 1"}, {"a/left"}}, {"2", {"net 2"}, {"b/right"}}};
        amplifier.receivers = {{"1", {"net 1"}, {"desk/mix"}}};
        amplifier.feeds = {{"in 1", "desk/out 1"}};
        p.devices.push_back(desk), p.devices.push_back(amplifier), p.devices.push_back(planned("t", "tap", "Tap", ""));
        using How = site::SoundLink::How;
        const auto hows = [&](const site::KeyPrints& prints) {
            std::vector<How> all;
            for (const auto& l : site::soundLinks(p, prints))
                all.push_back(l.how);
            return all;
        };
        QVERIFY(hows({}) == (std::vector{How::unknown, How::unknown, How::unknown, How::cable}));
        QVERIFY(hows({{"a", ""}, {"b", "01"}, {"desk", "01"}, {"amp", "02"}}) ==
                (std::vector{How::broken, How::encrypted, How::broken, How::cable}));
        QVERIFY(hows({{"a", ""}, {"b", ""}, {"desk", ""}}) ==
                (std::vector{How::open, How::open, How::unknown, How::cable}));
        QVERIFY(site::withoutSound(p) == (std::vector<std::string>{"c", "t"}));
    }
    // A stream that only the design has, and a receiver that only the device has: both are rows, and settle.
    void soundIsSettledLikeSetUp() {
        auto d = planned("desk", "heddle-16", "Desk", "127.20.4.10"), there = d;
        project::Stream s;
        s.id = s.name = "mix", s.ports = {"net 1"};
        d.streams = {s};
        there.receivers = {{"far", {"net 4"}, {"other/talk"}}};
        const auto design = site::designOf({}, d), device = site::designOf({}, there);
        auto rows = site::rowsOf(design, device, nullptr, site::Standing::current, {});
        QCOMPARE(rows.size(), std::size_t(2));
        QVERIFY(rows[0].key == "setUp/receiver far" && rows[1].key == "setUp/stream mix");
        QVERIFY(rows[0].difference.design == "\u2014" && rows[0].difference.device == "other/talk on net 4");
        for (auto& r : rows)
            r.take = site::Take::design;
        const auto told = site::settled(design, device, rows);
        QCOMPARE(told.setUp.at("receiver far"), std::string()); // it is to go
        QCOMPARE(site::fingerprint(told), site::fingerprint(design));
        rows[0].take = site::Take::device;
        QVERIFY(site::settled(design, device, rows).setUp.at("receiver far").find("other/talk") != std::string::npos);
        // Who changed what, against what was last sent.
        const auto last = site::designOf({}, d);
        auto moved = d;
        moved.streams[0].levelDb = -6;
        const auto since = site::rowsOf(design, site::designOf({}, moved), &last, site::Standing::current, {});
        QVERIFY(since.size() == 1 && since[0].difference.changed == project::Changed::there &&
                since[0].take == site::Take::device);
    }
    void foundOnesTellTheirRoom() {
        auto p = hall();
        project::Room tern, annexe;
        tern.id = "tern", tern.name = "Tern Room", annexe.id = "annexe", annexe.name = "Tern Room Annexe";
        annexe.subnet = "127.20.8.0/24";
        p.buildings = {{"house", "House", {tern, annexe}}};
        QCOMPARE(site::likelyRoom(p, found("1", "tap", "127.20.4.9", "Tern Room tap 1")), std::string("tern"));
        QCOMPARE(site::likelyRoom(p, found("1", "tap", "127.20.4.9", "Tern Room Annexe tap")), std::string("annexe"));
        QCOMPARE(site::likelyRoom(p, found("1", "tap", "127.20.8.9", "Tap")), std::string("annexe"));
        QCOMPARE(site::likelyRoom(p, found("1", "tap", "127.20.4.9", "Tap")), std::string());
        p.buildings.change(0).rooms.change(0).subnet = "127.20.0.0/16"; // two would do
        QCOMPARE(site::likelyRoom(p, found("1", "tap", "127.20.8.9", "Tap")), std::string());
    }
    void anAddressAtRandomIsFree() {
        const auto p = hall();
        const auto subnet = *site::readSubnet("127.20.4.16/28");
        const std::vector<DiscoveredDevice> all{found("1", "tap", "127.20.4.17"), found("2", "tap", "127.20.4.18")};
        std::set<std::string> seen;
        for (std::uint32_t dice = 0; dice < 100; ++dice) {
            const auto a = site::randomAddress(p, all, all[0], subnet, dice);
            QVERIFY(subnet.holds(a) && a != "127.20.4.18" && a != "127.20.4.20" && a != "127.20.4.21");
            seen.insert(a);
        }
        QCOMPARE(seen.size(), 10u); // 14 hosts without one found and three planned
    }
};
LOOM_TEST(tst_site, TestSite)
#include "tst_site.moc"
