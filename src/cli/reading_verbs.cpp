#include "cli/answer.h"
#include "cli/open.h"
#include "cli/reading.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/pdf_text.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "dsp/text.h"
#include "rooms/backdrop_edit.h"
#include "voicings/sheet_patterns.h"
#include <CLI/CLI.hpp>
#include <cstdio>
#include <filesystem>

namespace loom::cli {
namespace reading_verbs { // of this file

using nlohmann::json;
using namespace loudspeaker;

struct Call {
    std::string file, use = "response";
    std::vector<std::string> answers;
    std::string building, plan, unit;
    std::vector<std::string> hidden;
    bool rooms = false;
    double windowMs = 0, height = 3;
    bool asJson = false;
};

// "3=1" as 3 and 1; both from 1.
std::optional<std::pair<int, int>> numbersOf(const std::string& answer) {
    const auto at = answer.find('=');
    if (at == std::string::npos)
        return {};
    const auto what = wholeInteger(answer.substr(0, at), 1, 1'000'000),
               choice = wholeInteger(answer.substr(at + 1), 1, 1000);
    return what && choice ? std::optional(std::pair(*what, *choice)) : std::nullopt;
}

std::string placeText(const Sheet& s, const SheetSpan& u) {
    return s.lines[u.line].substr(u.from, u.to - u.from);
}

json jsonOf(const Sheet& s, const SheetField& f) {
    json one = {{"line", f.line + 1}, {"from", f.from},
                {"to", f.to},         {"text", placeText(s, {f.line, f.from, f.to})},
                {"way", f.way},       {"kind", idOf(f.kind)},
                {"reads", textOf(f)}, {"certainty", std::round(certaintyOf(f) * 100) / 100}};
    if (f.way > 0 && f.way <= static_cast<int>(s.ways.size()))
        one["wayName"] = s.ways[static_cast<std::size_t>(f.way - 1)];
    const bool words = f.kind == SheetKind::name || f.kind == SheetKind::maker;
    if (words)
        one["value"] = f.text;
    else if (f.kind == SheetKind::taps)
        one["value"] = f.list;
    else if (f.kind == SheetKind::polarity)
        one["value"] = f.value > 0 ? "inverted" : "normal";
    else if (f.kind == SheetKind::driver)
        one["value"] = f.value > 0 ? "compression" : "cone";
    else
        one["value"] = f.value;
    if (unitOf(f.kind)[0])
        one["unit"] = unitOf(f.kind);
    if (f.kind == SheetKind::bell || f.kind == SheetKind::lowShelf || f.kind == SheetKind::highShelf)
        one["gain"] = f.second;
    if (f.kind == SheetKind::coverage)
        one["vertical"] = f.second;
    if (f.q > 0)
        one["q"] = f.q;
    if (f.kind == SheetKind::highPass || f.kind == SheetKind::lowPass) {
        one["slope"] = f.slope;
        one["shape"] = f.shape == 1 ? "linkwitzRiley" : f.shape == 2 ? "bessel" : "butterworth";
    }
    if (!f.sure()) {
        one["question"] = f.question;
        for (const auto& choice : f.ask)
            one["ask"].push_back(choice.label);
    }
    return one;
}

int sheet(const Call& c) {
    const auto s = sheetOf(c.file, c.answers);
    if (!s)
        return fail(s.error());
    json fields = json::array(), unread = json::array(), questions = json::array();
    for (const auto& f : s->fields)
        fields.push_back(jsonOf(*s, f));
    const auto asked = questionsOf(*s);
    for (const auto& q : asked) {
        json one = {{"question", q.text}, {"choices", q.choices}};
        for (const auto i : q.fields)
            one["fields"].push_back(i + 1);
        questions.push_back(one);
    }
    if (!c.asJson) {
        int n = 0;
        for (const auto& f : s->fields)
            std::printf("%2d  line %zu, way %d: %s%s\n", ++n, f.line + 1, f.way, textOf(f).c_str(),
                        f.sure() ? "" : "  ?");
        for (const auto& q : asked) {
            std::printf("  ? %s", q.text.c_str());
            for (std::size_t k = 0; k < q.choices.size() && k < 24; ++k)
                std::printf("%s%zu: %s", k ? ", " : " ", k + 1, q.choices[k].c_str());
            std::printf("  (of");
            for (const auto i : q.fields)
                std::printf(" %zu", i + 1);
            std::printf(")\n");
        }
        for (const auto& note : s->notes)
            std::printf("    %s\n", note.c_str());
    }
    for (const auto& u : s->unread) {
        unread.push_back({{"line", u.line + 1}, {"text", placeText(*s, u)}});
        if (!c.asJson)
            std::printf("    line %zu, not understood: %s\n", u.line + 1, placeText(*s, u).c_str());
    }
    // What is off, left to whoever sets it up, or a limit of the maker's: told, never applied.
    json off = json::array(), forYou = json::array(), limits = json::array();
    const auto tell = [&](json& to, const SheetSpan& u, const char* word) {
        to.push_back({{"line", u.line + 1}, {"text", placeText(*s, u)}});
        if (!c.asJson)
            std::printf("    line %zu, %s: %s\n", u.line + 1, word, placeText(*s, u).c_str());
    };
    for (const auto& u : s->off)
        tell(off, u, "off");
    for (const auto& u : s->forYou)
        tell(forYou, u, "for you to say");
    for (const auto& l : s->limits) {
        tell(limits, l.where, l.rms ? "the maker's limit, mean" : "the maker's limit, peak");
        limits.back().update({{"way", l.way},
                              {"rms", l.rms},
                              {"value", l.value},
                              {"unit", l.unit},
                              {"attackMs", l.attackMs},
                              {"releaseMs", l.releaseMs}});
    }
    return c.asJson ? say({{"ways", s->ways},
                           {"fields", fields},
                           {"questions", questions},
                           {"notes", s->notes},
                           {"off", off},
                           {"forYou", forYou},
                           {"limits", limits},
                           {"unread", unread}})
                    : 0;
}

CurveUse useOf(const std::string& word) {
    return word == "impedance"     ? CurveUse::impedance
           : word == "calibration" ? CurveUse::calibration
                                   : CurveUse::response;
}

Result<CurveReading> readingOf(const std::string& path, CurveUse use, const std::vector<std::string>& answers,
                               double windowMs) {
    const auto bytes = project::readWhole(path, 64u << 20);
    if (!bytes)
        return bytes.error();
    CurveAnswers given;
    for (const auto& a : answers) {
        const auto at = a.find('=');
        const auto choice = at == std::string::npos ? std::nullopt : wholeInteger(a.substr(at + 1), 1, 1000);
        if (!choice)
            return Error{"\"" + a + "\" answers nothing", "--answer",
                         "Give TOPIC=CHOICE, as loomctl curve lists them."};
        given[a.substr(0, at)] = static_cast<std::size_t>(*choice - 1);
    }
    return readCurve(*bytes, std::filesystem::path(path).filename().string(), use, given,
                     windowMs > 0 ? CurveWindow{2, windowMs} : CurveWindow{});
}

int curve(const Call& c) {
    const auto r = readingOf(c.file, useOf(c.use), c.answers, c.windowMs);
    if (!r)
        return fail(r.error());
    json open = json::array();
    for (const auto& q : r->open)
        open.push_back({{"topic", q.topic}, {"question", q.text}, {"choices", q.choices}, {"likely", q.likely + 1}});
    if (c.asJson)
        return say({{"columns", r->columns},
                    {"questions", open},
                    {"notes", r->notes},
                    {"hz", r->curve.hz},
                    {useOf(c.use) == CurveUse::impedance ? "ohms" : "db", r->curve.db},
                    {"degrees", r->curve.hasPhase ? json(r->curve.deg) : json()}});
    for (const auto& column : r->columns)
        std::printf("%s\n", column.c_str());
    for (const auto& note : r->notes)
        std::printf("%s\n", note.c_str());
    for (const auto& q : r->open) {
        std::printf("? %s: %s", q.topic.c_str(), q.text.c_str());
        for (std::size_t k = 0; k < q.choices.size(); ++k)
            std::printf("%s%zu: %s", k ? ", " : " ", k + 1, q.choices[k].c_str());
        std::printf("\n");
    }
    std::printf("%zu points from %.4g to %.4g Hz%s\n", r->curve.hz.size(), r->curve.hz.front(), r->curve.hz.back(),
                r->open.empty() ? "" : ", as it is likely");
    return 0;
}

const project::Building& below(const project::Project& p, const std::string& id) { // the first, where it was made
    for (const auto& b : p.buildings)
        if (b.id == id)
            return b;
    return p.buildings.front();
}

// A DXF drawing below a storey, and what it holds; with --rooms rooms of its named outlines.
int backdrop(const Call& c) {
    using namespace project;
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    std::string building = c.building;
    for (const auto& b : p->buildings)
        if (b.name == c.building)
            building = b.id;
    if (std::none_of(p->buildings.begin(), p->buildings.end(), [&](const auto& b) { return b.id == building; }) &&
        !p->buildings.empty())
        return fail({"there is no such storey", c.building, "loomctl rooms lists them."});
    const auto bytes = readWhole(c.plan, maxDxfBytes);
    if (!bytes)
        return fail(bytes.error());
    const std::string name = std::filesystem::path(c.plan).filename().string();
    const auto plan = readDxfPlan(*bytes, name);
    if (!plan)
        return fail(plan.error());
    static const std::map<std::string, double> units{
        {"mm", 0.001}, {"cm", 0.01}, {"m", 1}, {"in", 0.0254}, {"ft", 0.3048}};
    if (plan->metresPerUnit <= 0 && c.unit.empty())
        return fail({"does not say its unit", name, "Say it with --unit mm, cm, m, in or ft."});
    const double metres = c.unit.empty() ? plan->metresPerUnit : units.at(c.unit);
    auto hidden = hiddenBy(*plan);
    for (const auto& layer : c.hidden) {
        if (std::none_of(plan->layers.begin(), plan->layers.end(), [&](const auto& l) { return l.name == layer; }))
            return fail({"there is no such layer", layer, "loomctl backdrop --json lists them."});
        hidden.push_back(layer);
    }
    auto edit = addBackdrop(*p, building, name, Asset(std::vector<char>(bytes->begin(), bytes->end())), metres, hidden);
    History history(*p);
    if (auto done = runEdit(history, edit); !done)
        return fail(done.error());
    auto outlines = outlinesOf(*plan, hidden, metres);
    std::vector<std::string> made;
    if (c.rooms) {
        auto named = outlines;
        std::erase_if(named, [](const auto& o) { return !o.likely; });
        if (named.empty())
            return fail({"has no closed outline with a name in it", name, "Draw rooms in Survey, over the drawing."});
        auto rooms = roomsOfOutlines(*p, below(*p, building).id, named, c.height, &made);
        if (!rooms)
            return fail(rooms.error());
        if (auto done = runEdit(history, *rooms); !done)
            return fail(done.error());
    }
    if (auto saved = saveProject(*p, c.file); !saved)
        return fail(saved.error());
    json layers = json::array(), closed = json::array();
    for (const auto& l : plan->layers)
        if (l.lines + l.texts > 0)
            layers.push_back({{"name", l.name},
                              {"on", l.on},
                              {"frozen", l.frozen},
                              {"shown", std::find(hidden.begin(), hidden.end(), l.name) == hidden.end()},
                              {"lines", l.lines},
                              {"texts", l.texts}});
    for (const auto& o : outlines)
        closed.push_back(
            {{"name", o.name}, {"area", std::round(o.area * 100) / 100}, {"layer", o.layer}, {"corners", o.corners}});
    const double wide = (plan->high.x - plan->low.x) * metres, deep = (plan->high.y - plan->low.y) * metres;
    if (c.asJson)
        return say({{"width", wide},
                    {"depth", deep},
                    {"metresPerUnit", metres},
                    {"unitSaid", plan->metresPerUnit > 0},
                    {"layers", layers},
                    {"drawn", plan->drawn},
                    {"passedOver", plan->passedOver},
                    {"outlines", closed},
                    {"rooms", made}});
    std::printf("%.2f by %.2f m, a unit is %.4g m\n", wide, deep, metres);
    for (const auto& l : layers)
        std::printf("layer %s: %d lines, %d texts%s\n", l["name"].get<std::string>().c_str(), l["lines"].get<int>(),
                    l["texts"].get<int>(), l["shown"].get<bool>() ? "" : ", not drawn");
    for (const auto& [kind, count] : plan->passedOver)
        std::printf("passed over: %s, %zu\n", kind.c_str(), count);
    for (const auto& o : outlines)
        std::printf("outline of %.1f m2%s%s\n", o.area, o.name.empty() ? "" : ": ", o.name.c_str());
    for (const auto& id : made)
        std::printf("made room %s\n", id.c_str());
    return 0;
}

} // namespace reading_verbs

Result<loudspeaker::Sheet> sheetOf(const std::string& path, const std::vector<std::string>& answers) {
    const auto bytes = project::readWhole(path, project::maxPdfBytes);
    if (!bytes)
        return bytes.error();
    const auto text = project::isPdf(*bytes) ? project::pdfText(path) : Result<std::string>(utf8Of(*bytes));
    if (!text)
        return text.error();
    auto sheet = loudspeaker::readSheet(*text, project::sheetPatterns());
    for (const auto& a : answers) { // "3=1": the first of what field 3 may mean
        const auto n = reading_verbs::numbersOf(a);
        const auto field = n ? static_cast<std::size_t>(n->first - 1) : 0,
                   choice = n ? static_cast<std::size_t>(n->second - 1) : 0;
        if (!n || field >= sheet.fields.size() || choice >= sheet.fields[field].ask.size())
            return Error{"\"" + a + "\" answers nothing", "--answer", "loomctl sheet numbers fields and choices."};
        loudspeaker::answer(sheet.fields[field], choice);
    }
    // Those that are nothing go, once all are answered by their numbers.
    loudspeaker::answer(sheet, {}, 0);
    return sheet;
}

Result<loudspeaker::CurveReading> curveOf(const std::string& path, loudspeaker::CurveUse use,
                                          const std::vector<std::string>& answers, double windowMs) {
    auto r = reading_verbs::readingOf(path, use, answers, windowMs);
    if (!r)
        return r;
    if (!r->open.empty())
        return Error{r->open[0].text, std::filesystem::path(path).filename().string(),
                     "Answer with --answer " + r->open[0].topic + "=CHOICE; loomctl curve lists the choices."};
    for (const auto& note : r->notes)
        std::fprintf(stderr, "%s\n", note.c_str());
    return r;
}

void addReadingVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace reading_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        auto* v = addVerb(app, action, call, name, does, example, go);
        v->add_flag("--json", call.asJson, "Answer as JSON");
        return v;
    };
    auto* v = verb("sheet", "What a spec sheet says", "loomctl sheet demo/sheets/oakhaven-x2.txt", sheet);
    v->add_option("SHEET", call.file, "A text or a PDF")->required();
    v->add_option("--answer", call.answers, "FIELD=CHOICE for what is not sure, as this numbers them");
    v = verb("curve", "How a file of a response, impedance or calibration is read",
             "loomctl curve measured.csv --answer frequency=2", curve);
    v->add_option("FILE", call.file, "A text in any dialect, or an impulse response as text or sound")->required();
    v->add_option("--as", call.use, "What it is")
        ->check(CLI::IsMember({"response", "impedance", "calibration"}))
        ->capture_default_str();
    v->add_option("--answer", call.answers, "TOPIC=CHOICE for what it asks");
    v->add_option("--window", call.windowMs, "ms behind the peak of an impulse response")
        ->check(CLI::Range(1.0, 500.0));
    v = verb("backdrop", "A DXF drawing below a storey: its extent, layers, what is drawn and what is passed over",
             "loomctl backdrop hall.loom \"Ground floor\" plan.dxf --rooms --json", backdrop);
    v->add_option("FILE", call.file, "Project file or folder")->required();
    v->add_option("BUILDING", call.building, "Id or name of the storey")->required();
    v->add_option("PLAN", call.plan, "DXF text of R12 to 2018")->required();
    v->add_option("--unit", call.unit, "Of the drawing; else as it says")
        ->check(CLI::IsMember({"mm", "cm", "m", "in", "ft"}));
    v->add_option("--hide", call.hidden, "Layers that are not drawn");
    v->add_flag("--rooms", call.rooms, "Makes rooms of its closed outlines with a name in them");
    v->add_option("--height", call.height, "Of those rooms, m")->check(CLI::Range(1.0, 60.0));
}

} // namespace loom::cli
