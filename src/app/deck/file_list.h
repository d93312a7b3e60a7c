// The sound files of a block: which there are, more of them, fewer.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class FileList : public QWidget {
    Q_OBJECT
  public:
    FileList(Session& session, const QString& block, QWidget* parent = nullptr);

  private:
    void choose(int number); // from 1
    void remove(int number);
    Session& session_;
    QString block_;
};

} // namespace loom::app
