// One step on several devices: all prepare, then all do it; where one cannot, none has done it.
#pragma once
#include "app/site/rig_link.h"
#include <QPointer>

namespace loom::app {

class AllOrNone : public QObject {
    Q_OBJECT
  public:
    struct Call {
        std::string method{}; // none: nothing to be done
        nlohmann::json params = nlohmann::json::object();
    };
    struct Part {
        std::string device;
        QString name;
        QPointer<RigLink> link;
        Call prepare{}, unprepare{}, commit{}, uncommit{};
        std::function<Call()> make{}; // prepare, where it is worth making late: hundreds are not made in one go
        // After commit: what is read back, and what is wrong with it (with what commit had answered).
        Call check{};
        std::function<QString(const nlohmann::json& committed, const nlohmann::json& read)> verify{};
        QString state = "waits"; // as people read it
        bool waits = false;      // for an answer to what it was asked last
        enum class At { begin, prepared, committed, failed, undone } at = At::begin;
    };
    using Done = std::function<void(const QString& trouble)>; // empty: all did it

    explicit AllOrNone(QObject* parent = nullptr);
    // One at a time: while one runs, another is refused with a trouble.
    void start(const QString& title, std::vector<Part> parts, Done done);
    void cancel(); // as long as none has begun to do it; afterwards it is undone
    bool running() const { return running_; }
    const QString& title() const { return title_; }
    const std::vector<Part>& parts() const { return parts_; }
    int finished() const; // parts that have got as far as they get

  signals:
    void changed();

  private:
    void phase(bool commit);
    void ask(std::size_t from, bool commit);
    void answered(std::size_t i, bool commit, const QString& trouble);
    void whenGone(std::size_t i, bool commit); // a device that goes away answers too: that it is gone
    void readBack(std::size_t i, const nlohmann::json& committed);
    void end();
    void changedSoon(); // hundreds of devices answer at once: views hear of it now and then
    QString title_, trouble_;
    std::vector<Part> parts_;
    Done done_;
    bool running_ = false, cancelled_ = false;
    int open_ = 0, run_ = 0;
    QTimer soon_;
};

} // namespace loom::app
