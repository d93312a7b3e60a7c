#include "app/deck/value_field.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
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
    if (const auto* s = spec()) {
        setAccessibleName(QString::fromStdString(s->label));
        setToolTip(
            QString::fromStdString(s->label + ": " + formatValue(*s, s->min) + " to " + formatValue(*s, s->max)));
    }
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
    const auto& values = session_.program()->find(block_.toStdString())->values;
    const auto it = values.find(s->id);
    return it == values.end() ? s->def : it->second;
}

void ValueField::refresh() {
    const auto* s = spec();
    if (!s || (hasFocus() && isModified()))
        return;
    setText(QString::fromStdString(formatValue(*s, value())));
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
    const auto typed = engine::parseValue(*s, text().toStdString());
    setModified(false);
    if (!typed)
        session_.report(QString::fromStdString(typed.trouble().text()));
    else
        session_.set(block_, param_, *typed);
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

void ValueField::focusOutEvent(QFocusEvent* e) {
    commit();
    session_.endDrag();
    QLineEdit::focusOutEvent(e);
}

} // namespace loom::app
