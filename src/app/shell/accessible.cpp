#include "app/shell/accessible.h"
#include <QAccessible>
#include <QAccessibleWidget>
#include <QWidget>

namespace loom::app {
namespace {

class View;

class Part final : public QAccessibleInterface, public QAccessibleActionInterface {
  public:
    Part(View* view, int index) : view_(view), index_(index) {}
    bool isValid() const override;
    QObject* object() const override { return nullptr; }
    QWindow* window() const override;
    QAccessibleInterface* parent() const override;
    QAccessibleInterface* child(int) const override { return nullptr; }
    QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    int childCount() const override { return 0; }
    int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    QString text(QAccessible::Text t) const override;
    void setText(QAccessible::Text, const QString&) override {}
    QRect rect() const override;
    QAccessible::Role role() const override { return QAccessible::ListItem; }
    QAccessible::State state() const override;
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
    }
    QStringList actionNames() const override { return {pressAction()}; }
    void doAction(const QString& name) override;
    QStringList keyBindingsForAction(const QString&) const override { return {}; }

  private:
    PaintedPart part() const;
    View* view_;
    int index_;
};

// The painted widget; its parts are made when asked for and belong to Qt's registry until the widget goes.
class View final : public QAccessibleWidget {
  public:
    explicit View(QWidget* w) : QAccessibleWidget(w, QAccessible::List) {}
    ~View() override {
        for (const auto id : ids_)
            QAccessible::deleteAccessibleInterface(id);
    }
    Painted* painted() const { return dynamic_cast<Painted*>(object()); }
    int childCount() const override { return static_cast<int>(painted()->paintedParts().size()); }
    QAccessibleInterface* child(int i) const override {
        if (i < 0 || i >= childCount())
            return nullptr;
        while (static_cast<int>(ids_.size()) <= i)
            ids_.push_back(QAccessible::registerAccessibleInterface(
                new Part(const_cast<View*>(this), static_cast<int>(ids_.size()))));
        return QAccessible::accessibleInterface(ids_[static_cast<std::size_t>(i)]);
    }
    int indexOfChild(const QAccessibleInterface* part) const override {
        for (std::size_t i = 0; i < ids_.size(); ++i)
            if (QAccessible::accessibleInterface(ids_[i]) == part)
                return static_cast<int>(i);
        return -1;
    }
    QAccessibleInterface* childAt(int x, int y) const override {
        const auto parts = painted()->paintedParts();
        const QPointF at = widget()->mapFromGlobal(QPoint(x, y));
        for (std::size_t i = parts.size(); i-- > 0;) // what lies on top comes last
            if (parts[i].rect.contains(at))
                return child(static_cast<int>(i));
        return nullptr;
    }

  private:
    mutable std::vector<QAccessible::Id> ids_;
};

PaintedPart Part::part() const {
    const auto parts = view_->painted()->paintedParts();
    return index_ < static_cast<int>(parts.size()) ? parts[static_cast<std::size_t>(index_)] : PaintedPart{};
}
bool Part::isValid() const {
    return view_->isValid() && index_ < view_->childCount();
}
QWindow* Part::window() const {
    return view_->window();
}
QAccessibleInterface* Part::parent() const {
    return view_;
}
QString Part::text(QAccessible::Text t) const {
    return t == QAccessible::Name ? part().name : t == QAccessible::Value ? part().value : QString();
}
QRect Part::rect() const {
    const auto* w = qobject_cast<QWidget*>(view_->object());
    const QRect r = part().rect.toAlignedRect();
    return {w->mapToGlobal(r.topLeft()), r.size()};
}
QAccessible::State Part::state() const {
    QAccessible::State s;
    s.selectable = true;
    s.focusable = true;
    s.selected = s.focused = part().chosen;
    return s;
}
void Part::doAction(const QString& name) {
    if (name == pressAction() && isValid())
        view_->painted()->choosePart(index_);
}

QAccessibleInterface* make(const QString&, QObject* object) {
    auto* w = qobject_cast<QWidget*>(object);
    return w && dynamic_cast<Painted*>(object) ? new View(w) : nullptr;
}

} // namespace

void installAccessibility() {
    QAccessible::installFactory(make); // the same function twice is one factory
}

} // namespace loom::app
