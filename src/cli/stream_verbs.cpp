// Streams between devices: what is offered and heard, and descriptions of streams.
#include "cli/answer.h"
#include "cli/live_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/streams.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "model/sound_values.h"
#include "patch/outside.h"
#include "patch/patch_edit.h"
#include "voicings/voicing_edit.h"
#include <cstdio>

namespace loom::cli {

using namespace project;
using nlohmann::json;

namespace stream_verbs {

struct Call {
    std::string file, stream, device, name, slot;
    int channel = 0; // from 1; 0: all
    std::vector<std::string> ports;
    int bits = 24;
    double packetMs = 1;
    bool asJson = false, live = false;
    OnSite at;
};

json toJson(const stream::Description& d) {
    const auto load = stream::loadOf(d.format, d.sealed);
    return {{"name", d.name},
            {"channels", d.format.channels},
            {"encoding", stream::nameOf(d.format.encoding)},
            {"rate", d.format.rate},
            {"packetMs", d.format.packetMs()},
            {"address", d.address},
            {"port", d.port},
            {"payload", d.payload},
            {"encrypted", d.sealed},
            {"clock", d.clock},
            {"packetsPerSecond", load.packets},
            {"ipBytesPerSecond", load.ipBytes},
            {"megabits", load.megabits()}};
}

std::string wordsOf(const stream::Description& d) {
    return print("%d channels, %s, %g kHz, %g ms, %s:%d, %.2f Mbit/s", d.format.channels,
                 stream::nameOf(d.format.encoding), d.format.rate / 1000, d.format.packetMs(), d.address.c_str(),
                 d.port, stream::loadOf(d.format, d.sealed).megabits());
}

int streams(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    json offered = json::array(), heard = json::array(), devices = json::array();
    const auto patched = patchedOf(*p);
    for (const auto& o : patched.offers) {
        json one = toJson(o.description);
        one["stream"] = o.key;
        one["ports"] = o.stream->ports;
        one["transport"] = specOf(o.transport).id;
        one["heardBy"] = json::array();
        for (const auto n : o.heardBy)
            one["heardBy"].push_back(patched.hearings[n].key);
        offered.push_back(one);
        if (!c.asJson)
            std::printf("%s: %s; heard by %d\n", o.key.c_str(), wordsOf(o.description).c_str(),
                        static_cast<int>(o.heardBy.size()));
    }
    for (const auto& h : patched.hearings) {
        heard.push_back({{"receiver", h.key},
                         {"hears", h.stream},
                         {"inputs", h.receiver->inputs},
                         {"streams", h.receiver->streams},
                         {"waits", h.waits()}});
        if (!c.asJson)
            std::printf("%s hears %s%s\n", h.key.c_str(), h.stream.empty() ? "nothing" : h.stream.c_str(),
                        h.waits() ? ", which is not there" : "");
    }
    for (const auto& [device, u] : patched.uses)
        devices.push_back({{"device", device},
                           {"flowsOut", u.flowsOut},
                           {"flowsIn", u.flowsIn},
                           {"channelsOut", u.channelsOut},
                           {"channelsIn", u.channelsIn},
                           {"ringOut", u.ringOut},
                           {"ringIn", u.ringIn},
                           {"megabitsOut", u.megabitsOut},
                           {"megabitsIn", u.megabitsIn}});
    return c.asJson ? say({{"offered", offered}, {"heard", heard}, {"devices", devices}}) : 0;
}

// Does what an edit says, and says what is then.
int doing(const Call& c, Project& p, const Result<Edit>& edit) {
    if (!edit)
        return fail(edit.error());
    if (const int wrong = saveEdit(p, *edit, c.file))
        return wrong;
    if (c.asJson)
        return streams(c);
    std::printf("%s\n", edit->text.c_str());
    return 0;
}

int offer(const Call& c) {
    auto p = loadProject(c.file, shelf());
    return p ? doing(c, *p, offerStream(*p, c.device, c.name, c.ports, c.bits, c.packetMs)) : fail(p.error());
}

// The stream that was meant, then what is to be done with it.
template <class Make> int with(const Call& c, Make make) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto key = streamKey(*p, c.stream);
    return key ? doing(c, *p, make(*p, *key)) : fail(key.error());
}

int withdraw(const Call& c) {
    return with(c, [](const Project& p, const std::string& key) { return withdrawStream(p, key); });
}

// In the project, and with --live on the device as well.
template <class Make> int atOnce(const Call& c, Make make) {
#ifdef LOOM_LIVE
    if (c.live)
        return editOnSite(c.file, c.device, c.at, c.asJson, [&](const Project& p) -> Result<Edit> {
            const auto key = streamKey(p, c.stream);
            return key ? make(p, *key) : Result<Edit>(key.error());
        });
#endif
    return with(c, make);
}

int hear(const Call& c) {
    return atOnce(c, [&](const Project& p, const std::string& key) {
        return c.channel > 0 ? hearChannel(p, key, c.channel - 1, c.device, c.slot)
                             : hearStream(p, key, c.device, c.slot);
    });
}

int unhear(const Call& c) {
    return atOnce(c, [&](const Project& p, const std::string& key) { return unhearStream(p, key, c.device); });
}

// A stream of others, as its description says.
int take(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto text = readWhole(c.name, stream::mostSdpBytes);
    if (!text)
        return fail(text.error());
    const auto d = stream::readSdp(*text);
    return d ? doing(c, *p, takeStream(*p, *d, shelf())) : fail(d.error());
}

int align(const Call& c) {
    return with(c, [](const Project& p, const std::string& key) { return alignReceivers(p, key); });
}

int sdp(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto key = streamKey(*p, c.stream);
    if (!key)
        return fail(key.error());
    const std::string text = stream::sdpText(patchedOf(*p).offer(*key)->description);
    if (c.asJson)
        return say({{"stream", *key}, {"sdp", text}});
    std::fputs(text.c_str(), stdout);
    return 0;
}

int readDescription(const Call& c) {
    const auto text = readWhole(c.file, stream::mostSdpBytes);
    if (!text)
        return fail(text.error());
    const auto d = stream::readSdp(*text);
    if (!d)
        return fail(d.error());
    if (c.asJson)
        return say(toJson(*d));
    std::printf("%s: %s\n", d->name.c_str(), wordsOf(*d).c_str());
    return 0;
}

} // namespace stream_verbs

int streamValue(Project& p, const std::string& file, const std::string& path, const std::string& value, bool set,
                bool asJson) {
    const Error unknown{
        "there is no such parameter", path,
        "A path is DEVICE/BLOCK.PARAMETER; loomctl info lists devices and blocks. Streams and receivers "
        "have DEVICE/stream.ID.level, muted, inverted, and DEVICE/receiver.ID.chosen."};
    const auto slash = path.find('/');
    const auto* d = std::as_const(p).device(path.substr(0, slash));
    if (!d || slash == std::string::npos)
        return fail(unknown);
    const auto at = soundValue({d->streams, d->receivers}, path.substr(slash + 1));
    if (!at)
        return fail(unknown);
    double now = at->value;
    if (set) {
        const auto typed = engine::parseValue(at->spec, value);
        if (!typed)
            return fail({typed.error().message, path, typed.error().remedy});
        if (const int wrong = saveEdit(p, setValue(p, path, *typed), file))
            return wrong;
        now = *typed;
    }
    if (asJson)
        return say({{"path", path}, {"value", now}, {"text", engine::formatValue(at->spec, now)}});
    std::cout << engine::formatValue(at->spec, now) << "\n";
    return 0;
}

void addStreamVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace stream_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        auto* v = addVerb(app, action, call, name, does, example, go);
        v->add_flag("--json", call.asJson, "Answer as JSON");
        v->add_option("FILE", call.file, "Project file or folder")->required();
        return v;
    };
    const auto live = [&]([[maybe_unused]] CLI::App* v) {
#ifdef LOOM_LIVE
        v->add_flag("--live", call.live, "On the device on site as well, at once");
        addOnSite(*v, call.at);
#endif
    };
    verb("streams", "What is offered over the packet network, who hears it, and what it takes",
         "loomctl streams hall.loom --json", streams);
    auto* v = verb("offer", "A device offers network outputs as a stream",
                   "loomctl offer hall.loom heddle hall-mix --ports \"net 1\" \"net 2\"", offer);
    v->add_option("DEVICE", call.device, "Id of the device")->required();
    v->add_option("NAME", call.name, "What others choose it by")->required();
    v->add_option("--ports", call.ports, "Its outputs, a channel each")->required();
    v->add_option("--bits", call.bits, "Of a sample")->check(CLI::IsMember({16, 24}))->capture_default_str();
    v->add_option("--packet", call.packetMs, "Packet time, ms")->check(CLI::Range(0.125, 4.0))->capture_default_str();
    v = verb("withdraw", "A device offers a stream no longer", "loomctl withdraw hall.loom hall-mix", withdraw);
    v->add_option("STREAM", call.stream, "Its name, or DEVICE/NAME")->required();
    v = verb("hear", "A device hears a stream", "loomctl hear hall.loom hall-mix recorder --in \"net 3\"", hear);
    v->add_option("STREAM", call.stream, "Its name, or DEVICE/NAME")->required();
    v->add_option("DEVICE", call.device, "Id of the device that hears it")->required();
    v->add_option("--in", call.slot, "The first input; else the first that are free");
    v->add_option("--channel", call.channel, "This one only, from 1, into --in")->check(CLI::Range(1, 80));
    live(v);
    v = verb("unhear", "A device lets go of a stream", "loomctl unhear hall.loom hall-mix recorder", unhear);
    v->add_option("STREAM", call.stream, "Its name, or DEVICE/NAME")->required();
    v->add_option("DEVICE", call.device, "Id of the device")->required();
    live(v);
    v = verb("take-stream", "A stream of others, by its description: devices can hear it from now on",
             "loomctl take-stream hall.loom theirs.sdp", take);
    v->add_option("DESCRIPTION", call.name, "A file with it (SDP)")->required();
    v = verb("align-stream", "All that hear a stream get the delay of the slowest of them",
             "loomctl align-stream hall.loom hall-mix", align);
    v->add_option("STREAM", call.stream, "Its name, or DEVICE/NAME")->required();
    v = verb("sdp", "The description of a stream, for others to hear it by", "loomctl sdp hall.loom hall-mix > mix.sdp",
             sdp);
    v->add_option("STREAM", call.stream, "Its name, or DEVICE/NAME")->required();
    v = verb("read-sdp", "What a description of a stream says", "loomctl read-sdp mix.sdp", readDescription);
}

} // namespace loom::cli
