// Attacks on a rig in a process of its own, over real sockets: floods, frames that announce what nobody could hold,
// readers that never read, rubbish, web pages. Its memory stays bounded and others are served meanwhile. Small in the
// gate; scripts/attack runs it at full size (LOOM_ATTACK=full).
#ifndef Q_MOC_RUN
#include "client/device_session.h"
#include "client/socket_network.h"
#include <arpa/inet.h>
#include <atomic>
#include <fcntl.h>
#include <netinet/in.h>
#include <nlohmann/json.hpp>
#include <poll.h>
#include <random>
#include <sys/resource.h>
#include <sys/socket.h>
#include <unistd.h>
#endif
#include "test.h"
#include <QDirIterator>
#include <QElapsedTimer>
#include <QFile>
#include <QNetworkProxy>
#include <QProcess>
#include <QTemporaryDir>

using namespace loom;
using client::DeviceSession;
using client::Reply;

namespace {

constexpr quint16 port = 47330;
constexpr double mostMb = 250; // more than any of these attacks may make it take
#ifdef LOOM_SANITIZED
constexpr int slower = 5; // so much longer may an answer take where every access is watched, on two busy cores
#else
constexpr int slower = 1;
#endif

bool full() {
    return qEnvironmentVariable("LOOM_ATTACK") == "full";
}

// A socket by hand.
class Raw {
  public:
    explicit Raw(const char* address = "127.20.7.1") {
        file_ = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
        sockaddr_in at{};
        at.sin_family = AF_INET, at.sin_port = htons(port);
        ::inet_pton(AF_INET, address, &at.sin_addr);
        if (::connect(file_, reinterpret_cast<const sockaddr*>(&at), sizeof at) != 0)
            close();
        if (file_ >= 0)
            ::fcntl(file_, F_SETFL, O_NONBLOCK);
    }
    ~Raw() { close(); }
    Raw(Raw&& o) noexcept : file_(std::exchange(o.file_, -1)) {}
    Raw& operator=(Raw&&) = delete;
    bool open() const { return file_ >= 0; }
    // How many bytes went; less than all when the other end hung up, or took none for a second.
    std::size_t send(const std::string& bytes, int patienceMs = 1000) {
        std::size_t done = 0;
        while (file_ >= 0 && done < bytes.size()) {
            const auto n = ::send(file_, bytes.data() + done, bytes.size() - done, MSG_NOSIGNAL);
            if (n > 0) {
                done += static_cast<std::size_t>(n);
                continue;
            }
            pollfd p{file_, POLLOUT, 0};
            if (errno != EAGAIN || ::poll(&p, 1, patienceMs) <= 0 || (p.revents & (POLLERR | POLLHUP)))
                break;
        }
        return done;
    }
    std::string read(int ms = 2000) {
        std::string all(65536, '\0');
        pollfd p{file_, POLLIN, 0};
        if (file_ < 0 || ::poll(&p, 1, ms) <= 0)
            return {};
        const auto n = ::recv(file_, all.data(), all.size(), 0);
        all.resize(n > 0 ? static_cast<std::size_t>(n) : 0);
        return all;
    }
    bool hungUp(int ms) { // within so long
        QElapsedTimer clock;
        clock.start();
        while (clock.elapsed() < ms) {
            pollfd p{file_, POLLIN | POLLRDHUP, 0};
            if (::poll(&p, 1, 50) > 0) {
                char some[4096];
                if ((p.revents & (POLLERR | POLLHUP | POLLRDHUP)) || ::recv(file_, some, sizeof some, 0) == 0)
                    return true;
            }
        }
        return false;
    }
    std::string shake(const std::string& more = "") { // hands, as WebSockets do; the first line that comes back
        send("GET / HTTP/1.1\r\nHost: 127.20.7.1\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
             "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nSec-WebSocket-Version: 13\r\n" +
             more + "\r\n");
        const auto answer = read();
        return answer.substr(0, answer.find('\r'));
    }

  private:
    void close() {
        if (file_ >= 0)
            ::close(file_);
        file_ = -1;
    }
    int file_ = -1;
};

// A frame of a client, masked with zeros.
std::string frame(int opcode, const std::string& payload, std::uint64_t announced = 0) {
    const std::uint64_t size = announced > 0 ? announced : payload.size();
    std::string f(1, static_cast<char>(0x80 | opcode));
    if (size < 126) {
        f += static_cast<char>(0x80 | size);
    } else if (size < 65536) {
        f += static_cast<char>(0x80 | 126);
        for (const int shift : {8, 0})
            f += static_cast<char>(size >> shift);
    } else {
        f += static_cast<char>(0x80 | 127);
        for (int shift = 56; shift >= 0; shift -= 8)
            f += static_cast<char>(size >> shift);
    }
    return f + std::string(4, '\0') + payload;
}

} // namespace

class TestAttack : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QProcess rig_;
    QObject here_;
    std::unique_ptr<client::SocketNetwork> net_;
    std::unique_ptr<DeviceSession> works_, other_; // somebody who works on the device that is attacked; on another one
    int served_ = 0;
    qint64 slowest_ = 0;

    double megabytes() const {
        QFile status(QString("/proc/%1/status").arg(rig_.processId()));
        if (!status.open(QIODevice::ReadOnly))
            return 1e9;
        for (const auto& line : status.readAll().split('\n'))
            if (line.startsWith("VmRSS:"))
                return line.mid(6).trimmed().split(' ').front().toDouble() / 1024;
        return 1e9;
    }
    bool asks(DeviceSession& s, int ms) {
        QElapsedTimer clock;
        clock.start();
        bool answered = false, there = false;
        s.call(site::message::state, {}, [&](const Reply<site::DeviceState>& r) { answered = true, there = bool(r); });
        while (!answered && clock.elapsed() < ms + 6000)
            QTest::qWait(1);
        slowest_ = std::max(slowest_, clock.elapsed());
        served_ += there;
        return there && clock.elapsed() <= ms;
    }
    // Others are served while `attack` goes on, and afterwards; memory is what it may be.
    void holds(const char* what) {
        const int ms = 5000 * slower;
        QVERIFY2(rig_.state() == QProcess::Running, what);
        QVERIFY2(asks(*works_, ms), what);
        QVERIFY2(asks(*other_, ms), what);
        QVERIFY2(megabytes() < mostMb, qPrintable(QString("%1: %2 MB").arg(what).arg(megabytes())));
    }

  private slots:
    void initTestCase() {
        rlimit limit{};
        getrlimit(RLIMIT_NOFILE, &limit);
        limit.rlim_cur = std::min<rlim_t>(limit.rlim_max, 16384);
        setrlimit(RLIMIT_NOFILE, &limit);
        QFile scenario(folder_.filePath("three.json"));
        QVERIFY(scenario.open(QIODevice::WriteOnly));
        scenario.write(R"({"devices": [
            {"serial": "A1", "model": "heddle-16", "address": "127.20.7.1"},
            {"serial": "A2", "model": "tap", "address": "127.20.7.2", "faults": {"password": "tall grass by the sea"}},
            {"serial": "A3", "model": "tap", "address": "127.20.7.3"}]})");
        scenario.close();
        rig_.setProcessChannelMode(QProcess::MergedChannels);
        rig_.start(LOOM_RIG, {"--scenario", scenario.fileName(), "--port", QString::number(port), "--store",
                              folder_.filePath("store")});
        QVERIFY(rig_.waitForStarted() && rig_.waitForReadyRead(10000));
        net_ = std::make_unique<client::SocketNetwork>(&here_);
        works_ = std::make_unique<DeviceSession>(*net_), other_ = std::make_unique<DeviceSession>(*net_);
        works_->open("127.20.7.1", port, {}), other_->open("127.20.7.3", port, {});
        QTRY_VERIFY_WITH_TIMEOUT(works_->up() && other_->up(), 10000);
        holds("at rest");
    }
    void cleanupTestCase() {
        qInfo("%d calls of others served, the slowest in %lld ms; %.0f MB at the end", served_, slowest_, megabytes());
        works_.reset(), other_.reset(), net_.reset();
        rig_.write("quit\n");
        QVERIFY(rig_.waitForFinished(10000));
        QCOMPARE(rig_.exitStatus(), QProcess::NormalExit);
    }
    // Devices stand on this network; a web proxy of the firm's leads to none of them, and is not to hear of them.
    void aProxyIsNotAsked() {
        const auto before = QNetworkProxy::applicationProxy();
        QNetworkProxy::setApplicationProxy({QNetworkProxy::HttpProxy, "127.0.0.1", 9});
        {
            DeviceSession s(*net_);
            s.open("127.20.7.3", port, {});
            QTRY_VERIFY_WITH_TIMEOUT(s.up(), 4000);
            std::atomic<bool> found = false;
            std::unique_ptr<client::Finder> finder;
            net_->there().post([&] {
                finder = net_->newFinder();
                finder->heard = [&](std::vector<site::DiscoveredDevice>) { found = true; };
                finder->ask({"127.20.7.3"}, port);
            });
            QTRY_VERIFY_WITH_TIMEOUT(found, 4000);
            std::atomic<bool> gone = false;
            net_->there().post([&] { finder.reset(), gone = true; });
            QTRY_VERIFY(gone);
        }
        QNetworkProxy::setApplicationProxy(before);
    }
    void connectionsFlood() {
        std::vector<Raw> flood;
        const int count = full() ? 5000 : 500;
        for (int i = 0; i < count; ++i) {
            flood.emplace_back(i % 3 == 0 ? "127.20.7.2" : "127.20.7.1");
            if (i % 2 == 0)
                (void)flood.back().send("GET / HT"); // and no more
            if (i % 100 == 0)
                holds("flood");
        }
        holds("after the flood");
    }
    void headersWithoutEnd() {
        const std::size_t most = (full() ? 100u : 10u) << 20;
        Raw one;
        std::size_t sent = 0;
        const std::string more(1 << 16, 'a');
        while (sent < most) {
            const auto n = one.send(sent == 0 ? "GET /" + more : more, 300);
            sent += n;
            if (n < more.size())
                break;
        }
        holds("headers");
        QVERIFY(sent < 16u << 20); // it is not read for ever
    }
    void framesThatAnnounceTooMuch() {
        for (const std::uint64_t size : {std::uint64_t(17000), std::uint64_t(2) << 30, std::uint64_t(1) << 62}) {
            Raw one;
            QVERIFY(one.shake().find("101") != std::string::npos);
            (void)one.send(frame(1, "{", size));
            QVERIFY2(one.hungUp(10000), qPrintable(QString::number(size)));
            holds("announced");
        }
        // In small frames that never end a message.
        Raw drip;
        QVERIFY(drip.shake().find("101") != std::string::npos);
        std::string part = frame(1, std::string(8000, ' '));
        part[0] = static_cast<char>(part[0] & 0x7f);
        std::string next = part;
        next[0] = 0;
        (void)drip.send(part);
        std::size_t sent = 0;
        for (int i = 0; i < 2000; ++i)
            if (const auto n = drip.send(next, 200); (sent += n, n < next.size()))
                break;
        QVERIFY(drip.hungUp(10000));
        holds("dripping");
    }
    void manySmallThings() { // reading is linear, and only those who may ask much may send much
        Raw open;
        QVERIFY(open.shake().find("101") != std::string::npos);
        (void)open.send(frame(1, "[" + std::string(16000, '[')));
        QVERIFY(!open.read().empty()); // an error, at once
        std::string things = "[";
        for (int i = 0; i < 2600000; ++i)
            things += "{},";
        things.back() = ']';
        QCOMPARE(things.size() > 7u << 20, true);
        QElapsedTimer clock;
        clock.start();
        Raw large;
        QVERIFY(large.shake().find("101") != std::string::npos);
        (void)large.send(frame(1, things.substr(0, 200000)), 200);
        QVERIFY(large.hungUp(10000));
        holds("many small things");
        QVERIFY(clock.elapsed() < 30000);
    }
    void readersThatNeverRead() {
        // On an encrypted line: `describe` again and again, and nothing is ever read.
        Raw one;
        QVERIFY(one.shake().find("101") != std::string::npos);
        const auto own = site::newKeys();
        (void)one.send(frame(
            1, nlohmann::json{{"id", 1}, {"method", "secure"}, {"params", {{"key", site::keyText(own.open)}}}}.dump()));
        const auto answer = one.read();
        const auto begin = answer.find('{');
        QVERIFY(begin != std::string::npos);
        const auto back = nlohmann::json::parse(answer.substr(begin))["result"];
        auto channel = site::Channel::desk(own, *site::readKey(back["key"]), *site::readKey(back["identity"]));
        const int count = full() ? 400000 : 60000 / slower;
        const std::string ask = R"({"id":2,"method":"describe"})";
        bool ended = false;
        for (int i = 0; i < count && !ended; ++i)
            ended = one.send(frame(2, channel.seal(ask)), 2000) < ask.size();
        holds("a reader that never reads");
        QVERIFY(ended || !full());
    }
    void rubbish() {
        std::mt19937 dice(7);
        const int count = full() ? 5000 : 200;
        for (int i = 0; i < count; ++i) {
            Raw one(i % 2 ? "127.20.7.1" : "127.20.7.2");
            if (i % 5 != 0)
                QVERIFY(one.shake().find("101") != std::string::npos);
            std::string bytes(dice() % 3000, '\0');
            for (auto& c : bytes)
                c = static_cast<char>(dice());
            (void)one.send(i % 3 == 0 ? bytes : frame(static_cast<int>(dice() % 16), bytes));
            if (i % 50 == 0)
                holds("rubbish");
        }
        holds("after the rubbish");
    }
    void webPagesAreRefused() {
        QVERIFY(Raw().shake("Origin: http://example.invalid\r\n").find("101") == std::string::npos);
        QVERIFY(Raw().shake("Origin: null\r\n").find("101") == std::string::npos);
        QVERIFY(Raw().shake().find("101") != std::string::npos);
    }
    void itStaysOnThisComputer() { // what listens on this port listens on 127.0.0.0/8
        const QByteArray hex = QByteArray::number(port, 16).toUpper().rightJustified(4, '0');
        int seen = 0;
        for (const char* table : {"/proc/net/tcp", "/proc/net/udp", "/proc/net/tcp6", "/proc/net/udp6"}) {
            QFile file(table);
            if (!file.open(QIODevice::ReadOnly))
                continue;
            for (const auto& line : file.readAll().split('\n')) {
                const auto fields = line.simplified().split(' ');
                if (fields.size() < 4 || !fields[1].endsWith(":" + hex))
                    continue;
                ++seen;
                QVERIFY2(fields[1].left(8).endsWith("7F"), line.constData()); // the last byte of the hex is the first
            }
        }
        QVERIFY(seen >= 7); // three devices at two addresses each, and finding
    }
    void secretsAreNobodyElses() {
        int files = 0;
        QDirIterator all(folder_.filePath("store"), QDir::Files);
        while (all.hasNext()) {
            all.next();
            ++files;
            const auto others = QFile::ReadGroup | QFile::WriteGroup | QFile::ExeGroup | QFile::ReadOther |
                                QFile::WriteOther | QFile::ExeOther;
            QVERIFY2(!(all.fileInfo().permissions() & others), qPrintable(all.filePath()));
        }
        QVERIFY(files >= 4);
        const auto folder = QFileInfo(folder_.filePath("store")).permissions();
        QVERIFY(!(folder & (QFile::ReadGroup | QFile::ReadOther | QFile::ExeGroup | QFile::ExeOther)));
    }
};

LOOM_TEST(tst_attack, TestAttack)
#include "tst_attack.moc"
