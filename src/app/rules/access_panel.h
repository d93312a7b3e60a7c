// Control from outside: by which ways others' programs and controllers may ask a processor, and for what.
#pragma once
#include "app/rules/rules_state.h"
#include <QWidget>

class QLabel;
class QListWidget;

namespace loom::app {

class ChoiceBox;
class FieldForm;
class SignalPicker;

class AccessPanel : public QWidget {
    Q_OBJECT
  public:
    explicit AccessPanel(RulesState& state, QWidget* parent = nullptr);
    QListWidget* list() { return list_; }
    const project::Device* device() const; // the chosen processor; null: there is none
    const project::Access* access() const; // null: nothing is said of it yet
    const project::AllowedSignal* chosen() const;
    void chooseDevice(const std::string& id);
    void allow();                          // asks what
    void allow(const std::string& signal); // set as far as it can be
    void forbid();
    void setPin(); // of a role, on the device

  signals:
    void wants(const QString& command);

  protected:
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void refresh();
    void showChosen();
    RulesState& state_;
    ChoiceBox* devices_;
    QListWidget* list_;
    QLabel* hint_;
    FieldForm *fields_, *ways_;
    SignalPicker* picker_;
    std::string device_{}, chosen_{};
};

} // namespace loom::app
