// A table that is read: rows are chosen whole, nothing is typed; dressed in the theme.
#pragma once
#include "app/theme/theme.h"
#include <QHeaderView>
#include <QTableWidget>

namespace loom::app {

class SiteTable : public QTableWidget {
  public:
    SiteTable(const QStringList& headings, const char* name, const QString& said, QWidget* parent = nullptr)
        : QTableWidget(parent) {
        setObjectName(name);
        setAccessibleName(said);
        setColumnCount(static_cast<int>(headings.size()));
        setHorizontalHeaderLabels(headings);
        verticalHeader()->hide();
        setEditTriggers(QAbstractItemView::NoEditTriggers);
        setSelectionBehavior(QAbstractItemView::SelectRows);
        setFrameShape(QFrame::NoFrame);
        setShowGrid(false);
        setWordWrap(false);
        horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        horizontalHeader()->setHighlightSections(false);
    }
    // Column widths at 100 %; the one of width 0 takes the rest.
    void dress(std::initializer_list<int> widths) {
        verticalHeader()->setDefaultSectionSize(Theme::get().ipx(26));
        setStyleSheet(
            QString("QTableWidget { background: transparent; selection-background-color: %1; selection-color: %2; }"
                    "QHeaderView { background: transparent; border: 0; } QHeaderView::section { background: "
                    "transparent; border: 0; border-bottom: 1px solid %3; color: %4; padding: 2px 4px; }")
                .arg(tokens().saffronTint.name(), tokens().ink.name(), tokens().hair.name(), tokens().ink2.name()));
        int column = 0;
        for (const int wide : widths) {
            horizontalHeader()->setSectionResizeMode(column,
                                                     wide > 0 ? QHeaderView::Interactive : QHeaderView::Stretch);
            if (wide > 0)
                setColumnWidth(column, Theme::get().ipx(wide));
            ++column;
        }
    }
    QTableWidgetItem* put(int row, int column, const QString& text, bool number = false) {
        auto* there = item(row, column);
        if (!there) {
            there = new QTableWidgetItem;
            setItem(row, column, there);
        }
        if (there->text() != text)
            there->setText(text), there->setToolTip(text);
        there->setFont(number ? Theme::get().number(11) : Theme::get().text(12));
        return there;
    }
};

} // namespace loom::app
