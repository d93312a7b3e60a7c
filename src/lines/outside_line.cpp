#include "lines/outside_line.h"
#include "outside/osc.h"
#include <QHostAddress>
#include <QNetworkAccessManager>
#include <QNetworkDatagram>
#include <QNetworkProxy>
#include <QNetworkReply>
#include <QPointer>
#include <QSerialPort>
#include <QTcpSocket>
#include <QTimer>
#include <QUdpSocket>

namespace loom::lines {
namespace {

using project::OutsideAddress;
using project::OutsideKind;

constexpr qint64 longestRead = 65536;   // bytes that are taken at once
constexpr qint64 mostUnsent = 1 << 20;  // bytes that wait in a line that takes none
constexpr qint64 longestBody = 1 << 16; // of an answer over HTTP; what is longer is cut

QByteArray bytesOf(const std::string& text) {
    return QByteArray(text.data(), static_cast<qsizetype>(text.size()));
}

bool isHere(const QHostAddress& address) {
    return address.isLoopback();
}

class TcpLine : public OutsideLine {
  public:
    TcpLine(const OutsideAddress& a, Told told, bool onlyHere) : address_(a), told_(std::move(told)) {
        socket_.setProxy(QNetworkProxy::NoProxy);
        again_.setSingleShot(true);
        const auto lost = [this] {
            if (std::exchange(open_, false) && told_.connected)
                told_.connected(false);
            if (!again_.isActive())
                again_.start(againMs);
        };
        connect(&socket_, &QTcpSocket::connected, this, [this] {
            open_ = true;
            socket_.setSocketOption(QAbstractSocket::LowDelayOption, 1);
            if (told_.connected)
                told_.connected(true);
        });
        connect(&socket_, &QTcpSocket::disconnected, this, lost);
        connect(&socket_, &QTcpSocket::errorOccurred, this, lost);
        connect(&socket_, &QTcpSocket::readyRead, this, [this] {
            while (socket_.bytesAvailable() > 0) {
                const auto bytes = socket_.read(longestRead);
                if (bytes.isEmpty())
                    break;
                told_.heard({bytes.constData(), static_cast<std::size_t>(bytes.size())});
            }
        });
        connect(&again_, &QTimer::timeout, this, [this] { begin(); });
        if (!onlyHere || isHere(QHostAddress(QString::fromStdString(a.host))))
            QTimer::singleShot(0, this, [this] { begin(); });
    }
    void send(const std::string& message) override {
        if (socket_.bytesToWrite() < mostUnsent)
            socket_.write(bytesOf(message));
    }

  private:
    void begin() {
        socket_.abort();
        socket_.connectToHost(QString::fromStdString(address_.host), static_cast<quint16>(address_.port));
    }
    OutsideAddress address_;
    Told told_;
    QTimer again_;
    bool open_ = false;
    QTcpSocket socket_;
};

class UdpLine : public OutsideLine {
  public:
    UdpLine(const OutsideAddress& a, Told told, bool onlyHere, bool osc) : told_(std::move(told)), osc_(osc) {
        const QHostAddress to(QString::fromStdString(a.host));
        socket_.setProxy(QNetworkProxy::NoProxy);
        if (to.isNull() || (onlyHere && !isHere(to)))
            return;
        to_ = to;
        port_ = static_cast<quint16>(a.port);
        socket_.bind(isHere(to) ? QHostAddress("127.0.0.1") : QHostAddress(QHostAddress::AnyIPv4), 0);
        connect(&socket_, &QUdpSocket::readyRead, this, [this] { heard(); });
        QTimer::singleShot(0, this, [this] { told_.connected(true); });
    }
    void send(const std::string& message) override {
        if (to_.isNull())
            return;
        if (!osc_) {
            socket_.writeDatagram(bytesOf(message), to_, port_);
            return;
        }
        const auto m = project::readOscText(message);
        const auto bytes = m ? project::oscBytes(*m) : Result<std::string>(m.error());
        if (bytes)
            socket_.writeDatagram(bytesOf(*bytes), to_, port_);
        else if (told_.refused)
            told_.refused(bytes.error().text());
    }

  private:
    void heard() {
        while (socket_.hasPendingDatagrams()) {
            const auto d = socket_.receiveDatagram(longestRead);
            if (d.senderAddress() != to_) // somebody else's
                continue;
            const auto text = d.data().toStdString();
            if (!osc_) {
                told_.whole(text);
                continue;
            }
            if (const auto all = project::readOsc(text))
                for (const auto& m : *all)
                    told_.whole(project::oscText(m));
            else
                told_.whole(text); // nobody's answer: it is said so
        }
    }
    Told told_;
    bool osc_;
    QHostAddress to_{};
    quint16 port_ = 0;
    QUdpSocket socket_;
};

// "PUT /power\n{...}": method and path, then what is sent.
class HttpLine : public OutsideLine {
  public:
    HttpLine(const OutsideKind& kind, const OutsideAddress& a, Told told, bool onlyHere)
        : address_(a), told_(std::move(told)), patience_(static_cast<int>(kind.patience * 1000)) {
        web_.setProxy(QNetworkProxy::NoProxy);
        web_.setRedirectPolicy(QNetworkRequest::ManualRedirectPolicy);
        if (!onlyHere || isHere(QHostAddress(QString::fromStdString(a.host)))) {
            may_ = true;
            QTimer::singleShot(0, this, [this] { told_.connected(true); });
        }
    }
    void send(const std::string& message) override {
        if (!may_)
            return;
        const auto line = message.substr(0, message.find('\n'));
        const auto body = message.size() > line.size() ? message.substr(line.size() + 1) : std::string();
        const auto blank = line.find(' ');
        const auto path = blank == std::string::npos ? "" : line.substr(blank + 1);
        if (path.empty() || path[0] != '/') {
            if (told_.refused)
                told_.refused("\"" + line.substr(0, 60) + "\" is no method and path, as in PUT /power");
            return;
        }
        QNetworkRequest ask(QUrl::fromEncoded(QByteArray("http://") + bytesOf(address_.host) + ":" +
                                              QByteArray::number(address_.port) + bytesOf(path)));
        ask.setTransferTimeout(patience_);
        if (!body.empty())
            ask.setHeader(QNetworkRequest::ContentTypeHeader,
                          body[0] == '{' || body[0] == '[' ? "application/json" : "text/plain; charset=utf-8");
        auto* reply = web_.sendCustomRequest(ask, bytesOf(line.substr(0, blank)), bytesOf(body));
        reply->setReadBufferSize(longestBody);
        connect(reply, &QNetworkReply::readyRead, this, [this, reply] {
            if (reply->bytesAvailable() >= longestBody)
                cut(reply);
        });
        connect(reply, &QNetworkReply::finished, this, [this, reply] {
            if (!reply->property("cut").toBool() && reply->error() == QNetworkReply::NoError)
                told_.whole(reply->readAll().toStdString());
            reply->deleteLater();
        });
    }

  private:
    void cut(QNetworkReply* reply) {
        if (reply->property("cut").toBool())
            return;
        reply->setProperty("cut", true);
        told_.whole(reply->read(longestBody).toStdString());
        QTimer::singleShot(0, reply, [reply] { reply->abort(); });
    }
    OutsideAddress address_;
    Told told_;
    int patience_;
    bool may_ = false;
    QNetworkAccessManager web_;
};

class SerialLine : public OutsideLine {
  public:
    SerialLine(const OutsideKind& kind, const OutsideAddress& a, Told told) : told_(std::move(told)) {
        port_.setPortName(QString::fromStdString(a.path));
        port_.setBaudRate(kind.baud);
        again_.setSingleShot(true);
        connect(&port_, &QSerialPort::readyRead, this, [this] {
            const auto bytes = port_.readAll();
            told_.heard({bytes.constData(), static_cast<std::size_t>(bytes.size())});
        });
        connect(&port_, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError e) {
            if (e == QSerialPort::NoError || !open_)
                return;
            open_ = false;
            told_.connected(false);
            again_.start(againMs);
        });
        connect(&again_, &QTimer::timeout, this, [this] { begin(); });
        QTimer::singleShot(0, this, [this] { begin(); });
    }
    void send(const std::string& message) override {
        if (open_ && port_.bytesToWrite() < mostUnsent)
            port_.write(bytesOf(message));
    }

  private:
    void begin() {
        port_.close();
        if (!port_.open(QIODevice::ReadWrite)) {
            again_.start(againMs);
            return;
        }
        open_ = true;
        told_.connected(true);
    }
    Told told_;
    QTimer again_;
    bool open_ = false;
    QSerialPort port_;
};

class WakeLine : public OutsideLine {
  public:
    WakeLine(const OutsideAddress& a, Told told, bool onlyHere)
        : told_(std::move(told)), packet_(project::wakePacket(a.mac)),
          to_(onlyHere ? QHostAddress("127.255.255.255") : QHostAddress(QHostAddress::Broadcast)) {
        socket_.setProxy(QNetworkProxy::NoProxy);
        QTimer::singleShot(0, this, [this] { told_.connected(true); });
    }
    void send(const std::string&) override { socket_.writeDatagram(bytesOf(packet_), to_, wakePort); }

  private:
    static constexpr quint16 wakePort = 9; // discard (RFC 863), as is usual for it
    Told told_;
    std::string packet_;
    QHostAddress to_;
    QUdpSocket socket_;
};

} // namespace

std::unique_ptr<OutsideLine> openOutsideLine(const OutsideKind& kind, const OutsideAddress& address,
                                             OutsideLine::Told told, bool onlyHere) {
    switch (kind.link) {
    case OutsideKind::Link::tcp:
        return std::make_unique<TcpLine>(address, std::move(told), onlyHere);
    case OutsideKind::Link::udp:
    case OutsideKind::Link::osc:
        return std::make_unique<UdpLine>(address, std::move(told), onlyHere, kind.link == OutsideKind::Link::osc);
    case OutsideKind::Link::http:
        return std::make_unique<HttpLine>(kind, address, std::move(told), onlyHere);
    case OutsideKind::Link::serial:
        return std::make_unique<SerialLine>(kind, address, std::move(told));
    case OutsideKind::Link::wake:
        return std::make_unique<WakeLine>(address, std::move(told), onlyHere);
    }
    return nullptr;
}

} // namespace loom::lines
