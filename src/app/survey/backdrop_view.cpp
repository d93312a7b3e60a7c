#include "app/survey/backdrop_view.h"
#include "app/theme/theme.h"
#include <QPainter>
#include <QSvgRenderer>
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::app {
namespace {

constexpr double widest = 2600; // pixels of the picture of the whole drawing

} // namespace

BackdropView::BackdropView(QObject* parent)
    : QObject(parent), reading_([this](std::shared_ptr<const project::DxfPlan> plan) {
          plan_ = std::move(plan);
          forget();
          emit read();
          emit changed();
      }),
      drawing_([this](Drawn drawn) {
          if (drawn.image.isNull())
              return;
          (whole_.image.isNull() ? whole_ : sharp_) = std::move(drawn);
          emit changed();
      }) {}

// What was drawn is of other layers, another colour or another drawing; so is what is being drawn.
void BackdropView::forget() {
    drawing_.stop();
    whole_ = sharp_ = {};
    askedScale_ = 0;
}

void BackdropView::take(const project::Project& project, const project::Backdrop& b) {
    const auto it = project.assets.find(b.asset);
    if (it == project.assets.end()) {
        asset_.clear();
        bytes_ = nullptr;
        plan_.reset();
        pixmap_ = {};
        return;
    }
    const auto& asset = it->second;
    if (asset_ == b.asset && bytes_ == asset.data())
        return;
    asset_ = b.asset;
    bytes_ = asset.data();
    plan_.reset();
    pixmap_ = {};
    forget();
    reading_.stop();
    if (b.asset.ends_with(".dxf")) {
        reading_.start([asset, name = b.asset](std::stop_token stop) -> std::shared_ptr<const project::DxfPlan> {
            auto plan = project::readDxfPlan({asset.data(), asset.size()}, name,
                                             [&](double) { return !stop.stop_requested(); });
            return plan ? std::make_shared<const project::DxfPlan>(std::move(*plan)) : nullptr;
        });
        return;
    }
    const QByteArray bytes(asset.data(), static_cast<qsizetype>(asset.size()));
    if (b.asset.ends_with(".svg")) {
        QSvgRenderer svg(bytes);
        QImage image(svg.defaultSize().boundedTo(QSize(4000, 4000)), QImage::Format_ARGB32_Premultiplied);
        if (svg.isValid() && !image.isNull()) {
            image.fill(Qt::transparent);
            QPainter paint(&image);
            svg.render(&paint);
            paint.end();
            pixmap_ = QPixmap::fromImage(image);
        }
    } else {
        pixmap_.loadFromData(bytes);
    }
}

BackdropView::Drawn BackdropView::draw(const project::DxfPlan& plan, const std::vector<std::string>& hidden,
                                       QRectF part, double scale, QColor ink, std::stop_token stop) {
    Drawn d{QImage(QSizeF(part.size() * scale).toSize().expandedTo({1, 1}), QImage::Format_ARGB32_Premultiplied), part,
            scale};
    if (d.image.isNull())
        return {};
    d.image.fill(Qt::transparent);
    const std::set<std::string> off(hidden.begin(), hidden.end());
    std::vector<char> shown;
    for (const auto& layer : plan.layers)
        shown.push_back(!off.count(layer.name));
    QPainter p(&d.image);
    p.setPen(QPen(ink, 1));
    p.setRenderHint(QPainter::Antialiasing, plan.points.size() < 2'000'000);
    const auto at = [&](const project::DxfPoint& q) {
        return QPointF((q.x - plan.low.x - part.left()) * scale, (plan.high.y - q.y - part.top()) * scale);
    };
    QPolygonF line;
    const double right = d.image.width(), bottom = d.image.height();
    std::size_t n = 0;
    for (const auto& l : plan.lines) {
        if ((++n & 1023) == 0 && stop.stop_requested())
            return {};
        if (!shown[static_cast<std::size_t>(l.layer)])
            continue;
        line.clear();
        double left = 1e300, most = -1e300, top = 1e300, low = -1e300;
        QPointF last;
        for (std::uint32_t k = 0; k < l.count; ++k) {
            const QPointF one = at(plan.points[l.first + k]);
            left = std::min(left, one.x());
            most = std::max(most, one.x());
            top = std::min(top, one.y());
            low = std::max(low, one.y());
            // points that fall together on the screen are one
            if (k == 0 || k + 1 == l.count || std::abs(one.x() - last.x()) + std::abs(one.y() - last.y()) > 0.7) {
                line << one;
                last = one;
            }
        }
        if (most < 0 || left > right || low < 0 || top > bottom)
            continue;
        // Far beyond the picture lines are cut where the painter would overflow.
        if (most - left > 1e5 || low - top > 1e5) {
            for (auto& q : line)
                q = {std::clamp(q.x(), -3e4, 3e4), std::clamp(q.y(), -3e4, 3e4)};
        }
        p.drawPolyline(line);
    }
    for (const auto& t : plan.texts) {
        const double tall = t.height * scale;
        if (!shown[static_cast<std::size_t>(t.layer)] || tall < 4 || tall > 400)
            continue;
        const QPointF where = at(t.at);
        if (where.x() < -1000 || where.x() > right + 1000 || where.y() < -1000 || where.y() > bottom + 1000)
            continue;
        QFont font = Theme::get().text(10);
        font.setPixelSize(std::max(1, static_cast<int>(std::lround(tall * 1.3))));
        p.setFont(font);
        const QString text = QString::fromStdString(t.text);
        const double wide = QFontMetricsF(font).horizontalAdvance(text);
        p.save();
        p.translate(where);
        p.rotate(-t.degrees);
        p.drawText(QPointF(-t.across * wide, t.up * tall), text);
        p.restore();
    }
    p.end();
    return d;
}

void BackdropView::want(const QRectF& part, double scale) {
    if (askedScale_ == scale && asked_.contains(part))
        return; // it comes
    asked_ = part;
    askedScale_ = scale;
    drawing_.start([plan = plan_, hidden = hidden_, part, scale, ink = ink_](std::stop_token stop) {
        return draw(*plan, hidden, part, scale, ink, stop);
    });
}

void BackdropView::paint(QPainter& p, const project::Project& project, const project::Backdrop& b, const QPointF& at,
                         double scale, const QRect& view) {
    take(project, b);
    if (!pixmap_.isNull()) {
        p.setOpacity(Theme::get().night() ? 0.25 : 0.5);
        p.drawPixmap(QRectF(at, QSizeF(pixmap_.size()) * scale), pixmap_, QRectF(pixmap_.rect()));
        p.setOpacity(1);
        return;
    }
    if (!plan_)
        return;
    if (hidden_ != b.hidden || ink_ != tokens().ink2) {
        hidden_ = b.hidden;
        ink_ = tokens().ink2;
        forget();
    }
    const QRectF all(0, 0, plan_->high.x - plan_->low.x, plan_->high.y - plan_->low.y);
    if (whole_.image.isNull()) { // how it is zoomed meanwhile makes no difference
        want(all, std::min(widest / std::max(all.width(), 1e-9), widest / std::max(all.height(), 1e-9)));
        return;
    }
    const QRectF seen = QRectF((view.left() - at.x()) / scale, (view.top() - at.y()) / scale, view.width() / scale,
                               view.height() / scale)
                            .intersected(all);
    if (seen.isEmpty())
        return;
    const auto put = [&](const Drawn& d) {
        p.drawImage(QRectF(at + d.part.topLeft() * scale, QSizeF(d.image.size()) * (scale / d.scale)), d.image);
    };
    p.setOpacity(0.8);
    const bool covered =
        !sharp_.image.isNull() && std::abs(sharp_.scale / scale - 1) < 1e-9 && sharp_.part.contains(seen);
    if (covered)
        put(sharp_);
    else
        put(whole_);
    p.setOpacity(1);
    const double beside = 0.4; // so much of the view on each side, for moving
    const QRectF wide = seen.adjusted(-view.width() / scale * beside, -view.height() / scale * beside,
                                      view.width() / scale * beside, view.height() / scale * beside)
                            .intersected(all);
    const QRectF soon = seen.adjusted(-view.width() / scale * beside / 2, -view.height() / scale * beside / 2,
                                      view.width() / scale * beside / 2, view.height() / scale * beside / 2)
                            .intersected(all);
    if (!(covered && sharp_.part.contains(soon)) && !(askedScale_ == scale && asked_.contains(soon)))
        want(wide, scale);
}

} // namespace loom::app
