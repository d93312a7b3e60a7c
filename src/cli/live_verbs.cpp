#include "cli/live_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "client/fleet.h"
#include "client/socket_network.h"
#include "disk/safe_file.h"
#include "patch/outside.h"
#include "voicings/voicing_edit.h"
#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QTimer>
#include <cstdio>

namespace loom::cli {
namespace live_verbs { // of this file

using namespace project;
using client::Member;
using nlohmann::json;

struct Call : OnSite {
    std::string file, device, serial, address, path, take;
    std::vector<std::string> devices;
    double value = 0;
    int revision = 0;
    bool asJson = false;
};

// The project of a verb: what devices change in it is saved at the end.
class FileDesign : public client::PlainDesign {
  public:
    using PlainDesign::PlainDesign;
    void say(const std::string& text, bool bad) override {
        if (quiet && !bad)
            return;
        bad ? void(std::cerr << "loomctl: " << text << "\n") : void(std::cout << text << "\n");
        failed = failed || bad;
    }
    bool failed = false, quiet = false;
};

// A network, a project and the devices on them, for as long as one verb takes.
class Desk {
  public:
    explicit Desk(const Call& call) : call_(call), app_(argc_, argv_) {}

    Result<Done> begin() {
        const auto range = site::readSubnet(call_.range);
        if (!range)
            return Error{"is no range", call_.range, "Type one such as 127.20.4.0/24."};
        Project p;
        if (!call_.file.empty()) {
            auto loaded = loadProject(call_.file, shelf());
            if (!loaded)
                return loaded.error();
            p = std::move(*loaded);
        }
        for (const auto& id : call_.devices)
            if (!std::as_const(p).device(id))
                return Error{"there is no such device", id, "loomctl info lists devices."};
        design_ = std::make_shared<FileDesign>(std::move(p), shelf());
        design_->quiet = call_.asJson;
        fleet_ = std::make_unique<client::Fleet>(std::make_shared<client::SocketNetwork>(&app_), design_,
                                                 client::Tickets(client::Tickets::usualPath()));
        design_->changed = [this](const Change& c) { fleet_->follow(c); };
        fleet_->discovery().setPort(static_cast<std::uint16_t>(call_.port));
        fleet_->look(*range);
        return Done{};
    }
    // Runs until it is so, or the time that the verb has is over.
    bool wait(const std::function<bool()>& done, double seconds = 0) {
        QElapsedTimer clock;
        clock.start();
        const double most = (seconds > 0 ? seconds : call_.seconds) * 1000;
        while (!done() && static_cast<double>(clock.elapsed()) < most) {
            QEventLoop turn;
            QTimer::singleShot(10, &turn, &QEventLoop::quit);
            turn.exec();
        }
        return done();
    }
    std::vector<std::string> meant() const {
        std::vector<std::string> ids = call_.devices;
        if (ids.empty())
            for (const auto& d : design_->project().devices)
                if (!d.serial.empty())
                    ids.push_back(d.id);
        return ids;
    }
    // Their lines are up, their passwords given, and what they run is known.
    Result<Done> reach() {
        const auto ids = meant();
        if (ids.empty())
            return Error{"no device is paired", call_.file, "loomctl pair-all pairs those that are found."};
        const auto lost = [&](bool config) {
            for (const auto& id : ids) {
                const auto* m = std::as_const(*fleet_).member(id);
                if (!m || !m->link.up() || (config && !m->locked && (!m->config || !m->state)))
                    return id;
            }
            return std::string();
        };
        if (!wait([&] { return lost(false).empty(); }))
            return Error{"does not answer", lost(false), "Look at its power, cable and address; loomctl find tells."};
        if (std::any_of(ids.begin(), ids.end(),
                        [&](const auto& id) { return std::as_const(*fleet_).member(id)->locked; })) {
            const auto word = password();
            if (!word)
                return word.error();
            fleet_->unlock(*word);
            const auto locked = [&] {
                for (const auto& id : ids)
                    if (const auto* m = std::as_const(*fleet_).member(id); !m || m->locked)
                        return id;
                return std::string();
            };
            if (!wait([&] { return locked().empty() || design_->failed; }, 20) || !locked().empty())
                return Error{"is sealed", locked(), "Give the room's password with --password-file."};
        }
        if (!wait([&] { return lost(true).empty(); }))
            return Error{"does not tell what it runs", lost(true), "Try again."};
        return Done{};
    }
    Result<std::string> password() const {
        if (call_.passwordFile.empty())
            return Error{"needs the room's password", "", "Give a file that holds it with --password-file."};
        auto text = readWhole(call_.passwordFile, 4096);
        if (text)
            while (!text->empty() && (text->back() == '\n' || text->back() == '\r'))
                text->pop_back();
        return text;
    }
    bool workEnds() {
        return wait([&] { return !fleet_->work().running(); }, 60);
    }
    int end() {
        if (design_->touched && !call_.file.empty())
            if (auto saved = saveProject(design_->project(), call_.file); !saved)
                return fail(saved.error());
        return design_->failed ? 2 : 0;
    }
    client::Fleet& fleet() { return *fleet_; }
    FileDesign& design() { return *design_; }

  private:
    const Call& call_;
    int argc_ = 1;
    char name_[8] = "loomctl";
    char* argv_[2] = {name_, nullptr};
    QCoreApplication app_;
    std::shared_ptr<FileDesign> design_;
    std::unique_ptr<client::Fleet> fleet_;
};

// Looks for as long as the verb may, or until its devices can be asked, and then does `what`.
enum class Until { timeIsOver, reached };
int atDesk(const Call& c, Until until, const std::function<int(Desk&)>& what) {
    Desk desk(c);
    auto done = desk.begin();
    if (done && until == Until::reached)
        done = desk.reach();
    else if (done)
        desk.wait([] { return false; });
    return done ? what(desk) : fail(done.error());
}

int find(const Call& c) {
    return atDesk(c, Until::timeIsOver, [&](Desk& desk) {
        json all = json::array();
        for (const auto& f : desk.fleet().found()) {
            all.push_back(schema::toJson(f));
            all.back()["print"] = site::printOf(f.identity);
            if (!c.asJson)
                std::printf("%-10s %-15s %-18s %s  %-24s %s\n", f.serial.c_str(), f.address.c_str(),
                            f.modelName.c_str(), site::printOf(f.identity).c_str(), f.name.c_str(),
                            f.sealed  ? "sealed"
                            : f.fresh ? "fresh"
                                      : "");
        }
        json findings = json::array();
        if (!c.file.empty())
            for (const auto& f : desk.fleet().findings()) {
                findings.push_back({{"code", f.id()},
                                    {"device", f.device},
                                    {"serial", f.serial},
                                    {"reason", f.reason},
                                    {"remedy", f.remedy},
                                    {"address", f.address},
                                    {"fix", f.fix()}});
                if (!c.asJson)
                    std::printf("%s: %s %s\n", f.fix() ? "to fix" : "to note", f.reason.c_str(), f.remedy.c_str());
            }
        return c.asJson ? say({{"found", all}, {"findings", findings}}) : 0;
    });
}

// Gives an address; or, without one, cures every address that is wrong for the project.
int address(const Call& c) {
    return atDesk(c, Until::timeIsOver, [&](Desk& desk) {
        auto& fleet = desk.fleet();
        if (!c.serial.empty()) {
            fleet.readdress(c.serial, c.address);
            desk.wait([&] { return !fleet.askedSomething(); }, 8);
            return desk.end();
        }
        for (int round = 0; round < 50; ++round) { // one after another: each answer may change what is proposed next
            const auto all = fleet.findings();
            const auto next = std::find_if(all.begin(), all.end(), [](const auto& f) {
                return f.cure == site::SiteFinding::Cure::readdress && !f.address.empty();
            });
            if (next == all.end())
                break;
            const auto serial = next->serial, to = next->address;
            fleet.readdress(serial, to);
            desk.wait(
                [&] {
                    const auto it = fleet.discovery().found().find(serial);
                    return (it != fleet.discovery().found().end() && it->second.address == to) || desk.design().failed;
                },
                10);
            if (desk.design().failed)
                break;
        }
        return desk.end();
    });
}

int pairAll(const Call& c) {
    return atDesk(c, Until::timeIsOver, [&](Desk& desk) {
        using site::PairBy;
        desk.fleet().pairAll({PairBy::serial, PairBy::name, PairBy::address, PairBy::model});
        return desk.end();
    });
}

int differences(const Call& c) {
    return atDesk(c, Until::reached, [&](Desk& desk) {
        json all = json::array();
        for (const auto& id : desk.meant())
            for (const auto& r : std::as_const(desk.fleet()).member(id)->rows) {
                const char* take = r.take == site::Take::open     ? "open"
                                   : r.take == site::Take::device ? "device"
                                                                  : "design";
                all.push_back({{"device", id},
                               {"key", r.key},
                               {"what", r.difference.what},
                               {"design", r.difference.design},
                               {"there", r.difference.device},
                               {"take", take}});
                if (!c.asJson)
                    std::printf("%-20s %-40s design %-14s there %-14s takes %s\n", id.c_str(),
                                r.difference.what.c_str(), r.difference.design.c_str(), r.difference.device.c_str(),
                                take);
            }
        (void)desk.end();
        return c.asJson ? say(all) : 0;
    });
}

int tryIt(const Call& c) {
    if (!c.take.empty() && c.take != "design" && c.take != "device")
        return fail({"takes design or device", c.take, ""});
    return atDesk(c, Until::reached, [&](Desk& desk) {
        if (!c.take.empty())
            desk.fleet().chooseAll(desk.meant(), c.take == "design" ? site::Take::design : site::Take::device, true);
        desk.fleet().tryNow(desk.meant());
        desk.workEnds();
        return desk.end();
    });
}

int keep(const Call& c) {
    return atDesk(c, Until::reached, [&](Desk& desk) {
        desk.fleet().keep(desk.meant());
        desk.workEnds();
        return desk.end();
    });
}

int goBack(const Call& c) {
    Call on = c;
    on.devices = {c.device};
    return atDesk(on, Until::reached, [&](Desk& desk) {
        auto& fleet = desk.fleet();
        fleet.goBack(c.device, c.revision);
        desk.wait([&] { return std::as_const(fleet).member(c.device)->link.waiting() == 0; }, 6);
        return desk.end();
    });
}

// What one device is told of conversations; done when it has answered.
int tellOne(const Call& c, const std::function<void(client::Fleet&)>& tell) {
    Call on = c;
    on.devices = {c.device};
    return atDesk(on, Until::reached, [&](Desk& desk) {
        auto& fleet = desk.fleet();
        tell(fleet);
        desk.wait([&] { return std::as_const(fleet).member(c.device)->link.waiting() == 0; }, 6);
        return desk.end();
    });
}
int callLine(const Call& c) {
    return tellOne(c, [&](client::Fleet& fleet) { fleet.call(c.device, c.path, c.take, c.serial); });
}
int muteSpace(const Call& c) {
    return tellOne(c, [&](client::Fleet& fleet) { fleet.mute(c.device, c.path, c.take == "on"); });
}
int lineSecret(const Call& c) {
    auto text = readWhole(c.path, 4096);
    if (!text)
        return fail(text.error());
    const auto secret = text->substr(0, text->find_first_of("\r\n"));
    return tellOne(c, [&](client::Fleet& fleet) { fleet.setLineSecret(c.device, secret); });
}

// One value, into the project and onto the device at once.
int live(const Call& c) {
    Call on = c;
    on.devices = {c.path.substr(0, c.path.find('/'))};
    return atDesk(on, Until::reached, [&](Desk& desk) {
        auto& fleet = desk.fleet();
        fleet.setLive(true);
        desk.design().edit(setValue(desk.design().project(), c.path, c.value));
        const auto* m = std::as_const(fleet).member(on.devices.front());
        desk.wait([&] { return m->onTheWay.empty(); }, 6);
        fleet.setLive(false);
        return desk.end();
    });
}

// What is announced by others on this network.
int announced(const Call& c) {
    return atDesk(c, Until::timeIsOver, [&](Desk& desk) {
        json all = json::array();
        const auto& p = desk.design().project();
        for (const auto& entry : announcedByOthers(patchedOf(p), desk.fleet().announcements().known())) {
            const auto& d = entry.description;
            all.push_back({{"name", d.name},
                           {"source", entry.source},
                           {"address", d.address},
                           {"port", d.port},
                           {"channels", d.format.channels},
                           {"encrypted", d.sealed},
                           {"sdp", stream::sdpText(d)}});
            if (!c.asJson)
                std::printf("%-24s %-15s %s:%d, %d channels%s\n", d.name.c_str(), entry.source.c_str(),
                            d.address.c_str(), d.port, d.format.channels, d.sealed ? ", encrypted" : "");
        }
        return c.asJson ? say(all) : 0;
    });
}

int seal(const Call& c) {
    return atDesk(c, Until::reached, [&](Desk& desk) {
        const auto word = desk.password();
        if (!word)
            return fail(word.error());
        bool done = false;
        desk.fleet().seal(desk.meant(), *word, [&done] { done = true; });
        if (!desk.wait([&] { return done; }, 60))
            return fail({"did not end", c.file, "loomctl find tells which devices are sealed."});
        return desk.end();
    });
}

int powerCycle(const Call& c) {
    return atDesk(c, Until::reached, [&](Desk& desk) {
        const auto ids = desk.meant();
        auto& fleet = desk.fleet();
        const auto up = [&](bool want) {
            return [&fleet, ids, want] {
                return std::all_of(ids.begin(), ids.end(), [&](const auto& id) {
                    const auto* m = std::as_const(fleet).member(id);
                    return m && m->link.up() == want;
                });
            };
        };
        fleet.powerCycle(ids);
        desk.wait(up(false), 6);
        if (!desk.wait(up(true), 20))
            return fail({"did not come back", c.file, "loomctl find tells who is there."});
        return desk.end();
    });
}

} // namespace live_verbs

void addOnSite(CLI::App& v, OnSite& at) {
    v.add_option("--range", at.range, "Where they are")->capture_default_str();
    v.add_option("--port", at.port, "Their port")->capture_default_str();
    v.add_option("--seconds", at.seconds, "How long to look")->capture_default_str()->check(CLI::Range(0.1, 600.0));
    v.add_option("--password-file", at.passwordFile, "A file with the room's password, for sealed devices");
}

int editOnSite(const std::string& file, const std::string& device, const OnSite& at, bool asJson,
               const std::function<Result<project::Edit>(const project::Project&)>& make) {
    using namespace live_verbs;
    Call on;
    on.file = file;
    on.devices = {device};
    on.asJson = asJson;
    static_cast<OnSite&>(on) = at;
    return atDesk(on, Until::reached, [&](Desk& desk) {
        auto edit = make(desk.design().project());
        if (!edit)
            return fail(edit.error());
        auto& fleet = desk.fleet();
        fleet.setLive(true);
        asJson ? void(say({{"done", edit->text}})) : void(std::printf("%s\n", edit->text.c_str()));
        desk.design().edit(std::move(*edit));
        const auto* m = std::as_const(fleet).member(device);
        if (!desk.wait([&] { return m->onTheWay.empty(); }, 6))
            return fail({"did not answer", device, "loomctl find tells who is there."});
        fleet.setLive(false);
        return desk.end();
    });
}

void addLiveVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace live_verbs;
    static Call call;
    enum Needs { range, project, devices };
    const auto verb = [&](const char* name, const char* text, const char* example, int (*run)(const Call&),
                          Needs needs) {
        auto* v = addVerb(app, action, call, name, text, example, run);
        if (needs != range)
            v->add_option("FILE", call.file, "Project")->required();
        if (needs == devices)
            v->add_option("DEVICE", call.devices, "Ids; without any, all that are paired");
        addOnSite(*v, call);
        v->add_flag("--json", call.asJson, "As JSON");
        return v;
    };
    auto* v = verb("find", "Looks for devices; with a project also what is wrong on its network",
                   "loomctl find --range 127.20.4.0/24 --project hall.loom", find, range);
    v->add_option("--project", call.file, "Project");
    v = verb("announced", "Streams that others announce on this network", "loomctl announced --seconds 12", announced,
             range);
    v->add_option("--project", call.file, "Project: what it offers itself is left out");
    v = verb("address", "Gives a device another address; without a serial number, cures those that are wrong",
             "loomctl address hall.loom 1177A0 127.20.4.20", address, project);
    v->add_option("SERIAL", call.serial, "Serial number");
    v->add_option("ADDRESS", call.address, "Its new address");
    verb("pair-all", "Pairs planned devices with found ones that fit for certain", "loomctl pair-all hall.loom",
         pairAll, project);
    verb("differences", "Where devices hold something else than the design", "loomctl differences hall.loom heddle",
         differences, devices);
    v = verb("try", "Devices run the design; lost at power-off", "loomctl try hall.loom --take design", tryIt, devices);
    v->add_option("--take", call.take, "design or device, where both sides changed");
    verb("keep", "What runs survives power-off", "loomctl keep hall.loom", keep, devices);
    v = verb("go-back", "A device runs an earlier revision", "loomctl go-back hall.loom heddle 3", goBack, project);
    v->add_option("DEVICE", call.device, "Its id")->required();
    v->add_option("REVISION", call.revision, "As loomctl or Site tells")->required();
    v = verb("live", "Sets one value in the project and on the device", "loomctl live hall.loom heddle/chair.level -3",
             live, project);
    v->add_option("PATH", call.path, "Parameter")->required();
    v->add_option("VALUE", call.value, "In its unit")->required();
    verb("seal", "Devices need the room's password from now on", "loomctl seal hall.loom --password-file room.txt",
         seal, devices);
    v = verb("call", "A telephone line dials, answers, holds, resumes, sends keys or hangs up",
             "loomctl call hall.loom heddle \"tel 1\" dial 2041", callLine, project);
    v->add_option("DEVICE", call.device, "A device")->required();
    v->add_option("PORT", call.path, "Its line")->required();
    v->add_option("DOES", call.take, "dial, answer, hold, resume, keys or hang-up")->required();
    v->add_option("NUMBER", call.serial, "To dial, or keys");
    v = verb("mute", "Mutes a space on its devices, everywhere, or lets it be heard again",
             "loomctl mute hall.loom heddle council on", muteSpace, project);
    v->add_option("DEVICE", call.device, "One that takes part in the mute")->required();
    v->add_option("SPACE", call.path, "A room, or rooms joined by \"+\"")->required();
    v->add_option("STATE", call.take, "on or off")->required()->check(CLI::IsMember({"on", "off"}));
    v = verb("line-secret", "Gives a device the secret of its lines' account, from a file; it is kept there alone",
             "loomctl line-secret hall.loom heddle secret.txt", lineSecret, project);
    v->add_option("DEVICE", call.device, "A device")->required();
    v->add_option("SECRET", call.path, "A file whose first line it is")->required();
    verb("power-cycle", "Off, and on again with what is kept", "loomctl power-cycle hall.loom heddle", powerCycle,
         devices);
}

} // namespace loom::cli
