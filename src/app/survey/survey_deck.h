// The deck of Survey: fields of what is chosen, and the devices of the room with what is done to all of them.
#pragma once
#include "app/survey/survey_state.h"
#include <QWidget>

class QLabel;
class QPushButton;

namespace loom::app {

class DeviceTable;
class FieldForm;
class RackView;

class SurveyDeck : public QWidget {
    Q_OBJECT
  public:
    explicit SurveyDeck(SurveyState& state, QWidget* parent = nullptr);
    void takeFocus();
    DeviceTable* table() { return table_; }
    void renameAll();
    void addressAll();
    void copyRoom();
    void takeTable(const QString& text); // devices of a list from a spreadsheet, approved first
    void openTable();                    // of a CSV file
    void copySettings();
    void pasteSettings();

  signals:
    void wantsBack();

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void refresh();
    std::vector<std::string> keys() const; // whose fields are shown
    bool set(const std::string& field, const std::string& value);
    std::vector<std::string> meant() const; // the chosen devices, else all of the table
    bool approve(const QString& title, const std::vector<project::Renewal>& list);
    SurveyState& state_;
    QLabel *title_, *says_;
    FieldForm* form_;
    DeviceTable* table_;
    RackView* rack_;
    std::optional<project::Device> held_; // whose settings were copied
};

} // namespace loom::app
