// Views of the demo, arranged for pictures: each by name, with something true in it.
#pragma once
#include "app/shell/main_window.h"
#include <QTemporaryDir>
#include <functional>
#include <map>

namespace loom::pictures {

struct Scene {
    app::MainWindow& window;
    QTemporaryDir folder{};
    std::vector<std::shared_ptr<void>> kept{}; // a rig, until the picture is taken

    app::Session& session() { return window.session(); }
    template <class View> View* view() { return window.findChild<View*>(); }
    void runFor(int ms);
    bool open(const project::Project& project); // from a file of its own
};

// False: it could not be arranged.
using Arrange = std::function<bool(Scene&)>;
std::map<QString, Arrange> siteViews();
std::map<QString, Arrange> designViews();
bool arrangeDeck(Scene& scene, const QString& kind); // the deck of a kind of block

} // namespace loom::pictures
