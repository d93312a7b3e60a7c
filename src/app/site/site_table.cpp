#include "app/site/site_table.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include <QAbstractTableModel>
#include <QHeaderView>

namespace loom::app {
namespace {

class Cells : public QAbstractTableModel {
  public:
    Cells(QStringList headings, QObject* parent) : QAbstractTableModel(parent), headings_(std::move(headings)) {}
    int rowCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : rows_; }
    int columnCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(headings_.size());
    }
    QVariant headerData(int section, Qt::Orientation way, int role) const override {
        return way == Qt::Horizontal && role == Qt::DisplayRole && section < headings_.size()
                   ? QVariant(headings_[section])
                   : QVariant();
    }
    QVariant data(const QModelIndex& at, int role) const override {
        if (!at.isValid() || !make_ || at.row() >= rows_)
            return {};
        switch (role) {
        case Qt::DisplayRole:
        case Qt::ToolTipRole:
        case Qt::AccessibleTextRole:
        case Qt::FontRole:
        case Qt::ForegroundRole:
        case Qt::BackgroundRole:
        case SiteTable::moreRole:
            break;
        default:
            return {};
        }
        const SiteCell c = make_(at.row(), at.column());
        switch (role) {
        case Qt::FontRole:
            return c.number ? Theme::get().number(11, c.bold) : Theme::get().text(12, c.bold);
        case Qt::ForegroundRole:
            return c.ink.isValid() ? QVariant(QBrush(c.ink)) : QVariant();
        case Qt::BackgroundRole:
            return c.ground.style() == Qt::NoBrush ? QVariant() : QVariant(c.ground);
        case Qt::AccessibleTextRole:
            return c.spoken.isEmpty() ? c.text : c.spoken;
        case SiteTable::moreRole:
            return c.more;
        default:
            return c.text;
        }
    }
    void fill(int rows, SiteTable::Make make) {
        make_ = nullptr; // the owner's rows are the new ones already
        if (rows > rows_) {
            beginInsertRows({}, rows_, rows - 1);
            rows_ = rows;
            endInsertRows();
        } else if (rows < rows_) {
            beginRemoveRows({}, rows, rows_ - 1);
            rows_ = rows;
            endRemoveRows();
        }
        make_ = std::move(make);
        if (rows_ > 0)
            emit dataChanged(index(0, 0), index(rows_ - 1, columnCount() - 1));
    }

  private:
    QStringList headings_;
    int rows_ = 0;
    SiteTable::Make make_;
};

} // namespace

SiteTable::SiteTable(const QStringList& headings, const char* name, const QString& said, QWidget* parent)
    : QTableView(parent) {
    setModel(new Cells(headings, this));
    setObjectName(name);
    setAccessibleName(said);
    verticalHeader()->hide();
    setEditTriggers(QAbstractItemView::NoEditTriggers);
    setSelectionBehavior(QAbstractItemView::SelectRows);
    setFrameShape(QFrame::NoFrame);
    setShowGrid(false);
    setWordWrap(false);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    horizontalHeader()->setHighlightSections(false);
}

void SiteTable::dress(std::initializer_list<int> widths, int rowHigh) {
    verticalHeader()->setDefaultSectionSize(Theme::get().ipx(rowHigh));
    const QString sheet =
        QString("QTableView { background: transparent; selection-background-color: %1; selection-color: %2; }"
                "QHeaderView { background: transparent; border: 0; } QHeaderView::section { background: "
                "transparent; border: 0; border-bottom: 1px solid %3; color: %4; padding: 2px 4px; }")
            .arg(tokens().saffronTint.name(), tokens().ink.name(), tokens().hair.name(), tokens().ink2.name());
    applyStyle(this, sheet);
    int column = 0;
    for (const int wide : widths) {
        const auto mode = wide > 0 ? QHeaderView::Interactive : QHeaderView::Stretch;
        if (horizontalHeader()->sectionResizeMode(column) != mode)
            horizontalHeader()->setSectionResizeMode(column, mode);
        if (wide > 0 && columnWidth(column) != Theme::get().ipx(wide))
            setColumnWidth(column, Theme::get().ipx(wide));
        ++column;
    }
}

void SiteTable::fill(int rows, Make make) {
    static_cast<Cells*>(model())->fill(rows, std::move(make));
}

} // namespace loom::app
