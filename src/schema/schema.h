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
#include "schema/field.h"
#include "schema/type_core.h"
#include <cmath>

namespace loom::schema {

namespace detail {

template <class V>
concept OptionalPart = requires(V v) {
    requires Described<std::remove_cvref_t<decltype(*v)>>;
    v.has_value();
};
template <class V>
concept Scalar = std::is_same_v<V, double> || std::is_same_v<V, int> || std::is_same_v<V, bool> ||
    std::is_same_v<V, std::string> || std::is_enum_v<V>;

template <class T> const T& plain() {
    static const T t{};
    return t;
}

// A member of any type that has a Codec. Get: a pointer to member, or a generic function from T to a reference.
template <class T, class V, class Get> class MemberOf final : public Member {
  public:
    MemberOf(std::string key, Get get) : Member(std::move(key), ""), get_(get) {}
    void read(void* thing, const Json* j, const At& at, Reading& r) const override {
        if (j)
            Codec<V>::read(of(thing), *j, info.limits, At(at, info.key), r);
        else if (info.needed)
            r.fail(at, "needs the field \"" + info.key + "\"");
        else if (byDefault)
            reset(thing);
    }
    Json write(const void* thing, bool anyway) const override {
        const V& now = of(thing);
        if (!anyway && (byDefault ? now == byDefault(typed(thing)) : now == of(&plain<T>())))
            return {};
        return Codec<V>::write(now, info.limits);
    }
    void check(const void* thing, const void* before, const At& at, Reading& r) const override {
        checkSince<V>(of(thing), before ? &of(before) : nullptr, info.limits, At(at, info.key), r);
    }
    Json schema(Definitions& d) const override {
        Json j = Codec<V>::schema(info.limits, d);
        if constexpr (!Described<V> && !std::is_class_v<V>)
            if (!info.needed)
                j["default"] = Codec<V>::write(byDefault ? byDefault(T{}) : of(&plain<T>()), info.limits);
        if (!info.unit.empty() && !j.contains("$ref"))
            j["unit"] = info.unit;
        return j;
    }
    void reset(void* thing) const override {
        if (byDefault)
            of(thing) = byDefault(typed(thing));
        else
            of(thing) = of(&plain<T>());
    }
    void takeSettings(void* to, const void* from) const override {
        if (info.setting)
            of(to) = of(from);
        else if constexpr (Described<V>)
            Describe<V>::type().takeSettings(of(to), of(from));
    }
    std::function<V(const T&)> byDefault{};
    Get get() const { return get_; }

  private:
    static const T& typed(const void* thing) { return *static_cast<const T*>(thing); }
    V& of(void* thing) const { return std::invoke(get_, *static_cast<T*>(thing)); }
    const V& of(const void* thing) const { return std::invoke(get_, typed(thing)); }
    Get get_;
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

// Fields of a form at one place of it.
template <class T> struct FormPart {
    std::function<std::vector<project::FieldOf<T>>(const T&)> fields{};
    std::function<bool(const T&)> when{};           // the form shows it; empty: always
    std::function<std::string(const T&)> labelOf{}; // where the label depends on the thing
};

} // namespace detail

// What JSON has under a key but no member of its own: read and written by hand.
template <class T> struct ByHand final : Member {
    using Member::Member;
    std::function<void(T&, const Json*, const At&, Reading&)> reader{};
    std::function<Json(const T&)> writer{}; // empty: never written
    std::function<void(const T&, const T*, const At&, Reading&)> checker{};
    std::function<Json(Definitions&)> describer{};
    void read(void* thing, const Json* j, const At& at, Reading& r) const override {
        reader(*static_cast<T*>(thing), j, at, r);
    }
    Json write(const void* thing, bool) const override {
        return writer ? writer(*static_cast<const T*>(thing)) : Json();
    }
    void check(const void* thing, const void* before, const At& at, Reading& r) const override {
        if (checker)
            checker(*static_cast<const T*>(thing), static_cast<const T*>(before), at, r);
    }
    Json schema(Definitions& d) const override { return describer ? describer(d) : Json(); }
};

// Adds to a member what is said of it.
template <class T, class V, class Get> class Line {
  public:
    Line(Type<T>& type, detail::MemberOf<T, V, Get>& member) : type_(type), m_(member), part_(type.form_.size()) {
        if constexpr (Described<V>)
            part().fields = [get = m_.get()](const T& t) { return detail::lifted<T, V>(Describe<V>::type(), t, get); };
        else if constexpr (detail::OptionalPart<V>)
            part().fields = [get = m_.get()](const T& t) {
                using P = typename V::value_type;
                if (!std::invoke(get, t))
                    return std::vector<project::FieldOf<T>>{};
                return detail::lifted<T, P>(
                    Describe<P>::type(), t, [get](auto& one) -> auto& { return *std::invoke(get, one); });
            };
    }
    Line& help(std::string text) { return set(m_.info.help, std::move(text)); }
    Line& range(double min, double max) { return set(m_.info.limits.min, min).set(m_.info.limits.max, max); }
    Line& above(double min, double max) { return set(m_.info.limits.aboveMin, true).range(min, max); }
    Line& letters(std::size_t most) { return set(m_.info.limits.maxText, most); }
    Line& pattern(std::string regex) { return set(m_.info.limits.pattern, std::move(regex)); }
    Line& items(std::size_t least, std::size_t most) {
        return set(m_.info.limits.minItems, least).set(m_.info.limits.maxItems, most);
    }
    Line& id() { return set(m_.info.limits.id, true).needed(); }
    Line& needed() { return set(m_.info.needed, true).always(); }
    Line& choices(std::vector<std::string> words) { return set(m_.info.limits.choices, std::move(words)); }
    Line& shift(double by) { return set(m_.info.limits.shift, by); }
    Line& must(std::string sentence) { return set(m_.info.limits.must, std::move(sentence)); }
    Line& own() { return set(m_.info.own, true); }
    Line& setting() { return set(m_.info.setting, true); }
    Line& always() { return set(m_.always, true); }
    Line& writtenIf(std::function<bool(const T&)> f) {
        m_.written = [f = std::move(f)](const void* t) { return f(*static_cast<const T*>(t)); };
        return *this;
    }
    Line& defaultFrom(std::function<V(const T&)> f) { return set(m_.byDefault, std::move(f)); }
    // -- the form --
    Line& label(std::string text, std::string unit = "", int digits = 2) {
        if constexpr (detail::Scalar<V>)
            part().fields = [m = &m_](const T&) { return std::vector{detail::formField<T, V>(m->info, m->get())}; };
        return set(m_.info.label, std::move(text)).set(m_.info.unit, std::move(unit)).set(m_.info.digits, digits);
    }
    Line& named(std::vector<std::string> names) { return set(m_.info.choiceNames, std::move(names)); }
    Line& labelOf(std::function<std::string(const T&)> f) { return set(part().labelOf, std::move(f)); }
    Line& yesFirst() { return set(m_.info.yesFirst, true); }
    Line& typedCheck(std::function<std::optional<Error>(const std::string&)> f) {
        return set(m_.info.typedCheck, std::move(f));
    }
    Line& opposite() { return set(m_.info.inverted, true); }
    Line& formId(std::string id) { return set(m_.info.formId, std::move(id)); }
    Line& typed(double min, double max) { return set(m_.info.typedMin, min).set(m_.info.typedMax, max); }
    Line& shownTimes(double scale) { return set(m_.info.scale, scale); }
    Line& when(std::function<bool(const T&)> f) { return set(part().when, std::move(f)); }

  private:
    template <class X> Line& set(X& what, X value) {
        what = std::move(value);
        return *this;
    }
    detail::FormPart<T>& part() {
        if (part_ == type_.form_.size())
            type_.form_.emplace_back();
        return type_.form_[part_];
    }
    Type<T>& type_;
    detail::MemberOf<T, V, Get>& m_;
    std::size_t part_;
};

// The declaration of T.
template <class T> class Type : public TypeCore {
  public:
    using TypeCore::TypeCore;

    // A member of any type that has a Codec. get: a pointer to member, or a generic function from T to a reference.
    template <class Get> auto add(std::string key, Get get) {
        using V = std::remove_cvref_t<std::invoke_result_t<Get, T&>>;
        using M = detail::MemberOf<T, V, Get>;
        auto& member = keep(std::make_unique<M>(std::move(key), get));
        return Line<T, V, Get>(*this, static_cast<M&>(member));
    }
    ByHand<T>& byHand(std::string key, std::string help) {
        return static_cast<ByHand<T>&>(keep(std::make_unique<ByHand<T>>(std::move(key), std::move(help))));
    }
    // Fields of the form that no member has, at this place of it.
    void form(std::function<std::vector<project::FieldOf<T>>(const T&)> fields) {
        form_.push_back({std::move(fields)});
    }
    void extra(Extra T::*member) {
        extra_ = [member](void* t) -> Extra& { return static_cast<T*>(t)->*member; };
    }
    // What has to hold between members; also brings them in step after reading.
    template <class F> void rule(F f) {
        rules_.push_back([f](const void* t, const At& at, Reading& r) { f(*static_cast<const T*>(t), at, r); });
    }
    template <class F> void afterReading(F f) {
        after_ = [f](void* t) { f(*static_cast<T*>(t)); };
    }

    // -- what is made of it --
    void read(T& t, const Json& j, const At& at, Reading& r) const { readThing(&t, j, at, r); }
    Json write(const T& t) const { return writeThing(&t); }
    // Whether all of it could be read again. Cheap: no JSON is made, and what it shares with a value that was good
    // before (null: none) is passed over.
    void check(const T& t, const T* before, const At& at, Reading& r) const { checkThing(&t, before, at, r); }
    // As a copy of it begins: without what is its own.
    void forgetOwn(T& t) const { forgetOwnOf(&t); }
    // Members that are settings, of it and of its parts, as `from` has them.
    void takeSettings(T& to, const T& from) const { takeSettingsOf(&to, &from); }
    std::vector<project::FieldOf<T>> fields(const T& t) const {
        std::vector<project::FieldOf<T>> all;
        for (const auto& part : form_)
            if (part.fields && (!part.when || part.when(t)))
                for (auto& f : part.fields(t)) {
                    if (part.labelOf)
                        f.look.label = part.labelOf(t);
                    all.push_back(std::move(f));
                }
        return all;
    }

  private:
    template <class, class, class> friend class Line;
    std::vector<detail::FormPart<T>> form_{};
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
