// Whose is what: a column for each room and one for nobody, with the ports, lines, arrays and contacts that are theirs.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

namespace loom::app {

class WhoseView : public QWidget {
    Q_OBJECT
  public:
    explicit WhoseView(TalkState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    // Columns by owner, in order; "" is nobody's.
    const std::vector<std::string>& owners() const { return owners_; }
    QRectF columnRect(const std::string& owner) const;
    QRectF chipRect(const std::string& device, const std::string& port) const; // empty: it is not shown
    const std::set<int>& chosen() const { return chosen_; }                    // of TalkState::belongings()
    void give(const std::string& owner);                                       // those that are chosen; reports
    // The one contact that is chosen, device and port; none: another thing, or several.
    std::optional<std::pair<std::string, std::string>> contact() const;
    QString columnName(const std::string& owner) const;

  signals:
    void wantsMenu(const QPoint& at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    void again();
    void lay();
    int at(const QPointF& pos) const; // a belonging; -1: none
    int columnAt(const QPointF& pos) const;
    const std::vector<project::Belonging>& all() const { return state_.belongings(); }
    TalkState& state_;
    std::vector<std::string> owners_;
    std::vector<QRectF> chips_;                     // by belonging; empty: not shown
    std::vector<std::pair<QRectF, QString>> heads_; // of devices within columns
    std::vector<int> order_;                        // by column and place, for arrows
    std::vector<int> counts_, free_;
    double high_ = 0, column_ = 0;
    std::set<int> chosen_;
    int current_ = -1;
    std::optional<QPointF> pressed_, drag_;
};

} // namespace loom::app
