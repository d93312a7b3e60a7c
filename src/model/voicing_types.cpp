// The declarations of voicings and of what hangs on amplifiers.
#include "dsp/number.h"
#include "model/describe.h"

namespace loom::schema {

using namespace project;

namespace {

// What is written of a block that is always there: its values and files. Its kind and shape are ours.
Json partJson(const engine::Block& b) {
    Json j = Codec<engine::Block>::write(b, {});
    for (const char* ours : {"id", "kind", "shape"})
        j.erase(ours);
    j["values"] = b.values;
    return j;
}

void readPart(engine::Block& b, const Json& j, const At& at, Reading& r) {
    if (!j.is_object())
        return r.fail(at, "must be an object");
    Json whole = j;
    whole["id"] = b.id;
    whole["kind"] = b.kind;
    engine::Block read;
    Codec<engine::Block>::read(read, whole, {}, at, r);
    read.shape = b.shape;
    b = std::move(read);
}

Json partSchema(Definitions& d) {
    if (!d.count("part")) {
        Json j = Describe<engine::Block>::type().schema(d);
        j.erase("required");
        for (const char* ours : {"id", "kind", "shape"})
            j["properties"].erase(ours);
        j["description"] = "A block of a voicing; its kind and shape are ours";
        d["part"] = std::move(j);
    }
    return {{"$ref", "#/definitions/part"}};
}

void readChain(Way& w, const Json* j, const At& at, Reading& r) {
    w.chain = newChain();
    if (!j)
        return;
    if (!j->is_object())
        return r.fail(at, "must be an object");
    for (auto it = j->begin(); it != j->end() && !r.failed(); ++it) {
        if (it.key() == "fir") { // only some have one
            engine::Block fir;
            fir.id = fir.kind = "fir";
            w.chain.insert(w.chain.begin() + 3, fir);
        }
        const auto part = std::find_if(w.chain.begin(), w.chain.end(), [&](const auto& b) { return b.id == it.key(); });
        if (part != w.chain.end())
            readPart(*part, it.value(), At(at, it.key()), r);
        else
            w.unknownParts[it.key()] = it.value().dump(-1, ' ', false, Json::error_handler_t::replace);
    }
}

Type<Way> wayType() {
    Type<Way> t("way", "One way of a loudspeaker: its driver, and what its sound goes through");
    t.add("name", &Way::name).label("Way").needed();
    auto& chain = t.byHand("processing", "`highpass`, `lowpass`, `eq`, `fir`, `delay`, `level`, `limiter`, each with "
                                         "`values` (and `texts`) as in blocks");
    chain.reader = [](Way& w, const Json* j, const At& at, Reading& r) { readChain(w, j, At(at, "processing"), r); };
    chain.writer = [](const Way& w) {
        Json j = Json::object();
        for (const auto& b : w.chain)
            j[b.id] = partJson(b);
        for (const auto& [id, text] : w.unknownParts)
            j[id] = Json::parse(text, nullptr, false);
        return j;
    };
    chain.checker = [](const Way& w, const Way*, const At& at, Reading& r) {
        const At here(at, "processing");
        for (const auto& b : w.chain)
            Codec<engine::Block>::check(b, {}, At(here, b.id), r);
    };
    chain.describer = [](Definitions& d) { return Json{{"type", "object"}, {"additionalProperties", partSchema(d)}}; };
    t.add("driver", &Way::driver)
        .choices({"cone", "compression"})
        .named({"Cone", "Compression driver"})
        .label("Driver")
        .always();
    t.add("ohms", &Way::nominalOhms).range(0.5, 10000).label("Impedance", "\u03a9", 1).always();
    t.add("leastOhms", &Way::minimumOhms)
        .range(0, 10000)
        .label("Least impedance", "\u03a9", 1)
        .help("0: not known, 80 % of the nominal one is taken (IEC 60268-5, 16.1)");
    t.add("watts", &Way::rmsWatts).range(0, 1e5).label("Noise power", "W", 0).help("noise power");
    t.add("peakWatts", &Way::peakWatts).range(0, 1e6).label("Peak power", "W", 0);
    t.add("sensitivity", &Way::sensitivity).range(0, 140).label("Sensitivity", "dB", 1).help("dB SPL, 1 W at 1 m");
    t.add("coilMm", &Way::coilMm).formId("coil").range(0, 500).label("Voice coil", "mm", 0);
    for (const auto& [key, member, label] : {std::tuple("peakLimit", &Way::peakLimit, "Maker's peak limit"),
                                             {"rmsLimit", &Way::rmsLimit, "Maker's limit of the mean"}})
        t.add(key, member)
            .label(label)
            .letters(30)
            .help("as the maker states it, in V at the loudspeaker or dBu at the amplifier: `104 V`, `7.5 dBu`");
    t.add("limitAttackMs", &Way::limitAttackMs).range(0, 1e5).label("Its attack", "ms", 1);
    t.add("limitReleaseMs", &Way::limitReleaseMs).range(0, 1e6).label("Its release", "ms", 0);
    t.add("protect", &Way::protect)
        .label("Limiter")
        .named({"Off", "Follows from the data"})
        .yesFirst()
        .help("the limiter works, with thresholds that follow from all this");
    t.add(
         "peakMarginDb", [](auto& w) -> auto& { return w.margins.peakDb; })
        .formId("peakMargin")
        .range(-20, 40)
        .label("Margin, peaks", "dB", 1);
    t.add(
         "thermalMarginDb", [](auto& w) -> auto& { return w.margins.thermalDb; })
        .formId("thermalMargin")
        .range(-20, 40)
        .label("Margin, heat", "dB", 1);
    t.add("response", &Way::response).help("a file: frequency, dB, degrees");
    t.add("impedance", &Way::impedance).help("a file: frequency, ohms");
    t.extra(&Way::extra);
    return t;
}

Type<Voicing> voicingType() {
    Type<Voicing> t("voicing", "What a loudspeaker is by its sheet, and how its sound is made right");
    t.add("id", &Voicing::id).id();
    t.add("name", &Voicing::name).label("Name").needed();
    t.add("maker", &Voicing::maker).label("Maker");
    auto& whole = t.byHand("whole", "an equaliser before all ways");
    whole.reader = [](Voicing& v, const Json* j, const At& at, Reading& r) {
        v.whole = newVoicing("", "", 1).whole;
        if (j)
            readPart(v.whole, *j, At(at, "whole"), r);
    };
    whole.writer = [](const Voicing& v) { return partJson(v.whole); };
    whole.checker = [](const Voicing& v, const Voicing*, const At& at, Reading& r) {
        Codec<engine::Block>::check(v.whole, {}, At(at, "whole"), r);
    };
    whole.describer = partSchema;
    t.add("taps", &Voicing::taps).above(0, 10000).items(0, 20).help("W, of its transformer at 100 V");
    t.form([](const Voicing&) {
        FieldOf<Voicing> taps{{"taps", "Taps at 100 V, W"}};
        taps.text = [](const Voicing& one) {
            std::string text;
            for (const double w : one.taps)
                text += (text.empty() ? "" : " ") + shortText(w, 4);
            return text;
        };
        taps.check = [](const std::string& typed) -> std::optional<Error> {
            const auto list = typedNumbers(typed);
            if (list && list->size() <= 20 &&
                std::all_of(list->begin(), list->end(), [](double w) { return w > 0 && w <= 10000; }))
                return {};
            return Error{"\"" + typed.substr(0, 40) + "\" is no list of taps", "Taps",
                         "Type watts parted by blanks, such as 30 15 7.5."};
        };
        taps.setText = [](Voicing& one, const std::string& typed) { one.taps = *typedNumbers(typed); };
        return std::vector{taps};
    });
    t.add("across", &Voicing::across).range(0, 360).label("Coverage across", "\u00b0", 0).help("degrees; 0: not known");
    t.add("upDown", &Voicing::upDown).range(0, 360).label("Coverage up and down", "\u00b0", 0);
    t.add("target", &Voicing::target).help("a file: the curve it is to have; without it even");
    t.add("ways", &Voicing::ways).items(1, mostWays).needed().help("1 to 4, lowest first");
    t.add("notes", &Voicing::notes).label("Notes").letters(longestNotes);
    t.extra(&Voicing::extra);
    return t;
}

Type<LoudspeakerLoad> loadType() {
    Type<LoudspeakerLoad> t("load", "A loudspeaker, or one way of it, on an amplifier's output");
    t.add("device", &LoudspeakerLoad::device).id();
    t.add("way", &LoudspeakerLoad::way).range(0, static_cast<double>(mostWays) - 1).shift(1).always().help("from 1");
    t.add("tap", &LoudspeakerLoad::tapWatts).range(0, 10000).help("W, on a line");
    t.extra(&LoudspeakerLoad::extra);
    return t;
}

Type<AmplifierOutput> outputType() {
    Type<AmplifierOutput> t("output", "What hangs on one output of an amplifier, and the cable to it");
    t.add("loads", &AmplifierOutput::loads).always();
    t.add("wiring", &AmplifierOutput::wiring).choices({"parallel", "series", "line 70 V", "line 100 V"}).always();
    t.add("metres", &AmplifierOutput::metres).range(0, 10000).always().help("cable, one way");
    t.add("mm2", &AmplifierOutput::mm2).range(0.05, 100).always();
    t.add("celsius", &AmplifierOutput::celsius).range(-50, 150).always();
    t.extra(&AmplifierOutput::extra);
    return t;
}

} // namespace

LOOM_TYPE(Way, wayType)
LOOM_TYPE(Voicing, voicingType)
LOOM_TYPE(LoudspeakerLoad, loadType)
LOOM_TYPE(AmplifierOutput, outputType)

} // namespace loom::schema
