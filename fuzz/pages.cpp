// What browsers say: heads of requests, and messages to a page with every kind of control. Nothing but what a control
// of a page that is open sets is set, no further than it goes; a page for some is not opened without a PIN.
#include "model/describe.h"
#include "models.h"
#include "pages/http_ask.h"
#include "pages/page_host.h"
#include "schema/json_text.h"
#include "surface/pack.h"
#include <cstdlib>
#include <fstream>
#include <sstream>

using namespace loom;
using namespace loom::project;

namespace {

std::string whole(const char* path) {
    std::ifstream in(path, std::ios::binary);
    std::stringstream all;
    all << in.rdbuf();
    return all.str();
}

const Project& base() {
    static const Project made = [] {
        auto p = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        const auto table = schema::parseJson(whole(LOOM_SOURCE_DIR "/tests/surface/touch_table.json"), "table");
        auto surface = *schema::fromJson<Surface>((*table)["surface"]);
        surface.roles.push_back({"technician", "Technician"});
        SurfacePage hidden;
        hidden.id = "hidden", hidden.name = "Hidden", hidden.roles = {"technician"};
        surface.pages.push_back(hidden);
        p.surfaces.push_back(surface);
        return p;
    }();
    return made;
}

class Values : public SurfaceValues {
  public:
    std::optional<double> now(const Drive& d) override {
        const auto it = at.find(d.path);
        return it == at.end() ? designValue(base(), d) : std::optional(it->second);
    }
    void set(const Drive& d, double v) override {
        static const auto uses = pathsUsed(base(), *base().surface("table"));
        const auto it = uses.find(d.path);
        if (it == uses.end() || !it->second.sets || !(v >= it->second.low - 1e-9 && v <= it->second.high + 1e-9))
            std::abort();
        at[d.path] = v;
    }
    std::map<std::string, double> at{};
};

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    if (size == 0)
        return 0;
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    if (data[0] % 2 == 0) {
        const auto ask = readHttpAsk(text);
        if (ask && *ask) {
            const auto& a = **ask;
            if (a.bytes > text.size() || a.path.empty() || a.path[0] != '/' ||
                a.path.find("/../") != std::string::npos || a.path.find('\0') != std::string::npos ||
                a.heads.size() > mostHeads)
                std::abort();
            (void)isOwnOrigin(a.head("origin"), a.head("host"));
            // More behind it changes nothing of the head.
            const auto again = readHttpAsk(text.substr(0, a.bytes));
            if (!again || !*again || (*again)->path != a.path)
                std::abort();
        }
        return 0;
    }
    Values values;
    PageHost host(values);
    bool let = false;
    host.secret = [] { return std::string("s"); };
    host.admit = [&](const std::string&, const std::string&, const std::string& pin,
                     const std::string&) -> Result<Done> {
        let = let || pin == "4711";
        return pin == "4711" ? Result<Done>(Done{}) : Error{"that PIN is wrong", "", ""};
    };
    host.serve({{base(), "table", {}}});
    double now = 0;
    bool dropped = false;
    const int seat = host.opened({[&](const std::string& told) {
                                      if (!let && told.find("\"Hidden\"") != std::string::npos &&
                                          told.find("\"is\":\"page\"") != std::string::npos)
                                          std::abort();
                                  },
                                  [&] { dropped = true; }, "fuzz"},
                                 now);
    host.received(seat, "[\"open\", \"table\", \"\"]", now);
    std::istringstream lines(text);
    std::string line;
    for (int n = 0; n < 60 && !dropped && std::getline(lines, line); ++n) {
        host.received(seat, line, now);
        if (n % 4 == 3)
            host.tick(now += 0.05);
    }
    host.tick(now + 0.05);
    host.closed(seat, now);
    return 0;
}
