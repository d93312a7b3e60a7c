// Every declared type and every member of it: what is accepted is kept, what is not is refused wherever it comes from.
// The values that are tried come from the JSON Schema that is made of the declarations, so a new member is tried by
// itself.
#ifndef Q_MOC_RUN
#include "catalogue/describe.h"
#include "file/project_json.h"
#include "file/store.h"
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>
#endif
#include "test.h"
#include <QTemporaryDir>

using nlohmann::json;
using namespace loom;
using schema::Describe;

namespace {

std::string letters(std::size_t n) { // two bytes each: limits count letters
    std::string all;
    for (std::size_t i = 0; i < n; ++i)
        all += "ä";
    return all;
}

// Values that a JSON Schema allows, the edges among them, and some that it does not.
class Values {
  public:
    explicit Values(const json& whole) : whole_(whole) {}
    const json& resolved(const json& s) const {
        return s.contains("$ref") ? resolved(whole_.at("definitions").at(s["$ref"].get<std::string>().substr(14))) : s;
    }
    json least(const json& from) const { // a small one that is allowed
        const json& s = resolved(from);
        if (s.contains("const"))
            return s["const"];
        if (s.contains("enum"))
            return s["enum"][0];
        const std::string type = s.at("type");
        if (type == "boolean")
            return true;
        if (type == "string")
            return s.value("minLength", 0) > 0 ? "a" : "";
        if (type == "integer" || type == "number")
            return numbers(s).front();
        if (type == "array") {
            json j = json::array();
            for (std::size_t i = 0; i < s.value("minItems", 0u); ++i)
                j.push_back(least(s["items"].is_array() ? s["items"][i] : s["items"]));
            return j;
        }
        json j = json::object();
        for (const auto& key : s.value("required", json::array()))
            j[key.get<std::string>()] = least(s["properties"][key.get<std::string>()]);
        return j;
    }
    std::vector<json> good(const json& from) const {
        const json& s = resolved(from);
        if (s.contains("const") || s.value("type", "") == "boolean")
            return s.contains("const") ? std::vector<json>{s["const"]} : std::vector<json>{true, false};
        if (s.contains("enum"))
            return s["enum"].get<std::vector<json>>();
        const std::string type = s.at("type");
        if (type == "string")
            return {least(s), letters(s.value("maxLength", 10u)), "Ünïcode \"quoted\" \\ and\nlines"};
        if (type == "integer" || type == "number")
            return numbers(s);
        if (type == "array") {
            json longer = least(s);
            if (longer.size() < s.value("maxItems", 9u) && !s["items"].is_array())
                longer.push_back(least(s["items"]));
            return {least(s), longer};
        }
        if (!s.contains("properties")) { // a map
            const json& item = s.contains("additionalProperties") ? s["additionalProperties"] : json::object();
            return {json::object(),
                    item.empty() ? json::object() : json{{"out 1", least(item)}, {"ключ", least(item)}}};
        }
        return {least(s)};
    }
    std::vector<json> bad(const json& from) const {
        const json& s = resolved(from);
        std::vector<json> all{json::array({json::array()}), nullptr};
        if (s.contains("enum"))
            all.push_back("zzz");
        const std::string type = s.value("type", "");
        if (type != "string" && !s.contains("enum") && !s.contains("const"))
            all.push_back("1");
        if (type == "string" && s.contains("maxLength"))
            all.push_back(letters(s["maxLength"].get<std::size_t>() + 1));
        if (s.contains("pattern"))
            all.push_back("a/b"), all.push_back("");
        if (s.contains("minimum"))
            all.push_back(beyond(s["minimum"], -1));
        if (s.contains("exclusiveMinimum"))
            all.push_back(s["exclusiveMinimum"]);
        if (s.contains("maximum"))
            all.push_back(beyond(s["maximum"], 1));
        if (type == "integer")
            all.push_back(1.5);
        if (type == "array" && !s["items"].is_array() && s.value("maxItems", 9999u) <= 5000) {
            json many = json::array();
            for (std::size_t i = 0; i <= s["maxItems"].get<std::size_t>(); ++i)
                many.push_back(least(s["items"]));
            all.push_back(many);
        }
        if (type == "array" && s.value("minItems", 0u) > 0)
            all.push_back(json::array());
        return all;
    }

  private:
    static json beyond(const json& edge, int way) {
        const double v = edge.get<double>();
        return v + way * std::max(1e-6, std::abs(v) * 1e-9);
    }
    static std::vector<json> numbers(const json& s) {
        const bool whole = s["type"] == "integer";
        double low = s.value("minimum", s.value("exclusiveMinimum", -1e12)), high = s.value("maximum", 1e12);
        if (s.contains("exclusiveMinimum"))
            low = low + 1e-3;
        if (whole)
            return {static_cast<long long>(low), static_cast<long long>(high),
                    static_cast<long long>((low + high) / 2)};
        return {low, high, low + (high - low) / 3};
    }
    const json& whole_;
};

bool fits(const json& schema, const json& j) {
    valijson::Schema made;
    valijson::SchemaParser parser;
    parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(schema), made);
    valijson::Validator validator;
    return validator.validate(made, valijson::adapters::NlohmannJsonAdapter(j), nullptr);
}

// Whether everything of `value` stands in what was written; that may say more, such as defaults.
bool covers(const json& written, const json& value) {
    if (value.is_number())
        return written.is_number() && written.get<double>() == value.get<double>();
    if (!value.is_structured() || written.type() != value.type())
        return written == value;
    if (value.is_array()) {
        bool all = written.size() == value.size();
        for (std::size_t i = 0; all && i < value.size(); ++i)
            all = covers(written[i], value[i]);
        return all;
    }
    for (const auto& [key, v] : value.items())
        if (!written.contains(key) || !covers(written[key], v))
            return false;
    return true;
}

// What becomes of a JSON value that is read as a T.
struct Outcome {
    std::optional<Error> refused{}, wrong{}; // wrong: read, and then not seen as good by the check
    json written{};
};

// A type without its C++ type, so that what is tried is compiled once.
struct Tried {
    std::string name;
    json schema;
    Outcome (*read)(const json&);
    bool (*seenByCheck)(const json&); // read without limits, it is refused or the check says so
};

template <class T> Outcome readAs(const json& j) {
    const auto t = schema::fromJson<T>(j);
    return t ? Outcome{{}, schema::errorIn(*t), schema::toJson(*t)} : Outcome{t.error()};
}

template <class T> bool seenByCheck(const json& j) {
    T t{};
    schema::Reading r(schema::Reading::Limits::ignored);
    Describe<T>::type().read(t, j, schema::At(), r);
    return r.failed() || schema::errorIn(t);
}

} // namespace

class TestTypes : public QObject {
    Q_OBJECT
    int tried_ = 0, refused_ = 0;
    void type(const Tried& t) {
        const Values values(t.schema);
        json base = values.least(t.schema);
        if (t.name == "tool")
            base["from"] = {"a", 0}; // which one kind of tool needs
        const auto say = [&](const std::string& key, const json& v, const std::string& what) {
            return t.name + "." + key + " = " + v.dump().substr(0, 60) + ": " + what;
        };
        const auto text = [](const std::optional<Error>& e) { return e ? e->text() : std::string(); };
        const Outcome least = t.read(base);
        QVERIFY2(!least.refused, say("", base, text(least.refused)).c_str());
        for (const auto& [key, property] : t.schema["properties"].items()) {
            for (const auto& value : values.good(property)) {
                if ((t.name == "tool" && key == "signal") || (t.name == "rehearsalTest" && key == "begins") ||
                    (t.name == "surfaceLook" && property.value("type", "") == "string"))
                    continue; // takes a few words only, a moment, or colours
                json j = base;
                j[key] = value;
                const Outcome read = t.read(j);
                QVERIFY2(!read.refused, say(key, value, text(read.refused)).c_str());
                QVERIFY2(!read.wrong, say(key, value, text(read.wrong)).c_str());
                const Outcome again = t.read(read.written);
                QVERIFY2(!again.refused && again.written == read.written, say(key, value, "is not kept").c_str());
                // It stands there as it was, or is left out because it is the default.
                json without = j;
                without.erase(key);
                const Outcome plain = t.read(without);
                const bool kept = read.written.contains(key) ? covers(read.written[key], value)
                                                             : !plain.refused && plain.written == read.written;
                QVERIFY2(kept, say(key, value, "became " + read.written.value(key, json()).dump()).c_str());
                QVERIFY2(fits(t.schema, read.written), say(key, value, "does not fit its schema").c_str());
                ++tried_;
            }
            for (const auto& value : values.bad(property)) {
                json j = base;
                j[key] = value;
                const Outcome read = t.read(j);
                QVERIFY2(read.refused, say(key, value, "was taken").c_str());
                QVERIFY2(read.refused->place.find("/" + key) != std::string::npos || read.refused->place.empty(),
                         say(key, value, text(read.refused)).c_str());
                QVERIFY2(!fits(t.schema, j), say(key, value, "fits the schema").c_str());
                // The same by way of an edit: whoever has such a value in memory is told before it is saved.
                QVERIFY2(t.seenByCheck(j), say(key, value, "is not seen by the check").c_str());
                ++refused_;
            }
        }
        json later = base;
        later["later"] = {{"deep", {1, nullptr, "x"}}};
        const Outcome kept = t.read(later);
        QVERIFY2(!kept.refused && kept.written.value("later", json()) == later["later"],
                 say("later", later["later"], "is lost").c_str());
    }
  private slots:
    void everyTypeAndField() {
#define TRY(T) type({Describe<T>::type().name(), schema::jsonSchema<T>("test"), readAs<T>, seenByCheck<T>});
        using namespace project;
        LOOM_PROJECT_TYPES(TRY)
        LOOM_DEVICE_MODEL_TYPES(TRY)
#undef TRY
        qInfo("%d values kept, %d refused", tried_, refused_);
        QVERIFY(tried_ > 500 && refused_ > 700);
    }
};
LOOM_TEST(tst_types, TestTypes)
#include "tst_types.moc"
