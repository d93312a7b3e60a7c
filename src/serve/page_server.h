// Pages for browsers on a socket: HTTP for what pages are made of, a WebSocket for each that is open. It carries; what
// is said is the page host's (pages/page_host.h). One thread, that of its event loop.
#pragma once
#ifndef Q_MOC_RUN
#include "pages/http_ask.h"
#include "pages/page_host.h"
#include "serve/certificate.h"
#endif
#include <QHostAddress>
#include <QObject>
#include <QPointer>
#include <QTimer>
#include <deque>
#include <functional>
#include <map>

class QTcpServer;
class QTcpSocket;
class QWebSocket;
class QWebSocketServer;

namespace loom::serve {

inline constexpr quint16 pagePort = 4780, tlsPagePort = 4781;

class PageServer : public QObject {
    Q_OBJECT
  public:
    static constexpr std::size_t mostOpen = 192; // sockets, those included that have said nothing yet
    static constexpr int headWithinMs = 5000;    // a request is there, or its socket ends
    PageServer(project::PageHost& host, std::function<double()> now, QObject* parent = nullptr);
    ~PageServer() override;
    // "": it listens; else why not.
    QString listen(const QHostAddress& address, quint16 port = pagePort);
    // The same over TLS, beside it.
    QString listenTls(const QHostAddress& address, const OwnCertificate& certificate, quint16 port = tlsPagePort);
    void close(); // and all lines
    bool listening() const;
    QHostAddress address() const;
    quint16 port() const;
    quint16 tlsPort() const; // 0: not over TLS
    // The bytes of a picture by its print; empty: there is none.
    std::function<std::vector<char>(const std::string& print)> picture;
    // What is asked below /api/, and a line to it ("/api"); without them there is nothing.
    std::function<project::HttpAnswer(const project::HttpAsk& ask, const std::string& source)> api;
    std::function<void(QWebSocket* socket)> joins;
    // A browser has said something: whoever carries values between devices may want to at once.
    std::function<void()> heard;

  private:
    void take(QTcpServer& listener);
    void read(QTcpSocket* socket);
    void answer(QTcpSocket* socket, const project::HttpAsk& ask);
    void refuse(QTcpSocket* socket, int status, const std::string& text);
    void join();
    project::PageHost& host_;
    std::function<double()> now_;
    QTcpServer *tcp_, *tls_;
    QWebSocketServer* sockets_;
    std::deque<QPointer<QTcpSocket>> open_{};
    std::map<QWebSocket*, int> seats_{};
    QTimer tick_;
};

} // namespace loom::serve
