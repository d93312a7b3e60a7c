// A table that is typed into while its figures come in: what is being typed is left alone until it is done.
#pragma once
#include "app/theme/theme.h"
#include <QHeaderView>
#include <QTableView>
#include <algorithm>
#include <vector>

namespace loom::app {

class TypedTable : public QTableView {
  public:
    explicit TypedTable(QWidget* parent = nullptr) : QTableView(parent) {
        setSelectionBehavior(QAbstractItemView::SelectRows);
        setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked |
                        QAbstractItemView::SelectedClicked);
        setFrameShape(QFrame::NoFrame);
        setShowGrid(false);
        setWordWrap(false);
        verticalHeader()->hide();
        horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        horizontalHeader()->setHighlightSections(false);
    }
    void dataChanged(const QModelIndex& from, const QModelIndex& to, const QList<int>& roles) override {
        if (state() == QAbstractItemView::EditingState) // QTableView would put the old text into the editor
            viewport()->update();
        else
            QTableView::dataChanged(from, to, roles);
    }

  protected:
    // Row height and column widths at this text scale, colours of this theme.
    void dress(int rowHeight, std::initializer_list<int> widths) {
        verticalHeader()->setDefaultSectionSize(Theme::get().ipx(rowHeight));
        setStyleSheet(
            QString("QTableView { background: transparent; selection-background-color: %1; selection-color: %2; }"
                    "QHeaderView { background: transparent; border: 0; } QHeaderView::section { background: "
                    "transparent; border: 0; border-bottom: 1px solid %3; color: %4; padding: 2px 4px; }")
                .arg(tokens().saffronTint.name(), tokens().ink.name(), tokens().hair.name(), tokens().ink2.name()));
        widths_.assign(widths);
        share();
    }
    void resizeEvent(QResizeEvent* e) override {
        QTableView::resizeEvent(e);
        share();
    }

  private:
    // Columns are as wide as they need, and have what is left among them.
    void share() {
        int all = 0;
        for (const int wide : widths_)
            all += Theme::get().ipx(wide);
        const double grow = all > 0 ? std::max(1.0, static_cast<double>(viewport()->width()) / all) : 1;
        for (std::size_t c = 0; c < widths_.size(); ++c)
            setColumnWidth(static_cast<int>(c), static_cast<int>(Theme::get().ipx(widths_[c]) * grow));
    }
    std::vector<int> widths_;
};

} // namespace loom::app
