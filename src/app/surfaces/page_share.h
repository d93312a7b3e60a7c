// The project's surfaces for browsers, from this computer: with the values that "Use it here" has.
#pragma once
#include "app/surfaces/here_values.h"
#include "serve/page_server.h"
#include <QWidget>

namespace loom::app {

class PageShare : public QObject {
    Q_OBJECT
  public:
    static constexpr const char* pin = "0000"; // of every role: PINs live in devices
    explicit PageShare(Session& session, QObject* parent = nullptr);
    // Serves on this computer alone, or on its network for phones. False: it cannot, and why was said.
    bool start(bool onNetwork);
    void stop();
    bool running() const { return server_.listening(); }
    bool onNetwork() const { return running() && onNetwork_; }
    QString address(const std::string& surface) const; // "http://127.0.0.1:4780/s/tern-slate"

  signals:
    void changed();

  private:
    void follow();
    Session& session_;
    HereValues values_;
    project::PageHost host_;
    serve::PageServer server_;
    bool onNetwork_ = false;
    QString here_;
    std::map<std::string, project::Asset> pictures_{}; // by print
};

// What a phone is shown: the address as a QR code and in words.
class PhoneCard : public QWidget {
    Q_OBJECT
  public:
    PhoneCard(PageShare& share, const QString& title, const QString& address, QWidget* parent);

  protected:
    void paintEvent(QPaintEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QImage code_;
    QString title_, address_;
};

} // namespace loom::app
