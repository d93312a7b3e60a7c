#include "project/voicing_json.h"
#include <cmath>

namespace loom::project {
namespace {

using nlohmann::json;

const char* const wirings[] = {"parallel", "series", "line 70 V", "line 100 V"};

json partJson(const engine::Block& b) {
    json j = {{"values", b.values}};
    if (!b.texts.empty())
        j["texts"] = b.texts;
    return j;
}

// Values and files of a block that is there; its kind and shape are ours.
void readPart(Reader& r, const json& j, const std::string& place, engine::Block& b) {
    Reader part(j, place);
    b.values.clear(), b.texts.clear();
    part.fields("values", [&](const std::string& key, const json& v) {
        if (!v.is_number() || !std::isfinite(v.get<double>()))
            part.fail("values/" + key, "must be a number");
        else
            b.values[key] = v.get<double>();
    });
    part.fields("texts", [&](const std::string& key, const json& v) {
        if (!v.is_string() || v.get_ref<const std::string&>().size() > maxTextLength)
            part.fail("texts/" + key, "must be a text");
        else
            b.texts[key] = v.get<std::string>();
    });
    if (part.failed())
        r.take(part.trouble());
}

void readWay(Reader& r, Way& w) {
    w.name = r.text("name", true);
    const auto driver = r.text("driver");
    if (driver != "" && driver != "cone" && driver != "compression")
        r.fail("driver", "must be \"cone\" or \"compression\"");
    w.driver = driver == "compression" ? speaker::DriverKind::compression : speaker::DriverKind::cone;
    w.nominalOhms = r.number("ohms", 8, 0.5, 10000), w.minimumOhms = r.number("leastOhms", 0, 0, 10000);
    w.rmsWatts = r.number("watts", 0, 0, 1e5), w.peakWatts = r.number("peakWatts", 0, 0, 1e6);
    w.sensitivity = r.number("sensitivity", 0, 0, 140), w.coilMm = r.number("coilMm", 0, 0, 500);
    w.margins = {r.number("peakMarginDb", 0, -20, 40), r.number("thermalMarginDb", 0, -20, 40)};
    w.protect = r.flag("protect", true), w.response = r.text("response"), w.impedance = r.text("impedance");
    r.fields("processing", [&](const std::string& key, const json& j) {
        for (auto& b : w.chain)
            if (b.id == key)
                return readPart(r, j, r.place() + "/processing/" + key, b);
        if (key == "fir") { // only some have one
            engine::Block fir;
            fir.id = fir.kind = "fir";
            readPart(r, j, r.place() + "/processing/fir", fir);
            w.chain.insert(w.chain.begin() + 3, fir);
        }
    });
}

} // namespace

Voicing readVoicing(Reader& r) {
    std::size_t count = 0;
    r.each("ways", [&](const json&, const std::string&) { ++count; });
    if (count < 1 || count > mostWays)
        r.fail("ways", "must be a list of one to four ways");
    Voicing v = newVoicing(r.id(), r.text("name", true), static_cast<int>(count));
    v.maker = r.text("maker"), v.notes = r.text("notes"), v.target = r.text("target");
    v.across = r.number("across", 0, 0, 360), v.upDown = r.number("upDown", 0, 0, 360);
    r.each("taps", [&](const json& j, const std::string& place) {
        if (!j.is_number() || !(j.get<double>() > 0 && j.get<double>() <= 10000) || v.taps.size() >= 20)
            r.take({"must be at most 20 taps above 0 W", place, ""});
        else
            v.taps.push_back(j.get<double>());
    });
    if (const json* j = r.find("whole", false))
        readPart(r, *j, r.place() + "/whole", v.whole);
    std::size_t i = 0;
    r.each("ways", [&](const json& j, const std::string& place) {
        Reader way(j, place);
        if (i < v.ways.size())
            readWay(way, v.ways[i++]);
        if (way.failed())
            r.take(way.trouble());
    });
    v.extra = r.rest();
    return v;
}

json toJson(const Voicing& v) {
    json j = {{"id", v.id}, {"name", v.name}};
    for (const auto& [key, text] : {std::pair("maker", &v.maker), {"notes", &v.notes}, {"target", &v.target}})
        addText(j, key, *text);
    if (v.across > 0)
        j["across"] = v.across, j["upDown"] = v.upDown;
    if (!v.taps.empty())
        j["taps"] = v.taps;
    j["whole"] = partJson(v.whole);
    for (const auto& w : v.ways) {
        json way = {{"name", w.name},
                    {"driver", w.driver == speaker::DriverKind::cone ? "cone" : "compression"},
                    {"ohms", w.nominalOhms}};
        for (const auto& [key, value] : {std::pair("leastOhms", w.minimumOhms),
                                         {"watts", w.rmsWatts},
                                         {"peakWatts", w.peakWatts},
                                         {"sensitivity", w.sensitivity},
                                         {"coilMm", w.coilMm},
                                         {"peakMarginDb", w.margins.peakDb},
                                         {"thermalMarginDb", w.margins.thermalDb}})
            if (value != 0)
                way[key] = value;
        if (!w.protect)
            way["protect"] = false;
        addText(way, "response", w.response);
        addText(way, "impedance", w.impedance);
        for (const auto& b : w.chain)
            way["processing"][b.id] = partJson(b);
        j["ways"].push_back(way);
    }
    addExtra(j, v.extra);
    return j;
}

AmplifierOutputs readOutputs(Reader& r, const char* key) {
    AmplifierOutputs all;
    r.fields(key, [&](const std::string& port, const json& j) {
        Reader o(j, r.place() + "/" + key + "/" + port);
        AmplifierOutput out;
        const auto wiring = o.text("wiring");
        bool known = wiring.empty();
        for (int i = 0; i < 4; ++i)
            if (wiring == wirings[i])
                out.wiring = static_cast<Wiring>(i), known = true;
        if (!known)
            o.fail("wiring", "must be \"parallel\", \"series\", \"line 70 V\" or \"line 100 V\"");
        out.metres = o.number("metres", out.metres, 0, 10000), out.mm2 = o.number("mm2", out.mm2, 0.05, 100);
        out.celsius = o.number("celsius", out.celsius, -50, 150);
        o.each("loads", [&](const json& one, const std::string& place) {
            Reader l(one, place);
            out.loads.push_back(
                {l.id("device"), static_cast<int>(l.number("way", 1, 1, mostWays)) - 1, l.number("tap", 0, 0, 10000)});
            if (l.failed())
                o.take(l.trouble());
        });
        if (o.failed())
            r.take(o.trouble());
        all[port] = std::move(out);
    });
    return all;
}

json toJson(const AmplifierOutputs& outputs) {
    json all = json::object();
    for (const auto& [port, out] : outputs) {
        json j = {{"wiring", wirings[static_cast<int>(out.wiring)]},
                  {"metres", out.metres},
                  {"mm2", out.mm2},
                  {"celsius", out.celsius},
                  {"loads", json::array()}};
        for (const auto& l : out.loads) {
            json one = {{"device", l.device}, {"way", l.way + 1}};
            if (l.tapWatts > 0)
                one["tap"] = l.tapWatts;
            j["loads"].push_back(one);
        }
        all[port] = j;
    }
    return all;
}

} // namespace loom::project
