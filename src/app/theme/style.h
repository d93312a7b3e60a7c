// A widget's own style sheet, set where it is another than before: setting one goes through the widget and all in it.
#pragma once
#include <QWidget>

namespace loom::app {

inline void applyStyle(QWidget* w, const QString& sheet) {
    if (w->styleSheet() != sheet)
        w->setStyleSheet(sheet);
}

} // namespace loom::app
