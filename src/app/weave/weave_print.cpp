#include "app/weave/weave_print.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_view.h"
#include <QBuffer>
#include <QDate>
#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>
#include <QSvgGenerator>
#include <cmath>

namespace loom::app {
namespace {

// Paper is light and of its own size, whatever the window is like.
class OnPaper {
  public:
    explicit OnPaper(WeaveView& weave)
        : weave_(weave), night_(Theme::get().night()), percent_(Theme::get().percent()), zoom_(weave.zoom()) {
        weave_.setUpdatesEnabled(false);
        Theme::get().setNight(false);
        Theme::get().setPercent(100);
        weave_.setZoom(1);
    }
    ~OnPaper() {
        Theme::get().setNight(night_);
        Theme::get().setPercent(percent_);
        weave_.setZoom(zoom_);
        weave_.setUpdatesEnabled(true);
    }

  private:
    WeaveView& weave_;
    bool night_;
    int percent_;
    double zoom_;
};

QString titleOf(Session& session) {
    return q(session.project().name) + " \u00b7 " + q(session.device()->name) + " \u00b7 revision " +
           QString::number(session.program()->revision) + " \u00b7 " + QDate::currentDate().toString(Qt::ISODate);
}

bool write(Session& session, const QString& file, const QByteArray& bytes) {
    QSaveFile out(file);
    if (out.open(QIODevice::WriteOnly) && out.write(bytes) == bytes.size() && out.commit()) {
        session.report("Saved in " + file, false);
        return true;
    }
    session.report(file + ": cannot be written (" + out.errorString() + "). Choose another place.");
    return false;
}

bool nothing(Session& session) {
    if (session.program() && !session.program()->blocks.empty())
        return false;
    session.report("There is no weave to draw yet.");
    return true;
}

} // namespace

bool saveWeaveAsSvg(Session& session, WeaveView& weave, const QString& file) {
    if (nothing(session))
        return false;
    const OnPaper paper(weave);
    const QSize size = weave.minimumSize();
    QBuffer bytes;
    QSvgGenerator svg;
    svg.setOutputDevice(&bytes);
    svg.setSize(size);
    svg.setViewBox(QRect(QPoint(), size));
    svg.setTitle(titleOf(session));
    QPainter p(&svg);
    p.fillRect(QRect(QPoint(), size), tokens().card);
    weave.drawOn(p);
    p.end();
    return write(session, file, bytes.data());
}

bool saveWeaveAsPdf(Session& session, WeaveView& weave, const QString& file) {
    if (nothing(session))
        return false;
    const OnPaper paper(weave);
    QBuffer bytes;
    bytes.open(QIODevice::WriteOnly);
    QPdfWriter pdf(&bytes);
    pdf.setPageSize(QPageSize(QPageSize::A3));
    pdf.setPageOrientation(QPageLayout::Landscape);
    pdf.setPageMargins(QMarginsF(10, 10, 10, 10), QPageLayout::Millimeter);
    pdf.setTitle(titleOf(session));
    constexpr double titleHigh = 24; // in the weave's own pixels
    const QSizeF all = weave.minimumSize(), page = pdf.pageLayout().paintRectPixels(pdf.resolution()).size();
    // As wide as the page, but not larger than three pixels a millimetre; text of 12 pixels is 2.6 mm high or more
    // until a weave is wider than 1,850 pixels.
    const double scale = std::min(page.width() / all.width(), pdf.resolution() / 25.4 / 3.0);
    const double perPage = std::floor(page.height() / scale - titleHigh);
    const int pages = std::max(1, static_cast<int>(std::ceil(all.height() / perPage)));
    QPainter p(&pdf);
    for (int i = 0; i < pages; ++i) {
        if (i > 0)
            pdf.newPage();
        p.save();
        p.scale(scale, scale);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(13, true));
        p.drawText(QRectF(0, 0, page.width() / scale, titleHigh), Qt::AlignVCenter | Qt::AlignLeft,
                   titleOf(session) + (pages > 1 ? QString(" \u00b7 page %1 of %2").arg(i + 1).arg(pages) : QString()));
        p.setClipRect(QRectF(0, titleHigh, page.width() / scale, perPage));
        p.translate(0, titleHigh - i * perPage);
        weave.drawOn(p);
        p.restore();
    }
    p.end();
    return write(session, file, bytes.data());
}

} // namespace loom::app
