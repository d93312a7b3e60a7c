// A table that is read: rows are chosen whole, nothing is typed; dressed in the theme. Its cells are made when they are
// looked at, so that a thousand rows cost no more than those in sight.
#pragma once
#include <QBrush>
#include <QTableView>
#include <functional>

namespace loom::app {

struct SiteCell {
    QString text{};
    QColor ink{};
    bool number = false, bold = false;
    QBrush ground{};  // NoBrush: the table's
    QVariant more{};  // for a painter of its own, under SiteTable::moreRole
    QString spoken{}; // what a screen reader says instead of the text
};

class SiteTable : public QTableView {
    Q_OBJECT
  public:
    static constexpr int moreRole = Qt::UserRole + 1;
    using Make = std::function<SiteCell(int row, int column)>;
    SiteTable(const QStringList& headings, const char* name, const QString& said, QWidget* parent = nullptr);
    // Column widths at 100 %; the one of width 0 takes the rest.
    void dress(std::initializer_list<int> widths, int rowHigh = 26);
    // `make` is asked for cells until the next fill, at any time: it owns its rows, or they change together with the
    // next fill and nothing between.
    void fill(int rows, Make make);
    int rowCount() const { return model()->rowCount(); }
    int currentRow() const { return currentIndex().row(); }
    QString text(int row, int column) const { return model()->index(row, column).data().toString(); }
};

} // namespace loom::app
