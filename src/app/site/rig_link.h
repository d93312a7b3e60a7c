// The line to one device: JSON-RPC over WebSocket, comes back by itself after a loss.
#pragma once
#ifndef Q_MOC_RUN
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
    void open(const QString& address, quint16 port);
    void close();
    bool up() const { return socket_.state() == QAbstractSocket::ConnectedState; }
    bool wanted() const { return wanted_; }
    QString address() const { return address_; }
    // `then` gets the result and an empty text, or the trouble; always called once, also when the line is lost.
    using Then = std::function<void(const nlohmann::json& result, const QString& trouble)>;
    void call(const std::string& method, nlohmann::json params, Then then);

  signals:
    void changed(); // up or down

  private:
    void received(const QString& text);
    void lost();
    void dial();
    QWebSocket socket_;
    QTimer again_, patience_;
    QString address_;
    quint16 port_ = 0;
    bool wanted_ = false;
    int next_ = 1;
    struct Waiting {
        Then then;
        qint64 since;
    };
    std::map<int, Waiting> waiting_;
};

} // namespace loom::app
