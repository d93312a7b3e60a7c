// Random fault scripts on Site: a desk and three devices each, with power cuts, cables out, delay, loss, failing
// stores, taken addresses, passwords, values turned on both sides, tries, keeps and goings back, all drawn from a seed.
// After each script the faults end and it is held to:
//   - no edit of the desk was lost,
//   - every device runs, and keeps, a whole program or none,
//   - design and device agree, or the desk shows exactly where they do not,
//   - the desk's thread was never away for a second.
// Prints every script that failed with its seed, and totals; ends with 1 if any failed.
//   QT_QPA_PLATFORM=offscreen bench/fault_campaign [--scripts 500] [--seconds 60] [--together 25] [--seed 1]
#include "app/site/embedded_rig.h"
#include "app/site/fleet.h"
#include "file/store.h"
#include "models.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <cstdio>
#include <random>

using namespace loom;
using namespace loom::app;
using nlohmann::json;

namespace {

constexpr const char* password = "tall grass by the sea";

class Script {
  public:
    Script(unsigned seed, int slot, const QString& folder) : seed_(seed), random_(seed) {
        const quint16 port = static_cast<quint16>(21500 + slot);
        QDir().mkpath(folder);
        project::Project p;
        p.name = "Script";
        const char* models[] = {"heddle-8", "canopy-8", "tap"};
        for (int i = 0; i < 3; ++i) {
            project::Device d;
            d.models = test::models();
            d.id = ids_[i];
            d.name = ids_[i];
            d.model = models[i];
            d.address = address(slot, i);
            if (i == 0) {
                engine::Program program;
                program.blocks = {{"tone", "generator", "Tone"},
                                  {"eq", "eq", ""},
                                  {"level", "level", ""},
                                  {"out", "destination", "Out", {}, {}, {{"port", "out 1"}}}};
                program.connections = {{{"tone", 0}, {"eq", 0}}, {{"eq", 0}, {"level", 0}}, {{"level", 0}, {"out", 0}}};
                d.program = program;
            }
            p.devices.push_back(d);
        }
        rig_ = std::make_unique<EmbeddedRig>(test::models(), p, folder.toStdString(), port);
        for (const auto& d : site::deliveredFor(p).devices) {
            serials_.push_back(d.serial);
            addresses_.push_back(d.address);
        }
        const QString file = folder + "/script.loom";
        if (!project::saveProject(p, file.toStdString()) || !session_.open(file))
            wrong("the project could not be opened");
        QObject::connect(&session_, &Session::said, [this](const QString& t) { said_ = t; });
        fleet_.discovery().setPort(port);
        fleet_.look(*site::readSubnet(address(slot, 0) + "/24"));
        slot_ = slot;
    }

    void pair() { fleet_.pairAll({site::PairBy::address}); }

    // One thing happens.
    void step() {
        const int device = pick(3);
        const auto& serial = serials_[static_cast<std::size_t>(device)];
        const std::string id = ids_[device];
        switch (pick(30)) {
        case 0:
        case 1:
        case 2:
            return edit();
        case 3:
            return ++did["try all"], fleet_.tryNow({ids_[0], ids_[1], ids_[2]});
        case 4:
            return ++did["try one"], fleet_.tryNow({id});
        case 5:
            return ++did["keep"], fleet_.keep({ids_[0], ids_[1], ids_[2]});
        case 6:
            return settle();
        case 7:
            return fleet_.setLive(!fleet_.live());
        case 8:
            return back(id);
        case 9:
            return fault(serial, "power", pick(3) ? "on" : "off");
        case 10:
            return fault(serial, "cable", pick(3) ? "in" : "out");
        case 11:
            return fault(serial, "delay", pick(400));
        case 12:
            return fault(serial, "loss", pick(3) ? 0.0 : 0.2);
        case 13:
            return fault(serial, "store", pick(2) ? "good" : pick(2) ? "full" : "failing");
        case 14:
            return fault(serial, "temperature", pick(2) ? 80 : 0);
        case 15:
            return fault(serial, "clock", pick(2) == 1);
        case 16:
            return turn(device);
        case 17:
            return turn(device);
        case 18:
            return fault(serial, "address", addresses_[static_cast<std::size_t>(pick(3))]);
        case 19:
            return cure();
        case 20:
            return fault(serial, "password", pick(2) ? "" : password);
        case 21:
            return fleet_.unlock(pick(4) ? password : "something else");
        case 22:
            return fleet_.powerCycle({id});
        case 23:
            return fault(serial, "press", true);
        case 24:
            return ++did["keep"], fleet_.keep({id});
        case 25:
            return ++did["try all"], settle(), fleet_.tryNow({ids_[0], ids_[1], ids_[2]});
        case 26:
            return fault(serial, "power", "off");
        case 27:
            return fault(serial, "power", "on");
        case 28:
            return fault(serial, "cable", "in");
        default:
            return edit();
        }
    }

    void endFaults() {
        fleet_.work().cancel();
        for (std::size_t i = 0; i < 3; ++i) {
            for (const auto& [name, value] : {std::pair<const char*, json>{"cable", "in"},
                                              {"delay", 0},
                                              {"loss", 0.0},
                                              {"store", "good"},
                                              {"temperature", 0},
                                              {"clock", false},
                                              {"password", ""},
                                              {"power", "on"},
                                              {"address", addresses_[i]}})
                fault(serials_[i], name, value);
        }
    }

    bool settled() {
        for (const char* id : ids_) {
            const auto* m = std::as_const(fleet_).member(id);
            if (!m || !m->link.up() || m->locked || !m->config || m->link.waiting() > 2)
                return false;
        }
        return !fleet_.work().running();
    }

    void judge() {
        if (!settled())
            return wrong("not all devices came back");
        for (const auto& [path, value] : edits_) {
            const auto at = project::findTarget(session_.project(), path);
            const auto it = at ? at->block->values.find(at->param) : decltype(at->block->values.begin()){};
            if (!at || it == at->block->values.end() || it->second != value)
                wrong("an edit was lost: " + path);
        }
        for (const auto& [id, text] : lamps_)
            if (session_.project().device(id)->lampLive != text)
                wrong("an edit was lost: lamp of " + id);
        for (int i = 0; i < 3; ++i) {
            site::Config runs, kept;
            bool keeps = false;
            rig_->with([&](rig::Rig& r) {
                const auto& d = r.server(serials_[static_cast<std::size_t>(i)])->device();
                runs = d.running();
                if (const auto* k = d.store().kept()) {
                    kept = k->config;
                    keeps = true;
                }
            });
            const auto whole = [&](const site::Config& c) {
                return !c.program || (i == 0 && c.program->blocks.size() == 4 && c.program->connections.size() == 3);
            };
            if (!whole(runs) || (keeps && !whole(kept)))
                wrong(std::string(ids_[i]) + " holds half a program");
            const auto design = site::designOf(session_.project(), *session_.project().device(ids_[i]));
            std::set<std::string> shown, real;
            for (const auto& row : std::as_const(fleet_).member(ids_[i])->rows)
                shown.insert(row.key);
            for (const auto& d : site::differences(design, runs, nullptr))
                real.insert(site::keyOf(d));
            if (shown != real) {
                std::string text = std::string(ids_[i]) + " differs in other places than are shown; shown:";
                for (const auto& key : shown)
                    text += " " + key;
                text += "; real:";
                for (const auto& key : real)
                    text += " " + key;
                wrong(text + "; heard last: " + std::as_const(fleet_).member(ids_[i])->print);
            }
        }
    }

    // What the desk knows of each device, whenever it is another thing than before.
    void trace() {
        for (const char* id : ids_) {
            const auto* m = std::as_const(fleet_).member(id);
            const auto* d = session_.project().device(id);
            const auto lamp = [](const std::optional<site::Config>& c) {
                return c && c->setUp.count("lampLive") ? c->setUp.at("lampLive") : std::string("-");
            };
            std::string now;
            if (m && d) {
                now = std::string(id) + ": design " + d->lampLive + ", device " + lamp(m->config) + ", agreed " +
                      lamp(m->agreed) + " at " + std::to_string(m->agreedRevision) + " boot " + m->agreedBoot +
                      ", up " + std::to_string(m->link.up()) + ", live " + std::to_string(fleet_.live()) + ", runs " +
                      std::to_string(m->runningRevision()) + ", keeps " + std::to_string(m->keptRevision()) +
                      ", boot " + (m->state ? m->state->boot : "") + ", rows";
                for (const auto& r : m->rows)
                    now += " " + r.key +
                           (r.take == site::Take::device   ? "<"
                            : r.take == site::Take::design ? ">"
                                                           : "?");
            }
            if (now != traced_[id])
                std::printf("%s\n", now.c_str());
            traced_[id] = now;
        }
    }
    const std::vector<std::string>& errors() const { return errors_; }
    unsigned seed() const { return seed_; }
    int revisions() {
        int n = 0;
        rig_->with([&](rig::Rig& r) {
            for (const auto& s : r.servers())
                n += static_cast<int>(s->device().store().revisions().size());
        });
        return n;
    }
    std::map<std::string, std::string> traced_;
    std::map<std::string, int> did; // how often what happened

  private:
    static std::string address(int slot, int i) {
        return "127.21." + std::to_string(slot) + "." + std::to_string(20 + i);
    }
    int pick(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    void wrong(const std::string& what) { errors_.push_back(what); }
    void fault(const std::string& serial, const std::string& name, const json& value) {
        ++did[name + (value.is_string() && (name == "power" || name == "cable") ? " " + value.get<std::string>() : "")];
        rig_->with([&](rig::Rig& r) {
            if (const auto done = r.setFault(serial, name, value);
                !done && name != "turn" && name != "password") // neither where it has no program, nor into a full store
                wrong("fault " + name + ": " + done.error().text());
        });
    }
    // The desk sets what only the desk sets.
    void edit() {
        ++did["edit"];
        if (pick(2)) {
            const double value = -30 + pick(300) / 10.0;
            if (session_.set("level", "gain", value))
                edits_["desk/level.gain"] = session_.program()->find("level")->values.at("gain");
        } else {
            const std::string id = ids_[1 + pick(2)], colour = "colour " + std::to_string(pick(1000));
            session_.edit(project::changeDevice(id, "lamp", [colour](project::Device& d) { d.lampLive = colour; }));
            lamps_[id] = colour;
        }
    }
    // Somebody at the device sets what the desk does not set.
    void turn(int i) {
        if (i == 0)
            fault(serials_[0], "turn", {{"eq.2.gain", pick(100) / 10.0}});
        else
            fault(serials_[static_cast<std::size_t>(i)], "setUp",
                  {{"timeServer", "time " + std::to_string(pick(1000))}});
    }
    // A person at the desk: their own values are the design's, the others as it comes.
    void settle() {
        for (const auto* m : fleet_.members())
            for (const auto& row : std::vector<site::Row>(m->rows))
                fleet_.choose(m->device, row.key,
                              row.key == "level.gain" || row.key == "setUp/lampLive" || row.key == "program" || pick(2)
                                  ? site::Take::design
                                  : site::Take::device);
    }
    void back(const std::string& id) {
        const auto* m = std::as_const(fleet_).member(id);
        if (m && !m->revisions.empty()) {
            ++did["go back"];
            fleet_.goBack(id,
                          m->revisions[static_cast<std::size_t>(pick(static_cast<int>(m->revisions.size())))].revision);
        }
    }
    void cure() {
        for (const auto& f : fleet_.findings())
            if (f.cure == site::SiteFinding::Cure::readdress)
                return fleet_.cure(f);
    }

    static constexpr const char* ids_[3] = {"desk", "canopy", "tap"};
    unsigned seed_;
    int slot_ = 0;
    std::mt19937 random_;
    Session session_;
    Fleet fleet_{session_};
    std::unique_ptr<EmbeddedRig> rig_;
    std::vector<std::string> serials_, addresses_, errors_;
    std::map<std::string, double> edits_;
    std::map<std::string, std::string> lamps_;
    QString said_;
};

void runFor(int ms, double* longest) {
    QElapsedTimer clock, turn;
    clock.start();
    while (clock.elapsed() < ms) {
        turn.start();
        QApplication::processEvents(QEventLoop::AllEvents);
        *longest = std::max(*longest, static_cast<double>(turn.nsecsElapsed()) / 1e6);
        QThread::msleep(1);
    }
}

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    std::setvbuf(stdout, nullptr, _IOLBF, 0);
    QCommandLineParser words;
    words.addHelpOption();
    words.addOptions({{"scripts", "How many", "n", "500"},
                      {"seconds", "Of each", "s", "60"},
                      {"together", "At the same time", "n", "25"},
                      {"seed", "Of the first; the others follow", "n", "1"},
                      {"trace", "Print what the desk knows while this seed runs", "n", "0"}});
    words.process(app);
    const int scripts = words.value("scripts").toInt(), seconds = words.value("seconds").toInt();
    const int together = std::clamp(words.value("together").toInt(), 1, 100);
    const unsigned first = words.value("seed").toUInt();
    int done = 0, failed = 0;
    std::map<std::string, int> did;
    double longest = 0;
    while (done < scripts) {
        QTemporaryDir folder;
        const int count = std::min(together, scripts - done);
        std::vector<std::unique_ptr<Script>> batch;
        for (int i = 0; i < count; ++i)
            batch.push_back(std::make_unique<Script>(first + static_cast<unsigned>(done + i), i,
                                                     folder.filePath(QString("s%1").arg(i))));
        double away = 0;
        runFor(2500, &away);
        for (auto& s : batch)
            s->pair();
        runFor(2500, &away);
        away = 0;
        QElapsedTimer clock;
        clock.start();
        std::mt19937 pace(first + static_cast<unsigned>(done));
        while (clock.elapsed() < seconds * 1000) {
            for (auto& s : batch)
                if (pace() % 8 == 0) // each about every second
                    s->step();
            runFor(125, &away);
            for (auto& s : batch)
                if (s->seed() == words.value("trace").toUInt())
                    s->trace();
        }
        for (auto& s : batch)
            s->endFaults();
        clock.restart();
        while (clock.elapsed() < 40000 &&
               !std::all_of(batch.begin(), batch.end(), [](auto& s) { return s->settled(); }))
            runFor(250, &away);
        runFor(2500, &away); // until what was asked last has been answered
        longest = std::max(longest, away);
        for (auto& s : batch) {
            for (clock.restart(); clock.elapsed() < 10000 && !s->settled();) // may be asking just now
                runFor(20, &away);
            longest = std::max(longest, away);
            s->judge();
            for (const auto& [what, n] : s->did)
                did[what] += n;
            did["revisions kept"] += s->revisions();
            if (s->errors().empty())
                continue;
            ++failed;
            for (const auto& t : s->errors())
                std::printf("seed %u: %s\n", s->seed(), t.c_str());
        }
        done += count;
        std::printf("%d of %d scripts, %d failed, desk away %.0f ms at most\n", done, scripts, failed, longest);
    }
    for (const auto& [what, n] : did)
        std::printf("%s: %d   ", what.c_str(), n);
    std::printf("\n");
    const bool hung = longest > 1000;
    std::printf("seeds %u to %u: %d scripts of %d s, %d failed; the desk's thread was away %.0f ms at most%s\n", first,
                first + static_cast<unsigned>(scripts) - 1, scripts, seconds, failed, longest,
                hung ? ": too long" : "");
    return failed > 0 || hung ? 1 : 0;
}
