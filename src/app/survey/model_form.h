// A device model of one's own, filled in field by field and put on the shelf.
#pragma once
#include "app/field_form.h"
#ifndef Q_MOC_RUN
#include "catalogue/model_fields.h"
#endif
#include <QDialog>

class QComboBox;
class QLabel;
class QPushButton;

namespace loom::app {

class ModelForm : public QDialog {
    Q_OBJECT
  public:
    explicit ModelForm(project::Catalogue& shelf, QWidget* parent = nullptr);
    std::string made() const { return made_; } // its id, once it is on the shelf

  private:
    void refresh();
    void finish();
    project::Catalogue& shelf_;
    project::DeviceModel model_;
    std::string made_;
    QComboBox* kind_;
    FieldForm* form_;
    QLabel* says_;
    QPushButton* done_;
};

} // namespace loom::app
