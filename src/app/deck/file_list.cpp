#include "app/deck/file_list.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "engine/block_kind.h"
#include "engine/play_list.h"
#include <QFileDialog>
#include <QGridLayout>
#include <QPushButton>

namespace loom::app {

// The card is made anew when the list changes.
FileList::FileList(Session& session, const QString& block, QWidget* parent)
    : QWidget(parent), session_(session), block_(block) {
    const auto& b = *session.program()->find(block.toStdString());
    const auto* kind = engine::findKind(b.kind);
    const auto files = engine::playList(b.texts);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(Theme::get().ipx(3));
    const auto button = [&](const QString& text, const QString& name, const QString& says) {
        auto* made = new QPushButton(text);
        made->setObjectName(block + "." + name);
        made->setAccessibleName(says);
        made->setToolTip(says);
        return made;
    };
    int number = 0;
    for (const auto& file : files) {
        ++number;
        const QString key = q(engine::fileKey(number));
        auto* change = button(q(file), key, "Choose another file instead of " + q(file));
        auto* away = button(QString(QChar(0x00D7)), key + ".remove", "Remove " + q(file) + " from the list");
        away->setFixedWidth(Theme::get().ipx(26));
        away->setStyleSheet("padding: 0");
        connect(change, &QPushButton::clicked, this, [this, number] { choose(number); });
        connect(away, &QPushButton::clicked, this, [this, number] { remove(number); });
        grid->addWidget(change, number, 0);
        grid->addWidget(away, number, 1);
    }
    if (number < kind->files) {
        const QString what = kind->taps ? "an impulse response\u2026"
                             : number   ? "another sound file\u2026"
                                        : "a sound file\u2026";
        auto* add = button((number ? "Add " : "Choose ") + what, q(engine::fileKey(number + 1)),
                           kind->taps ? "A sound file, or a text with a number a line" : "WAV, FLAC or OGG");
        connect(add, &QPushButton::clicked, this, [this, number] { choose(number + 1); });
        grid->addWidget(add, number + 1, 0, 1, 2);
    }
}

void FileList::choose(int number) {
    const auto* kind = engine::findKind(session_.program()->find(block_.toStdString())->kind);
    const QString path = QFileDialog::getOpenFileName(this, kind->taps ? "Impulse response" : "Sound to play", {},
                                                      kind->taps ? "Impulse responses (*.wav *.flac *.txt *.csv)"
                                                                 : "Sound (*.wav *.flac *.ogg)");
    if (!path.isEmpty())
        session_.setFile(block_, q(engine::fileKey(number)), path);
}

void FileList::remove(int number) {
    engine::Program p = *session_.program();
    auto& texts = p.find(block_.toStdString())->texts;
    auto files = engine::playList(texts);
    const QString name = q(files.at(static_cast<std::size_t>(number - 1)));
    files.erase(files.begin() + (number - 1));
    for (int n = 1; n <= engine::maxPlayList; ++n)
        texts.erase(engine::fileKey(n));
    for (std::size_t i = 0; i < files.size(); ++i)
        texts[engine::fileKey(static_cast<int>(i) + 1)] = files[i];
    session_.setProgram(p, "Remove " + name + " from the list");
}

} // namespace loom::app
