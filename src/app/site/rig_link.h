// The sealed line to one device: JSON-RPC over WebSocket, comes back by itself after a loss.
#pragma once
#ifndef Q_MOC_RUN
#include "site/channel.h"
#include <functional>
#include <nlohmann/json.hpp>
#endif
#include <QObject>
#include <QTimer>
#include <QWebSocket>
#include <map>

namespace loom::app {

class RigLink : public QObject {
    Q_OBJECT
  public:
    explicit RigLink(QObject* parent = nullptr);
    ~RigLink() override { socket_.disconnect(this); } // no call comes back into what is being taken down
    // `identity`: the public key the device must prove; empty: that of whoever answers is taken, as at the first
    // meeting.
    // `afterMs`: hundreds of lines are not all begun in one go.
    void open(const QString& address, quint16 port, const std::string& identity, int afterMs = 0);
    void close();
    bool up() const { return channel_.has_value(); }
    bool wanted() const { return wanted_; }
    QString address() const { return address_; }
    const std::string& identity() const { return identity_; } // the one that was proved
    // `then` gets the result and an empty text, or the trouble; always called once, also when the line is lost.
    using Then = std::function<void(const nlohmann::json& result, const QString& trouble)>;
    void call(const std::string& method, nlohmann::json params, Then then);
    std::size_t waiting() const { return waiting_.size(); }

  signals:
    void changed();                                                 // up or down
    void told(const QString& method, const nlohmann::json& params); // by the device, unasked
    void impostor(); // another device answers at the address than the one that was paired

  private:
    void connected();
    void secured(const nlohmann::json& result);
    void received(const std::string& text);
    void lost();
    void dial();
    QWebSocket socket_;
    QTimer again_, patience_;
    QString address_;
    quint16 port_ = 0;
    bool wanted_ = false;
    int next_ = 1;
    std::string expected_, identity_;
    site::KeyPair own_{};
    std::optional<site::Channel> channel_{};
    qint64 dialled_ = 0;
    struct Waiting {
        Then then;
        qint64 since;
    };
    std::map<int, Waiting> waiting_;
};

} // namespace loom::app
