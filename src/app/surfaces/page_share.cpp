#include "app/surfaces/page_share.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "site/audio_key.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QNetworkInterface>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <chrono>
#include <qrencode.h>

namespace loom::app {

using namespace project;

namespace {

double secondsNow() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

// The address that others of its network reach this computer by; "": it has none.
QString networkAddress() {
    for (const auto& i : QNetworkInterface::allInterfaces())
        if ((i.flags() & QNetworkInterface::IsUp) && !(i.flags() & QNetworkInterface::IsLoopBack))
            for (const auto& e : i.addressEntries())
                if (e.ip().protocol() == QAbstractSocket::IPv4Protocol)
                    return e.ip().toString();
    return {};
}

// ISO/IEC 18004, by libqrencode; one pixel a module, with its quiet edge.
QImage qrOf(const QString& text) {
    auto* code = QRcode_encodeString8bit(text.toUtf8().constData(), 0, QR_ECLEVEL_M);
    if (!code)
        return {};
    constexpr int quiet = 4;
    QImage image(code->width + 2 * quiet, code->width + 2 * quiet, QImage::Format_RGB32);
    image.fill(Qt::white);
    for (int y = 0; y < code->width; ++y)
        for (int x = 0; x < code->width; ++x)
            if (code->data[y * code->width + x] & 1)
                image.setPixel(x + quiet, y + quiet, qRgb(0, 0, 0));
    QRcode_free(code);
    return image;
}

} // namespace

PageShare::PageShare(Session& session, QObject* parent)
    : QObject(parent), session_(session), values_(session), host_(values_), server_(host_, secondsNow) {
    host_.secret = [] { return site::keyText(site::newAudioKey()); };
    host_.admit = [](const std::string&, const std::string& role, const std::string& typed,
                     const std::string&) -> Result<Done> {
        if (typed != pin)
            return Error{"that PIN is wrong", role, std::string("On this computer every role has ") + pin + "."};
        return Done{};
    };
    server_.picture = [this](const std::string& print) {
        const auto it = pictures_.find(print);
        return it == pictures_.end() ? std::vector<char>{} : static_cast<const std::vector<char>&>(it->second);
    };
    connect(&session, &Session::changed, this, &PageShare::follow);
    connect(&session, &Session::surfacesChanged, this, &PageShare::follow);
    connect(&session, &Session::opened, this, &PageShare::stop);
}

void PageShare::follow() {
    if (!running())
        return;
    std::vector<PageHost::Served> all;
    pictures_.clear();
    for (const auto& s : session_.project().surfaces)
        all.push_back(servedOf(session_.project(), s, pictures_));
    host_.serve(std::move(all));
}

bool PageShare::start(bool onNetwork) {
    if (running() && onNetwork_ == onNetwork)
        return true;
    server_.close();
    here_ = onNetwork ? networkAddress() : QString("127.0.0.1");
    if (here_.isEmpty()) {
        session_.report("This computer is on no network: no phone can reach it.");
        return false;
    }
    onNetwork_ = onNetwork;
    QString why;
    for (quint16 port = serve::pagePort; port < serve::pagePort + 10; ++port)
        if (why = server_.listen(QHostAddress(here_), port); why.isEmpty())
            break;
    if (!why.isEmpty()) {
        session_.report(why);
        return false;
    }
    follow();
    emit changed();
    return true;
}

void PageShare::stop() {
    if (!running())
        return;
    server_.close();
    host_.serve({});
    emit changed();
}

QString PageShare::address(const std::string& surface) const {
    return QString("http://%1:%2/s/%3")
        .arg(here_)
        .arg(server_.port())
        .arg(QString(QUrl::toPercentEncoding(q(surface))));
}

PhoneCard::PhoneCard(PageShare& share, const QString& title, const QString& address, QWidget* parent)
    : QWidget(parent, Qt::Window), code_(qrOf(address)), title_(title), address_(address) {
    setObjectName("phoneCard");
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(title + " on a phone");
    setAccessibleName("The address of the surface as a QR code: " + address);
    resize(Theme::get().ipx(360), Theme::get().ipx(480));
    auto* box = new QVBoxLayout(this);
    box->addStretch(1);
    auto* row = new QHBoxLayout;
    for (const bool stops : {true, false}) {
        auto* b = new QPushButton(stops ? "Stop serving" : "Close");
        b->setObjectName(stops ? "phoneStop" : "phoneClose");
        b->setProperty("main", !stops);
        row->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, stops, &share] {
            if (stops)
                share.stop();
            close();
        });
    }
    box->addLayout(row);
    connect(&share, &PageShare::changed, this, [this, &share] {
        if (!share.onNetwork())
            close();
    });
}

void PhoneCard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), tokens().linen);
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(14, true));
    p.drawText(QRectF(px(16), px(12), width() - px(32), px(28)), Qt::AlignCenter, title_);
    const double side = std::min(width() - px(48.0), height() - px(170.0));
    const QRectF at((width() - side) / 2, px(48), side, side);
    if (!code_.isNull())
        p.drawImage(at, code_);
    p.setFont(Theme::get().text(12));
    p.drawText(QRectF(px(16), at.bottom() + px(8), width() - px(32), px(60)), Qt::AlignCenter | Qt::TextWordWrap,
               address_ + "\nWhoever is on this network can open it while this runs.");
}

void PhoneCard::keyPressEvent(QKeyEvent* e) {
    e->key() == Qt::Key_Escape ? void(close()) : QWidget::keyPressEvent(e);
}

} // namespace loom::app
