#include "app/parameter_drag.h"
#include <QApplication>
#include <QDrag>
#include <QMimeData>
#include <QMouseEvent>
#include <functional>

namespace loom::app {

namespace {

class DragSource : public QObject {
  public:
    DragSource(QWidget* widget, std::function<QString()> path, Qt::CursorShape cursor, std::function<void()> begins)
        : QObject(widget), path_(std::move(path)), begins_(std::move(begins)) {
        widget->installEventFilter(this);
        widget->setCursor(cursor);
    }

  protected:
    bool eventFilter(QObject* of, QEvent* e) override {
        auto* widget = static_cast<QWidget*>(of);
        const auto* m = static_cast<QMouseEvent*>(e);
        if (e->type() == QEvent::MouseButtonPress && m->button() == Qt::LeftButton) {
            from_ = m->position();
            held_ = true;
            what_ = path_();
        } else if (e->type() == QEvent::MouseButtonRelease) {
            held_ = false;
        } else if (e->type() == QEvent::MouseMove && held_ && (m->buttons() & Qt::LeftButton) &&
                   (m->position() - from_).manhattanLength() >= QApplication::startDragDistance()) {
            held_ = false;
            if (what_.isEmpty())
                return false;
            if (begins_)
                begins_();
            dragParameter(widget->window(), what_);
            return true;
        }
        return false;
    }

  private:
    std::function<QString()> path_;
    std::function<void()> begins_;
    QString what_{};
    QPointF from_{};
    bool held_ = false;
};

} // namespace

QMimeData* parameterMime(const QStringList& paths) {
    auto* mime = new QMimeData;
    mime->setData(driveMime, paths.join('\n').toUtf8());
    return mime;
}

QStringList parametersIn(const QMimeData& mime) {
    return QString::fromUtf8(mime.data(driveMime)).split('\n', Qt::SkipEmptyParts);
}

void dragParameter(QWidget* from, const QString& path) {
    auto* drag = new QDrag(from);
    drag->setMimeData(parameterMime({path}));
    drag->exec(Qt::CopyAction);
}

void makeParameterSource(QWidget* widget, std::function<QString()> path, Qt::CursorShape cursor,
                         std::function<void()> begins) {
    new DragSource(widget, std::move(path), cursor, std::move(begins));
}

} // namespace loom::app
