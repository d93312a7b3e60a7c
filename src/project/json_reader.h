// Reads one object of JSON field by field: bounded, with the place of what is wrong, keeping what it does not know.
#pragma once
#include "engine/result.h"
#include "project/model.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <set>

namespace loom::project {

inline constexpr std::size_t maxItems = 50000, maxTextLength = 4096;

// The first failure counts; everything read after it gives defaults.
class Reader {
  public:
    Reader(const nlohmann::json& j, std::string place) : json_(j), place_(std::move(place)) {
        if (!j.is_object())
            fail("", "must be an object");
    }

    std::string text(const char* key, bool needed = false) {
        const nlohmann::json* j = find(key, needed);
        if (!j)
            return {};
        if (!j->is_string() || j->get_ref<const std::string&>().size() > maxTextLength)
            return fail(key, "must be a text of at most 4096 letters"), std::string();
        return j->get<std::string>();
    }
    std::string id(const char* key = "id") {
        const std::string t = text(key, true);
        if (!failed() && (t.empty() || t.size() > 200 || t.find('/') != std::string::npos))
            fail(key, "must have 1 to 200 letters and no \"/\"");
        return t;
    }
    double number(const char* key, double def, double min, double max) {
        const nlohmann::json* j = find(key, false);
        if (!j)
            return def;
        if (!j->is_number() || !(j->get<double>() >= min && j->get<double>() <= max))
            return fail(key, "must be a number from " + std::to_string(min) + " to " + std::to_string(max)), def;
        return j->get<double>();
    }
    bool flag(const char* key, bool def) {
        const nlohmann::json* j = find(key, false);
        if (j && !j->is_boolean())
            fail(key, "must be true or false");
        return j && j->is_boolean() ? j->get<bool>() : def;
    }
    template <class F> void each(const char* key, F f) {
        const nlohmann::json* j = find(key, false);
        if (!j)
            return;
        if (!j->is_array() || j->size() > maxItems)
            return fail(key, "must be a list of at most 50000 items");
        for (std::size_t i = 0; i < j->size() && !failed(); ++i)
            f((*j)[i], place_ + "/" + key + "/" + std::to_string(i));
    }
    template <class F> void fields(const char* key, F f) {
        const nlohmann::json* j = find(key, false);
        if (!j)
            return;
        if (!j->is_object() || j->size() > maxItems)
            return fail(key, "must be an object");
        for (auto it = j->begin(); it != j->end() && !failed(); ++it)
            f(it.key(), it.value());
    }
    const nlohmann::json* find(const char* key, bool needed) {
        used_.insert(key);
        const auto it = json_.is_object() ? json_.find(key) : json_.end();
        if (json_.is_object() && it != json_.end())
            return &*it;
        if (needed)
            fail("", std::string("needs the field \"") + key + "\"");
        return nullptr;
    }
    Extra rest() const {
        Extra e;
        if (json_.is_object())
            for (auto it = json_.begin(); it != json_.end(); ++it)
                if (!used_.count(it.key()))
                    e[it.key()] = it.value().dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
        return e;
    }
    void fail(const std::string& key, const std::string& message) {
        if (!trouble_)
            trouble_ = Trouble{message, key.empty() ? place_ : place_ + "/" + key, ""};
    }
    void take(const Trouble& t) {
        if (!trouble_)
            trouble_ = t;
    }
    bool failed() const { return trouble_.has_value(); }
    const Trouble& trouble() const { return *trouble_; }
    const std::string& place() const { return place_; }

  private:
    const nlohmann::json& json_;
    std::string place_;
    std::set<std::string> used_;
    std::optional<Trouble> trouble_;
};

inline void addExtra(nlohmann::json& j, const Extra& extra) {
    for (const auto& [key, text] : extra)
        j[key] = nlohmann::json::parse(text, nullptr, false);
}

template <class Map> void addMap(nlohmann::json& j, const char* key, const Map& map) {
    if (!map.empty())
        j[key] = map;
}

inline void addText(nlohmann::json& j, const char* key, const std::string& text) {
    if (!text.empty())
        j[key] = text;
}

} // namespace loom::project
