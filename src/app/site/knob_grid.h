// The knobs and push-buttons of a small board: which parameter each moves, over which range, and how it travels.
#pragma once
#include "app/site/fleet.h"
#include <QScrollArea>

class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

class KnobGrid : public QWidget {
    Q_OBJECT
  public:
    explicit KnobGrid(Fleet& fleet, QWidget* parent = nullptr);
    void show(const std::string& device); // hides itself where there are none
    bool waiting() const;                 // for a knob to be turned

  private:
    struct Row {
        std::string id;
        QLabel* name;
        QComboBox *target, *travel;
        QLineEdit *from, *to;
    };
    void build(const project::DeviceModel& model);
    void refresh();
    void choose(const Row& row, const std::string& path);
    void edit(const Row& row);
    void turned(const QString& device, const QString& knob);
    bool assign(const std::string& id, const project::KnobUse& use);
    const project::Device* device() const;
    project::KnobUse useOf(const std::string& id) const;
    Fleet& fleet_;
    std::string device_, built_;
    std::vector<project::KnobTarget> targets_;
    std::vector<Row> rows_;
    QComboBox* next_;
    QPushButton* learn_;
    QGridLayout* grid_;
    bool filling_ = false;
};

} // namespace loom::app
