// What Speakers looks at: the voicing that is chosen, its curves, the outputs of amplifiers with their figures.
#pragma once
#include "app/session.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "voicings/output_figures.h"
#include "voicings/voicing_edit.h"
#include "voicings/voicing_fields.h"
#endif

namespace loom::app {

class SpeakersState : public QObject {
    Q_OBJECT
  public:
    explicit SpeakersState(Session& session);
    Session& session() { return session_; }
    const project::Project& project() const { return session_.project(); }

    const project::Voicing* voicing() const { return project().voicing(voicing_); }
    std::string voicingId() const { return voicing_; }
    void choose(const std::string& voicing);
    const project::VoicingCurves& curves(); // of the chosen one, as it is now

    const std::vector<project::OutputFigures>& outputs(); // levels of rooms follow a little later
    int outputRow() const { return row_; }
    void chooseOutput(int row);

    // -- changes; false: refused, and reported --
    bool run(Result<project::Project> then, const QString& text, bool merge = false);
    bool setPart(const std::string& part, const std::map<std::string, double>& values, const QString& text, bool merge);
    bool setField(int way, const std::string& field, const std::string& value);

    // Of which others the last change of the chosen voicing was one, for people: "4 loudspeakers in Story Cellar".
    QString reachText() const;

  signals:
    void changed();

  private:
    void refresh();
    Session& session_;
    std::string voicing_;
    std::optional<project::VoicingCurves> curves_;
    std::optional<std::vector<project::OutputFigures>> outputs_;
    project::RoomDrives drives_;
    bool drivesStale_ = true;
    int row_ = 0;
    Worker<project::RoomDrives> work_;
};

} // namespace loom::app
