// The one open project and everything that works on it: edits, the choice, the bench, files.
#pragma once
#include "model/health.h"
#include "model/history.h"
#ifndef Q_MOC_RUN
#include "app/bench/bench_engine.h"
#include "app/worker.h"
#include "catalogue/catalogue.h"
#include "engine/layout.h"
#include "file/journal.h"
#endif
#include <QObject>
#include <QTimer>
#include <set>

namespace loom::client {
class DeviceTools;
class Fleet;
} // namespace loom::client

namespace loom::app {

class BenchEngine;

class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    // -- files: false and a report() when it cannot be --
    bool open(const QString& path);
    bool start(const QString& model); // a new project for a processor
    void startEmpty();                // one without
    bool save();
    bool saveAs(const QString& path);
    void discard(); // unsaved work is not wanted: its journal goes
    void keepNow(); // unsaved work into its journal, before this returns
    // Work that an earlier run of the program left behind without having a file. False: there is none.
    bool recoverUnnamed();
    QString path() const { return path_; }
    bool dirty() const { return !history_.isSaved(); }
    bool readingOnly() const { return lock_.other().has_value(); } // somebody else works on the file

    project::Catalogue& models() const { return *models_; } // that this run knows, the user's own among them

    // -- the project; views read it and never write --
    const project::Project& project() const { return project_; }
    const project::Device* device() const { return project_.device(device_); } // the processor being worked on
    void work(const std::string& device);                                      // on another processor; the bench stops
    const engine::Program* program() const;
    const engine::Layout& layout() const; // of the program as it is now; empty without one

    // -- changes --
    // False: it cannot be, and why is told; or it changes what is protected, and asked() goes out.
    bool edit(project::Edit edit);
    void editAnyway();                    // what was asked about last is meant
    bool note(const project::Edit& edit); // what became known of devices: no step, not undone
    bool set(const QString& block, const QString& param, double value, bool merge = false);
    bool setAll(const std::map<std::string, double>& values, const QString& text, bool merge = false);
    bool setProgram(const Result<engine::Program>& program, const QString& text);
    void reshape(const QString& block, const std::string& shape, int count); // channels, lanes, bands ...
    void align(const QString& block);                                        // the lanes that meet there
    // Takes a file into the project for a block, under a key of its texts (engine/play_list.h).
    bool setFile(const QString& block, const QString& key, const QString& path);
    // The values of a block: as they were last kept, or its defaults.
    void restore(const QString& block, bool asKept);
    void restoreValue(const QString& block, const QString& param, bool asKept);
    void endDrag() { history_.endMerge(); }
    void undo();
    void redo();
    const project::History& history() const { return history_; }

    // What was last kept on the device; null if nothing was.
    const engine::Program* kept() const;

    // -- comparing: what is remembered, beside what is now --
    struct Comparison {
        std::string lane;      // "": the whole program
        engine::Program other; // what is not heard now
        char heard = 'B';      // 'A' is what was remembered first
    };
    void beginComparison(const QString& lane); // what is now becomes A, and you go on with B
    void flipComparison();
    void endComparison(); // what is heard stays
    const std::optional<Comparison>& comparison() const { return comparison_; }

    // -- tools at work: on the bench while it runs, else on the device that is live (its numbers are negative) --
    void putTool(const project::Tool& tool); // reports
    void takeTool(int number);
    void clearTools(); // and stops listening and measuring
    std::vector<project::Tool> tools() const;
    bool toolsReach() const; // whether there is anything to put one on
    void setFleet(client::Fleet* fleet);
    client::Fleet* fleet() const { return fleet_; } // the devices on site; null: nobody looks for any

    // -- the choice --
    QString lane() const { return lane_; }       // a source, destination or hub block
    QString block() const { return block_; }     // a bead on it, or empty
    QStringList lanes() const { return lanes_; } // all that are chosen, lane() among them; values set go to all of them
    void choose(const QString& lane, const QString& block = {});
    void chooseLanes(const QStringList& lanes); // the last is lane()
    std::vector<std::string> laneIds() const;
    std::optional<engine::PortRef> chosenPort() const; // where the present choice is listened to or measured
    std::vector<std::string> reachedLanes() const;     // those, and the ones linked with them

    BenchEngine& bench() { return *bench_; }

    // -- how devices are on site; the Site stage tells --
    const project::SiteHealth& health() const { return health_; }
    void setHealth(project::SiteHealth health);
    // What is wrong, for the line at the foot of the window.
    void report(const QString& text, bool bad = true) { emit said(text, bad); }
    void report(const Error& error); // and has a loop that was refused drawn

  signals:
    void changed(const loom::project::Change& change);
    void surfacesChanged(); // touch surfaces alone; other changes of them come with changed()
    void opened();          // another project than before; before changed()
    void chosen();
    void said(const QString& text, bool bad);
    void asked(const QString& what, const QString& why); // a protected value or block: is it really to be changed?
    void refused(const std::vector<std::string>& way);   // a loop through these blocks
    void fileChanged();
    void healthChanged();
    void atWorkChanged(); // tools, the ear, measurements, a trace, a comparison

  private:
    void after(const project::Change& change);
    mutable engine::Layout layout_;
    mutable bool laidOut_ = false;
    void take(project::Project project, const QString& path);
    bool mayEdit(); // reports
    void forgetMeant();
    void recover();
    void keepJournal();
    const std::shared_ptr<project::Catalogue> models_ = project::openCatalogue();
    project::Project project_;
    project::History history_{project_};
    QString path_, lane_, block_;
    QStringList lanes_;
    std::optional<Comparison> comparison_;
    struct {
        project::Edit edit{};
        std::vector<project::Guarded> about{};
    } held_;                      // what would change something protected, until it is meant
    std::set<std::string> meant_; // protected, and changed on purpose while the choice stays: "device/block param"
    std::string device_;
    std::unique_ptr<BenchEngine> bench_;
    client::Fleet* fleet_ = nullptr;
    client::DeviceTools* deviceTools_ = nullptr;
    project::SiteHealth health_;
    // -- through a crash (file/journal.h) --
    std::shared_ptr<const project::Project> saved_; // as it lies on disk
    std::string journal_, savedOnDisk_;
    project::ProjectLock lock_;
    QTimer autosave_;
    Worker<std::string> journalist_; // what went wrong, or nothing
};

} // namespace loom::app
