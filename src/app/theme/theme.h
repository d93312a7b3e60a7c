// Colours, type and measure, from one table; two themes; one text scale for everything.
#pragma once
#include <QColor>
#include <QFont>
#include <QObject>
#include <QString>

namespace loom::app {

struct Tokens {
    QColor linen, sheet, card, ink, ink2, ink3, hair, rail, railText, saffron, saffronTint, ok, caution, fault,
        faultTint, shade;
    QColor threads[8];
};

class Theme : public QObject {
    Q_OBJECT
  public:
    static Theme& get();
    const Tokens& t() const { return night_ ? nightTokens_ : linenTokens_; }
    bool night() const { return night_; }
    void setNight(bool on);
    int percent() const { return percent_; }
    void setPercent(int percent); // 80..200
    // Pixels at 100 % as they are now; everything painted goes through this.
    double px(double at100) const { return at100 * percent_ / 100.0; }
    int ipx(double at100) const { return qRound(px(at100)); }
    QFont text(double size = 12, bool bold = false) const;
    QFont number(double size = 11, bool bold = false) const;
    QColor thread(const QString& name) const; // "madder" ...; unknown: walnut
    static const QStringList& threadNames();
    QString sheet() const; // the widgets' style sheet
    static void loadFonts();

  signals:
    void changed();

  private:
    Theme();
    Tokens linenTokens_, nightTokens_;
    bool night_ = false;
    int percent_ = 100;
};

inline const Tokens& tokens() {
    return Theme::get().t();
}
inline double px(double at100) {
    return Theme::get().px(at100);
}

} // namespace loom::app
