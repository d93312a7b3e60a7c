// Surfaces for browsers: what is told and taken, who may be whom, what is refused; heads of HTTP requests.
#include "models.h"
#include "pages/http_ask.h"
#include "pages/page_host.h"
#include "schema/json_text.h"
#include "surface/surface_edit.h"
#include "test.h"

using namespace loom;
using namespace loom::project;
using nlohmann::json;

namespace {

class Values : public SurfaceValues {
  public:
    std::optional<double> now(const Drive& d) override {
        const auto it = at.find(d.path);
        return it == at.end() ? (d.kind == Drive::Kind::reading ? std::nullopt : std::optional(0.0))
                              : std::optional(it->second);
    }
    void set(const Drive& d, double v) override { at[d.path] = v; }
    std::map<std::string, double> at;
};

// A browser that keeps what it was told.
struct Browser {
    std::vector<json> told;
    bool dropped = false;
    PageHost::Carrier carrier(const std::string& source = "10.0.0.7") {
        return {[this](const std::string& text) { told.push_back(json::parse(text)); }, [this] { dropped = true; },
                source};
    }
    const json* last(const char* is) const {
        for (auto it = told.rbegin(); it != told.rend(); ++it)
            if ((*it)["is"] == is)
                return &*it;
        return nullptr;
    }
};

constexpr const char* canopy = "heddle/council-canopy.level.gain";

} // namespace

class TestPages : public QObject {
    Q_OBJECT
    Project demo_;
    Values values_;
    int secrets_ = 0;
    std::unique_ptr<PageHost> host() {
        auto h = std::make_unique<PageHost>(values_);
        h->secret = [this] { return "secret-" + std::to_string(++secrets_); };
        h->admit = [](const std::string&, const std::string&, const std::string& pin,
                      const std::string&) -> Result<Done> {
            return pin == "4711" ? Result<Done>(Done{}) : Error{"that PIN is wrong", "", ""};
        };
        std::vector<PageHost::Served> all;
        for (const char* id : {"council-slate", "tern-slate"})
            all.push_back({demo_, id, {{"council-hall.svg", "/picture/1"}}});
        h->serve(all);
        return h;
    }

  private slots:
    void initTestCase() { demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point"); }
    void init() {
        values_.at.clear();
        secrets_ = 0;
    }
    void aPageIsToldOnceAndThenWhatChanges() {
        auto h = host();
        Browser b;
        const int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"open\", \"council-slate\", \"\"]", 0);
        const auto* page = b.last("page");
        QVERIFY(page && (*page)["page"]["name"] == "Meeting" && (*page)["surface"]["width"] == 1280);
        std::set<std::string> ids;
        for (const auto& ply : (*page)["plies"])
            for (const auto& c : ply["controls"]) {
                ids.insert(c["id"]);
                QVERIFY(!c["name"].get<std::string>().empty() && !c["role"].get<std::string>().empty());
                QVERIFY(!c["sketch"]["marks"].empty());
                QVERIFY(!c.contains("param")); // nobody is told what stands behind it
            }
        QCOMPARE(ids.size(), [&] {
            std::size_t n = 0;
            for (const auto& ply : demo_.surface("council-slate")->page("meeting")->plies)
                n += ply.controls.size();
            return n;
        }());
        QVERIFY((*page)["pictures"]["council-hall.svg"] == "/picture/1");
        const auto* now = b.last("now");
        QVERIFY(now && (*now)["controls"].contains("council-canopy-level-level") && (*now)["open"].size() == 1);
        b.told.clear();
        h->tick(0.03);
        QVERIFY(!b.last("now") && !b.last("page")); // nothing has changed
        values_.at[canopy] = -20;
        h->tick(0.06);
        now = b.last("now");
        QVERIFY(now && (*now)["controls"].size() <= 3); // with the scenes that it is part of
        QCOMPARE((*now)["controls"]["council-canopy-level-level"]["text"].get<std::string>(),
                 std::string("\u221220 dB"));
        // What changes is told in few bytes.
        QVERIFY(dumped(*b.last("now")).size() < 300);
    }
    void fingersSetWhatTheyTouch() {
        auto h = host();
        Browser b, other;
        const int one = h->opened(b.carrier(), 0), two = h->opened(other.carrier(), 0);
        for (const int seat : {one, two})
            h->received(seat, "[\"open\",\"council-slate\",\"\"]", 0);
        h->received(one, "[\"press\",0,688,519]", 0.1); // the lower end of the hall's fader
        QCOMPARE(values_.at.at(canopy), -40.0);
        h->received(one, "[\"move\",0,688,0]", 0.1);
        QCOMPARE(values_.at.at(canopy), 6.0);           // the control's own range, not the parameter's
        h->received(two, "[\"press\",0,688,519]", 0.1); // two people on one fader: who moves last is right
        QCOMPARE(values_.at.at(canopy), -40.0);
        h->tick(0.2);
        QCOMPARE((*other.last("now"))["controls"]["council-canopy-level-level"]["text"].get<std::string>(),
                 std::string("\u221240 dB"));
        h->received(one, "[\"release\",0]", 0.3);
        h->closed(two, 0.3); // and its finger is gone with it
        QCOMPARE(h->seats(), std::size_t(1));
        // By name, only what is on the page and on a ply that is open.
        h->received(one, "[\"click\",\"far-end-send-mute-muted\"]", 0.4);
        QCOMPARE(values_.at.at("heddle/far-send.mute.muted"), 1.0);
        h->received(one, "[\"step\",\"hearing-loop-level-level\",3]", 0.4); // in the drawer
        QVERIFY(!values_.at.count("heddle/loop.level.gain"));
        h->received(one, "[\"click\",\"chair-preamp-mute\"]", 0.4); // on the technician's page
        QVERIFY(!values_.at.count("heddle/chair.preamp.mute"));
        QVERIFY(b.last("error"));
    }
    void whatAsksFirstAndWhatLiesOver() {
        auto h = host();
        Browser b;
        const int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"open\",\"council-slate\",\"\"]", 0);
        h->received(seat, "[\"click\",\"film-2\"]", 0);
        h->tick(0.1);
        QVERIFY((*b.last("now"))["ask"] == "Film, and mute");
        h->received(seat, "[\"answer\",false]", 0.1);
        h->tick(0.2);
        QVERIFY((*b.last("now"))["ask"].is_null() && !values_.at.count("heddle/far-send.mute.muted"));
        h->received(seat, "[\"click\",\"film-2\"]", 0.2);
        h->received(seat, "[\"answer\",true]", 0.2);
        QCOMPARE(values_.at.at("heddle/far-send.mute.muted"), 1.0);
        h->received(seat, "[\"click\",\"button-2\"]", 0.3); // the drawer
        h->tick(0.4);
        QVERIFY((*b.last("now"))["open"].size() == 2);
        h->received(seat, "[\"click\",\"far-end-level-level\"]", 0.5);
        h->tick(0.6);
        QVERIFY((*b.last("now"))["over"]["typed"] == true);
        for (const char* key : {"-", "9", "enter"})
            h->received(seat, std::string("[\"over\",\"") + key + "\"]", 0.6);
        QCOMPARE(values_.at.at("heddle/far-end.level.gain"), -9.0);
        h->tick(0.7);
        QVERIFY((*b.last("now"))["over"].is_null());
    }
    void whoMayOpenWhat() {
        auto h = host();
        Browser b;
        int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"open\",\"council-slate\",\"\"]", 0);
        h->received(seat, "[\"click\",\"button-4\"]", 0);
        h->tick(0.1);
        QVERIFY((*b.last("now"))["wanted"]["page"] == "Sound" &&
                (*b.last("now"))["wanted"]["roles"][0] == "technician");
        h->received(seat, "[\"be\",\"technician\",\"1234\"]", 0.2);
        QVERIFY(b.last("refused") && (*b.last("page"))["page"]["name"] == "Meeting");
        h->received(seat, "[\"be\",\"nobody\",\"4711\"]", 0.2);
        QVERIFY((*b.last("refused"))["why"] != "that PIN is wrong");
        h->received(seat, "[\"be\",\"technician\",\"4711\"]", 0.2);
        QCOMPARE((*b.last("page"))["page"]["name"].get<std::string>(), std::string("Sound"));
        const auto first = (*b.last("session"))["session"].get<std::string>();
        // The line is lost: who comes back with the session is who they were, once, on this surface, for a while.
        h->closed(seat, 1);
        Browser back;
        seat = h->opened(back.carrier(), 2);
        h->received(seat, "[\"open\",\"council-slate\",\"" + first + "\"]", 2);
        QCOMPARE((*back.last("page"))["role"].get<std::string>(), std::string("technician"));
        const auto second = (*back.last("session"))["session"].get<std::string>();
        QVERIFY(first != second);
        Browser thief;
        const int other = h->opened(thief.carrier(), 3);
        h->received(other, "[\"open\",\"council-slate\",\"" + first + "\"]", 3);
        QVERIFY((*thief.last("page"))["role"] == "");
        Browser live; // nor while its own browser still has it
        h->received(h->opened(live.carrier(), 3), "[\"open\",\"council-slate\",\"" + second + "\"]", 3);
        QVERIFY((*live.last("page"))["role"] == "");
        h->closed(seat, 10);
        h->tick(10 + PageHost::sessionSeconds + 1);
        Browser late;
        h->received(h->opened(late.carrier(), 700), "[\"open\",\"council-slate\",\"" + second + "\"]", 700);
        QVERIFY((*late.last("page"))["role"] == "");
    }
    void whoLeavesIsNobody() {
        auto h = host();
        Browser b;
        const int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"open\",\"council-slate\",\"\"]", 0);
        h->received(seat, "[\"be\",\"technician\",\"4711\"]", 0);
        h->received(seat, "[\"leave\"]", 0);
        h->tick(0.1);
        QVERIFY((*b.last("page"))["role"] == "" && (*b.last("session"))["session"] == "");
        // Three minutes of nobody: back at the start.
        h->received(seat, "[\"be\",\"technician\",\"4711\"]", 0.2);
        for (int i = 0; i < 100; ++i)
            h->tick(0.3 + i * 2);
        QVERIFY((*b.last("page"))["role"] == "" && (*b.last("session"))["session"] == "");
        QVERIFY(b.last("beat"));
    }
    void theDesignChangesMeanwhile() {
        auto h = host();
        Browser b;
        const int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"open\",\"council-slate\",\"\"]", 0);
        auto p = demo_;
        p.surface("council-slate")->pages.change(1).name = "Council";
        b.told.clear();
        h->serve({{p, "council-slate", {}}});
        h->tick(0.1);
        QVERIFY(b.last("page"));
        h->serve({});
        QVERIFY(b.last("gone"));
        h->received(seat, "[\"open\",\"\",\"\"]", 0.2);
        QVERIFY((*b.last("surfaces"))["surfaces"].empty());
    }
    void severalAreListed() {
        auto h = host();
        Browser b;
        const int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"press\",0,1,1]", 0); // before anything is open
        QVERIFY(b.last("error"));
        h->received(seat, "[\"open\",\"\",\"\"]", 0);
        QVERIFY((*b.last("surfaces"))["surfaces"].size() == 2);
        h->received(seat, "[\"open\",\"tern-slate\",\"\"]", 0);
        QVERIFY((*b.last("page"))["surface"]["id"] == "tern-slate");
    }
    void hostileMessages() {
        auto h = host();
        Browser b;
        const int seat = h->opened(b.carrier(), 0);
        h->received(seat, "[\"open\",\"council-slate\",\"\"]", 0);
        const auto before = values_.at;
        double now = 1;
        for (const char* text : {"",
                                 "[",
                                 "{}",
                                 "[]",
                                 "[1]",
                                 "[\"press\"]",
                                 "[\"press\",0.5,1,1]",
                                 "[\"press\",0,1e300,1]",
                                 "[\"press\",0,null,1]",
                                 "[\"press\",\"0\",1,1]",
                                 "[\"move\",7,1,1]",
                                 "[\"release\",7]",
                                 "[\"cancel\",7]",
                                 "[\"click\"]",
                                 "[\"click\",7]",
                                 "[\"click\",\"nobody\"]",
                                 "[\"step\",\"council-canopy-level-level\",1e9]",
                                 "[\"key\",\"dial\",\"123456789\"]",
                                 "[\"over\",3]",
                                 "[\"choose\",-1]",
                                 "[\"choose\",0.5]",
                                 "[\"answer\",1]",
                                 "[\"be\"]",
                                 "[\"be\",\"technician\"]",
                                 "[\"be\",\"technician\",\"1234567890123\"]",
                                 "[\"set\",\"heddle/chair.preamp.gain\",66]",
                                 "[[[[[[[[[[",
                                 "\xff\xfe",
                                 "[\"open\",\"council-slate\",\"\"]"}) {
            h->received(seat, text, now);
            now += 0.1;
        }
        QVERIFY(!b.dropped && values_.at == before);
        for (int f = 0; f < 20; ++f)
            h->received(seat, "[\"press\"," + std::to_string(f) + ",5,5]", now);
        QVERIFY(b.last("error") && !b.dropped);
        // A flood, and what is too long, end the line.
        for (int i = 0; i < 500; ++i)
            h->received(seat, "[\"release\",1]", now);
        QVERIFY(b.dropped && h->seats() == 0);
        Browser c;
        h->received(h->opened(c.carrier(), 2), std::string(5000, 'x'), 2);
        QVERIFY(c.dropped);
        std::vector<Browser> many(PageHost::mostSeats + 3);
        for (auto& one : many)
            h->opened(one.carrier(), 3);
        QVERIFY(h->seats() == PageHost::mostSeats && many.back().dropped && !many.front().dropped);
        h->closeAll();
        QCOMPARE(h->seats(), std::size_t(0));
    }
    void headsOfRequests() {
        const auto ask =
            readHttpAsk("GET /s/council%20slate?x=1 HTTP/1.1\r\nHost: 10.0.0.7:4780\r\nAccept: */*\r\n\r\nrest");
        QVERIFY(ask && *ask && (*ask)->path == "/s/council slate" && (*ask)->query == "x=1" &&
                (*ask)->head("host") == "10.0.0.7:4780");
        QVERIFY(!(*ask)->upgrades() &&
                (*ask)->bytes ==
                    std::string("GET /s/council%20slate?x=1 HTTP/1.1\r\nHost: 10.0.0.7:4780\r\nAccept: */*\r\n\r\n")
                        .size());
        const auto socket =
            readHttpAsk("GET /ws HTTP/1.1\r\nConnection: keep-alive, Upgrade\r\nUpgrade: WebSocket\r\n\r\n");
        QVERIFY(socket && *socket && (*socket)->upgrades());
        QVERIFY(readHttpAsk("GET / HTTP/1.1\r\nHost: x\r\n") &&
                !*readHttpAsk("GET / HTTP/1.1\r\nHost: x\r\n")); // not all yet
        for (const auto& [text, status] : {std::pair<std::string, const char*>("POST / HTTP/1.1\r\n\r\n", "405"),
                                           {"GET / HTTP/2\r\n\r\n", "400"},
                                           {"GET\r\n\r\n", "400"},
                                           {"GET http://x/ HTTP/1.1\r\n\r\n", "400"},
                                           {"GET /../etc HTTP/1.1\r\n\r\n", "400"},
                                           {"GET /%2e%2e/etc HTTP/1.1\r\n\r\n", "400"},
                                           {"GET /%0a HTTP/1.1\r\n\r\n", "400"},
                                           {"GET /%zz HTTP/1.1\r\n\r\n", "400"},
                                           {"GET / HTTP/1.1\r\nno colon\r\n\r\n", "400"},
                                           {"GET / HTTP/1.1\r\nHost: a\r\nHost: b\r\n\r\n", "400"},
                                           {"GET / HTTP/1.1\r\nContent-Length: 5\r\n\r\nabcde", "413"},
                                           {"GET / HTTP/1.1\r\nTransfer-Encoding: chunked\r\n\r\n", "413"},
                                           {"\r\n\r\n", "400"},
                                           {"GET / HTTP/1.1\r\nX: " + std::string(9000, 'a') + "\r\n\r\n", "431"},
                                           {std::string(9000, 'G'), "431"}}) {
            const auto wrong = readHttpAsk(text);
            QVERIFY2(!wrong, text.substr(0, 60).c_str());
            QCOMPARE(wrong.error().place, std::string(status));
        }
        QVERIFY(isOwnOrigin("", "10.0.0.7:4780") && isOwnOrigin("http://10.0.0.7:4780", "10.0.0.7:4780"));
        QVERIFY(isOwnOrigin("https://Council.local", "council.local") &&
                isOwnOrigin("http://[::1]:4780", "[::1]:4780"));
        QVERIFY(!isOwnOrigin("http://elsewhere.example", "10.0.0.7:4780") && !isOwnOrigin("null", "10.0.0.7") &&
                !isOwnOrigin("http://10.0.0.7", "10.0.0.7:4780") && !isOwnOrigin("ftp://10.0.0.7", "10.0.0.7"));
        QVERIFY(
            !isOwnOrigin("http://turned.example:4780", "turned.example:4780")); // a name that was made to point here
        const auto text = httpText({200, "text/plain", "abc", {{"X-Own", "1"}}}, true);
        QVERIFY(text.rfind("HTTP/1.1 200 OK\r\n", 0) == 0 && text.find("Content-Length: 3\r\n") != std::string::npos &&
                text.find("default-src 'none'") != std::string::npos && text.substr(text.size() - 7) == "\r\n\r\nabc");
        QVERIFY(httpText({404, "text/plain", "abc", {}}, false).find("abc") == std::string::npos);
    }
};

LOOM_TEST(tst_pages, TestPages)
#include "tst_pages.moc"
