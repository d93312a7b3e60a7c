// Surfaces as files of their own, pages as drawings, and what a press may do harm with.
#ifndef Q_MOC_RUN
#include "file/base64.h"
#include "model/describe.h"
#include "model/history.h"
#include "schema/json_text.h"
#include "surface/harm.h"
#include "surface/pack.h"
#include "surface/page_svg.h"
#include "surface/surface_edit.h"
#include "surface/surface_file.h"
#endif
#include "models.h"
#include "test.h"
#include <QXmlStreamReader>
#include <fstream>

using namespace loom;
using namespace loom::project;

namespace {

class Designed : public SurfaceValues {
  public:
    explicit Designed(const Project& p) : project(p) {}
    std::optional<double> now(const Drive& d) override {
        const auto it = turned.find(d.path);
        return it == turned.end() ? designValue(project, d) : std::optional(it->second);
    }
    void set(const Drive& d, double v) override { turned[d.path] = v; }
    const Project& project;
    std::map<std::string, double> turned{};
};

std::size_t count(const std::string& text, const std::string& what) {
    std::size_t n = 0;
    for (auto at = text.find(what); at != std::string::npos; at = text.find(what, at + 1))
        ++n;
    return n;
}

} // namespace

class TestSurfaceFile : public QObject {
    Q_OBJECT
    Project demo_;
    const Surface& slate() const { return *demo_.surface("council-slate"); }

  private slots:
    void initTestCase() { demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point"); }
    void bytesAsText() { // RFC 4648, 10
        for (const auto& [bytes, text] : {std::pair<std::string, std::string>{"", ""},
                                          {"f", "Zg=="},
                                          {"fo", "Zm8="},
                                          {"foo", "Zm9v"},
                                          {"foob", "Zm9vYg=="},
                                          {"fooba", "Zm9vYmE="},
                                          {"foobar", "Zm9vYmFy"}}) {
            QCOMPARE(base64Of(bytes), text);
            const auto back = bytesOfBase64(text);
            QVERIFY(back && std::string(back->begin(), back->end()) == bytes);
        }
        QVERIFY(!bytesOfBase64("Zg=") && !bytesOfBase64("Z*=="));
    }
    void savedAndUsedElsewhere() {
        const auto file = surfaceFileOf(demo_, slate());
        QVERIFY(file.surface.device.empty() && file.name == "Council slate");
        QVERIFY(file.scenes.size() == 3 && file.pictures.count("council-hall.svg"));
        const auto text = surfaceFileText(file);
        const auto read = readSurfaceFile(text, "slate.json");
        QVERIFY2(bool(read), read ? "" : read.error().text().c_str());
        QVERIFY(*read == file);
        std::ifstream schema(LOOM_SOURCE_DIR "/docs/schema/surface.schema.json"); // what is written has its members
        const auto declared = nlohmann::json::parse(schema);
        const auto written = nlohmann::json::parse(text);
        for (const auto& [key, _] : written.items())
            QVERIFY2(declared["properties"].contains(key), key.c_str());
        // In an empty project: all of it is there but what it is driven from.
        Project empty;
        History history(empty);
        QVERIFY(history.run(*addSurfaceFile(empty, *read, "")));
        const auto& s = empty.surfaces.front();
        QVERIFY(s.id == "council-slate" && s.pages.size() == slate().pages.size() && s.width == 1280);
        QVERIFY(empty.scenes.size() == 3 && empty.scenes[0].room.empty());
        QCOMPARE(static_cast<const std::vector<char>&>(empty.assets.at("council-hall.svg")),
                 static_cast<const std::vector<char>&>(demo_.assets.at("council-hall.svg")));
        history.undo();
        QVERIFY(empty.surfaces.empty() && empty.scenes.empty() && empty.assets.empty());
    }
    void besideTheSameNothingIsLost() {
        const auto file = surfaceFileOf(demo_, slate());
        auto p = *addSurfaceFile(demo_, file, "")->make(demo_);
        const auto& copy = p.surfaces.back();
        QVERIFY(copy.id != "council-slate" && copy.name == "Council slate 2" && copy.device.empty());
        QCOMPARE(p.scenes.size(), demo_.scenes.size()); // those are there already
        QCOMPARE(p.assets.size(), demo_.assets.size());
        QVERIFY(*p.surface("council-slate") == slate());
        // Another scene of that id, another picture of that name: both stay, and the controls follow theirs.
        auto other = demo_;
        other.scenes.changeEach([](Scene& s) { s.values.begin()->second += 1; });
        other.assets["council-hall.svg"] = std::vector<char>{'<', 's', 'v', 'g', '>'};
        p = *addSurfaceFile(other, file, "")->make(other);
        const auto recalled =
            std::count_if(demo_.scenes.begin(), demo_.scenes.end(), [](const Scene& s) { return s.room == "council"; });
        QCOMPARE(p.scenes.size(), demo_.scenes.size() + static_cast<std::size_t>(recalled));
        QCOMPARE(p.assets.size(), demo_.assets.size() + 1);
        std::size_t scenes = 0, pictures = 0;
        for (const auto& page : p.surfaces.back().pages)
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls) {
                    if (const auto d = driveOf(p, c.param); d && d->kind == Drive::Kind::scene) {
                        QVERIFY(!other.scene(d->param)); // a new one
                        ++scenes;
                    }
                    for (const auto& name : picturesOf(c))
                        if (name != "council-hall.svg" && p.assets.count(name) && !other.assets.count(name))
                            ++pictures;
                }
        QVERIFY(scenes >= 4 && pictures == 1);
    }
    void forAScreenOfThePlan() {
        auto without = demo_;
        erase_if(without.surfaces, [](const Surface& s) { return s.id == "tern-slate"; });
        const auto made = addSurfaceFile(without, surfaceFileOf(demo_, slate()), "tern-slate");
        QVERIFY2(bool(made), made ? "" : made.error().text().c_str());
        const auto p = *made->make(without);
        QVERIFY(p.surfaces.back().device == "tern-slate" && p.surfaces.back().millimetres > 0);
        QVERIFY(!addSurfaceFile(demo_, surfaceFileOf(demo_, slate()), "tern-slate")); // has one
        QVERIFY(!addSurfaceFile(demo_, surfaceFileOf(demo_, slate()), "heddle"));     // is none
    }
    void whatIsNoneIsRefused_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("says");
        const QString good =
            R"({"format": "nimble-loom-surface", "version": 1, "name": "S", "surface": {"id": "s", "name": "S", "pages": []}%1})";
        QTest::newRow("not JSON") << "surely"
                                  << "";
        QTest::newRow("another format") << R"({"format": "nimble-loom-swatch", "version": 1})"
                                        << "no touch surface";
        QTest::newRow("later") << QString(good).arg("").replace("\"version\": 1", "\"version\": 2") << "later version";
        QTest::newRow("no version") << QString(good).arg("").replace("\"version\": 1", "\"version\": \"x\"")
                                    << "version is missing";
        QTest::newRow("no name") << QString(good).arg("").replace("\"name\": \"S\",", "\"name\": \"\",")
                                 << "has a name";
        QTest::newRow("a picture of nothing") << good.arg(R"(, "pictures": {"a.png": "AAAA"})") << "a.png";
        QTest::newRow("a picture that is no text") << good.arg(R"(, "pictures": {"a.png": "*"})") << "base64";
        QTest::newRow("a path out")
            << good.arg(R"(, "pictures": {"../a.svg": "PHN2ZyB2aWV3Qm94PSIwIDAgNCAzIi8+"}})").chopped(1)
            << "name of a file";
        QTest::newRow("a script") << good.arg(", \"pictures\": {\"a.svg\": \"" +
                                              QString::fromStdString(base64Of(
                                                  std::string("<svg viewBox=\"0 0 4 3\"><script>1</script></svg>"))) +
                                              "\"}")
                                  << "script";
    }
    void whatIsNoneIsRefused() {
        QFETCH(QString, text);
        QFETCH(QString, says);
        const auto read = readSurfaceFile(text.toStdString(), "s.json");
        QVERIFY(!read);
        QVERIFY2(QString::fromStdString(read.error().text()).contains(says), read.error().text().c_str());
        QVERIFY(read.error().place.find("s.json") == 0);
    }
    void aPageIsDrawn() {
        Designed values(demo_);
        SurfaceUse use(demo_, "council-slate", values);
        const auto svg = pageSvg(use);
        QXmlStreamReader xml(QByteArray::fromStdString(svg));
        std::map<std::string, int> elements;
        QString words;
        while (!xml.atEnd()) {
            if (xml.readNext() == QXmlStreamReader::StartElement)
                ++elements[xml.name().toString().toStdString()];
            else if (xml.isCharacters())
                words += xml.text().toString() + "\n";
        }
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        for (const char* word : {"Council slate \u00b7 Meeting", "Chair only", "Film, and mute", "Who is open"})
            QVERIFY2(words.contains(word), word);
        QVERIFY(!words.contains("Hearing loop")); // its drawer is closed
        QCOMPARE(elements["image"], 2);           // the map, and what stands for microphones that are heard
        std::size_t open = 0;
        for (const auto& ply : use.page()->plies)
            for (const auto& c : ply.controls)
                open += use.isOpen(ply) && use.seen(c);
        QCOMPARE(static_cast<std::size_t>(elements["g"]), open);
        QVERIFY(count(svg, "<path") >= 1 || elements["line"] + elements["ellipse"] > 5);
        // What is turned is seen, and what its drawer holds once it is open.
        values.turned["heddle/council-canopy.level.gain"] = -13;
        const auto turned = pageSvg(use);
        QVERIFY(turned.find("\u221213 dB") != std::string::npos && svg.find("\u221213 dB") == std::string::npos);
        use.turnPly("more");
        QVERIFY(pageSvg(use).find("Hearing loop") != std::string::npos);
        // Letters that mean something in XML.
        auto p = demo_;
        p.surface("council-slate")->pages.change(1).plies.change(0).controls.change(0).text = "Q & A <now>";
        for (const auto& page : p.surface("council-slate")->pages) {
            SurfaceUse other(p, "council-slate", values);
            other.be("technician");
            QVERIFY(other.open(page.id));
            QXmlStreamReader again(QByteArray::fromStdString(pageSvg(other)));
            while (!again.atEnd())
                again.readNext();
            QVERIFY(!again.hasError());
        }
        SurfaceUse none(demo_, "nothing", values);
        QVERIFY(pageSvg(none).empty());
    }
    void whatDoesHarm() {
        QVERIFY(harmOf(demo_, *driveOf(demo_, "heddle/chair.preamp.phantom"))->find("48 V") == 0);
        QVERIFY(!harmOf(demo_, *driveOf(demo_, "heddle/chair.preamp.gain")));
        // What does harm asks first from the start, and when it is driven from such.
        const PagePlace place{"council-slate", "help"};
        auto q =
            *addControls(place, {{"toggle", "heddle/chair.preamp.phantom"}, {"toggle", "heddle/chair.preamp.mute"}})
                 .make(demo_);
        const auto made = [&] { return q.surface("council-slate")->page("help")->plies[0].controls; };
        QVERIFY(made()[made().size() - 2].confirm && !made().back().confirm);
        q = *driveFrom(q, place, {made().back().id}, "heddle/chair.preamp.phantom")->make(q);
        QVERIFY(made().back().confirm);
        auto p = demo_;
        p.scenes.changeEach([](Scene& s) {
            if (s.id == "film")
                s.values["heddle/chair.preamp.phantom"] = 0;
        });
        QVERIFY(harmOf(p, *driveOf(p, "scene:film")) && !harmOf(p, *driveOf(p, "scene:meeting")));
    }
};

LOOM_TEST(tst_surface_file, TestSurfaceFile)
#include "tst_surface_file.moc"
