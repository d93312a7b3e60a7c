// Control from outside on sockets: lines of text over TCP, OSC over UDP, and what pages hand on of HTTP and WebSockets.
// It carries; what is said is the host's (access/). One thread, that of its event loop.
#pragma once
#ifndef Q_MOC_RUN
#include "access/json_seat.h"
#include "access/line_seat.h"
#include "access/osc_door.h"
#include "pages/http_ask.h"
#endif
#include <QHostAddress>
#include <QObject>
#include <QTimer>
#include <functional>
#include <map>

class QTcpServer;
class QTcpSocket;
class QUdpSocket;
class QWebSocket;

namespace loom::serve {

class AccessServer : public QObject {
    Q_OBJECT
  public:
    static constexpr std::size_t mostLines = 64, mostSockets = 64;
    AccessServer(project::AccessHost& host, std::function<double()> now, QObject* parent = nullptr);
    ~AccessServer() override;
    // What is open now, at an address; what is open already stays. Gives what could not be opened, a sentence each.
    QStringList open(const QHostAddress& address, const project::Access& access);
    void close();              // all of it
    quint16 linesPort() const; // 0: not open
    quint16 oscPort() const;
    project::HttpAnswer answer(const project::HttpAsk& ask, const std::string& source);
    void join(QWebSocket* socket);
    // Something was asked: whoever carries values between devices may want to at once.
    std::function<void()> heard;
    // What came and was not understood or refused, a sentence; at most every ten seconds.
    std::function<void(const std::string& what)> odd;

  private:
    struct Line {
        project::LineSeat seat;
        double heardAt = 0;
    };
    struct Listener {
        QHostAddress host;
        quint16 port;
    };
    void take();
    void read(QTcpSocket* socket);
    void drop(QTcpSocket* socket);
    void datagrams();
    void tell();
    project::AccessHost& host_;
    std::function<double()> now_;
    project::OscDoor door_;
    QTcpServer* tcp_;
    QUdpSocket* udp_;
    QTimer tick_;
    std::map<QTcpSocket*, Line> lines_{};
    std::map<QWebSocket*, project::JsonSeat> sockets_{};
    std::vector<Listener> to_{}; // of OSC
    double oddAt_ = -1e9;
};

} // namespace loom::serve
