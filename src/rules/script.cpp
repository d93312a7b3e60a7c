#include "rules/script.h"
#include "schema/json_text.h"
#include <algorithm>
#include <clocale>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <locale.h>
#include <map>
#include <set>
#include <time.h>
// The variant of Lua that is compiled as C++: its errors are exceptions, so that what functions here hold is let go.
#include <lauxlib.h>
#include <lua.h>
#include <lualib.h>

namespace loom::project {

using nlohmann::json;

namespace script_detail {

constexpr int checkEvery = 100;         // instructions; a single one may copy all of its memory
constexpr double mostPatternWork = 3e5; // comparisons, at worst
constexpr double mostPlainWork = 1e7;
constexpr int deepest = 20;           // tables in tables that are kept
constexpr double longestWait = 86400; // s

// Keys are gone through in order: the same on every machine.
constexpr const char* prelude = R"lua(
local raw_next, sort, kind, fail = next, table.sort, type, error
local rank = { number = 1, string = 2, boolean = 3 }
function pairs(t)
  if kind(t) ~= "table" then fail("pairs needs a table", 2) end
  local keys, n = {}, 0
  for k in raw_next, t do n = n + 1; keys[n] = k end
  sort(keys, function(a, b)
    local ra, rb = rank[kind(a)] or 4, rank[kind(b)] or 4
    if ra ~= rb then return ra < rb end
    if ra <= 2 then return a < b end
    if ra == 3 then return a and not b end
    return false
  end)
  local i = 0
  return function()
    i = i + 1
    if keys[i] ~= nil then return keys[i], t[keys[i]] end
  end
end
next = nil
)lua";

// Numbers are written with a point whatever language this computer speaks.
class PlainNumbers {
  public:
    PlainNumbers() : before_(uselocale(plain())) {}
    ~PlainNumbers() { uselocale(before_); }
    PlainNumbers(const PlainNumbers&) = delete;
    PlainNumbers& operator=(const PlainNumbers&) = delete;

  private:
    static locale_t plain() {
        static const locale_t l = newlocale(LC_ALL_MASK, "C", nullptr);
        return l;
    }
    locale_t before_;
};

double threadSeconds() {
    timespec t{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
    return static_cast<double>(t.tv_sec) + 1e-9 * static_cast<double>(t.tv_nsec);
}

struct Machine {
    ScriptDesk& desk;
    std::size_t used = 0;
    lua_State* lua = nullptr;
    int body = LUA_NOREF; // the compiled text
    std::string wrong{};
    long work = 0; // instructions of this go
    double begun = 0;
    bool over = false;
    std::map<int, int> waiting{}; // number -> its coroutine in the registry
    int lastNumber = 0;
    double waits = 0;

    explicit Machine(ScriptDesk& d) : desk(d) {}
    ~Machine() {
        if (lua)
            lua_close(lua);
    }
    Machine(const Machine&) = delete;
    Machine& operator=(const Machine&) = delete;

    static Machine& of(lua_State* l) { return **static_cast<Machine**>(lua_getextraspace(l)); }

    static void* allocate(void* self, void* block, std::size_t was, std::size_t size) {
        auto& m = *static_cast<Machine*>(self);
        if (!block)
            was = 0; // then it says what kind of thing is made
        if (size == 0) {
            m.used -= was;
            std::free(block);
            return nullptr;
        }
        if (m.used - was + size > ScriptBox::mostMemory)
            return nullptr;
        void* now = std::realloc(block, size);
        if (now)
            m.used += size - was;
        return now;
    }

    static void count(lua_State* l, lua_Debug*) {
        auto& m = of(l);
        m.work += checkEvery;
        if (!m.over && m.work < ScriptBox::mostWork && threadSeconds() - m.begun < ScriptBox::mostSeconds)
            return;
        m.over = true;
        lua_sethook(l, count, LUA_MASKCOUNT, 1); // whoever catches this error gets the next at once
        luaL_error(l, "it works for too long without waiting");
    }

    // Lua's own work, with its errors caught. Error: its text.
    std::string guarded(const std::function<void(lua_State*)>& f) {
        const PlainNumbers plain;
        const int top = lua_gettop(lua);
        lua_pushcfunction(lua, [](lua_State* l) {
            (*static_cast<const std::function<void(lua_State*)>*>(lua_touserdata(l, 1)))(l);
            return 0;
        });
        lua_pushlightuserdata(lua, const_cast<void*>(static_cast<const void*>(&f)));
        std::string error;
        if (lua_pcall(lua, 1, 0, 0) != LUA_OK)
            error = textOf(lua, -1);
        lua_settop(lua, top);
        return error;
    }
    // "script:3: no" -> "line 3: no"
    static std::string textOf(lua_State* l, int at) {
        std::size_t n = 0;
        const char* t = lua_type(l, at) == LUA_TSTRING ? lua_tolstring(l, at, &n) : nullptr;
        std::string text =
            t ? std::string(t, std::min<std::size_t>(n, 300)) : "it ended with an error that has no words";
        if (text.rfind("script:", 0) == 0)
            text = "line " + text.substr(7);
        return text;
    }
    void begin(lua_State* l) {
        work = 0, over = false, begun = threadSeconds();
        lua_sethook(l, count, LUA_MASKCOUNT, checkEvery);
    }
};

std::string argument(lua_State* l, int i) {
    std::size_t n = 0;
    const char* t = luaL_checklstring(l, i, &n);
    return {t, std::min<std::size_t>(n, 2000)};
}

int refuse(lua_State* l, const Error& e) {
    const auto text = e.remedy.empty() ? e.message : e.message + ". " + e.remedy;
    lua_pushlstring(l, text.data(), text.size());
    luaL_where(l, 1);
    lua_insert(l, -2);
    lua_concat(l, 2);
    return lua_error(l);
}

int getFn(lua_State* l) {
    if (const auto v = Machine::of(l).desk.scriptGet(argument(l, 1)))
        lua_pushnumber(l, *v);
    else
        lua_pushnil(l);
    return 1;
}

int textFn(lua_State* l) {
    const auto t = Machine::of(l).desk.scriptGetText(argument(l, 1));
    if (t.empty())
        lua_pushnil(l);
    else
        lua_pushlstring(l, t.data(), t.size());
    return 1;
}

int setFn(lua_State* l) {
    const auto path = argument(l, 1);
    std::variant<double, std::string> what = 1.0;
    if (lua_type(l, 2) == LUA_TSTRING)
        what = argument(l, 2);
    else if (lua_isboolean(l, 2))
        what = lua_toboolean(l, 2) ? 1.0 : 0.0;
    else if (!lua_isnoneornil(l, 2))
        what = static_cast<double>(luaL_checknumber(l, 2));
    if (const auto e = Machine::of(l).desk.scriptSet(path, what, luaL_optnumber(l, 3, 0)))
        return refuse(l, *e);
    return 0;
}

int actFn(lua_State* l) {
    if (const auto e = Machine::of(l).desk.scriptDo(argument(l, 1)))
        return refuse(l, *e);
    return 0;
}

int noteFn(lua_State* l) {
    if (const auto e = Machine::of(l).desk.scriptDo("note " + argument(l, 1).substr(0, 400)))
        return refuse(l, *e);
    return 0;
}

int nowFn(lua_State* l) {
    const auto m = Machine::of(l).desk.scriptNow();
    lua_createtable(l, 0, 8);
    for (const auto& [key, v] : {std::pair("year", m.year),
                                 {"month", m.month},
                                 {"day", m.day},
                                 {"hour", m.hour},
                                 {"minute", m.minute},
                                 {"second", m.second},
                                 {"weekday", m.weekday}}) {
        lua_pushinteger(l, v);
        lua_setfield(l, -2, key);
    }
    lua_pushnumber(l, m.seconds);
    lua_setfield(l, -2, "seconds");
    return 1;
}

int waitFn(lua_State* l) {
    const double seconds = luaL_checknumber(l, 1);
    luaL_argcheck(l, seconds >= 0 && seconds <= longestWait, 1, "0 to 86400 seconds");
    luaL_argcheck(l, lua_isyieldable(l), 1, "it cannot wait in here");
    Machine::of(l).waits = seconds;
    return lua_yield(l, 0);
}

// How many comparisons a pattern takes at worst on so many letters: each part that may be as long as it likes tries all
// the lengths that the others left.
double patternWork(const std::string& pattern, std::size_t letters) {
    int open = 1; // where it begins
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        if (pattern[i] == '%')
            ++i;
        else if (std::string_view("*+-?").find(pattern[i]) != std::string_view::npos)
            ++open;
    }
    double work = 1;
    for (int i = 1; i <= open; ++i)
        work *= (static_cast<double>(letters) + i) / i;
    return work;
}

// string.find, match, gmatch and gsub, where they cannot take for ever.
int patternFn(lua_State* l) {
    std::size_t letters = 0, n = 0;
    (void)luaL_checklstring(l, 1, &letters);
    const char* p = luaL_checklstring(l, 2, &n);
    const bool plain = lua_toboolean(l, lua_upvalueindex(2)) && lua_toboolean(l, 4);
    const double work = plain ? static_cast<double>(letters) * static_cast<double>(n)
                              : patternWork({p, n}, letters) * (1 + static_cast<double>(n) / 100);
    if (work > (plain ? mostPlainWork : mostPatternWork))
        return luaL_error(l, "this pattern could take too long on %d letters", static_cast<int>(letters));
    lua_pushvalue(l, lua_upvalueindex(1));
    lua_insert(l, 1);
    lua_call(l, lua_gettop(l) - 1, LUA_MULTRET);
    return lua_gettop(l);
}

void openAll(lua_State* l) {
    for (const auto& [name, open] : {std::pair<const char*, lua_CFunction>("_G", luaopen_base),
                                     {"string", luaopen_string},
                                     {"table", luaopen_table},
                                     {"math", luaopen_math}}) {
        luaL_requiref(l, name, open, 1);
        lua_pop(l, 1);
    }
    for (const char* name : {"collectgarbage", "dofile", "getmetatable", "load", "loadfile", "print", "rawequal",
                             "rawget", "rawlen", "rawset", "require", "setmetatable", "warn", "xpcall", "_G"}) {
        lua_pushnil(l);
        lua_setglobal(l, name);
    }
    for (const auto& [table, names] :
         {std::pair<const char*, std::vector<const char*>>("string", {"dump", "pack", "packsize", "unpack"}),
          {"table", {"move", "pack", "unpack"}},
          {"math", {"random", "randomseed"}}}) {
        lua_getglobal(l, table);
        for (const char* name : names) {
            lua_pushnil(l);
            lua_setfield(l, -2, name);
        }
        lua_pop(l, 1);
    }
    lua_getglobal(l, "string");
    for (const char* name : {"find", "match", "gmatch", "gsub"}) {
        lua_getfield(l, -1, name);
        lua_pushboolean(l, std::string_view(name) == "find");
        lua_pushcclosure(l, patternFn, 2);
        lua_setfield(l, -2, name);
    }
    lua_pop(l, 1);
    for (const auto& [name, f] : {std::pair<const char*, lua_CFunction>("get", getFn),
                                  {"text", textFn},
                                  {"set", setFn},
                                  {"act", actFn},
                                  {"note", noteFn},
                                  {"now", nowFn},
                                  {"wait", waitFn}}) {
        lua_pushcfunction(l, f);
        lua_setglobal(l, name);
    }
    lua_newtable(l);
    lua_setglobal(l, "keep");
    if (luaL_loadstring(l, prelude) != LUA_OK)
        lua_error(l);
    lua_call(l, 0, 0);
}

std::unique_ptr<Machine> machineFor(ScriptDesk& desk, const std::string& text) {
    auto m = std::make_unique<Machine>(desk);
    m->lua = lua_newstate(Machine::allocate, m.get());
    if (!m->lua) {
        m->wrong = "there is no memory for it";
        return m;
    }
    *static_cast<Machine**>(lua_getextraspace(m->lua)) = m.get();
    m->wrong = m->guarded(openAll);
    if (m->wrong.empty())
        m->wrong = m->guarded([&](lua_State* l) {
            if (luaL_loadbufferx(l, text.data(), text.size(), "=script", "t") != LUA_OK)
                lua_error(l);
            m->body = luaL_ref(l, LUA_REGISTRYINDEX);
        });
    return m;
}

// ---- what is kept ----

json jsonOf(lua_State* l, int at, int depth) {
    switch (lua_type(l, at)) {
    case LUA_TBOOLEAN:
        return lua_toboolean(l, at) != 0;
    case LUA_TNUMBER:
        if (lua_isinteger(l, at))
            return static_cast<std::int64_t>(lua_tointeger(l, at));
        return std::isfinite(lua_tonumber(l, at)) ? json(lua_tonumber(l, at)) : json();
    case LUA_TSTRING: {
        std::size_t n = 0;
        const char* t = lua_tolstring(l, at, &n);
        return std::string(t, n);
    }
    case LUA_TTABLE: {
        if (depth >= deepest)
            luaL_error(l, "keep is too deep");
        luaL_checkstack(l, 4, "keep is too deep");
        const int table = lua_absindex(l, at);
        // As pairs, so that numbers stay numbers: [[key, value], ...]
        json all = json::array();
        for (lua_pushnil(l); lua_next(l, table) != 0; lua_pop(l, 1)) {
            const int kind = lua_type(l, -2);
            if (kind != LUA_TNUMBER && kind != LUA_TSTRING && kind != LUA_TBOOLEAN)
                continue;
            auto value = jsonOf(l, -1, depth + 1);
            if (!value.is_null())
                all.push_back({jsonOf(l, -2, depth + 1), std::move(value)});
        }
        std::sort(all.begin(), all.end());
        return all;
    }
    default:
        return {};
    }
}

void pushJson(lua_State* l, const json& j, int depth) {
    luaL_checkstack(l, 6, "keep is too deep");
    if (j.is_boolean()) {
        lua_pushboolean(l, j.get<bool>());
    } else if (j.is_number_integer()) {
        lua_pushinteger(l, j.get<std::int64_t>());
    } else if (j.is_number()) {
        lua_pushnumber(l, j.get<double>());
    } else if (j.is_string()) {
        const auto& t = j.get_ref<const std::string&>();
        lua_pushlstring(l, t.data(), t.size());
    } else {
        lua_newtable(l);
        if (!j.is_array() || depth >= deepest)
            return;
        for (const auto& one : j) {
            if (!one.is_array() || one.size() != 2 || one[0].is_array() || one[0].is_null() || one[0].is_object() ||
                (one[0].is_number_float() && !std::isfinite(one[0].get<double>())))
                continue;
            pushJson(l, one[0], depth + 1);
            pushJson(l, one[1], depth + 1);
            lua_rawset(l, -3);
        }
    }
}

} // namespace script_detail

using namespace script_detail;

struct ScriptBox::State {
    std::unique_ptr<Machine> machine;
};

ScriptBox::ScriptBox(const std::string& text, ScriptDesk& desk) : state_(std::make_unique<State>()) {
    state_->machine = machineFor(desk, text);
}

ScriptBox::~ScriptBox() = default;

const std::string& ScriptBox::wrong() const {
    return state_->machine->wrong;
}

ScriptOutcome ScriptBox::run(int& number) {
    auto& m = *state_->machine;
    ScriptOutcome out;
    const auto failed = [&](std::string why) {
        out.kind = ScriptOutcome::Kind::failed, out.error = std::move(why);
        return out;
    };
    number = 0;
    if (!m.wrong.empty())
        return failed(m.wrong);
    if (m.waiting.size() >= static_cast<std::size_t>(mostRunning))
        return failed("it waits 32 times already");
    int co = LUA_NOREF;
    const auto error = m.guarded([&](lua_State* l) {
        auto* thread = lua_newthread(l);
        lua_rawgeti(l, LUA_REGISTRYINDEX, m.body);
        lua_xmove(l, thread, 1);
        co = luaL_ref(l, LUA_REGISTRYINDEX);
    });
    if (!error.empty())
        return failed(error);
    number = ++m.lastNumber;
    m.waiting[number] = co;
    return resume(number);
}

ScriptOutcome ScriptBox::resume(int number) {
    auto& m = *state_->machine;
    ScriptOutcome out;
    const auto it = m.waiting.find(number);
    if (it == m.waiting.end()) {
        out.kind = ScriptOutcome::Kind::failed, out.error = "it does not wait any more";
        return out;
    }
    const PlainNumbers plain;
    lua_rawgeti(m.lua, LUA_REGISTRYINDEX, it->second);
    auto* thread = lua_tothread(m.lua, -1);
    lua_pop(m.lua, 1); // the registry holds it
    m.begin(thread);
    int results = 0;
    const int how = lua_resume(thread, m.lua, 0, &results);
    lua_sethook(thread, nullptr, 0, 0);
    if (how == LUA_YIELD) {
        lua_pop(thread, results);
        out.kind = ScriptOutcome::Kind::waits;
        out.seconds = m.waits;
        return out;
    }
    if (how != LUA_OK) {
        out.kind = ScriptOutcome::Kind::failed;
        out.error = how == LUA_ERRMEM ? "it needs more than 2 MB of memory" : Machine::textOf(thread, -1);
    }
    drop(number);
    return out;
}

void ScriptBox::drop(int number) {
    auto& m = *state_->machine;
    const auto it = m.waiting.find(number);
    if (it == m.waiting.end())
        return;
    luaL_unref(m.lua, LUA_REGISTRYINDEX, it->second);
    m.waiting.erase(it);
}

std::string ScriptBox::kept() {
    auto& m = *state_->machine;
    std::string text;
    if (m.wrong.empty()) {
        const auto error = m.guarded([&](lua_State* l) {
            lua_getglobal(l, "keep");
            if (lua_istable(l, -1))
                text = jsonOf(l, -1, 0).dump(-1, ' ', false, json::error_handler_t::replace);
        });
        if (!error.empty() || text.size() > mostKept)
            text.clear();
    }
    return text;
}

void ScriptBox::restore(const std::string& text) {
    auto& m = *state_->machine;
    if (!m.wrong.empty() || text.empty() || text.size() > mostKept)
        return;
    const auto j = schema::parseJson(text, "");
    if (!j || !j->is_array())
        return;
    (void)m.guarded([&](lua_State* l) {
        pushJson(l, *j, 0);
        lua_setglobal(l, "keep");
    });
}

std::string scriptError(const std::string& text) {
    struct Nobody final : ScriptDesk {
        std::optional<double> scriptGet(const std::string&) override { return {}; }
        std::string scriptGetText(const std::string&) override { return {}; }
        std::optional<Error> scriptSet(const std::string&, const std::variant<double, std::string>&, double) override {
            return {};
        }
        std::optional<Error> scriptDo(const std::string&) override { return {}; }
        ScriptMoment scriptNow() override { return {}; }
    } nobody;
    return ScriptBox(text, nobody).wrong();
}

std::vector<std::string> quotedIn(const std::string& text) {
    std::set<std::string> all;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] != '"' && text[i] != '\'')
            continue;
        const auto end = text.find(text[i], i + 1);
        if (end == std::string::npos)
            break;
        if (end - i > 1 && end - i < 300)
            all.insert(text.substr(i + 1, end - i - 1));
        i = end;
    }
    return {all.begin(), all.end()};
}

} // namespace loom::project
