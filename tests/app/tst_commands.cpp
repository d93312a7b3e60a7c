// Stages and commands are declarations: a stage of our own, no key with two meanings, every command runs.
#include "app/shell/findings_panel.h"
#include "app/shell/rail.h"
#include "app/shell/stage.h"
#include "test.h"
#include "window_test.h"
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QPlainTextEdit>
#include <set>

using namespace loom;
using namespace loom::app;

namespace {

int freeOrder = 0; // in the work: one that no stage has yet

// All that the program would need of one more stage.
struct Ledger {
    QPlainTextEdit* page = nullptr;
    QLabel* deck = nullptr;
    int icons = 0, rung = 0;
    bool bellBroken = false;
    Target shown{};
} ledger;

Stage ledger_stage(MainWindow& window) {
    ledger.page = new QPlainTextEdit;
    ledger.page->setReadOnly(true);
    ledger.deck = new QLabel("Sums");
    Stage stage;
    stage.id = "ledger", stage.name = "Ledger", stage.order = freeOrder;
    stage.icon = [](QPainter& p, QPointF m) {
        ++ledger.icons;
        p.drawPoint(m);
    };
    stage.page = ledger.page, stage.deck = ledger.deck;
    stage.focus = [] { ledger.page->setFocus(); };
    stage.commands = {Command("ledger.bell", "Ring the bell", [] { ++ledger.rung; }).on("B", {ledger.page}).unless([] {
        return ledger.bellBroken ? QString("The bell is broken. Mend it.") : QString();
    })};
    stage.find = [&window](std::vector<Findable>& all) {
        all.push_back({"page", "Page forty", "", [&window] {
                           window.showStage("ledger");
                           ledger.page->setPlainText("forty");
                       }});
    };
    stage.show = [](const Target& place) {
        ledger.shown = place;
        return place.device == "heddle";
    };
    stage.state = []() -> std::optional<StateWord> {
        return ledger.rung ? std::optional(StateWord{"Rung", Qt::red}) : std::nullopt;
    };
    return stage;
}

} // namespace

class TestCommands : public WindowTest {
    Q_OBJECT
    int closed_ = 0; // dialogs
    QTimer closer_;

  private slots:
    void initTestCase() {
        beginAll();
        begin("survey");
        std::set<int> taken;
        for (const auto& s : w_->stages())
            taken.insert(s.order);
        for (freeOrder = 10; taken.count(freeOrder);)
            --freeOrder;
        QVERIFY(freeOrder > 1); // else the example takes the place of a stage
        end();
        stageMakers().push_back(ledger_stage);
        connect(&closer_, &QTimer::timeout, this, [this] {
            if (auto* popup = QApplication::activePopupWidget())
                popup->close();
            if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget()))
                ++closed_, dialog->reject();
            if (auto* ask = asked()) {
                ++closed_;
                QTest::keyClick(ask, Qt::Key_Escape);
            }
        });
    }
    void init() {
        ledger = {};
        begin("ledger");
    }
    void cleanup() {
        closer_.stop();
        end();
    }

    void aStageIsOneDeclaration() {
        QVERIFY(ledger.page->isVisible() && ledger.deck->isVisible() && ledger.page->hasFocus());
        // Its place on the rail is the one in the order of the work; its icon and name are drawn there.
        auto* rail = w_->findChild<Rail*>();
        const auto& all = w_->stages();
        QVERIFY(std::is_sorted(all.begin(), all.end(), [](auto& x, auto& y) { return x.order < y.order; }));
        const auto it = std::find_if(all.begin(), all.end(), [](const auto& one) { return one.id == "ledger"; });
        const int place = static_cast<int>(it - all.begin());
        QCOMPARE(rail->current(), place);
        QVERIFY(ledger.icons > 0);
        // By the mouse and by its key, from elsewhere.
        QTest::keyClick(w_.get(), Qt::Key_1, Qt::ControlModifier);
        QVERIFY(!ledger.page->isVisible());
        QTest::mouseClick(rail, Qt::LeftButton, {}, rail->stageRect(place).center().toPoint());
        QVERIFY(ledger.page->isVisible());
        QTest::keyClick(w_.get(), Qt::Key_8, Qt::ControlModifier);
        QTest::keyClick(w_.get(), static_cast<Qt::Key>(Qt::Key_0 + freeOrder % 10), Qt::ControlModifier);
        QVERIFY(ledger.page->isVisible() && ledger.page->hasFocus());
        // Its command: by its key where it holds, by find-or-do from anywhere, which brings the stage into view.
        QTest::keyClick(ledger.page, Qt::Key_B);
        QCOMPARE(ledger.rung, 1);
        w_->refresh();
        const auto labels = w_->findChildren<QLabel*>();
        QVERIFY(std::any_of(labels.begin(), labels.end(), [](auto* l) { return l->text().endsWith("Rung"); }));
        w_->showStage("survey");
        pick("ring bell");
        QVERIFY(ledger.rung == 2 && ledger.page->isVisible());
        ledger.bellBroken = true;
        w_->showStage("survey");
        pick("ring bell");
        QVERIFY(ledger.rung == 2 && !ledger.page->isVisible());
        QCOMPARE(said_, QString("The bell is broken. Mend it."));
        QMenu menu;
        w_->commands().addTo(menu, "ledger.bell");
        QVERIFY(!menu.actions()[0]->isEnabled() && menu.actions()[0]->text() == "Ring the bell\tB");
        // What it finds; findings named for it are counted on the rail and lead to it.
        pick("page forty");
        QCOMPARE(ledger.page->toPlainText(), QString("forty"));
        w_->showStage("survey");
        w_->goTo({"Ledger", "heddle", "", ""});
        QVERIFY(ledger.page->isVisible());
        w_->goTo({"Ledger", "other", "", ""}); // not there: the next that has it
        QVERIFY(!ledger.page->isVisible());
    }
    // A finding leads to where it is dealt with, also one of a whole program, on another processor.
    void findingsLeadToTheirStage() {
        openDemo();
        session().work("heddle");
        w_->goTo({"Weave", "treadle-4-hall", "", ""});
        QCOMPARE(w_->stage().id, QString("weave"));
        QCOMPARE(session().device()->id, std::string("treadle-4-hall"));
        w_->goTo({"Weave", "heddle", "chair.eq", ""});
        QVERIFY(session().device()->id == "heddle" && session().block() == "chair.eq" && session().lane() == "chair");
        w_->goTo({"Speakers", "treadle-4-hall", "out 2", ""});
        QCOMPARE(w_->stage().id, QString("speakers"));
        w_->goTo({"Survey", "tern-tap", "", ""});
        QCOMPARE(w_->stage().id, QString("survey"));
    }
    // Where a key holds, it has one meaning; whoever is asked by two commands would do neither.
    void noKeyHasTwoMeanings() {
        const auto& all = w_->commands().all();
        QVERIFY(all.size() > 120);
        for (std::size_t a = 0; a < all.size(); ++a)
            for (std::size_t b = a + 1; b < all.size(); ++b)
                for (const auto& key : all[a].keys) {
                    const bool both =
                        all[a].where.empty() || all[b].where.empty() ||
                        std::any_of(all[a].where.begin(), all[a].where.end(), [&](QWidget* w) {
                            return std::find(all[b].where.begin(), all[b].where.end(), w) != all[b].where.end();
                        });
                    QVERIFY2(!both || !all[b].keys.contains(key),
                             qPrintable(key + ": " + all[a].id + " and " + all[b].id));
                    QVERIFY2(!QKeySequence(key).isEmpty() && QKeySequence(key).toString() != "", qPrintable(key));
                }
    }
    void textsTellCommandsApart() {
        QStringList texts;
        for (const auto& c : w_->commands().all()) {
            QVERIFY2(!c.text.isEmpty() && !texts.contains(c.text, Qt::CaseInsensitive), qPrintable(c.text));
            texts << c.text;
        }
    }
    // scripts/make-docs has been run since a command changed.
    void theGuideTellsEveryCommand() {
        QFile page(LOOM_SOURCE_DIR "/docs/guide.md");
        QVERIFY(page.open(QIODevice::ReadOnly));
        const QString guide = QString::fromUtf8(page.readAll());
        for (const auto& c : w_->commands().all())
            if (!c.id.contains("ledger"))
                QVERIFY2(guide.contains(QString("| %1 | %2 | %3 |").arg(c.text, c.mouse, keysText(c))),
                         qPrintable(c.id));
    }
    void everyCommandRuns_data() {
        QTest::addColumn<bool>("demo");
        QTest::newRow("empty") << false;
        QTest::newRow("demo") << true;
    }
    void everyCommandRuns() {
        QFETCH(bool, demo);
        closer_.start(10); // whatever dialog comes is declined
        QStringList ids;
        for (const auto& c : w_->commands().all())
            ids << c.id;
        int ran = 0;
        for (const auto& id : ids) {
            if (demo)
                openDemo();
            else
                session().startEmpty();
            if (demo && id.startsWith("weave."))
                session().choose("chair", "chair.eq");
            said_.clear();
            const bool run = w_->commands().run(id);
            ran += run;
            QVERIFY2(run || !said_.isEmpty(), qPrintable(id)); // whoever is refused is told why
            QApplication::processEvents();
            session().bench().stop();
            session().discard();
        }
        qInfo("%d of %d ran, %d dialogs", ran, int(ids.size()), closed_);
        QVERIFY(ran > (demo ? 110 : 60));
        QVERIFY(!w_->commands().run("nobody.declares.this"));
    }
};

LOOM_TEST(tst_commands, TestCommands)
#include "tst_commands.moc"
