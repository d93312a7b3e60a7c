// The Speakers stage: voicings with their curves, whom they reach, what hangs on amplifiers, and sheets that are read.
#pragma once
#include "app/speakers/speakers_state.h"
#ifndef Q_MOC_RUN
#include "voicings/voicing_library.h"
#endif
#include <QWidget>

class QLabel;
class QListWidget;
class QListWidgetItem;
class QMenu;
class QPushButton;
class QStackedWidget;

namespace loom::app {

class CurveReader;
class LoadsTable;
class SheetReader;
class VoicingPlot;

class SpeakersPage : public QWidget {
    Q_OBJECT
  public:
    explicit SpeakersPage(Session& session, QWidget* parent = nullptr);
    SpeakersState& state() { return state_; }
    VoicingPlot* plot() { return plot_; }
    LoadsTable* loads() { return loads_; }
    SheetReader* reader() { return reader_; }
    CurveReader* curveReader() { return curve_; }
    enum View { curvesView, loadsView, sheetView, fileView };
    void showView(View view);
    void takeFocus();

    // -- what is done here; all of it in find-or-do --
    void newByHand(); // asks for a name and the number of ways
    void takeSheet(); // what the reader has read becomes a voicing
    void removeVoicing();
    void ownVoicing(); // for the loudspeaker that is chosen in the list
    void align();
    void fit();                 // asks for the range
    void openResponse(int way); // -1: the target
    void openImpedance(int way);
    // A file is read apart from the window, and shown before it is taken: a spec sheet, a PDF, a response, an
    // impedance.
    void openFile(const QString& file);
    bool opening() const { return opening_.busy(); }
    bool readCurve(const QString& file, int way, bool impedance); // way -1: the target
    void takeCurve();
    bool readTaps(const QString& file, int way); // a FIR filter; "" takes it out
    void keepInLibrary();
    void bringInStep(); // programs whose blocks of voicings were changed alone

    // -- the three scopes, to and from files; false: refused and reported --
    bool saveVoicings(const QString& file, const std::vector<std::string>& voicings);
    bool loadVoicings(const QString& file);
    bool saveSetups(const QString& file, const std::vector<std::string>& amplifiers);
    bool recallSetup(const QString& file, const std::string& amplifier); // ""; each on the one of its name
    void askSheet();                                                     // where to write the voicing as a sheet
    bool writeSheet(const QString& file); // text, .csv or .pdf by its ending; false: reported
    void askScope(bool save, int scope);  // 1 voicing, 2 amplifier, 3 all amplifiers, 4 all voicings

  protected:
    void showEvent(QShowEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    struct Opened {
        QString file;
        std::optional<Result<std::string>> text; // none: it is a curve
    };
    void takeOpened(const Opened& opened);
    void buildLeft(QWidget* left);
    void buildRight(QWidget* right);
    void refresh();
    void fillLoudspeakers();
    std::vector<std::string> amplifiers() const;
    std::string chosenAmplifier() const; // of the row in the table, else the first
    bool takeFile(const project::VoicingFile& file, const QString& text);
    void sizeUp();
    SpeakersState state_;
    QWidget *left_, *right_;
    QListWidget *voicings_, *loudspeakers_;
    QStackedWidget* stack_;
    VoicingPlot* plot_;
    LoadsTable* loads_;
    SheetReader* reader_;
    CurveReader* curve_;
    QLabel *reach_, *limits_, *notes_;
    QPushButton *curvesButton_, *loadsButton_, *sheetButton_, *reachButton_, *phaseButton_, *own_, *align_, *fit_,
        *files_;
    QWidget* tools_;
    bool filling_ = false;
    QString shownLoudspeakers_;               // what their list was made from
    bool large_ = false, reachShown_ = false; // at large text the lists take turns
    Worker<std::optional<project::Fitted>> work_;
    Worker<Opened> opening_;
};

} // namespace loom::app
