// A list that drops open: as tall as what it holds, as far as the screen goes, and wide enough to read all of it.
#pragma once
#include <QAbstractItemView>
#include <QComboBox>

namespace loom::app {

class ChoiceBox : public QComboBox {
  public:
    using QComboBox::QComboBox;
    void showPopup() override {
        constexpr int edges = 28; // of the entries and the frame around them
        view()->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        view()->setTextElideMode(Qt::ElideNone);
        view()->setMinimumWidth(view()->sizeHintForColumn(0) + edges);
        setMaxVisibleItems(std::max(1, count()));
        QComboBox::showPopup();
    }
};

} // namespace loom::app
