#include "app/deck/value_field.h"
#include "app/deck/remarks.h"
#include "app/theme/theme.h"
#include "model/notes.h"
#include "program/links.h"
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

namespace loom::app {

ValueField::ValueField(Session& session, const QString& block, const QString& param, QWidget* parent)
    : QLineEdit(parent), session_(session), block_(block), param_(param) {
    setObjectName(block + "." + param);
    setAlignment(Qt::AlignRight);
    setFont(Theme::get().number(11));
    // The style sheet sets a font for every widget; numbers have their own.
    setStyleSheet(QString("font-family: 'JetBrains Mono'; font-size: %1px;").arg(Theme::get().ipx(11)));
    if (const auto* s = spec())
        setAccessibleName(QString::fromStdString(s->label));
    connect(this, &QLineEdit::returnPressed, this, [this] {
        commit();
        selectAll();
    });
    refresh();
}

const engine::ParamSpec* ValueField::spec() const {
    const auto* b = session_.program() ? session_.program()->find(block_.toStdString()) : nullptr;
    const auto* kind = b ? engine::findKind(b->kind) : nullptr;
    if (!kind)
        return nullptr;
    const auto& table = engine::paramTable(*kind, engine::fullShape(*kind, *b));
    const int i = table.indexOf(param_.toStdString());
    return i < 0 ? nullptr : &table.specs()[static_cast<std::size_t>(i)];
}

double ValueField::value() const {
    const auto* s = spec();
    if (!s)
        return 0;
    return valueIn(*session_.program()->find(block_.toStdString()));
}

double ValueField::valueIn(const engine::Block& block) const {
    const auto it = block.values.find(param_.toStdString());
    return it == block.values.end() ? spec()->def : it->second;
}

// Several lanes are chosen and do not agree: what lies between their values.
QString ValueField::rangeText() const {
    const auto* s = spec();
    if (session_.lanes().size() < 2 || !s)
        return {};
    double low = value(), high = low;
    const auto reach = project::reachOf(session_.layout(), *session_.program(), session_.laneIds(),
                                        block_.toStdString(), param_.toStdString());
    for (const auto& address : reach) {
        const double v = valueIn(*session_.program()->find(address.substr(0, address.size() - s->id.size() - 1)));
        low = std::min(low, v);
        high = std::max(high, v);
    }
    if (low == high)
        return {};
    const bool words = s->unit == engine::Unit::choice || s->unit == engine::Unit::onOff;
    return words
               ? QString(QChar(0x2014))
               : QString("\u2014 %1 \u2026 %2")
                     .arg(QString::fromStdString(formatShort(*s, low)), QString::fromStdString(formatShort(*s, high)));
}

void ValueField::noteMarks() {
    const auto* s = spec();
    const auto& b = *session_.program()->find(block_.toStdString());
    apart_ = project::isApart(b, s->id);
    const auto* kept = session_.kept() ? session_.kept()->find(b.id) : nullptr;
    changed_ = session_.kept() && (!kept || kept->kind != b.kind || valueIn(*kept) != value());
    QString tip = QString::fromStdString(s->label + ": " + formatValue(*s, s->min) + " to " + formatValue(*s, s->max) +
                                         "\ndefault: " + formatValue(*s, s->def) + "  (double click)");
    if (kept && kept->kind == b.kind)
        tip += QString::fromStdString("\nkept: " + formatValue(*s, valueIn(*kept)));
    if (apart_)
        tip += "\napart from the linked lanes (Ctrl+B relinks)";
    setToolTip(tip + remarksText(b, s->id));
    locked_ = !project::protectionOf(b, s->id).empty();
    noted_ = !project::noteOf(b, s->id).empty();
    setAccessibleDescription(locked_    ? "protected"
                             : apart_   ? "apart from the linked lanes"
                             : changed_ ? "changed since kept"
                                        : QString());
    update();
}

void ValueField::refresh() {
    const auto* s = spec();
    if (!s || (hasFocus() && isModified()))
        return;
    noteMarks();
    const QString range = hasFocus() ? QString() : rangeText();
    setText(range.isEmpty() ? QString::fromStdString(formatValue(*s, value())) : range);
    // What differs from the default is set in bold: seen at a glance, without a legend of colours.
    QFont f = font();
    f.setBold(value() != s->def);
    setFont(f);
    setModified(false);
}

void ValueField::commit() {
    const auto* s = spec();
    if (!s || !isModified())
        return;
    const engine::BlockView view(*session_.program()->find(block_.toStdString()));
    const auto typed = view.table->parse(view.table->indexOf(s->id), text().toStdString());
    setModified(false);
    if (!typed)
        session_.report(QString::fromStdString(typed.error().text()));
    else
        for (const auto& [param, v] : *typed)
            session_.set(block_, QString::fromStdString(param), v);
    refresh();
}

void ValueField::step(double steps) {
    const auto* s = spec();
    if (!s)
        return;
    const bool whole = s->unit == engine::Unit::choice || s->unit == engine::Unit::onOff;
    double v = value();
    if (whole)
        v += steps > 0 ? 1 : -1;
    else if (s->taper == engine::Taper::logarithmic)
        v *= std::pow(2.0, steps * s->step);
    else
        v += steps * s->step;
    setModified(false);
    session_.set(block_, param_, qBound(s->min, v, s->max), true);
    refresh();
}

void ValueField::keyPressEvent(QKeyEvent* e) {
    const double size = e->modifiers() & Qt::ShiftModifier ? 0.1 : e->modifiers() & Qt::ControlModifier ? 6 : 1;
    if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down)
        return step(e->key() == Qt::Key_Up ? size : -size);
    if (e->key() == Qt::Key_B && e->modifiers() == Qt::ControlModifier)
        return flipApart();
    if (e->key() == Qt::Key_Escape && isModified()) {
        setModified(false);
        return refresh();
    }
    if (e->key() == Qt::Key_Escape)
        return e->ignore();
    QLineEdit::keyPressEvent(e);
}

void ValueField::wheelEvent(QWheelEvent* e) {
    if (!hasFocus()) // a wheel meant for scrolling must not change a hall
        return e->ignore();
    const double size = e->modifiers() & Qt::ShiftModifier ? 0.1 : e->modifiers() & Qt::ControlModifier ? 6 : 1;
    step(e->angleDelta().y() > 0 ? size : -size);
    e->accept();
}

void ValueField::mouseDoubleClickEvent(QMouseEvent*) {
    if (const auto* s = spec())
        session_.set(block_, param_, s->def);
    setModified(false);
    refresh();
}

// Goes its own way from now on, or goes with the linked lanes again.
void ValueField::flipApart() {
    const auto& p = *session_.program();
    const std::string block = block_.toStdString(), param = param_.toStdString();
    session_.setProgram(apart_ ? project::relink(session_.layout(), p, block, param)
                               : project::breakAway(session_.layout(), p, block, param),
                        apart_ ? "Relink a value" : "Break a value away");
}

void ValueField::contextMenuEvent(QContextMenuEvent* e) {
    const auto* s = spec();
    if (!s)
        return;
    QMenu menu(this);
    menu.setObjectName("valueMenu");
    const auto add = [&](const QString& text, auto go) {
        connect(menu.addAction(text), &QAction::triggered, this, go);
    };
    add("Default: " + QString::fromStdString(formatValue(*s, s->def)),
        [this] { session_.restoreValue(block_, param_, false); });
    if (changed_)
        add("As kept", [this] { session_.restoreValue(block_, param_, true); });
    const auto* lane = session_.layout().laneOf(block_.toStdString());
    if (lane && !project::linkedWith(*session_.program(), lane->end).empty())
        add(apart_ ? "Relink with the other lanes\tCtrl+B" : "Break away from the linked lanes\tCtrl+B",
            [this] { flipApart(); });
    menu.addSeparator();
    add("Note\u2026", [this] { askNote(this, session_, block_, param_); });
    add(locked_ ? "Take the protection off" : "Protect\u2026",
        [this] { flipProtection(this, session_, block_, param_); });
    menu.addSeparator();
    add("Copy", [this] { copy(); });
    add("Paste", [this] { paste(); });
    menu.exec(e->globalPos());
}

void ValueField::paintEvent(QPaintEvent* e) {
    QLineEdit::paintEvent(e);
    if (!apart_ && !changed_ && !locked_ && !noted_)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QPointF at(px(9), height() / 2.0);
    if (apart_) {
        p.setPen(QPen(tokens().ink, px(1.4)));
        p.drawLine(at + QPointF(-px(4), -px(2)), at + QPointF(px(4), -px(2)));
        p.drawLine(at + QPointF(-px(4), px(2)), at + QPointF(px(4), px(2)));
        p.drawLine(at + QPointF(-px(3), px(5)), at + QPointF(px(3), -px(5)));
    }
    if (locked_)
        paintLock(p, {px(apart_ ? 20 : 9), height() / 2.0}, px(9), tokens().ink2);
    if (noted_) { // a folded corner
        p.setPen(Qt::NoPen);
        p.setBrush(tokens().saffron);
        p.drawPolygon(QPolygonF{QPointF(1, 1), QPointF(px(7), 1), QPointF(1, px(7))});
    }
    if (changed_) {
        p.setPen(Qt::NoPen);
        p.setBrush(tokens().saffron);
        p.drawEllipse(QPointF(width() - px(4), px(4)), px(3), px(3));
    }
}

void ValueField::focusInEvent(QFocusEvent* e) {
    QLineEdit::focusInEvent(e);
    refresh(); // this lane's own value, not the range of all
}

void ValueField::focusOutEvent(QFocusEvent* e) {
    commit();
    session_.endDrag();
    QLineEdit::focusOutEvent(e);
    refresh();
}

} // namespace loom::app
