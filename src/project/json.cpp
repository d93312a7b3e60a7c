#include "project/json.h"
#include "project/json_reader.h"
#include "project/migrate.h"
#include "project/survey_json.h"
#include "project/voicing_json.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

using engine::Block;
using engine::Program;
using nlohmann::json;

json blockJson(const Block& b) {
    json j = {{"id", b.id}, {"kind", b.kind}};
    addText(j, "label", b.label);
    addMap(j, "shape", b.shape);
    addMap(j, "values", b.values);
    addMap(j, "texts", b.texts);
    addMap(j, "marks", b.marks);
    addExtra(j, b.extra);
    return j;
}

json endJson(const engine::PortRef& p) {
    return json::array({p.block, p.port});
}

Block readBlock(Reader& r) {
    Block b;
    b.id = r.id(), b.kind = r.id("kind"), b.label = r.text("label");
    r.fields("shape", [&](const std::string& key, const json& v) {
        if (!v.is_number_integer() || v.get<double>() < 0 || v.get<double>() > 4096)
            r.fail("shape/" + key, "must be a whole number from 0 to 4096");
        else
            b.shape[key] = v.get<int>();
    });
    r.fields("values", [&](const std::string& key, const json& v) {
        if (!v.is_number() || !std::isfinite(v.get<double>()))
            r.fail("values/" + key, "must be a number");
        else
            b.values[key] = v.get<double>();
    });
    const auto readTexts = [&r](const char* field, std::map<std::string, std::string>& into) {
        r.fields(field, [&](const std::string& key, const json& v) {
            if (!v.is_string() || v.get_ref<const std::string&>().size() > maxTextLength)
                r.fail(std::string(field) + "/" + key, "must be a text of at most 4096 letters");
            else
                into[key] = v.get<std::string>();
        });
    };
    readTexts("texts", b.texts);
    readTexts("marks", b.marks);
    b.extra = r.rest();
    return b;
}

bool readEnd(const json& j, engine::PortRef& port) {
    if (!j.is_array() || j.size() != 2 || !j[0].is_string() || !j[1].is_number_integer())
        return false;
    const double n = j[1].get<double>();
    if (n < 0 || n > 4096)
        return false;
    port = {j[0].get<std::string>(), static_cast<int>(n)};
    return true;
}

Program readProgram(Reader& r) {
    Program p;
    p.revision = static_cast<int>(r.number("revision", 1, 0, 1e9));
    r.each("blocks", [&](const json& j, const std::string& place) {
        Reader b(j, place);
        p.blocks.push_back(readBlock(b));
        if (b.failed())
            r.take(b.trouble());
    });
    r.each("threads", [&](const json& j, const std::string& place) {
        engine::Thread t;
        if (!j.is_array() || j.size() != 2 || !readEnd(j[0], t.from) || !readEnd(j[1], t.to))
            r.take({"must be a thread such as [[\"chair\", 0], [\"eq\", 0]]", place, ""});
        else
            p.threads.push_back(t);
    });
    p.extra = r.rest();
    return p;
}

std::optional<Program> readProgramField(Reader& r, const char* key) {
    const json* j = r.find(key, false);
    if (!j)
        return {};
    Reader inner(*j, r.place() + "/" + key);
    Program p = readProgram(inner);
    if (inner.failed())
        r.take(inner.trouble());
    return p;
}

Device readDevice(Reader& r) {
    Device d;
    d.id = r.id(), d.name = r.text("name"), d.model = r.text("model"), d.room = r.text("room");
    d.address = r.text("address"), d.serial = r.text("serial");
    d.rate = r.number("rate", 48000, 8000, 192000);
    d.program = readProgramField(r, "program");
    d.lastSent = readProgramField(r, "lastSent");
    d.lastKept = readProgramField(r, "lastKept");
    r.each("stands", [&](const json& j, const std::string& place) {
        Reader s(j, place);
        d.stands.push_back(
            {s.text("port", true), s.text("asset", true), s.number("gainDb", 0, -120, 40), s.flag("loop", true)});
        if (s.failed())
            r.take(s.trouble());
    });
    if (const json* j = r.find("place", false)) {
        Reader inner(*j, r.place() + "/place");
        d.place = readPlace(inner);
        if (inner.failed())
            r.take(inner.trouble());
    }
    d.use = r.text("use"), d.notes = r.text("notes"), d.assetNumber = r.text("assetNumber");
    d.lampLive = r.text("lampLive"), d.lampMuted = r.text("lampMuted");
    d.trimDb = r.number("trimDb", 0, -40, 20), d.delayMs = r.number("delayMs", 0, 0, 2000);
    d.silentHere = r.flag("silentHere", false);
    r.fields("owners", [&](const std::string& port, const json& v) {
        v.is_string() ? void(d.owners[port] = v.get<std::string>()) : r.fail("owners/" + port, "must be a room's id");
    });
    r.fields("setUp", [&](const std::string& id, const json& v) {
        v.is_string() ? void(d.setUp[id] = v.get<std::string>()) : r.fail("setUp/" + id, "must be a text");
    });
    if (r.find("lastSetUp", false)) {
        d.lastSetUp.emplace();
        r.fields("lastSetUp", [&](const std::string& id, const json& v) {
            v.is_string() ? void((*d.lastSetUp)[id] = v.get<std::string>())
                          : r.fail("lastSetUp/" + id, "must be a text");
        });
    }
    d.lastRevision = static_cast<int>(r.number("lastRevision", 0, 0, 1e9));
    d.identity = r.text("identity"), d.lastBoot = r.text("lastBoot");
    d.voicing = r.text("voicing"), d.outputs = readOutputs(r, "outputs");
    r.fields("feeds", [&](const std::string& port, const json& v) {
        v.is_string() ? void(d.feeds[port] = v.get<std::string>())
                      : r.fail("feeds/" + port, "must be a port such as \"heddle/out 1\"");
    });
    d.extra = r.rest();
    return d;
}

json deviceJson(const Device& d) {
    json j = {{"id", d.id}, {"name", d.name}, {"model", d.model}, {"rate", d.rate}};
    addText(j, "room", d.room);
    addText(j, "address", d.address);
    addText(j, "serial", d.serial);
    if (d.program)
        j["program"] = loom::project::toJson(*d.program);
    if (d.lastSent)
        j["lastSent"] = loom::project::toJson(*d.lastSent);
    if (d.lastKept)
        j["lastKept"] = loom::project::toJson(*d.lastKept);
    for (const auto& s : d.stands)
        j["stands"].push_back({{"port", s.port}, {"asset", s.asset}, {"gainDb", s.gainDb}, {"loop", s.loop}});
    if (d.place.placed)
        j["place"] = toJson(d.place);
    for (const auto& [key, text] : {std::pair{"use", &d.use},
                                    {"notes", &d.notes},
                                    {"assetNumber", &d.assetNumber},
                                    {"lampLive", &d.lampLive},
                                    {"lampMuted", &d.lampMuted}})
        addText(j, key, *text);
    if (d.trimDb != 0)
        j["trimDb"] = d.trimDb;
    if (d.delayMs != 0)
        j["delayMs"] = d.delayMs;
    if (d.silentHere)
        j["silentHere"] = true;
    addMap(j, "owners", d.owners);
    addMap(j, "setUp", d.setUp);
    if (d.lastSetUp)
        j["lastSetUp"] = *d.lastSetUp;
    if (d.lastRevision > 0)
        j["lastRevision"] = d.lastRevision;
    addText(j, "lastBoot", d.lastBoot);
    addText(j, "identity", d.identity);
    addText(j, "voicing", d.voicing);
    if (!d.outputs.empty())
        j["outputs"] = toJson(d.outputs);
    addMap(j, "feeds", d.feeds);
    addExtra(j, d.extra);
    return j;
}

} // namespace

json toJson(const Program& p) {
    json j = {{"revision", p.revision}, {"blocks", json::array()}, {"threads", json::array()}};
    for (const auto& b : p.blocks)
        j["blocks"].push_back(blockJson(b));
    for (const auto& t : p.threads)
        j["threads"].push_back(json::array({endJson(t.from), endJson(t.to)}));
    addExtra(j, p.extra);
    return j;
}

json toJson(const Project& p) {
    json j = {{"format", "nimble-loom-project"}, {"version", formatVersion}, {"name", p.name}};
    j["buildings"] = json::array();
    for (const auto& b : p.buildings)
        j["buildings"].push_back(toJson(b));
    j["devices"] = json::array();
    for (const auto& d : p.devices)
        j["devices"].push_back(deviceJson(d));
    for (const auto& v : p.voicings)
        j["voicings"].push_back(toJson(v));
    for (const auto& l : p.left)
        j["left"].push_back({{"code", l.code}, {"device", l.device}, {"block", l.block}, {"because", l.because}});
    addExtra(j, p.extra);
    return j;
}

json toJson(const Tool& t) {
    const char* kinds[] = {"mute", "inject", "bridge", "solo"};
    json j = {{"kind", kinds[static_cast<int>(t.kind)]}, {"at", endJson(t.at)}};
    if (t.kind == Tool::Kind::bridge)
        j["from"] = endJson(t.from);
    if (t.kind == Tool::Kind::inject)
        j["signal"] = t.signal;
    if (t.kind == Tool::Kind::inject || t.kind == Tool::Kind::solo)
        j["hz"] = t.hz;
    if (t.kind == Tool::Kind::solo)
        j["octaves"] = t.octaves;
    if (t.kind == Tool::Kind::inject || t.kind == Tool::Kind::bridge)
        j["level"] = t.levelDb;
    return j;
}

Result<Tool> toolFromJson(const json& j, const std::string& place) {
    Reader r(j, place);
    Tool t;
    const std::string kind = r.text("kind", true);
    const char* kinds[] = {"mute", "inject", "bridge", "solo"};
    const auto which = std::find(std::begin(kinds), std::end(kinds), kind) - std::begin(kinds);
    if (which == 4)
        r.fail("kind", "must be mute, inject, bridge or solo");
    t.kind = static_cast<Tool::Kind>(which % 4);
    const json* at = r.find("at", true);
    if (at && !readEnd(*at, t.at))
        r.fail("at", "must be a port such as [\"chair\", 0]");
    if (const json* from = r.find("from", t.kind == Tool::Kind::bridge); from && !readEnd(*from, t.from))
        r.fail("from", "must be a port such as [\"chair\", 0]");
    if (const std::string signal = r.text("signal"); !signal.empty()) {
        t.signal = signal;
        if (auto known = signal.rfind("file ", 0) == 0 ? Result<Tool>(t) : readSignal(signal); !known)
            r.fail("signal", "is none there is");
    }
    t.hz = r.number("hz", t.hz, 10, 40000), t.octaves = r.number("octaves", t.octaves, 0.01, 10);
    t.levelDb = r.number("level", t.kind == Tool::Kind::bridge ? 0 : t.levelDb, -80, 12);
    return r.failed() ? Result<Tool>(r.trouble()) : Result<Tool>(t);
}

Result<Program> programFromJson(const json& j, const std::string& place) {
    Reader r(j, place);
    Program p = readProgram(r);
    if (r.failed())
        return r.trouble();
    return p;
}

Result<Project> projectFromJson(json j) {
    if (!j.is_object() || j.value("format", json()) != "nimble-loom-project")
        return Trouble{"this is not a Nimble Loom project", "/format", "Open a .loom file or a folder made from one."};
    const json version = j.value("version", json());
    if (!version.is_number_integer() || version.get<double>() < 1)
        return Trouble{"the version is missing or not a whole number", "/version", "Use the file as it was saved."};
    if (version.get<double>() > formatVersion)
        return Trouble{"the project was made by a later version of Nimble Loom (format " + version.dump() +
                           "; this one reads up to " + std::to_string(formatVersion) + ")",
                       "/version", "Open it with a newer Nimble Loom."};
    try {
        if (version == 1)
            j = migrateFrom1(std::move(j));
    } catch (const json::exception&) {
        return Trouble{"the project does not hold what its version says", "/", "Open an earlier copy of it."};
    }
    Reader r(j, "");
    Project p;
    r.find("format", true), r.find("version", true);
    p.name = r.text("name");
    r.each("buildings", [&](const json& b, const std::string& place) {
        Reader inner(b, place);
        p.buildings.push_back(readBuilding(inner));
        if (inner.failed())
            r.take(inner.trouble());
    });
    std::set<std::string> ids;
    r.each("devices", [&](const json& d, const std::string& place) {
        Reader inner(d, place);
        p.devices.push_back(readDevice(inner));
        if (!inner.failed() && !ids.insert(p.devices.back().id).second)
            inner.fail("id", "is used by two devices");
        if (inner.failed())
            r.take(inner.trouble());
    });
    std::set<std::string> voicings;
    r.each("voicings", [&](const json& v, const std::string& place) {
        Reader inner(v, place);
        p.voicings.push_back(readVoicing(inner));
        if (!inner.failed() && !voicings.insert(p.voicings.back().id).second)
            inner.fail("id", "is used by two voicings");
        if (inner.failed())
            r.take(inner.trouble());
    });
    r.each("left", [&](const json& l, const std::string& place) {
        Reader inner(l, place);
        p.left.push_back(
            {inner.text("code", true), inner.text("device"), inner.text("block"), inner.text("because", true)});
        if (inner.failed())
            r.take(inner.trouble());
    });
    p.extra = r.rest();
    if (r.failed())
        return r.trouble();
    return p;
}

Result<json> parseJson(const std::string& text, const std::string& name) {
    if (text.size() > (64u << 20))
        return Trouble{"is larger than 64 MiB", name, "Keep sound and pictures in assets/."};
    int depth = 0;
    bool deep = false;
    const auto watch = [&](int d, json::parse_event_t, json&) {
        depth = d;
        deep = deep || d > 64;
        return !deep;
    };
    try {
        json j = json::parse(text, watch);
        if (deep)
            return Trouble{"is nested more than 64 deep", name, "Use the file as it was saved."};
        return j;
    } catch (const json::parse_error& e) {
        return Trouble{"is not JSON (at byte " + std::to_string(e.byte) + ")", name, "Open an earlier copy of it."};
    } catch (const json::exception&) {
        return Trouble{"is not JSON that can be read", name, "Open an earlier copy of it."};
    }
}

} // namespace loom::project
