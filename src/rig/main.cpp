// loom-rig: simulated devices as a process of their own, with faults by command and by script.
#include "catalogue/catalogue.h"
#include "dsp/audio_file.h"
#include "file/store.h"
#include "program/render.h"
#include "rig/rig.h"
#include "stream/sdp.h"
#include <QCommandLineParser>
#include <QCoreApplication>
#include <QSocketNotifier>
#include <QStandardPaths>
#include <cstdio>
#include <iostream>
#include <sstream>

using namespace loom;

namespace {

int fail(const std::string& text) {
    std::fprintf(stderr, "loom-rig: %s\n", text.c_str());
    return 2;
}

void list(const rig::Rig& rig) {
    for (const auto& s : rig.servers()) {
        const auto about = s->about();
        std::printf("%-10s %-14s %-18s %s  %s%s\n", about.serial.c_str(), about.address.c_str(),
                    about.modelName.c_str(), site::printOf(about.identity).c_str(), about.name.c_str(),
                    s->listening() ? "" : "  (cannot be reached there)");
    }
}

void obey(rig::Rig& rig, const std::string& line) {
    std::istringstream in(line);
    std::string verb, serial, name, rest;
    in >> verb;
    Result<Done> done = Done{};
    if (verb == "list") {
        list(rig);
    } else if (verb == "step") {
        std::getline(in >> std::ws, rest);
        done = rig.step(rest);
    } else if (verb == "fault") {
        in >> serial >> name;
        std::getline(in >> std::ws, rest);
        const auto value = nlohmann::json::parse(rest, nullptr, false);
        done = rig.setFault(serial, name, value.is_discarded() ? nlohmann::json(rest) : value);
    } else if (verb == "hear") { // what whoever is far away heard
        in >> serial;
        std::getline(in >> std::ws, rest);
        const auto at = rest.rfind(' ');
        auto* s = rig.server(serial);
        dsp::AudioClip clip{
            48000,
            {s && at != std::string::npos ? s->device().heardFarAway(rest.substr(0, at)) : std::vector<float>{}}};
        std::string error;
        if (clip.channels[0].empty())
            done = Error{"nobody far away heard anything there", serial + " " + rest,
                         "Such as: hear 00A3F1 usb 1 /tmp/far.wav"};
        else if (!dsp::writeWav(rest.substr(at + 1), clip, error))
            done = Error{error, rest.substr(at + 1), ""};
    } else if (verb == "quit") {
        QCoreApplication::quit();
    } else if (!verb.empty()) {
        done =
            Error{"the commands are list, step NAME, fault SERIAL NAME VALUE, hear SERIAL PORT FILE, quit", verb, ""};
    }
    if (!done)
        std::printf("%s\n", done.error().text().c_str());
    std::fflush(stdout);
}

} // namespace

int main(int argc, char** argv) {
    QCoreApplication app(argc, argv);
    QCoreApplication::setApplicationName("loom-rig");
    QCommandLineParser words;
    words.setApplicationDescription(
        "Simulated devices on loopback addresses: one, or those of a scenario.\n"
        "Example: loom-rig --scenario demo/scenarios/first-day.json\n"
        "While it runs it takes commands: list, step NAME, fault SERIAL NAME VALUE (such as: fault 00A3F1 power off), "
        "hear SERIAL PORT FILE (what whoever is far away heard, as WAV), "
        "quit");
    words.addHelpOption();
    words.addOptions(
        {{"scenario", "Plays a scenario", "file"},
         {"address", "Address of the one device", "ip", "127.20.4.10"},
         {"model", "Its model", "id", "heddle-16"},
         {"anywhere", "Devices may be at any address of this computer, for others to reach: else they stay "
                      "on 127.0.0.0/8"},
         {"port", "Port", "number", QString::number(rig::rigPort)},
         {"serial", "Serial number", "text", "00A3F1"},
         {"store", "Folder of the stores", "folder",
          QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation)},
         {"sound-adapter", "Address of the adapter that streams leave by: else they stay on this computer", "ip"},
         {"hears", "Project whose stand-in sound its inputs hear", "project"}});
    words.process(app);
    const auto models = project::openCatalogue();
    rig::Rig all(*models, static_cast<quint16>(words.value("port").toUInt()),
                 words.isSet("anywhere") ? rig::Rig::Reach::anywhere : rig::Rig::Reach::thisComputer);
    const auto folder = words.value("store").toStdString();
    if (const auto adapter = words.value("sound-adapter").toStdString(); !adapter.empty()) {
        if (!stream::isIpv4(adapter))
            return fail("\"" + adapter + "\" is no address: four numbers such as 10.20.4.5");
        all.setSoundAdapter(adapter);
    }
    std::optional<project::Project> heard;
    if (words.isSet("hears")) {
        auto p = project::loadProject(words.value("hears").toStdString(), *models);
        if (!p || p->devices.empty())
            return fail(p ? "the project has no device" : p.error().text());
        heard = *p;
    }
    if (words.isSet("scenario")) {
        if (auto done = all.playFile(words.value("scenario").toStdString(), folder); !done)
            return fail(done.error().text());
    } else {
        rig::DeviceSetup setup;
        setup.model = words.value("model").toStdString();
        setup.serial = words.value("serial").toStdString();
        setup.address = words.value("address").toStdString();
        setup.folder = folder;
        if (heard)
            setup.resources = project::resourcesOf(*heard, heard->devices[0], true);
        if (!models->find(setup.model))
            return fail("there is no model \"" + setup.model + "\"");
        if (auto done = all.add(setup); !done)
            return fail(done.error().text());
    }
    if (const QString error = all.open(); !error.isEmpty())
        return fail(error.toStdString());
    list(all);
    std::fflush(stdout);
    QSocketNotifier typed(0, QSocketNotifier::Read);
    QObject::connect(&typed, &QSocketNotifier::activated, &all, [&] {
        std::string line;
        if (std::getline(std::cin, line))
            obey(all, line);
        else
            typed.setEnabled(false); // nobody types; it goes on
    });
    return QCoreApplication::exec();
}
