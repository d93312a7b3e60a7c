// The deck of Patch: what is chosen of who hears whom (a stream, its receivers, what it takes, its description), or of
// the wiring (a cable, what goes over it, what a cut does).
#pragma once
#include "app/patch/patch_ear.h"
#include "app/patch/patch_state.h"
#include <QWidget>

class QLabel;
class QListWidget;
class QPlainTextEdit;
class QPushButton;

namespace loom::app {

class FieldForm;

class PatchDeck : public QWidget {
    Q_OBJECT
  public:
    PatchDeck(PatchState& state, PatchEar& ear, QWidget* parent = nullptr);
    void showWiring(bool on);
    void takeFocus();
    void saveDescription();                     // asks where to
    bool writeDescription(const QString& file); // false: reported

  signals:
    void wantsBack();

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    void fillStream();
    void fillWire();
    QString cameFrom();
    PatchState& state_;
    PatchEar& ear_;
    bool wiring_ = false;
    QLabel *title_, *words_, *heads_[4], *clock_, *takes_;
    FieldForm* form_;
    QWidget* takesArea_ = nullptr;
    QListWidget* hears_;
    QPlainTextEdit* description_;
    QPushButton *align_, *save_;
};

} // namespace loom::app
