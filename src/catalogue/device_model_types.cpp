// The declarations of device models (catalogue/device_model.h).
#include "catalogue/describe.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>

namespace loom::schema {

using namespace project;

namespace {

const std::vector<std::string> groups{"Pick up", "Reproduce", "Drive and process", "Touch and press",
                                      "Network and rack"};
const std::vector<std::string> mounts{"ceiling", "wall", "table", "floor", "hand", "rack"};

constexpr const char* anglesMust = "must be eight angles, 63 Hz to 8 kHz, from 1 to 360";

// "90" or eight numbers, 63 Hz to 8 kHz.
std::optional<acoustics::Bands> readAngles(const std::string& text) {
    const auto all = typedNumbers(text);
    if (!all || (all->size() != 1 && all->size() != 8) ||
        !std::all_of(all->begin(), all->end(), [](double v) { return v >= 1 && v <= 360; }))
        return {};
    acoustics::Bands b = acoustics::filled(all->front());
    if (all->size() == 8)
        std::copy(all->begin(), all->end(), b.begin());
    return b;
}

std::string anglesText(const acoustics::Bands& b) {
    std::string out;
    const bool same = std::all_of(b.begin(), b.end(), [&](double v) { return v == b.front(); });
    for (std::size_t i = 0; i < (same ? 1 : b.size()); ++i)
        out += (i ? " " : "") + shortText(b[i]);
    return out;
}

template <class T> FieldOf<T> anglesField(const char* id, const char* label, acoustics::Bands T::*where) {
    FieldOf<T> f{{id, label}};
    f.text = [where](const T& m) { return anglesText(m.*where); };
    f.setText = [where](T& m, const std::string& v) { m.*where = *readAngles(v); };
    f.check = [label = std::string(label)](const std::string& v) -> std::optional<Error> {
        if (readAngles(v))
            return {};
        return Error{"\"" + v.substr(0, 40) + "\" is no coverage", label,
                     "Type one angle such as 90, or eight from 63 Hz to 8 kHz, each from 1 to 360."};
    };
    return f;
}

FieldOf<DeviceModel> portsField(const char* id, const char* label, const char* name,
                                std::vector<PortGroup> DeviceModel::*side) {
    FieldOf<DeviceModel> f{{id, label, "", 0, -0.5, 512, 0}};
    f.number = [side, name](const DeviceModel& m) {
        for (const auto& g : m.*side)
            if (g.name == name)
                return static_cast<double>(g.count);
        return 0.0;
    };
    f.setNumber = [side, name, label](DeviceModel& m, double v) {
        const int count = std::max(0, static_cast<int>(std::lround(v)));
        auto& all = m.*side;
        const auto at = std::find_if(all.begin(), all.end(), [&](const auto& g) { return g.name == name; });
        if (count == 0 && at != all.end())
            all.erase(at);
        else if (count > 0)
            at == all.end() ? void(all.push_back({name, label, count})) : void(at->count = count);
    };
    return f;
}

Type<PortGroup> portsType() {
    Type<PortGroup> t("ports", "Ports of one name, counted from 1");
    t.add("name", &PortGroup::name).needed();
    t.add("label", &PortGroup::label).always();
    t.add("count", &PortGroup::count).range(0, 512).always();
    t.extra(&PortGroup::extra);
    return t;
}

Type<LoudspeakerData> loudspeakerType() {
    Type<LoudspeakerData> t("loudspeaker", "What calculations need of a loudspeaker");
    t.add("sensitivity", &LoudspeakerData::sensitivity)
        .range(40, 130)
        .label("Sensitivity, 1 W at 1 m", "dB", 1)
        .needed()
        .help("dB SPL at 1 m for 1 W");
    t.add("maxLevel", &LoudspeakerData::maxLevel)
        .range(40, 170)
        .label("Most for long, at 1 m", "dB", 1)
        .needed()
        .help("the most it bears for long, dB SPL at 1 m");
    t.add("bands", &LoudspeakerData::bands)
        .range(-60, 20)
        .must("must be eight numbers, 63 Hz to 8 kHz, from -60 to 20")
        .always()
        .help("dB against the sensitivity, 63 Hz to 8 kHz");
    t.add("horizontal", &LoudspeakerData::horizontal)
        .range(1, 360)
        .must(anglesMust)
        .always()
        .help("coverage angles (-6 dB), 63 Hz to 8 kHz");
    t.add("vertical", &LoudspeakerData::vertical)
        .range(1, 360)
        .must(anglesMust)
        .always()
        .defaultFrom([](const LoudspeakerData& l) { return l.horizontal; })
        .help("without it as `horizontal`");
    t.form([](const LoudspeakerData&) {
        return std::vector{anglesField("horizontal", "Coverage across, \u00b0", &LoudspeakerData::horizontal),
                           anglesField("vertical", "Coverage up and down, \u00b0", &LoudspeakerData::vertical)};
    });
    t.extra(&LoudspeakerData::extra);
    return t;
}

Type<MicrophoneData> microphoneType() {
    Type<MicrophoneData> t("microphone", "What calculations need of a microphone");
    const auto array = [](const MicrophoneData& m) { return m.lobes > 0; };
    t.add("pattern", &MicrophoneData::pattern)
        .range(0, 1)
        .label("Pattern (1 all round, 0.5 cardioid)")
        .when([](const MicrophoneData& m) { return m.lobes == 0; })
        .always()
        .help("1 all round, 0.5 cardioid");
    t.add("sensitivity", &MicrophoneData::sensitivity)
        .range(-80, 40)
        .label("Sensitivity", "dB", 1)
        .help("dBV for 1 Pa (94 dB SPL); of one on the network dBFS");
    t.add("lobes", &MicrophoneData::lobes)
        .range(0, 64)
        .typed(1, 64)
        .label("Beams")
        .when(array)
        .always()
        .help("beams that find talkers by themselves; 0: one fixed pattern");
    t.add("beam", &MicrophoneData::beam)
        .range(1, 360)
        .must(anglesMust)
        .writtenIf(array)
        .help("coverage angle of one beam, 63 Hz to 8 kHz");
    t.form([array](const MicrophoneData& m) {
        return array(m) ? std::vector{anglesField("beam", "Width of a beam, \u00b0", &MicrophoneData::beam)}
                        : std::vector<FieldOf<MicrophoneData>>{};
    });
    t.add("reinforced", &MicrophoneData::reinforced)
        .label("Heard in its own room")
        .yesFirst()
        .always()
        .help("heard over the loudspeakers of its own room");
    t.extra(&MicrophoneData::extra);
    return t;
}

Type<PowerRating> ratingType() {
    Type<PowerRating> t("rating", "The power one output gives into a load, for long");
    t.add("ohms", &PowerRating::ohms).range(0.5, 1000).needed();
    t.add("watts", &PowerRating::watts).range(0.1, 1e6).needed();
    t.extra(&PowerRating::extra);
    return t;
}

Type<AmplifierData> amplifierType() {
    Type<AmplifierData> t("amplifier", "What an amplifier's sheet says");
    t.add("gainDb", &AmplifierData::gainDb).range(0, 60).always();
    t.add("fullScaleDbu", &AmplifierData::fullScaleDbu)
        .range(-20, 40)
        .always()
        .help("of a full-scale sine in its own processing, at its input");
    t.add("leastOhms", &AmplifierData::leastOhms).range(0.5, 100).always();
    t.add("sourceOhms", &AmplifierData::sourceOhms).range(0, 10).always();
    t.add("totalWatts", &AmplifierData::totalWatts).range(0, 1e6).always().help("of all outputs; 0: their sum");
    t.add("lineWatts", &AmplifierData::lineWatts).range(0, 1e6).always().help("of one output on a line; 0: none");
    t.add("power", &AmplifierData::power).items(1, 100).needed();
    t.extra(&AmplifierData::extra);
    return t;
}

Type<SocketGroup> socketsType() {
    Type<SocketGroup> t("sockets", "Sockets of one kind for network cables, counted from 1");
    t.add("name", &SocketGroup::name).always();
    t.add("count", &SocketGroup::count).range(1, 512).always();
    t.add("megabits", &SocketGroup::megabits).range(1, 1e6).always().help("a second, each way");
    t.add("feeds", &SocketGroup::feeds).help("gives power to what hangs on it");
    t.extra(&SocketGroup::extra);
    return t;
}

Type<PeerLimit> peerType() {
    Type<PeerLimit> t("peers", "How many devices of one use it can hear");
    t.add("use", &PeerLimit::use).needed();
    t.add("devices", &PeerLimit::devices).range(0, 1000).needed();
    t.extra(&PeerLimit::extra);
    return t;
}

Type<SoundNetworkData> soundNetworkType() {
    Type<SoundNetworkData> t("soundNetwork", "What it can do on the packet network; 0: no limit but that of its ports");
    t.add("flowsOut", &SoundNetworkData::flowsOut).range(0, 10000).always().help("streams it sends");
    t.add("flowsIn", &SoundNetworkData::flowsIn).range(0, 10000).always().help("streams it hears");
    t.add("streamChannels", &SoundNetworkData::streamChannels).range(0, 80).help("in one stream");
    t.add("samples", &SoundNetworkData::samples).items(0, 2).help("`L24`, `L16`; without it both");
    t.add("packetMs", &SoundNetworkData::packetMs).items(0, 16).help("packet times it knows, ms; without it all");
    t.add("peers", &SoundNetworkData::peers).items(0, 100);
    t.add("bufferMs", &SoundNetworkData::bufferMs).range(0, 100).help("it holds packets back at least so long");
    t.add("clockPriority", &SoundNetworkData::clockPriority)
        .range(0, 255)
        .help("who leads the clock: the lower goes first (IEEE 1588)");
    t.add("clockClass", &SoundNetworkData::clockClass)
        .range(0, 255)
        .help("among equals; 255: it never leads (IEEE 1588)");
    t.extra(&SoundNetworkData::extra);
    return t;
}

Type<RingData> ringType() {
    Type<RingData> t("ring", "The audio ring: sockets `ring a` and `ring b`, sound goes both ways round");
    t.add("slots", &RingData::channels).range(1, 10000).always().help("channels of the whole ring");
    t.add("hopSamples", &RingData::hopSamples).range(0, 1000).help("what one device adds on the way");
    t.extra(&RingData::extra);
    return t;
}

Type<DeviceModel> modelType() {
    Type<DeviceModel> t("model", "A device model of the catalogue");
    t.add("id", &DeviceModel::id).id();
    t.add("name", &DeviceModel::name).label("Name").needed();
    t.add("maker", &DeviceModel::maker).label("Maker").always();
    t.add("purpose", &DeviceModel::purpose).label("What it is for").always();
    t.add("group", &DeviceModel::group).always().help("of the shelf");
    t.form([](const DeviceModel&) {
        return std::vector{choiceField<DeviceModel>(
            "group", "On the shelf under", groups, groups, [](const DeviceModel& one) { return one.group; },
            [](DeviceModel& one, const std::string& v) { one.group = v; })};
    });
    t.add("use", &DeviceModel::use).label("Use, one word for names").always();
    t.add("mount", &DeviceModel::mount).always();
    t.form([](const DeviceModel&) {
        return std::vector{choiceField<DeviceModel>(
            "mount", "Mounted on", mounts, mounts, [](const DeviceModel& one) { return one.mount; },
            [](DeviceModel& one, const std::string& v) { one.mount = v; })};
    });
    t.add("loudspeaker", &DeviceModel::loudspeaker);
    t.add("microphone", &DeviceModel::microphone);
    t.add("amplifier", &DeviceModel::amplifier);
    t.add("inputs", &DeviceModel::inputs).items(0, 100).always();
    t.add("outputs", &DeviceModel::outputs).items(0, 100).always();
    t.form([](const DeviceModel&) {
        return std::vector{portsField("inputs", "Inputs", "in", &DeviceModel::inputs),
                           portsField("outputs", "Outputs", "out", &DeviceModel::outputs)};
    });
    t.add("fullScaleDbu", &DeviceModel::fullScaleDbu)
        .range(-20, 40)
        .help("of a processor's line outputs: level of a full-scale sine");
    t.add("inputDbu", &DeviceModel::inputDbu)
        .range(-60, 40)
        .help("of a processor's microphone inputs: level of a full-scale sine with the preamplifier at 0 dB");
    t.add("mute", &DeviceModel::mute)
        .choices({"", "shows", "sets"})
        .help("what it can do about the mute of its space: `shows` by a lamp, `sets` and shows");
    t.add("network", &DeviceModel::network).label("On the network").always();
    t.add("sockets", &DeviceModel::sockets)
        .items(0, 100)
        .help("for network cables; without it one of 1000 Mbit/s where it is on the network");
    t.add("bridges", &DeviceModel::bridges).help("what comes in at one socket goes on to the others: a switch");
    t.add("soundNetwork", &DeviceModel::soundNetwork);
    t.add("ring", &DeviceModel::ring);
    t.add("converterIn", &DeviceModel::converterIn).range(0, 10000).help("samples from a socket to its sound");
    t.add("converterOut", &DeviceModel::converterOut).range(0, 10000).help("samples from sound to its socket");
    t.add("firmware", &DeviceModel::firmware).label("Newest firmware").help("the newest known");
    t.add("poeClass", &DeviceModel::poeClass).range(0, 8).label("PoE class it takes");
    t.add("poeWatts", &DeviceModel::poeWatts).range(0, 100).label("PoE power it takes", "W", 1);
    t.add("poeBudget", &DeviceModel::poeBudget).range(0, 1e5).label("PoE power it offers", "W", 0).help("of a switch");
    t.add("poePorts", &DeviceModel::poePorts).range(0, 1000);
    t.add("watts", &DeviceModel::watts).range(0, 1e6).label("Mains power", "W", 0);
    t.add("heat", &DeviceModel::heat)
        .range(0, 1e6)
        .label("Heat", "W", 0)
        .defaultFrom([](const DeviceModel& m) { return m.watts; })
        .help("what of it becomes heat; without it all");
    t.add("rackUnits", &DeviceModel::rackUnits).range(0, 60).label("Rack units");
    t.add("usb", &DeviceModel::usb).help("a small board: a computer reaches it over USB");
    t.add("storeBytes", &DeviceModel::storeBytes).range(0, 1e9).help("of its store");
    t.add("screenWidth", &DeviceModel::screenWidth).range(0, 8192).help("pixels of a touch surface");
    t.add("screenHeight", &DeviceModel::screenHeight).range(0, 8192);
    t.add("screenMm", &DeviceModel::screenMm).range(0, 20000).help("how wide it is");
    t.add("pictureMegabytes", &DeviceModel::pictureMegabytes)
        .range(0, 65536)
        .help("of decoded pictures that a touch surface can show");
    t.add("knobs", &DeviceModel::knobs).range(0, 16);
    t.add("buttons", &DeviceModel::buttons).range(0, 16);
    t.add("contacts", &DeviceModel::contacts)
        .range(0, 32)
        .help("contact inputs, for latches of walls and wired buttons");
    t.add("relays", &DeviceModel::relays).range(0, 32).help("for lamps");
    t.add("workBudget", &DeviceModel::workBudget).range(0, 1e9).help("ns per sample; 0: does not process");
    t.add("memoryBudget", &DeviceModel::memoryBudget).range(0, 1e15).help("bytes");
    t.extra(&DeviceModel::extra);
    return t;
}

} // namespace

LOOM_TYPE(PortGroup, portsType)
LOOM_TYPE(SocketGroup, socketsType)
LOOM_TYPE(PeerLimit, peerType)
LOOM_TYPE(SoundNetworkData, soundNetworkType)
LOOM_TYPE(RingData, ringType)
LOOM_TYPE(LoudspeakerData, loudspeakerType)
LOOM_TYPE(MicrophoneData, microphoneType)
LOOM_TYPE(PowerRating, ratingType)
LOOM_TYPE(AmplifierData, amplifierType)
LOOM_TYPE(DeviceModel, modelType)

} // namespace loom::schema
