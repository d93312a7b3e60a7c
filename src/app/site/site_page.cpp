#include "app/site/site_page.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "rig/server.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QNetworkInterface>
#include <QPainter>
#include <QPushButton>
#include <QTableWidget>
#include <QTcpSocket>
#include <QVBoxLayout>

namespace loom::app {
namespace {

using nlohmann::json;

QString textOf(const json& j, const char* key) {
    const auto v = j.is_object() ? j.value(key, json()) : json();
    return v.is_string() ? q(v.get<std::string>()).left(80) : QString();
}

int revision(const json& state, const char* which) {
    const auto part = state.is_object() ? state.value(which, json()) : json();
    const auto r = part.is_object() ? part.value("revision", json()) : json();
    return r.is_number_integer() ? r.get<int>() : -1;
}

QString print(const json& state, const char* which) {
    const auto part = state.is_object() ? state.value(which, json()) : json();
    return textOf(part, "fingerprint");
}

} // namespace

SitePage::SitePage(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), range_(new QComboBox), address_(new QLineEdit),
      look_(new QPushButton("Look again")), pair_(new QPushButton("Pair")), try_(new QPushButton("Try it")),
      keep_(new QPushButton("Keep through power-off")), take_(new QPushButton("Take from device")),
      cycle_(new QPushButton("Power-cycle")), liveButton_(new QPushButton), summary_(new QLabel), title_(new QLabel),
      cards_(new QWidget), table_(new QTableWidget) {
    setObjectName("site");
    setAccessibleName("Site: planned and found devices");
    range_->addItem("lo \u00b7 127.20.4.0/24 (rig)", "127.20.4.");
    for (const auto& i : QNetworkInterface::allInterfaces())
        for (const auto& e : i.addressEntries())
            if (e.ip().protocol() == QAbstractSocket::IPv4Protocol && !e.ip().isLoopback()) {
                const QString ip = e.ip().toString();
                range_->addItem(i.name() + " \u00b7 " + ip.section('.', 0, 2) + ".0/24", ip.section('.', 0, 2) + ".");
            }
    range_->setAccessibleName("Network adapter");
    address_->setPlaceholderText("or an address, Enter");
    address_->setAccessibleName("Address of a device");
    table_->setColumnCount(5);
    table_->setHorizontalHeaderLabels({"Value", "Last sent", "Design now", "Device now", "Why they differ"});
    table_->verticalHeader()->hide();
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->setAccessibleName("Values that differ");
    try_->setProperty("main", true);
    for (auto* b : {pair_, try_, keep_, take_, cycle_, liveButton_, look_})
        b->setObjectName(b->text());
    liveButton_->setObjectName("live");

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(16, 8, 16, 10);
    auto* head = new FlowLayout;
    head_ = head;
    for (auto* w : {static_cast<QWidget*>(new QLabel("Network adapter")), static_cast<QWidget*>(range_),
                    static_cast<QWidget*>(look_), static_cast<QWidget*>(address_), static_cast<QWidget*>(summary_)})
        head->addWidget(w);
    box->addLayout(head);
    box->addWidget(cards_);
    box->addWidget(title_);
    box->addWidget(table_, 1);
    box->addStretch(0);
    auto* foot = new FlowLayout;
    for (auto* b : {pair_, try_, keep_, take_, liveButton_, cycle_})
        foot->addWidget(b);
    box->addLayout(foot);

    connect(look_, &QPushButton::clicked, this, &SitePage::look);
    connect(address_, &QLineEdit::returnPressed, this, [this] { probe(address_->text().trimmed()); });
    connect(pair_, &QPushButton::clicked, this, [this] {
        if (!found_.empty())
            pair(found_.front());
    });
    connect(try_, &QPushButton::clicked, this, &SitePage::tryProgram);
    connect(keep_, &QPushButton::clicked, this, &SitePage::keep);
    connect(take_, &QPushButton::clicked, this, &SitePage::takeFromDevice);
    connect(cycle_, &QPushButton::clicked, this, &SitePage::powerCycle);
    connect(liveButton_, &QPushButton::clicked, this, [this] { setLive(!live_); });
    connect(&link_, &RigLink::changed, this, [this] {
        busy_ = false;
        if (link_.up())
            fetch();
        else
            state_ = nullptr, meters_ = nullptr;
        tools_.setLive(live_ && link_.up());
        refresh();
    });
    connect(&poll_, &QTimer::timeout, this, [this] {
        if (link_.up())
            fetch();
    });
    poll_.start(500);
    connect(&session, &Session::changed, this, &SitePage::followChange);
    session.setDeviceTools(&tools_);
    connect(&Theme::get(), &Theme::changed, this, &SitePage::refresh);
    refresh();
}

bool SitePage::paired() const {
    return session_.device() && !session_.device()->serial.empty();
}

QString SitePage::stateWord() const {
    if (!link_.wanted())
        return {};
    if (!link_.up())
        return "Connection lost";
    return live_ ? "Live on 1 of 1" : "On site 1 of 1";
}

// ---- finding and pairing ----

void SitePage::look() {
    found_.clear();
    looked_ = true;
    const QString base = range_->currentData().toString();
    for (int host = 1; host < 255; ++host)
        probe(base + QString::number(host));
    const auto* d = session_.device();
    if (d && !d->address.empty() && !q(d->address).startsWith(base))
        probe(q(d->address));
    refresh();
}

void SitePage::probe(const QString& address) {
    if (QHostAddress(address).isNull())
        return session_.report("\"" + address + "\" is not an address. Type four numbers such as 127.20.4.10.");
    auto* socket = new QWebSocket(QString(), QWebSocketProtocol::VersionLatest, this);
    socket->setMaxAllowedIncomingMessageSize(1 << 20);
    connect(socket, &QWebSocket::connected, socket,
            [socket] { socket->sendTextMessage(R"({"jsonrpc":"2.0","id":1,"method":"describe","params":{}})"); });
    connect(socket, &QWebSocket::textMessageReceived, this, [this, socket, address](const QString& text) {
        const auto reply = project::parseJson(text.toStdString(), "answer");
        const auto about = reply && reply->is_object() ? reply->value("result", json()) : json();
        const auto known =
            std::any_of(found_.begin(), found_.end(), [&](const Found& f) { return f.address == address; });
        if (!textOf(about, "serial").isEmpty() && !known)
            found_.push_back({address, about});
        socket->deleteLater();
        // A device that was paired before is taken up again by itself: looking changes nothing on it.
        if (!found_.empty() && paired() && !link_.wanted())
            for (const auto& f : found_)
                if (textOf(f.about, "serial") == q(session_.device()->serial))
                    link_.open(f.address, rig::rigPort);
        refresh();
    });
    connect(socket, &QWebSocket::disconnected, socket, &QObject::deleteLater);
    QTimer::singleShot(3000, socket, &QObject::deleteLater);
    socket->open(QUrl(QString("ws://%1:%2").arg(address).arg(rig::rigPort)));
}

void SitePage::pair(const Found& found) {
    const auto* d = session_.device();
    if (!d)
        return session_.report("No processor is planned. Open a project first.");
    if (textOf(found.about, "model") != q(d->model))
        return session_.report("The planned " + q(d->model) + " cannot be paired with a " +
                               textOf(found.about, "model") + ".");
    const std::string serial = textOf(found.about, "serial").toStdString();
    if (d->serial != serial)
        session_.edit(project::changeDevice(d->id, "Pair " + d->name + " with " + serial,
                                            [serial](project::Device& device) { device.serial = serial; }));
    link_.open(found.address, rig::rigPort);
    refresh();
}

// ---- the paired device ----

void SitePage::fetch() {
    if (busy_)
        return;
    busy_ = true;
    link_.call("state", json::object(), [this](const json& state, const QString& trouble) {
        busy_ = false;
        if (!trouble.isEmpty())
            return;
        state_ = state;
        link_.call("program", json::object(), [this](const json& program, const QString& bad) {
            if (!bad.isEmpty())
                return;
            deviceProgram_.reset();
            if (auto p = program.is_null() ? Result<engine::Program>(Trouble{}) : project::programFromJson(program))
                deviceProgram_ = *p;
            compare();
        });
        link_.call("meters", json::object(), [this](const json& meters, const QString& bad) {
            if (bad.isEmpty())
                meters_ = meters;
            update();
        });
    });
}

void SitePage::compare() {
    differences_.clear();
    const auto* d = session_.device();
    if (d && d->program && deviceProgram_)
        differences_ = project::differences(*d->program, *deviceProgram_, d->lastSent ? &*d->lastSent : nullptr);
    refresh();
}

void SitePage::tryProgram() {
    const auto* d = session_.device();
    if (!d || !d->program)
        return;
    engine::Program program = *d->program;
    program.revision = std::max({0, revision(state_, "running"), revision(state_, "kept")}) + 1;
    link_.call("try", {{"program", project::toJson(program)}, {"author", "this desk"}},
               [this, program, id = d->id](const json& state, const QString& trouble) {
                   if (!trouble.isEmpty())
                       return session_.report(trouble);
                   state_ = state;
                   session_.edit(project::changeDevice(id, "Note what was tried", [program](project::Device& device) {
                       device.lastSent = program;
                       if (device.program)
                           device.program->revision = program.revision;
                   }));
                   session_.report(
                       QString("Revision %1 runs. It is lost at power-off until it is kept.").arg(program.revision),
                       false);
                   fetch();
               });
}

void SitePage::keep() {
    link_.call("keep", json::object(), [this](const json& state, const QString& trouble) {
        if (!trouble.isEmpty())
            return session_.report(trouble);
        state_ = state;
        if (const auto* d = session_.device(); d && deviceProgram_)
            session_.edit(project::changeDevice(d->id, "Note what was kept",
                                                [kept = *deviceProgram_](auto& device) { device.lastKept = kept; }));
        session_.report(QString("Revision %1 is kept: it survives power-off.").arg(revision(state, "kept")), false);
        refresh();
    });
}

void SitePage::powerCycle() {
    link_.call("powerCycle", json::object(), [this](const json&, const QString& trouble) {
        session_.report(trouble.isEmpty() ? QString("Power is off. The device comes back with what it keeps.")
                                          : trouble,
                        !trouble.isEmpty());
    });
}

void SitePage::takeFromDevice() {
    if (deviceProgram_)
        session_.setProgram(*deviceProgram_, "Take the program from the device");
}

void SitePage::setLive(bool on) {
    live_ = on && link_.up();
    tools_.setLive(live_);
    if (live_ && !differences_.empty())
        session_.report(QString("Live: what you change from now on reaches the device. %1 values differ from before; "
                                "Try it sends them.")
                            .arg(differing()),
                        false);
    refresh();
}

void SitePage::followChange(const project::Change& change) {
    const auto* p = session_.program();
    if (live_ && link_.up() && p && change.kind == project::Change::Kind::value) {
        const auto* b = p->find(change.block);
        const auto* there = deviceProgram_ ? deviceProgram_->find(change.block) : nullptr;
        if (b && there && there->kind == b->kind) { // an entry may switch its section on as well
            const engine::BlockView now(*b), was(*there);
            for (std::size_t i = 0; now.shape == was.shape && i < now.values.size(); ++i)
                if (now.values[i] != was.values[i]) {
                    const std::string id = now.table->specs()[i].id;
                    link_.call("set", {{"path", b->id + "." + id}, {"value", now.values[i]}},
                               [this](const json&, const QString& trouble) {
                                   if (!trouble.isEmpty())
                                       session_.report(trouble);
                               });
                    deviceProgram_->find(change.block)->values[id] = now.values[i];
                }
        }
    }
    if (!session_.device()) // another project
        setLive(false), link_.close(), found_.clear(), deviceProgram_.reset(), looked_ = false;
    compare();
}

// ---- showing ----

int SitePage::cardsTop() const {
    return head_->geometry().bottom() + Theme::get().ipx(12);
}

QRectF SitePage::plannedCard() const {
    return {16.0, cardsTop() + px(22), std::min(px(330), width() * 0.4), px(44)};
}

QRectF SitePage::foundCard(int i) const {
    const double wide = std::min(px(412), width() * 0.48);
    return {width() - wide - 16, cardsTop() + px(22) + px(52) * i, wide, px(44)};
}

void SitePage::refresh() {
    cards_->setFixedHeight(Theme::get().ipx(34 + 52 * std::max(1.0, static_cast<double>(found_.size()))));
    const bool up = link_.up(), same = up && deviceProgram_ && differences_.empty();
    for (auto* b : {try_, liveButton_, cycle_})
        b->setEnabled(up);
    keep_->setEnabled(up && deviceProgram_);
    take_->setEnabled(up && deviceProgram_ && !differences_.empty());
    try_->setText(up && !same && deviceProgram_
                      ? QString("Try it: send %1 %2").arg(differing()).arg(differing() == 1 ? "change" : "changes")
                      : QString("Try it"));
    liveButton_->setText(live_ ? "Leave live" : "Go live");
    pair_->setVisible(!found_.empty() && !link_.wanted());
    if (!found_.empty())
        pair_->setText("Pair with " + textOf(found_.front().about, "name") + " \u00b7 " +
                       textOf(found_.front().about, "serial"));
    summary_->setText(QString("%1 found \u00b7 %2 planned \u00b7 %3 paired")
                          .arg(found_.size())
                          .arg(session_.device() ? 1 : 0)
                          .arg(link_.wanted() ? 1 : 0));
    QString title = found_.empty() ? "Look for devices on the chosen adapter; nothing on them is changed by looking."
                                   : "Pair the planned processor with the one found.";
    if (link_.wanted() && !up)
        title = "Connection lost. It is taken up again by itself; nothing of the design is lost.";
    else if (up && !deviceProgram_)
        title = "The device runs no program yet. Try it sends the design.";
    else if (up) {
        const int running = revision(state_, "running"), kept = revision(state_, "kept");
        title =
            same ? QString("The device runs the design (revision %1)").arg(running)
                 : QString(differing() == 1 ? "%1 value differs from the design" : "%1 values differ from the design")
                       .arg(differing());
        title += print(state_, "running") == print(state_, "kept") ? QString("; what runs is kept.")
                 : kept < 0 ? QString("; what runs is not kept: lost at power-off.")
                            : QString("; revision %1 is kept, what runs is lost at power-off.").arg(kept);
    }
    title_->setText(title);
    title_->setStyleSheet("font-weight: bold");
    table_->setVisible(up && !differences_.empty());
    table_->setRowCount(static_cast<int>(std::min<std::size_t>(differences_.size(), 500)));
    for (int r = 0; r < table_->rowCount(); ++r) {
        const auto& d = differences_[static_cast<std::size_t>(r)];
        int c = 0;
        for (const auto& text : {d.what, d.last, d.design, d.device, d.why}) {
            auto* item = new QTableWidgetItem(q(text));
            if (c > 0 && c < 4)
                item->setFont(Theme::get().number(11));
            item->setToolTip(q(text));
            table_->setItem(r, c++, item);
        }
    }
    table_->setStyleSheet(QString("QTableWidget { background: %1; border: 1px solid %2; gridline-color: %2; } "
                                  "QHeaderView::section { background: %1; color: %3; border: 0; padding: 4px; }")
                              .arg(tokens().card.name(), tokens().hair.name(), tokens().ink2.name()));
    update();
    tellHealth();
    emit stateChanged();
}

// Devices that have an address can be looked for; what is not on a network has no state to tell.
void SitePage::tellHealth() {
    project::SiteHealth health;
    for (const auto& d : session_.project().devices) {
        const auto* m = project::findModel(d.model);
        if (!m || !m->network || !(looked_ || link_.wanted()))
            continue;
        project::DeviceReport r;
        r.paired = !d.serial.empty();
        if (const bool mine = &d == session_.device(); mine && r.paired) {
            r.reachable = link_.up(), r.hasProgram = deviceProgram_.has_value(), r.differing = differing();
            r.kept = print(state_, "running") == print(state_, "kept");
        }
        health[d.id] = project::wordOf(r);
    }
    session_.setHealth(std::move(health));
}

void SitePage::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto* d = session_.device();
    const auto card = [&](QRectF r, QColor edge, const QString& name, const QString& below, const QString& right) {
        p.setPen(QPen(tokens().hair, 1));
        p.setBrush(tokens().card);
        p.drawRoundedRect(r, px(6), px(6));
        p.fillRect(QRectF(r.left(), r.top() + px(4), px(5), r.height() - px(8)), edge);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(12, true));
        p.drawText(r.adjusted(px(14), px(4), -px(100), 0), Qt::AlignTop, name);
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(11));
        p.drawText(r.adjusted(px(14), 0, -px(10), -px(5)), Qt::AlignBottom, below);
        p.setFont(Theme::get().number(11, true));
        p.setPen(edge == tokens().caution ? tokens().ink : tokens().ink2);
        p.drawText(r.adjusted(0, 0, -px(12), 0), Qt::AlignVCenter | Qt::AlignRight, right);
    };
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(13, true));
    p.drawText(QPointF(plannedCard().left(), plannedCard().top() - px(8)), "Planned");
    p.drawText(QPointF(foundCard(0).left(), foundCard(0).top() - px(8)), "Found on the network");
    if (d)
        card(plannedCard(), Theme::get().thread("madder"), q(d->name),
             session_.project().room(d->room) ? q(session_.project().room(d->room)->name) : QString("equipment rack"),
             q(d->address));
    for (std::size_t i = 0; i < found_.size(); ++i) {
        const auto& f = found_[i];
        const bool mine = link_.wanted() && f.address == link_.address();
        QString word = "not paired", below = f.address;
        QColor edge = tokens().ink3;
        if (mine) {
            const bool same = link_.up() && deviceProgram_ && differences_.empty();
            word = !link_.up()       ? "lost"
                   : !deviceProgram_ ? "empty"
                   : same            ? "same"
                                     : QString("%1 differ").arg(differing());
            edge = !link_.up() ? tokens().fault : same ? tokens().ok : tokens().caution;
            const int running = revision(state_, "running"), kept = revision(state_, "kept");
            below += running < 0 ? QString(" \u00b7 no program")
                                 : QString(" \u00b7 revision %1 runs, %2")
                                       .arg(running)
                                       .arg(kept < 0 ? QString("none kept") : QString("%1 kept").arg(kept));
            if (live_ && meters_.is_object())
                below += QString(" \u00b7 %1 places sound").arg(meters_.size());
            p.setPen(QPen(link_.up() ? Theme::get().thread("madder") : tokens().ink3, px(2),
                          link_.up() ? Qt::SolidLine : Qt::DashLine));
            const QPointF a(plannedCard().right(), plannedCard().center().y()),
                b(foundCard(static_cast<int>(i)).left(), foundCard(static_cast<int>(i)).center().y());
            p.drawLine(a, b);
            p.setBrush(p.pen().color());
            p.drawEllipse(a, px(4), px(4));
            p.drawEllipse(b, px(4), px(4));
        }
        card(foundCard(static_cast<int>(i)), edge, textOf(f.about, "name") + " \u00b7 " + textOf(f.about, "serial"),
             below, word);
    }
}

std::vector<PaintedPart> SitePage::paintedParts() const {
    std::vector<PaintedPart> parts;
    for (std::size_t i = 0; i < found_.size(); ++i)
        parts.push_back({"Found: " + textOf(found_[i].about, "name") + " " + textOf(found_[i].about, "serial"),
                         found_[i].address, foundCard(static_cast<int>(i)),
                         link_.wanted() && found_[i].address == link_.address()});
    if (const auto* d = session_.device())
        parts.push_back({"Planned: " + q(d->name), q(d->address), plannedCard(), false});
    return parts;
}

// A found device: pairs it, or lets the paired one blink.
void SitePage::choosePart(int index) {
    if (index < 0 || index >= static_cast<int>(found_.size()))
        return;
    const Found chosen = found_[static_cast<std::size_t>(index)];
    if (!link_.wanted())
        pair(chosen);
    else if (link_.up() && chosen.address == link_.address())
        link_.call("identify", json::object(), [this](const json&, const QString& trouble) {
            session_.report(trouble.isEmpty() ? QString("Its lamp blinks.") : trouble, !trouble.isEmpty());
        });
}

void SitePage::mousePressEvent(QMouseEvent* e) {
    for (std::size_t i = 0; i < found_.size(); ++i)
        if (foundCard(static_cast<int>(i)).contains(e->position()))
            return choosePart(static_cast<int>(i));
}

} // namespace loom::app
