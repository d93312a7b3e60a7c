#include "app/theme/theme.h"
#include <QFontDatabase>

namespace loom::app {

Theme& Theme::get() {
    static Theme theme;
    return theme;
}

Theme::Theme() {
    linenTokens_ = {"#F3EEE4",
                    "#FBF8F1",
                    "#FFFDF8",
                    "#25282D",
                    "#5D6168",
                    "#8D8A82",
                    "#DCD4C5",
                    "#2F2B27",
                    "#D8CFBF",
                    "#DB9A2C",
                    "#F8EDD6",
                    "#5F7F3B",
                    "#C77F1A",
                    "#B3362F",
                    "#F7DFDA",
                    "#E9E1D2",
                    {"#A63D40", "#C48A1E", "#64803A", "#2A7F7A", "#2F5F85", "#75466F", "#BF6079", "#7A5A40"}};
    nightTokens_ = {"#1C1D20",
                    "#222428",
                    "#2A2D32",
                    "#ECE7DC",
                    "#B4AFA4",
                    "#7F7C75",
                    "#3D4046",
                    "#141414",
                    "#CFC6B6",
                    "#E5AB45",
                    "#3A3222",
                    "#93B867",
                    "#E0A04A",
                    "#EE7A70",
                    "#47292A",
                    "#33363B",
                    {"#E07A7C", "#E0B050", "#9CBB6C", "#5DB8B2", "#76A9D3", "#BD8CB6", "#E893AB", "#BE9A7C"}};
}

void Theme::loadFonts() {
    for (const char* f : {"Manrope-Medium", "Manrope-Bold", "JetBrainsMono-Regular", "JetBrainsMono-Bold"})
        QFontDatabase::addApplicationFont(QString(":/fonts/%1.ttf").arg(f));
}

void Theme::setNight(bool on) {
    night_ = on;
    emit changed();
}

void Theme::setPercent(int percent) {
    percent_ = qBound(80, percent, 200);
    emit changed();
}

QFont Theme::text(double size, bool bold) const {
    QFont f("Manrope");
    f.setPixelSize(qMax(8, ipx(size)));
    f.setWeight(bold ? QFont::Bold : QFont::Medium);
    return f;
}

QFont Theme::number(double size, bool bold) const {
    QFont f("JetBrains Mono");
    f.setPixelSize(qMax(8, ipx(size)));
    f.setWeight(bold ? QFont::Bold : QFont::Normal);
    return f;
}

const QStringList& Theme::threadNames() {
    static const QStringList names{"madder", "weld", "lichen", "teal", "woad", "plum", "rose", "walnut"};
    return names;
}

QColor Theme::thread(const QString& name) const {
    const auto i = threadNames().indexOf(name);
    return t().threads[i < 0 ? 7 : i];
}

QString Theme::sheet() const {
    const Tokens& k = t();
    const auto name = [](const QColor& c) { return c.name(); };
    return QString(R"(
QWidget { color: %1; font-family: "Manrope"; font-size: %2px; }
QMainWindow, QDialog { background: %3; }
QToolTip { background: %4; color: %1; border: 1px solid %5; padding: 4px; }
QMenu { background: %4; border: 1px solid %5; padding: 4px; }
QMenu::item { padding: 4px 16px; border-radius: 4px; }
QMenu::item:selected { background: %6; color: %1; }
QLineEdit, QComboBox { background: %4; border: 1px solid %5; border-radius: 4px; padding: 2px 6px; selection-background-color: %7; selection-color: #25282D; }
QLineEdit:focus, QComboBox:focus { border: 2px solid %7; padding: 1px 5px; }
QComboBox::drop-down { border: 0; width: %9px; }
QComboBox QAbstractItemView { background: %4; border: 1px solid %5; selection-background-color: %6; selection-color: %1; }
QPushButton { background: %4; border: 1px solid %8; border-radius: 8px; padding: 4px 12px; font-weight: bold; }
QPushButton:hover { background: %6; }
QPushButton:focus { border: 2px solid %7; padding: 3px 11px; }
QPushButton:disabled { color: %10; border-color: %5; }
QPushButton[main="true"] { background: %1; color: %4; }
QPushButton[main="true"]:disabled { background: transparent; color: %10; }
QPushButton:checked { background: %6; border-color: %7; color: %1; }
QPushButton[quiet="true"] { border: 0; background: transparent; }
QPushButton[quiet="true"]:focus { border: 2px solid %7; }
QScrollBar:vertical { background: transparent; width: 10px; } QScrollBar:horizontal { background: transparent; height: 10px; }
QScrollBar::handle { background: %10; border-radius: 5px; min-width: 24px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollArea, QListWidget, QTreeWidget { background: transparent; border: 0; }
QListWidget::item { padding: 4px 8px; border-radius: 4px; }
QTreeWidget::item { background: transparent; border: 0; padding: 2px 6px; }
QListWidget::item:selected, QTreeWidget::item:selected { background: %6; color: %1; }
QSplitter::handle { background: %1; }
QAbstractItemView::indicator { width: %11px; height: %11px; border: 1px solid %8; border-radius: 3px; background: %4; }
QAbstractItemView::indicator:checked { background: %6; border-color: %7; image: url(:/icons/%12.png); }
QAbstractItemView::indicator:disabled { border-color: %5; }
)")
        .arg(name(k.ink))
        .arg(ipx(12))
        .arg(name(k.sheet), name(k.card), name(k.hair), name(k.saffronTint), name(k.saffron), name(k.ink2))
        .arg(ipx(16))
        .arg(name(k.ink3))
        .arg(ipx(13))
        .arg(night_ ? "tick-night" : "tick");
}

} // namespace loom::app
