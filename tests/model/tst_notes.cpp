// Notes and protections of blocks and values: written, kept by copies, asked about before what they protect changes.
#include "file/project_json.h"
#include "file/store.h"
#include "model/describe.h"
#include "model/history.h"
#include "model/notes.h"
#include "models.h"
#include "program/lane_edit.h"
#include "program/program_edit.h"
#include "program/swatch.h"
#include "test.h"
#include "voicings/voicing_edit.h"

using namespace loom;
using namespace loom::project;

class TestNotes : public QObject {
    Q_OBJECT

    Project p_;
    static constexpr const char* device_ = "desk";
    const engine::Block& block(const char* id) { return *p_.device(device_)->program->find(id); }
    void keep(const Result<engine::Program>& program) {
        QVERIFY(bool(program));
        p_.device(device_)->program = *program;
    }
    // What changes from p_ to a copy of it that was changed.
    std::vector<Guarded> changes(const std::function<void(Project&)>& how) {
        Project next = p_;
        how(next);
        return guardedChanges(p_, next);
    }
    std::vector<Guarded> changesOf(const char* id, const std::function<void(engine::Block&)>& how) {
        return changes([&](Project& p) { how(*p.device(device_)->program->find(id)); });
    }

  private slots:
    void init() {
        Device d;
        d.models = test::models();
        d.id = device_;
        d.name = "Desk";
        d.model = "heddle-16";
        engine::Program program;
        for (const auto& [id, kind] :
             {std::pair{"in", "source"}, {"in.limiter", "limiter"}, {"in.eq", "eq"}, {"out", "destination"}}) {
            engine::Block b;
            b.id = id;
            b.kind = kind;
            program.blocks.push_back(b);
        }
        program.blocks.change(0).texts["port"] = "in 1";
        program.blocks.change(3).texts["port"] = "out 1";
        program.blocks.change(1).values["peak"] = -6;
        program.connections = {
            {{"in", 0}, {"in.limiter", 0}}, {{"in.limiter", 0}, {"in.eq", 0}}, {{"in.eq", 0}, {"out", 0}}};
        d.program = program;
        p_ = {};
        p_.devices.push_back(d);
    }
    void areWrittenAndTakenAway() {
        keep(withNote(*p_.device(device_)->program, "in.eq", "", "flat on purpose"));
        keep(withNote(*p_.device(device_)->program, "in.eq", "2.gain", "the lectern booms"));
        QCOMPARE(noteOf(block("in.eq")), std::string("flat on purpose"));
        QCOMPARE(noteOf(block("in.eq"), "2.gain"), std::string("the lectern booms"));
        QVERIFY(noteOf(block("in.eq"), "3.gain").empty() && noteOf(block("in")).empty());
        keep(withNote(*p_.device(device_)->program, "in.eq", "", ""));
        QVERIFY(noteOf(block("in.eq")).empty() && !noteOf(block("in.eq"), "2.gain").empty());
        QVERIFY(!withNote(*p_.device(device_)->program, "nobody", "", "x"));
        QVERIFY(!withNote(*p_.device(device_)->program, "in", "", std::string(longestRemark + 1, 'x')));
        QVERIFY(bool(withNote(*p_.device(device_)->program, "in", "", std::string(longestRemark, 'x'))));
    }
    void aBlockProtectsItsValues() {
        keep(withProtection(*p_.device(device_)->program, "in.limiter", "", "whole"));
        keep(withProtection(*p_.device(device_)->program, "in.limiter", "peak", "own"));
        QCOMPARE(protectionOf(block("in.limiter"), "peak"), std::string("own"));
        QCOMPARE(protectionOf(block("in.limiter"), "release"), std::string("whole"));
        QCOMPARE(protectionOf(block("in.limiter")), std::string("whole"));
        QVERIFY(protectionOf(block("in.eq"), "2.gain").empty());
        const auto both = changesOf("in.limiter", [](auto& b) { b.values["peak"] = -3, b.values["release"] = 50; });
        QCOMPARE(both.size(), std::size_t(2));
        QVERIFY(both[0].param == "peak" && both[0].reason == "own" && both[1].param == "release" &&
                both[1].reason == "whole");
        QVERIFY2(both[0].name.find("Desk") == 0 && both[0].name.find("Peak threshold") != std::string::npos,
                 both[0].name.c_str());
    }
    void onlyWhatIsProtectedIsGuarded() {
        keep(withProtection(*p_.device(device_)->program, "in.limiter", "peak", "for the loudspeakers"));
        QVERIFY(changes([](Project&) {}).empty());
        QVERIFY(changesOf("in.limiter", [](auto& b) { b.values["release"] = 50; }).empty());
        QVERIFY(changesOf("in.limiter", [](auto& b) { b.label = "Limiter of the hall"; }).empty());
        QVERIFY(changesOf("in.limiter", [](auto& b) { b.shape["channels"] = 2; }).empty());
        QVERIFY(changesOf("in.limiter", [](auto& b) { b.marks.clear(); }).empty()); // taken off, not changed
        QVERIFY(changesOf("in.eq", [](auto& b) { b.values["2.gain"] = 3; }).empty());
        QCOMPARE(changesOf("in.limiter", [](auto& b) { b.values["peak"] = -3; }).size(), std::size_t(1));
        QCOMPARE(changesOf("in.limiter", [](auto& b) { b.values.erase("peak"); }).size(),
                 std::size_t(1)); // its default
        QCOMPARE(changesOf("in.limiter", [](auto& b) { b.kind = "compressor"; }).size(), std::size_t(1));
        QCOMPARE(changesOf("in.limiter", [](auto& b) { b.marks.clear(), b.values["peak"] = 0; }).size(),
                 std::size_t(1));
        const auto gone = changes(
            [](Project& p) { p.device(device_)->program = *removeBlock(*p.device(device_)->program, "in.limiter"); });
        QVERIFY(gone.size() == 1 && gone[0].param == "peak" && gone[0].block == "in.limiter" &&
                gone[0].device == device_);
        QCOMPARE(changes([](Project& p) { p.devices.clear(); }).size(), std::size_t(1));
        QCOMPARE(changes([](Project& p) { p.device(device_)->program.reset(); }).size(), std::size_t(1));
    }
    void aWholeBlockIsGuardedInShapeAndFile() {
        keep(withProtection(*p_.device(device_)->program, "in", "", "wired so"));
        QVERIFY(changesOf("in", [](auto& b) { b.label = "Chair"; }).empty());
        for (const auto& other : {changesOf("in", [](auto& b) { b.texts["port"] = "in 2"; }),
                                  changesOf("in", [](auto& b) { b.shape["channels"] = 3; }),
                                  changesOf("in", [](auto& b) { b.kind = "receive"; })}) {
            QVERIFY(other.size() == 1 && other[0].param.empty() && other[0].reason == "wired so");
        }
    }
    void anEditAsksAndThenDoesIt() {
        keep(withProtection(*p_.device(device_)->program, "in.limiter", "peak", "for the loudspeakers"));
        History history(p_);
        const auto edit = setValue(p_, "desk/in.limiter.peak", -3);
        const auto refused = history.run(edit);
        QVERIFY(!refused && history.guarded().size() == 1 && !history.canUndo());
        QVERIFY2(refused.error().text().find("for the loudspeakers") != std::string::npos,
                 refused.error().text().c_str());
        QCOMPARE(block("in.limiter").values.at("peak"), -6.0);
        QVERIFY(bool(history.run(edit, History::Protected::changed)) && history.guarded().empty());
        QCOMPARE(block("in.limiter").values.at("peak"), -3.0);
        history.undo(); // a step back is not asked about
        QCOMPARE(block("in.limiter").values.at("peak"), -6.0);
        QVERIFY(bool(history.run(setValue(p_, "desk/in.limiter.release", 50))));
        QVERIFY(guardedError({{"d", "b", "", "One", "why"}, {"d", "c", "", "Two", "why"}}).text().find("1 more") !=
                std::string::npos);
    }
    void copiesPastesAndSwatchesKeepThem() {
        keep(withProtection(*p_.device(device_)->program, "in.limiter", "peak", "for the loudspeakers"));
        keep(withNote(*p_.device(device_)->program, "in.eq", "", "flat on purpose"));
        const auto& program = *p_.device(device_)->program;
        const auto layout = engine::layOut(program);
        const auto chain = readChain(copyChain(layout, program, "in"));
        QVERIFY(chain && chain->size() == 2);
        auto bare = program;
        bare.blocks.changeEach([](engine::Block& b) { b.marks = {{"colour", "teal"}}; });
        const auto pasted = pasteChain(engine::layOut(bare), bare, {"in"}, *chain);
        QVERIFY(bool(pasted));
        const auto laidOut = engine::layOut(*pasted);
        const auto& beads = laidOut.laneOf("in")->beads;
        QCOMPARE(beads.size(), std::size_t(2));
        QCOMPARE(protectionOf(*pasted->find(beads[0]), "peak"), std::string("for the loudspeakers"));
        QCOMPARE(noteOf(*pasted->find(beads[1])), std::string("flat on purpose"));
        const auto swatch = makeSwatch(layout, program, {"in"}, "", "Ours", "");
        QVERIFY(bool(swatch));
        const auto again = readSwatch(swatchText(*swatch), "ours");
        QVERIFY(again && protectionOf(*again->piece.find("in.limiter"), "peak") == "for the loudspeakers");
        const auto in = insertSwatch(*p_.device(device_), {"in"}, "", *again);
        QVERIFY(in && protectionOf(*in->program.find(in->blocks[0]), "peak") == "for the loudspeakers");
        const auto read = projectFromJson(schema::toJson(p_), test::models());
        QVERIFY(read && *read == p_);
        engine::Block to;
        to.marks = {{"link", "a"}};
        copyRemarks(*program.find("in.limiter"), to);
        QVERIFY(to.marks.size() == 2 && to.marks.at("link") == "a");
        engine::Block colour;
        colour.marks = {{"colour", "teal"}, {"notebook", "x"}};
        copyRemarks(colour, to);
        QCOMPARE(to.marks.size(), std::size_t(2));
    }
};

LOOM_TEST(tst_notes, TestNotes)
#include "tst_notes.moc"
