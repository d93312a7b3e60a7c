#include "cli/send_verb.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "dsp/number.h"
#include "lines/outside_line.h"
#include "outside/outside_edit.h"
#include "outside/outside_talk.h"
#include "rules/signal.h"
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QEventLoop>

namespace loom::cli {
namespace send_verb { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, device, address;
    std::vector<std::string> what;
    double seconds = 5;
    bool asJson = false;
};

int send(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto said = outsideSaid(*p, c.device);
    if (!said)
        return fail(said.error());
    const auto& d = **said;
    const auto* kind = p->outsideKind(d.kind);
    if (!kind)
        return fail({"its description is not in the project", d.kind, "Read it again: loomctl outside --described."});
    const auto address = readOutsideAddress(*kind, c.address.empty() ? d.address : c.address);
    if (!address)
        return fail(address.error());

    int argc = 1;
    char name[] = "loomctl", *argv[] = {name, nullptr};
    QCoreApplication app(argc, argv);
    QElapsedTimer clock;
    clock.start();
    const auto now = [&clock] { return static_cast<double>(clock.elapsed()) / 1000; };
    OutsideTalk talk(*kind);
    std::string refused;
    bool open = false;
    const auto line = lines::openOutsideLine(*kind, *address,
                                             {[&](bool is) {
                                                  open = open || is;
                                                  talk.connected(is, now());
                                              },
                                              [&](std::string_view bytes) { talk.heard(bytes, now()); },
                                              [&](const std::string& answer) { talk.heardWhole(answer, now()); },
                                              [&](const std::string& why) { refused = why; }});
    std::vector<std::string> wanted; // states whose answer is waited for
    for (const auto& one : c.what) {
        const auto equal = one.find('=');
        const auto id = one.substr(0, equal);
        Result<Done> done = Done{};
        if (equal == std::string::npos && kind->command(id)) {
            done = talk.say(id, 0);
        } else if (equal == std::string::npos) {
            done = talk.ask(id, 0);
            wanted.push_back(id);
        } else {
            const auto signal = signalOf(*p, outsidePrefix + d.id + "/" + id);
            const auto v = signal ? readSignalValue(*signal, one.substr(equal + 1))
                                  : Result<double>(Error{"it has no such state", id, "loomctl outside lists them."});
            if (!v)
                return fail(v.error());
            done = talk.set(id, *v, 0);
            if (kind->state(id) && !kind->state(id)->ask.empty())
                wanted.push_back(id);
        }
        if (!done)
            return fail(done.error());
    }
    // Until all is said, every state that was asked for is known, and nothing is on its way.
    std::map<std::string, double> answers;
    double quiet = -1;
    while (now() < c.seconds) {
        QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents | QEventLoop::AllEvents, 20);
        talk.step(now());
        for (const auto& message : talk.take()) {
            line->send(message);
            quiet = now();
        }
        for (const auto& change : talk.takeChanges())
            answers[change.state] = change.value;
        if (!refused.empty())
            return fail({refused, d.name, ""});
        const bool all =
            std::all_of(wanted.begin(), wanted.end(), [&](const auto& id) { return answers.count(id) > 0; });
        if (quiet >= 0 && all && talk.idle() && now() - quiet > std::max(0.2, kind->pause))
            break;
    }
    if (!open)
        return fail({"does not take the call", d.name, "Is it on, and is " + d.address + " its address?"});
    json out = json::object();
    for (const auto& [id, v] : answers) {
        const auto signal = signalOf(*p, outsidePrefix + d.id + "/" + id);
        if (!signal || id == outsideThere)
            continue;
        if (c.asJson)
            out[id] = plainValue(*signal, v);
        else
            std::printf("%s is %s\n", signal->label.c_str(), valueText(*signal, v).c_str());
    }
    for (const auto& id : wanted)
        if (!answers.count(id))
            return fail({"did not answer within " + plainText(c.seconds) + " s", d.name + ", " + id, ""});
    return c.asJson ? say(out) : 0;
}

} // namespace send_verb

void addSendVerb(CLI::App& app, std::function<int()>& action) {
    using namespace send_verb;
    static Call call;
    auto* v = addVerb(app, action, call, "send",
                      "Says something to an outside device from this computer, and what it answers",
                      "loomctl send hall.loom \"Hall display\" power=on volume=30 input", send);
    v->add_option("FILE", call.file, "Project file or folder")->required();
    v->add_option("DEVICE", call.device, "By id or name")->required();
    v->add_option("WHAT", call.what, "STATE=VALUE sets it, STATE asks for it, COMMAND is said")->required();
    v->add_option("--to", call.address, "Another address than the project's");
    v->add_option("--seconds", call.seconds, "How long to wait for answers")->check(CLI::Range(0.1, 600.0));
    v->add_flag("--json", call.asJson, "Answer as JSON");
}

} // namespace loom::cli
