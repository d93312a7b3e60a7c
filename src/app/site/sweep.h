// Looking for devices: asks all of a range again and again, and knows who answered lately.
#pragma once
#ifndef Q_MOC_RUN
#include "site/found.h"
#endif
#include <QHostAddress>
#include <QObject>
#include <QTimer>
#include <map>

class QUdpSocket;

namespace loom::app {

class Sweep : public QObject {
    Q_OBJECT
  public:
    static constexpr int againMs = 2000, forgetMs = 9000; // one answer of four may be lost without a word
    explicit Sweep(QObject* parent = nullptr);
    void setPort(quint16 port) { port_ = port; } // tests look at ports of their own
    void look(const site::Subnet& range);        // asks now, and goes on asking
    void addAddress(const QString& address);     // asks there as well
    void stop();
    bool looking() const { return timer_.isActive(); }
    const std::optional<site::Subnet>& range() const { return range_; }
    quint16 port() const { return port_; }
    const std::map<std::string, site::Found>& found() const { return found_; } // by serial
    std::vector<site::Found> list() const;                                     // by address
    // Gives another address to a device that cannot be reached; it does so if it is not sealed.
    void readdress(const std::string& serial, const std::string& address);

  signals:
    void changed();

  private:
    void ask();
    void heard();
    void send(const QByteArray& message, const QHostAddress& to);
    QUdpSocket* socket_;
    QTimer timer_, soon_;
    quint16 port_ = site::devicePort;
    std::optional<site::Subnet> range_{};
    QStringList more_;
    std::map<std::string, site::Found> found_;
    int asked_ = 0;
};

} // namespace loom::app
