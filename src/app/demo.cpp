#include "app/demo.h"
#include "app/text.h"
#include "catalogue/catalogue.h"
#include <QDir>
#include <QStandardPaths>

namespace loom::app {

QString demoCopy() {
    const QString from = q(project::dataFolder()) + "/demo/marram-point";
    QString to = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/marram-point";
    if (!QFile::exists(to + "/project.json")) {
        QDir().mkpath(to + "/assets");
        QFile::copy(from + "/project.json", to + "/project.json");
        for (const auto& asset : QDir(from + "/assets").entryList(QDir::Files))
            QFile::copy(from + "/assets/" + asset, to + "/assets/" + asset);
    }
    return to;
}

} // namespace loom::app
