// Parameters and what else has a path, as they are dragged from where they are shown to where they are wanted.
#pragma once
#include <QStringList>
#include <functional>

class QMimeData;
class QWidget;

namespace loom::app {

inline constexpr const char* driveMime = "application/x-nimble-loom-drive"; // paths, a line each (surface/bundle.h)

QMimeData* parameterMime(const QStringList& paths);
QStringList parametersIn(const QMimeData& mime); // empty: there are none
// Drags it from a widget until it is let go.
void dragParameter(QWidget* from, const QString& path);
// Dragging begins on this widget; `path` says what, "" for nothing, and is asked where the mouse went down. `begins`:
// what lies over where it is to go gives way.
void makeParameterSource(QWidget* widget, std::function<QString()> path, Qt::CursorShape cursor = Qt::OpenHandCursor,
                         std::function<void()> begins = {});

} // namespace loom::app
