#include "schema/type_core.h"

namespace loom::schema {
namespace {

class Fixed final : public Member {
  public:
    Fixed(std::string key, Json value) : Member(std::move(key), "always " + value.dump()), value_(std::move(value)) {
        info.needed = true;
        always = true;
    }
    void read(void*, const Json* j, const At& at, Reading& r) const override {
        if (!j || *j != value_)
            r.fail(At(at, info.key), "must be " + value_.dump());
    }
    Json write(const void*, bool) const override { return value_; }
    void check(const void*, const void*, const At&, Reading&) const override {}
    Json schema(Definitions&) const override { return {{"const", value_}}; }

  private:
    Json value_;
};

} // namespace

void TypeCore::fixed(std::string key, Json value) {
    keep(std::make_unique<Fixed>(std::move(key), std::move(value)));
}

void TypeCore::readThing(void* thing, const Json& j, const At& at, Reading& r) const {
    if (!j.is_object())
        return r.fail(at, "must be an object");
    std::size_t known = 0;
    for (const auto& m : members_) {
        const auto it = j.find(m->info.key);
        known += it != j.end();
        m->read(thing, it != j.end() ? &*it : nullptr, at, r);
        if (r.failed())
            return;
    }
    if (extra_ && known < j.size())
        for (auto it = j.begin(); it != j.end(); ++it)
            if (!knows(it.key()))
                extra_(thing)[it.key()] = it.value().dump(-1, ' ', false, Json::error_handler_t::replace);
    if (after_)
        after_(thing);
    obey(thing, at, r);
}

Json TypeCore::writeThing(const void* thing) const {
    Json j = Json::object();
    for (const auto& m : members_) {
        Json value = m->write(thing, m->always || (m->written && m->written(thing)));
        if (!value.is_null())
            j[m->info.key] = std::move(value);
    }
    if (extra_)
        for (const auto& [key, text] : extra_(const_cast<void*>(thing)))
            if (!knows(key))
                j[key] = Json::parse(text, nullptr, false);
    return j;
}

void TypeCore::checkThing(const void* thing, const void* before, const At& at, Reading& r) const {
    for (const auto& m : members_)
        if (!r.failed())
            m->check(thing, before, at, r);
    obey(thing, at, r);
}

void TypeCore::forgetOwnOf(void* thing) const {
    for (const auto& m : members_)
        if (m->info.own)
            m->reset(thing);
}

void TypeCore::takeSettingsOf(void* to, const void* from) const {
    for (const auto& m : members_)
        m->takeSettings(to, from);
}

Json TypeCore::schema(Definitions& d) const {
    Json j{{"type", "object"}, {"description", help_}, {"properties", Json::object()}};
    for (const auto& m : members_) {
        Json value = m->schema(d);
        if (value.is_null())
            continue;
        if (!m->info.help.empty() && !value.contains("$ref"))
            value["description"] = m->info.help;
        j["properties"][m->info.key] = std::move(value);
        if (m->info.needed)
            j["required"].push_back(m->info.key);
    }
    return j;
}

Json TypeCore::reference(Definitions& d) const {
    if (!d.count(name_)) {
        d[name_] = {}; // a type may hold itself
        d[name_] = schema(d);
    }
    return {{"$ref", "#/definitions/" + name_}};
}

bool TypeCore::knows(const std::string& key) const {
    for (const auto& m : members_)
        if (m->info.key == key)
            return true;
    return false;
}

void TypeCore::obey(const void* thing, const At& at, Reading& r) const {
    if (r.limited())
        for (const auto& rule : rules_)
            if (!r.failed())
                rule(thing, at, r);
}

} // namespace loom::schema
