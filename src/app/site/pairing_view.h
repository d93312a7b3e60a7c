// Planned devices on the left, found ones on the right, a thread for every pair; threads are drawn by dragging.
#pragma once
#include "app/shell/accessible.h"
#include "app/site/fleet.h"
#include <QAbstractScrollArea>

namespace loom::app {

class PairingView : public QAbstractScrollArea, public Painted {
    Q_OBJECT
  public:
    explicit PairingView(Fleet& fleet, QWidget* parent = nullptr);
    // The planned devices that are chosen, in the order of the plan; none: all paired ones are meant.
    std::vector<std::string> chosen() const;
    void choose(const std::vector<std::string>& devices);
    void chooseAll();                                        // planned devices
    std::string chosenFound() const { return chosenFound_; } // serial of the found card chosen last, or ""
    void chooseFound(const std::string& serial);
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;
    QPointF plannedEnd(const std::string& device) const; // where its thread begins, for tests and assistive programs
    QPointF foundEnd(const std::string& serial) const;
    void refresh();

  signals:
    void choiceChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    struct Card {
        std::string id; // device or serial
        bool found = false;
        QString name;
        std::string standsFor{}; // of a found one, the device it is paired with
        QRectF rect{};
        bool chosen = false;
    };
    // What changes all the time: worked out for the cards in sight only.
    struct Words {
        QString below, right;
        QColor edge, rightColour;
        bool lit = false;
    };
    struct Wrong {
        std::string code;
        bool fix = false;
    };
    struct Pair {
        std::string device, serial;
        QColor colour;
        bool whole = true, sealed = false;
    };
    struct Offer { // may be joined
        std::string device, serial;
    };
    void build();
    void place();
    Words wordsOf(const Card& c) const;
    Words wordsOfPlanned(const project::Device& d) const;
    Words wordsOfFound(const site::DiscoveredDevice& f, const Card& c) const;
    struct Fonts {
        QFont name, below, number, strong;
    };
    void paintCard(QPainter& p, const Card& c, const Fonts& fonts) const;
    const Card* cardAt(const QPointF& at) const;
    const Card* card(const std::string& id, bool found) const;
    QRectF offerRect(const Offer& o) const;
    QColor colourOf(const project::Device& d) const;
    void chooseCard(const Card& c, bool more);

    Fleet& fleet_;
    std::vector<Card> cards_;
    std::map<std::pair<std::string, bool>, std::size_t> places_; // of cards, by id and whether found
    std::vector<Pair> pairs_;
    std::vector<Offer> offers_;
    std::map<std::string, Wrong> worst_; // by serial
    std::vector<std::size_t> sounding_;  // by device
    std::set<std::string> chosen_;
    std::string chosenFound_, held_;
    std::optional<std::pair<QPointF, QPointF>> drag_; // of a new thread, in the viewport
    std::string dragFrom_;
    bool dragFound_ = false;
    QTimer hold_;
};

} // namespace loom::app
