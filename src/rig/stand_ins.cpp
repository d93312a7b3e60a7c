#include "rig/stand_ins.h"
#include "dsp/number.h"
#include "outside/osc.h"
#include "outside/outside_address.h"
#include "rig/clock.h"
#include <QHostAddress>
#include <QNetworkDatagram>
#include <QPointer>
#include <QSocketNotifier>
#include <QTcpServer>
#include <QTcpSocket>
#include <QTimer>
#include <QUdpSocket>
#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fcntl.h>
#include <functional>
#include <termios.h>
#include <unistd.h>

namespace loom::rig {
namespace {

using Fault = StandInDevice::Fault;

constexpr int slowMs = 2500;           // that a slow one takes to answer
constexpr int floodBytes = 1 << 20;    // that one in a flood says
constexpr double warmSeconds = 1.5;    // of the projector's lamp, either way
constexpr double blindsPerSecond = 40; // per cent
constexpr qint64 longestHeard = 4096;

// How an answer goes out, by what ails it.
QByteArray ailing(Fault fault, const QByteArray& answer) {
    if (fault == Fault::rubbish)
        return QByteArray("\x00\xff?\x80 what\r", 9);
    return fault == Fault::flood ? QByteArray(floodBytes, 'x') : answer;
}

// Whoever is connected, each with what came and is not a whole message yet.
class Connections : public StandInDevice {
  public:
    bool open(const QHostAddress& at, quint16 port) {
        connect(&server_, &QTcpServer::newConnection, this, [this] {
            while (auto* s = server_.nextPendingConnection()) {
                connect(s, &QTcpSocket::disconnected, this, [this, s] {
                    waiting_.erase(s);
                    s->deleteLater();
                });
                connect(s, &QTcpSocket::readyRead, this, [this, s] {
                    auto& waiting = waiting_[s];
                    waiting += s->read(longestHeard);
                    heard(s, waiting);
                    if (waiting.size() > 2 * longestHeard)
                        waiting.clear();
                });
            }
        });
        return server_.listen(at, port);
    }

  protected:
    virtual void heard(QTcpSocket* s, QByteArray& waiting) = 0;

  private:
    std::map<QTcpSocket*, QByteArray> waiting_{};
    QTcpServer server_;
};

class Display : public Connections {
  public:
    double state(const std::string& id) const override {
        const auto it = now_.find(id);
        return it == now_.end() ? -1 : it->second;
    }

  private:
    void heard(QTcpSocket* s, QByteArray& waiting) override {
        for (auto end = waiting.indexOf('\r'); end >= 0; end = waiting.indexOf('\r')) {
            const auto line = waiting.left(end);
            waiting.remove(0, end + 1);
            answer(s, line);
        }
    }
    void answer(QTcpSocket* s, const QByteArray& line) {
        struct Word {
            const char *name, *id;
            int low, high;
        };
        static constexpr Word words[]{{"POWER", "power", 0, 1}, {"INPUT", "input", 1, 3}, {"VOLUME", "volume", 0, 100}};
        for (const auto& w : words) {
            if (!line.startsWith(w.name))
                continue;
            const auto rest = line.mid(static_cast<qsizetype>(std::strlen(w.name)));
            if (rest.startsWith(' ')) {
                bool whole = false;
                const int v = rest.trimmed().toInt(&whole);
                if (whole && v >= w.low && v <= w.high)
                    now_[w.id] = v;
                return;
            }
            if (rest != "?" || fault == Fault::silent)
                return;
            const auto says =
                ailing(fault, QByteArray(w.name) + "=" + QByteArray::number(static_cast<int>(now_[w.id])) + "\r");
            QTimer::singleShot(fault == Fault::slow ? slowMs : 0, s, [s, says] { s->write(says); });
            return;
        }
        if (fault != Fault::silent)
            s->write("ERR\r");
    }
    std::map<std::string, double> now_{{"power", 0}, {"input", 1}, {"volume", 20}};
};

class Projector : public StandInDevice {
  public:
    bool open() {
        master_ = ::posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK);
        if (master_ < 0 || ::grantpt(master_) != 0 || ::unlockpt(master_) != 0)
            return false;
        char name[128];
        if (::ptsname_r(master_, name, sizeof name) != 0)
            return false;
        serial = name;
        // Held open, so that the line outlives whoever opens it, and as bytes.
        slave_ = ::open(name, O_RDWR | O_NOCTTY);
        termios how{};
        if (slave_ < 0 || ::tcgetattr(slave_, &how) != 0)
            return false;
        ::cfmakeraw(&how);
        (void)::tcsetattr(slave_, TCSANOW, &how);
        reader_ = std::make_unique<QSocketNotifier>(master_, QSocketNotifier::Read);
        connect(reader_.get(), &QSocketNotifier::activated, this, [this] { heard(); });
        return true;
    }
    ~Projector() override {
        reader_.reset();
        if (slave_ >= 0)
            ::close(slave_);
        if (master_ >= 0)
            ::close(master_);
    }
    double state(const std::string& id) const override {
        if (id == "hours")
            return 1234;
        if (id != "power")
            return -1;
        const bool moved = secondsNow() - since_ >= warmSeconds;
        return wanted_ ? (moved ? 2 : 1) : moved ? 0 : 3;
    }

  private:
    void heard() {
        char bytes[512];
        const auto n = ::read(master_, bytes, sizeof bytes);
        if (n <= 0)
            return;
        waiting_.append(bytes, static_cast<qsizetype>(n));
        while (!waiting_.isEmpty()) {
            const auto* b = reinterpret_cast<const unsigned char*>(waiting_.constData());
            const auto length = waiting_.size() < 2 ? 0 : b[1] == 1 ? 4 : 3;
            if (b[0] != 0xa5) {
                waiting_.remove(0, 1);
                continue;
            }
            if (length == 0 || waiting_.size() < length)
                return;
            unsigned sum = 0;
            for (int i = 0; i + 1 < length; ++i)
                sum += b[i];
            if ((sum & 255) == b[length - 1])
                take(b[1], length == 4 ? b[2] : 0);
            waiting_.remove(0, length);
        }
    }
    void take(int command, int value) {
        if (command == 1) {
            const bool on = value == 2;
            if ((on || value == 0) && on != wanted_) {
                wanted_ = on;
                since_ = secondsNow();
            }
            return;
        }
        QByteArray out;
        if (command == 2)
            out = QByteArray("\x5a\x02", 2) + static_cast<char>(static_cast<int>(state("power")));
        else if (command == 3)
            out = QByteArray("\x5a\x03", 2) + static_cast<char>(1234 >> 8) + static_cast<char>(1234 & 255);
        else
            return;
        unsigned sum = 0;
        for (const char c : out)
            sum += static_cast<unsigned char>(c);
        out += static_cast<char>(sum & 255);
        if (fault == Fault::silent)
            return;
        QTimer::singleShot(fault == Fault::slow ? slowMs : 0, this, [this, says = ailing(fault, out)] {
            for (qsizetype at = 0; at < says.size();) { // as much as the line takes
                const auto n = ::write(master_, says.constData() + at, static_cast<std::size_t>(says.size() - at));
                if (n <= 0)
                    return;
                at += n;
            }
        });
    }
    int master_ = -1, slave_ = -1;
    bool wanted_ = false;
    double since_ = -1e9;
    QByteArray waiting_{};
    std::unique_ptr<QSocketNotifier> reader_{};
};

class Packets : public StandInDevice {
  public:
    bool open(const QHostAddress& at, quint16 port) {
        connect(&socket_, &QUdpSocket::readyRead, this, [this] {
            while (socket_.hasPendingDatagrams()) {
                const auto d = socket_.receiveDatagram(longestHeard);
                heard(d.data(),
                      [this, to = d.senderAddress(), p = static_cast<quint16>(d.senderPort())](const QByteArray& says) {
                          if (fault == Fault::silent)
                              return;
                          QTimer::singleShot(fault == Fault::slow ? slowMs : 0, this, [this, to, p, says] {
                              socket_.writeDatagram(ailing(fault, says).left(60000), to, p);
                          });
                      });
            }
        });
        return socket_.bind(at, port);
    }

  protected:
    virtual void heard(const QByteArray& packet, std::function<void(const QByteArray&)> answer) = 0;

  private:
    QUdpSocket socket_;
};

class Blinds : public Packets {
  public:
    double state(const std::string& id) const override {
        if (id != "closed")
            return -1;
        const double way = blindsPerSecond * (secondsNow() - since_);
        return from_ < to_ ? std::min(to_, from_ + way) : std::max(to_, from_ - way);
    }

  private:
    void heard(const QByteArray& packet, std::function<void(const QByteArray&)> answer) override {
        const double now = state("closed");
        if (packet == "POS?")
            return answer("POS " + QByteArray::number(static_cast<int>(std::lround(now))));
        if (packet == "STOP") {
            from_ = to_ = now;
        } else if (packet.startsWith("MOVE ")) {
            bool whole = false;
            const int v = packet.mid(5).toInt(&whole);
            if (whole && v >= 0 && v <= 100)
                from_ = now, to_ = v, since_ = secondsNow();
        }
    }
    double from_ = 0, to_ = 0, since_ = 0;
};

class Camera : public Packets {
  public:
    double state(const std::string& id) const override { return id == "view" ? view_ : -1; }

  private:
    void heard(const QByteArray& packet, std::function<void(const QByteArray&)> answer) override {
        const auto all = project::readOsc({packet.constData(), static_cast<std::size_t>(packet.size())});
        if (!all)
            return;
        for (const auto& m : *all) {
            if (m.path == "/camera/view" && m.arguments.size() == 1 && std::holds_alternative<int>(m.arguments[0])) {
                if (const int v = std::get<int>(m.arguments[0]); v >= 1 && v <= 3)
                    view_ = v;
            } else if (m.path == "/camera/view/ask") {
                if (const auto bytes = project::oscBytes({"/camera/view", {view_}}))
                    answer(QByteArray(bytes->data(), static_cast<qsizetype>(bytes->size())));
            }
        }
    }
    int view_ = 1;
};

class Lights : public Connections {
  public:
    double state(const std::string& id) const override { return id == "level" ? level_ : -1; }

  private:
    void heard(QTcpSocket* s, QByteArray& all) override {
        const auto head = all.indexOf("\r\n\r\n");
        if (head < 0)
            return;
        qsizetype length = 0;
        for (const auto& line : all.left(head).split('\n'))
            if (line.toLower().startsWith("content-length:"))
                length = line.mid(15).trimmed().toInt();
        if (all.size() < head + 4 + length)
            return;
        const auto body = all.mid(head + 4, length);
        QByteArray says = "{}";
        if (all.startsWith("PUT /level ")) {
            const auto at = body.indexOf("\"level\":");
            bool whole = false;
            const int v = at < 0 ? -1 : body.mid(at + 8).split('}')[0].trimmed().toInt(&whole);
            if (whole && v >= 0 && v <= 100)
                level_ = v;
        } else if (all.startsWith("GET /level ")) {
            says = "{\"level\": " + QByteArray::number(level_) + "}";
        }
        all.clear();
        if (fault == Fault::silent)
            return;
        says = ailing(fault, says);
        QTimer::singleShot(fault == Fault::slow ? slowMs : 0, s, [s, says] {
            s->write("HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: " +
                     QByteArray::number(says.size()) + "\r\nConnection: close\r\n\r\n" + says);
            s->disconnectFromHost();
        });
    }
    int level_ = 0;
};

} // namespace

std::unique_ptr<StandInDevice> standInFor(const project::OutsideKind& kind, const project::OutsideDevice& device) {
    if (kind.id == "projector-bytes") {
        auto one = std::make_unique<Projector>();
        return one->open() ? std::move(one) : nullptr;
    }
    const auto address = project::readOutsideAddress(kind, device.address);
    if (!address)
        return nullptr;
    const QHostAddress at(QString::fromStdString(address->host));
    const auto port = static_cast<quint16>(address->port);
    if (!at.isLoopback())
        return nullptr;
    const auto opened = [&](auto one) -> std::unique_ptr<StandInDevice> {
        return one->open(at, port) ? std::move(one) : nullptr;
    };
    if (kind.id == "display-lines")
        return opened(std::make_unique<Display>());
    if (kind.id == "blinds-packets")
        return opened(std::make_unique<Blinds>());
    if (kind.id == "camera-osc")
        return opened(std::make_unique<Camera>());
    if (kind.id == "lights-http")
        return opened(std::make_unique<Lights>());
    return nullptr;
}

} // namespace loom::rig
