// Scripts: what they may, and what they cannot do to anybody.
#include "rules/script.h"
#include "rules_demo.h"
#include <clocale>
#include <ctime>

using namespace loom;
using namespace loom::project;
using namespace loom::test;

namespace {

struct Desk final : ScriptDesk {
    std::map<std::string, double> values{};
    std::vector<std::string> said{};
    std::optional<double> scriptGet(const std::string& path) override {
        const auto it = values.find(path);
        return it == values.end() ? std::nullopt : std::optional(it->second);
    }
    std::string scriptGetText(const std::string& path) override { return values.count(path) ? "open" : ""; }
    std::optional<Error> scriptSet(const std::string& path, const std::variant<double, std::string>& v,
                                   double seconds) override {
        if (path == "refused")
            return Error{"there is no refused", "", ""};
        said.push_back(path + "=" +
                       (v.index() ? std::get<std::string>(v) : std::to_string(static_cast<int>(std::get<double>(v)))) +
                       (seconds > 0 ? " over" : ""));
        if (!v.index())
            values[path] = std::get<double>(v);
        return {};
    }
    std::optional<Error> scriptDo(const std::string& sentence) override {
        said.push_back(sentence);
        return {};
    }
    ScriptMoment scriptNow() override { return {2026, 11, 30, 17, 45, 0, 1, 12.5}; }
    QString all() const {
        QStringList list;
        for (const auto& s : said)
            list << QString::fromStdString(s);
        return list.join("; ");
    }
};

double threadMs() {
    timespec t{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
    return 1e3 * static_cast<double>(t.tv_sec) + 1e-6 * static_cast<double>(t.tv_nsec);
}

} // namespace

class TestScript : public QObject {
    Q_OBJECT

  private slots:
    void saysWhatRulesDo() {
        Desk desk;
        desk.values["a"] = 3;
        ScriptBox box("local v = get('a')\nset('b', v + 1)\nset('c', 'open', 2)\nset('d', true)\nact('recall Film')\n"
                      "note('it is ' .. text('a') .. ' at ' .. now().hour .. ':' .. now().minute)\n"
                      "if get('nothing') == nil then set('e') end",
                      desk);
        QVERIFY2(box.wrong().empty(), box.wrong().c_str());
        int n = 0;
        QVERIFY(box.run(n).kind == ScriptOutcome::Kind::done);
        QCOMPARE(desk.all(), QString("b=4; c=open over; d=1; recall Film; note it is open at 17:45; e=1"));
    }
    void waits() {
        Desk desk;
        ScriptBox box("for i = 1, 3 do set('a', i) wait(i) end note('done')", desk);
        int first = 0, second = 0;
        auto o = box.run(first);
        QVERIFY(o.kind == ScriptOutcome::Kind::waits && o.seconds == 1);
        QVERIFY(box.run(second).kind == ScriptOutcome::Kind::waits && second != first); // beside it
        o = box.resume(first);
        QVERIFY(o.kind == ScriptOutcome::Kind::waits && o.seconds == 2);
        box.drop(second);
        QVERIFY(box.resume(second).kind == ScriptOutcome::Kind::failed);
        (void)box.resume(first);
        QVERIFY(box.resume(first).kind == ScriptOutcome::Kind::done);
        QCOMPARE(desk.all(), QString("a=1; a=1; a=2; a=3; note done"));
        int n = 0;
        for (int i = 0; i < ScriptBox::mostRunning; ++i)
            QVERIFY(box.run(n).kind == ScriptOutcome::Kind::waits);
        QVERIFY(box.run(n).kind == ScriptOutcome::Kind::failed);
    }
    void errorsNameTheLine() {
        Desk desk;
        QCOMPARE(QString::fromStdString(scriptError("local a = 1\nlocal b = =\n")).left(7), QString("line 2:"));
        QVERIFY(scriptError("return 1").empty());
        ScriptBox box("local a = 1\n\nset('refused', 1)", desk);
        int n = 0;
        auto o = box.run(n);
        QVERIFY(o.kind == ScriptOutcome::Kind::failed);
        QCOMPARE(QString::fromStdString(o.error), QString("line 3: there is no refused"));
        ScriptBox other("local t = nil\nreturn t.x", desk);
        QVERIFY(QString::fromStdString(other.run(n).error).startsWith("line 2: attempt to index"));
        ScriptBox thrown("error({1})", desk);
        QVERIFY(!thrown.run(n).error.empty());
    }
    void shutIn_data() {
        QTest::addColumn<QString>("name");
        for (const char* name :
             {"io",      "os",           "require",      "load",           "loadfile",    "dofile",     "debug",
              "package", "setmetatable", "getmetatable", "collectgarbage", "print",       "coroutine",  "rawset",
              "xpcall",  "next",         "utf8",         "string.dump",    "math.random", "table.move", "_G"})
            QTest::newRow(name) << QString(name);
    }
    void shutIn() {
        QFETCH(QString, name);
        Desk desk;
        ScriptBox box("set('there', " + name.toStdString() + " ~= nil)", desk);
        int n = 0;
        QVERIFY(box.run(n).kind == ScriptOutcome::Kind::done);
        QCOMPARE(desk.all(), QString("there=0"));
    }
    void bombs_data() {
        QTest::addColumn<QString>("text");
        for (const char* text : {"while true do end",
                                 "local function f() return f() end f()",
                                 "local function f() return 1 + f() end f()",
                                 "while true do pcall(function() while true do end end) end",
                                 "local f f = function() pcall(f) while true do end end f()",
                                 "local s = 'x' while true do s = s .. s end",
                                 "local t = {} while true do t[#t + 1] = {} end",
                                 "string.rep('x', 1e9)",
                                 "local s = string.rep('x', 1e6) while true do local y = s .. 'z' end",
                                 "string.find(string.rep('a', 100000), '.-.-.-.-.-.-b')",
                                 "string.gsub(string.rep('a', 5000), '(a*)*(a*)*(a*)*b', '')",
                                 "for i in string.gmatch(string.rep('a', 9000), 'a*a*a*b') do end",
                                 "string.find(string.rep('a', 1e6), string.rep('a', 5e5) .. 'b', 1, true)",
                                 "table.concat({}, 'x', 1, 1e9)",
                                 "table.sort({3, 2, 1}, function() while true do end end)",
                                 "string.format('%99999d', 1)",
                                 "local t = {} for i = 1, 1e9 do t[i] = i end",
                                 "error(string.rep('x', 1e6))",
                                 "wait(-1)",
                                 "wait(0/0)",
                                 "pcall(wait, 1) while true do end",
                                 "keep = {} keep.me = keep while true do end",
                                 "goto x ::x:: goto x"})
            QTest::newRow(text) << QString(text);
    }
    void bombs() {
        QFETCH(QString, text);
        Desk desk;
        ScriptBox box(text.toStdString(), desk);
        const double begun = threadMs();
        int n = 0;
        auto o = box.run(n);
        for (int i = 0; i < 3 && o.kind == ScriptOutcome::Kind::waits; ++i)
            o = box.resume(n);
        QVERIFY(o.kind == ScriptOutcome::Kind::failed && !o.error.empty() && o.error.size() < 400);
        QVERIFY2(threadMs() - begun < 400, qPrintable(QString::number(threadMs() - begun))); // its thread's own time
        // It can be run again, and others were never touched.
        ScriptBox other("set('a', 1)", desk);
        QVERIFY(other.run(n).kind == ScriptOutcome::Kind::done);
    }
    void keeps() {
        Desk desk;
        ScriptBox box("keep.n = (keep.n or 0) + 1 keep.names = keep.names or {} keep.names[keep.n] = 'x' .. keep.n "
                      "keep[2.5] = true set('n', keep.n)",
                      desk);
        int n = 0;
        (void)box.run(n), (void)box.run(n);
        const auto kept = box.kept();
        ScriptBox then("set('n', keep.n) set('two', #keep.names) set('half', keep[2.5])", desk);
        then.restore(kept);
        QVERIFY(then.run(n).kind == ScriptOutcome::Kind::done);
        QCOMPARE(desk.all(), QString("n=1; n=2; n=2; two=2; half=1"));
        QCOMPARE(then.kept(), kept);
        ScriptBox round("keep.me = keep", desk);
        (void)round.run(n);
        QCOMPARE(round.kept(), std::string());
        ScriptBox much("keep.s = string.rep('x', 20000)", desk);
        (void)much.run(n);
        QCOMPARE(much.kept(), std::string());
        for (const char* bad : {"{", "{}", "[[null,1]]", "[[[1],2]]", "7", "[[\"a\",[[\"b\",[]]]]]"}) {
            ScriptBox one("set('n', 1)", desk);
            one.restore(bad);
            QVERIFY(one.run(n).kind == ScriptOutcome::Kind::done);
        }
    }
    void sameEverywhere() { // numbers and order, whatever language the computer speaks
        const std::string before = std::setlocale(LC_ALL, nullptr);
        (void)std::setlocale(LC_ALL, "de_DE.UTF-8");
        Desk desk;
        ScriptBox box("local t = {b = 1, a = 2, [3] = 0, [1] = 0} local s = '' for k in pairs(t) do s = s .. k .. ' ' "
                      "end note(s .. 1.5 .. ' ' .. tostring(tonumber('2.5')))",
                      desk);
        int n = 0;
        const auto o = box.run(n);
        (void)std::setlocale(LC_ALL, before.c_str());
        QVERIFY2(o.kind == ScriptOutcome::Kind::done, o.error.c_str());
        QCOMPARE(desk.all(), QString("note 1 3 a b 1.5 2.5"));
    }
    void patternsThatAreWell() {
        Desk desk;
        ScriptBox box("note(string.match('level=-12.5 dB', '(%-?%d+%.?%d*)')) note(string.gsub('a b c', ' ', '-')) "
                      "note(('x'):rep(3))",
                      desk);
        int n = 0;
        QVERIFY(box.run(n).kind == ScriptOutcome::Kind::done);
        QCOMPARE(desk.all(), QString("note -12.5; note a-b-c; note xxx"));
    }
    void ofRules() { // a script with the same vocabulary, at work
        auto p = rulesProject();
        p.scripts.push_back(
            {"count", "Count",
             "keep.n = (keep.n or 0) + 1\nset('box/speech.gain', -keep.n)\nwait(2)\nact('set box/cut.muted to on')"});
        p.scripts.push_back({"bad", "Bad", "while true do end"});
        addRule(p, "r", "when Oak tap becomes pressed\nthen run Bad\nthen run Count\nthen set box/music.gain to -5");
        RuleRun run(p);
        for (const auto& known : run.book().known())
            if (const auto v = restingValue(p, known.signal))
                run.know(known.signal.path, *v);
        run.start(0, 0);
        run.input(10, "button:oak-tap", 1);
        QCOMPARE(*run.value("box/speech.gain"), -1.0);
        QCOMPARE(*run.value("box/music.gain"), 0.0); // it waits
        run.advance(2010);
        QCOMPARE(*run.value("box/cut.muted"), 1.0);
        QCOMPARE(*run.value("box/music.gain"), -5.0);
        bool told = false;
        for (const auto& e : run.takeEvents())
            told = told || (e.kind == RuleEvent::Kind::failed && e.rule == "r" && e.text.rfind("Bad, ", 0) == 0);
        QVERIFY(told);
        const auto kept = run.kept();
        RuleRun then(p);
        then.restore(kept);
        then.know("button:oak-tap", 0), then.know("box/speech.gain", 0);
        then.start(0, 0);
        then.input(10, "button:oak-tap", 1);
        QCOMPARE(*then.value("box/speech.gain"), -2.0); // through the night
    }
};

LOOM_TEST(tst_script, TestScript)
#include "tst_script.moc"
