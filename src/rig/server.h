// A simulated device on real sockets, with faults of power and line. What it answers is its front's (rig/front.h).
#pragma once
#ifndef Q_MOC_RUN
#include "rig/front.h"
#endif
#include <QHostAddress>
#include <QObject>
#include <QPointer>
#include <QTimer>
#include <deque>
#include <functional>
#include <map>
#include <memory>

class QTcpServer;
class QTcpSocket;
class QUdpSocket;
class QWebSocket;
class QWebSocketServer;

namespace loom::serve {
class AccessServer;
class PageServer;
} // namespace loom::serve

namespace loom::rig {

inline constexpr quint16 rigPort = site::devicePort;

class Server : public QObject {
    Q_OBJECT
  public:
    // Where simulated devices may be: on this computer alone, or wherever their addresses say.
    enum class Reach { thisComputer, anywhere };
    Server(DeviceSetup setup, Reach reach = Reach::thisComputer, QObject* parent = nullptr);
    ~Server() override;
    // Listens at the address, such as 127.20.4.10; an empty text or what stands in the way. An address that another
    // device has, or that this network cannot carry, is taken up as soon as it is free; until then it is reached at
    // reachedAt() only.
    QString listen(const QHostAddress& address, quint16 port = rigPort);
    QString move(const QString& address); // to another address, as listen()
    bool listening() const;
    bool onWire() const { return cable_ && device_->powered(); } // whether finding hears it
    QString address() const { return address_.toString(); }
    // Where it answers whatever its address is, as link-local addresses (RFC 3927) would on a network: 127.254.x.y.
    QString reachedAt() const { return reachedAt_.toString(); }
    quint16 port() const { return port_; }
    quint16 pagePort() const; // where browsers find its touch surfaces; 0: nowhere
    quint16 tlsPagePort() const;
    quint16 linesPort() const; // where controllers of others ask in lines of text; 0: nowhere
    quint16 oscPort() const;
    Device& device() { return *device_; }
    Front& front() { return *front_; }
    site::DiscoveredDevice about() const { return front_->about(); }

    // Faults of power and line: power (on, off), cable (in, out), delay (ms, there and back), loss (share, 0 to 0.5);
    // the others are the device's. Error: no such fault or value.
    Result<Done> setFault(const std::string& name, const nlohmann::json& value);
    double loss() const { return loss_; }
    // Where a serial line of its own really leads ("/dev/ttyS0" -> a pseudo-terminal).
    std::function<std::string(const std::string& path)> serial;
    QUdpSocket* finder() const; // at its address; null: it has none there

  signals:
    void asked(QUdpSocket* at); // a datagram came to its address
    void touched();             // somebody did something at one of its touch surfaces in a browser

  private:
    using Message = std::pair<QByteArray, bool>; // true: a box
    struct Wire {                                // what carries one line
        QWebSocket* socket = nullptr;
        int line = -1;
        bool ends = false;
        qint64 free = 0;             // when the last message on its way will have arrived, ms
        std::deque<Message> onWay{}; // in the order they were sent
        std::deque<Message> stuck{}; // came while the cable was out
    };
    void hear(QTcpServer& server);
    void take(QWebSocket* socket);
    void heard(QWebSocket* socket, const QByteArray& message, bool box);
    void send(QWebSocket* socket, const std::string& bytes, bool box);
    void put(Wire& wire, const Message& message);
    void drop(QWebSocket* socket);
    void forget(QWebSocket* socket);
    void dropAll();
    void openReach();
    void closeAll();
    void setPower(bool on);
    void tellSound();   // where it is on the network, for its sound
    void servePages();  // while it shows any and is there
    void serveOthers(); // as far as it allows
    void powerCycle(int ms);
    std::optional<OutsideSide::Line> outsideLine(const project::OutsideDevice& device, const project::OutsideKind& kind,
                                                 OutsideSide::Ears ears);

    std::unique_ptr<Device> device_;
    std::unique_ptr<Front> front_;
    Reach reach_;
    QTcpServer *here_, *always_; // at its address, at reachedAt()
    QUdpSocket* finder_;
    QWebSocketServer* webSockets_;
    std::unique_ptr<serve::PageServer> pages_;
    std::unique_ptr<serve::AccessServer> access_; // after it: it has sockets of the pages
    std::map<QWebSocket*, Wire> wires_{};
    std::deque<QPointer<QTcpSocket>> shaking_{}; // hands, as WebSockets do
    QHostAddress address_, reachedAt_;
    quint16 port_ = 0;
    QTimer tend_, again_, second_;
    bool cable_ = true;
    int delay_ = 0;
    double loss_ = 0;
};

} // namespace loom::rig
