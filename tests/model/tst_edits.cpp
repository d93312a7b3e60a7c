// Edits, undo, findings, and changes of structure.
#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the concepts of newer standard headers
#include "engine/path_response.h"
#include "engine/runner.h"
#include "file/project_json.h"
#include "file/store.h"
#include "findings/findings.h"
#include "model/history.h"
#include "models.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "rooms/plan_items.h"
#include "voicings/voicing_edit.h"
#endif
#include "test.h"

using namespace loom::project;
using loom::engine::Program;

class TestEdits : public QObject {
    Q_OBJECT
    Project p_;
    const Program& program() { return *p_.device("heddle")->program; }
    bool has(const char* code, const char* block = "") {
        for (const auto& f : check(p_))
            if (f.id() == code && (!*block || f.block == block))
                return !f.reason.empty() && !f.remedy.empty();
        return false;
    }
  private slots:
    void init() { p_ = *loom::test::load(LOOM_HALL); }

    void valueAndUndo() {
        History h(p_);
        const auto before = toJson(p_);
        const std::string path = "heddle/delegate-3.eq.2.gain";
        QVERIFY(bool(h.run(setValue(p_, path, -3))));
        QCOMPARE(program().find("delegate-3.eq")->values.at("2.gain"), -3.0);
        QCOMPARE(QString::fromStdString(h.undoText()), QString("Set Delegate 3 · Equaliser · Band 2 gain"));
        h.undo();
        QVERIFY(toJson(p_) == before);
        h.redo();
        QCOMPARE(program().find("delegate-3.eq")->values.at("2.gain"), -3.0);
        QVERIFY(!h.run(setValue(p_, path, 99)));
        QVERIFY(!h.run(setValue(p_, "heddle/nobody.gain", 0)));
        QVERIFY(!h.canRedo());
    }
    void dragIsOneStep() {
        History h(p_);
        for (int i = 0; i < 20; ++i)
            QVERIFY(bool(h.run(setValue(p_, "heddle/chair.eq.2.gain", -i * 0.1, i > 0))));
        h.undo();
        QVERIFY(!h.canUndo());
        QCOMPARE(program().find("chair.eq")->values.at("2.gain"), -4.5);
    }
    void enteringSwitchesOn() {
        History h(p_);
        QVERIFY(bool(h.run(setValue(p_, "heddle/chair.eq.3.gain", 2))));
        QCOMPARE(program().find("chair.eq")->values.at("3.on"), 1.0);
        h.undo();
        QVERIFY(!program().find("chair.eq")->values.count("3.on"));
    }
    // What an edit makes can be saved and opened again, or the edit is refused and changes nothing.
    void acceptedMeansKept() {
        History h(p_);
        const auto kept = [&](Edit edit) {
            if (!h.run(std::move(edit)))
                return false;
            const auto text = *packProject(p_);
            const auto back = unpackProject(text, "x", loom::test::models());
            return back && toJson(*back) == toJson(p_);
        };
        const auto refused = [&](Edit edit, const char* says) {
            const auto before = toJson(p_);
            const auto done = h.run(std::move(edit));
            return !done && toJson(p_) == before && QString::fromStdString(done.error().text()).contains(says);
        };
        auto notes = setField(p_, {"device:heddle"}, "notes", std::string(5000, 'n'));
        QVERIFY(notes && kept(std::move(*notes)));
        QCOMPARE(p_.device("heddle")->notes.size(), std::size_t(5000));
        QVERIFY(!setField(p_, {"device:heddle"}, "notes", std::string(20001, 'n')));
        QVERIFY(refused(renameProject(std::string(5000, 'x')), "name"));
        QVERIFY(kept(renameProject(std::string(4096, 'x'))));
        QVERIFY(refused(renameProject("\xff\xfe"), "UTF-8"));
        Place far = p_.devices[0].place;
        far.x = 99999, far.placed = true;
        QVERIFY(refused(placeDevices({{p_.devices[0].id, far}}, "Move"), "/x"));
        auto away = moveItems(p_, {"room:tern"}, 20000, 0);
        QVERIFY(away && refused(std::move(away), "outline"));
        QVERIFY(refused(changeDevice("heddle", "x", [](Device& d) { d.rate = 1; }), "rate"));
        QVERIFY(refused(addAsset("a\\b", {'x'}), "name"));
        QVERIFY(refused(setValues("heddle", {{"chair.eq.2.gain", 99.0}}, "x"), "range"));
        QCOMPARE(h.undoText(), std::string("Rename project")); // those that were refused left no step
    }
    // What was told to devices stays what it is, whatever is undone here.
    void undoDoesNotMoveWhatIsKnown() {
        History h(p_);
        QVERIFY(
            bool(h.run(changeDevice("heddle", "Pair", [](Device& d) { d.serial = "S1", d.known.identity = "key"; }))));
        QVERIFY(bool(h.run(setValue(p_, "heddle/delegate-3.eq.2.gain", -3))));
        auto tried = *p_.device("heddle");
        tried.known.sent = tried.program, tried.known.revision = 7, tried.known.boot = "b";
        const auto known = tried.known;
        QVERIFY(bool(h.note(setDevices({{"heddle", tried}}, "Note"))));
        QVERIFY(!h.isSaved());
        QVERIFY(bool(h.run(changeDevice("heddle", "Notes", [](Device& d) { d.notes = "later"; }))));
        h.undo();
        QVERIFY(p_.device("heddle")->notes.empty() && p_.device("heddle")->known == known);
        h.undo(); // the value: the note between them is no step
        QVERIFY(p_.device("heddle")->program != known.sent && p_.device("heddle")->known == known);
        h.undo(); // the pair
        QVERIFY(p_.device("heddle")->serial.empty() && p_.device("heddle")->known == Known{});
        QVERIFY(!h.canUndo());
        h.redo(), h.redo(), h.redo();
        QCOMPARE(p_.device("heddle")->known.identity, std::string("key"));
        h.markSaved();
        QVERIFY(h.isSaved());
    }
    void savedMark() {
        History h(p_);
        QVERIFY(h.isSaved());
        QVERIFY(bool(h.run(renameProject("x"))));
        QVERIFY(!h.isSaved());
        h.undo();
        QVERIFY(h.isSaved());
        h.redo();
        h.markSaved();
        h.undo();
        QVERIFY(bool(h.run(renameProject("y"))));
        QVERIFY(!h.isSaved());
    }
    void insertMoveRemove() {
        const auto n = insertBlock(program(), "eq", {"delegate-3.highpass", 0});
        QVERIFY(bool(n));
        QCOMPARE(QString::fromStdString(n->program.into({n->block, 0})->from.block), QString("delegate-3.highpass"));
        QCOMPARE(QString::fromStdString(n->program.into({"delegate-3.eq", 0})->from.block),
                 QString::fromStdString(n->block));
        const auto moved = moveBlock(n->program, n->block, 1);
        QVERIFY(bool(moved));
        QCOMPARE(QString::fromStdString(moved->into({n->block, 0})->from.block), QString("delegate-3.eq"));
        QCOMPARE(QString::fromStdString(moved->into({"hall", 3})->from.block), QString::fromStdString(n->block));
        const auto back = moveBlock(*moved, n->block, -1);
        QVERIFY(bool(back));
        QCOMPARE(QString::fromStdString(back->into({"hall", 3})->from.block), QString("delegate-3.eq"));
        QVERIFY(!moveBlock(*moved, n->block, 1));
        const auto gone = removeBlock(*moved, n->block);
        QVERIFY(gone && gone->connections.size() == program().connections.size());
        QCOMPARE(QString::fromStdString(gone->into({"hall", 3})->from.block), QString("delegate-3.eq"));
        QVERIFY(!insertBlock(program(), "matrix", {"chair", 0}));
        const auto out = insertBlock(program(), "delay", {"recorder", 0});
        QVERIFY(bool(out));
        QCOMPARE(QString::fromStdString(out->program.into({"recorder", 0})->from.block),
                 QString::fromStdString(out->block));
    }
    void routing() {
        const auto before = loom::engine::pathResponse(program(), {"chair", 0}, {"loop", 0}, {1000}, 48000);
        QVERIFY(before && std::abs((*before)[0]) == 0);
        const auto n = routeAll(program(), {"chair"}, {"loop"}, 0);
        QVERIFY(bool(n));
        const auto after = loom::engine::pathResponse(*n, {"chair", 0}, {"loop", 0}, {1000}, 48000);
        QVERIFY(std::abs((*after)[0]) > 1);
        const auto loop = drawThread(program(), {"hall", 0}, {"chair.eq", 0});
        QVERIFY(!loop);
        QVERIFY2(loop.error().message.find("hall \u2192 chair.eq \u2192 hall") != std::string::npos ||
                     loop.error().message.find("chair.eq \u2192 hall \u2192 chair.eq") != std::string::npos,
                 loop.error().message.c_str());
    }
    void findings() {
        for (const auto& f : check(p_)) // what is left for a reason
            QVERIFY(f.dismissed());
        Program q = program();
        q.find("chair.eq")->values["on"] = 0;
        q.find("delegate-1.eq")->values["3.gain"] = 4;
        erase_if(q.connections, [](const auto& t) { return t.from.block == "delegate-2"; });
        for (auto& [id, v] : q.find("hall")->values)
            if (id.ends_with(".6"))
                v = -80;
        q.find("column-l")->texts["port"] = "out 1";
        q.find("column-r")->texts["port"] = "out 99";
        q.blocks.push_back({"x", "of-tomorrow", ""});
        p_.device("heddle")->program = q;
        QVERIFY(has("off-not-flat", "chair.eq"));
        QVERIFY(has("off-not-flat", "delegate-1.eq"));
        QVERIFY(has("goes-nowhere", "delegate-2"));
        QVERIFY(has("no-arrival", "loop"));
        QVERIFY(!has("no-arrival", "ceiling-1"));
        QVERIFY(has("port-twice"));
        QVERIFY(has("no-such-port", "column-r"));
        QVERIFY(has("unknown-block", "x"));
        q.connections.push_back({{"hall", 0}, {"delegate-2.preamp", 0}});
        for (int i = 0; i < 100; ++i)
            q.blocks.push_back({"e" + std::to_string(i), "octave", ""});
        p_.device("heddle")->program = q;
        QVERIFY(has("loop"));
        q.connections.push_back({{"hall", 99}, {"recorder.level", 5}});
        q.connections.push_back({{"hall", 0}, {"column-l.eq", 0}});
        p_.device("heddle")->program = q;
        QVERIFY(has("bad-thread", "recorder.level") && has("bad-thread", "column-l.eq"));
        QVERIFY(has("over-budget"));
    }
    void fileOfAPlayer() {
        History h(p_);
        auto n = addBlock(program(), "player", "Gong");
        QVERIFY(n && n->block == "gong");
        QVERIFY(bool(h.run(setProgram("heddle", n->program, "Add"))));
        QVERIFY(has("no-file", "gong"));
        const auto assets = p_.assets;
        QVERIFY(bool(h.run(setFile("heddle", "gong", "file", "chair.flac", {1, 2, 3})))); // another file has this name
        QCOMPARE(QString::fromStdString(program().find("gong")->texts.at("file")), QString("chair-2.flac"));
        QVERIFY(p_.assets.at("chair-2.flac") == std::vector<char>({1, 2, 3}));
        QVERIFY(!has("no-file") && !has("file-missing"));
        p_.assets.erase("chair-2.flac");
        QVERIFY(has("file-missing", "gong"));
        p_.assets["chair-2.flac"] = std::vector<char>{1, 2, 3};
        h.undo();
        QVERIFY(p_.assets == assets && !program().find("gong")->texts.count("file"));
        QVERIFY(!h.run(setFile("heddle", "nobody", "file", "x.wav", {})));
        QVERIFY(!addBlock(program(), "of-tomorrow", "x"));
    }
    void anotherCountKeepsThreads() { // threads are known again by the names of their ports
        loom::engine::Program p;
        p.blocks = {{"a", "source", ""},
                    {"b", "source", ""},
                    {"mic", "source", ""},
                    {"d", "ducker", ""},
                    {"x", "destination", ""}};
        p.blocks.change(3).shape = {{"channels", 2}};
        p.blocks.change(3).values = {{"depth", 30}};
        p.connections = {{{"a", 0}, {"d", 0}}, {{"b", 0}, {"d", 1}}, {{"mic", 0}, {"d", 2}}, {{"d", 1}, {"x", 0}}};
        const auto wide = reshapeBlock(p, "d", "channels", 5);
        QVERIFY(wide && wide->connections.size() == 4);
        QVERIFY(wide->into({"d", 1})->from.block == "b" && wide->into({"d", 5})->from.block == "mic");
        QVERIFY(!wide->into({"d", 2}) && wide->find("d")->values.at("depth") == 30);
        const auto narrow = reshapeBlock(*wide, "d", "channels", 1);
        QVERIFY(narrow && narrow->connections.size() == 2); // b and x had no port any more
        QVERIFY(narrow->into({"d", 1})->from.block == "mic" && !narrow->find("d")->shape.count("channels"));
        QVERIFY(!reshapeBlock(p, "d", "channels", 65) && !reshapeBlock(p, "d", "wheels", 2) &&
                !reshapeBlock(p, "z", "channels", 2));
        p.blocks.change(3) = {"d", "matrix", "", {{"inputs", 3}, {"outputs", 2}}, {{"3.2", -6}, {"1.1.mute", 1}}};
        const auto mixed = reshapeBlock(p, "d", "inputs", 2);
        QVERIFY(mixed && !mixed->find("d")->values.count("3.2") && mixed->find("d")->values.at("1.1.mute") == 1);
    }
    void echoNeedsItsReference() {
        auto n = addBlock(program(), "echo", "Echo");
        QVERIFY(bool(n));
        auto& p = *p_.device("heddle")->program;
        p = n->program;
        QVERIFY(has("no-reference", "echo"));
        p.blocks.push_back({"nothing", "sum", ""});
        p.connections.push_back({{"nothing", 0}, {"echo", 1}});
        QVERIFY(!has("no-reference") && has("silent-reference", "echo"));
        p.connections.changeBack().from = {"far-end", 0};
        QVERIFY(!has("silent-reference"));
    }
    void impulseResponsesAreChecked() {
        auto n = addBlock(program(), "fir", "Fir");
        auto& p = *p_.device("heddle")->program;
        p = n->program;
        p.find("fir")->texts["file"] = "taps.txt";
        const auto text = [&](const std::string& s) { p_.assets["taps.txt"] = std::vector<char>(s.begin(), s.end()); };
        text("# a remark\n0.5, 0.25\n-1e-3\n");
        QVERIFY(!has("file-unfit") && !has("file-missing"));
        for (const char* bad : {"", "# nothing\n", "0.5\nhalf\n", "1e99", "nan", "0.5;;0.1x"}) {
            text(bad);
            QVERIFY2(has("file-unfit", "fir"), bad);
        }
        std::string many;
        for (int i = 0; i < 16385; ++i)
            many += "0.1\n";
        text(many);
        QVERIFY(has("file-unfit", "fir"));
        text(std::string("RIFF\0\0\0\1broken", 14));
        QVERIFY(has("file-unfit", "fir"));
    }
    void longestBlockIdWins() {
        const auto place = findTarget(p_, "heddle/chair.eq.2.gain");
        QVERIFY(place && place->block->id == "chair.eq" && place->param == "2.gain");
        QVERIFY(!findTarget(p_, "heddle/chair.eq.99.gain"));
        QVERIFY(!findTarget(p_, "nobody/chair.eq.2.gain"));
        QVERIFY(!findTarget(p_, "...."));
    }

    void lanesThatMeetAreAligned() {
        Program p;
        p.blocks = {{"s", "source", "", {}, {}, {{"port", "in 1"}}},
                    {"fast", "level", ""},
                    {"slow", "limiter", ""},
                    {"mix", "matrix", "", {{"inputs", 3}, {"outputs", 1}}, {{"1.1", 0}, {"2.1", 0}}},
                    {"far", "source", ""}};
        p.connections = {{{"s", 0}, {"fast", 0}},
                         {{"s", 0}, {"slow", 0}},
                         {{"fast", 0}, {"mix", 0}},
                         {{"slow", 0}, {"mix", 1}},
                         {{"far", 0}, {"mix", 2}}};
        // An impulse over both ways comes out at one time, twice as high.
        const auto peaks = [](const Program& program) {
            loom::engine::Runner r(48000, {});
            (void)bool(r.load(program));
            std::vector<float> in(64), heard(64), all;
            const float* ins[] = {in.data(), nullptr};
            for (int frame = 0; frame < 6; ++frame) {
                in[0] = frame == 0 ? 0.25f : 0.0f;
                r.process({ins, nullptr}, 64);
                r.schedule()->read(r.schedule()->bufferOf({"mix", 0}), heard.data(), 64);
                all.insert(all.end(), heard.begin(), heard.end());
            }
            std::map<int, double> found;
            for (std::size_t i = 0; i < all.size(); ++i)
                if (std::abs(all[i]) > 0.01f)
                    found[static_cast<int>(i)] = std::round(static_cast<double>(all[i]) * 1000) / 1000;
            return found;
        };
        QCOMPARE(peaks(p), (std::map<int, double>{{0, 0.25}, {63, 0.25}}));
        const auto all = loom::project::alignAllLanes(p, 48000);
        QVERIFY(bool(all));
        QCOMPARE(peaks(*all), (std::map<int, double>{{63, 0.5}}));
        QCOMPARE(all->into({"mix", 2})->from.block, std::string("far")); // another sound: left alone
        const auto here = loom::project::alignLanes(p, "mix", 48000);
        QCOMPARE(peaks(*here), (std::map<int, double>{{63, 0.5}}));
        QCOMPARE(here->find(here->into({"mix", 2})->from.block)->values.at("samples"), 63.0);
        // Anew when the way changes; out when it is no longer needed.
        auto longer = *here;
        longer.blocks.push_back({"more", "limiter", ""});
        longer.connections.change(1) = {{"s", 0}, {"more", 0}};
        longer.connections.push_back({{"more", 0}, {"slow", 0}});
        QCOMPARE(peaks(*loom::project::alignAllLanes(longer, 48000)), (std::map<int, double>{{126, 0.5}}));
        auto shorter = *loom::project::removeBlock(*here, "slow");
        shorter = *loom::project::alignLanes(shorter, "mix", 48000);
        QVERIFY(std::none_of(shorter.blocks.begin(), shorter.blocks.end(),
                             [](const auto& b) { return b.kind == "align"; }));
        QVERIFY(!loom::project::alignLanes(p, "fast", 48000)); // nothing meets there
        QVERIFY(!loom::project::alignLanes(p, "nobody", 48000));
    }
};
LOOM_TEST(tst_edits, TestEdits)
#include "tst_edits.moc"
