// Scenes against parameters: what each sets, coloured where it differs from now.
#pragma once
#include "app/rules/rules_state.h"
#include "app/typed_table.h"
#include <QAbstractTableModel>

namespace loom::app {

class SceneModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    explicit SceneModel(RulesState& state, QObject* parent = nullptr);
    int rowCount(const QModelIndex& = {}) const override { return static_cast<int>(rows_.size()); }
    int columnCount(const QModelIndex& = {}) const override { return static_cast<int>(scenes_.size()) + 1; }
    QVariant data(const QModelIndex& at, int role) const override;
    QVariant headerData(int section, Qt::Orientation, int role) const override;
    bool setData(const QModelIndex& at, const QVariant& value, int role) override;
    Qt::ItemFlags flags(const QModelIndex& at) const override;
    std::string sceneAt(int column) const; // "": the first column has none
    std::string pathAt(int row) const;
    void refresh();

  private:
    struct Row {
        std::string path{};
        std::optional<project::Signal> signal{};
        std::optional<double> now{};
    };
    RulesState& state_;
    std::vector<Row> rows_{};
    std::vector<project::Scene> scenes_{};
};

class SceneTable : public TypedTable {
    Q_OBJECT
  public:
    explicit SceneTable(RulesState& state, QWidget* parent = nullptr);
    void leaveAlone(); // the chosen value: the scene sets it no more

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void refresh();
    RulesState& state_;
    SceneModel* model_;
};

} // namespace loom::app
