// Somebody at a surface in a browser: what the browser is told and tells, as JSON texts. Knows no socket and no clock.
//
// Told: {"is": "page", ...} whenever another page is open, {"is": "now", ...} with what has changed since: values,
// plies, what lies over the page, what asks first, what is said over all pages, and who may go on
// (docs/surfaces-line.md). Tells: ["press", finger, x, y], ["move", finger, x, y], ["release", finger], ["cancel",
// finger], ["click", control],
// ["step", control, by], ["key", control, key], ["over", key], ["choose", part], ["answer", true], ["leave"],
// ["let-be"].
//
// A browser never names a parameter: it touches what it was shown, and what that sets is the surface's business.
#pragma once
#include "pages/sketch_json.h"
#include "surface/use.h"

namespace loom::project {

class Visitor {
  public:
    static constexpr std::size_t mostFingers = 10, longestMessage = 1000; // bytes
    // pictures: by the file's name where a browser finds it.
    Visitor(Project project, const std::string& surface, SurfaceValues& values,
            std::map<std::string, std::string> pictures);
    // The surface was told anew.
    void follow(Project project, std::map<std::string, std::string> pictures);
    // Error: it is none of these, or names what is not there. ["be", role, pin] is not for the seat: roleAsked().
    Result<Done> received(const std::string& text);
    struct RoleAsked {
        std::string role, pin;
    };
    std::optional<RoleAsked> roleAsked() { return std::exchange(asksRole_, std::nullopt); }
    void be(const std::string& role) { use_.be(role); }
    const std::string& role() const { return use_.role(); }
    const SurfaceUse& use() const { return use_; }
    void obey(const SurfaceOrder& order) { use_.obey(order); }
    void passed(double seconds) { use_.passed(seconds); }
    void letGo(); // its line is lost: no finger holds anything any more
    // What is to be told now; empty: nothing has changed. One message may hold much: the first is a whole page.
    std::vector<std::string> take();

  private:
    nlohmann::json pageJson() const;
    nlohmann::json nowJson();
    SurfaceUse use_;
    std::map<std::string, std::string> pictures_;
    std::optional<RoleAsked> asksRole_{};
    std::set<int> fingers_{};
    std::string page_{"\n"}, role_{"\n"}; // as told
    std::map<std::string, Shown> shown_{};
    std::set<std::string> seen_{}, openPlies_{};
    std::optional<nlohmann::json> over_{}, ask_{};
    std::string wanted_{}, said_{};
    bool fresh_ = true;
};

} // namespace loom::project
