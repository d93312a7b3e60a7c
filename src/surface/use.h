// Somebody at a surface: which page is open, what is seen of it, and what fingers do. The same in the window and on
// devices.
#pragma once
#include "surface/condition.h"
#include "surface/control_kind.h"
#include <set>

namespace loom::project {

// Where values come from and go to: a bench, devices, or a rehearsal.
class SurfaceValues {
  public:
    virtual ~SurfaceValues() = default;
    virtual std::optional<double> now(const Drive& drive) = 0; // none: not known
    virtual void set(const Drive& drive, double value) = 0;
};

class SurfaceUse {
  public:
    // The project is shared and kept; values must outlive this.
    SurfaceUse(Project project, std::string surface, SurfaceValues& values);
    // The design has changed: what is open stays open as far as it is still there.
    void follow(Project project);
    const Surface* surface() const { return project_.surface(surface_); }
    const SurfacePage* page() const;    // null: the surface has none
    bool open(const std::string& page); // false: there is no such, or who is here may not
    // Who is here: a role's id; "": anyone.
    void be(const std::string& role);
    const std::string& role() const { return role_; }
    bool isOpen(const Ply& ply) const;
    void turnPly(const std::string& ply);

    struct Shown { // of a control, for drawing
        bool known = false, enabled = true;
        double t = 0;         // its position
        std::string text{};   // the value
        bool on = false;      // a switch, or a button whose value holds
        int chosen = -1;      // a choice
        std::set<int> held{}; // parts that fingers are on; 0 where it has none
    };
    Shown shown(const Control& control) const;
    bool seen(const Control& control) const;
    // The foremost control that a finger there would reach; null: none.
    const Control* at(double x, double y) const;

    // Fingers by number, places on the page. What asks first is told by asked() and done by confirm().
    void press(int finger, double x, double y);
    void move(int finger, double x, double y);
    void release(int finger);
    // By keys, on one control: one step up or down, or a press.
    void step(const Control& control, int by);
    void click(const Control& control);
    const std::optional<std::string>& asked() const { return asked_; } // a control's id
    void answer(bool yes);
    // Seconds passed with nobody touching it: goes back to the start when it is time.
    void idle(double seconds);

  private:
    struct Finger {
        std::string control;
        int part = 0;
        double x = 0, y = 0, t = 0; // where it began
    };
    std::optional<Drive> driveFor(const Control& control) const;
    std::optional<double> value(const std::string& path) const;
    void set(const Control& control, const Drive& drive, double value);
    void act(const Control& control); // what a press does besides its value
    void start();
    Project project_;
    std::string surface_, page_, role_;
    SurfaceValues& values_;
    std::set<std::string> turned_{}; // plies of the page that are not as they begin
    std::map<int, Finger> fingers_{};
    std::optional<std::string> asked_{};
    double idle_ = 0;
};

} // namespace loom::project
