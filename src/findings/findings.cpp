#include "findings/findings.h"
#include "dsp/tap_file.h"
#include "engine/block_kind.h"
#include "engine/graph.h"
#include "engine/latency.h"
#include "engine/origin.h"
#include "engine/play_list.h"
#include "engine/schedule.h"
#include "findings/output_findings.h"
#include "findings/patch_findings.h"
#include "findings/room_findings.h"
#include "findings/rule_findings.h"
#include "findings/surface_findings.h"
#include "findings/talk_findings.h"
#include "model/block_names.h"
#include "model/set_up.h"
#include "program/file_prints.h"
#include "program/load.h"
#include <algorithm>
#include <set>

namespace loom::project {
namespace {

using Code = FindingCode;
using engine::Block;
using engine::Program;

// "the threads run in a loop" as a sentence.
std::string sentence(std::string text) {
    if (!text.empty())
        text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    return text.ends_with('.') ? text : text + ".";
}

class Checker {
  public:
    Checker(const Device& d, const Assets* assets) : device_(d), program_(*d.program), assets_(assets) {
        for (const auto& t : program_.connections)
            left_.insert(t.from);
    }
    std::vector<Finding> run() {
        for (const auto& b : program_.blocks)
            checkBlock(b);
        checkPorts();
        checkConnections();
        if (auto order = engine::runningOrder(program_); !order)
            add(Code::loop, nullptr, sentence(order.error().message), order.error().remedy);
        checkMeetings();
        checkBudget();
        checkKnobs();
        return std::move(found_);
    }

  private:
    void add(Code code, const Block* b, std::string reason, std::string remedy) {
        found_.push_back({code, device_.id, b ? b->id : "",
                          device_.name + (b ? " \u00b7 " + blockName(program_, *b) : ""), std::move(reason),
                          std::move(remedy)});
    }

    void checkMeetings() {
        for (const auto& m : engine::unevenMeetings(program_, device_.rate)) {
            int least = m.ports.begin()->second, most = least;
            for (const auto& [port, late] : m.ports) {
                least = std::min(least, late);
                most = std::max(most, late);
            }
            const auto* sound = program_.find(m.sound.block);
            add(Code::lanesApart, program_.find(m.block),
                "The sound of " + blockName(program_, *sound) + " arrives here over " + std::to_string(m.ports.size()) +
                    " ways, up to " + std::to_string(most - least) + " samples apart; together they sound like a comb.",
                "Align the lanes that meet here, or give all ways the same blocks.");
        }
    }

    void checkBlock(const Block& b) {
        const auto* kind = engine::findKind(b.kind);
        if (!kind)
            return add(Code::unknownBlock, &b,
                       "This block is of a kind (" + b.kind + ") that is not known here; it stays silent.",
                       "Open the project with the version that made it, or remove the block.");
        if (kind->end == engine::End::leaves && !reachesSource(b.id))
            add(Code::noArrival, &b, "Nothing arrives at this destination.", "Route a source to it, or remove it.");
        if (kind->end == engine::End::arrives && !left_.count({b.id, 0}))
            add(Code::goesNowhere, &b, "This source goes nowhere.", "Route it to a destination, or remove it.");
        if (b.kind == "echo")
            checkReference(b);
        if (kind->files > 0)
            checkFiles(b, *kind);
        checkOff(b);
    }

    void checkReference(const Block& b) {
        const int port = engine::BlockView(b).inputs() - 1;
        const auto* t = program_.into({b.id, port});
        if (!t)
            add(Code::noReference, &b, "Nothing arrives at the reference: no echo can be taken away.",
                "Draw what goes to the loudspeakers to the last input.");
        else if (!soundReaches(t->from))
            add(Code::silentReference, &b, "The reference stays silent: no source reaches it.",
                "Take the reference where the far end's sound passes.");
    }

    void checkFiles(const Block& b, const engine::BlockKind& kind) {
        const auto files = engine::playList(b.texts);
        if (files.empty())
            add(Code::noFile, &b, "No sound file is chosen.", "Choose one in the deck.");
        for (const auto& file : files) {
            if (!assets_)
                continue;
            const auto asset = assets_->find(file);
            if (asset == assets_->end())
                add(Code::fileMissing, &b, "The file \"" + file + "\" is not in the project.",
                    "Choose it again in the deck.");
            else if (kind.taps)
                if (const auto error = dsp::errorInTaps(asset->second, file); !error.empty())
                    add(Code::fileUnfit, &b, error, "Choose another file in the deck.");
            if (asset == assets_->end() || !device_.spec() || !device_.spec()->network || !files_.insert(file).second)
                continue;
            if (asset->second.size() > largestDeviceFile)
                add(Code::fileTooLarge, &b,
                    "The file \"" + file + "\" is larger than 5 MB: the processor does not take it.",
                    "Keep it as FLAC, or make it shorter.");
            const auto before = fileBytes_;
            fileBytes_ += asset->second.size();
            if (before <= mostDeviceFiles && fileBytes_ > mostDeviceFiles)
                add(Code::fileTooLarge, &b, "With it the files of the processor are more than its store holds, 32 MB.",
                    "Take some out.");
        }
    }

    // Follows the sound backwards port by port; through a matrix only where a crossing is open.
    bool reachesSource(const std::string& destination) const {
        const auto* t = program_.into({destination, 0});
        return t && soundReaches(t->from);
    }
    bool soundReaches(const engine::PortRef& output) const {
        std::set<engine::PortRef> seen;
        std::vector<engine::PortRef> todo{output};
        while (!todo.empty()) {
            const engine::PortRef at = todo.back();
            todo.pop_back();
            const Block* b = program_.find(at.block);
            const auto* kind = b ? engine::findKind(b->kind) : nullptr;
            if (!kind || !seen.insert(at).second)
                continue;
            const engine::BlockView view(*b);
            if (view.inputs() == 0)
                return true;
            for (int i = 0; i < view.inputs(); ++i)
                if (engine::goesOn(view, i, at.port))
                    if (const auto* t = program_.into({b->id, i}))
                        todo.push_back(t->from);
        }
        return false;
    }

    void checkOff(const Block& b) {
        const engine::BlockView view(b);
        if (!view.on() && !view.kind->neutral(view.look()))
            add(Code::offNotFlat, &b, "This section is off, but it is not flat: its settings do nothing.",
                "Switch it on, or restore its defaults.");
        if (b.kind != "eq")
            return;
        for (int n = 1; n <= view.shape.at("bands"); ++n) {
            const std::string band = std::to_string(n);
            if (view.look()[band + ".on"] < 0.5 && view.look()[band + ".gain"] != 0)
                add(Code::offNotFlat, &b, "Band " + band + " is off, but it is not flat: its settings do nothing.",
                    "Switch the band on, or set its gain to 0 dB.");
        }
    }

    void checkPorts() {
        const DeviceModel* model = device_.spec();
        std::set<std::pair<bool, std::string>> taken;
        for (const auto& b : program_.blocks) {
            const auto end = engine::endOf(b);
            if (end == engine::End::none)
                continue;
            const bool source = end == engine::End::arrives;
            const auto it = b.texts.find("port");
            const std::string port = it == b.texts.end() ? "" : it->second;
            if (port.empty()) {
                add(Code::noPort, &b, "No port of the device is chosen.", "Choose one in the deck.");
                continue;
            }
            if (!taken.insert({source, port}).second)
                add(Code::portTwice, &b, "The port \"" + port + "\" is used twice.", "Choose another port.");
            const auto ports = model ? model->ports(source) : std::vector<std::string>{port};
            if (std::find(ports.begin(), ports.end(), port) == ports.end())
                add(Code::noSuchPort, &b, "The " + model->name + " has no port \"" + port + "\".",
                    "Choose another port.");
        }
    }

    void checkConnections() {
        std::set<engine::PortRef> arrived;
        for (const auto& t : program_.connections) {
            const Block *from = program_.find(t.from.block), *to = program_.find(t.to.block);
            if (!from || !to)
                continue; // runningOrder names it
            if (t.from.port < 0 || t.to.port < 0 || t.from.port >= engine::outputsOf(program_, *from) ||
                t.to.port >= engine::inputsOf(program_, *to))
                add(Code::badConnection, to, "A thread ends at a port that the block does not have.",
                    "Remove the thread from " + from->id + " to " + to->id + ".");
            else if (!arrived.insert(t.to).second)
                add(Code::badConnection, to, "Two threads arrive at one port.",
                    "Remove one of them, or mix them in a matrix mixer.");
        }
    }

    void checkBudget() {
        const Load load = loadOf(device_);
        std::string list;
        for (const auto& d : dearest(device_, 3))
            list += (list.empty() ? "" : ", ") + std::to_string(d.count) + " \u00d7 " +
                    engine::findKind(d.kind)->label + " (" +
                    std::to_string(static_cast<int>(std::lround(100 * d.work / std::max(1.0, load.work)))) + " %)";
        const auto over = [&](double used, double budget, const char* what) {
            if (budget > 0 && used > budget)
                add(Code::overBudget, nullptr,
                    "The program takes " + std::to_string(static_cast<int>(std::lround(100 * used / budget))) +
                        " % of the processor's " + what + ".",
                    "Take a larger processor, or fewer of what takes most work: " + list + ".");
        };
        over(load.work, load.workBudget, "work");
        over(load.memory, load.memoryBudget, "memory");
    }

    void checkKnobs() {
        for (const auto& [id, value] : setUpOf(device_))
            if (isControl(id) && !value.empty())
                if (const auto good = checkControls({{id, value}}, program_); !good)
                    add(Code::knobLost, nullptr,
                        setUpLabel(id) + " is to move \"" + value.substr(0, value.find(' ')) +
                            "\": " + good.error().message.substr(good.error().message.find(": ") + 2) + ".",
                        "Give it another parameter, or none, under Device at Site.");
    }

    const Device& device_;
    const Program& program_;
    const Assets* assets_; // null: not known here
    std::set<engine::PortRef> left_;
    std::set<std::string> files_{}; // that its blocks need
    std::size_t fileBytes_ = 0;
    std::vector<Finding> found_;
};

} // namespace

std::vector<Finding> check(const Device& device) {
    if (!device.program)
        return {};
    return Checker(device, nullptr).run();
}

std::vector<Finding> check(const Project& project, std::stop_token stop) {
    return checkWith(project, checkAcoustics(project, stop));
}

std::vector<Finding> checkWith(const Project& project, const std::vector<Finding>& acoustics) {
    std::vector<Finding> all = checkRooms(project);
    all.insert(all.end(), acoustics.begin(), acoustics.end());
    const auto speakers = checkSpeakers(project);
    all.insert(all.end(), speakers.begin(), speakers.end());
    const auto patch = checkPatch(project);
    all.insert(all.end(), patch.begin(), patch.end());
    const auto talk = checkTalk(project);
    all.insert(all.end(), talk.begin(), talk.end());
    const auto surfaces = checkSurfaces(project);
    all.insert(all.end(), surfaces.begin(), surfaces.end());
    const auto rules = checkRules(project);
    all.insert(all.end(), rules.begin(), rules.end());
    for (const auto& d : project.devices) {
        if (!d.program)
            continue;
        auto found = Checker(d, &project.assets).run();
        const auto* room = project.room(d.room);
        for (auto& f : found)
            f.room = room ? room->name : "Equipment rack";
        all.insert(all.end(), found.begin(), found.end());
    }
    for (auto& f : all)
        for (const auto& l : project.dismissed)
            if (l.code == f.id() && l.device == f.device && l.block == f.block)
                f.because = l.because;
    return all;
}

} // namespace loom::project
