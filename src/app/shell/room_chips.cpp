#include "app/shell/room_chips.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>

namespace loom::app {

RoomChips::RoomChips(QWidget* parent) : QWidget(parent) {
    setAccessibleName("Rooms");
    auto* chips = new QHBoxLayout(this);
    chips->setContentsMargins(0, 0, 0, 0);
    chips->setSpacing(4);
}

void RoomChips::show(const project::Project& project, const std::string& here) {
    QString key = QString::number(Theme::get().percent()) + (Theme::get().night() ? "n" : "l") + q(here);
    std::vector<const project::Room*> rooms;
    for (const auto& b : project.buildings)
        for (const auto& r : b.rooms) {
            rooms.push_back(&r);
            key += '|' + q(r.id + r.name + r.colour);
        }
    if (std::exchange(shown_, key) == key)
        return;
    while (auto* item = layout()->takeAt(0)) {
        item->widget()->hide(); // at once, whoever runs the loop
        item->widget()->deleteLater();
        delete item;
    }
    const std::size_t most = Theme::get().percent() > 160   ? 1
                             : Theme::get().percent() > 120 ? 2
                                                            : 5; // the others are found by find-or-do
    for (std::size_t i = 0; i < std::min(most, rooms.size()); ++i) {
        auto* chip = new QPushButton(q(rooms[i]->name));
        chip->setObjectName("room." + q(rooms[i]->id));
        chip->setFocusPolicy(Qt::NoFocus);
        QPixmap disc(Theme::get().ipx(10), Theme::get().ipx(10));
        disc.fill(Qt::transparent);
        QPainter paint(&disc);
        paint.setRenderHint(QPainter::Antialiasing);
        paint.setPen(Qt::NoPen);
        paint.setBrush(Theme::get().thread(q(rooms[i]->colour)));
        paint.drawEllipse(disc.rect());
        paint.end();
        chip->setIcon(disc);
        chip->setProperty("main", rooms[i]->id == here);
        connect(chip, &QPushButton::clicked, this, [this, id = rooms[i]->id] { emit chosen(id); });
        layout()->addWidget(chip);
    }
    if (rooms.size() > most)
        layout()->addWidget(new QLabel(QString("+%1").arg(rooms.size() - most)));
}

} // namespace loom::app
