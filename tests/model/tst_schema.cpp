// What is written fits the schema in docs/, and what the schema refuses the reader refuses.
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#include "file/store.h"
#include "models.h"
#include "program/swatch.h"
#include <filesystem>
#include <fstream>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>
#endif
#include "test.h"

using nlohmann::json;
using namespace loom::project;

class TestSchema : public QObject {
    Q_OBJECT
    bool fits(const json& j, const std::string& what = "project") {
        std::ifstream file(LOOM_SOURCE_DIR "/docs/schema/" + what + ".schema.json");
        const json text = json::parse(file);
        valijson::Schema schema;
        valijson::SchemaParser parser;
        parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(text), schema);
        valijson::Validator validator;
        return validator.validate(schema, valijson::adapters::NlohmannJsonAdapter(j), nullptr);
    }
  private slots:
    void demoFits() {
        const auto demo = loom::test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        QVERIFY(bool(demo));
        QVERIFY(fits(toJson(*demo)));
        QVERIFY(fits(toJson(Project{})));
        QVERIFY(fits(toJson(*loom::test::load(LOOM_SOURCE_DIR "/tests/samples/version-1"))));
    }
    void everythingThatIsSavedFits() {
        Project p = *loom::test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        p.devices.change(0).known.kept = p.devices.change(0).program;
        p.devices.change(0).program->blocks.change(0).marks = {{"colour", "plum"}, {"group", "Front"}};
        p.dismissed = {{"goes-nowhere", "heddle", "spare", "for the next phase"}};
        QVERIFY(fits(toJson(p)));
        for (const auto& e : library()) {
            std::ifstream file(e.path);
            QVERIFY2(fits(json::parse(file), "swatch"), e.path.c_str());
        }
        QVERIFY(!fits(json::parse(R"({"format": "nimble-loom-surface", "version": 1, "surface": {}})"), "surface"));
        for (const auto& e : std::filesystem::directory_iterator(LOOM_SOURCE_DIR "/catalogue")) {
            std::ifstream file(e.path());
            QVERIFY2(fits(json::parse(file), "model"), e.path().c_str());
        }
        for (const auto& e : std::filesystem::directory_iterator(LOOM_SOURCE_DIR "/demo/scenarios")) {
            std::ifstream file(e.path());
            QVERIFY2(fits(json::parse(file), "scenario"), e.path().c_str());
        }
        QVERIFY(fits(toJson(*loom::test::load(LOOM_SOURCE_DIR "/demo/first-day"))));
        QVERIFY(!fits(json::parse(R"({"devices": [{"serial": "1", "model": "tap", "address": "here"}]})"), "scenario"));
        QVERIFY(!fits(json::parse(R"({"id": "a", "name": "A", "loudspeaker": {"sensitivity": 90}})"), "model"));
        QVERIFY(!fits(json::parse(R"({"format": "nimble-loom-swatch", "version": 2, "name": "a", "program": {}})"),
                      "swatch"));
    }
    void bothRefuse() {
        const json good = toJson(*loom::test::load(LOOM_SOURCE_DIR "/demo/marram-point"));
        const char* patches[] = {
            R"([{"op":"replace","path":"/devices/0/id","value":""}])",
            R"([{"op":"replace","path":"/devices/0/id","value":"a/b"}])",
            R"([{"op":"replace","path":"/devices/0/rate","value":1}])",
            R"([{"op":"replace","path":"/devices/0/program/threads/0","value":[["a",-1],["b",0]]}])",
            R"([{"op":"replace","path":"/devices/0/program/blocks/1/values","value":{"gain":"loud"}}])",
            R"([{"op":"add","path":"/devices/0/program/blocks/1/shape","value":{"channels":-2}}])",
            R"([{"op":"remove","path":"/devices/0/program/blocks/0/kind"}])",
            R"([{"op":"replace","path":"/buildings/0/rooms/0/height","value":"high"}])",
            R"([{"op":"replace","path":"/buildings/0/rooms/0/outline/0","value":[1]}])",
            R"([{"op":"replace","path":"/buildings/0/rooms/0/seats/0/shape","value":"circle"}])",
            R"([{"op":"replace","path":"/buildings/0/walls/0/rooms","value":["tern"]}])",
            R"([{"op":"replace","path":"/devices/1/place/tilt","value":120}])",
            R"([{"op":"replace","path":"/voicings/0/ways","value":[]}])",
            R"([{"op":"replace","path":"/voicings/0/ways/0/ohms","value":0}])",
            R"([{"op":"replace","path":"/voicings/0/ways/0/driver","value":"paper"}])",
            R"([{"op":"add","path":"/voicings/0/taps","value":[-1]}])",
            R"([{"op":"add","path":"/devices/0/outputs","value":{"out 1":{"wiring":"star"}}}])",
            R"([{"op":"add","path":"/devices/0/outputs","value":{"out 1":{"mm2":0}}}])",
            R"([{"op":"replace","path":"/format","value":"other"}])"};
        for (const char* patch : patches) {
            const json bad = good.patch(json::parse(patch));
            QVERIFY2(!fits(bad), patch);
            QVERIFY2(!projectFromJson(bad, loom::test::models()), patch);
        }
    }
};
LOOM_TEST(tst_schema, TestSchema)
#include "tst_schema.moc"
