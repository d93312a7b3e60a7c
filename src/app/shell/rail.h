// The stages at the left, in the order of the work, each with its count of findings.
#pragma once
#include <QWidget>

namespace loom::app {

// The stages that work, in the order of the rail.
enum Stage { surveyStage, weaveStage, speakersStage, benchStage, siteStage };

class Rail : public QWidget {
    Q_OBJECT
  public:
    explicit Rail(QWidget* parent = nullptr);
    void setCurrent(int stage);
    int current() const { return current_; }
    void setFindings(int stage, int count);
    static const QStringList& stages(); // the ones that work

  signals:
    void chosen(int stage);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QRectF stageRect(int stage) const;
    int current_ = weaveStage;
    QList<int> findings_;
};

} // namespace loom::app
