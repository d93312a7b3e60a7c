// Control from outside: lines of text, JSON, HTTP requests and OSC packets as anybody may send them.
#include "access/json_seat.h"
#include "access/line_seat.h"
#include "access/osc_door.h"
#include "models.h"
#include "pages/http_ask.h"
#include <cstdlib>

using namespace loom;
using namespace loom::project;

namespace {

struct Box {
    std::map<std::string, double> values{{"box/speech.gain", -20}, {"box/cut.muted", 0}, {"wall:fold", 0}};
    AccessHost host{[this] {
        AccessHost::Owner o;
        o.now = [this](const std::string& s) {
            const auto it = values.find(s);
            return it == values.end() ? std::nullopt : std::optional(it->second);
        };
        o.set = [this](const std::string& s, double v, const std::string&) {
            if (s != "box/speech.gain" && s != "box/cut.muted")
                std::abort(); // nothing else may be set
            if (s == "box/speech.gain" && !(v >= -40 && v <= 0))
                std::abort(); // nor further than is allowed
            if (s == "box/cut.muted" && !admitted)
                std::abort(); // nor without a PIN
            values[s] = v;
            return true;
        };
        o.give = [](const std::string& m) {
            if (m != "cue:close")
                std::abort();
            return true;
        };
        o.admit = [this](const std::string&, const std::string& pin, const std::string&) -> Result<Done> {
            admitted = admitted || pin == "2468";
            return pin == "2468" ? Result<Done>(Done{}) : Error{"that PIN is wrong", "", ""};
        };
        return o;
    }()};
    bool admitted = false;
    Box() {
        Project p;
        Device d;
        d.id = d.name = "box", d.model = "heddle-16", d.models = test::models();
        d.program.emplace();
        for (const auto& [id, kind] : {std::pair("speech", "level"), {"cut", "mute"}}) {
            engine::Block b;
            b.id = id, b.kind = kind;
            d.program->blocks.push_back(b);
        }
        p.devices.push_back(d);
        Building b;
        MovableWall w;
        w.id = w.name = "fold";
        b.walls.push_back(w);
        p.buildings.push_back(b);
        Access a;
        a.id = "box";
        a.allowed = {{"level", "box/speech.gain", true},
                     {"muted", "box/cut.muted", true, "boss"},
                     {"wall", "wall:fold", true},
                     {"close", "cue:close", true}};
        a.allowed[0].low = -40, a.allowed[0].high = 0;
        host.serve(p, a);
    }
    std::vector<std::optional<double>> all() const {
        std::vector<std::optional<double>> out;
        for (const auto& i : host.items())
            out.push_back(host.now(i));
        return out;
    }
};

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size < 2)
        return 0;
    Box box;
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    switch (data[0] % 4) {
    case 0: { // lines, in two pieces
        LineSeat seat(box.host, "x");
        seat.received(std::string_view(text).substr(0, text.size() / 2), 0);
        seat.tell(box.all());
        seat.received(std::string_view(text).substr(text.size() / 2), 0.1);
        seat.tell(box.all());
        const auto out = seat.take();
        if (out.find('\0') != std::string::npos && text.find('\0') == std::string::npos)
            std::abort();
        break;
    }
    case 1: { // messages of a WebSocket, one a line
        JsonSeat seat(box.host, "x");
        std::size_t at = 0;
        while (at <= text.size()) {
            const auto end = std::min(text.find('\n', at), text.size());
            if (seat.received(text.substr(at, end - at), 0).empty())
                std::abort();
            at = end + 1;
        }
        (void)seat.tell(box.all());
        break;
    }
    case 2: // a request
        if (const auto ask = readHttpAsk(text); ask && *ask) {
            if ((*ask)->bytes > text.size() || (*ask)->body.size() > longestBody)
                std::abort();
            if ((*ask)->isApi()) {
                const auto name = (*ask)->path.size() > 5 ? (*ask)->path.substr(5) : std::string();
                const auto a =
                    answerJson(box.host, (*ask)->method, name, (*ask)->body, (*ask)->head("authorization"), "x");
                if (a.status < 200 || a.status > 599)
                    std::abort();
            }
        }
        break;
    case 3: { // packets
        OscDoor door(box.host);
        for (const auto& m : door.received(text, "x", 0))
            if (!oscBytes(m))
                std::abort();
        (void)door.tell(box.all(), 0);
        break;
    }
    }
    return 0;
}
