#include "app/shell/end_signals.h"
#include <QCoreApplication>
#include <QSocketNotifier>
#include <csignal>
#include <sys/socket.h>
#include <unistd.h>

namespace loom::app {
namespace {

int ends[2] = {-1, -1}; // a handler may only write; the event loop reads

void handle(int number) {
    const char byte = static_cast<char>(number);
    (void)!::write(ends[0], &byte, 1);
}

} // namespace

void keepWorkOnSignals(Session& session) {
    if (ends[0] >= 0 || ::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0)
        return;
    auto* heard = new QSocketNotifier(ends[1], QSocketNotifier::Read, &session);
    QObject::connect(heard, &QSocketNotifier::activated, &session, [&session, heard] {
        char number = 0;
        (void)!::read(ends[1], &number, 1);
        heard->setEnabled(false);
        session.keepNow();
        QCoreApplication::exit(128 + number);
    });
    struct sigaction action {};
    action.sa_handler = handle;
    action.sa_flags = SA_RESTART | static_cast<int>(SA_RESETHAND); // a second one ends it at once
    for (const int number : {SIGTERM, SIGINT, SIGHUP})
        ::sigaction(number, &action, nullptr);
}

} // namespace loom::app
