// How values of one C++ type stand in JSON: read, written, held against their limits, described as JSON Schema.
#pragma once
#include "engine/shared.h"
#include "schema/at.h"
#include "schema/extra.h"
#include <array>
#include <limits>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace loom::schema {

using Json = nlohmann::json;

inline constexpr std::size_t longestText = 4096, longestKey = 4096, mostItems = 50000;

// What a value may be. Which of these count depends on its type; of lists and maps they are those of the items.
struct Limits {
    double min = std::numeric_limits<double>::lowest(), max = std::numeric_limits<double>::max();
    bool aboveMin = false;              // the minimum itself is not allowed
    std::size_t maxText = longestText;  // letters: code points
    bool id = false;                    // 1 to 200 letters, no "/"
    std::string pattern{};              // of a text, for its JSON Schema; a rule holds it in the core
    std::vector<std::string> choices{}; // of enumerations, in their order
    std::size_t minItems = 0, maxItems = mostItems;
    double shift = 0;   // what JSON has more than the value: 1 for what counts from 1 there
    std::string must{}; // the sentence when it is something else: "must be ..."; empty: made from these
};

// The type has a declaration: Describe<T>::type() gives its Type<T> (schema/schema.h).
template <class T> struct Describe {};
template <class T>
concept Described = requires {
    Describe<T>::type();
};
template <class T> class Type;

// What JSON Schemas of described types refer to, by name; filled while a schema is made.
using Definitions = std::map<std::string, Json>;

template <class V> struct Codec;

namespace detail {
// The checks themselves: true if all is well, else the reading has failed.
bool checkNumber(double v, bool whole, const Limits& limits, const At& at, Reading& r);
bool checkText(const std::string& v, const Limits& limits, const At& at, Reading& r);
bool checkCount(std::size_t n, const Limits& limits, const At& at, Reading& r);
std::string mustBe(bool whole, const Limits& limits);
std::string textMustBe(const Limits& limits);
Json numberSchema(bool whole, const Limits& limits);
Json textSchema(const Limits& limits);
std::size_t choiceOf(const Json& j, const Limits& limits, const At& at, Reading& r); // npos: none
} // namespace detail

template <> struct Codec<double> {
    static void read(double& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (!j.is_number())
            return r.fail(at, detail::mustBe(false, l));
        v = j.get<double>() - l.shift;
        check(v, l, at, r);
    }
    static Json write(double v, const Limits& l) { return v + l.shift; }
    static void check(double v, const Limits& l, const At& at, Reading& r) { detail::checkNumber(v, false, l, at, r); }
    static Json schema(const Limits& l, Definitions&) { return detail::numberSchema(false, l); }
};

template <> struct Codec<int> {
    static void read(int& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        const double n = j.is_number() ? j.get<double>() - l.shift : 0.5;
        if (!(n >= -2147483648.0 && n <= 2147483647.0) || n != static_cast<double>(static_cast<int>(n)))
            return r.fail(at, detail::mustBe(true, l));
        v = static_cast<int>(n);
        check(v, l, at, r);
    }
    static Json write(int v, const Limits& l) { return v + static_cast<int>(l.shift); }
    static void check(int v, const Limits& l, const At& at, Reading& r) { detail::checkNumber(v, true, l, at, r); }
    static Json schema(const Limits& l, Definitions&) { return detail::numberSchema(true, l); }
};

template <> struct Codec<bool> {
    static void read(bool& v, const Json& j, const Limits&, const At& at, Reading& r) {
        j.is_boolean() ? void(v = j.get<bool>()) : r.fail(at, "must be true or false");
    }
    static Json write(bool v, const Limits&) { return v; }
    static void check(bool, const Limits&, const At&, Reading&) {}
    static Json schema(const Limits&, Definitions&) { return {{"type", "boolean"}}; }
};

template <> struct Codec<std::string> {
    static void read(std::string& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (!j.is_string())
            return r.fail(at, detail::textMustBe(l));
        v = j.get_ref<const std::string&>();
        check(v, l, at, r);
    }
    static Json write(const std::string& v, const Limits&) { return v; }
    static void check(const std::string& v, const Limits& l, const At& at, Reading& r) {
        detail::checkText(v, l, at, r);
    }
    static Json schema(const Limits& l, Definitions&) { return detail::textSchema(l); }
};

// An object whose fields somebody else reads.
template <> struct Codec<Json> {
    static void read(Json& v, const Json& j, const Limits&, const At& at, Reading& r) {
        j.is_object() ? void(v = j) : r.fail(at, "must be an object");
    }
    static Json write(const Json& v, const Limits&) { return v; }
    static void check(const Json& v, const Limits&, const At& at, Reading& r) {
        if (!v.is_object())
            r.fail(at, "must be an object");
    }
    static Json schema(const Limits&, Definitions&) { return {{"type", "object"}}; }
};

template <class E>
requires std::is_enum_v<E>
struct Codec<E> {
    static void read(E& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (const auto i = detail::choiceOf(j, l, at, r); i != std::string::npos)
            v = static_cast<E>(i);
    }
    static Json write(E v, const Limits& l) { return l.choices.at(static_cast<std::size_t>(v)); }
    static void check(E v, const Limits& l, const At& at, Reading& r) {
        if (static_cast<std::size_t>(v) >= l.choices.size())
            r.fail(at, detail::mustBe(false, l));
    }
    static Json schema(const Limits& l, Definitions&) { return {{"enum", l.choices}}; }
};

template <class V> struct Codec<std::vector<V>> {
    static void read(std::vector<V>& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (!j.is_array())
            return r.fail(at, "must be a list");
        if (!detail::checkCount(j.size(), l, at, r))
            return;
        v.clear();
        v.reserve(j.size());
        for (std::size_t i = 0; i < j.size() && !r.failed(); ++i)
            Codec<V>::read(v.emplace_back(), j[i], l, At(at, i), r);
    }
    static Json write(const std::vector<V>& v, const Limits& l) {
        Json j = Json::array();
        for (const auto& one : v)
            j.push_back(Codec<V>::write(one, l));
        return j;
    }
    static void check(const std::vector<V>& v, const Limits& l, const At& at, Reading& r) {
        if (!detail::checkCount(v.size(), l, at, r))
            return;
        for (std::size_t i = 0; i < v.size() && !r.failed(); ++i)
            Codec<V>::check(v[i], l, At(at, i), r);
    }
    static Json schema(const Limits& l, Definitions& d) {
        Json j{{"type", "array"}, {"items", Codec<V>::schema(l, d)}, {"maxItems", l.maxItems}};
        if (l.minItems > 0)
            j["minItems"] = l.minItems;
        return j;
    }
};

// Checks v; what it shares with a value that was good before is passed over.
template <class V> void checkSince(const V& v, const V* before, const Limits& l, const At& at, Reading& r) {
    if constexpr (requires { Codec<V>::checkSince(v, *before, l, at, r); })
        if (before)
            return Codec<V>::checkSince(v, *before, l, at, r);
    Codec<V>::check(v, l, at, r);
}

template <class V> struct Codec<List<V>> {
    static void read(List<V>& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (!j.is_array())
            return r.fail(at, "must be a list");
        if (!detail::checkCount(j.size(), l, at, r))
            return;
        v.clear();
        for (std::size_t i = 0; i < j.size() && !r.failed(); ++i)
            Codec<V>::read(v.emplace_back(), j[i], l, At(at, i), r);
    }
    static Json write(const List<V>& v, const Limits& l) {
        Json j = Json::array();
        for (const auto& one : v)
            j.push_back(Codec<V>::write(one, l));
        return j;
    }
    static void check(const List<V>& v, const Limits& l, const At& at, Reading& r) { checkSince(v, {}, l, at, r); }
    static void checkSince(const List<V>& v, const List<V>& before, const Limits& l, const At& at, Reading& r) {
        if ((!before.empty() && v.is(before)) || !detail::checkCount(v.size(), l, at, r))
            return;
        v.eachApart(before, [&](std::size_t i) {
            if (!r.failed())
                schema::checkSince(v[i], i < before.size() ? &before[i] : nullptr, l, placeOf(v[i], at, i), r);
        });
    }
    static Json schema(const Limits& l, Definitions& d) { return Codec<std::vector<V>>::schema(l, d); }

  private:
    static At placeOf(const V& one, const At& at, std::size_t i) { // by its name, where people gave it one
        if constexpr (requires { std::string_view(one.name); })
            if (!one.name.empty())
                return At(at, std::string_view(one.name).substr(0, 80));
        return At(at, i);
    }
};

template <class V, std::size_t n> struct Codec<std::array<V, n>> {
    static void read(std::array<V, n>& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (!j.is_array() || j.size() != n)
            return r.fail(at, l.must.empty() ? "must be a list of " + std::to_string(n) : l.must);
        for (std::size_t i = 0; i < n && !r.failed(); ++i)
            Codec<V>::read(v[i], j[i], l, l.must.empty() ? At(at, i) : at, r);
    }
    static Json write(const std::array<V, n>& v, const Limits& l) {
        Json j = Json::array();
        for (const auto& one : v)
            j.push_back(Codec<V>::write(one, l));
        return j;
    }
    static void check(const std::array<V, n>& v, const Limits& l, const At& at, Reading& r) {
        for (std::size_t i = 0; i < n; ++i)
            Codec<V>::check(v[i], l, l.must.empty() ? At(at, i) : at, r);
    }
    static Json schema(const Limits& l, Definitions& d) {
        Limits one = l;
        one.must.clear();
        return {{"type", "array"}, {"items", Codec<V>::schema(one, d)}, {"minItems", n}, {"maxItems", n}};
    }
};

template <class V> struct Codec<std::map<std::string, V>> {
    static void read(std::map<std::string, V>& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        if (!j.is_object())
            return r.fail(at, "must be an object");
        if (!detail::checkCount(j.size(), l, at, r))
            return;
        v.clear();
        for (auto it = j.begin(); it != j.end() && !r.failed(); ++it)
            Codec<V>::read(v[it.key()], it.value(), l, At(at, it.key()), r);
        checkKeys(v, at, r);
    }
    static Json write(const std::map<std::string, V>& v, const Limits& l) {
        Json j = Json::object();
        for (const auto& [key, one] : v)
            j[key] = Codec<V>::write(one, l);
        return j;
    }
    static void check(const std::map<std::string, V>& v, const Limits& l, const At& at, Reading& r) {
        if (!detail::checkCount(v.size(), l, at, r))
            return;
        for (auto it = v.begin(); it != v.end() && !r.failed(); ++it)
            Codec<V>::check(it->second, l, At(at, it->first), r);
        checkKeys(v, at, r);
    }
    static void checkKeys(const std::map<std::string, V>& v, const At& at, Reading& r) {
        static const Limits key{.maxText = longestKey};
        for (auto it = v.begin(); it != v.end() && !r.failed(); ++it)
            detail::checkText(it->first, key, at, r);
    }
    static Json schema(const Limits& l, Definitions& d) {
        return {{"type", "object"}, {"additionalProperties", Codec<V>::schema(l, d)}, {"maxProperties", l.maxItems}};
    }
};

template <class V> struct Codec<std::optional<V>> {
    static void read(std::optional<V>& v, const Json& j, const Limits& l, const At& at, Reading& r) {
        Codec<V>::read(v.emplace(), j, l, at, r);
    }
    static Json write(const std::optional<V>& v, const Limits& l) { return v ? Codec<V>::write(*v, l) : Json(); }
    static void check(const std::optional<V>& v, const Limits& l, const At& at, Reading& r) {
        if (v)
            Codec<V>::check(*v, l, at, r);
    }
    static void checkSince(const std::optional<V>& v, const std::optional<V>& before, const Limits& l, const At& at,
                           Reading& r) {
        if (v)
            schema::checkSince(*v, before ? &*before : nullptr, l, at, r);
    }
    static Json schema(const Limits& l, Definitions& d) { return Codec<V>::schema(l, d); }
};

// Types with a declaration.
template <Described T> struct Codec<T> {
    static void read(T& v, const Json& j, const Limits&, const At& at, Reading& r) {
        Describe<T>::type().read(v, j, at, r);
    }
    static Json write(const T& v, const Limits&) { return Describe<T>::type().write(v); }
    static void check(const T& v, const Limits&, const At& at, Reading& r) {
        Describe<T>::type().check(v, nullptr, at, r);
    }
    static void checkSince(const T& v, const T& before, const Limits&, const At& at, Reading& r) {
        Describe<T>::type().check(v, &before, at, r);
    }
    static Json schema(const Limits&, Definitions& d) { return Describe<T>::type().reference(d); }
};

} // namespace loom::schema
