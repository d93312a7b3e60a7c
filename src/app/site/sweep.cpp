#include "app/site/sweep.h"
#include "app/text.h"
#include "project/json.h"
#include <QDateTime>
#include <QNetworkDatagram>
#include <QUdpSocket>
#include <algorithm>

namespace loom::app {

namespace {
const QByteArray who = R"({"loom":"who"})";
double now() {
    return static_cast<double>(QDateTime::currentMSecsSinceEpoch()) / 1000;
}
} // namespace

Sweep::Sweep(QObject* parent) : QObject(parent), socket_(new QUdpSocket(this)) {
    connect(socket_, &QUdpSocket::readyRead, this, &Sweep::heard);
    connect(&timer_, &QTimer::timeout, this, &Sweep::ask);
    soon_.setSingleShot(true);
    soon_.setInterval(30);
    connect(&soon_, &QTimer::timeout, this, &Sweep::changed);
}

void Sweep::look(const site::Subnet& range) {
    if (!range_ || range_->base != range.base || range_->bits != range.bits)
        found_.clear();
    range_ = range;
    if (socket_->state() != QAbstractSocket::BoundState) {
        socket_->bind(QHostAddress::AnyIPv4, 0);
        socket_->setSocketOption(QAbstractSocket::ReceiveBufferSizeSocketOption, 1 << 20); // 300 answers at once
    }
    asked_ = 0;
    ask();
    timer_.start(againMs);
}

void Sweep::addAddress(const QString& address) {
    if (!more_.contains(address))
        more_ << address;
    if (range_)
        send(who, QHostAddress(address));
}

void Sweep::stop() {
    timer_.stop();
    found_.clear();
    range_.reset();
    emit changed();
}

std::vector<site::Found> Sweep::list() const {
    std::multimap<std::uint32_t, const site::Found*> sorted;
    for (const auto& [_, f] : found_)
        sorted.emplace(site::readAddress(f.address).value_or(0), &f);
    std::vector<site::Found> all;
    all.reserve(sorted.size());
    for (const auto& [_, f] : sorted)
        all.push_back(*f);
    return all;
}

void Sweep::send(const QByteArray& message, const QHostAddress& to) {
    socket_->writeDatagram(message, to, port_);
}

// To all at once, which also devices with a wrong address hear; now and then to each address, for networks that carry
// no broadcasts.
void Sweep::ask() {
    if (!range_)
        return;
    const bool loopback = range_->base >> 24 == 127;
    const std::uint32_t last = range_->base | ((range_->bits < 32 ? (1u << (32 - range_->bits)) : 1) - 1);
    send(who, loopback ? QHostAddress("127.255.255.255") : QHostAddress(last));
    if (loopback && asked_ > 0 && found_.empty()) // machines that carry no broadcast on loopback
        send(who, QHostAddress(last));
    if (asked_++ % 5 == 0 && !loopback)
        for (const auto& a : range_->hosts())
            send(who, QHostAddress(q(a)));
    for (const auto& a : site::usbSockets())
        send(who, QHostAddress(q(a)));
    for (const auto& a : more_)
        send(who, QHostAddress(a));
    const auto before = found_.size();
    std::erase_if(found_, [](const auto& f) { return now() - f.second.seen > forgetMs / 1000.0; });
    if (found_.size() != before)
        emit changed();
}

void Sweep::heard() {
    bool news = false;
    for (int i = 0; i < 20 && socket_->hasPendingDatagrams();
         ++i) { // hundreds answer at once: what is left calls again
        const auto datagram = socket_->receiveDatagram(4096);
        const auto j = project::parseJson(datagram.data().toStdString(), "answer");
        auto f = j ? site::foundFromJson(*j) : Result<site::Found>(Trouble{});
        if (!f || found_.size() > 5000)
            continue;
        f->seen = now();
        const QString from = QHostAddress(datagram.senderAddress().toIPv4Address()).toString();
        if (more_.contains(from))
            f->asked = from.toStdString();
        auto& known = found_[f->serial];
        auto before = known;
        before.seen = f->seen;
        news = news || site::toJson(before) != site::toJson(*f);
        known = *f;
    }
    if (news && !soon_.isActive())
        soon_.start();
}

void Sweep::readdress(const std::string& serial, const std::string& address) {
    const nlohmann::json j = {{"loom", "address"}, {"serial", serial}, {"address", address}};
    const auto message = QByteArray::fromStdString(j.dump());
    const bool loopback = range_ && range_->base >> 24 == 127;
    send(message, loopback ? QHostAddress("127.255.255.255")
                  : range_ ? QHostAddress(range_->base | ((1u << (32 - range_->bits)) - 1))
                           : QHostAddress(QHostAddress::Broadcast));
    for (const auto& a : more_)
        send(message, QHostAddress(a));
    QTimer::singleShot(150, this, &Sweep::ask);
}

} // namespace loom::app
