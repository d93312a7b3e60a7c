// The crossings of a matrix mixer as a table: a row a source, a column a destination. Type or drag levels, for one or
// for all that are selected; M mutes crossings, a press on a name its whole line.
#pragma once
#include "app/session.h"
#include <QAbstractTableModel>
#include <QTableView>

namespace loom::app {

class MatrixModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    MatrixModel(Session& session, const QString& block, QObject* parent);
    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& at, int role) const override;
    QVariant headerData(int section, Qt::Orientation way, int role) const override;
    Qt::ItemFlags flags(const QModelIndex&) const override;

    double level(const QModelIndex& at) const;
    bool muted(const QModelIndex& at) const;
    bool lineMuted(int section, Qt::Orientation way) const;
    static std::string crossing(const QModelIndex& at);
    static std::string lineMute(int section, Qt::Orientation way);
    void refresh();

  private:
    const engine::Block* block() const;
    double value(const std::string& param) const;
    Session& session_;
    QString block_;
};

class MatrixTable : public QTableView {
    Q_OBJECT
  public:
    MatrixTable(Session& session, const QString& block, QWidget* parent = nullptr);
    void refresh() { model_->refresh(); }
    void enter(const QString& text);  // a level as people type it, into all that are selected
    void step(double db, bool merge); // louder or softer, all that are selected
    void toggleMute();                // of the crossings selected
    void toggleLine(int section, Qt::Orientation way);

  protected:
    void keyPressEvent(QKeyEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

  private:
    // Sets one value at each place as one change.
    void setAll(const std::map<std::string, double>& values, const QString& text, bool merge = false);
    Session& session_;
    const QString block_;
    MatrixModel* model_;
    bool pressed_ = false, dragging_ = false;
    QPoint pressAt_;
    std::map<std::string, double> before_; // levels where a drag began
};

} // namespace loom::app
