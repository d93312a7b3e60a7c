// The devices of a room (or of all) as a table that is typed into; what is chosen there is chosen on the plan.
#pragma once
#include "app/survey/survey_state.h"
#include "app/typed_table.h"
#ifndef Q_MOC_RUN
#include "findings/finding.h"
#endif
#include <QAbstractTableModel>

namespace loom::app {

class DeviceTableModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { name, model, use, position, address, room, lamps, asset, status, columns };
    explicit DeviceTableModel(SurveyState& state);
    int rowCount(const QModelIndex& = {}) const override { return static_cast<int>(rows_.size()); }
    int columnCount(const QModelIndex& = {}) const override { return columns; }
    QVariant data(const QModelIndex& at, int role) const override;
    QVariant headerData(int section, Qt::Orientation o, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& at) const override;
    bool setData(const QModelIndex& at, const QVariant& value, int role) override;
    const std::string& id(int row) const { return rows_[static_cast<std::size_t>(row)]; }
    int rowOf(const std::string& id) const;
    void refresh(); // which devices there are may have changed
    void setFindings(const std::vector<project::Finding>& found);

  private:
    const project::Device* device(const QModelIndex& at) const;
    QString errorOf(const std::string& id) const;
    SurveyState& state_;
    std::vector<std::string> rows_;
    std::map<std::string, QString> errors_; // by device
};

class DeviceTable : public TypedTable {
    Q_OBJECT
  public:
    explicit DeviceTable(SurveyState& state, QWidget* parent = nullptr);
    DeviceTableModel& rows() { return model_; }

  private:
    void followChoice();
    SurveyState& state_;
    DeviceTableModel model_;
    bool following_ = false;
};

} // namespace loom::app
