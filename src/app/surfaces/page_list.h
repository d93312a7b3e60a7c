// Surfaces, the pages of one and the plies of one page, from front to back.
#pragma once
#include "app/surfaces/surfaces_state.h"
#include <QWidget>

class QComboBox;
class QLabel;
class QListWidget;
class QTreeWidget;
class QTreeWidgetItem;

namespace loom::app {

class PageList : public QWidget {
    Q_OBJECT
  public:
    explicit PageList(SurfacesState& state, QWidget* parent = nullptr);

  signals:
    void wants(const QString& command);
    void wantsPageMenu(const QPoint& at);
    void wantsPlyMenu(const QPoint& at);

  private:
    void refresh();
    QString picturesText(); // what they take of what the screen has; "": there are none
    SurfacesState& state_;
    QComboBox* surfaces_;
    QLabel* size_;
    QListWidget* pages_;
    QTreeWidget* plies_;
    bool filling_ = false;
    std::vector<std::tuple<std::string, const char*, double, double>>
        loaded_{}; // pictures as they were worked out last
    QString loadText_{};
};

} // namespace loom::app
