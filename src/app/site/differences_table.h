// Where the chosen devices differ from the design, value by value, with the side that is taken.
#pragma once
#include "app/site/fleet.h"
#include "app/site/site_table.h"
#include "app/worker.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

class DifferencesTable : public QWidget {
    Q_OBJECT
  public:
    explicit DifferencesTable(Fleet& fleet, QWidget* parent = nullptr);
    void show(const std::vector<std::string>& devices);
    SiteTable* table() { return table_; }
    int rowOf(const std::string& device, const std::string& key) const; // -1: not shown
    static constexpr int takeColumn = 4, most = 1000;                   // rows shown; the search finds the others

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void fill();
    SiteCell cellOf(int row, int column) const;
    void preview();
    void take(int row, site::Take side);
    Fleet& fleet_;
    std::vector<std::string> devices_;
    SiteTable* table_;
    QLineEdit* search_;
    QLabel *says_, *heard_;
    QPushButton *design_, *device_, *audible_;
    struct Line {
        std::string device, key;         // key empty: the heading of a group
        std::vector<std::string> keys{}; // of a heading
        site::Row row{};
        std::string text{};
    };
    std::vector<Line> lines_;
    Worker<QStringList> work_;
};

} // namespace loom::app
