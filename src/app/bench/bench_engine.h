// The running simulation on this computer: the program in real time on its own thread, and the ear.
#pragma once
#include "app/ear_out.h"
#include "dsp/spectrum.h"
#include "engine/realtime.h"
#include "model/edit.h"
#include "program/tapes.h"
#include "program/tools_at_work.h"
#include <QString>
#include <deque>
#include <future>
#include <memory>
#include <set>

namespace loom::app {

// All functions belong to the GUI thread. The sound runs in a thread of its own, paced by the clock.
class BenchEngine {
  public:
    BenchEngine();
    ~BenchEngine();

    // Decodes the stand-in sound and compiles on a worker; poll() tells when it runs, or why it cannot.
    void start(const project::Project& project, const project::Device& device);
    bool preparing() const { return preparing_.valid(); }
    // True once, when preparing ended; `error` is set if the program cannot run.
    bool poll(std::optional<Error>& error);
    void stop();
    bool running() const { return runner_ != nullptr; }
    // Hands an edit on to what runs: a value glides, another structure is swapped in.
    void follow(const project::Project& project, const project::Device& device, const project::Change& change);
    // A value that the design does not hear of, until the program is loaded again: a mute that is tried.
    void tryValue(const std::string& block, const std::string& param, double value);
    std::optional<double> triedValue(const std::string& block, const std::string& param) const;
    void tend(); // call a few times a second: queues, the ear, the recording, recorder blocks
    // What recorder blocks wrote since last asked, a line each; `bad` marks what could not be written.
    struct News {
        QString text;
        bool bad;
    };
    std::vector<News> takeNews() { return std::exchange(news_, {}); }

    engine::MeterReading meter(const engine::PortRef& port) const;
    // What a block has to show besides levels (BlockKind::readouts); 0 while the bench does not run.
    float readout(const std::string& block, int which) const;
    // The first readout of a block (and of an automatic mixer the gain of each lane) over the last historySeconds,
    // oldest first; empty for a block that has none.
    static constexpr int historyLength = 500, historySeconds = 20;
    const std::deque<float>& history(const std::string& block, int which = 0) const; // which: of a lane from 1
    // Third-octave levels of a thread; empty until enough was heard.
    std::vector<double> spectrum(const engine::PortRef& port);
    int missed() const { return audio_ ? audio_->missed() : 0; } // frames that came too late

    // The ear: what is listened to goes to the computer's audio device. Returns what stands in the way, if anything.
    QString listen(const std::optional<engine::PortRef>& port);
    std::optional<engine::PortRef> listening() const { return listening_; }
    // Tools at work (program/tools.h): they come and go in a glide, and the program stays as it is. Returns what stands
    // in the way, if anything.
    Result<Done> putTool(const project::Tool& tool);
    void takeTool(int number);
    void clearTools(); // and stops listening and measuring
    std::vector<project::Tool> tools() const { return tools_.list(); }
    // Threads whose level and spectrum stay in view.
    static constexpr int mostPins = 4;
    bool pin(const engine::PortRef& port); // or no longer; false: there are mostPins already
    const std::vector<engine::PortRef>& pins() const { return pins_; }
    std::vector<double> pinnedSpectrum(const engine::PortRef& port);
    // Records a thread until stopped; the file is written at the end.
    void record(const engine::PortRef& port);
    bool recording() const { return recordPort_.has_value(); }
    std::optional<engine::PortRef> recordPort() const { return recordPort_; }
    Result<double> endRecording(const QString& path); // seconds written

  private:
    using Prepared = std::pair<std::unique_ptr<engine::Runner>, std::optional<Error>>;
    std::future<Prepared> preparing_;
    std::unique_ptr<engine::Runner> runner_;
    std::unique_ptr<engine::RealtimeThread> audio_;
    EarOut ear_;
    std::optional<engine::PortRef> listening_, watched_, recordPort_;
    std::unique_ptr<dsp::ThirdOctaveSpectrum> analyser_;
    project::ToolsAtWork tools_;
    engine::Program design_; // what runs, without the tools
    std::vector<engine::PortRef> pins_;
    std::vector<std::vector<float>> pinSound_;
    void probePins();
    std::vector<double> measure(int slot, std::vector<float>& seen);
    std::vector<float> seen_, recorded_;
    void gather(const std::vector<Result<std::string>>& written);
    project::Tapes tapes_;
    std::vector<News> news_;
    void remember();
    std::map<std::pair<std::string, int>, std::deque<float>> histories_;
    std::map<std::pair<std::string, std::string>, double> tried_; // by block and parameter
    std::set<std::string> assets_;                                // what the runner's resources know
};

} // namespace loom::app
