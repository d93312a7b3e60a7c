#include "app/speakers/sheet_pdf.h"
#include "app/theme/theme.h"
#include <QFont>
#include <QFontMetricsF>
#include <QPageSize>
#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>

namespace loom::app {

bool writeSheetPdf(const QString& sheet, const QString& file) {
    QSaveFile out(file);
    if (!out.open(QIODevice::WriteOnly))
        return false;
    {
        QPdfWriter pdf(&out);
        pdf.setPageSize(QPageSize(QPageSize::A4));
        pdf.setResolution(300);
        pdf.setCreator("Nimble Loom");
        QPainter p(&pdf);
        const double mm = 300 / 25.4, bottom = pdf.height() - 5 * mm;
        QFont plain(Theme::get().text().family(), 10);
        plain.setLetterSpacing(QFont::AbsoluteSpacing, 0.1); // no ligatures: the text of "tt" would be lost
        QFont bold = plain, large = plain;
        bold.setBold(true);
        large.setPointSize(16);
        large.setBold(true);
        double y = 10 * mm;
        bool first = true;
        for (const auto& line : sheet.split('\n')) {
            const int colon = static_cast<int>(line.indexOf(':'));
            const bool section = !line.startsWith(' '), heading = section && !first;
            p.setFont(first ? large : heading ? bold : plain);
            const double tall = QFontMetricsF(p.font(), &pdf).lineSpacing();
            if (y + tall > bottom) {
                pdf.newPage();
                y = 10 * mm;
            }
            y += tall;
            if (section || colon < 0) {
                p.drawText(QPointF(0, y), line.trimmed());
            } else {
                p.drawText(QPointF(4 * mm, y), line.left(colon + 1).trimmed());
                p.drawText(QPointF(60 * mm, y), line.mid(colon + 1).trimmed());
            }
            y += first ? 2 * mm : 0;
            first = false;
        }
    }
    return out.commit();
}

} // namespace loom::app
