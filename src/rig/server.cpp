#include "rig/server.h"
#include "project/json.h"
#include <QDateTime>
#include <QRandomGenerator>
#include <QThreadPool>
#include <QWebSocket>
#include <QWebSocketServer>

namespace loom::rig {

using nlohmann::json;

namespace {

constexpr int triesAllowed = 5, lostAgainMs = 200; // a lost packet of a stream comes again after a while
constexpr std::size_t mostLines = 32;

struct Refusal { // becomes a JSON-RPC error
    int code;
    Trouble why;
};

std::string textOf(const json& params, const char* key) {
    const auto it = params.find(key);
    if (it == params.end() || !it->is_string() || it->get_ref<const std::string&>().size() > 1000)
        throw Refusal{-32602, {std::string("needs the text \"") + key + "\"", "params", ""}};
    return it->get<std::string>();
}

std::string textOr(const json& params, const char* key) {
    return params.value(key, json()).is_string() ? textOf(params, key) : std::string();
}

int numberOf(const json& params, const char* key) {
    const json v = params.value(key, json());
    if (!v.is_number_integer() || v < 0 || v > 1000000000)
        throw Refusal{-32602, {std::string("needs the whole number \"") + key + "\"", "params", ""}};
    return v.get<int>();
}

template <class T> T orRefuse(Result<T> result) {
    if (!result)
        throw Refusal{1, result.trouble()};
    return *result;
}

std::string textOf(const json& j) {
    return j.dump(-1, ' ', false, json::error_handler_t::replace);
}

std::string errorText(const json& id, int code, const std::string& text) {
    return textOf({{"jsonrpc", "2.0"}, {"id", id}, {"error", {{"code", code}, {"message", text}}}});
}

} // namespace

Server::Server(DeviceSetup setup, QObject* parent)
    : QObject(parent), device_(std::make_unique<Device>(std::move(setup))),
      server_(new QWebSocketServer("loom-rig", QWebSocketServer::NonSecureMode, this)) {
    connect(server_, &QWebSocketServer::newConnection, this, [this] { take(server_->nextPendingConnection()); });
    connect(&tend_, &QTimer::timeout, this, [this] { device_->tend(); });
    if (device_->model() && device_->model()->workBudget > 0)
        tend_.start(100);
    connect(&again_, &QTimer::timeout, this, [this] {
        if (onWire() && (server_->isListening() || server_->listen(address_, port_)))
            again_.stop();
    });
    device_->tell = [this](const std::string& method, const json& params) { tellAll(method, params); };
}

Server::~Server() {
    device_->tell = nullptr;
    worked_.acquire(givenToPool_);
    dropAll();
}

void Server::onPool(std::function<void()> work) {
    ++givenToPool_;
    QThreadPool::globalInstance()->start([this, work = std::move(work)] {
        work();
        worked_.release(); // the last that is done with this server
    });
}

// ---- addresses, power, cable ----

void Server::tellSound() {
    if (const auto& sound = device_->made().sound) {
        sound->plugged = onWire();
        sound->setAddress(address_.toString().toStdString());
    }
}

QString Server::listen(const QHostAddress& address, quint16 port) {
    address_ = address, port_ = port;
    tellSound();
    if (!onWire())
        return {};
    if (!server_->listen(address, port)) {
        again_.start(250);
        return QString("%1: the device cannot listen there (%2). Choose another address.")
            .arg(address.toString(), server_->errorString());
    }
    port_ = server_->serverPort();
    return {};
}

QString Server::move(const QString& address) {
    server_->close();
    again_.stop();
    dropAll();
    (void)bool(device_->store().setAddress(address.toStdString()));
    return listen(QHostAddress(address), port_);
}

bool Server::listening() const {
    return server_->isListening();
}

site::Found Server::about() const {
    auto j = device_->describe();
    j["address"] = address_.toString().toStdString();
    const auto f = site::foundFromJson(j);
    return f ? *f : site::Found{};
}

void Server::dropAll() {
    stuck_.clear();
    const auto lines = std::exchange(lines_, {});
    for (const auto& [socket, _] : lines) {
        socket->disconnect(this);
        socket->flush();
        socket->abort(); // a device without power says no goodbye
        socket->deleteLater();
    }
    toolOwners_.clear();
    device_->takeTools();
}

void Server::setPower(bool on) {
    if (on == device_->powered())
        return;
    if (on) {
        device_->powerOn();
        (void)listen(address_, port_);
        return;
    }
    server_->close();
    again_.stop();
    dropAll();
    device_->powerOff();
    tellSound();
}

void Server::powerCycle(int ms) {
    setPower(false);
    QTimer::singleShot(ms, this, [this] { setPower(true); });
}

Result<Done> Server::setFault(const std::string& name, const json& value) {
    const auto wrong = [&](const std::string& what) { return Trouble{what, "fault " + name, ""}; };
    if (name == "power") {
        if (value != "on" && value != "off")
            return wrong("takes on or off");
        setPower(value == "on");
    } else if (name == "cable") {
        if (value != "in" && value != "out")
            return wrong("takes in or out");
        cable_ = value == "in";
        tellSound();
        if (server_->isListening()) // Qt's server without a socket bears neither
            cable_ ? server_->resumeAccepting() : server_->pauseAccepting();
        if (!cable_)
            return Done{};
        if (!server_->isListening() && onWire())
            (void)listen(address_, port_);
        for (auto& [socket, message] : std::exchange(stuck_, {})) // what was on its way comes in now
            if (lines_.count(socket))
                heard(socket, message.first, message.second);
    } else if (name == "delay") {
        if (!value.is_number() || value < 0 || value > 10000)
            return wrong("takes milliseconds, 0 to 10000");
        delay_ = value.get<int>();
    } else if (name == "loss") {
        if (!value.is_number() || value < 0 || value > 0.5)
            return wrong("takes a share, 0 to 0.5");
        loss_ = value.get<double>();
    } else if (name == "address") {
        if (!value.is_string() || !site::readAddress(value.get<std::string>()))
            return wrong("takes an address");
        move(QString::fromStdString(value.get<std::string>()));
    } else if (name == "password") { // somebody sealed it; an empty one opens it
        if (!value.is_string())
            return wrong("takes a text");
        std::string hash;
        if (const auto password = value.get<std::string>(); !password.empty()) {
            auto made = site::hashPassword(password);
            if (!made)
                return made.trouble();
            hash = *made;
        }
        if (auto done = device_->store().setLock(hash); !done)
            return done;
        for (auto& [_, line] : lines_)
            line.unlocked = false;
    } else {
        return device_->setFault(name, value);
    }
    return Done{};
}

// ---- lines ----

Server::Line* Server::lineOf(QWebSocket* socket) {
    const auto it = lines_.find(socket);
    return it == lines_.end() ? nullptr : &it->second;
}

Server::Line* Server::lineOf(QWebSocket* socket, int number) {
    auto* line = lineOf(socket);
    return line && line->number == number ? line : nullptr;
}

void Server::take(QWebSocket* socket) {
    if (!socket)
        return;
    if (lines_.size() >= mostLines)
        return socket->deleteLater();
    socket->setParent(this);
    socket->setMaxAllowedIncomingMessageSize(maxMessage);
    lines_[socket].socket = socket, lines_[socket].number = nextLine_++;
    connect(socket, &QWebSocket::textMessageReceived, this,
            [this, socket](const QString& text) { heard(socket, text.toUtf8(), false); });
    connect(socket, &QWebSocket::binaryMessageReceived, this,
            [this, socket](const QByteArray& box) { heard(socket, box, true); });
    connect(socket, &QWebSocket::disconnected, this, [this, socket] {
        lines_.erase(socket);
        std::erase_if(stuck_, [&](const auto& s) { return s.first == socket; });
        for (const auto& [number, owner] : std::exchange(toolOwners_, {})) // nobody is left to take them away
            if (owner == socket)
                device_->takeTool(number);
            else
                toolOwners_[number] = owner;
        if (lines_.empty())
            device_->identify(false), device_->discard();
        socket->deleteLater();
    });
}

void Server::heard(QWebSocket* socket, const QByteArray& message, bool box) {
    if (!cable_) {
        if (stuck_.size() < 1000)
            stuck_.push_back({socket, {message, box}});
        return;
    }
    auto* line = lineOf(socket);
    if (!line)
        return;
    std::string text = message.toStdString();
    if (box != line->channel.has_value())
        return socket->close(); // a sealed line takes nothing in the open any more
    if (box) {
        auto opened = line->channel->open(text);
        if (!opened) {
            device_->note("somebody", "A message that did not belong to its line was thrown away.", true);
            return socket->close();
        }
        text = *opened;
    }
    const std::string answered = reply(text, line);
    line = lineOf(socket); // a call may have ended it
    if (line && !answered.empty())
        send(*line, answered);
}

// Sealed if the line is, late if the line is slow.
void Server::send(Line& line, const std::string& text) {
    if (delay_ <= 0 && loss_ <= 0) {
        if (line.channel)
            line.socket->sendBinaryMessage(QByteArray::fromStdString(line.channel->seal(text)));
        else
            line.socket->sendTextMessage(QString::fromStdString(text));
        return;
    }
    const qint64 now = QDateTime::currentMSecsSinceEpoch();
    const bool lost = QRandomGenerator::global()->generateDouble() < loss_;
    line.free = std::max(line.free, now + delay_ + (lost ? lostAgainMs : 0));
    line.onWay.push_back(
        {QByteArray::fromStdString(line.channel ? line.channel->seal(text) : text), line.channel.has_value()});
    QTimer::singleShot(static_cast<int>(line.free - now), Qt::PreciseTimer, line.socket, [this, socket = line.socket] {
        auto* on = lineOf(socket);
        if (!on || on->onWay.empty())
            return;
        const auto [bytes, box] = on->onWay.front(); // never another one first, whatever the timers do
        on->onWay.pop_front();
        box ? socket->sendBinaryMessage(bytes) : socket->sendTextMessage(QString::fromUtf8(bytes));
    });
}

void Server::tellAll(const std::string& method, const json& params) {
    if (!cable_)
        return;
    const std::string text = textOf({{"jsonrpc", "2.0"}, {"method", method}, {"params", params}});
    for (auto& [_, line] : lines_)
        if (line.channel && (device_->store().lock().empty() || line.unlocked))
            send(line, text);
}

void Server::respond(QWebSocket* socket, const json& id, const json& result) {
    if (auto* line = lineOf(socket))
        send(*line, textOf({{"jsonrpc", "2.0"}, {"id", id}, {"result", result}}));
}

void Server::refuse(QWebSocket* socket, const json& id, int code, const std::string& text) {
    if (auto* line = lineOf(socket))
        send(*line, errorText(id, code, text));
}

// ---- calls ----

std::string Server::answer(const std::string& message) {
    return reply(message, nullptr);
}

std::string Server::reply(const std::string& message, Line* line) {
    json id = nullptr;
    auto request = project::parseJson(message, "message");
    if (!request)
        return errorText(id, -32700, request.trouble().text());
    if (!request->is_object() || !request->value("method", json()).is_string())
        return errorText(id, -32600, "A request is an object with jsonrpc, id, method and params.");
    id = request->value("id", json());
    if (!id.is_null() && !id.is_number() && !id.is_string())
        return errorText(nullptr, -32600, "An id is a number or a text.");
    json params = request->value("params", json::object());
    if (!params.is_object())
        return errorText(id, -32602, "Parameters come as an object.");
    try {
        asking_ = id, later_ = false;
        const json result = call(request->at("method").get<std::string>(), params, line);
        return later_ ? std::string() : textOf({{"jsonrpc", "2.0"}, {"id", id}, {"result", result}});
    } catch (const Refusal& r) {
        return errorText(id, r.code, r.why.text());
    } catch (const json::exception&) {
        return errorText(id, -32602, "The parameters are not what the method takes.");
    }
}

json Server::secure(const json& params, Line& line) {
    const auto desk = site::readKey(textOf(params, "key"));
    if (!desk)
        throw Refusal{-32602, {"\"key\" is no public key", "params", ""}};
    const auto own = site::newKeys();
    auto channel = site::Channel::device(own, device_->store().identity(), *desk);
    if (!channel.usable())
        throw Refusal{-32602, {"\"key\" is no public key", "params", ""}};
    const json result = {{"key", site::keyText(own.open)},
                         {"identity", site::keyText(device_->store().identity().open)}};
    // The answer leaves in the open; everything after it is sealed.
    later_ = true;
    respond(line.socket, asking_, result);
    line.channel = std::move(channel);
    return {};
}

void Server::checkPassword(const std::string& password, const Line& asker, const json& id, bool thenOpen) {
    const qint64 now = QDateTime::currentMSecsSinceEpoch();
    if (now < closedUntil_)
        return refuse(asker.socket, id, 2,
                      "Too many wrong passwords. Try again in " + std::to_string((closedUntil_ - now) / 1000 + 1) +
                          " seconds.");
    onPool(
        [this, hash = device_->store().lock(), password, socket = asker.socket, number = asker.number, id, thenOpen] {
            const bool good = site::isPassword(hash, password);
            QMetaObject::invokeMethod(
                this,
                [this, good, socket, number, id, thenOpen] {
                    auto* line = lineOf(socket, number);
                    if (!line)
                        return;
                    if (!good) {
                        if (++wrong_ >= triesAllowed)
                            closedUntil_ = QDateTime::currentMSecsSinceEpoch() +
                                           std::min(30000ll << std::min(wrong_ - triesAllowed, 5), 900000ll);
                        device_->note("somebody", "A wrong password was tried.", true);
                        return refuse(socket, id, 2, "The password is wrong.");
                    }
                    wrong_ = 0;
                    if (thenOpen) {
                        if (auto done = device_->unseal(); !done)
                            return refuse(socket, id, 1, done.trouble().text());
                        device_->note("a desk", "It was opened: no password is needed any more.");
                    }
                    line->unlocked = true;
                    respond(socket, id, {{"unlocked", true}});
                },
                Qt::QueuedConnection);
        });
}

void Server::sealWith(const std::string& password, const Line& asker, const json& id) {
    onPool([this, password, socket = asker.socket, number = asker.number, id] {
        const auto hash = site::hashPassword(password);
        QMetaObject::invokeMethod(
            this,
            [this, hash, socket, number, id] {
                if (!lineOf(socket, number))
                    return;
                const auto done = hash ? device_->store().setLock(*hash) : Result<Done>(hash.trouble());
                if (!done)
                    return refuse(socket, id, 1, done.trouble().text());
                for (auto& [_, other] : lines_)
                    other.unlocked = other.socket == socket;
                device_->note("a desk", "It was sealed with a password.");
                respond(socket, id, {{"sealed", true}});
            },
            Qt::QueuedConnection);
    });
}

json Server::call(const std::string& method, const json& params, Line* line) {
    auto& device = *device_;
    if (method == "describe")
        return site::toJson(about());
    if (method == "secure") {
        if (!line || line->channel)
            throw Refusal{1, {"this line is sealed already, or none", "", ""}};
        return secure(params, *line);
    }
    const bool sealed = !device.store().lock().empty();
    const auto needsChannel = [&] {
        if (!line || !line->channel)
            throw Refusal{2, {"passwords travel on a sealed line only", "", "Call secure first."}};
    };
    if (method == "unlock") {
        needsChannel();
        if (!sealed)
            return {{"unlocked", true}};
        later_ = true;
        checkPassword(textOf(params, "password"), *line, asking_, false);
        return {};
    }
    if (sealed && !(line && line->unlocked))
        throw Refusal{2, {"it is sealed", device.made().serial, "Unlock it with the room's password."}};
    if (method == "seal") {
        needsChannel();
        later_ = true;
        sealWith(textOf(params, "password"), *line, asking_);
        return {};
    }
    if (method == "unseal") {
        needsChannel();
        if (!sealed)
            return {{"unlocked", true}};
        later_ = true;
        checkPassword(textOf(params, "password"), *line, asking_, true);
        return {};
    }
    if (method == "state")
        return device.state();
    if (method == "identify") {
        const json on = params.value("on", json(true));
        device.identify(on.is_boolean() && on.get<bool>(), params.value("tone", json()) == true);
        return {{"blinks", device.identifying()}};
    }
    if (method == "get") {
        const std::string path = textOf(params, "path");
        return {{"path", path}, {"value", orRefuse(device.get(path))}};
    }
    if (method == "set") {
        const std::string path = textOf(params, "path");
        const json value = params.value("value", json());
        if (!value.is_number())
            throw Refusal{-32602, {"needs the number \"value\"", "params", ""}};
        return {{"path", path}, {"value", orRefuse(device.set(path, value.get<double>(), textOr(params, "author")))}};
    }
    if (method == "setUp") {
        const std::string id = textOf(params, "id"), value = textOf(params, "value");
        orRefuse(device.setUp(id, value, textOr(params, "author")));
        return {{"id", id}, {"value", value}};
    }
    if (method == "meters")
        return device.meters();
    if (method == "health")
        return device.health();
    if (method == "config")
        return site::toJson(device.running());
    if (method == "revisions")
        return device.revisions();
    if (method == "revision") {
        const auto* r = device.store().find(numberOf(params, "revision"));
        if (!r)
            throw Refusal{1, {"it holds no such revision", device.made().serial, "revisions tells which it holds."}};
        return site::toJson(r->config);
    }
    if (method == "log") {
        json list = json::array();
        for (const auto& e : device.store().log())
            list.push_back({{"time", e.time}, {"who", e.who}, {"what", e.what}, {"bad", e.bad}});
        return list;
    }
    if (method == "stage" && params.contains("image")) {
        const auto& image = params["image"];
        if (!image.is_string())
            throw Refusal{-32602, {"\"image\" is the text of an Intel HEX file", "params", ""}};
        const int revision = params.contains("revision") ? numberOf(params, "revision") : 0;
        orRefuse(device.stageImage(image.get<std::string>(), textOr(params, "author"), revision));
        return device.state();
    }
    if (method == "image")
        return {{"image", orRefuse(device.image())}};
    if (method == "stageAudioKey") {
        needsChannel();
        orRefuse(device.stageAudioKey(textOf(params, "key")));
        return {{"staged", true}};
    }
    if (method == "commitAudioKey" || method == "revertAudioKey") {
        orRefuse(method == "commitAudioKey" ? device.commitAudioKey() : device.revertAudioKey());
        device.note("a desk", device.store().audioKey().empty() ? "Its sound is open." : "Its sound has another key.");
        return device.state();
    }
    if (method == "try" || method == "stage") {
        const auto config = orRefuse(site::configFromJson(params.value("config", json()), "/config"));
        const int revision = params.contains("revision") ? numberOf(params, "revision") : 0;
        orRefuse(method == "try" ? device.tryConfig(config, textOr(params, "author"), revision)
                                 : device.stage(config, textOr(params, "author"), revision));
        return device.state();
    }
    if (method == "commit" || method == "revert" || method == "keep") {
        orRefuse(method == "commit" ? device.commit() : method == "revert" ? device.revert() : device.keep());
        return device.state();
    }
    if (method == "discard") {
        device.discard();
        return device.state();
    }
    if (method == "goBack" || method == "bootWith") {
        const int revision = numberOf(params, "revision");
        orRefuse(method == "goBack" ? device.goBack(revision) : device.bootWith(revision));
        return device.state();
    }
    if (method == "address") {
        const std::string address = textOf(params, "address");
        if (!site::readAddress(address))
            throw Refusal{-32602, {"\"address\" is no address", "params", "Give four numbers such as 127.20.4.10."}};
        if (device.model() && device.model()->usb)
            throw Refusal{1, {"a board on USB has no address of its own", device.made().serial, ""}};
        QTimer::singleShot(0, this, [this, address] { move(QString::fromStdString(address)); });
        return {{"address", address}};
    }
    if (method == "update" || method == "rollBack") {
        orRefuse(method == "update" ? device.update(textOf(params, "firmware")) : device.rollBack());
        QTimer::singleShot(0, this, [this] { powerCycle(1500); }); // it starts anew
        return {{"restarts", true}};
    }
    if (method == "putTool") {
        const int number =
            orRefuse(device.putTool(orRefuse(project::fromJson<project::Tool>(params.value("tool", json()), "/tool"))));
        toolOwners_[number] = line ? line->socket : nullptr;
        return {{"number", number}};
    }
    if (method == "takeTool") {
        const json number = params.value("number", json());
        if (number.is_number_integer())
            device.takeTool(number.get<int>());
        else if (number.is_null())
            device.takeTools();
        else
            throw Refusal{-32602, {"needs the whole number \"number\", or none for all", "params", ""}};
        return {{"tools", device.tools().size()}};
    }
    if (method == "tools") {
        json list = json::array();
        for (const auto& t : device.tools()) {
            list.push_back(project::toJson(t));
            list.back()["number"] = t.number;
        }
        return list;
    }
    if (method == "powerCycle") {
        QTimer::singleShot(0, this, [this] { powerCycle(); }); // the answer leaves first
        return {{"off", true}};
    }
    throw Refusal{-32601, {"there is no method \"" + method.substr(0, 60) + "\"", "", "docs/protocol.md lists them."}};
}

} // namespace loom::rig
