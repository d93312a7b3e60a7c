// A field of a thing, as forms and loomctl show it; declared once for each type of thing, with how it is read and set.
#pragma once
#include "engine/result.h"
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

// A number with its unit and range, a choice, or a text.
struct Field {
    std::string id, label, unit{}; // "m", "°", "dB", "%", ""; texts have none
    double value = 0, min = 0, max = 0;
    int digits = 2;
    std::string text{};                 // of texts and choices
    std::vector<std::string> choices{}; // ids; with choiceNames for people
    std::vector<std::string> choiceNames{};
    std::size_t letters = 200; // of a text, at most
    bool mixed = false;        // the things that are chosen differ in it
    bool number() const { return min < max; }
};

// What people typed ("3.2", "3.2 m", "−3"), within the field's range. Error: what is wrong with it.
Result<double> readNumber(const Field& field, const std::string& value);
// One of the choices, or a text that is not too long.
std::optional<Error> errorInText(const Field& field, const std::string& value);

// A field of things of type T.
template <class T> struct FieldOf {
    Field look;
    std::function<double(const T&)> number{}; // numbers
    std::function<void(T&, double)> setNumber{};
    std::function<std::string(const T&)> text{}; // texts and choices
    std::function<void(T&, const std::string&)> setText{};
    std::function<std::optional<Error>(const std::string&)> check{}; // beyond length and choices

    Field shown(const T& thing) const {
        Field f = look;
        number ? void(f.value = number(thing)) : void(f.text = text(thing));
        return f;
    }
    // Error: nothing was set.
    std::optional<Error> set(T& thing, const std::string& value) const {
        if (number) {
            const auto v = readNumber(look, value);
            if (!v)
                return v.error();
            setNumber(thing, *v);
            return {};
        }
        auto wrong = errorInText(look, value);
        if (!wrong && check)
            wrong = check(value);
        if (!wrong)
            setText(thing, value);
        return wrong;
    }
};

template <class T>
FieldOf<T> choiceField(const char* id, const char* label, std::vector<std::string> choices,
                       std::vector<std::string> names, std::function<std::string(const T&)> get,
                       std::function<void(T&, const std::string&)> set) {
    Field look{id, label};
    look.choices = std::move(choices);
    look.choiceNames = std::move(names);
    FieldOf<T> f{std::move(look)};
    f.text = std::move(get);
    f.setText = std::move(set);
    return f;
}

} // namespace loom::project
