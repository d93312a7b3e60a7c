// The Surfaces stage: pages and plies on the left, the page in the middle, what drives it on the right.
#pragma once
#include "app/surfaces/surface_pictures.h"
#include "app/surfaces/surfaces_state.h"
#include <QPointer>
#include <QWidget>

class QPushButton;

namespace loom::project {
struct PageSource;
}

namespace loom::app {

class Commands;
class DriveList;
class PageList;
class PageShare;
class SurfaceCanvas;
class SurfaceWindow;

class SurfacesPage : public QWidget {
    Q_OBJECT
  public:
    SurfacesPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    SurfacesState& state() { return state_; }
    SurfaceCanvas* canvas() { return canvas_; }
    DriveList* drives() { return drives_; }
    void newSurface();
    void newPage();
    void newPly();
    void rename(); // the page
    void makePage();
    void makeFromChosen(); // of what is chosen in the list that drives
    void copyAs();
    void fromDesign(); // the lane or bead that is chosen in Weave
    void saveSurface();
    void bringSurface();
    void bringFile(const QString& path);
    void saveDrawing();
    void repoint();
    void askPly(); // puts the chosen controls on another ply
    void removeSurface();
    SurfaceWindow* useHere(); // in a window of its own; null: there is no surface
    void inBrowser();
    void onPhone();
    PageShare& share() { return *share_; }
    void choosePicture();
    void pastePicture();
    PictureScaler& scaler() { return scaler_; }
    void keepScene();
    void setPin();                                           // of a role, on the devices that show the surface
    SurfaceWindow* window(const std::string& surface) const; // that is open; null: none

  protected:
    void showEvent(QShowEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    void refresh();
    void menu(const std::vector<const char*>& ids, const QPoint& at);
    void makePages(const Result<project::PageSource>& source);
    SurfacesState state_;
    Commands& commands_;
    PageList* pages_;
    SurfaceCanvas* canvas_;
    DriveList* drives_;
    QWidget* bar_;
    QPushButton* side_ = nullptr; // where only one side has room: shows the other
    bool drivesShown_ = false;
    std::vector<QPushButton*> arranging_;
    std::vector<QPointer<SurfaceWindow>> windows_{};
    PageShare* share_;
    PictureScaler scaler_;
};

} // namespace loom::app
