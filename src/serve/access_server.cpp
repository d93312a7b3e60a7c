#include "serve/access_server.h"
#include "access/access_edit.h"
#include <QNetworkDatagram>
#include <QNetworkProxy>
#include <QTcpServer>
#include <QTcpSocket>
#include <QUdpSocket>
#include <QWebSocket>
#include <algorithm>

namespace loom::serve {

using namespace project;

namespace {

constexpr int beatMs = 50;             // from one look at what has changed to the next
constexpr qint64 mostUnread = 1 << 20; // bytes that somebody has not read; then the line is dropped
constexpr qint64 longestTurn = 8192;   // bytes that are taken of a line at once
constexpr int mostDatagrams = 200;     // that are taken at once
constexpr double oddEvery = 10;        // s

QByteArray raw(const std::string& text) {
    return QByteArray(text.data(), static_cast<qsizetype>(text.size()));
}

} // namespace

AccessServer::AccessServer(AccessHost& host, std::function<double()> now, QObject* parent)
    : QObject(parent), host_(host), now_(std::move(now)), door_(host), tcp_(new QTcpServer(this)),
      udp_(new QUdpSocket(this)) {
    tcp_->setProxy(QNetworkProxy::NoProxy);
    udp_->setProxy(QNetworkProxy::NoProxy);
    connect(tcp_, &QTcpServer::newConnection, this, &AccessServer::take);
    connect(udp_, &QUdpSocket::readyRead, this, &AccessServer::datagrams);
    connect(&tick_, &QTimer::timeout, this, &AccessServer::tell);
}

AccessServer::~AccessServer() {
    close();
}

QStringList AccessServer::open(const QHostAddress& address, const Access& access) {
    QStringList wrong;
    const auto why = [&](const char* what, int port, const QString& error) {
        wrong << QString("%1, port %2: %3 cannot be opened there (%4). Choose another port.")
                     .arg(address.toString())
                     .arg(port)
                     .arg(what, error);
    };
    if (tcp_->isListening() &&
        (!access.lines || tcp_->serverPort() != access.linesPort || tcp_->serverAddress() != address)) {
        tcp_->close();
        while (!lines_.empty())
            drop(lines_.begin()->first);
    }
    if (access.lines && !tcp_->isListening() && !tcp_->listen(address, static_cast<quint16>(access.linesPort)))
        why("lines of text", access.linesPort, tcp_->errorString());
    const bool bound = udp_->state() == QAbstractSocket::BoundState;
    if (bound && (!access.osc || udp_->localPort() != access.oscPort || udp_->localAddress() != address))
        udp_->close();
    if (access.osc && udp_->state() != QAbstractSocket::BoundState &&
        !udp_->bind(address, static_cast<quint16>(access.oscPort)))
        why("OSC", access.oscPort, udp_->errorString());
    to_.clear();
    if (access.osc)
        for (const auto& text : access.oscTo)
            if (const auto to = readOscTo(text)) {
                const QHostAddress at(QString::fromStdString(to->first));
                if (!at.isNull())
                    to_.push_back({at, static_cast<quint16>(to->second)});
            }
    if (!access.web)
        while (!sockets_.empty()) {
            auto* socket = sockets_.begin()->first;
            sockets_.erase(sockets_.begin());
            socket->disconnect(this);
            socket->close();
            socket->deleteLater();
        }
    access.any() ? tick_.start(beatMs) : tick_.stop();
    return wrong;
}

void AccessServer::close() {
    (void)open(QHostAddress(), Access{});
}

quint16 AccessServer::linesPort() const {
    return tcp_->isListening() ? tcp_->serverPort() : 0;
}

quint16 AccessServer::oscPort() const {
    return udp_->state() == QAbstractSocket::BoundState ? udp_->localPort() : 0;
}

// ---- lines of text ----

void AccessServer::take() {
    while (auto* socket = tcp_->nextPendingConnection()) {
        if (lines_.size() >= mostLines) // who has said nothing for longest makes room
            drop(std::min_element(lines_.begin(), lines_.end(), [](const auto& a, const auto& b) {
                     return a.second.heardAt < b.second.heardAt;
                 })->first);
        socket->setReadBufferSize(longestTurn);
        socket->setSocketOption(QAbstractSocket::KeepAliveOption, 1);
        socket->setSocketOption(QAbstractSocket::LowDelayOption, 1);
        lines_.emplace(socket, Line{LineSeat(host_, socket->peerAddress().toString().toStdString()), now_()});
        connect(socket, &QTcpSocket::readyRead, this, [this, socket] { read(socket); });
        connect(socket, &QTcpSocket::disconnected, this, [this, socket] { drop(socket); });
        if (socket->bytesAvailable() > 0)
            read(socket);
    }
}

void AccessServer::read(QTcpSocket* socket) {
    const auto it = lines_.find(socket);
    if (it == lines_.end())
        return;
    const auto bytes = socket->read(longestTurn);
    it->second.heardAt = now_();
    it->second.seat.received({bytes.constData(), static_cast<std::size_t>(bytes.size())}, now_());
    socket->write(raw(it->second.seat.take()));
    if (socket->bytesToWrite() > mostUnread)
        return drop(socket);
    if (it->second.seat.over()) {
        lines_.erase(it);
        socket->disconnect(this);
        connect(socket, &QTcpSocket::disconnected, socket, &QObject::deleteLater);
        socket->disconnectFromHost();
    } else if (socket->bytesAvailable() > 0) { // others have their turn first
        QMetaObject::invokeMethod(
            socket, [this, socket] { read(socket); }, Qt::QueuedConnection);
    }
    if (heard)
        heard();
}

void AccessServer::drop(QTcpSocket* socket) {
    lines_.erase(socket);
    socket->disconnect(this);
    socket->abort();
    socket->deleteLater();
}

// ---- OSC ----

void AccessServer::datagrams() {
    for (int n = 0; n < mostDatagrams && udp_->hasPendingDatagrams(); ++n) {
        const auto d = udp_->receiveDatagram(static_cast<qint64>(longestOsc) + 1);
        const auto bytes = d.data();
        const auto answers = door_.received({bytes.constData(), static_cast<std::size_t>(bytes.size())},
                                            d.senderAddress().toString().toStdString(), now_());
        for (const auto& m : answers)
            if (const auto out = oscBytes(m))
                udp_->writeDatagram(raw(*out), d.senderAddress(), static_cast<quint16>(d.senderPort()));
    }
    if (udp_->hasPendingDatagrams()) // others have their turn first
        QMetaObject::invokeMethod(this, &AccessServer::datagrams, Qt::QueuedConnection);
    if (heard)
        heard();
}

// ---- HTTP and WebSockets ----

HttpAnswer AccessServer::answer(const HttpAsk& ask, const std::string& source) {
    const auto name = ask.path.size() > 5 ? ask.path.substr(5) : std::string(); // "/api/"
    const auto a = answerJson(host_, ask.method, name, ask.body, ask.head("authorization"), source);
    if (heard)
        heard();
    HttpAnswer out{a.status, "application/json", a.body, {{"Cache-Control", "no-store"}}};
    if (a.status == 401) // RFC 7617
        out.heads.emplace_back("WWW-Authenticate", "Basic realm=\"role and PIN\", charset=\"UTF-8\"");
    return out;
}

void AccessServer::join(QWebSocket* socket) {
    if (sockets_.size() >= mostSockets) {
        socket->close();
        socket->deleteLater();
        return;
    }
    sockets_.emplace(socket, JsonSeat(host_, socket->peerAddress().toString().toStdString()));
    connect(socket, &QWebSocket::textMessageReceived, this, [this, socket](const QString& text) {
        const auto it = sockets_.find(socket);
        if (it == sockets_.end())
            return;
        socket->sendTextMessage(QString::fromStdString(it->second.received(text.toStdString(), now_())));
        if (socket->bytesToWrite() > mostUnread)
            socket->abort();
        if (heard)
            heard();
    });
    connect(socket, &QWebSocket::binaryMessageReceived, socket, [socket] { socket->abort(); });
    connect(socket, &QWebSocket::disconnected, this, [this, socket] {
        sockets_.erase(socket);
        socket->deleteLater();
    });
}

// ---- what has changed ----

void AccessServer::tell() {
    if (const auto some = door_.takeOdd(); some.count > 0 && odd && now_() - oddAt_ >= oddEvery) {
        oddAt_ = now_();
        odd(some.first + (some.count > 1 ? " And " + std::to_string(some.count - 1) + " more." : ""));
    }
    if (lines_.empty() && sockets_.empty() && to_.empty())
        return;
    std::vector<std::optional<double>> values;
    values.reserve(host_.items().size());
    for (const auto& item : host_.items())
        values.push_back(host_.now(item));
    std::vector<QTcpSocket*> slow;
    for (auto& [socket, line] : lines_) {
        line.seat.tell(values);
        if (const auto text = line.seat.take(); !text.empty())
            socket->write(raw(text));
        if (socket->bytesToWrite() > mostUnread)
            slow.push_back(socket);
    }
    for (auto* socket : slow)
        drop(socket);
    std::vector<QWebSocket*> stuck;
    for (auto& [socket, seat] : sockets_) {
        for (const auto& text : seat.tell(values))
            socket->sendTextMessage(QString::fromStdString(text));
        if (socket->bytesToWrite() > mostUnread)
            stuck.push_back(socket);
    }
    for (auto* socket : stuck)
        socket->abort();
    if (to_.empty())
        return;
    for (const auto& m : door_.tell(values, now_()))
        if (const auto out = oscBytes(m))
            for (const auto& to : to_)
                udp_->writeDatagram(raw(*out), to.host, to.port);
}

} // namespace loom::serve
