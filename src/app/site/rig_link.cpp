#include "app/site/rig_link.h"
#include "project/json.h"
#include <QDateTime>
#include <QUrl>

namespace loom::app {

RigLink::RigLink(QObject* parent) : QObject(parent) {
    socket_.setMaxAllowedIncomingMessageSize(8 << 20);
    connect(&socket_, &QWebSocket::connected, this, &RigLink::changed);
    connect(&socket_, &QWebSocket::disconnected, this, &RigLink::lost);
    connect(&socket_, &QWebSocket::textMessageReceived, this, &RigLink::received);
    again_.setSingleShot(true);
    connect(&again_, &QTimer::timeout, this, &RigLink::dial);
    connect(&patience_, &QTimer::timeout, this, [this] { // a line that is up but silent for 5 s is taken for lost
        if (!waiting_.empty() && QDateTime::currentMSecsSinceEpoch() - waiting_.begin()->second.since > 5000)
            socket_.abort();
    });
    patience_.start(1000);
}

void RigLink::open(const QString& address, quint16 port) {
    close();
    address_ = address, port_ = port, wanted_ = true;
    dial();
}

void RigLink::dial() {
    if (wanted_ && socket_.state() == QAbstractSocket::UnconnectedState)
        socket_.open(QUrl(QString("ws://%1:%2").arg(address_).arg(port_)));
}

void RigLink::close() {
    wanted_ = false;
    again_.stop();
    socket_.abort();
}

void RigLink::lost() {
    auto waiting = std::move(waiting_);
    waiting_.clear();
    for (auto& [_, w] : waiting)
        w.then(nullptr, "The device went away before it answered. The design is as it was; try again when it is back.");
    if (wanted_)
        again_.start(500);
    emit changed();
}

void RigLink::call(const std::string& method, nlohmann::json params, Then then) {
    if (!up())
        return then(nullptr, "The device is not connected.");
    const int id = next_++;
    waiting_[id] = {std::move(then), QDateTime::currentMSecsSinceEpoch()};
    const nlohmann::json request = {{"jsonrpc", "2.0"}, {"id", id}, {"method", method}, {"params", std::move(params)}};
    socket_.sendTextMessage(
        QString::fromStdString(request.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace)));
}

void RigLink::received(const QString& text) {
    const auto reply = project::parseJson(text.toStdString(), "answer");
    if (!reply || !reply->is_object() || !reply->value("id", nlohmann::json()).is_number_integer())
        return; // not an answer to anything asked here
    const auto it = waiting_.find(reply->at("id").get<int>());
    if (it == waiting_.end())
        return;
    const Then then = std::move(it->second.then);
    waiting_.erase(it);
    const auto error = reply->value("error", nlohmann::json());
    if (!error.is_null()) {
        const auto message = error.is_object() ? error.value("message", nlohmann::json()) : nlohmann::json();
        return then(nullptr, message.is_string() ? QString::fromStdString(message.get<std::string>()).left(500)
                                                 : QString("The device refused."));
    }
    then(reply->value("result", nlohmann::json()), {});
}

} // namespace loom::app
