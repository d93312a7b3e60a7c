#include "app/surfaces/surface_window.h"
#include "app/shell/choice_box.h"
#include "app/surfaces/surface_painter.h"
#include "app/surfaces/surface_pictures.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "client/fleet.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QTouchEvent>
#include <QVBoxLayout>
#include <QWindow>

namespace loom::app {

using namespace project;

namespace {

// Whether something on it moves by itself.
bool hasClockOrLine(const SurfacePage& page) {
    for (const auto& ply : page.plies)
        for (const auto& c : ply.controls)
            if (const auto* k = findControlKind(c.kind); k && (k->clock || k->lately > 0 || k->touch == Touch::dial))
                return true;
    return false;
}

} // namespace

SurfaceFace::SurfaceFace(Session& session, const std::string& surface, QWidget* parent)
    : QWidget(parent), session_(session), values_(session), use_(session.project(), surface, values_) {
    setObjectName("surfaceFace");
    setFocusPolicy(Qt::StrongFocus);
    setAttribute(Qt::WA_AcceptTouchEvents);
    setMinimumSize(160, 100);
    setAccessibleName("The surface in use");
    const auto follow = [this] {
        use_.follow(session_.project());
        update();
        emit moved();
    };
    connect(&session, &Session::changed, this, follow);
    connect(&session, &Session::surfacesChanged, this, follow);
    connect(&PictureNews::get(), &PictureNews::came, this, qOverload<>(&QWidget::update));
    beat_.setInterval(40);
    connect(&beat_, &QTimer::timeout, this, [this] {
        use_.passed(0.04);
        if (!notice_.isEmpty() && (noticeLeft_ -= 0.04) <= 0) {
            notice_.clear();
            update();
        }
        const auto* page = use_.page();
        if (session_.bench().running() || (page && hasClockOrLine(*page)))
            update();
    });
    beat_.start();
}

double SurfaceFace::scale() const {
    const auto* s = use_.surface();
    return s ? std::max(0.01,
                        std::min(width() / static_cast<double>(s->width), height() / static_cast<double>(s->height)))
             : 1;
}

QPointF SurfaceFace::corner() const {
    const auto* s = use_.surface();
    return s ? QPointF((width() - s->width * scale()) / 2, (height() - s->height * scale()) / 2) : QPointF();
}

QPointF SurfaceFace::toPage(const QPointF& at) const {
    return (at - corner()) / scale();
}

QPointF SurfaceFace::toView(const QPointF& page) const {
    return corner() + page * scale();
}

std::vector<const Control*> SurfaceFace::pressable() const {
    std::vector<const Control*> all;
    if (const auto* page = use_.page())
        for (const auto& ply : page->plies)
            if (use_.isOpen(ply))
                for (const auto& c : ply.controls)
                    if (const auto* k = findControlKind(c.kind); k && k->touch != Touch::none && use_.seen(c))
                        all.push_back(&c);
    // As one reads: by lines, from left to right.
    std::stable_sort(all.begin(), all.end(), [](const auto* a, const auto* b) {
        const double line = std::min(a->height, b->height) / 2;
        return std::abs(a->y - b->y) > line ? a->y < b->y : a->x < b->x;
    });
    return all;
}

const Control* SurfaceFace::focused() const {
    const auto* page = use_.page();
    return page && !focus_.empty() ? page->control(focus_) : nullptr;
}

void SurfaceFace::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), QColor(0x10, 0x12, 0x14));
    const auto* s = use_.surface();
    if (!s)
        return;
    p.save();
    p.translate(corner());
    p.scale(scale(), scale());
    paintPage(p, session_.project(), use_);
    if (const auto* c = focused(); c && hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(qcolor(paintOf(*s, *use_.page()).accent), 3));
        p.drawRoundedRect(QRectF(c->x - 4, c->y - 4, c->width + 8, c->height + 8), 12, 12);
    }
    p.restore();
    if (use_.asked())
        paintQuestion(p);
    if (notice_.isEmpty())
        return;
    QFont f("Manrope");
    f.setPixelSize(18);
    p.setFont(f);
    const QRectF strip(0, height() - 48, width(), 48);
    p.fillRect(strip, QColor(0x10, 0x12, 0x14));
    p.setPen(QColor(0xF3, 0xEE, 0xE4));
    p.drawText(strip, Qt::AlignCenter, notice_);
}

void SurfaceFace::tell(const QString& text) {
    constexpr double noticeSeconds = 4;
    notice_ = text;
    noticeLeft_ = noticeSeconds;
    update();
}

void SurfaceFace::after() {
    if (!use_.wanted().empty()) {
        const auto* page = use_.surface() ? use_.surface()->page(use_.wanted()) : nullptr;
        emit notYours(page ? q(page->name) : QString());
        use_.letBe();
    }
    update();
    emit moved();
}

QRectF SurfaceFace::answerRect(bool yes) const {
    const double wide = std::min(150.0, width() * 0.4), high = 56, gap = 16;
    const double x = width() / 2.0 + (yes ? gap / 2 : -gap / 2 - wide);
    return {x, height() / 2.0 + 4, wide, high};
}

void SurfaceFace::paintQuestion(QPainter& p) {
    const auto* c = use_.page()->control(*use_.asked());
    const auto drive = c ? controlDrive(session_.project(), c->param) : std::nullopt;
    const QString what = c ? q(labelOf(*c, drive ? &*drive : nullptr)) : QString();
    const auto paint = paintOf(*use_.surface(), *use_.page());
    p.fillRect(rect(), QColor(0, 0, 0, 150));
    const QRectF card(std::max(8.0, width() / 2.0 - 190), height() / 2.0 - 70, std::min(380.0, width() - 16.0), 148);
    p.setPen(QPen(qcolor(paint.ink), 1));
    p.setBrush(qcolor(paint.page));
    p.drawRoundedRect(card, 12, 12);
    QFont f("Manrope");
    f.setPixelSize(18);
    f.setWeight(QFont::Bold);
    p.setFont(f);
    p.setPen(qcolor(paint.ink));
    p.drawText(card.adjusted(12, 8, -12, -84), Qt::AlignCenter | Qt::TextWordWrap,
               what.isEmpty() ? QString("Do it?") : what + "?");
    for (const bool yes : {false, true}) {
        p.setPen(Qt::NoPen);
        p.setBrush(qcolor(yes ? paint.accent : paint.fill));
        p.drawRoundedRect(answerRect(yes), 10, 10);
        p.setPen(qcolor(yes ? paint.onAccent : paint.ink));
        p.drawText(answerRect(yes), Qt::AlignCenter, yes ? "Yes" : "No");
    }
}

void SurfaceFace::answer(bool yes) {
    use_.answer(yes);
    after();
}

void SurfaceFace::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton)
        return;
    if (use_.asked()) {
        for (const bool yes : {false, true})
            if (answerRect(yes).contains(e->position()))
                answer(yes);
        return;
    }
    const auto at = toPage(e->position());
    if (const auto* c = use_.at(at.x(), at.y()))
        focus_ = c->id;
    use_.press(0, at.x(), at.y());
    after();
}

void SurfaceFace::mouseMoveEvent(QMouseEvent* e) {
    const auto at = toPage(e->position());
    use_.move(0, at.x(), at.y());
    update();
}

void SurfaceFace::mouseReleaseEvent(QMouseEvent*) {
    use_.release(0);
    after();
}

void SurfaceFace::wheelEvent(QWheelEvent* e) {
    const auto at = toPage(e->position());
    if (const auto* c = use_.at(at.x(), at.y()))
        use_.step(*c, e->angleDelta().y() > 0 ? 1 : -1);
    update();
    e->accept();
}

void SurfaceFace::keyPressEvent(QKeyEvent* e) {
    const auto* c = focused();
    if (use_.asked()) {
        if (e->key() == Qt::Key_Escape || e->key() == Qt::Key_N)
            answer(false);
        else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter || e->key() == Qt::Key_Y)
            answer(true);
        return;
    }
    if (!use_.overOf().empty()) {
        const auto text = e->text().toStdString();
        if (e->key() == Qt::Key_Escape)
            use_.overKey("escape");
        else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
            use_.overKey("enter");
        else if (e->key() == Qt::Key_Backspace)
            use_.overKey("back");
        else if ((e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) && c)
            use_.step(*c, e->key() == Qt::Key_Down ? 1 : -1);
        else if (text.size() == 1)
            use_.overKey(text == "," ? "." : text);
        return after();
    }
    if (const auto text = e->text().toStdString();
        c && text.size() == 1 && std::string("0123456789*#-.").find(text[0]) != std::string::npos) {
        use_.key(*c, text);
        return after();
    }
    if (e->key() == Qt::Key_Backspace && c) {
        use_.key(*c, "back");
        return after();
    }
    switch (e->key()) {
    case Qt::Key_Escape:
        return void(emit wantsOut());
    case Qt::Key_Up:
    case Qt::Key_Right:
        if (c)
            use_.step(*c, 1);
        return after();
    case Qt::Key_Down:
    case Qt::Key_Left:
        if (c)
            use_.step(*c, -1);
        return after();
    case Qt::Key_Space:
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (c)
            use_.click(*c);
        return after();
    default:
        QWidget::keyPressEvent(e);
    }
}

bool SurfaceFace::event(QEvent* e) {
    if (e->type() == QEvent::TouchBegin || e->type() == QEvent::TouchUpdate || e->type() == QEvent::TouchEnd ||
        e->type() == QEvent::TouchCancel) {
        auto* t = static_cast<QTouchEvent*>(e);
        bool ended = false;
        for (const auto& point : t->points()) {
            if (use_.asked()) {
                for (const bool yes : {false, true})
                    if (point.state() == QEventPoint::Pressed && answerRect(yes).contains(point.position()))
                        answer(yes);
                continue;
            }
            const auto at = toPage(point.position());
            const int finger = 1 + point.id();
            if (point.state() == QEventPoint::Pressed)
                use_.press(finger, at.x(), at.y());
            else if (point.state() == QEventPoint::Updated)
                use_.move(finger, at.x(), at.y());
            else if (point.state() == QEventPoint::Released)
                use_.release(finger), ended = true;
        }
        ended ? after() : update();
        return true;
    }
    if (e->type() == QEvent::KeyPress) {
        auto* k = static_cast<QKeyEvent*>(e);
        const bool back = k->key() == Qt::Key_Backtab;
        const auto all = pressable();
        if ((k->key() == Qt::Key_Tab || back) && !all.empty()) {
            std::size_t i = 0;
            while (i < all.size() && all[i]->id != focus_)
                ++i;
            const auto n = all.size();
            focus_ = all[i >= n ? (back ? n - 1 : 0) : (i + (back ? n - 1 : 1)) % n]->id;
            update();
            return true;
        }
    }
    return QWidget::event(e);
}

SurfaceWindow::SurfaceWindow(Session& session, const std::string& surface, QWidget* parent, For who)
    : QWidget(parent, Qt::Window), session_(session), surface_(surface),
      ofProject_(q(session.project().name).replace('/', '-')), for_(who), face_(new SurfaceFace(session, surface)),
      head_(new QWidget), role_(new ChoiceBox), with_(new QLabel) {
    setObjectName("surfaceWindow");
    setAttribute(Qt::WA_DeleteOnClose);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    auto* row = new QHBoxLayout(head_);
    row->setContentsMargins(12, 6, 12, 6);
    with_->setWordWrap(true);
    row->addWidget(with_, 1);
    role_->setObjectName("surfaceRole");
    role_->setAccessibleName("Who is here");
    row->addWidget(role_);
    auto* manners = new QPushButton("Window\u2026");
    manners->setObjectName("surfaceManners");
    row->addWidget(manners);
    auto* close = new QPushButton("Close");
    close->setObjectName("surfaceClose");
    close->setProperty("main", true);
    row->addWidget(close);
    box->addWidget(head_);
    box->addWidget(face_, 1);
    head_->setVisible(who == For::trying);
    connect(close, &QPushButton::clicked, this, &QWidget::close);
    connect(manners, &QPushButton::clicked, this, &SurfaceWindow::offerManners);
    if (who == For::trying)
        connect(face_, &SurfaceFace::wantsOut, this, &QWidget::close);
    connect(face_, &SurfaceFace::moved, this, &SurfaceWindow::refresh);
    connect(face_, &SurfaceFace::notYours, this, [this](const QString& page) {
        notYours_ = page;
        if (for_ == For::operators)
            face_->tell(page + " opens for some only.");
    });
    connect(&session, &Session::opened, this, &QWidget::close);
    connect(role_, &QComboBox::activated, this, [this] { be(role_->currentData().toString().toStdString()); });
    QSettings settings;
    if (const auto at = settings.value(remembered("at")).toByteArray(); at.isEmpty() || !restoreGeometry(at))
        if (const auto* s = face_->use().surface()) {
            const double most = std::min(1.0, std::min(1180.0 / s->width, 720.0 / s->height));
            resize(static_cast<int>(s->width * most),
                   static_cast<int>(s->height * most) + (who == For::trying ? head_->sizeHint().height() : 0));
        }
    const auto words = settings.value(remembered("manner")).toStringList();
    manner_ = {words.contains("front"), words.contains("bare"), words.contains("full"), words.contains("no pointer")};
    refresh();
    face_->setFocus();
}

SurfaceWindow::~SurfaceWindow() {
    QSettings settings;
    if (!manner_.full)
        settings.setValue(remembered("at"), saveGeometry());
}

QString SurfaceWindow::remembered(const char* what) const {
    return QString("surfaceWindows/%1/%2/%3").arg(ofProject_, q(surface_), what);
}

void SurfaceWindow::setManner(const Manner& manner) {
    manner_ = manner;
    QStringList words;
    for (const auto& [is, word] : {std::pair(manner.inFront, "front"),
                                   {manner.bare, "bare"},
                                   {manner.full, "full"},
                                   {manner.noPointer, "no pointer"}})
        if (is)
            words << word;
    QSettings().setValue(remembered("manner"), words);
    constexpr Qt::WindowFlags ours = Qt::WindowStaysOnTopHint | Qt::FramelessWindowHint;
    Qt::WindowFlags wanted{};
    wanted.setFlag(Qt::WindowStaysOnTopHint, manner.inFront);
    wanted.setFlag(Qt::FramelessWindowHint, manner.bare);
    if ((windowFlags() & ours) != wanted) { // hides it
        const auto at = pos();
        setWindowFlags((windowFlags() & ~ours) | wanted);
        move(at);
    }
    manner.noPointer ? face_->setCursor(Qt::BlankCursor) : face_->unsetCursor();
    manner.full ? showFullScreen() : showNormal();
    face_->setFocus();
}

void SurfaceWindow::be(const std::string& role) {
    face_->use().be(role);
    face_->update();
    refresh();
}

void SurfaceWindow::offerManners() {
    QMenu menu(this);
    menu.setObjectName("mannersMenu");
    const auto add = [&](const char* text, bool Manner::*part, const QKeySequence& key = {}) {
        auto* a = menu.addAction(text);
        a->setCheckable(true);
        a->setChecked(manner_.*part);
        a->setShortcut(key);
        connect(a, &QAction::triggered, this, [this, part](bool on) {
            auto now = manner_;
            now.*part = on;
            setManner(now);
        });
    };
    add("In front of other windows", &Manner::inFront);
    add("Without a frame (drag it by its head)", &Manner::bare);
    add("Full screen", &Manner::full, QKeySequence(Qt::Key_F11));
    add("Without the pointer", &Manner::noPointer);
    menu.exec(head_->mapToGlobal(QPoint(head_->width() - menu.sizeHint().width(), head_->height())));
}

void SurfaceWindow::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_F11)
        return QWidget::keyPressEvent(e);
    auto now = manner_;
    now.full = !now.full;
    setManner(now);
}

void SurfaceWindow::mousePressEvent(QMouseEvent* e) {
    if (manner_.bare && !manner_.full && head_->geometry().contains(e->pos()) && windowHandle())
        windowHandle()->startSystemMove();
    QWidget::mousePressEvent(e);
}

void SurfaceWindow::refresh() {
    const auto* s = face_->use().surface();
    if (!s)
        return void(close());
    setWindowTitle(for_ == For::operators ? q(s->name) : q(s->name) + " in use");
    const auto* page = face_->use().page();
    const auto* d = session_.bench().running() ? session_.device() : nullptr;
    if (!notYours_.isEmpty()) {
        with_->setText(std::exchange(notYours_, QString()) + " opens for some only. Choose who is here on the right.");
        return;
    }
    with_->setText((page ? q(page->name) + " \u00b7 " : QString()) +
                   (d ? QString("with the bench: %1. What is turned is heard there and does not change the design.")
                            .arg(q(d->name))
                    : session_.fleet() && session_.fleet()->live()
                        ? QString("with the devices that are reached: what is turned is set there.")
                        : QString("on its own: what is turned stays here. F5 starts the bench.")));
    const auto was = face_->use().role();
    role_->clear();
    role_->addItem("Anyone", QString());
    for (const auto& r : s->roles)
        role_->addItem(q(r.name), q(r.id));
    role_->setCurrentIndex(std::max(0, role_->findData(q(was))));
    role_->setVisible(!s->roles.empty());
}

} // namespace loom::app
