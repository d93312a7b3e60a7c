// Pictures of touch surfaces: decoded as large as they are shown, taken from files and the clipboard.
#pragma once
#include "app/surfaces/surfaces_state.h"
#include <QImage>

class QMimeData;

namespace loom::app {

// A file of the project as large as fits the box, in pixels of the screen; null: there is none, or it is no picture.
QImage pictureAt(const project::Project& project, const std::string& name, const QSize& box);
// Those that are dropped or pasted: the first onto the control `on`, if it is one that shows pictures or a button;
// else each as one of its own. What cannot be taken is said.
void takePictures(SurfacesState& state, const QMimeData& from, const QPointF& at, const std::string& on);
// The chosen pictures' files made anew, as large as they are shown. False: there is nothing to do.
bool scalePictures(SurfacesState& state);

} // namespace loom::app
