// What a declaration of a type does, whatever the type: things stand behind void pointers here, so that all of it is
// compiled once. Only Type<T> (schema/schema.h) calls it; it knows what is behind them.
#pragma once
#include "schema/codec.h"
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

// One member of a thing.
class Member {
  public:
    Member(std::string key, std::string help) { info = {.key = std::move(key), .help = std::move(help)}; }
    virtual ~Member() = default;
    virtual void read(void* thing, const Json* j, const At& at, Reading& r) const = 0; // null: left out
    virtual Json write(const void* thing, bool always) const = 0;                      // null: left out
    virtual void check(const void* thing, const void* before, const At& at,
                       Reading& r) const = 0;      // before: may be null
    virtual Json schema(Definitions& d) const = 0; // null: none
    virtual void reset(void*) const {}
    virtual void takeSettings(void*, const void*) const {}

    Info info;
    bool always = false;                        // also written if it is as by default
    std::function<bool(const void*)> written{}; // the same, where it depends on the thing
};

class TypeCore {
  public:
    TypeCore(std::string name, std::string help) : name_(std::move(name)), help_(std::move(help)) {}
    const std::string& name() const { return name_; }
    const std::string& help() const { return help_; }
    Json schema(Definitions& d) const;
    // { "$ref": ... }, with the type among the definitions.
    Json reference(Definitions& d) const;
    // A word that stands there in every file, such as a format's name.
    void fixed(std::string key, Json value);

  protected:
    Member& keep(std::unique_ptr<Member> m) { return *members_.emplace_back(std::move(m)); }
    void readThing(void* thing, const Json& j, const At& at, Reading& r) const;
    Json writeThing(const void* thing) const;
    void checkThing(const void* thing, const void* before, const At& at, Reading& r) const;
    void forgetOwnOf(void* thing) const;
    void takeSettingsOf(void* to, const void* from) const;

    std::function<Extra&(void*)> extra_{};
    std::vector<std::function<void(const void*, const At&, Reading&)>> rules_{};
    std::function<void(void*)> after_{};

  private:
    bool knows(const std::string& key) const;
    void obey(const void* thing, const At& at, Reading& r) const;
    std::string name_, help_;
    std::vector<std::unique_ptr<Member>> members_{};
};

} // namespace loom::schema
