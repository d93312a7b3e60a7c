// One declaration a type: each member with its key, limits, default, words and unit, stated once. Reader, writer,
// checks, forms, JSON Schema, the tables of docs/format.md, difference and copy all walk it.
//
//   const Type<Rack>& Describe<Rack>::type() {
//       static const auto t = [] {
//           Type<Rack> t("rack", "Racks, with devices in their units");
//           t.add("id", &Rack::id).id();
//           t.add("units", &Rack::units).range(1, 60).label("Units").always();
//           return t;
//       }();
//       return t;
//   }
//
// A member that is missing in JSON takes the value it has in a T{} (or that of defaultFrom()); a member that has this
// value is left out, unless it is written always(). Fields that nobody declared go into the member named by extra().
#pragma once
#include "schema/codec.h"
#include "schema/field.h"
#include <cmath>
#include <functional>
#include <memory>

namespace loom::schema {

// What is said of a member, whatever its type.
struct Info {
    std::string key, help{};
    Limits limits{};
    bool needed = false;  // JSON without it is refused
    bool own = false;     // of this one thing: a copy of the thing does not take it over
    bool setting = false; // goes along when settings are taken over from one thing to another
    // -- as a field of a form; without a label it has none --
    std::string label{}, unit{}, formId{}; // formId: empty: the key
    double typedMin = 0, typedMax = 0;     // what may be typed, where that is less than the limits; equal: the limits
    int digits = 2;
    double scale = 1;                       // the field shows value times this
    std::vector<std::string> choiceNames{}; // of enumerations and switches, in the order of the limits' choices
    bool inverted = false;                  // a switch whose field says the opposite
    bool yesFirst = false;                  // a switch that lists "yes" before "no"
    std::function<std::optional<Error>(const std::string&)> typedCheck{}; // of a text, beyond its length
};

template <class T> struct Entry {
    std::shared_ptr<Info> info;
    std::function<void(T&, const Json*, const At&, Reading&)> read{}; // null: JSON has it not
    std::function<void(const T&, Json&)> write{};
    std::function<void(const T&, const T*, const At&, Reading&)> check{};
    std::function<Json(Definitions&)> schema{};
    std::function<void(T&)> reset{};
    std::function<void(T&, const T&)> takeSettings{};
    std::function<bool(const T&)> when{};           // the form shows it; empty: always
    std::function<std::string(const T&)> labelOf{}; // where the label depends on the thing
    std::function<bool(const T&)> written{};        // also if it is as by default
    std::function<std::vector<project::FieldOf<T>>(const T&)> fields{};
};

// Adds to an entry what is said of it.
template <class T, class V> class Line {
  public:
    Line(Entry<T>& entry, std::shared_ptr<std::function<V(const T&)>> def) : e_(entry), def_(std::move(def)) {}
    Line& help(std::string text) { return e_.info->help = std::move(text), *this; }
    Line& range(double min, double max) { return e_.info->limits.min = min, e_.info->limits.max = max, *this; }
    Line& above(double min, double max) { return e_.info->limits.aboveMin = true, range(min, max); }
    Line& letters(std::size_t most) { return e_.info->limits.maxText = most, *this; }
    Line& pattern(std::string regex) { return e_.info->limits.pattern = std::move(regex), *this; }
    Line& items(std::size_t least, std::size_t most) {
        return e_.info->limits.minItems = least, e_.info->limits.maxItems = most, *this;
    }
    Line& id() { return e_.info->limits.id = true, needed(); }
    Line& needed() { return e_.info->needed = true, always(); }
    Line& choices(std::vector<std::string> words) { return e_.info->limits.choices = std::move(words), *this; }
    Line& shift(double by) { return e_.info->limits.shift = by, *this; }
    Line& must(std::string sentence) { return e_.info->limits.must = std::move(sentence), *this; }
    Line& own() { return e_.info->own = true, *this; }
    Line& setting() { return e_.info->setting = true, *this; }
    Line& always() {
        return writtenIf([](const T&) { return true; });
    }
    Line& writtenIf(std::function<bool(const T&)> f) { return e_.written = std::move(f), *this; }
    Line& defaultFrom(std::function<V(const T&)> f) { return *def_ = std::move(f), *this; }
    // -- the form --
    Line& label(std::string text, std::string unit = "", int digits = 2) {
        return e_.info->label = std::move(text), e_.info->unit = std::move(unit), e_.info->digits = digits, *this;
    }
    Line& named(std::vector<std::string> names) { return e_.info->choiceNames = std::move(names), *this; }
    Line& labelOf(std::function<std::string(const T&)> f) { return e_.labelOf = std::move(f), *this; }
    Line& yesFirst() { return e_.info->yesFirst = true, *this; }
    Line& typedCheck(std::function<std::optional<Error>(const std::string&)> f) {
        return e_.info->typedCheck = std::move(f), *this;
    }
    Line& opposite() { return e_.info->inverted = true, *this; }
    Line& formId(std::string id) { return e_.info->formId = std::move(id), *this; }
    Line& typed(double min, double max) { return e_.info->typedMin = min, e_.info->typedMax = max, *this; }
    Line& shownTimes(double scale) { return e_.info->scale = scale, *this; }
    Line& when(std::function<bool(const T&)> f) { return e_.when = std::move(f), *this; }

  private:
    Entry<T>& e_;
    std::shared_ptr<std::function<V(const T&)>> def_;
};

namespace detail {

template <class V>
concept OptionalPart = requires(V v) {
    requires Described<std::remove_cvref_t<decltype(*v)>>;
    v.has_value();
};

// A field of a form that shows and sets what `get` finds.
template <class T, class V, class Get> project::FieldOf<T> formField(const Info& info, Get get) {
    project::FieldOf<T> f;
    f.look.id = info.formId.empty() ? info.key : info.formId;
    f.look.label = info.label;
    f.look.unit = info.unit;
    f.look.digits = info.digits;
    if constexpr (std::is_same_v<V, double> || std::is_same_v<V, int>) {
        const double scale = info.scale;
        const bool typed = info.typedMin < info.typedMax;
        f.look.min = (typed ? info.typedMin : info.limits.min) * scale;
        f.look.max = (typed ? info.typedMax : info.limits.max) * scale;
        if constexpr (std::is_same_v<V, int>)
            f.look.digits = 0;
        f.number = [get, scale](const T& t) { return static_cast<double>(std::invoke(get, t)) * scale; };
        f.setNumber = [get, scale](T& t, double v) {
            if constexpr (std::is_same_v<V, int>)
                std::invoke(get, t) = static_cast<int>(std::lround(v / scale));
            else
                std::invoke(get, t) = v / scale;
        };
    } else if constexpr (std::is_same_v<V, bool>) {
        f.look.choices = {"no", "yes"};
        f.look.choiceNames = info.choiceNames;
        if (f.look.choiceNames.empty())
            f.look.choiceNames = {"No", "Yes"};
        if (info.yesFirst) {
            std::swap(f.look.choices[0], f.look.choices[1]);
            std::swap(f.look.choiceNames[0], f.look.choiceNames[1]);
        }
        const bool inverted = info.inverted;
        f.text = [get, inverted](const T& t) { return std::invoke(get, t) != inverted ? "yes" : "no"; };
        f.setText = [get, inverted](T& t, const std::string& v) { std::invoke(get, t) = (v == "yes") != inverted; };
    } else if constexpr (std::is_enum_v<V>) {
        f.look.choices = info.limits.choices;
        f.look.choiceNames = info.choiceNames;
        const auto words = info.limits.choices;
        f.text = [get, words](const T& t) { return words.at(static_cast<std::size_t>(std::invoke(get, t))); };
        f.setText = [get, words](T& t, const std::string& v) {
            for (std::size_t i = 0; i < words.size(); ++i)
                if (words[i] == v)
                    std::invoke(get, t) = static_cast<V>(i);
        };
    } else if constexpr (std::is_same_v<V, std::string>) {
        f.look.choices = info.limits.choices;
        f.look.choiceNames = info.choiceNames;
        if (info.limits.maxText != longestText)
            f.look.letters = info.limits.maxText;
        f.check = info.typedCheck;
        f.text = [get](const T& t) { return std::invoke(get, t); };
        f.setText = [get](T& t, const std::string& v) { std::invoke(get, t) = v; };
    }
    return f;
}

// The fields of a part, as fields of the whole.
template <class T, class V, class Get>
std::vector<project::FieldOf<T>> lifted(const Type<V>& part, const T& thing, Get get) {
    std::vector<project::FieldOf<T>> all;
    for (const auto& inner : part.fields(std::invoke(get, thing))) {
        project::FieldOf<T> f;
        f.look = inner.look;
        if (inner.number) {
            f.number = [get, inner](const T& t) { return inner.number(std::invoke(get, t)); };
            f.setNumber = [get, inner](T& t, double v) { inner.setNumber(std::invoke(get, t), v); };
        } else {
            f.text = [get, inner](const T& t) { return inner.text(std::invoke(get, t)); };
            f.setText = [get, inner](T& t, const std::string& v) { inner.setText(std::invoke(get, t), v); };
        }
        f.check = inner.check;
        all.push_back(std::move(f));
    }
    return all;
}

} // namespace detail

// The declaration of T.
template <class T> class Type {
  public:
    Type(std::string name, std::string help) : name_(std::move(name)), help_(std::move(help)) {}

    // A member of any type that has a Codec. get: a pointer to member, or a generic function from T to a reference.
    template <class Get> auto add(std::string key, Get get) {
        using V = std::remove_cvref_t<std::invoke_result_t<Get, T&>>;
        const auto info = std::make_shared<Info>();
        info->key = std::move(key);
        const auto def = std::make_shared<std::function<V(const T&)>>();
        Entry<T> e{info};
        e.read = [info, get, def](T& t, const Json* j, const At& at, Reading& r) {
            if (j)
                Codec<V>::read(std::invoke(get, t), *j, info->limits, At(at, info->key), r);
            else if (info->needed)
                r.fail(at, "needs the field \"" + info->key + "\"");
            else if (*def)
                std::invoke(get, t) = (*def)(t);
        };
        e.check = [info, get](const T& t, const T* before, const At& at, Reading& r) {
            const V* was = before ? &std::invoke(get, *before) : nullptr;
            checkSince<V>(std::invoke(get, t), was, info->limits, At(at, info->key), r);
        };
        const auto usual = [get, def](const T& t) -> V {
            static const T plain{};
            return *def ? (*def)(t) : V(std::invoke(get, plain));
        };
        e.write = [info, get, usual](const T& t, Json& j) {
            const V& now = std::invoke(get, t);
            if (!j.is_null() || !(now == usual(t))) // null: only what differs from the default
                j = Codec<V>::write(now, info->limits);
        };
        e.schema = [info, usual](Definitions& d) {
            Json j = Codec<V>::schema(info->limits, d);
            if constexpr (!Described<V> && !std::is_class_v<V>)
                if (!info->needed)
                    j["default"] = Codec<V>::write(usual(T{}), info->limits);
            if (!info->unit.empty() && !j.contains("$ref"))
                j["unit"] = info->unit;
            return j;
        };
        e.reset = [get, usual](T& t) { std::invoke(get, t) = usual(t); };
        e.takeSettings = [get, info](T& to, const T& from) {
            if (info->setting)
                std::invoke(get, to) = std::invoke(get, from);
            else if constexpr (Described<V>)
                Describe<V>::type().takeSettings(std::invoke(get, to), std::invoke(get, from));
        };
        if constexpr (std::is_same_v<V, double> || std::is_same_v<V, int> || std::is_same_v<V, bool> ||
                      std::is_same_v<V, std::string> || std::is_enum_v<V>)
            e.fields = [info, get](const T&) {
                return info->label.empty() ? std::vector<project::FieldOf<T>>{}
                                           : std::vector{detail::formField<T, V>(*info, get)};
            };
        else if constexpr (Described<V>)
            e.fields = [get](const T& t) { return detail::lifted<T, V>(Describe<V>::type(), t, get); };
        else if constexpr (detail::OptionalPart<V>)
            e.fields = [get](const T& t) {
                using P = typename V::value_type;
                if (!std::invoke(get, t))
                    return std::vector<project::FieldOf<T>>{};
                return detail::lifted<T, P>(
                    Describe<P>::type(), t, [get](auto& one) -> auto& { return *std::invoke(get, one); });
            };
        entries_.push_back(std::move(e));
        return Line<T, V>(entries_.back(), def);
    }
    // What JSON has under `key` but no member of its own: read and written by hand.
    Entry<T>& byHand(std::string key, std::string help) {
        Entry<T> e{std::make_shared<Info>()};
        e.info->key = std::move(key);
        e.info->help = std::move(help);
        entries_.push_back(std::move(e));
        return entries_.back();
    }
    // A word that stands there in every file, such as a format's name.
    void fixed(std::string key, Json value) {
        auto& e = byHand(std::move(key), "always " + value.dump());
        e.info->needed = true;
        e.read = [value, info = e.info](T&, const Json* j, const At& at, Reading& r) {
            if (!j || *j != value)
                r.fail(At(at, info->key), "must be " + value.dump());
        };
        e.write = [value](const T&, Json& j) { j = value; };
        e.written = [](const T&) { return true; };
        e.schema = [value](Definitions&) { return Json{{"const", value}}; };
    }
    // Fields of the form that no member has, at this place of it.
    void form(std::function<std::vector<project::FieldOf<T>>(const T&)> fields) {
        Entry<T> e{std::make_shared<Info>()};
        e.fields = std::move(fields);
        entries_.push_back(std::move(e));
    }
    void extra(Extra T::*member) { extra_ = member; }
    // What has to hold between members; also brings them in step after reading.
    void rule(std::function<void(const T&, const At&, Reading&)> f) { rules_.push_back(std::move(f)); }
    void afterReading(std::function<void(T&)> f) { after_ = std::move(f); }

    // -- what is made of it --
    const std::string& name() const { return name_; }
    const std::string& help() const { return help_; }
    const std::vector<Entry<T>>& entries() const { return entries_; }

    void read(T& t, const Json& j, const At& at, Reading& r) const {
        if (!j.is_object())
            return r.fail(at, "must be an object");
        std::size_t known = 0;
        for (const auto& e : entries_) {
            if (e.info->key.empty())
                continue;
            const auto it = j.find(e.info->key);
            known += it != j.end();
            if (e.read)
                e.read(t, it != j.end() ? &*it : nullptr, at, r);
            if (r.failed())
                return;
        }
        if (extra_ && known < j.size())
            for (auto it = j.begin(); it != j.end(); ++it)
                if (!knows(it.key()))
                    (t.*extra_)[it.key()] = it.value().dump(-1, ' ', false, Json::error_handler_t::replace);
        if (after_)
            after_(t);
        obey(t, at, r);
    }
    Json write(const T& t) const {
        Json j = Json::object();
        for (const auto& e : entries_) {
            if (!e.write)
                continue;
            Json value = e.written && e.written(t) ? Json(false) : Json();
            e.write(t, value);
            if (!value.is_null())
                j[e.info->key] = std::move(value);
        }
        if (extra_)
            for (const auto& [key, text] : t.*extra_)
                if (!knows(key))
                    j[key] = Json::parse(text, nullptr, false);
        return j;
    }
    // Whether all of it could be read again. Cheap: no JSON is made, and what it shares with a value that was good
    // before (null: none) is passed over.
    void check(const T& t, const T* before, const At& at, Reading& r) const {
        for (const auto& e : entries_)
            if (e.check && !r.failed())
                e.check(t, before, at, r);
        obey(t, at, r);
    }
    std::vector<project::FieldOf<T>> fields(const T& t) const {
        std::vector<project::FieldOf<T>> all;
        for (const auto& e : entries_)
            if (e.fields && (!e.when || e.when(t)))
                for (auto& f : e.fields(t)) {
                    if (e.labelOf)
                        f.look.label = e.labelOf(t);
                    all.push_back(std::move(f));
                }
        return all;
    }
    // As a copy of it begins: without what is its own.
    void forgetOwn(T& t) const {
        for (const auto& e : entries_)
            if (e.info->own && e.reset)
                e.reset(t);
    }
    // Members that are settings, of it and of its parts, as `from` has them.
    void takeSettings(T& to, const T& from) const {
        for (const auto& e : entries_)
            if (e.takeSettings)
                e.takeSettings(to, from);
    }
    Json schema(Definitions& d) const {
        Json j{{"type", "object"}, {"description", help_}, {"properties", Json::object()}};
        for (const auto& e : entries_) {
            if (!e.schema)
                continue;
            Json value = e.schema(d);
            if (!e.info->help.empty() && !value.contains("$ref"))
                value["description"] = e.info->help;
            j["properties"][e.info->key] = std::move(value);
            if (e.info->needed)
                j["required"].push_back(e.info->key);
        }
        return j;
    }
    Json reference(Definitions& d) const {
        if (!d.count(name_)) {
            d[name_] = {}; // a type may hold itself
            d[name_] = schema(d);
        }
        return {{"$ref", "#/definitions/" + name_}};
    }

  private:
    bool knows(const std::string& key) const {
        for (const auto& e : entries_)
            if (e.info->key == key)
                return true;
        return false;
    }
    void obey(const T& t, const At& at, Reading& r) const {
        if (r.limited())
            for (const auto& f : rules_)
                if (!r.failed())
                    f(t, at, r);
    }
    std::string name_, help_;
    std::vector<Entry<T>> entries_;
    Extra T::*extra_ = nullptr;
    std::vector<std::function<void(const T&, const At&, Reading&)>> rules_;
    std::function<void(T&)> after_{};
};

// ---- the calls that others make ----

// Reads a T. The error's place is a JSON pointer behind `place`.
template <Described T> Result<T> fromJson(const Json& j, const std::string& place = "") {
    T t{};
    Reading r;
    Describe<T>::type().read(t, j, At(place), r);
    return r.failed() ? Result<T>(r.error()) : Result<T>(std::move(t));
}
template <Described T> Json toJson(const T& t) {
    return Describe<T>::type().write(t);
}
// Error: a member that could not be read again, and where. before: a good one, of which t may be an edited copy.
template <Described T>
std::optional<Error> errorIn(const T& t, const std::string& place = "", const T* before = nullptr) {
    Reading r;
    Describe<T>::type().check(t, before, At(place), r);
    return r.failed() ? std::optional(r.error()) : std::nullopt;
}
template <Described T> std::vector<project::FieldOf<T>> formOf(const T& t) {
    return Describe<T>::type().fields(t);
}
// The form of t as it stands.
template <Described T> std::vector<project::Field> shownFields(const T& t) {
    std::vector<project::Field> all;
    for (const auto& f : formOf(t))
        all.push_back(f.shown(t));
    return all;
}
// Sets one field of the form from what people type. Error: what is wrong with it, or `none` if there is no such
// field; nothing was set.
template <Described T>
std::optional<Error> setShownField(T& t, const std::string& field, const std::string& value, const char* none) {
    for (const auto& f : formOf(t))
        if (f.look.id == field)
            return f.set(t, value);
    return Error{none, field, ""};
}
template <Described T> void forgetOwn(T& t) {
    Describe<T>::type().forgetOwn(t);
}
template <Described T> void takeSettings(T& to, const T& from) {
    Describe<T>::type().takeSettings(to, from);
}
// A whole JSON Schema (draft 7) of T with the types it holds.
template <Described T> Json jsonSchema(const std::string& title) {
    Definitions d;
    Json j = Describe<T>::type().schema(d);
    j["$schema"] = "http://json-schema.org/draft-07/schema#";
    j["title"] = title;
    for (auto& [name, schema] : d)
        j["definitions"][name] = std::move(schema);
    return j;
}

#define LOOM_DESCRIBE(T)                                                                                               \
    template <> struct Describe<T> { static const Type<T>& type(); };

// The body of a Describe<T>::type() from the function that makes it.
#define LOOM_TYPE(T, make)                                                                                             \
    const Type<T>& Describe<T>::type() {                                                                               \
        static const Type<T> t = make();                                                                               \
        return t;                                                                                                      \
    }

} // namespace loom::schema
