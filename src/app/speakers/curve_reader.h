// A file of a response or an impedance before it is taken: how its columns are read, what is asked, and its curve.
#pragma once
#ifndef Q_MOC_RUN
#include "loudspeaker/curve_file.h"
#endif
#include <QWidget>
#include <vector>

class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

class ChoiceBox;
class QuestionList;

class CurveReader : public QWidget {
    Q_OBJECT
  public:
    struct For { // what it can be taken for
        QString label;
        int way = 0; // -1: the target
        loudspeaker::CurveUse use = loudspeaker::CurveUse::response;
    };
    explicit CurveReader(QWidget* parent = nullptr);
    // Error: it cannot be read as what is chosen; nothing is shown then.
    std::optional<Error> open(const std::string& bytes, const QString& name, const std::vector<For>& all, int chosen);
    const loudspeaker::CurveReading& reading() const { return reading_; }
    QString name() const { return name_; }
    const For& chosen() const { return all_[static_cast<std::size_t>(chosen_)]; }
    bool ready() const { return reading_.open.empty() && !failed_ && !reading_.curve.hz.empty(); }
    void takeFocus();

  signals:
    void approved();
    void wantsBack();

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    std::optional<Error> read();
    void show();
    class Preview;
    std::string bytes_;
    QString name_;
    std::vector<For> all_;
    int chosen_ = 0;
    loudspeaker::CurveAnswers answers_;
    loudspeaker::CurveReading reading_;
    double windowMs_ = 0;
    bool failed_ = false, filling_ = false;
    QLabel *title_, *says_;
    ChoiceBox* for_;
    QuestionList* questions_;
    QWidget* windowRow_;
    QLineEdit* window_;
    Preview* preview_;
    QPushButton *take_, *back_;
};

} // namespace loom::app
