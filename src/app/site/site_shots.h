// Arranges the Site stage for its pictures, on the devices of the scenario "first day" or on many.
#pragma once
#include <QString>
#include <functional>

namespace loom::app {

class MainWindow;

// site (differences with a conflict), site-todo, site-device, site-seal, site-health, site-60; false: none of them.
// `runFor` lets the application work for so many milliseconds; `picture` is called when all is arranged.
bool arrangeSite(MainWindow& window, const QString& stage, const std::function<void(int)>& runFor,
                 const std::function<void()>& picture);

} // namespace loom::app
