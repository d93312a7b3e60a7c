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
#include <QTemporaryDir>
#include <QTest>

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

template <class T> T readAll(const json& j, bool limited, bool& good) {
    T t{};
    schema::Reading r(limited ? schema::Reading::Limits::kept : schema::Reading::Limits::ignored);
    Describe<T>::type().read(t, j, schema::At(), r);
    good = !r.failed();
    return t;
}

} // namespace

class TestTypes : public QObject {
    Q_OBJECT
    int tried_ = 0, refused_ = 0;
    template <class T> void type() {
        const auto& declared = Describe<T>::type();
        const json schema = schema::jsonSchema<T>("test");
        const Values values(schema);
        json base = values.least(schema);
        if constexpr (std::is_same_v<T, project::Tool>)
            base["from"] = {"a", 0}; // which one kind of tool needs
        const auto say = [&](const std::string& key, const json& v, const std::string& what) {
            return declared.name() + "." + key + " = " + v.dump().substr(0, 60) + ": " + what;
        };
        bool good = false;
        readAll<T>(base, true, good);
        QVERIFY2(good, say("", base, schema::fromJson<T>(base).error().text()).c_str());
        for (const auto& [key, property] : schema["properties"].items()) {
            for (const auto& value : values.good(property)) {
                if (declared.name() == "tool" && key == "signal")
                    continue; // takes a few words only
                json j = base;
                j[key] = value;
                const auto read = schema::fromJson<T>(j);
                QVERIFY2(bool(read), say(key, value, read ? "" : read.error().text()).c_str());
                const auto wrong = schema::errorIn(*read);
                QVERIFY2(!wrong, say(key, value, wrong ? wrong->text() : "").c_str());
                const json written = schema::toJson(*read);
                const auto again = schema::fromJson<T>(written);
                QVERIFY2(again && schema::toJson(*again) == written, say(key, value, "is not kept").c_str());
                // It stands there as it was, or is left out because it is the default.
                json without = j;
                without.erase(key);
                const auto plain = schema::fromJson<T>(without);
                const bool kept =
                    written.contains(key) ? covers(written[key], value) : plain && schema::toJson(*plain) == written;
                QVERIFY2(kept, say(key, value, "became " + written.value(key, json()).dump()).c_str());
                QVERIFY2(fits(schema, written), say(key, value, "does not fit its schema").c_str());
                ++tried_;
            }
            for (const auto& value : values.bad(property)) {
                json j = base;
                j[key] = value;
                const auto read = schema::fromJson<T>(j);
                QVERIFY2(!read, say(key, value, "was taken").c_str());
                QVERIFY2(read.error().place.find("/" + key) != std::string::npos || read.error().place.empty(),
                         say(key, value, read.error().text()).c_str());
                QVERIFY2(!fits(schema, j), say(key, value, "fits the schema").c_str());
                // The same by way of an edit: whoever has such a value in memory is told before it is saved.
                bool readable = false;
                const T t = readAll<T>(j, false, readable);
                QVERIFY2(!readable || schema::errorIn(t), say(key, value, "is not seen by the check").c_str());
                ++refused_;
            }
        }
        json later = base;
        later["later"] = {{"deep", {1, nullptr, "x"}}};
        const auto kept = schema::fromJson<T>(later);
        QVERIFY2(kept && schema::toJson(*kept).value("later", json()) == later["later"],
                 say("later", later["later"], "is lost").c_str());
    }
  private slots:
    void everyTypeAndField() {
#define TRY(T) type<T>();
        using namespace project;
        LOOM_PROJECT_TYPES(TRY)
        LOOM_DEVICE_MODEL_TYPES(TRY)
#undef TRY
        qInfo("%d values kept, %d refused", tried_, refused_);
        QVERIFY(tried_ > 500 && refused_ > 700);
    }
};
QTEST_APPLESS_MAIN(TestTypes)
#include "tst_types.moc"
