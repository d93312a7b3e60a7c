#include "rig/server.h"
#include "project/json.h"
#include <QWebSocket>
#include <QWebSocketServer>

namespace loom::rig {

using nlohmann::json;

namespace {

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

template <class T> T orRefuse(Result<T> result) {
    if (!result)
        throw Refusal{1, result.trouble()};
    return *result;
}

} // namespace

Server::Server(DeviceSetup setup, QObject* parent)
    : QObject(parent), device_(std::make_unique<Device>(std::move(setup))),
      server_(new QWebSocketServer("loom-rig", QWebSocketServer::NonSecureMode, this)) {
    connect(server_, &QWebSocketServer::newConnection, this, [this] { take(server_->nextPendingConnection()); });
    connect(&tend_, &QTimer::timeout, this, [this] { device_->tend(); });
    tend_.start(100);
}

Server::~Server() {
    for (auto* s : sockets_) {
        s->disconnect(this);
        delete s;
    }
}

QString Server::listen(const QHostAddress& address, quint16 port) {
    if (!server_->listen(address, port))
        return QString("%1: the device cannot listen there (%2). Choose another address.")
            .arg(address.toString(), server_->errorString());
    address_ = address;
    port_ = server_->serverPort();
    return {};
}

quint16 Server::port() const {
    return port_;
}

void Server::take(QWebSocket* socket) {
    if (sockets_.size() >= 32)
        return socket->deleteLater();
    socket->setMaxAllowedIncomingMessageSize(maxMessage);
    sockets_ << socket;
    connect(socket, &QWebSocket::textMessageReceived, this, [this, socket](const QString& text) {
        asking_ = socket;
        const std::string reply = answer(text.toStdString());
        asking_ = nullptr;
        if (!reply.empty())
            socket->sendTextMessage(QString::fromStdString(reply));
    });
    connect(socket, &QWebSocket::disconnected, this, [this, socket] {
        sockets_.removeAll(socket);
        for (const auto& [number, owner] : std::exchange(toolOwners_, {})) // nobody is left to take them away
            if (owner == socket)
                device_->takeTool(number);
            else
                toolOwners_[number] = owner;
        socket->deleteLater();
    });
}

std::string Server::answer(const std::string& message) {
    json id = nullptr;
    const auto error = [&id](int code, const std::string& text) {
        return json{{"jsonrpc", "2.0"}, {"id", id}, {"error", {{"code", code}, {"message", text}}}}.dump(
            -1, ' ', false, json::error_handler_t::replace);
    };
    auto request = project::parseJson(message, "message");
    if (!request)
        return error(-32700, request.trouble().text());
    if (!request->is_object() || !request->value("method", json()).is_string())
        return error(-32600, "A request is an object with jsonrpc, id, method and params.");
    id = request->value("id", json());
    if (!id.is_null() && !id.is_number() && !id.is_string()) {
        id = nullptr;
        return error(-32600, "An id is a number or a text.");
    }
    json params = request->value("params", json::object());
    if (!params.is_object())
        return error(-32602, "Parameters come as an object.");
    try {
        const json result = call(request->at("method").get<std::string>(), params);
        return json{{"jsonrpc", "2.0"}, {"id", id}, {"result", result}}.dump(-1, ' ', false,
                                                                             json::error_handler_t::replace);
    } catch (const Refusal& r) {
        return error(r.code, r.why.text());
    } catch (const json::exception&) {
        return error(-32602, "The parameters are not what the method takes.");
    }
}

json Server::call(const std::string& method, const json& params) {
    if (method == "describe")
        return device_->describe();
    if (method == "state")
        return device_->state();
    if (method == "identify") {
        device_->identify();
        return {{"blinks", device_->lampBlinks()}};
    }
    if (method == "get") {
        const std::string path = textOf(params, "path");
        return {{"path", path}, {"value", orRefuse(device_->get(path))}};
    }
    if (method == "set") {
        const std::string path = textOf(params, "path");
        const json value = params.value("value", json());
        if (!value.is_number())
            throw Refusal{-32602, {"needs the number \"value\"", "params", ""}};
        return {{"path", path}, {"value", orRefuse(device_->set(path, value.get<double>()))}};
    }
    if (method == "meters")
        return device_->meters();
    if (method == "program")
        return device_->running() ? project::toJson(*device_->running()) : json();
    if (method == "kept") {
        const auto kept = device_->kept();
        return kept ? project::toJson(*kept) : json();
    }
    if (method == "try") {
        const auto program = orRefuse(project::programFromJson(params.value("program", json()), "/program"));
        orRefuse(
            device_->tryProgram(program, params.value("author", json()).is_string() ? textOf(params, "author") : ""));
        return device_->state();
    }
    if (method == "keep") {
        orRefuse(device_->keep());
        return device_->state();
    }
    if (method == "putTool") {
        const int number =
            orRefuse(device_->putTool(orRefuse(project::toolFromJson(params.value("tool", json()), "/tool"))));
        toolOwners_[number] = asking_;
        return {{"number", number}};
    }
    if (method == "takeTool") {
        const json number = params.value("number", json());
        if (number.is_number_integer())
            device_->takeTool(number.get<int>());
        else if (number.is_null())
            device_->takeTools();
        else
            throw Refusal{-32602, {"needs the whole number \"number\", or none for all", "params", ""}};
        return {{"tools", device_->tools().size()}};
    }
    if (method == "tools") {
        json list = json::array();
        for (const auto& t : device_->tools()) {
            list.push_back(project::toJson(t));
            list.back()["number"] = t.number;
        }
        return list;
    }
    if (method == "powerCycle") {
        QTimer::singleShot(0, this, &Server::powerCycle); // the answer leaves first
        return {{"off", true}};
    }
    throw Refusal{-32601, {"there is no method \"" + method.substr(0, 60) + "\"", "", "docs/protocol.md lists them."}};
}

void Server::powerCycle() {
    server_->close();
    const auto sockets = sockets_;
    for (auto* s : sockets) {
        s->flush();
        s->abort(); // a device without power says no goodbye
    }
    device_->powerOff();
    QTimer::singleShot(700, this, [this] {
        device_->powerOn();
        server_->listen(address_, port_);
    });
}

} // namespace loom::rig
