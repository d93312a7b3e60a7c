#include "app/patch/patch_page.h"
#include "app/patch/hear_view.h"
#include "app/patch/wire_view.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "client/fleet.h"
#include "disk/safe_file.h"
#include "patch/outside.h"
#include "program/ports.h"
#include "voicings/relief.h"
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

PatchPage::PatchPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(session), ear_(session), commands_(commands), hears_(new HearView(state_, ear_)),
      wires_(new WireView(state_)), stack_(new QStackedWidget), phrase_(new QLineEdit), chips_(new QWidget),
      chipRow_(new FlowLayout), hearButton_(new QPushButton("Who hears whom")),
      wireButton_(new QPushButton("How it is wired")), cut_(new QPushButton("Cut here")),
      mend_(new QPushButton("Mend all")), offer_(new QPushButton("Offer a stream\u2026")),
      lay_(new QPushButton("Draw a cable\u2026")), allRooms_(new QPushButton("All rooms")), back_(new QPushButton) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 6, 12, 0);
    box->setSpacing(4);
    auto* top = new QWidget;
    auto* row = new FlowLayout;
    top->setLayout(row);
    chips_->setLayout(chipRow_);
    for (auto* b : {hearButton_, wireButton_})
        b->setCheckable(true);
    phrase_->setObjectName("patchPhrase");
    phrase_->setPlaceholderText("> who is to hear it");
    phrase_->setToolTip("Type where the chosen streams go: > recorder, or > recorder in 3");
    phrase_->setAccessibleName("Where the chosen streams go");
    phrase_->setMinimumWidth(150);
    hearButton_->setObjectName("patchHearButton");
    wireButton_->setObjectName("patchWireButton");
    for (auto* w : std::initializer_list<QWidget*>{hearButton_, wireButton_, offer_, phrase_, allRooms_, lay_, cut_,
                                                   mend_, back_})
        row->addWidget(w);
    box->addWidget(top);
    box->addWidget(chips_);
    box->addWidget(stack_, 1);
    stack_->addWidget(hears_);
    stack_->addWidget(wires_);
    connect(hearButton_, &QPushButton::clicked, this, [this] { showWiring(false); });
    connect(wireButton_, &QPushButton::clicked, this, [this] { showWiring(true); });
    const auto does = [&](QPushButton* button, const char* id) {
        connect(button, &QPushButton::clicked, this, [this, id] { commands_.run(id); });
    };
    does(offer_, "patch.offer");
    does(lay_, "patch.lay");
    does(allRooms_, "patch.rooms");
    allRooms_->setObjectName("patchAllRooms");
    does(cut_, "patch.cut");
    does(mend_, "patch.mend");
    does(back_, "patch.giveBack");
    back_->setObjectName("patchGiveBack");
    connect(&ear_, &PatchEar::changed, this, &PatchPage::sayBrought);
    connect(&ear_, &PatchEar::levels, this, &PatchPage::sayBrought);
    connect(&session, &Session::atWorkChanged, this, &PatchPage::sayBrought);
    connect(hears_, &HearView::wantsDescription, this, &PatchPage::takeDescription);
    connect(phrase_, &QLineEdit::returnPressed, this, [this] {
        if (state_.phrase(phrase_->text())) {
            phrase_->clear();
            hears_->setFocus();
        }
    });
    connect(hears_, &HearView::wantsPhrase, this, [this] {
        phrase_->setText("> ");
        phrase_->setFocus();
    });
    connect(hears_, &HearView::wantsMenu, this, [this](const QPoint& at) { menu(at, false); });
    connect(wires_, &WireView::wantsMenu, this, [this](const QPoint& at) { menu(at, true); });
    connect(&state_, &PatchState::changed, this, &PatchPage::refresh);
    connect(&state_, &PatchState::chosen, this, &PatchPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        shownChips_.clear();
        refresh();
    });
}

void PatchPage::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void PatchPage::showWiring(bool on) {
    wiring_ = on;
    stack_->setCurrentIndex(on ? 1 : 0);
    refresh();
    takeFocus();
    emit wiringShown(on);
}

void PatchPage::takeFocus() {
    wiring_ ? wires_->setFocus() : hears_->setFocus();
}

void PatchPage::refresh() {
    if (!isVisible())
        return;
    hearButton_->setChecked(!wiring_);
    wireButton_->setChecked(wiring_);
    for (auto* w : std::initializer_list<QWidget*>{offer_, phrase_, chips_})
        w->setVisible(!wiring_);
    for (auto* w : {lay_, cut_})
        w->setVisible(wiring_);
    allRooms_->setVisible(!wiring_ && !state_.filter().rooms.empty());
    mend_->setVisible(!state_.cut().none());
    sayBrought();
    cut_->setEnabled(!state_.wire().empty() || !state_.taker().empty());
    const bool cut = state_.cut().wires.count(state_.wire()) || state_.cut().devices.count(state_.taker());
    cut_->setText(cut ? "Mend it" : "Cut here");
    const auto& filter = state_.filter();
    QString chips;
    for (const auto& u : state_.uses())
        chips +=
            q(u.name) + QString(" %1/%2 %3;")
                            .arg(u.used)
                            .arg(u.most)
                            .arg(filter.transport == u.transport && (filter.ring.empty() || filter.ring == u.name));
    if (std::exchange(shownChips_, chips) == chips)
        return;
    while (auto* item = chipRow_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    const auto chip = [&](const QString& text, bool on, std::optional<Transport> transport, const std::string& ring) {
        auto* b = new QPushButton(text);
        b->setCheckable(true);
        b->setChecked(on);
        connect(b, &QPushButton::clicked, this, [this, transport, ring] {
            shownChips_.clear();
            state_.showTransport(transport, ring);
        });
        chipRow_->addWidget(b);
        b->show();
    };
    chip("Everything", !filter.transport, {}, {});
    for (const auto& u : state_.uses()) {
        const bool ring = u.transport == Transport::ring && u.name != specOf(Transport::ring).name;
        chip(QString("%1   %2 of %3").arg(q(u.name)).arg(u.used).arg(u.most),
             filter.transport == u.transport && (filter.ring.empty() || filter.ring == u.name), u.transport,
             ring ? u.name : "");
    }
    chips_->updateGeometry();
}

void PatchPage::menu(const QPoint& at, bool wiring) {
    QMenu menu(this);
    for (const char* id :
         wiring ? std::initializer_list<const char*>{"patch.cut", "patch.mend", "patch.relieve", "patch.unwire",
                                                     "patch.lay", "patch.ring"}
                : std::initializer_list<const char*>{"patch.offer", "patch.drop", "patch.dropAll", "patch.dropDevice",
                                                     "patch.choice", "patch.withdraw", "patch.align", "patch.bring",
                                                     "patch.giveBack", "patch.save", "patch.announced", "patch.paste"})
        commands_.addTo(menu, id);
    menu.exec(at);
}

// ---- what is done ----

void PatchPage::offer() {
    QStringList names;
    std::vector<const Device*> devices;
    const Device* first = nullptr;
    for (const auto& d : state_.project().devices)
        if (const auto* m = d.spec(); m && std::any_of(m->outputs.begin(), m->outputs.end(), [](const auto& g) {
                                          return specOf(transportOf(g.name + " ")).streams;
                                      })) {
            names += q(d.name);
            devices.push_back(&d);
            if (d.id == state_.taker() || (state_.offer() && state_.offer()->device->id == d.id))
                first = &d;
        }
    if (devices.empty())
        return state_.session().report(
            "No device sends sound over a network or ring. Put one on the plan first, in Survey.");
    const auto answer = ask(this, "Offer a stream",
                            {{"Device", q(first ? first->name : devices[0]->name), names, false},
                             {"Name", "", {}, true},
                             {"Outputs, a channel each", "net 1-2", {}, true},
                             {"Samples", "24 bits", {"24 bits", "16 bits"}, false},
                             {"Packet time, ms", "1", {"0.125", "0.25", "0.333", "1", "4"}, true}});
    if (!answer)
        return;
    const auto* d = devices[placeOf(names, (*answer)[0])];
    const auto ports = portsSaid(*d, (*answer)[2].toStdString());
    if (!ports)
        return state_.session().report(ports.error());
    bool number = false;
    const double packet = (*answer)[4].toDouble(&number);
    if (!number)
        return state_.session().report("\"" + (*answer)[4] + "\" is no packet time. Type 0.125 to 4 ms.");
    const std::string name = (*answer)[1].trimmed().toStdString();
    if (state_.run(offerStream(state_.project(), d->id, name, *ports, (*answer)[3] == "16 bits" ? 16 : 24, packet)))
        for (const auto& s : state_.project().device(d->id)->streams)
            if (s.name == name)
                state_.chooseRow(d->id + "/" + s.id);
}

void PatchPage::addChoice() {
    QStringList names;
    std::vector<std::string> keys;
    const std::string device = endOf(state_.thread()).first;
    for (const auto& o : state_.patched().offers)
        if (o.device->id != device) {
            names += q(o.device->name + " \u00b7 " + o.stream->name);
            keys.push_back(o.key);
        }
    if (names.isEmpty())
        return state_.session().report("There is no other stream it could hear.");
    if (const auto which = askChoice(this, "It may hear as well", "Stream", names))
        state_.run(project::addChoice(state_.project(), state_.thread(), keys[*which]));
}

void PatchPage::lay() {
    QStringList names;
    std::vector<const Device*> devices;
    for (const auto& d : state_.project().devices)
        if (!socketsOf(d).empty()) {
            names += q(d.name);
            devices.push_back(&d);
        }
    if (devices.size() < 2)
        return state_.session().report("There are no two devices with sockets. Put them on the plan first, in Survey.");
    const auto answer = ask(this, "Draw a cable",
                            {{"From", names[0], names, false},
                             {"To", names[1], names, false},
                             {"Number", "", {}, true},
                             {"Length, m", "", {}, true}});
    if (!answer)
        return;
    const auto at = [&](int line) { return devices[placeOf(names, (*answer)[line])]->id; };
    state_.run(
        layWire(state_.project(), {at(0), at(1), (*answer)[2].trimmed().toStdString(), (*answer)[3].toDouble()}));
}

void PatchPage::orderRing() {
    QStringList names;
    for (const auto& r : state_.wired().rings)
        if (names.isEmpty())
            for (const int n : r.devices)
                names += q(state_.project().devices[static_cast<std::size_t>(n)].name);
    if (names.isEmpty())
        for (const auto& d : state_.project().devices)
            if (const auto* m = d.spec(); m && m->ring)
                names += q(d.name);
    if (names.size() < 2)
        return state_.session().report("There are no two devices with ring sockets.");
    const auto answer = askOne(this, "Devices of the ring, in order", {"Devices", names.join(", ")});
    if (!answer)
        return;
    std::vector<std::string> ids;
    for (const auto& name : answer->split(',', Qt::SkipEmptyParts)) {
        std::string id = name.trimmed().toStdString();
        for (const auto& d : state_.project().devices)
            if (d.name == id)
                id = d.id;
        ids.push_back(id);
    }
    state_.run(project::orderRing(state_.project(), ids));
}

void PatchPage::dropDevice() {
    const auto keys = receiversOf(state_.project(), state_.taker());
    QStringList list;
    for (const auto& key : keys)
        if (const auto* h = state_.patched().hearing(key))
            list +=
                q(h->offer < 0 ? h->stream : state_.patched().offers[static_cast<std::size_t>(h->offer)].stream->name);
    const auto* d = state_.project().device(state_.taker());
    if (!d || list.isEmpty())
        return state_.session().report("It hears nothing. Choose a device on the right that does.");
    if (askWhich(this, "Take all off " + q(d->name) + "?", list.join("\n"), {"Take them off", "Leave them"}) == 0)
        state_.run(dropReceivers(state_.project(), keys));
}

void PatchPage::cutHere() {
    if (!state_.wire().empty())
        state_.toggleCut(state_.wire());
    else if (!state_.taker().empty())
        state_.toggleCut("", state_.taker());
}

void PatchPage::relieve() {
    auto ways = reliefsOf(state_.project(), state_.wire());
    if (!ways)
        return state_.session().report(ways.error());
    if (ways->empty())
        return state_.session().report("No way over a ring takes anything off this cable.", false);
    QStringList names;
    for (const auto& r : *ways)
        names += q(wordsOf(state_.project(), r));
    if (const auto which = askChoice(this, "Relieve this cable", "Lead", names))
        state_.run(std::move((*ways)[*which].edit));
}

// ---- sound here ----

void PatchPage::bring() {
    const auto port = state_.port();
    if (!port)
        return state_.session().report("Choose a stream, or an input that hears something, first.");
    ear_.bring({port->device, port->port, port->input});
}

// The device that is chosen, or asked for.
const Device* PatchPage::deviceToHear() {
    const auto hears = [](const Device& d) {
        const auto* m = d.spec();
        return m && m->onSite() && (!m->inputs.empty() || !m->outputs.empty());
    };
    const auto chosen = state_.port();
    if (const auto* d = state_.project().device(chosen ? chosen->device : state_.taker()); d && hears(*d))
        return d;
    QStringList names;
    std::vector<const Device*> devices;
    for (const auto& d : state_.project().devices)
        if (hears(d)) {
            names += q(d.name);
            devices.push_back(&d);
        }
    if (names.isEmpty()) {
        state_.session().report("No device of this project has a port that could be listened to.");
        return nullptr;
    }
    const auto which = askChoice(this, "Bring a port here", "Device", names);
    return which ? devices[*which] : nullptr;
}

void PatchPage::bringPort() {
    const auto* of = deviceToHear();
    if (!of)
        return;
    const auto& d = *of;
    QStringList ports, where{"This computer"};
    for (const bool input : {true, false})
        for (const auto& port : d.spec()->ports(input))
            ports += q(port) + (input ? ", what comes in" : ", what leaves");
    // Outputs of the device that is worked on take it by a tool, which is never kept.
    const bool here = state_.session().device() && state_.session().device()->id == d.id &&
                      state_.session().toolsReach() && d.program;
    for (const auto& b : here ? d.program->blocks : List<engine::Block>{})
        if (const auto it = b.texts.find("port"); it != b.texts.end() && engine::endOf(b) == engine::End::leaves)
            where += q(it->second);
    const auto answer = ask(this, q(d.name), {{"Port", ports[0], ports, true}, {"Heard at", where[0], where, false}});
    if (!answer)
        return;
    const auto said = (*answer)[0].section(',', 0, 0).trimmed().toStdString();
    const auto ins = d.spec()->ports(true), outs = d.spec()->ports(false);
    const bool in = std::find(ins.begin(), ins.end(), said) != ins.end(),
               out = std::find(outs.begin(), outs.end(), said) != outs.end();
    if (!in && !out)
        return state_.session().report("The " + q(d.spec()->name) + " has no port \"" + q(said) + "\".");
    const bool input = in && !(out && (*answer)[0].contains("leaves"));
    if ((*answer)[1] == where[0])
        return ear_.bring({d.id, said, input});
    const auto *from = endAt(*d.program, said, input ? engine::End::arrives : engine::End::leaves),
               *to = endAt(*d.program, (*answer)[1].toStdString(), engine::End::leaves);
    if (!from || !to || from == to)
        return state_.session().report("Its program does not use " + q(said) + ".");
    Tool tool;
    tool.kind = Tool::Kind::bridge;
    tool.at = {to->id, 0};
    tool.from = {from->id, 0};
    tool.levelDb = 0;
    giveBack();
    state_.session().putTool(tool);
    bridged_ = tool;
    sayBrought();
}

void PatchPage::giveBack() {
    ear_.giveBack();
    if (const auto tool = std::exchange(bridged_, {}))
        for (const auto& t : state_.session().tools())
            if (t.kind == tool->kind && t.at == tool->at && t.from == tool->from)
                state_.session().takeTool(t.number);
    sayBrought();
}

// What is here, with its level; a press gives it back.
void PatchPage::sayBrought() {
    back_->setVisible(ear_.brought() || bridged_);
    if (ear_.brought()) {
        const auto db = ear_.level(*ear_.brought());
        back_->setText(
            "Give back " + ear_.words() +
            (db ? (*db <= PatchEar::silent ? QString(" (silent)")
                                           : QString(" (%1 dBFS)").arg(*db, 0, 'f', 0).replace('-', u'\u2212'))
                : QString()));
    } else if (bridged_) {
        back_->setText("Give back " + q(bridged_->from.block) + " from " + q(bridged_->at.block));
    }
}

// ---- streams of others ----

void PatchPage::takeStream(const stream::Description& d) {
    auto& session = state_.session();
    if (!state_.run(project::takeStream(session.project(), d, session.models())))
        return;
    showWiring(false);
    state_.showTransport({});
    state_.chooseRow(takenStream(session.project(), d));
}

void PatchPage::announced() {
    auto* fleet = state_.session().fleet();
    if (!fleet)
        return;
    if (!fleet->announcements().listening()) {
        fleet->announcements().listen(false);
        return state_.session().report("Listening: streams are announced every ten seconds or so. Ask again then.",
                                       false);
    }
    const auto all = announcedByOthers(state_.patched(), fleet->announcements().known());
    QStringList names;
    for (const auto& one : all)
        names += QString("%1, %2 channels, of %3")
                     .arg(q(one.description.name))
                     .arg(one.description.format.channels)
                     .arg(q(one.source));
    if (names.isEmpty())
        return state_.session().report("Nobody announces a stream that is not of this project, so far.", false);
    if (const auto which = askChoice(this, QString("%1 streams of others").arg(names.size()), "Take", names))
        takeStream(all[*which].description);
}

void PatchPage::paste() {
    takeDescription({}, QApplication::clipboard()->text());
}

void PatchPage::takeDescription(const QString& file, const QString& text) {
    std::string sdp = text.toStdString();
    if (!file.isEmpty()) {
        const auto read = readWhole(file.toStdString(), stream::mostSdpBytes);
        if (!read)
            return state_.session().report(read.error());
        sdp = *read;
    }
    const auto d = stream::readSdp(sdp);
    d ? takeStream(*d) : state_.session().report(d.error());
}

} // namespace loom::app
