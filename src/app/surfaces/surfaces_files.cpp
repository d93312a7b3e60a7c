// What the Surfaces stage saves and takes: surfaces as files, pages as drawings, pictures.
#include "app/shell/ask.h"
#include "app/surfaces/here_values.h"
#include "app/surfaces/surfaces_page.h"
#include "app/text.h"
#include "disk/safe_file.h"
#include "surface/page_svg.h"
#include "surface/surface_file.h"
#include <QClipboard>
#include <QFileDialog>
#include <QGuiApplication>
#include <QMimeData>
#include <QUrl>

namespace loom::app {

using namespace project;

namespace {
const char* const surfaceFiles = "Touch surfaces (*.surface.json);;All files (*)";
}

void SurfacesPage::saveSurface() {
    const QString file = QFileDialog::getSaveFileName(this, "Save the surface as a file of its own",
                                                      q(state_.surface()->name) + ".surface.json", surfaceFiles);
    if (file.isEmpty())
        return;
    const auto done =
        writeWhole(file.toStdString(), surfaceFileText(surfaceFileOf(state_.project(), *state_.surface())), false);
    done ? state_.session().report("Saved in " + file + ".", false) : state_.session().report(done.error());
}

void SurfacesPage::bringSurface() {
    const QString file = QFileDialog::getOpenFileName(this, "Bring in a surface", {}, surfaceFiles);
    if (!file.isEmpty())
        bringFile(file);
}

void SurfacesPage::bringFile(const QString& path) {
    const auto text = readWhole(path.toStdString(), largestSurfaceFile);
    const auto file = text ? readSurfaceFile(*text, path.toStdString()) : Result<SurfaceFile>(text.error());
    if (!file)
        return state_.session().report(file.error());
    QStringList names;
    std::vector<std::string> ids;
    for (const auto* d : freeScreens(state_.project()))
        names << q(d->name), ids.push_back(d->id);
    names << "None yet";
    ids.push_back("");
    const auto which =
        ids.size() == 1 ? std::optional<std::size_t>(0) : askChoice(this, "Bring in " + q(file->name), "For", names);
    if (which && state_.edit(addSurfaceFile(state_.project(), *file, ids[*which])))
        state_.choose(state_.project().surfaces.back().id);
}

void SurfacesPage::saveDrawing() {
    const auto* page = state_.page();
    const QString file =
        QFileDialog::getSaveFileName(this, "Save the page as a drawing", q(page->name) + ".svg", "Drawings (*.svg)");
    if (file.isEmpty())
        return;
    HereValues values(state_.session());
    SurfaceUse use(state_.project(), state_.place().surface, values);
    if (!page->roles.empty())
        use.be(page->roles.front());
    use.open(page->id);
    const auto done = writeWhole(file.toStdString(), pageSvg(use), false);
    done ? state_.session().report("Saved in " + file + ".", false) : state_.session().report(done.error());
}

void SurfacesPage::choosePicture() {
    const QString file =
        QFileDialog::getOpenFileName(this, "A picture for the page", {}, "Pictures (*.png *.jpg *.jpeg *.svg)");
    if (file.isEmpty() || !state_.surface())
        return;
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    takePictures(state_, data, {state_.surface()->width / 2.0, state_.surface()->height / 2.0},
                 state_.chosen().empty() ? "" : state_.chosen().front());
}

void SurfacesPage::pastePicture() {
    const auto* data = QGuiApplication::clipboard()->mimeData();
    if (!data || (!data->hasImage() && !data->hasUrls()))
        return state_.session().report("There is no picture on the clipboard.");
    takePictures(state_, *data, {state_.surface()->width / 2.0, state_.surface()->height / 2.0},
                 state_.chosen().empty() ? "" : state_.chosen().front());
}

} // namespace loom::app
