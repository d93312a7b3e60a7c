#include "client/socket_network.h"
#include "file/project_json.h"
#include "schema/json_text.h"
#include "site/protocol.h"
#include <QHostAddress>
#include <QNetworkDatagram>
#include <QNetworkInterface>
#include <QNetworkProxy>
#include <QTcpSocket>
#include <QTimer>
#include <QUdpSocket>
#include <QUrl>
#include <QWebSocket>

namespace loom::client {

namespace {

class SocketLine : public Line {
  public:
    SocketLine() {
        socket_.setProxy(QNetworkProxy::NoProxy); // devices stand on this network
        socket_.setOutgoingFrameSize(site::mostFrame);
        QObject::connect(&socket_, &QWebSocket::connected, &socket_, [this] {
            if (opened)
                opened();
        });
        QObject::connect(&socket_, &QWebSocket::disconnected, &socket_, [this] { gone(); });
        QObject::connect(&socket_, QOverload<QAbstractSocket::SocketError>::of(&QWebSocket::error), &socket_,
                         [this] { gone(); });
        QObject::connect(&socket_, &QWebSocket::textMessageReceived, &socket_,
                         [this](const QString& text) { got(text.toStdString(), false); });
        QObject::connect(&socket_, &QWebSocket::binaryMessageReceived, &socket_,
                         [this](const QByteArray& bytes) { got(bytes.toStdString(), true); });
    }
    ~SocketLine() override {
        socket_.disconnect(&socket_);
        socket_.abort();
    }
    void open(const std::string& address, std::uint16_t port) override {
        open_ = true;
        socket_.open(QUrl(QString("ws://%1:%2").arg(QString::fromStdString(address)).arg(port)));
        socket_.setReadBufferSize(static_cast<qint64>(site::mostFrame) + 4096); // also while hands are shaken
    }
    void send(const std::string& bytes, bool box) override {
        box ? socket_.sendBinaryMessage(QByteArray::fromStdString(bytes))
            : socket_.sendTextMessage(QString::fromStdString(bytes));
        if (socket_.bytesToWrite() > static_cast<qint64>(site::mostWaiting)) // it does not read
            socket_.abort();
    }
    void close() override {
        open_ = false;
        socket_.abort();
    }
    void allow(std::size_t bytes) override {
        socket_.setMaxAllowedIncomingMessageSize(bytes);
        socket_.setMaxAllowedIncomingFrameSize(std::min(bytes, site::mostFrame));
    }

  private:
    void got(const std::string& bytes, bool box) {
        if (received)
            received(bytes, box);
    }
    void gone() {
        if (!std::exchange(open_, false) || !closed)
            return;
        // Later: the socket is in the midst of telling so.
        QTimer::singleShot(0, &socket_, [this] {
            if (!open_ && closed)
                closed();
        });
    }
    QWebSocket socket_;
    bool open_ = false;
};

class UdpFinder : public Finder {
  public:
    UdpFinder() {
        socket_.setProxy(QNetworkProxy::NoProxy);
        QObject::connect(&socket_, &QUdpSocket::readyRead, &socket_, [this] { read(); });
    }
    void ask(const std::vector<std::string>& addresses, std::uint16_t port) override {
        if (socket_.state() != QAbstractSocket::BoundState) {
            socket_.bind(QHostAddress::AnyIPv4, 0);
            socket_.setSocketOption(QAbstractSocket::ReceiveBufferSizeSocketOption, 1 << 20); // 300 answers at once
        }
        static const QByteArray who = R"({"loom":"who"})";
        for (const auto& a : addresses)
            socket_.writeDatagram(who, QHostAddress(QString::fromStdString(a)), port);
    }

  private:
    void read() {
        constexpr int atOnce = 50;
        std::vector<site::DiscoveredDevice> all;
        for (int i = 0; i < atOnce && socket_.hasPendingDatagrams(); ++i) { // what is left calls again
            const auto datagram = socket_.receiveDatagram(4096);
            const auto j = project::parseJson(datagram.data().toStdString(), "answer");
            auto f = j ? schema::fromJson<site::DiscoveredDevice>(*j) : Result<site::DiscoveredDevice>(Error{});
            if (!f)
                continue;
            f->asked = QHostAddress(datagram.senderAddress().toIPv4Address()).toString().toStdString();
            all.push_back(std::move(*f));
        }
        if (!all.empty() && heard)
            heard(std::move(all));
    }
    QUdpSocket socket_;
};

class UdpListener : public GroupListener {
  public:
    UdpListener() {
        socket_.setProxy(QNetworkProxy::NoProxy);
        QObject::connect(&socket_, &QUdpSocket::readyRead, &socket_, [this] { read(); });
    }
    void join(const std::string& group, std::uint16_t port, bool loopback) override {
        const QHostAddress to(QString::fromStdString(group));
        socket_.abort();
        if (!socket_.bind(to, port, QAbstractSocket::ShareAddress | QAbstractSocket::ReuseAddressHint))
            return; // nothing is heard, as where nobody announces
        socket_.setSocketOption(QAbstractSocket::ReceiveBufferSizeSocketOption, 1 << 20); // hundreds at once
        for (const auto& adapter : QNetworkInterface::allInterfaces()) {
            const auto flags = adapter.flags();
            if (loopback ? flags.testFlag(QNetworkInterface::IsLoopBack)
                         : flags.testFlag(QNetworkInterface::CanMulticast) && flags.testFlag(QNetworkInterface::IsUp))
                socket_.joinMulticastGroup(to, adapter);
        }
    }

  private:
    void read() {
        constexpr int atOnce = 100;
        std::vector<std::vector<std::uint8_t>> all;
        for (int i = 0; i < atOnce && socket_.hasPendingDatagrams(); ++i) { // what is left calls again
            const auto bytes = socket_.receiveDatagram(64 * 1024).data();
            all.emplace_back(bytes.begin(), bytes.end());
        }
        if (!all.empty() && heard)
            heard(std::move(all));
    }
    QUdpSocket socket_;
};

} // namespace

SocketNetwork::SocketNetwork(QObject* here) : here_(here), there_(&anchor_) {
    anchor_.moveToThread(&thread_);
    thread_.setObjectName("lines");
    thread_.start();
}

SocketNetwork::~SocketNetwork() {
    jobs_.waitForDone(); // they tell here() of it
    // What was posted before is done first: sockets are destroyed where they live.
    QMetaObject::invokeMethod(
        &anchor_, [this] { thread_.quit(); }, Qt::QueuedConnection);
    thread_.wait();
}

std::unique_ptr<Line> SocketNetwork::newLine() {
    return std::make_unique<SocketLine>();
}

std::unique_ptr<Finder> SocketNetwork::newFinder() {
    return std::make_unique<UdpFinder>();
}

std::unique_ptr<GroupListener> SocketNetwork::newListener() {
    return std::make_unique<UdpListener>();
}

void SocketNetwork::work(std::function<void()> job) {
    jobs_.start(std::move(job));
}

} // namespace loom::client
