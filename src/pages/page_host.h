// Surfaces of one device for browsers: who sits at them, who may be whom, what goes to and fro. Knows no socket and no
// clock; whoever carries the texts tells both. Never throws, whatever comes in.
#pragma once
#include "pages/visitor.h"
#include <memory>

namespace loom::project {

class PageHost {
  public:
    static constexpr std::size_t mostSeats = 64, mostSessions = 256;
    static constexpr int mostMessages = 400;      // of one seat within a second; then it is dropped
    static constexpr double sessionSeconds = 600; // that a role is kept for a browser whose line was lost

    static constexpr double beatEvery = 1; // s: a browser that hears nothing knows that its line is lost
    struct Served {
        Project project{}; // with this surface
        std::string surface;
        std::map<std::string, std::string> pictures{}; // by the file's name where a browser finds it
    };
    struct Carrier {
        std::function<void(const std::string&)> send;
        std::function<void()> drop; // ends the line; closed() need not follow
        std::string source{};       // who it is: an address
    };
    // Error: that PIN is not right, too many were tried, or nobody may be that here.
    std::function<Result<Done>(const std::string& surface, const std::string& role, const std::string& pin,
                               const std::string& source)>
        admit;
    std::function<std::string()> secret; // another one every time, that nobody can guess

    explicit PageHost(SurfaceValues& values) : values_(values) {}
    void serve(std::vector<Served> all); // from now on; who sits at one that is still there stays
    const std::vector<Served>& served() const { return served_; }
    std::size_t seats() const { return seats_.size(); }

    int opened(Carrier carrier, double now); // -1: there are too many, and it was dropped
    void received(int seat, const std::string& text, double now);
    void closed(int seat, double now);
    void closeAll();
    void obey(const std::string& surface, const SurfaceOrder& order); // everybody who sits at it
    void tick(double now); // some thirty times a second: tells everybody what has changed

  private:
    struct Sitting {
        Carrier carrier{};
        std::string surface{}, session{};
        std::unique_ptr<Visitor> seat{};
        double second = 0, saidAt = -1e9;
        int messages = 0;
        std::string said{};
    };
    struct Session {
        std::string surface, role;
        double until = 0; // 0: a browser has it
    };
    void open(Sitting& s, const std::string& surface, const std::string& session, double now);
    void ask(Sitting& s, const Visitor::RoleAsked& role);
    void tell(Sitting& s);
    void say(Sitting& s, const std::string& text, double now);
    void drop(int seat);
    const Served* find(const std::string& surface) const;
    SurfaceValues& values_;
    std::vector<Served> served_{};
    std::map<int, Sitting> seats_{};
    std::map<std::string, Session> sessions_{};
    double at_ = -1, beatAt_ = -1e9;
    int next_ = 1;
};

// A surface of a project on this computer; its pictures come to those of others, by print, where "/picture/PRINT" finds
// them.
PageHost::Served servedOf(const Project& project, const Surface& surface, std::map<std::string, Asset>& pictures);

} // namespace loom::project
