// The deck of Speakers: the fields of the whole loudspeaker and of each way, side by side.
#pragma once
#include "app/speakers/speakers_state.h"
#include <QWidget>

class QHBoxLayout;
class QLabel;

namespace loom::app {

class FieldForm;

class SpeakersDeck : public QWidget {
    Q_OBJECT
  public:
    explicit SpeakersDeck(SpeakersState& state, QWidget* parent = nullptr);
    void takeFocus();

  signals:
    void wantsBack();

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    SpeakersState& state_;
    QLabel *title_, *reach_;
    QHBoxLayout* row_;
    std::vector<FieldForm*> forms_; // the whole, then the ways
    std::vector<QWidget*> columns_;
};

} // namespace loom::app
