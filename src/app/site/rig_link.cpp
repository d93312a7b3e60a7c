#include "app/site/rig_link.h"
#include "project/json.h"
#include <QDateTime>
#include <QUrl>

namespace loom::app {

using nlohmann::json;

namespace {
constexpr int patienceMs = 5000; // a line that is up but silent for so long is taken for lost
constexpr int secureId = 0;

std::string textOf(const json& j, const char* key) {
    const auto v = j.is_object() ? j.value(key, json()) : json();
    return v.is_string() ? v.get<std::string>() : std::string();
}
} // namespace

RigLink::RigLink(QObject* parent) : QObject(parent) {
    socket_.setMaxAllowedIncomingMessageSize(8 << 20);
    connect(&socket_, &QWebSocket::connected, this, &RigLink::connected);
    connect(&socket_, &QWebSocket::disconnected, this, &RigLink::lost);
    connect(&socket_, &QWebSocket::textMessageReceived, this, [this](const QString& text) {
        if (channel_)
            return socket_.abort(); // a sealed line takes nothing in the open
        const auto reply = project::parseJson(text.toStdString(), "answer");
        if (reply && reply->is_object() && reply->value("id", json()) == secureId)
            secured(reply->value("result", json()));
    });
    connect(&socket_, &QWebSocket::binaryMessageReceived, this, [this](const QByteArray& box) {
        auto text = channel_ ? channel_->open(box.toStdString()) : Result<std::string>(Trouble{});
        text ? received(*text) : socket_.abort();
    });
    again_.setSingleShot(true);
    connect(&again_, &QTimer::timeout, this, &RigLink::dial);
    connect(&patience_, &QTimer::timeout, this, [this] {
        const auto now = QDateTime::currentMSecsSinceEpoch();
        const bool silent = !waiting_.empty() && now - waiting_.begin()->second.since > patienceMs;
        const bool stuck =
            wanted_ && !channel_ && socket_.state() != QAbstractSocket::UnconnectedState && now - dialled_ > patienceMs;
        if (silent || stuck)
            socket_.abort();
    });
    patience_.start(1000);
}

void RigLink::open(const QString& address, quint16 port, const std::string& identity, int afterMs) {
    close();
    address_ = address, port_ = port, expected_ = identity, wanted_ = true;
    again_.start(afterMs);
}

void RigLink::dial() {
    if (!wanted_ || socket_.state() != QAbstractSocket::UnconnectedState)
        return;
    dialled_ = QDateTime::currentMSecsSinceEpoch();
    socket_.open(QUrl(QString("ws://%1:%2").arg(address_).arg(port_)));
}

void RigLink::close() {
    wanted_ = false;
    again_.stop();
    socket_.abort();
}

void RigLink::connected() {
    own_ = site::newKeys();
    const json request = {
        {"jsonrpc", "2.0"}, {"id", secureId}, {"method", "secure"}, {"params", {{"key", site::keyText(own_.open)}}}};
    socket_.sendTextMessage(QString::fromStdString(request.dump()));
}

void RigLink::secured(const json& result) {
    const auto key = site::readKey(textOf(result, "key")), identity = site::readKey(textOf(result, "identity"));
    if (!key || !identity)
        return socket_.abort();
    identity_ = site::keyText(*identity);
    if (!expected_.empty() && identity_ != expected_) {
        close();
        emit impostor();
        return;
    }
    auto channel = site::Channel::desk(own_, *key, *identity);
    if (!channel.usable())
        return socket_.abort();
    channel_ = std::move(channel);
    emit changed();
}

void RigLink::lost() {
    const bool was = channel_.has_value();
    channel_.reset();
    auto waiting = std::move(waiting_);
    waiting_.clear();
    for (auto& [_, w] : waiting)
        w.then(nullptr, "The device went away before it answered. The design is as it was; try again when it is back.");
    if (wanted_)
        again_.start(500);
    if (was)
        emit changed();
}

void RigLink::call(const std::string& method, json params, Then then) {
    if (!up())
        return then(nullptr, "The device is not connected.");
    const int id = next_++;
    waiting_[id] = {std::move(then), QDateTime::currentMSecsSinceEpoch()};
    const json request = {{"jsonrpc", "2.0"}, {"id", id}, {"method", method}, {"params", std::move(params)}};
    socket_.sendBinaryMessage(
        QByteArray::fromStdString(channel_->seal(request.dump(-1, ' ', false, json::error_handler_t::replace))));
}

void RigLink::received(const std::string& text) {
    const auto reply = project::parseJson(text, "answer");
    if (!reply || !reply->is_object())
        return;
    if (!reply->contains("id")) {
        const auto params = reply->value("params", json());
        if (params.is_object())
            emit told(QString::fromStdString(textOf(*reply, "method")), params);
        return;
    }
    if (!reply->value("id", json()).is_number_integer())
        return; // not an answer to anything asked here
    const auto it = waiting_.find(reply->at("id").get<int>());
    if (it == waiting_.end())
        return;
    const Then then = std::move(it->second.then);
    waiting_.erase(it);
    const auto error = reply->value("error", json());
    if (!error.is_null()) {
        const auto message = textOf(error, "message");
        return then(nullptr,
                    message.empty() ? QString("The device refused.") : QString::fromStdString(message).left(500));
    }
    then(reply->value("result", json()), {});
}

} // namespace loom::app
