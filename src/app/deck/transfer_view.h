// What a dynamics block does to a steady level: out over in, both in dBFS, with a point where the sound is now.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class TransferView : public QWidget {
    Q_OBJECT
  public:
    TransferView(Session& session, const QString& block, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    QString block_;
};

} // namespace loom::app
