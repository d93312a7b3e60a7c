// The Site stage: find the device, pair it, see what differs, try, keep, power-cycle, go live.
#pragma once
#include "app/session.h"
#include "app/shell/accessible.h"
#include "app/site/device_tools.h"
#ifndef Q_MOC_RUN
#include "project/difference.h"
#endif
#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace loom::app {

class SitePage : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit SitePage(Session& session, QWidget* parent = nullptr);
    void look(); // sweeps the chosen range, and the planned address
    void tryProgram();
    void keep();
    void powerCycle();
    void setLive(bool on);
    void takeFromDevice();
    bool live() const { return live_; }
    RigLink& link() { return link_; }
    bool paired() const;
    int differing() const { return static_cast<int>(differences_.size()); }
    QString stateWord() const; // for the top bar
    const nlohmann::json& deviceState() const { return state_; }
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  signals:
    void stateChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;

  private:
    struct Found {
        QString address;
        nlohmann::json about;
    };
    void probe(const QString& address);
    void pair(const Found& found);
    void fetch();
    void compare();
    void refresh();
    void tellHealth();
    void followChange(const project::Change& change);
    QRectF plannedCard() const;
    QRectF foundCard(int i) const;
    int cardsTop() const;

    Session& session_;
    RigLink link_;
    DeviceTools tools_{link_};
    QComboBox* range_;
    QLineEdit* address_;
    QPushButton *look_, *pair_, *try_, *keep_, *take_, *cycle_, *liveButton_;
    QLabel *summary_, *title_;
    QLayout* head_ = nullptr;
    QWidget* cards_; // the room that the painted cards take
    QTableWidget* table_;
    QTimer poll_;
    std::vector<Found> found_;
    nlohmann::json state_, meters_;
    std::optional<engine::Program> deviceProgram_;
    std::vector<project::Difference> differences_;
    bool live_ = false, busy_ = false, looked_ = false;
};

} // namespace loom::app
