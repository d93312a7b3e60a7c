// Bytes after a WebSocket's hands are shaken (RFC 6455): frames of all kinds, masked or not, in pieces, or none at all.
// The device stays, what it holds is bounded, and it serves somebody else afterwards.
#include "models.h"
#include "rig/server.h"
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QTcpSocket>
#include <QTemporaryDir>
#include <cstdlib>

using namespace loom;

namespace {

void need(bool holds) {
    if (!holds)
        std::abort();
}

constexpr int patienceMs = 60000; // the clock goes on while the machine does other work

template <class Until> void wait(Until until) {
    QElapsedTimer clock;
    for (clock.start(); !until();) {
        need(clock.elapsed() < patienceMs);
        QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
    }
}

const QByteArray hello = "GET / HTTP/1.1\r\nHost: 127.20.8.1\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
                         "Sec-WebSocket-Key: AQIDBAUGBwgJCgsMDQ4PEA==\r\nSec-WebSocket-Version: 13\r\n\r\n";

} // namespace

// First byte: odd ones replace the shaking of hands too.
extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    static int argc = 1;
    static char name[] = "fuzz";
    static char* argv[] = {name, nullptr};
    static QCoreApplication app(argc, argv);
    static QTemporaryDir folder;
    static rig::Server server([] {
        rig::DeviceSetup s;
        s.models = test::models();
        s.folder = folder.path().toStdString();
        return s;
    }());
    static const bool listens = server.listen(QHostAddress("127.20.8.1"), 0).isEmpty();
    need(listens);
    if (size < 1)
        return 0;
    const QByteArray bytes(reinterpret_cast<const char*>(data) + 1, static_cast<int>(size) - 1);
    QTcpSocket socket;
    socket.connectToHost(QHostAddress("127.20.8.1"), server.port());
    wait([&] { return socket.state() == QAbstractSocket::ConnectedState; });
    if (data[0] % 2 == 0) {
        socket.write(hello);
        wait([&] { return socket.readAll().contains("\r\n\r\n"); });
    }
    socket.write(bytes);
    socket.flush();
    // Somebody else is served meanwhile or afterwards.
    QTcpSocket after;
    after.connectToHost(QHostAddress("127.20.8.1"), server.port());
    QByteArray answer;
    wait([&] { return after.state() == QAbstractSocket::ConnectedState; });
    after.write(hello);
    wait([&] { return (answer += after.readAll()).contains("\r\n\r\n"); });
    answer = answer.mid(answer.indexOf("\r\n\r\n") + 4);
    after.write(QByteArray::fromHex("818f00000000") + "{\"method\":\"no\"}");
    wait([&] { return (answer += after.readAll()).contains("there is no method"); });
    need(server.front().lines() <= rig::Front::mostLines && server.device().store().lock().empty() &&
         !server.device().running().program);
    socket.abort(), after.abort();
    return 0;
}
