// The deck of Talk: what a first pass proposes, each with its reason and a tick.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

class QLabel;
class QPushButton;
class QTreeWidget;

namespace loom::app {

class FieldForm;

class FirstPassDeck : public QWidget {
    Q_OBJECT
  public:
    explicit FirstPassDeck(TalkState& state, QWidget* parent = nullptr);

    void sayPlaying(const QString& what); // "before", "after" or nothing

  signals:
    void wants(const QString& command);

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    void refreshButtons();
    int group() const; // that the fields are of; -1: none
    TalkState& state_;
    QLabel *title_, *words_, *rest_;
    QTreeWidget* list_;
    QPushButton *take_, *drop_, *compare_, *before_, *after_;
    FieldForm* form_; // of the group and the chosen microphone, while nothing is proposed
    QString playing_;
    bool filling_ = false;
};

} // namespace loom::app
