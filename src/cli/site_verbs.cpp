#include "cli/site_verbs.h"
#include "catalogue/catalogue.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "disk/safe_file.h"
#include "model/set_up.h"
#include "site/board_image.h"
#include "voicings/room_sound.h"
#include <CLI/CLI.hpp>
#include <algorithm>
#include <cstdio>

namespace loom::cli {
namespace site_verbs { // of this file

using namespace project;
using nlohmann::json;

constexpr std::size_t mostHex = 8u << 20;

struct Call {
    std::string file, device, serial, hex;
    bool asJson = false;
};

// Pairs, or with an empty serial unpairs.
int pairWith(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    if (!p->device(c.device))
        return fail({"there is no such device", c.device, "loomctl info lists devices."});
    for (const auto& d : p->devices)
        if (!c.serial.empty() && d.serial == c.serial && d.id != c.device)
            return fail({"stands for " + d.name + " already", c.serial, "Unpair that one first."});
    return saveEdit(*p,
                    changeDevice(c.device, c.serial.empty() ? "Unpair" : "Pair",
                                 [&](Device& d) {
                                     unpair(d);
                                     d.serial = c.serial;
                                 }),
                    c.file);
}

struct Board {
    Project project;
    const Device* device;
    const DeviceModel* model;
};
Result<Board> boardOf(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return p.error();
    Board b{std::move(*p), nullptr, nullptr};
    b.device = b.project.device(c.device);
    b.model = b.device ? b.device->spec() : nullptr;
    if (!b.model || !b.model->usb)
        return Error{"is no small board", c.device, "Name one, such as a Spindle 3x6."};
    return b;
}

int image(const Call& c) {
    const auto b = boardOf(c);
    if (!b)
        return fail(b.error());
    const auto* d = b->project.device(c.device);
    const auto config = site::designOf(b->project, *d);
    if (const auto good = checkControls(config.setUp, config.program); !good)
        return fail(good.error());
    const auto hex = site::hexImageOf(config, *b->model);
    if (!hex)
        return fail(hex.error());
    if (const auto done = writeWhole(c.hex, *hex, false); !done)
        return fail(done.error());
    std::printf("%zu of %.0f bytes\n", site::imageOf(config).size(), b->model->storeBytes);
    return 0;
}

int takeImage(const Call& c) {
    auto b = boardOf(c);
    if (!b)
        return fail(b.error());
    const auto text = readWhole(c.hex, mostHex);
    if (!text)
        return fail(text.error());
    const auto config = site::configOfHexImage(*text, *b->model);
    if (!config)
        return fail({config.error().message, c.hex + ": " + config.error().place, config.error().remedy});
    return saveEdit(b->project,
                    changeDevice(c.device, "Take an image",
                                 [&](Device& d) {
                                     d.program = config->program;
                                     adoptSetUp(d, config->setUp);
                                 }),
                    c.file);
}

int leads(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& l : leadsOf(*p)) {
        all.push_back({{"from", l.from.text()}, {"to", l.to.text()}, {"network", l.network}});
        if (!c.asJson)
            std::printf("%-32s %-32s %s\n", l.from.text().c_str(), l.to.text().c_str(),
                        l.network ? "network" : "cable: cannot be encrypted");
    }
    return c.asJson ? say(all) : 0;
}

} // namespace site_verbs

void addSiteVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace site_verbs;
    static Call call;
    const auto verb = [&](const char* name, const char* text, const char* example, int (*run)(const Call&)) {
        auto* v = app.add_subcommand(name, text);
        v->footer(std::string("Example: ") + example);
        v->callback([&action, run] { action = [run] { return run(call); }; });
        v->add_option("FILE", call.file, "Project")->required();
        return v;
    };
    auto* v = verb("pair", "Says which device on site stands for a planned one",
                   "loomctl pair hall.loom council-canopy 1177A0", pairWith);
    v->add_option("DEVICE", call.device, "Its id")->required();
    v->add_option("SERIAL", call.serial, "Serial number")->required();
    v = verb("unpair", "The planned device stays, without one on site", "loomctl unpair hall.loom council-canopy",
             pairWith);
    v->add_option("DEVICE", call.device, "Its id")->required();
    v = verb("image", "Writes a small board's program and knobs as an Intel HEX image",
             "loomctl image demo/marram-point spindle-cellar spindle.hex", image);
    v->add_option("DEVICE", call.device, "Its id")->required();
    v->add_option("HEX", call.hex, "File to write")->required();
    v = verb("take-image", "Puts the content of an image into the design of a small board",
             "loomctl take-image hall.loom spindle-cellar spindle.hex", takeImage);
    v->add_option("DEVICE", call.device, "Its id")->required();
    v->add_option("HEX", call.hex, "File to read")->required();
    v = verb("leads", "Every way of sound from device to device, by network or cable",
             "loomctl leads demo/marram-point", leads);
    v->add_flag("--json", call.asJson, "As JSON");
}

} // namespace loom::cli
