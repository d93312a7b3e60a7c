// A spec sheet beside what was read of it: approved line by line before it becomes a voicing.
#pragma once
#ifndef Q_MOC_RUN
#include "voicings/voicing_fields.h"
#endif
#include <QWidget>

class QLabel;
class QPlainTextEdit;
class QPushButton;
class QTableWidget;
class QVBoxLayout;

namespace loom::app {

class SheetReader : public QWidget {
    Q_OBJECT
  public:
    explicit SheetReader(QWidget* parent = nullptr);
    void setText(const QString& text);
    void takeFocus();
    const loudspeaker::Sheet& sheet() const { return sheet_; }
    std::vector<bool> leftOut() const { return leftOut_; }
    bool ready() const; // nothing is asked any more of what is ticked

  signals:
    void approved();
    void wantsBack();
    void wantsFile(const QString& file);

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void read();
    void fill();
    void askQuestions(); // alike ones in one, above the text
    void mark();         // colours in the text
    void refresh();
    QPlainTextEdit* text_;
    QTableWidget* table_;
    QLabel* says_;
    QPushButton* make_;
    QVBoxLayout* questions_;
    loudspeaker::Sheet sheet_;
    std::vector<bool> leftOut_;
    bool filling_ = false;
};

} // namespace loom::app
