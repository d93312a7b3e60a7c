// Rules as sentences of chips, card by card. Arrows move over lines and gaps, Enter fills a gap.
#pragma once
#include "app/rules/rules_state.h"
#include "app/shell/accessible.h"
#include <QWidget>

namespace loom::app {

class RuleView : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit RuleView(RulesState& state, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    // Where things are painted, for hands.
    QRectF ruleRect(const std::string& rule) const;
    QRectF switchRect(const std::string& rule) const;
    QRectF gapRect(const std::string& rule, RulesState::Line line,
                   const std::string& gap) const; // null: it is not shown
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;
    void moveOver(int by);  // to the next line
    void moveAlong(int by); // to the next gap

  signals:
    void wantsGap(const std::string& gap, const QRect& where); // to be filled
    void wantsMenu(const QPoint& at);
    void wantsLine(const QString& text); // begun, in the line to type in
    void moved(const QRect& to);         // what is chosen lies there

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void showEvent(QShowEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dragMoveEvent(QDragMoveEvent*) override;
    void dropEvent(QDropEvent*) override; // on a gap it fills it, on a card it begins a line
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    struct Piece {
        QRectF rect{};
        QString text{}, gap{}; // gap: ""  words
        bool wrong = false, value = false;
    };
    struct Row {
        RulesState::Line line{};
        QRectF rect{};
        QString word{};
        std::vector<Piece> pieces{};
    };
    struct Card {
        std::string rule{};
        QRectF rect{}, onRect{};
        bool on = true;
        QString name{}, foot{};
        std::vector<Row> rows{};
    };
    void layOut();
    void lay(Card& card, const project::Rule& rule, double& y);
    void turn();
    const Row* chosenRow() const;
    RulesState& state_;
    std::vector<Card> cards_{};
};

} // namespace loom::app
