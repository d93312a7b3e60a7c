// loomctl as a user calls it: answers, errors, exit codes.
#include "dsp/audio_file.h"
#include "dsp/units.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "file/store.h"
#include "model/set_up.h"
#endif
#include "test.h"
#include <QDir>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>

using namespace loom;

class TestLoomctl : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString demo_ = LOOM_HALL, out_, err_;
    int call(const QStringList& args) {
        QProcess p;
        p.start(LOOMCTL, args);
        p.waitForFinished(60000);
        out_ = p.readAllStandardOutput(), err_ = p.readAllStandardError();
        return p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1;
    }
    QJsonDocument json() const { return QJsonDocument::fromJson(out_.toUtf8()); }
  private slots:
    void infoAndCheck() {
        QCOMPARE(call({"info", demo_, "--json"}), 0);
        QCOMPARE(json()["devices"][0]["blocks"].toArray().size(), 67);
        QCOMPARE(call({"check", demo_}), 0);
        QVERIFY(out_.startsWith("left  Foyer: If Sley 24") && out_.count('\n') == 2); // two things that are meant
        QCOMPARE(call({"findings"}), 0);
        QVERIFY(out_.contains("| `no-arrival` | Weave | fix |") && out_.contains("| `firmware` | Site | note |"));
    }
    void filesOfOthers() {
        const QString samples = LOOM_SOURCE_DIR "/tests/samples/", file = folder_.filePath("others.loom");
        // A sheet, with kind, value, unit, place and certainty of each fact.
        QCOMPARE(call({"sheet", samples + "pdf/teasel-10.pdf", "--json"}), 0);
        const auto fields = json()["fields"].toArray();
        const auto pass = std::find_if(fields.begin(), fields.end(),
                                       [](const QJsonValue& f) { return f["kind"] == "highPass" && f["way"] == 1; });
        QVERIFY(pass != fields.end());
        const QJsonValue hp = *pass;
        QVERIFY(hp["value"] == 52 && hp["unit"] == "Hz" && hp["slope"] == 24 && hp["shape"] == "butterworth" &&
                hp["wayName"] == "Low" && hp["certainty"].toDouble() == 1 && hp["to"].toInt() > hp["from"].toInt());
        QCOMPARE(json()["questions"].toArray().size(), 1);
        QCOMPARE(json()["questions"][0]["fields"].toArray().size(), 3);
        QVERIFY(json()["limits"].toArray().size() == 2 && json()["off"].toArray().size() == 2);
        QCOMPARE(call({"sheet", samples + "pdf/scan.pdf"}), 2);
        QVERIFY2(err_.contains("pictures"), qPrintable(err_));
        QCOMPARE(call({"sheet", samples + "pdf/teasel-10.pdf", "--answer", "99=1"}), 2);
        // A curve whose unit is asked.
        const QString curve = samples + "curves/kilohertz-unsaid.txt";
        QCOMPARE(call({"curve", curve, "--json"}), 0);
        QVERIFY(json()["questions"][0]["topic"] == "frequency" && json()["questions"][0]["likely"] == 2);
        QCOMPARE(call({"curve", curve, "--answer", "frequency=2", "--json"}), 0);
        QVERIFY(json()["questions"].toArray().isEmpty() && json()["hz"].toArray().size() == 31);
        QVERIFY(std::abs(json()["hz"][0].toDouble() - 20) < 1e-9 && json()["degrees"].toArray().size() == 31);
        QCOMPARE(call({"new", file, "heddle-8"}), 0);
        QCOMPARE(call({"add-voicing", file, LOOM_SOURCE_DIR "/demo/sheets/oakhaven-x2.txt"}), 0);
        QCOMPARE(call({"add-response", file, "oakhaven-x2", curve, "--way", "1"}), 2);
        QVERIFY2(err_.contains("frequency=CHOICE"), qPrintable(err_));
        QCOMPARE(call({"add-response", file, "oakhaven-x2", curve, "--way", "1", "--answer", "frequency=2"}), 0);
        QCOMPARE(call({"add-impedance", file, "oakhaven-x2", samples + "curves/impedance-kilo-ohms.csv", "--way", "2"}),
                 0);
        QCOMPARE(call({"curve", samples + "curves/impedance-headed.zma", "--as", "impedance"}), 0);
        QVERIFY2(out_.contains("impedance, ohms"), qPrintable(out_));
        // A voicing as a sheet, read back.
        for (const QStringList& how : {QStringList{}, QStringList{"--csv"}}) {
            const QString sheet = folder_.filePath("oakhaven.txt");
            QCOMPARE(call(QStringList{"voicing-sheet", file, "oakhaven-x2", "--out", sheet} + how), 0);
            QCOMPARE(call({"sheet", sheet, "--json"}), 0);
            QVERIFY(json()["questions"].toArray().isEmpty() && json()["ways"].toArray().size() == 2);
        }
        QCOMPARE(call({"voicing-sheet", file, "none"}), 2);
        // A drawing below a storey, and rooms of its outlines.
        const QString plan = LOOM_SOURCE_DIR "/demo/plans/annex.dxf";
        QCOMPARE(call({"backdrop", file, "Ground", plan, "--rooms", "--json"}), 0);
        QVERIFY(json()["rooms"].toArray().size() == 4 && json()["unitSaid"].toBool());
        QVERIFY(json()["drawn"]["INSERT"].toInt() > 10 && json()["passedOver"]["POINT"].toInt() == 6);
        QCOMPARE(json()["outlines"][0]["name"].toString(), QString("Snipe Room"));
        QCOMPARE(call({"rooms", file, "--json"}), 0);
        QVERIFY(out_.contains("dotterel-room"));
        // Devices of a list: said first, then taken.
        QFile list(folder_.filePath("devices.csv"));
        QVERIFY(list.open(QIODevice::WriteOnly) &&
                list.write("Name,Model,Room,Address\nGuest,bobbin-c6,Foyer,10.9.0.1\n") > 0);
        list.close();
        QCOMPARE(call({"device-table", file, list.fileName(), "--json"}), 0);
        QVERIFY(json()["list"].toArray().size() == 2 && !json()["taken"].toBool());
        QCOMPARE(call({"device-table", file, list.fileName(), "--take"}), 0);
        QCOMPARE(call({"device-table", file, list.fileName(), "--json"}), 0);
        QVERIFY(json()["list"].toArray().isEmpty()); // it is there
        QCOMPARE(call({"device-table", file, file}), 2);
        QCOMPARE(call({"backdrop", file, "Attic", plan}), 2);
        QCOMPARE(call({"backdrop", file, "building", LOOM_SOURCE_DIR "/README.md"}), 2);
        QCOMPARE(call({"backdrop", file, "building", plan, "--hide", "nothing"}), 2);
    }
    void speakersFromASheet() {
        const QString file = folder_.filePath("cellar.loom"), sheets = LOOM_SOURCE_DIR "/demo/sheets/";
        QCOMPARE(call({"sheet", sheets + "wickerwork-m2.txt", "--json"}), 0);
        QVERIFY(json()["ways"].toArray().size() == 2 && json()["unread"].toArray().size() == 2);
        QCOMPARE(call({"new", file, "heddle-8"}), 0);
        QCOMPARE(call({"new-room", file, "Cellar", "8 x 6 x 3"}), 0);
        for (const char* model : {"oakhaven-x2", "oakhaven-x2", "treadle-4"})
            QCOMPARE(call({"add-device", file, "cellar", model, "--x", "2", "--y", "2"}), 0);
        QCOMPARE(call({"rooms", file, "--json"}), 0);
        QCOMPARE(call({"add-voicing", file, sheets + "wickerwork-m2.txt"}), 2); // asks first
        QVERIFY2(err_.contains("may be a Q or octaves"), qPrintable(err_));
        QCOMPARE(call({"add-voicing", file, sheets + "oakhaven-x2.txt"}), 0);
        QCOMPARE(out_.trimmed(), QString("oakhaven-x2"));
        const auto p = test::load(file.toStdString());
        QVERIFY(bool(p));
        QStringList boxes;
        QString amplifier;
        for (const auto& d : p->devices)
            if (d.model == "oakhaven-x2")
                boxes << QString::fromStdString(d.id);
            else if (d.model == "treadle-4")
                amplifier = QString::fromStdString(d.id);
        QCOMPARE(boxes.size(), 2);
        QCOMPARE(call(QStringList{"voice", file, "oakhaven-x2"} + boxes), 0);
        QCOMPARE(call({"hang", file, amplifier, "out 1", boxes[0] + ":1", boxes[1] + ":1", "--metres", "20"}), 0);
        QCOMPARE(call({"hang", file, amplifier, "out 2", boxes[0] + ":2", boxes[1] + ":2"}), 0);
        QCOMPARE(call({"hang", file, amplifier, "out 9", boxes[0]}), 2);
        QCOMPARE(call({"loads", file, "--json"}), 0);
        QVERIFY(json()[0]["ohms"].toDouble() == 4 && json()[0]["limited"].toBool());
        QCOMPARE(call({"set-voicing", file, "oakhaven-x2", "1", "highpass", "55 Hz BW24"}), 0);
        QCOMPARE(call({"set-voicing", file, "oakhaven-x2", "1", "ohms", "-8"}), 2);
        QVERIFY2(call({"get", file, amplifier + "/out-1.v-highpass.corner"}) == 0, qPrintable(err_));
        QVERIFY2(out_.contains("55"), qPrintable(out_));
        QCOMPARE(call({"own-voicing", file, boxes[1]}), 0);
        QCOMPARE(call({"check", file}), 1); // two voicings on one output
        QVERIFY(out_.contains("different voicings"));
        QCOMPARE(call({"voicing-response", file, "oakhaven-x2", "--way", "1", "--hz", "20,300"}), 0);
        QVERIFY(json()["db"][0].toDouble() < json()["db"][1].toDouble() - 20);
        const QString voicing = folder_.filePath("v.json"), setup = folder_.filePath("s.json");
        QCOMPARE(call({"export-voicing", file, "oakhaven-x2", "--out", voicing}), 0);
        QCOMPARE(call({"export-amplifier", file, amplifier, "--out", setup}), 0);
        QCOMPARE(call({"import-voicing", demo_ + "/none", voicing}), 2);
        QCOMPARE(call({"recall-amplifier", file, setup, amplifier}), 0);
        QCOMPARE(call({"recall-amplifier", file, voicing, amplifier}), 2);
    }
    void roomsFromNothing() {
        const QString file = folder_.filePath("rooms.loom");
        QCOMPARE(call({"new", file, "heddle-8"}), 0);
        QCOMPARE(call({"new-room", file, "Lecture", "12 x 8 x 3"}), 0);
        QCOMPARE(out_.trimmed(), QString("lecture"));
        QCOMPARE(call({"new-room", file, "Bad", "12"}), 2);
        QVERIFY(err_.contains("no size"));
        QCOMPARE(call({"set-field", file, "room:lecture", "finish floor", "carpet"}), 0);
        QCOMPARE(call({"set-field", file, "room:lecture", "height", "0"}), 2);
        QVERIFY(err_.contains("Height"));
        QCOMPARE(call({"fields", file, "room:lecture", "--json"}), 0);
        QCOMPARE(json()["finish floor"].toString(), QString("carpet"));
        QCOMPARE(call({"fields", file, "room:nowhere"}), 2);
        QCOMPARE(call({"ceiling-grid", file, "lecture", "bobbin-c6", "6"}), 0);
        QCOMPARE(out_.trimmed(), QString("6"));
        QCOMPARE(call({"ceiling-grid", file, "lecture", "canopy-8", "6"}), 2);
        QCOMPARE(call({"add-device", file, "lecture", "canopy-8", "--x", "6", "--y", "4"}), 0);
        QCOMPARE(call({"rooms", file, "--json"}), 0);
        QCOMPARE(json()[0]["devices"].toInt(), 7);
        QCOMPARE(call({"survey", file, "lecture", "--json"}), 0);
        QVERIFY(json()["eyring"].toArray().size() == 8 && json()["loudspeakers"].toInt() == 6);
        QCOMPARE(call({"map", file, "lecture", "--step", "2"}), 0);
        QCOMPARE(out_.split('\n', Qt::SkipEmptyParts).size(), 1 + 24);
        QCOMPARE(call({"map", file, "lecture", "--step", "0"}), 2);
        QCOMPARE(call({"copy-room", file, "lecture", "Second"}), 0);
        QVERIFY(out_.contains("address"));
        QCOMPARE(call({"rename-devices", file, "{use} {n}", "second"}), 0);
        QCOMPARE(call({"address-devices", file, "10.1.2.0/24", "second", "--all"}), 0);
        QVERIFY(out_.contains("10.1.2.21"));
        QCOMPARE(call({"survey", demo_, "tern", "--state", "joined", "--json"}), 0);
        QCOMPARE(json()["seats"].toInt(), 48);
        QCOMPARE(call({"survey", demo_, "tern", "--state", "ajar"}), 2);
        QCOMPARE(call({"suggest", demo_, "tern", "--apply", "99"}), 2);
        QCOMPARE(call({"models", "--json"}), 0);
        QVERIFY(json().array().size() >= 17);
        QCOMPARE(call({"materials"}), 0);
    }
    void streams() {
        QTemporaryDir folder;
        const QString file = folder.filePath("s.loom");
        QCOMPARE(call({"pack", LOOM_HALL, file}), 0);
        QCOMPARE(call({"streams", file, "--json"}), 0);
        const auto before = json()["offered"].toArray().size();
        QCOMPARE(call({"offer", file, "treadle-4-hall", "hall-two", "--ports", "net 15"}), 2); // sends nothing
        QCOMPARE(call({"offer", file, "heddle", "hall-two", "--ports", "net 15", "net 16"}), 0);
        QCOMPARE(call({"streams", file, "--json"}), 0);
        QCOMPARE(json()["offered"].toArray().size(), before + 1);
        const auto offered = json()["offered"].toArray();
        const QJsonValue mix = *std::find_if(offered.begin(), offered.end(),
                                             [](const QJsonValue& o) { return o["stream"] == "heddle/hall-two"; });
        QVERIFY(mix["transport"] == "network" && mix["heardBy"].toArray().isEmpty());
        QCOMPARE(mix["megabits"].toDouble(), 2.928);
        QCOMPARE(call({"sdp", file, "hall-two"}), 0);
        QVERIFY(out_.contains("a=rtpmap:98 L24/48000/2\r\n") && out_.contains("s=hall-two\r\n"));
        QFile sdp(folder.filePath("mix.sdp"));
        QVERIFY(sdp.open(QIODevice::WriteOnly) && sdp.write(out_.toUtf8()) > 0);
        sdp.close();
        QCOMPARE(call({"read-sdp", sdp.fileName(), "--json"}), 0);
        QVERIFY(json()["name"] == "hall-two" && json()["channels"] == 2 && json()["address"] == mix["address"]);
        QCOMPARE(call({"hear", file, "hall-two", "nobody"}), 2);
        QCOMPARE(call({"offer", file, "heddle", "hall-two", "--ports", "net 15"}), 2);
        QCOMPARE(call({"withdraw", file, "hall-two"}), 0);
        QCOMPARE(call({"sdp", file, "hall-two"}), 2);
        QCOMPARE(call({"hear", file, "council-lobes", "heddle-8-rack-a", "--channel", "3", "--in", "net 30"}), 0);
        QCOMPARE(call({"align-stream", file, "hall-mix"}), 0);
        QCOMPARE(call({"lead", file, "heddle-8-rack-a/pair 1", "treadle-4-hall/pair 2"}), 0);
        QCOMPARE(call({"lead", file, "heddle-8-rack-a/pair 1", "treadle-4-hall/in 2"}), 2);
        QCOMPARE(call({"lead", file, "nothing", "treadle-4-hall/pair 2"}), 0);
    }
    void streamsOfOthersAndValuesByPath() {
        QTemporaryDir folder;
        const QString file = folder.filePath("o.loom"), sdp = folder.filePath("theirs.sdp");
        QCOMPARE(call({"pack", LOOM_HALL, file}), 0);
        QFile out(sdp);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write("v=0\no=- 9 1 IN IP4 10.7.0.9\ns=Stage left\nc=IN IP4 239.7.7.7/8\nt=0 0\n"
                  "m=audio 5006 RTP/AVP 96\na=rtpmap:96 L24/48000/2\na=ptime:1\n");
        out.close();
        QCOMPARE(call({"take-stream", file, sdp}), 0);
        QCOMPARE(call({"hear", file, "stage left", "shuttle-8-stage"}), 0);
        QCOMPARE(call({"take-stream", file, LOOM_SOURCE_DIR "/README.md"}), 2);
        QVERIFY(err_.contains("v=0"));
        QCOMPARE(call({"check", file, "--json"}), 0);
        QCOMPARE(call({"get", file, "heddle/stream.hall-mix.level", "--json"}), 0);
        QCOMPARE(json()["value"].toDouble(), 0.0);
        QCOMPARE(call({"set", file, "heddle/stream.hall-mix.level", "-4.5"}), 0);
        QCOMPARE(call({"get", file, "heddle/stream.hall-mix.level", "--json"}), 0);
        QCOMPARE(json()["value"].toDouble(), -4.5);
        QCOMPARE(call({"set", file, "shuttle-8-stage/receiver.hall-mix.muted", "on"}), 0);
        QCOMPARE(call({"get", file, "shuttle-8-stage/receiver.hall-mix.muted", "--json"}), 0);
        QCOMPARE(json()["value"].toDouble(), 1.0);
        QCOMPARE(call({"set", file, "heddle/stream.hall-mix.level", "40"}), 2);
        QCOMPARE(call({"get", file, "heddle/stream.nothing.level"}), 2);
        QVERIFY(err_.contains("receiver.ID.chosen"));
        QCOMPARE(call({"comes-from", file, "treadle-4-foyer/out 1", "--json"}), 0);
        const auto steps = json().array();
        QVERIFY(steps.size() == 4 && steps[1]["by"] == "packet" && steps[2]["device"] == "heddle-8-rack-a");
        QCOMPARE(call({"comes-from", file, "treadle-4-foyer/out 99"}), 2);
        QCOMPARE(call({"comes-from", file, "foyer-ceiling-11/out 1"}), 0); // drives itself
        // Speakers knows whose sound that is, over a stream as over a cable.
        QCOMPARE(call({"loads", file, "--json"}), 0);
        std::map<QString, QString> from;
        const auto outputs = json().array();
        for (const QJsonValue one : outputs)
            from[one["amplifier"].toString() + "/" + one["output"].toString()] = one["from"].toString();
        QCOMPARE(from["foyer-ceiling-11/out 1"], QString("heddle-8-rack-a/net 2"));
        QCOMPARE(from["treadle-4-foyer/out 2"], QString("heddle-8-rack-a/ring 1"));
        QCOMPARE(from["treadle-4-hall/out 1"], QString("heddle/out 1"));
        // A cable is relieved over the ring.
        QCOMPARE(call({"relieve", file, "N-04", "--json"}), 0);
        QCOMPARE(json().array().size(), 1);
        QCOMPARE(call({"relieve", file, "N-04", "--apply", "2"}), 2);
        QCOMPARE(call({"relieve", file, "N-04", "--apply", "1"}), 0);
        QCOMPARE(call({"relieve", file, "N-04", "--json"}), 0);
        QVERIFY(json().array().isEmpty());
        QCOMPARE(call({"relieve", file, "w1"}), 2);
    }
    void conversations() {
        const QString file = folder_.filePath("talk.loom");
        QVERIFY(call({"pack", LOOM_HALL, file}) == 0);
        QCOMPARE(call({"conversations", file, "council", "--json"}), 0);
        QCOMPARE(json()[0].toObject()["microphones"].toArray().size(), 10);
        QCOMPARE(call({"far-ends", file}), 0);
        QVERIFY(out_.contains("heddle/usb 1, nothing mutes it"));
        // Nothing is done without --do; then all but what is left out, and what was set by hand.
        QCOMPARE(call({"first-pass", file, "council", "--json"}), 0);
        const auto proposed = json()["proposals"].toArray().size();
        QVERIFY(proposed > 10);
        QCOMPARE(call({"first-pass", file, "council", "--do", "--except", "mute heddle", "--except", "group heddle"}),
                 0);
        QVERIFY(out_.contains("[ ] Mute on the way") && out_.contains("set by hand"));
        QCOMPARE(call({"group", file, "council", "chair-microphone", "delegate-1-microphone", "delegate-2-microphone"}),
                 0);
        QCOMPARE(call({"conversations", file, "council", "--json"}), 0);
        const auto hall = json()[0].toObject();
        QCOMPARE(hall["groups"].toArray()[0].toObject()["lanes"].toInt(), 3);
        QVERIFY(hall["farEnds"].toArray()[0].toObject()["mutes"].toArray().isEmpty());
        // What cannot be, with the cure.
        QCOMPARE(call({"group", file, "council", "chair-microphone", "delegate-3-microphone"}), 2);
        QVERIFY(err_.contains("in a group already"));
        QCOMPARE(call({"group", file, "council", "tern-handheld", "delegate-3-microphone"}), 2);
        QVERIFY(err_.contains("is no microphone of Council Hall"));
        QCOMPARE(call({"first-pass", file, "council", "--only", "nonsense"}), 2);
        QVERIFY(err_.contains("is no proposal"));
        QCOMPARE(call({"prove", file, "tern", "talk"}), 2);
        QVERIFY(err_.contains("no far end hears and is heard") && err_.contains("USB port"));
        QCOMPARE(call({"prove", file, "nowhere", "talk"}), 2);
        QVERIFY(err_.contains("there is no such room"));
    }
    void touchSurfaces() {
        const QString file = folder_.filePath("touch.loom");
        QVERIFY(call({"pack", LOOM_HALL, file}) == 0);
        QVERIFY(call({"controls"}) == 0 && out_.contains("fader"));
        QCOMPARE(call({"drives", file, "chair preamp gain", "--json"}), 0);
        QCOMPARE(json()[0].toObject()["path"].toString(), QString("heddle/chair.preamp.gain"));
        QCOMPARE(call({"new-surface", file, "--device", "council-slate"}), 0);
        QCOMPARE(call({"new-surface", file, "--device", "council-slate"}), 2);
        QCOMPARE(call({"new-surface", file, "--name", "Wall", "--size", "wide"}), 2);
        QCOMPARE(call({"page-for", file, "council-slate", "council"}), 0);
        QCOMPARE(call({"surfaces", file, "--json"}), 0);
        const auto page = json()[0].toObject()["pages"].toArray()[0].toObject();
        QCOMPARE(page["name"].toString(), QString("Council Hall"));
        QVERIFY(page["plies"].toArray()[0].toObject()["controls"].toArray().size() > 20);
        QCOMPARE(call({"surface-page", file, "council-slate", "--name", "More"}), 0);
        QCOMPARE(call({"control", file, "council-slate", "more", "--add", "fader", "--drive",
                       "heddle/chair.preamp.gain", "--at", "40,120"}),
                 0);
        QCOMPARE(
            call({"control", file, "council-slate", "More", "--add", "toggle", "--drive", "heddle/chair.preamp.gain"}),
            2);
        QVERIFY(err_.contains("does not fit"));
        const QString id = "chair-preamp-gain";
        QCOMPARE(call({"control", file, "council-slate", "more", id, "--set", "corner=3", "--set", "low=-20"}), 0);
        QCOMPARE(call({"control", file, "council-slate", "more", id, "--json"}), 0);
        QVERIFY(out_.contains("\"corner\": \"3\"") && out_.contains("\"x\": 40"));
        QCOMPARE(call({"control", file, "council-slate", "more", id, "--as", "knob"}), 0);
        QCOMPARE(call({"control", file, "council-slate", "more", id, "--as", "fader", "--copy"}), 0);
        QCOMPARE(call({"control", file, "council-slate", "more", "--add", "strip:heddle/chair", "--at", "600,40"}), 0);
        QCOMPARE(call({"control", file, "council-slate", "more", "--add", "strip:heddle/nobody"}), 2);
        QVERIFY(call({"page-for", file}) == 0 && out_.contains("tern+plover"));
        QCOMPARE(call({"page-for", file, "council-slate", "nowhere"}), 2);
        QCOMPARE(call({"page-for", file, "council-slate", "heddle/chair", "heddle/chair.preamp.gain"}), 0);
        const QString svg = folder_.filePath("page.svg"), own = folder_.filePath("own.surface.json");
        QCOMPARE(call({"surface-shot", file, "council-slate", "more", "--to", svg}), 0);
        QFile drawn(svg);
        QVERIFY(drawn.open(QIODevice::ReadOnly) && drawn.readAll().contains("</svg>"));
        QVERIFY(call({"surface-shot", file, "council-slate"}) == 0 && out_.startsWith("<?xml"));
        QCOMPARE(call({"surface-shot", file, "council-slate", "--as", "nobody"}), 2);
        QCOMPARE(call({"save-surface", file, "council-slate", own}), 0);
        QCOMPARE(call({"add-surface", file, own, "--device", "council-slate"}), 2); // it has one
        QCOMPARE(call({"add-surface", file, own, "--name", "Again"}), 0);
        QVERIFY(call({"surfaces", file}) == 0 && out_.contains("Again"));
        QCOMPARE(call({"surface-page", file, "Again", "--remove"}), 0);
        QCOMPARE(call({"add-surface", file, svg}), 2);
        QCOMPARE(call({"control", file, "council-slate", "more", id, "--set", "fill=blue-ish"}), 2);
        QCOMPARE(call({"re-point", file, "council-slate", "chair", "delegate-1", "--page", "more"}), 0);
        QVERIFY(out_.contains("heddle/delegate-1.preamp.gain"));
        QCOMPARE(call({"re-point", file, "council-slate", "chair", "delegate-1", "--page", "more", "--do"}), 0);
        QVERIFY(call({"surfaces", file}) == 0 && out_.contains("heddle/delegate-1.preamp.gain"));
        QCOMPARE(call({"control", file, "council-slate", "more", id, "--remove"}), 0);
        QCOMPARE(call({"surface-page", file, "council-slate", "more", "--copy"}), 0);
        QCOMPARE(call({"surface-page", file, "council-slate", "more", "--remove"}), 0);
        QCOMPARE(call({"surface-page", file, "nothing", "--remove"}), 2);
        QCOMPARE(call({"surface-page", file, "council-slate", "--remove"}), 0);
        QVERIFY(call({"surfaces", file, "--json"}) == 0 && json().array().isEmpty());
    }
    void mixesMutesAndOwners() {
        const QString file = folder_.filePath("boards.loom");
        QVERIFY(call({"pack", LOOM_SOURCE_DIR "/demo/marram-point", file}) == 0);
        QCOMPARE(call({"mixes", file, "council"}), 0);
        QVERIFY(out_.contains("left out: its own") && out_.contains("Hearing loop"));
        QCOMPARE(call({"mixes", file, "council", "--talker", "Chair", "--listener", "Hearing loop", "--close"}), 0);
        QCOMPARE(call({"mixes", file, "council", "--json"}), 0);
        int closed = 0;
        for (const auto& one : json().array())
            if (const auto cell = one.toObject(); true)
                closed += cell["talker"] == "Chair" && cell["listener"] == "Hearing loop" && cell["state"] == "closed";
        QCOMPARE(closed, 1);
        QCOMPARE(call({"mixes", file, "council", "--talker", "Chair", "--listener", "Hearing loop", "--db", "-4"}), 0);
        QCOMPARE(call({"mixes", file, "council", "--talker", "Far end", "--listener", "Far-end send"}), 2);
        QVERIFY(err_.contains("hear itself"));
        QCOMPARE(call({"mixes", file, "council", "--talker", "Nobody", "--listener", "Far-end send"}), 2);
        QCOMPARE(call({"mutes", file, "council"}), 0);
        QVERIFY(out_.contains("Council tap") && out_.contains("Without the network: Far end"));
        QCOMPARE(call({"mutes", file, "council", "--place", "council-slate", "--does", "shows"}), 0);
        QCOMPARE(call({"mutes", file, "council", "--place", "heddle/contact 2", "--does", "sets"}), 0);
        QCOMPARE(call({"mutes", file, "council", "--json"}), 0);
        QCOMPARE(json()["cuts"].toArray().size(), 3);
        QCOMPARE(call({"mutes", file, "council", "--cut"}), 2);
        QCOMPARE(call({"whose", file, "--give", "heddle/in 15", "--to", "foyer"}), 0);
        QCOMPARE(call({"whose", file}), 0);
        QVERIFY(out_.contains("heddle/in 15") && out_.contains("tern+plover"));
        QCOMPARE(call({"whose", file, "--give", "heddle/in 15", "--to", "moon"}), 2);
        QCOMPARE(call({"check", file}), 0);
        QCOMPARE(call({"first-pass", file}), 0);
        QVERIFY(out_.startsWith("0 proposals")); // the demo is whole
    }
    void wires() {
        QTemporaryDir folder;
        const QString file = folder.filePath("w.loom");
        QCOMPARE(call({"pack", LOOM_HALL, file}), 0);
        QCOMPARE(call({"wires", file, "--json"}), 0);
        auto all = json();
        QCOMPARE(all["cables"].toArray().size(), 22);
        QVERIFY(all["rings"][0]["closed"] == true && all["rings"][0]["devices"].toArray().size() == 4);
        QVERIFY(all["clocks"][0]["leader"] == "heddle" && all["power"][0]["takenWatts"] == 100.5);
        // A ring is whole after one cut, the foyer silent after one switch.
        QCOMPARE(call({"cut", file, "w2", "--json"}), 0);
        QVERIFY(json()["silent"].toArray().isEmpty() && json()["anotherWay"].toArray().size() == 1);
        QCOMPARE(call({"cut", file, "w2", "w4", "N-04", "--json"}), 0);
        QCOMPARE(json()["silent"].toArray().size(), 2);
        QCOMPARE(call({"cut", file, "sley-24-rack-a", "--json"}), 0);
        QCOMPARE(json()["silent"].toArray().size(), 10);
        QCOMPARE(call({"cut", file, "nothing"}), 2);
        QCOMPARE(call({"latency", file, "tern-handheld/out 1", "treadle-4-foyer/out 2", "--json"}), 0);
        double sum = 0;
        const auto steps = json()["steps"].toArray();
        for (const auto& step : steps)
            sum += step.toObject()["ms"].toDouble();
        QVERIFY(std::abs(sum - json()["mostMs"].toDouble()) < 1e-9 && sum > 0.8);
        QCOMPARE(call({"latency", file, "tern-handheld/out 1", "treadle-4-hall/out 2"}), 2);
        QCOMPARE(call({"unwire", file, "w21"}), 0);
        QCOMPARE(call({"wire", file, "foyer-dial", "sley-24-rack-a/lan 24", "--number", "X", "--metres", "12",
                       "--grade", "cat6a"}),
                 0);
        QCOMPARE(call({"wire", file, "foyer-dial", "sley-24-rack-a"}), 2);
        QCOMPARE(call({"ring", file, "heddle", "treadle-4-foyer", "heddle-8-rack-a"}), 0);
        QCOMPARE(call({"wires", file, "--json"}), 0);
        all = json();
        QCOMPARE(all["rings"][0]["devices"].toArray().size(), 3);
        QCOMPARE(call({"wires", file}), 0);
        QVERIFY(out_.contains("foyer-dial/lan 1 to sley-24-rack-a/lan 24  Cat 6A, 12 m"));
    }
    void blocks() {
        QCOMPARE(call({"blocks", "--json"}), 0);
        QVERIFY(json().array().size() >= 42);
        QCOMPARE(call({"blocks", "eq", "--json"}), 0);
        QCOMPARE(json()[0]["parameters"].toArray().size(), 41);
        QCOMPARE(call({"blocks", "nonsense"}), 2);
        QCOMPARE(call({"blocks", "--page"}), 0); // the page in docs/ is the one the declarations make
        QFile page(LOOM_SOURCE_DIR "/docs/blocks.md");
        QVERIFY(page.open(QIODevice::ReadOnly));
        QVERIFY2(out_.toUtf8() == page.readAll(), "docs/blocks.md is old: loomctl blocks --page > docs/blocks.md");
        QTemporaryDir pictures;
        QCOMPARE(call({"blocks", "--pictures", pictures.path()}), 0);
        const auto made = QDir(pictures.path()).entryList(QDir::Files);
        QVERIFY(made.size() >= 10);
        for (const auto& name : made) {
            QFile fresh(pictures.filePath(name)), kept(LOOM_SOURCE_DIR "/docs/blocks/" + name);
            QVERIFY(fresh.open(QIODevice::ReadOnly) && kept.open(QIODevice::ReadOnly));
            QVERIFY2(fresh.readAll() == kept.readAll(), "docs/blocks is old: loomctl blocks --pictures docs/blocks");
        }
    }
    void formatsAreTheDeclaredOnes() {
        for (const char* kind : {"project", "model", "swatch", "surface", "scenario"}) {
            QFile page(QString(LOOM_SOURCE_DIR "/docs/schema/%1.schema.json").arg(kind));
            QVERIFY(page.open(QIODevice::ReadOnly));
            QCOMPARE(call({"format", kind}), 0);
            QVERIFY2(out_.toUtf8() == page.readAll(), "docs/schema is old: scripts/make-docs");
        }
        QFile format(LOOM_SOURCE_DIR "/docs/format.md");
        QVERIFY(format.open(QIODevice::ReadOnly));
        const QString text = QString::fromUtf8(format.readAll());
        for (const char* kind : {"project", "model", "swatch", "surface", "scenario"}) {
            QCOMPARE(call({"format", kind, "--table"}), 0);
            QVERIFY2(text.contains(out_), "docs/format.md is old: scripts/make-docs");
        }
        QCOMPARE(call({"format", "sandwich"}), 2);
    }
    void anotherCount() {
        const QString file = folder_.filePath("counts.loom");
        QCOMPARE(call({"pack", demo_, file}), 0);
        QCOMPARE(call({"shape", file, "heddle/hall.inputs", "14"}), 0);
        QCOMPARE(call({"shape", file, "heddle/hall.inputs", "2000"}), 2);
        QVERIFY(err_.contains("must be 1 to 128"));
        QCOMPARE(call({"shape", file, "heddle/hall.wheels", "2"}), 2);
        QCOMPARE(call({"set", file, "heddle/hall.14.1", "-6"}), 0); // a crossing that was not there before
        QCOMPARE(call({"check", file}), 0);
    }
    void measuringBlockTellsItsFigures() {
        const QString file = folder_.filePath("tone.wav");
        loom::dsp::AudioClip tone{48000, {std::vector<float>(5 * 48000)}};
        for (std::size_t i = 0; i < tone.frames(); ++i)
            tone.channels[0][i] =
                static_cast<float>(0.1 * std::sin(2 * loom::dsp::pi * 997 * static_cast<double>(i) / 48000));
        std::string error;
        QVERIFY(loom::dsp::writeWav(file.toStdString(), tone, error));
        QCOMPARE(call({"block", "meter", "--in", file}), 0);
        QVERIFY(std::abs(json()["integrated"].toDouble() + 23.01) <
                0.1); // BS.1770: -3.01 LUFS for 0 dBFS in one channel
        QVERIFY(std::abs(json()["true-peak"].toDouble() + 20) < 0.1);
        QCOMPARE(call({"block", "eq", "--in", file}), 2);
    }
    void blockResponse() {
        QCOMPARE(call({"block", "eq", "2.hz=1k", "2.gain=6", "--hz", "1k,20"}), 0);
        QVERIFY(std::abs(json()["db"][0].toDouble() - 6) < 1e-6);
        QVERIFY(std::abs(json()["db"][1].toDouble()) < 0.01);
        QCOMPARE(call({"block", "eq", "2.gain=77", "--hz", "1k"}), 2);
        QVERIFY(err_.contains("outside the range"));
        QCOMPARE(call({"block", "eq", "frob=1", "--hz", "1k"}), 2);
    }
    void blockAudioAndBrokenWav() {
        loom::dsp::AudioClip clip{44100, {std::vector<float>(44100)}};
        for (std::size_t i = 0; i < 44100; ++i)
            clip.channels[0][i] =
                0.25f * static_cast<float>(std::sin(2 * loom::dsp::pi * 1000 * static_cast<double>(i) / 44100));
        std::string error;
        QVERIFY(loom::dsp::writeWav(folder_.filePath("in.wav").toStdString(), clip, error));
        QCOMPARE(call({"block", "level", "gain=6", "--in", folder_.filePath("in.wav"), "--out",
                       folder_.filePath("out.wav")}),
                 0);
        loom::dsp::AudioClip back;
        QVERIFY(loom::dsp::readClip(folder_.filePath("out.wav").toStdString(), 0, back, error));
        QCOMPARE(back.rate, 48000.0); // the input's 44.1 kHz was converted
        float peak = 0;
        for (std::size_t i = 20000; i < 30000; ++i)
            peak = std::max(peak, std::abs(back.channels[0][i]));
        QVERIFY(std::abs(peak - 0.25 * 1.9953) < 0.002);
        QFile bad(folder_.filePath("bad.wav"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("RIFF....WAVE");
        bad.close();
        QCOMPARE(call({"block", "level", "--in", bad.fileName(), "--out", folder_.filePath("x.wav")}), 2);
        QVERIFY(err_.contains("bad.wav"));
    }
    void responseAndRender() {
        QCOMPARE(call({"response", demo_, "--device", "heddle", "--from", "in 1", "--to", "out 1", "--hz", "1k"}), 0);
        QVERIFY(json()["db"][0].toDouble() > 20);
        QCOMPARE(call({"response", demo_, "--device", "heddle", "--from", "usb 1", "--to", "usb 1", "--hz", "1k"}), 0);
        QCOMPARE(json()["db"][0].toDouble(), -200.0); // the far end never hears itself
        QCOMPARE(call({"render", demo_, "--device", "heddle", "--in", "in 1=" + demo_ + "/assets/chair.flac", "--out",
                       "out 1=" + folder_.filePath("z.wav"), "--seconds", "5"}),
                 0);
        loom::dsp::AudioClip z;
        std::string error;
        QVERIFY(loom::dsp::readClip(folder_.filePath("z.wav").toStdString(), 0, z, error));
        QCOMPARE(z.frames(), std::size_t(240000));
        QCOMPARE(call({"render", demo_, "--device", "heddle", "--out", "out 77=x.wav", "--seconds", "1"}), 2);
    }
    void recorderWritesItsFile() { // a player into a recorder, both in the program
        auto p = *test::load(LOOM_HALL);
        auto& program = *p.device("heddle")->program;
        program.blocks.push_back({"music", "player", "", {}, {{"play", 1}}, {{"file", "programme-l.flac"}}});
        program.blocks.push_back({"tape", "recorder", ""});
        program.connections.push_back({{"music", 0}, {"tape", 0}});
        const QString file = folder_.filePath("r.loom"), wav = folder_.filePath("tape.wav");
        QVERIFY(bool(loom::project::saveProject(p, file.toStdString())));
        QCOMPARE(call({"render", file, "--device", "heddle", "--record", "tape=" + wav, "--seconds", "2"}), 0);
        loom::dsp::AudioClip tape, played;
        std::string error;
        QVERIFY(loom::dsp::readClip(wav.toStdString(), 0, tape, error));
        QVERIFY(
            loom::dsp::readClip(LOOM_SOURCE_DIR "/demo/marram-point/assets/programme-l.flac", 48000, played, error));
        QCOMPARE(tape.frames(), std::size_t(96000));
        for (std::size_t i = 0; i < tape.frames(); ++i)
            QCOMPARE(tape.channels[0][i], played.channels[0][i]);
        QCOMPARE(call({"render", file, "--device", "heddle", "--record", "chair=" + wav, "--seconds", "1"}), 2);
        QCOMPARE(call({"render", file, "--device", "heddle", "--record", "tape=/nowhere/x.wav", "--seconds", "1"}), 2);
        QVERIFY(err_.contains("/nowhere/x.wav"));
    }
    void getAndSet() {
        const QString file = folder_.filePath("p.loom");
        QCOMPARE(call({"pack", demo_, file}), 0);
        const QString path = "heddle/delegate-3.eq.2.gain";
        QCOMPARE(call({"set", file, path, "-3"}), 0);
        QCOMPARE(call({"get", file, path, "--json"}), 0);
        QCOMPARE(json()["value"].toDouble(), -3.0);
        const QString edge = "heddle/ceiling-1.highpass.";
        QVERIFY2(call({"set", file, edge + "shape", "lr24"}) == 0, qPrintable(err_));
        QCOMPARE(call({"get", file, edge + "slope"}), 0);
        QVERIFY2(out_.contains("24 dB/oct"), qPrintable(out_));
        QCOMPARE(call({"set", file, edge + "shape", "sharp"}), 2);
        QVERIFY2(err_.contains("(LR)"), qPrintable(err_));
        QCOMPARE(call({"set", file, path, "plenty"}), 2);
        QVERIFY(err_.contains(path));
        QCOMPARE(call({"get", file, "heddle/ghost.gain"}), 2);
        QCOMPARE(call({"unpack", file, folder_.filePath("u")}), 0);
        QVERIFY(QFile::exists(folder_.filePath("u/assets/chair.flac")));
    }
    void rulesAreWrittenRehearsedAndKept() {
        const QString file = folder_.filePath("rules.loom"), day = folder_.filePath("day.txt"),
                      level = "heddle-8-rack-a/tern.level.gain";
        QCOMPARE(call({"pack", demo_, file}), 0);
        QCOMPARE(call({"scene", file, "Low", "--room", "tern", level + "=-20"}), 0);
        QCOMPARE(call({"scene", file, "Low", "--set", "fade=2"}), 0);
        QCOMPARE(call({"scene", file, "Low", level + "=loud"}), 2);
        QCOMPARE(call({"rule", file, "Seminar", "--add", "when wall:fold becomes open and stays so for 2 s", "--add",
                       "then recall Low"}),
                 0);
        QCOMPARE(call({"rule", file, "Bad", "--add", "when it rains"}), 2);
        QVERIFY2(err_.contains("line 1"), qPrintable(err_));
        QCOMPARE(call({"rule", file, "Seminar"}), 0);
        QCOMPARE(out_, QString("Seminar\nwhen Folding wall becomes open and stays so for 2 s\nthen recall Low\n"));
        QCOMPARE(call({"rules", "--kinds"}), 0);
        QVERIFY(out_.contains("recall {scene}"));
        QFile f(day);
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write("09:00 wall:fold open\n");
        f.close();
        const QStringList rehearse{"rehearse", file,    "--begins", "2026-11-30T08:00:00",
                                   "--until",  "09:10", "--day",    day};
        QCOMPARE(call(rehearse), 0);
        QVERIFY2(out_.contains("09:00:02") && out_.contains("to \u221220.0 dB over 2 s"), qPrintable(out_));
        QCOMPARE(call(rehearse + QStringList{"--keep", "The wall"}), 0);
        QCOMPARE(call({"rehearse", file}), 0);
        QVERIFY(out_.startsWith("holds  The wall"));
        QCOMPARE(call({"rule", file, "Seminar", "--off"}), 0);
        QCOMPARE(call({"rehearse", file}), 1);
        QVERIFY2(out_.contains("instead of \u221220.0 dB"), qPrintable(out_));
        QCOMPARE(call({"recall", file, "Low"}), 0);
        QCOMPARE(call({"get", file, level}), 0);
        QVERIFY(out_.contains("-20") || out_.contains("\u221220"));
    }
    void othersAreAllowed() {
        const QString file = folder_.filePath("access.loom");
        QCOMPARE(call({"pack", demo_, file}), 0);
        QCOMPARE(call({"outside", file, "--add", "Hall display", "--kind", "display-lines", "--room", "council",
                       "--address", "127.0.0.1"}),
                 0);
        QCOMPARE(call({"access", file, "heddle-8-rack-a", "--allow", "heddle-8-rack-a/tern.level.gain", "--set",
                       "lines=yes"}),
                 0);
        QCOMPARE(call({"access", file}), 0);
        QVERIFY2(out_.contains("tern-zone-level/level") && out_.contains("Lines of text: TCP 4783"), qPrintable(out_));
        QCOMPARE(call({"access", file, "heddle"}), 0);
        QVERIFY(out_.contains("allows nothing"));
        QCOMPARE(
            call({"access", file, "heddle", "--allow", "outside:hall-display/power", "--sets", "--set", "osc=yes"}), 0);
        QCOMPARE(call({"access", file, "heddle", "--change", "hall-display/power", "--set", "name=display", "--set",
                       "role=technician"}),
                 0);
        QCOMPARE(call({"access", file, "heddle"}), 0);
        QVERIFY2(out_.contains("OSC 1.0: UDP 4782") && out_.contains("with the PIN of technician") &&
                     out_.contains("! osc: OSC knows no PIN"),
                 qPrintable(out_));
        QCOMPARE(call({"access", file, "heddle", "--allow", "heddle-8-rack-a/tern.level.gain"}),
                 2); // the other processor's
        QVERIFY2(err_.contains("Allow it on"), qPrintable(err_));
        QCOMPARE(call({"access", file, "council-slate", "--allow", "wall:fold"}), 2);
        QCOMPARE(call({"access", file, "heddle", "--set", "oscTo=nowhere"}), 2);
        QCOMPARE(call({"access", file, "heddle", "--change", "none", "--set", "name=a"}), 2);
        QCOMPARE(call({"access", file, "heddle", "--forbid", "display", "--set", "osc=no"}), 0);
        QCOMPARE(call({"access", file, "heddle", "--json"}), 0);
        QCOMPARE(out_.trimmed(), QString("{}"));
    }
    void outsideDevicesAreDescribedAndSpokenWith() {
        const QString file = folder_.filePath("outside.loom"), description = folder_.filePath("kind.json");
        QCOMPARE(call({"pack", demo_, file}), 0);
        QCOMPARE(call({"outside", "--kinds"}), 0);
        QVERIFY(out_.contains("blinds-packets") && out_.contains("OSC 1.0"));
        QCOMPARE(call({"outside", file, "--add", "Blinds", "--kind", "blinds-packets", "--room", "tern", "--address",
                       "127.0.0.1:46613"}),
                 0);
        QCOMPARE(call({"outside", file, "--add", "Lamp", "--kind", "nothing"}), 2);
        QCOMPARE(call({"outside", file, "--add", "Lamp", "--kind", "blinds-packets", "--address", "a b"}), 2);
        QFile f(description);
        const auto describe = [&](const QByteArray& set) {
            QVERIFY(f.open(QIODevice::WriteOnly));
            QByteArray text = "{'id': 'lamp', 'name': 'Lamp', 'link': 'udp', 'port': 9000, 'states': [{'id': 'on', "
                              "'name': 'On', 'choices': ['off', 'on'], 'set': '" +
                              set + "'}]}";
            f.write(text.replace('\'', '"'));
            f.close();
        };
        describe("LAMP {value");
        QCOMPARE(call({"outside", file, "--add", "Lamp", "--described", description, "--address", "127.0.0.1"}), 2);
        QVERIFY2(err_.contains("states/on/set, sign 6"), qPrintable(err_));
        describe("LAMP {value}");
        QCOMPARE(call({"outside", file, "--add", "Lamp", "--described", description, "--address", "127.0.0.1"}), 0);
        QCOMPARE(
            call({"outside", file, "Lamp", "--set", "address=127.0.0.1:9001", "--set", "processor=heddle-8-rack-a"}),
            0);
        QCOMPARE(call({"outside", file}), 0);
        QVERIFY2(out_.contains("Lamp (lamp), Lamp at 127.0.0.1:9001, by heddle-8-rack-a") &&
                     out_.contains("outside:blinds/stop"),
                 qPrintable(out_));
        QCOMPARE(call({"rule", file, "Dark", "--add", "when outside:lamp/there becomes lost", "--add",
                       "then set outside:blinds/closed to 100"}),
                 0);
        if (call({"send", "--help"}) != 0)
            return; // without Qt it speaks with nobody
        // Whatever it is told, it says where it is: somebody else's program.
        QProcess blinds;
        blinds.start("socat", {"UDP4-RECVFROM:46613,bind=127.0.0.1,fork", "SYSTEM:echo -n POS 40"});
        QVERIFY(blinds.waitForStarted());
        QCOMPARE(call({"send", file, "Blinds", "stop", "closed"}), 0);
        QVERIFY2(out_.contains("Blinds \u00b7 Closed (%) is 40"), qPrintable(out_ + err_));
        blinds.kill();
        blinds.waitForFinished();
        QCOMPARE(call({"send", file, "Blinds", "closed", "--to", "127.0.0.1:46614", "--seconds", "0.5"}), 2);
        QVERIFY2(err_.contains("did not answer"), qPrintable(err_));
        QCOMPARE(call({"send", file, "Blinds", "closed=101"}), 2);
        QCOMPARE(call({"send", file, "Blinds", "open"}), 2);
        QCOMPARE(call({"outside", file, "Lamp", "--remove"}), 0);
        QCOMPARE(call({"check", file}), 1); // a rule waits for what is not there any more
    }
    void wrongWords() {
        QCOMPARE(call({}), 2);
        QCOMPARE(call({"frob"}), 2);
        QCOMPARE(call({"info", "/nowhere.loom"}), 2);
        QVERIFY(err_.contains("/nowhere.loom"));
        QCOMPARE(call({"render", "--help"}), 0);
        QVERIFY(out_.contains("Example:"));
    }
    void siteAsData() {
        QTemporaryDir folder;
        const QString file = folder.filePath("p.loom"), hex = folder.filePath("b.hex");
        QVERIFY(QFile::exists(LOOM_SOURCE_DIR "/demo/marram-point/project.json"));
        auto p = *test::load(LOOM_HALL);
        QVERIFY(bool(project::saveProject(p, file.toStdString())));
        QCOMPARE(call({"pair", file, "council-canopy", "1177A0"}), 0);
        QCOMPARE(call({"pair", file, "tern-canopy", "1177A0"}), 2); // stands for another one
        QCOMPARE(test::load(file.toStdString())->device("council-canopy")->serial, std::string("1177A0"));
        QCOMPARE(call({"unpair", file, "council-canopy"}), 0);
        QVERIFY(test::load(file.toStdString())->device("council-canopy")->serial.empty());
        QCOMPARE(call({"image", file, "spindle-cellar", hex}), 0);
        QCOMPARE(call({"image", file, "heddle", hex}), 2);
        QCOMPARE(call({"set-field", file, "device:spindle-cellar", "knob 1", "bass-r.level.gain -20..0"}), 0);
        QCOMPARE(call({"set-field", file, "device:spindle-cellar", "knob 1", "loud"}), 2);
        QCOMPARE(call({"take-image", file, "spindle-cellar", hex}), 0); // as it was when the image was made
        QCOMPARE(project::setUpOf(*test::load(file.toStdString())->device("spindle-cellar")).at("knob 1"),
                 std::string("main-l.level.gain -40..0"));
        QFile damaged(hex);
        QVERIFY(damaged.open(QIODevice::ReadWrite) && damaged.seek(40) && damaged.write("0F") == 2);
        damaged.close();
        QCOMPARE(call({"take-image", file, "spindle-cellar", hex}), 2);
        QCOMPARE(call({"set-field", file, "device:cellar-handheld", "ledTo", "spindle-cellar/in 2"}), 0);
        QCOMPARE(call({"set-field", file, "device:tern-handheld", "ledTo", "spindle-cellar/in 2"}), 2); // taken
        QCOMPARE(test::load(file.toStdString())->device("spindle-cellar")->feeds.at("in 2"),
                 std::string("cellar-handheld/out 1"));
        QCOMPARE(call({"leads", file, "--json"}), 0);
    }
};
LOOM_TEST(tst_loomctl, TestLoomctl)
#include "tst_loomctl.moc"
