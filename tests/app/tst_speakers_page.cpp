// Speakers driven by keys and mouse: a sheet becomes a voicing, four loudspeakers on two amplifiers have it, one change
// reaches all of them, one gets its own, and the three scopes go into another project.
#include "app/field_form.h"
#include "app/shell/rail.h"
#include "app/speakers/curve_reader.h"
#include "app/speakers/loads_table.h"
#include "app/speakers/sheet_reader.h"
#include "app/speakers/speakers_page.h"
#include "app/speakers/voicing_plot.h"
#include "app/text.h"
#include "app/weave/weave_view.h"
#include "models.h"
#include "window_test.h"
#ifndef Q_MOC_RUN
#include "engine/block_kind.h"
#include "findings/output_findings.h"
#include "voicings/output_figures.h"
#include "voicings/voicing_sheet.h"
#endif
#include "test.h"
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QTableWidget>

using namespace loom;
using namespace loom::app;

class TestSpeakersPage : public WindowTest {
    Q_OBJECT

    SpeakersPage* page() { return view<SpeakersPage>(); }
    SpeakersState& state() { return page()->state(); }

    // As Survey and Weave leave it: four loudspeakers, two amplifiers, a processor with two outputs.
    static project::Project planned() {
        project::Project p;
        p.name = "Cellar";
        const auto add = [&](const char* id, const char* name, const char* model) {
            project::Device d{id, name, model, ""};
            d.models = test::models();
            d.place.placed = true;
            p.devices.push_back(d);
        };
        add("heddle", "Heddle", "heddle-16");
        add("net", "Treadle N", "treadle-4");
        add("plain", "Treadle P", "treadle-2a");
        for (const char* n : {"1", "2", "3", "4"})
            add((std::string("main-") + n).c_str(), (std::string("Main ") + n).c_str(), "oakhaven-x2");
        auto& program = p.devices.change(0).program.emplace();
        for (const char* n : {"1", "2"}) {
            const std::string s(n);
            program.blocks.push_back({"in-" + s, "source", "In " + s});
            program.blocks.changeBack().texts["port"] = "in " + s;
            program.blocks.push_back({"out-" + s, "destination", "Out " + s});
            program.blocks.changeBack().texts["port"] = "out " + s;
            program.connections.push_back({{"in-" + s, 0}, {"out-" + s, 0}});
        }
        return p;
    }
    static QString sheet(const char* name) {
        QFile f(QString(LOOM_SOURCE_DIR "/demo/sheets/") + name);
        return f.open(QIODevice::ReadOnly) ? QString::fromUtf8(f.readAll()) : QString();
    }
    void pasteSheet(const QString& text) {
        auto* edit = page()->findChild<QPlainTextEdit*>("sheetText");
        QApplication::clipboard()->setText(text);
        edit->setFocus();
        QTest::keyClick(edit, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClick(edit, Qt::Key_V, Qt::ControlModifier);
    }
    void tick(const QString& loudspeaker) {
        auto* list = page()->findChild<QListWidget*>("loudspeakers");
        const auto found = list->findItems(loudspeaker, Qt::MatchStartsWith);
        QVERIFY2(found.size() == 1, qPrintable(loudspeaker));
        list->setCurrentItem(found.front());
        list->setFocus();
        QTest::keyClick(list, Qt::Key_Space);
        QApplication::processEvents();
    }
    void type(const char* amplifier, const char* port, int column, const QString& text) {
        auto* table = page()->loads();
        const int row = table->rows().rowOf(amplifier, port);
        QVERIFY(row >= 0);
        table->setFocus();
        table->setCurrentIndex(table->rows().index(row, column));
        QTest::keyClick(table, Qt::Key_F2);
        auto* edit = table->findChild<QLineEdit*>();
        QVERIFY(edit);
        edit->selectAll();
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, text.isEmpty() ? Qt::Key_Backspace : Qt::Key_Return);
        if (text.isEmpty())
            QTest::keyClick(edit, Qt::Key_Return);
        QApplication::processEvents();
        QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete); // the editor has gone
    }
    QString shown(const char* amplifier, const char* port, int column) {
        auto& rows = page()->loads()->rows();
        return rows.data(rows.index(rows.rowOf(amplifier, port), column), Qt::DisplayRole).toString();
    }
    double value(const char* device, const std::string& block, const char* param) {
        const auto* b = project().device(device)->program->find(block);
        if (!b)
            return -1e9;
        const engine::BlockView view(*b);
        return view.values[static_cast<std::size_t>(view.table->indexOf(param))];
    }
    QLineEdit* field(int way, const char* name) {
        auto* form = w_->findChild<FieldForm*>(QString("way.%1").arg(way));
        return form ? form->findChild<QLineEdit*>(QString("field.") + name) : nullptr;
    }
    // Four X2 on both amplifiers, by events.
    void setUpCellar() {
        open(planned(), "cellar");
        QTest::keyClick(w_.get(), Qt::Key_5, Qt::ControlModifier);
        press("fromSheet");
        pasteSheet(sheet("oakhaven-x2.txt"));
        press("makeVoicing");
        for (const char* n : {"Main 1", "Main 2", "Main 3", "Main 4"})
            tick(n);
        press("loads");
        type("net", "out 1", LoadsModel::hangs, "Main 1-2: Low");
        type("net", "out 2", LoadsModel::hangs, "Main 1: High, Main 2: High");
        type("plain", "out 1", LoadsModel::hangs, "Main 3-4: low");
        type("plain", "out 2", LoadsModel::hangs, "Main 3-4: high");
        type("plain", "out 1", LoadsModel::feed, "Heddle / out 1");
        type("plain", "out 2", LoadsModel::feed, "heddle/out 2");
        press("curves");
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { begin("speakers"); }
    void cleanup() { end(); }

    void sheetToFourLoudspeakers() {
        setUpCellar();
        const std::string id = state().voicingId();
        QCOMPARE(q(project().voicing(id)->name), QString("Oakhaven X2"));
        QCOMPARE(project::reachOf(project(), id).size(), std::size_t(4));
        QVERIFY(page()->findChild<QLabel*>("reach")->text().contains("4 loudspeakers"));
        QVERIFY(page()->findChild<QLabel*>("limits")->text().contains("V peak"));
        for (const auto& f : project::checkSpeakers(project()))
            QVERIFY2(f.severity() == project::Severity::note, (f.place + ": " + f.reason).c_str());
        // Limits are shown, in volts and with their reason.
        QVERIFY(shown("net", "out 1", LoadsModel::heat).endsWith("V"));
        auto& rows = page()->loads()->rows();
        const auto tip = [&] {
            return rows.data(rows.index(rows.rowOf("plain", "out 2"), LoadsModel::peak), Qt::ToolTipRole).toString();
        };
        QTRY_VERIFY2(tip().contains("360 W peak into 16 ohms"), qPrintable(tip())); // findings follow a little later
        QVERIFY2(tip().contains("dBFS") && tip().contains("dBu") && tip().contains("Heddle"), qPrintable(tip()));
        // One corner is dragged on the curve: all four follow, in the amplifier and in the processor.
        auto* plot = page()->plot();
        QPointF corner;
        for (const auto& part : plot->paintedParts())
            if (part.name.contains("Low") && part.name.contains("High-pass"))
                corner = part.rect.center();
        QVERIFY(!corner.isNull());
        const double before = value("net", "out-1.v-highpass", "corner");
        QCOMPARE(before, 47.0);
        dragOn(plot, corner, corner + QPointF(40, 0));
        const double after = value("net", "out-1.v-highpass", "corner");
        QVERIFY(after > 60 && after < 105);
        QCOMPARE(value("heddle", "out-1.v-highpass", "corner"), after);
        // Typed beside it; one undo for the drag.
        session().undo();
        QCOMPARE(value("net", "out-1.v-highpass", "corner"), 47.0);
        QCOMPARE(value("heddle", "out-1.v-highpass", "corner"), 47.0);
        typeInto(field(1, "highpass"), "55 Hz BW24");
        QCOMPARE(value("net", "out-1.v-highpass", "corner"), 55.0);
        QCOMPARE(value("heddle", "out-1.v-highpass", "corner"), 55.0);
        typeInto(field(1, "highpass"), "70"); // asks, never guesses
        QVERIFY2(said_.contains("unit"), qPrintable(said_));
        QCOMPARE(value("net", "out-1.v-highpass", "corner"), 55.0);
        // By find or do.
        pick("Oakhaven X2 Low High-pass = 60 Hz BW24");
        QCOMPARE(value("heddle", "out-1.v-highpass", "corner"), 60.0);
    }
    void weaveShowsTheSameBlocks() {
        setUpCellar();
        w_->showStage("weave");
        pick("Weave Heddle");
        QCOMPARE(q(session().device()->id), QString("heddle"));
        QVERIFY(session().program()->find("out-1.v-eq"));
        QVERIFY(session().layout().laneOf("out-1.v-highpass"));
        session().set("out-1.v-highpass", "corner", 90); // the bead is the voicing's
        QCOMPARE(value("net", "out-1.v-highpass", "corner"), 90.0);
        QVERIFY(state().voicing()->ways[0].chain[0].values.at("corner") == 90);
        session().set("out-1.v-limiter", "peak", -20);
        QVERIFY2(said_.contains("follows"), qPrintable(said_));
        pick("Weave Treadle N");
        QVERIFY(session().device()->id == "net" && session().program()->find("out-2.v-lowpass") == nullptr);
    }
    void oneGetsItsOwn() {
        setUpCellar();
        const std::string shared = state().voicingId();
        auto* list = page()->findChild<QListWidget*>("loudspeakers");
        list->setCurrentItem(list->findItems("Main 4", Qt::MatchStartsWith).front());
        press("ownVoicing");
        QVERIFY(state().voicingId() != shared && project().device("main-4")->voicing == state().voicingId());
        QCOMPARE(project::reachOf(project(), shared).size(), std::size_t(3));
        auto* voicings = page()->findChild<QListWidget*>("voicings");
        QCOMPARE(voicings->count(), 2);
        QVERIFY(voicings->item(1)->text().contains("Main 4") && voicings->item(1)->text().contains("1 loudspeaker"));
        bool mixed = false; // it hangs beside another: told
        for (const auto& f : project::checkSpeakers(project()))
            mixed = mixed || f.id() == "mixed-voicings";
        QVERIFY(mixed);
        session().undo();
        QCOMPARE(project::reachOf(project(), shared).size(), std::size_t(4));
    }
    void threeScopesIntoAnotherProject() {
        setUpCellar();
        const QString voicing = folder_.filePath("x2.json"), one = folder_.filePath("one.json"),
                      all = folder_.filePath("all.json");
        answerFile(voicing);
        pick("store the voicing in a file");
        press("loads");
        page()->loads()->selectRow(page()->loads()->rows().rowOf("net", "out 1"));
        answerFile(one);
        pick("store the amplifier's set-up");
        answerFile(all);
        pick("store the set-ups of all");
        for (const auto& file : {voicing, one, all})
            QVERIFY2(QFile::exists(file), qPrintable(file));
        const auto ways = state().voicing()->ways;
        auto other = planned();
        other.name = "Other";
        open(other, "other");
        QVERIFY(project().voicings.empty());
        w_->showStage("speakers");
        answerFile(voicing);
        pick("recall a voicing from a file");
        QVERIFY(project().voicings.size() == 1 && state().voicing()->ways == ways);
        session().undo();
        QVERIFY(project().voicings.empty());
        // A whole amplifier: its loudspeakers hang, and get the voicing.
        press("loads");
        type("net", "out 1", LoadsModel::hangs, "Main 1-2");
        type("net", "out 2", LoadsModel::hangs, "Main 1: 2, Main 2: 2");
        page()->loads()->selectRow(page()->loads()->rows().rowOf("net", "out 1"));
        answerFile(one);
        pick("recall a set-up on the amplifier");
        QVERIFY(project().voicings.size() == 1 && project().device("main-2")->voicing == project().voicings[0].id);
        QCOMPARE(value("net", "out-1.v-highpass", "corner"), 47.0);
        // The set: both amplifiers by their names.
        type("plain", "out 1", LoadsModel::hangs, "Main 3-4");
        type("plain", "out 2", LoadsModel::hangs, "Main 3: 2, Main 4: 2");
        answerFile(all);
        pick("recall set-ups of all");
        QVERIFY(project().device("main-4")->voicing == project().voicings[0].id && project().voicings.size() == 1);
        answerFile(folder_.filePath("other.loom")); // no set-up
        pick("recall a voicing from a file");
        QVERIFY(!said_.isEmpty() && project().voicings.size() == 1);
    }
    void sheetAsksBeforeItIsTaken() {
        open(planned(), "asks");
        press("fromSheet");
        pasteSheet(sheet("wickerwork-m2.txt"));
        auto* make = page()->findChild<QPushButton*>("makeVoicing");
        QVERIFY(!make->isEnabled());
        QVERIFY(page()->findChild<QLabel*>("sheetSays")->text().contains("2 of them ask"));
        for (int guard = 0; guard < 10 && !make->isEnabled(); ++guard) {
            auto* ask = page()->findChild<QComboBox*>("ask.1");
            QVERIFY(ask);
            ask->setFocus();
            QTest::keyClick(ask, Qt::Key_Down); // the first of what it may mean
            emit ask->activated(ask->currentIndex());
            QApplication::sendPostedEvents(nullptr, QEvent::MetaCall);
            QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
            QApplication::processEvents();
        }
        QVERIFY(make->isEnabled());
        auto* fields = page()->findChild<QTableWidget*>("sheetFields");
        fields->item(0, 0)->setCheckState(Qt::Unchecked); // left out
        press("makeVoicing");
        QCOMPARE(project().voicings.size(), std::size_t(1));
        QCOMPARE(project().voicings[0].ways[0].chain[0].values.at("corner"), 70.0);
        pasteSheet("Nur auf Deutsch: Nennscheinleistung");
        QVERIFY(!make->isEnabled());
        session().undo();
        QVERIFY(project().voicings.empty());
    }
    void findingsLeadToTheOutput() {
        setUpCellar();
        press("loads");
        type("plain", "out 1", LoadsModel::hangs, "");
        waitForFinding("was not told what hangs");
        w_->showStage("survey");
        pick("finding was not told what hangs");
        QVERIFY(page()->isVisible() && page()->loads()->isVisible());
        QCOMPARE(page()->loads()->currentIndex().row(), page()->loads()->rows().rowOf("plain", "out 1"));
        type("plain", "out 1", LoadsModel::hangs, "Nobody");
        QVERIFY2(said_.contains("no loudspeaker"), qPrintable(said_));
        type("plain", "out 1", LoadsModel::hangs, "Main 3: Top");
        QVERIFY2(said_.contains("no way"), qPrintable(said_));
        type("net", "out 1", LoadsModel::metres, "-4");
        QVERIFY2(said_.contains("0 to 10000"), qPrintable(said_));
        type("net", "out 1", LoadsModel::wiring, "star");
        QVERIFY2(said_.contains("no wiring"), qPrintable(said_));
        type("net", "out 1", LoadsModel::mm2, "4, 60");
        QVERIFY(project().device("net")->outputs.at("out 1").mm2 == 4 &&
                project().device("net")->outputs.at("out 1").celsius == 60);
        QVERIFY(shown("net", "out 1", LoadsModel::mm2).contains("60"));
        type("net", "out 1", LoadsModel::mm2, "4, hot");
        QVERIFY2(said_.contains("-50 to 150"), qPrintable(said_));
        type("net", "out 1", LoadsModel::metres, "200 m");
        QVERIFY(shown("net", "out 1", LoadsModel::loss).toDouble() == 0 &&
                project().device("net")->outputs.at("out 1").metres == 200);
    }
    void linesAndTaps() {
        openDemo();
        w_->showStage("speakers");
        press("loads");
        QVERIFY(
            shown("treadle-4-foyer", "out 1", LoadsModel::hangs).contains(QString("Foyer ceiling 1\u201310 @ 7.5 W")));
        type("treadle-4-foyer", "out 1", LoadsModel::hangs, "@ 15 W");
        for (const auto& l : project().device("treadle-4-foyer")->outputs.at("out 1").loads)
            QVERIFY2(l.tapWatts == 15, qPrintable(said_));
        QVERIFY(shown("treadle-4-foyer", "out 1", LoadsModel::watts).startsWith("150/300"));
        QTRY_VERIFY(shown("treadle-4-foyer", "out 1", LoadsModel::seats).endsWith("dB")); // levels come a little later
        for (const auto& f : project::checkSpeakers(project()))
            QVERIFY2(false, (f.place + ": " + f.reason).c_str()); // nothing is left in the demo
    }
    void typingIsLeftAlone() { // while figures come in
        openDemo();
        w_->showStage("speakers");
        press("loads");
        auto* table = page()->loads();
        table->setFocus();
        table->setCurrentIndex(table->rows().index(2, LoadsModel::metres));
        QTest::keyClick(table, Qt::Key_F2);
        auto* edit = table->findChild<QLineEdit*>();
        QVERIFY(edit);
        edit->selectAll();
        QTest::keyClicks(edit, "77");
        emit state().changed();
        table->rows().setFindings({});
        QCOMPARE(edit->text(), QString("77"));
        QTest::keyClick(edit, Qt::Key_Return);
        QTRY_COMPARE(project().device("treadle-4-hall")->outputs.at("out 3").metres, 77.0);
    }
    void alignAndFitByKeys() {
        openDemo();
        w_->showStage("speakers");
        pick("voicing Bobbin 12");
        const auto before = state().voicing()->whole;
        answer("150 12000 8");
        press("fit");
        QTRY_VERIFY_WITH_TIMEOUT(!(state().voicing()->whole == before), 20000);
        QVERIFY2(said_.contains("r.m.s."), qPrintable(said_));
        answer("100 110 8");
        press("fit");
        QVERIFY2(said_.contains("range"), qPrintable(said_));
        session().undo();
        QVERIFY(state().voicing()->whole == before);
        state().choose("oakhaven-x2");
        typeInto(field(2, "delay"), "3");
        press("align");
        QVERIFY2(said_.contains("gained"), qPrintable(said_));
        // Handles by keys: choose, move, wider; a bell goes with Del.
        auto* plot = page()->plot();
        plot->setFocus();
        int bells = 0;
        for (const auto& p : plot->paintedParts())
            bells += p.name.contains("Bell");
        QTest::keyClick(plot, Qt::Key_PageDown);
        const double corner = value("treadle-4-cellar", "out-1.v-highpass", "corner");
        QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY(value("treadle-4-cellar", "out-1.v-highpass", "corner") > corner);
        for (int i = 0; i < 2; ++i)
            QTest::keyClick(plot, Qt::Key_PageDown);
        QTest::keyClick(plot, Qt::Key_Delete);
        int left = 0;
        for (const auto& p : plot->paintedParts())
            left += p.name.contains("Bell");
        QCOMPARE(left, bells - 1);
        QVERIFY(page()->readCurve(LOOM_SOURCE_DIR "/demo/responses/bobbin-12.txt", -1, false));
        press("takeCurve");
        QVERIFY(!state().curves().target.empty());
        QVERIFY(!page()->readCurve(LOOM_SOURCE_DIR "/README.md", 0, false));
    }
    // -- files of others --
    void choose(const char* box, const QString& words) {
        auto* b = page()->findChild<QComboBox*>(box);
        QVERIFY2(b && b->isVisible() && b->isEnabled(), box);
        for (int i = 0; i < b->count(); ++i)
            if (b->itemText(i).contains(words)) {
                b->setFocus();
                b->setCurrentIndex(i);
                emit b->activated(i);
                QApplication::processEvents();
                return;
            }
        QFAIL(qPrintable(QString(box) + " has no " + words + ": " + b->itemText(0)));
    }
    void responseInKilohertzIsAsked() {
        openDemo();
        w_->showStage("speakers");
        state().choose("oakhaven-x2");
        dropFile(page(), LOOM_SOURCE_DIR "/tests/samples/curves/kilohertz-unsaid.txt");
        QTRY_VERIFY(!page()->opening());
        auto* take = page()->findChild<QPushButton*>("takeCurve");
        QVERIFY(take && take->isVisible() && !take->isEnabled());
        choose("curve.frequency", "kHz");
        QVERIFY(take->isEnabled());
        press("takeCurve");
        const auto& v = *state().voicing();
        QCOMPARE(v.ways[0].response, std::string("kilohertz-unsaid.txt"));
        const auto kept = project::responseOf(project(), v.ways[0].response);
        QVERIFY(kept && std::abs(kept->hz.front() - 20) < 1e-6 && std::abs(kept->hz.back() - 20000) < 1e-6);
        // As an impedance instead, and left.
        dropFile(page(), LOOM_SOURCE_DIR "/tests/samples/curves/impedance-no-head.txt");
        QTRY_VERIFY(!page()->opening());
        choose("curveFor", "Impedance of High");
        QVERIFY(take->isEnabled());
        QTest::keyClick(take, Qt::Key_Escape);
        QVERIFY(state().voicing()->ways[1].impedance.empty());
    }
    void pdfIsPutRightAndRemembered() {
        const QString pdfs = LOOM_SOURCE_DIR "/tests/samples/pdf/";
        QDir(q(project::sheetPatternFolder())).removeRecursively(); // of other tests
        open(planned(), "cellar");
        w_->showStage("speakers");
        dropFile(page(), pdfs + "scan.pdf");
        QTRY_VERIFY(!page()->opening());
        QVERIFY2(said_.contains("pictures"), qPrintable(said_));
        dropFile(page(), pdfs + "locked.pdf");
        QTRY_VERIFY(!page()->opening());
        QVERIFY2(said_.contains("encrypted"), qPrintable(said_));
        dropFile(page(), pdfs + "teasel-10.pdf");
        QTRY_VERIFY(!page()->opening());
        auto* reader = page()->reader();
        auto* text = page()->findChild<QPlainTextEdit*>("sheetText");
        QVERIFY(reader->isVisible() && !reader->ready());
        QCOMPARE(loudspeaker::questionsOf(reader->sheet()).size(), std::size_t(1)); // three widths alike
        choose("ask.1", "Q 1.4");
        QVERIFY(reader->ready());
        // "Padding" means nothing to the reader: pressed, and said to be a level.
        const auto levels = [&] {
            return std::count_if(reader->sheet().fields.begin(), reader->sheet().fields.end(),
                                 [](const auto& f) { return f.kind == loudspeaker::SheetKind::gain; });
        };
        QCOMPARE(levels(), 0);
        QTextCursor at = text->document()->find("Padding");
        QVERIFY(!at.isNull());
        at.setPosition(at.selectionStart() + 2);
        text->setTextCursor(at);
        QTest::mouseClick(text->viewport(), Qt::LeftButton, Qt::NoModifier, text->cursorRect().center());
        QCOMPARE(text->textCursor().selectedText(), QString("Padding"));
        choose("sayWhat", "Level");
        QCOMPARE(levels(), 2);
        QVERIFY2(reader->ready(), "the answer was forgotten");
        QVERIFY(page()->findChild<QCheckBox*>("rememberSheet")->isVisible());
        press("makeVoicing");
        const auto* v = state().voicing();
        QVERIFY(v && v->name == "Teasel 10" && v->maker == "Sedge & Rush" && v->ways.size() == 2);
        QVERIFY(v->ways[0].peakLimit == "92 V" && project::sheetPatterns().size() == 1);
        tick("Main 1");
        QCOMPARE(project().device("main-1")->voicing, v->id);
        // The maker's next sheet is read without a question.
        dropFile(page(), pdfs + "teasel-12.pdf");
        QTRY_VERIFY(!page()->opening());
        QVERIFY(reader->ready() && levels() == 2);
        QCOMPARE(reader->sheet().pattern, std::string("Sedge & Rush"));
        press("makeVoicing");
        QVERIFY(state().voicing()->name == "Teasel 12");
    }
    void voicingAsAPdf() {
        openDemo();
        w_->showStage("speakers");
        state().choose("oakhaven-x2");
        for (const char* ending : {".pdf", ".txt", ".csv"}) {
            const QString file = folder_.filePath(QString("voicing") + ending);
            QVERIFY(page()->writeSheet(file));
            page()->openFile(file);
            QTRY_VERIFY(!page()->opening());
            QVERIFY2(page()->reader()->ready(),
                     qPrintable(page()->findChild<QPlainTextEdit*>("sheetText")->toPlainText()));
            const auto back = project::voicingFrom(page()->reader()->sheet(), {}, "back");
            QCOMPARE(project::sheetText(back), project::sheetText(*state().voicing()));
        }
        QVERIFY(!page()->writeSheet(folder_.filePath("no/such/folder.pdf")));
    }
    void largeTextAndNight() {
        openDemo();
        w_->showStage("speakers");
        Theme::get().setPercent(200);
        Theme::get().setNight(true);
        for (const char* view : {"loads", "curves"}) {
            press(view);
            const auto* plot = page()->plot();
            QVERIFY(!w_->grab().isNull());
            QVERIFY(!plot->isVisible() || plot->height() > 100);
        }
        Theme::get().setNight(false);
    }
};

LOOM_TEST(tst_speakers_page, TestSpeakersPage)
#include "tst_speakers_page.moc"
