// Somebody at a surface: which page is open, what is seen of it, and what fingers do. The same in the window and on
// devices.
#pragma once
#include "rules/condition.h"
#include "surface/control_kind.h"
#include <deque>
#include <unordered_map>

namespace loom::project {

// Where values come from and go to: a bench, devices, or a rehearsal.
class SurfaceValues {
  public:
    virtual ~SurfaceValues() = default;
    virtual std::optional<double> now(const Drive& drive) = 0; // none: not known
    virtual void set(const Drive& drive, double value) = 0;
    // A scene or a cue. False: nobody is there who takes it.
    virtual bool give(const Drive&) { return false; }
    // A telephone line: how it is ("in a call", "rings here"; "": not known), and what is done with it: dial, answer,
    // hang-up, keys.
    virtual std::string line(const Drive&) { return {}; }
    virtual void call(const Drive&, const std::string& /*does*/, const std::string& /*number*/) {}
    virtual std::string time(); // of day: "14:05"
};

// Of a telephone line: whether "hang up" is what its key does.
bool isBusy(const std::string& line);

struct PageBox {
    double x = 0, y = 0, width = 0, height = 0;
    bool has(double px, double py) const { return px >= x && py >= y && px <= x + width && py <= y + height; }
};
// Where a drawer lies when it is open.
PageBox drawerBox(const Surface& surface, const Ply& ply);

// What rules do at a surface, whoever sits there.
struct SurfaceOrder {
    enum class Does { page, open, close, say } does{};
    std::string what{};  // a page; "PAGE/PLY"; words
    double seconds = 10; // that the words stay
};

class SurfaceUse {
  public:
    // The project is shared and kept; values must outlive this.
    SurfaceUse(Project project, std::string surface, SurfaceValues& values);
    // The design has changed: what is open stays open as far as it is still there.
    void follow(Project project);
    const Project& project() const { return project_; }
    const Surface* surface() const { return project_.surface(surface_); }
    const SurfacePage* page() const;    // null: the surface has none
    bool open(const std::string& page); // false: there is no such, or who is here may not
    bool mayOpen(const SurfacePage& page) const;
    // Who is here: a role's id; "": anyone.
    void be(const std::string& role);
    const std::string& role() const { return role_; }
    // A page that was pressed for and that who is here may not open; until somebody who may is here, or it is let be.
    const std::string& wanted() const { return wanted_; }
    void letBe() { wanted_.clear(); }
    bool isOpen(const Ply& ply) const;
    void turnPly(const std::string& ply);
    // A page that who is here may not open stays closed; a ply of another page than the one that is seen stays.
    void obey(const SurfaceOrder& order);
    const std::string& said() const { return said_; } // words that lie over whatever page is seen; "": none

    using Shown = project::Shown;
    Shown shown(const Control& control) const;
    bool seen(const Control& control) const;
    // The foremost control that a finger there would reach; null: none.
    const Control* at(double x, double y) const;

    // Fingers by number, places on the page. What asks first is told by asked() and done by answer().
    void press(int finger, double x, double y);
    void move(int finger, double x, double y);
    void release(int finger);
    void cancel(int finger); // it was taken away: buttons do nothing
    // By keys, on one control: one step up or down; a press; a letter typed on it ("7", "enter", "back").
    void step(const Control& control, int by);
    void click(const Control& control);
    void key(const Control& control, const std::string& key);
    const std::optional<std::string>& asked() const { return asked_; } // a control's id
    void answer(bool yes);

    // What lies over the page: the choices of a list, or keys for a number. In pixels of the page; none: nothing does.
    std::optional<Sketch> over() const;
    Shown overShown() const;
    const std::string& overOf() const { return over_; } // a control's id
    void choose(int part);                              // of what lies there, as by a finger
    void overKey(const std::string& key);               // "0" to "9", ".", "-", "back", "enter", "escape"

    // Seconds passed: what was lately is noted, drawers close, and with nobody touching it the surface goes back to its
    // start when it is time.
    void passed(double seconds);

  private:
    struct Finger {
        std::string control;
        int part = 0;
        double x = 0, y = 0, t = 0; // where it began
        bool over = false;          // on what lies over the page
    };
    const std::optional<Drive>& drive(const std::string& path) const;
    std::optional<double> read(const Drive& drive) const; // also of scenes and lines
    std::optional<double> value(const std::string& path) const;
    bool holds(const std::string& condition, bool without) const;
    Shown shownOf(const Control& control, const Drive& drive) const;
    std::vector<double> lanes(const Drive& drive) const;
    const std::vector<double>& response(const Drive& drive) const;
    void set(const Control& control, const Drive& drive, double value);
    void recall(const Scene& scene);
    void act(const Control& control); // what a press does besides its value
    void dial(const Control& control, const Drive& drive, int part);
    void closeOver();
    bool overNumber() const; // keys for a number lie over the page
    void start();
    Project project_;
    std::string surface_, page_, role_, wanted_{};
    SurfaceValues& values_;
    std::set<std::string> turned_{}; // plies of the page that are not as they begin
    std::map<int, Finger> fingers_{};
    std::optional<std::string> asked_{};
    std::string over_{}, overTyped_{};
    std::map<std::string, std::string> typed_{};         // on dial pads, by control
    std::map<std::string, std::deque<double>> lately_{}; // by control
    double untouched_ = 0, sinceNoted_ = 0;
    std::string said_{};
    double saidFor_ = 0; // s that they still stay
    struct Curve {
        std::vector<double> values{}, points{};
    };
    mutable std::unordered_map<std::string, std::optional<Drive>> drives_{};
    mutable std::unordered_map<std::string, std::optional<Condition>> conditions_{};
    mutable std::unordered_map<std::string, Curve> curves_{};
};

} // namespace loom::project
