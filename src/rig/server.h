// A simulated device on a real socket: JSON-RPC 2.0 over WebSocket. docs/protocol.md lists the calls.
#pragma once
#ifndef Q_MOC_RUN
#include "rig/device.h"
#endif
#include <QHostAddress>
#include <QObject>
#include <QTimer>
#include <map>
#include <memory>

class QWebSocket;
class QWebSocketServer;

namespace loom::rig {

inline constexpr quint16 rigPort = 4710;
inline constexpr int maxMessage = 8 << 20;

class Server : public QObject {
    Q_OBJECT
  public:
    Server(DeviceSetup setup, QObject* parent = nullptr);
    ~Server() override;
    // Listens at the address, such as 127.20.4.10; an empty text or what stands in the way.
    QString listen(const QHostAddress& address, quint16 port = rigPort);
    quint16 port() const;
    Device& device() { return *device_; }
    // Answers one message; never throws, whatever comes in. Public for the fuzz target.
    std::string answer(const std::string& message);

  private:
    nlohmann::json call(const std::string& method, const nlohmann::json& params);
    void take(QWebSocket* socket);
    void powerCycle();
    std::unique_ptr<Device> device_;
    QWebSocketServer* server_;
    QList<QWebSocket*> sockets_;
    QWebSocket* asking_ = nullptr;            // whose message is being answered
    std::map<int, QWebSocket*> toolOwners_{}; // a tool ends with the connection that put it there
    QHostAddress address_;
    quint16 port_ = 0;
    QTimer tend_;
};

} // namespace loom::rig
