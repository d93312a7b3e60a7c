// Pictures of touch surfaces: decoded beside the window as large as they are shown, taken from files and the clipboard.
#pragma once
#include "app/surfaces/surfaces_state.h"
#include "app/worker.h"
#include <QImage>

class QMimeData;

namespace loom::app {

// Tells whoever paints that a picture has come.
class PictureNews : public QObject {
    Q_OBJECT
  public:
    static PictureNews& get();

  signals:
    void came();
};

// A file of the project as large as fits the box, in pixels of the screen. It is decoded on a thread of its own: until
// then it is null, or as it was shown last in another size; PictureNews tells. Null too: there is none, or it is no
// picture.
QImage pictureAt(const project::Project& project, const std::string& name, const QSize& box);
void settlePictures(); // waits for all that were asked for

// Those that are dropped or pasted: the first onto the control `on`, if it is one that shows pictures or a button;
// else each as one of its own. What cannot be taken is said.
void takePictures(SurfacesState& state, const QMimeData& from, const QPointF& at, const std::string& on);

// Makes the chosen pictures' files anew, as large as they are shown, beside the window; then as one step.
class PictureScaler {
  public:
    explicit PictureScaler(SurfacesState& state);
    void scale(); // says where there is nothing to do
    bool busy() const { return worker_.busy(); }

  private:
    struct Scaled {
        std::string control, what, name;
        std::vector<char> bytes;
    };
    bool showsStill(const std::string& control, const std::string& name) const;
    SurfacesState& state_;
    project::PagePlace place_{};
    Worker<std::vector<Scaled>> worker_;
};

} // namespace loom::app
