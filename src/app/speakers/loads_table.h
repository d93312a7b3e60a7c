// Every output of every amplifier as a row: what hangs there, cable, limits, headroom; typed into where it is a choice.
#pragma once
#include "app/speakers/speakers_state.h"
#include "app/typed_table.h"
#ifndef Q_MOC_RUN
#include "findings/finding.h"
#endif
#include <QAbstractTableModel>

namespace loom::app {

// All outputs of all amplifiers, also those that nothing hangs on.
class LoadsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column {
        output,
        hangs,
        voicing,
        wiring,
        feed,
        load,
        metres,
        mm2,
        loss,
        damping,
        amperes,
        watts,
        peak,
        heat,
        each,
        headroom,
        seats,
        columns
    };
    explicit LoadsModel(SpeakersState& state);
    int rowCount(const QModelIndex& = {}) const override { return static_cast<int>(rows_.size()); }
    int columnCount(const QModelIndex& = {}) const override { return columns; }
    QVariant data(const QModelIndex& at, int role) const override;
    QVariant headerData(int section, Qt::Orientation o, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& at) const override;
    bool setData(const QModelIndex& at, const QVariant& value, int role) override;
    int rowOf(const std::string& amplifier, const std::string& port) const;
    std::string voicingOf(int row) const; // id; empty: none
    void setFindings(const std::vector<project::Finding>& found);
    void refresh();

  private:
    struct Row {
        std::string amplifier, port;
        bool operator==(const Row&) const = default;
    };
    const project::OutputFigures* figures(const Row& row) const;
    project::AmplifierOutput outputOf(const Row& row) const;
    std::string inputOf(const Row& row) const;
    QString textAt(const Row& row, int column) const;
    SpeakersState& state_;
    std::vector<Row> rows_;
    std::map<std::pair<std::string, std::string>, QString> errors_;
};

class LoadsTable : public TypedTable {
    Q_OBJECT
  public:
    explicit LoadsTable(SpeakersState& state, QWidget* parent = nullptr);
    LoadsModel& rows() { return model_; }

  private:
    LoadsModel model_;
};

} // namespace loom::app
