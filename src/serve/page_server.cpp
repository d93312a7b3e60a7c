#include "serve/page_server.h"
#include "surface/picture_size.h"
#include <QFile>
#include <QNetworkProxy>
#include <QSslCertificate>
#include <QSslConfiguration>
#include <QSslKey>
#include <QSslSocket>
#include <QTcpServer>
#include <QTcpSocket>
#include <QUrl>
#include <QUrlQuery>
#include <QWebSocket>
#include <QWebSocketCorsAuthenticator>
#include <QWebSocketServer>
#include <algorithm>
#include <nlohmann/json.hpp>

static void initWeb() { // resources of a static library are asked for by hand, outside namespaces
    Q_INIT_RESOURCE(web);
}

namespace loom::serve {

using namespace project;

namespace {

constexpr int tickMs = 33, answerWithinMs = 60000;
constexpr qint64 longestAsk = static_cast<qint64>(longestHead + longestBody);
constexpr qint64 mostWaiting = 4 << 20; // bytes that a browser has not read; then its line is dropped

// A listener whose sockets are encrypted.
class TlsListener : public QTcpServer {
  public:
    using QTcpServer::QTcpServer;
    QSslConfiguration tls{};

  protected:
    void incomingConnection(qintptr handle) override {
        auto* socket = new QSslSocket(this);
        if (!socket->setSocketDescriptor(handle)) {
            delete socket;
            return;
        }
        socket->setSslConfiguration(tls);
        socket->startServerEncryption();
        addPendingConnection(socket);
    }
};

struct File {
    const char *path, *type;
};
constexpr File files[] = {
    {"app.js", "text/javascript; charset=utf-8"},  {"page.js", "text/javascript; charset=utf-8"},
    {"draw.js", "text/javascript; charset=utf-8"}, {"worker.js", "text/javascript; charset=utf-8"},
    {"style.css", "text/css; charset=utf-8"},      {"icon.svg", "image/svg+xml"},
    {"fonts/manrope-500.woff2", "font/woff2"},     {"fonts/manrope-700.woff2", "font/woff2"},
    {"fonts/figures-400.woff2", "font/woff2"},     {"fonts/figures-700.woff2", "font/woff2"}};

std::string resource(const std::string& name) {
    QFile file(":/web/" + QString::fromStdString(name));
    return file.open(QIODevice::ReadOnly) ? file.readAll().toStdString() : std::string();
}

// By its head; "": it is none.
std::string mediaType(const std::vector<char>& bytes) {
    static constexpr const char* names[] = {"image/png", "image/jpeg", "image/svg+xml"};
    const auto size = pictureSize(bytes);
    return size ? names[static_cast<int>(size->kind)] : "";
}

} // namespace

PageServer::PageServer(PageHost& host, std::function<double()> now, QObject* parent)
    : QObject(parent), host_(host), now_(std::move(now)), tcp_(new QTcpServer(this)), tls_(new TlsListener(this)),
      sockets_(new QWebSocketServer("nimble-loom", QWebSocketServer::NonSecureMode, this)) {
    initWeb();
    for (auto* listener : {tcp_, tls_}) {
        listener->setProxy(QNetworkProxy::NoProxy);
        connect(listener, &QTcpServer::newConnection, this, [this, listener] { take(*listener); });
    }
    sockets_->setHandshakeTimeout(std::chrono::milliseconds(headWithinMs));
    // Whose page asks was looked at before it was handed on.
    connect(sockets_, &QWebSocketServer::originAuthenticationRequired, this,
            [](QWebSocketCorsAuthenticator* page) { page->setAllowed(true); });
    connect(sockets_, &QWebSocketServer::newConnection, this, &PageServer::join);
    tick_.setTimerType(Qt::PreciseTimer);
    connect(&tick_, &QTimer::timeout, this, [this] { host_.tick(now_()); });
}

PageServer::~PageServer() {
    close();
}

QString PageServer::listen(const QHostAddress& address, quint16 port) {
    if (!tcp_->listen(address, port))
        return QString("%1, port %2: pages cannot be served there (%3).")
            .arg(address.toString())
            .arg(port)
            .arg(tcp_->errorString());
    tick_.start(tickMs);
    return {};
}

QString PageServer::listenTls(const QHostAddress& address, const OwnCertificate& own, quint16 port) {
    QSslConfiguration config;
    const QSslCertificate certificate(QByteArray::fromStdString(own.certificate));
    const QSslKey key(QByteArray::fromStdString(own.key), QSsl::Ec);
    if (!QSslSocket::supportsSsl() || certificate.isNull() || key.isNull())
        return "This computer has no TLS: pages are served without it.";
    config.setLocalCertificate(certificate);
    config.setPrivateKey(key);
    config.setPeerVerifyMode(QSslSocket::VerifyNone);
    config.setProtocol(QSsl::TlsV1_2OrLater);
    static_cast<TlsListener*>(tls_)->tls = config;
    if (!tls_->listen(address, port))
        return QString("%1, port %2: pages cannot be served there (%3).")
            .arg(address.toString())
            .arg(port)
            .arg(tls_->errorString());
    return {};
}

void PageServer::close() {
    tcp_->close();
    tls_->close();
    tick_.stop();
    host_.closeAll();
    for (const auto& [socket, _] : std::exchange(seats_, {})) {
        socket->disconnect(this);
        socket->abort();
        socket->deleteLater();
    }
    for (const auto& socket : std::exchange(open_, {}))
        if (socket)
            socket->abort();
}

bool PageServer::listening() const {
    return tcp_->isListening();
}

quint16 PageServer::port() const {
    return tcp_->serverPort();
}

QHostAddress PageServer::address() const {
    return tcp_->serverAddress();
}

quint16 PageServer::tlsPort() const {
    return tls_->serverPort();
}

void PageServer::take(QTcpServer& listener) {
    while (auto* socket = listener.nextPendingConnection()) {
        std::erase_if(open_, [](const auto& s) { return !s; });
        if (open_.size() + seats_.size() >= mostOpen) {
            if (open_.empty()) {
                socket->abort();
                socket->deleteLater();
                continue;
            }
            open_.front()->abort(); // who has said nothing for longest makes room
            open_.pop_front();
        }
        socket->setReadBufferSize(longestAsk);
        open_.push_back(socket);
        connect(socket, &QTcpSocket::disconnected, socket, &QObject::deleteLater);
        connect(socket, &QTcpSocket::readyRead, this, [this, socket] { read(socket); });
        QTimer::singleShot(headWithinMs, socket, [this, socket] {
            if (std::any_of(open_.begin(), open_.end(), [&](const auto& s) { return s == socket; }) &&
                !socket->property("asked").toBool())
                socket->abort();
        });
        if (socket->bytesAvailable() > 0)
            read(socket);
    }
}

// Only looked at: what asks for a WebSocket is read again by who makes one.
void PageServer::read(QTcpSocket* socket) {
    const auto ask = readHttpAsk(socket->peek(longestAsk).toStdString());
    if (!ask)
        return refuse(socket, std::atoi(ask.error().place.c_str()), ask.error().message);
    if (!*ask)
        return;
    socket->disconnect(this);
    socket->setProperty("asked", true);
    if ((*ask)->upgrades()) {
        if (!isOwnOrigin((*ask)->head("origin"), (*ask)->head("host")))
            return refuse(socket, 403, "pages of others may not talk to this device");
        if ((*ask)->path != "/ws" && !(joins && (*ask)->isApi()))
            return refuse(socket, 404, "there is no such line");
        std::erase_if(open_, [&](const auto& s) { return s == socket; });
        sockets_->handleConnection(socket);
        return;
    }
    answer(socket, **ask);
}

void PageServer::refuse(QTcpSocket* socket, int status, const std::string& text) {
    socket->disconnect(this);
    socket->write(QByteArray::fromStdString(httpText({status, "text/plain; charset=utf-8", text + "\n"}, true)));
    socket->disconnectFromHost();
}

void PageServer::answer(QTcpSocket* socket, const HttpAsk& ask) {
    QTimer::singleShot(answerWithinMs, socket, [socket] { socket->abort(); });
    HttpAnswer a;
    if (ask.isApi() && api) {
        // No page of others may ask, whatever name it was led here by.
        if (!isOwnHost(ask.head("host")) || !isOwnOrigin(ask.head("origin"), ask.head("host")))
            return refuse(socket, 403, "pages of others may not talk to this device; ask it by its address");
        a = api(ask, socket->peerAddress().toString().toStdString());
        socket->write(QByteArray::fromStdString(httpText(a, ask.method != "HEAD")));
        socket->disconnectFromHost();
        return;
    }
    const auto name = ask.path.substr(1);
    const auto* file = std::find_if(std::begin(files), std::end(files), [&](const File& f) { return name == f.path; });
    if (name.empty() || name.rfind("s/", 0) == 0) {
        a.type = "text/html; charset=utf-8";
        a.body = resource("index.html");
        a.heads.emplace_back("Cache-Control", "no-cache");
    } else if (file != std::end(files)) {
        a.type = file->type;
        a.body = resource(name);
        a.heads.emplace_back("Cache-Control", name.rfind("fonts/", 0) == 0 ? "max-age=86400" : "no-cache");
    } else if (name == "manifest.webmanifest") {
        const auto surface =
            QUrlQuery(QString::fromStdString(ask.query)).queryItemValue("s", QUrl::FullyDecoded).toStdString();
        std::string title = "Touch surface";
        for (const auto& s : host_.served())
            if (const auto* is = s.surface == surface ? s.project.surface(surface) : nullptr)
                title = is->name;
        const auto start = "/s/" + QUrl::toPercentEncoding(QString::fromStdString(surface)).toStdString();
        a.type = "application/manifest+json";
        a.body = nlohmann::json{{"name", title},
                                {"short_name", title.substr(0, 30)},
                                {"start_url", surface.empty() ? "/" : start},
                                {"display", "fullscreen"},
                                {"background_color", "#25323A"},
                                {"theme_color", "#25323A"},
                                {"icons", {{{"src", "/icon.svg"}, {"sizes", "any"}, {"type", "image/svg+xml"}}}}}
                     .dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
    } else if (const auto bytes =
                   name.rfind("picture/", 0) == 0 && picture ? picture(name.substr(8)) : std::vector<char>{};
               !bytes.empty() && !mediaType(bytes).empty()) {
        a.type = mediaType(bytes);
        a.body.assign(bytes.begin(), bytes.end());
        a.heads.emplace_back("Cache-Control", "max-age=31536000, immutable");
    } else {
        a = {404, "text/plain; charset=utf-8", "There is nothing here. Surfaces are at /.\n", {}};
    }
    socket->write(QByteArray::fromStdString(httpText(a, ask.method == "GET")));
    socket->disconnectFromHost();
}

void PageServer::join() {
    while (auto* socket = sockets_->nextPendingConnection()) {
        socket->setMaxAllowedIncomingFrameSize(4096);
        socket->setMaxAllowedIncomingMessageSize(4096);
        if (socket->requestUrl().path() != "/ws") {
            if (joins)
                joins(socket);
            else
                socket->deleteLater();
            continue;
        }
        const int seat = host_.opened({[socket](const std::string& text) {
                                           socket->sendTextMessage(QString::fromStdString(text));
                                           if (socket->bytesToWrite() > mostWaiting) // it does not read
                                               QTimer::singleShot(0, socket, [socket] { socket->abort(); });
                                       },
                                       [socket] { QTimer::singleShot(0, socket, [socket] { socket->abort(); }); },
                                       socket->peerAddress().toString().toStdString()},
                                      now_());
        if (seat < 0) {
            connect(socket, &QWebSocket::disconnected, socket, &QObject::deleteLater);
            continue;
        }
        seats_[socket] = seat;
        connect(socket, &QWebSocket::textMessageReceived, this, [this, socket](const QString& text) {
            const auto it = seats_.find(socket);
            if (it == seats_.end())
                return;
            host_.received(it->second, text.toStdString(), now_());
            if (heard)
                heard();
        });
        connect(socket, &QWebSocket::binaryMessageReceived, socket, [socket] { socket->abort(); });
        connect(socket, &QWebSocket::disconnected, this, [this, socket] {
            if (const auto it = seats_.find(socket); it != seats_.end()) {
                host_.closed(it->second, now_());
                seats_.erase(it);
            }
            socket->deleteLater();
        });
    }
}

} // namespace loom::serve
