// A simulated device on a real socket: JSON-RPC 2.0 over WebSocket, in the open or sealed. docs/protocol.md lists the
// calls.
#pragma once
#ifndef Q_MOC_RUN
#include "rig/device.h"
#include "site/found.h"
#endif
#include <QHostAddress>
#include <QObject>
#include <QSemaphore>
#include <QTimer>
#include <deque>
#include <functional>
#include <map>
#include <memory>

class QWebSocket;
class QWebSocketServer;

namespace loom::rig {

inline constexpr quint16 rigPort = site::devicePort;
inline constexpr int maxMessage = 8 << 20;

class Server : public QObject {
    Q_OBJECT
  public:
    Server(DeviceSetup setup, QObject* parent = nullptr);
    ~Server() override;
    // Listens at the address, such as 127.20.4.10; an empty text or what stands in the way. An address that another
    // device has, or that this network cannot carry, is taken up as soon as it is free; until then only finding hears
    // the device.
    QString listen(const QHostAddress& address, quint16 port = rigPort);
    QString move(const QString& address); // to another address, as listen()
    bool listening() const;
    bool onWire() const { return cable_ && device_->powered(); } // whether finding hears it
    QString address() const { return address_.toString(); }
    quint16 port() const { return port_; }
    Device& device() { return *device_; }
    site::Found about() const;
    // Answers one message in the open; never throws, whatever comes in. Public for the fuzz target.
    std::string answer(const std::string& message);

    // Faults of power and line: power (on, off), cable (in, out), delay (ms, there and back), loss (share, 0 to 0.5);
    // the others are the device's. Trouble: no such fault or value.
    Result<Done> setFault(const std::string& name, const nlohmann::json& value);
    double loss() const { return loss_; }

  private:
    struct Line { // one desk
        QWebSocket* socket = nullptr;
        int number = 0; // a later socket may lie where an earlier one lay
        std::optional<site::Channel> channel{};
        bool unlocked = false;
        qint64 free = 0;                                 // when the last message on its way will have arrived, ms
        std::deque<std::pair<QByteArray, bool>> onWay{}; // in the order they were sent; true: a box
    };
    nlohmann::json call(const std::string& method, const nlohmann::json& params, Line* line);
    nlohmann::json secure(const nlohmann::json& params, Line& line);
    std::string reply(const std::string& message, Line* line);
    void take(QWebSocket* socket);
    void heard(QWebSocket* socket, const QByteArray& message, bool box);
    void send(Line& line, const std::string& text);
    void tellAll(const std::string& method, const nlohmann::json& params);
    // Argon2id takes a while: on a thread of the pool, which the server waits for before it goes; the answer follows.
    void onPool(std::function<void()> work);
    void checkPassword(const std::string& password, const Line& line, const nlohmann::json& id, bool thenOpen);
    void sealWith(const std::string& password, const Line& line, const nlohmann::json& id);
    void respond(QWebSocket* socket, const nlohmann::json& id, const nlohmann::json& result);
    void refuse(QWebSocket* socket, const nlohmann::json& id, int code, const std::string& text);
    Line* lineOf(QWebSocket* socket);
    Line* lineOf(QWebSocket* socket, int number); // null: it is another line by now
    void dropAll();
    void setPower(bool on);
    void tellSound(); // where it is on the network, for its sound
    void powerCycle(int ms = 700);

    std::unique_ptr<Device> device_;
    QWebSocketServer* server_;
    std::map<QWebSocket*, Line> lines_{};
    int nextLine_ = 1;
    std::map<int, QWebSocket*> toolOwners_{}; // a tool ends with the connection that put it there
    QHostAddress address_;
    quint16 port_ = 0;
    QTimer tend_, again_;
    bool cable_ = true;
    int delay_ = 0;
    double loss_ = 0;
    QSemaphore worked_{};                                                      // of what onPool() was given
    int givenToPool_ = 0;                                                      // ever
    int wrong_ = 0;                                                            // passwords, one after another
    qint64 closedUntil_ = 0;                                                   // no password is looked at before, ms
    std::vector<std::pair<QWebSocket*, std::pair<QByteArray, bool>>> stuck_{}; // came while the cable was out
    nlohmann::json asking_{};                                                  // the id being answered
    bool later_ = false;                                                       // its answer follows by itself
};

} // namespace loom::rig
