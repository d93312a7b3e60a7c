// A spec sheet beside what was read of it: approved line by line before it becomes a voicing.
#pragma once
#ifndef Q_MOC_RUN
#include "voicings/sheet_patterns.h"
#include "voicings/voicing_fields.h"
#endif
#include <QWidget>

class QCheckBox;
class QLabel;
class QPlainTextEdit;
class QPushButton;
class QTableWidget;

namespace loom::app {

class ChoiceBox;
class QuestionList;

class SheetReader : public QWidget {
    Q_OBJECT
  public:
    explicit SheetReader(QWidget* parent = nullptr);
    void setText(const QString& text);
    void takeFocus();
    const loudspeaker::Sheet& sheet() const { return sheet_; }
    std::vector<bool> leftOut() const { return leftOut_; }
    bool ready() const; // nothing is asked any more of what is ticked
    // What was said of this maker's sheets, and whether it is to be kept; empty: nothing was said.
    const loudspeaker::SheetPattern& pattern() const { return pattern_; }
    bool remembers() const;
    // Says that a piece of the text is something: a name of words.txt, see meaningsToSay.
    void say(const loudspeaker::SheetSpan& piece, const std::string& meaning);

  signals:
    void approved();
    void wantsBack();
    void wantsFile(const QString& file);

  protected:
    void keyPressEvent(QKeyEvent*) override;
    bool eventFilter(QObject* of, QEvent* e) override; // a press on a piece chooses it

  private:
    void read();
    void fill();
    void askQuestions(); // alike ones in one, above the text
    void mark();         // colours in the text
    void refresh();
    void answer(const loudspeaker::SheetQuestion& question, std::size_t choice);
    std::optional<loudspeaker::SheetSpan> chosenPiece() const;
    void choosePieceAt(int position);
    QPlainTextEdit* text_;
    QTableWidget* table_;
    QLabel* says_;
    QPushButton* make_;
    QuestionList* questions_;
    ChoiceBox* say_;
    QCheckBox* remember_;
    loudspeaker::Sheet sheet_;
    std::vector<loudspeaker::SheetPattern> library_;
    loudspeaker::SheetPattern pattern_;                                   // what was said of this sheet
    std::map<std::pair<std::string, std::size_t>, std::size_t> answered_; // by topic and line, to outlive a reading
    std::vector<bool> leftOut_;
    bool filling_ = false;
};

} // namespace loom::app
