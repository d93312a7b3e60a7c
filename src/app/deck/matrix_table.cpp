#include "app/deck/matrix_table.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "model/block_names.h"
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QStyledItemDelegate>

namespace loom::app {
namespace {

constexpr double off = -80, softest = -60; // a drag out of silence begins at `softest`

// What is typed goes to all crossings that are selected, as one change.
class LevelDelegate final : public QStyledItemDelegate {
  public:
    explicit LevelDelegate(MatrixTable* table) : QStyledItemDelegate(table), table_(table) {}
    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem&, const QModelIndex&) const override {
        auto* editor = new QLineEdit(parent);
        editor->setAccessibleName("Level");
        editor->setAlignment(Qt::AlignRight);
        return editor;
    }
    void setEditorData(QWidget*, const QModelIndex&) const override {}
    void setModelData(QWidget* editor, QAbstractItemModel*, const QModelIndex&) const override {
        if (const auto text = static_cast<QLineEdit*>(editor)->text(); !text.isEmpty())
            table_->enter(text);
    }

  private:
    MatrixTable* table_;
};

} // namespace

MatrixModel::MatrixModel(Session& session, const QString& block, QObject* parent)
    : QAbstractTableModel(parent), session_(session), block_(block) {}

const engine::Block* MatrixModel::block() const {
    return session_.program() ? session_.program()->find(block_.toStdString()) : nullptr;
}
int MatrixModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() || !block() ? 0 : engine::inputsOf(*session_.program(), *block());
}
int MatrixModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() || !block() ? 0 : engine::outputsOf(*session_.program(), *block());
}
std::string MatrixModel::crossing(const QModelIndex& at) {
    return std::to_string(at.row() + 1) + "." + std::to_string(at.column() + 1);
}
std::string MatrixModel::lineMute(int section, Qt::Orientation way) {
    return (way == Qt::Vertical ? "in." : "out.") + std::to_string(section + 1) + ".mute";
}
double MatrixModel::value(const std::string& param) const {
    const auto* b = block();
    const auto it = b ? b->values.find(param) : std::map<std::string, double>::const_iterator();
    return b && it != b->values.end() ? it->second : param.ends_with(".mute") ? 0 : off;
}
double MatrixModel::level(const QModelIndex& at) const {
    return value(crossing(at));
}
bool MatrixModel::muted(const QModelIndex& at) const {
    return value(crossing(at) + ".mute") >= 0.5;
}
bool MatrixModel::lineMuted(int section, Qt::Orientation way) const {
    return value(lineMute(section, way)) >= 0.5;
}

QVariant MatrixModel::data(const QModelIndex& at, int role) const {
    const double db = level(at);
    const bool closed = muted(at) || lineMuted(at.row(), Qt::Vertical) || lineMuted(at.column(), Qt::Horizontal);
    switch (role) {
    case Qt::DisplayRole:
        return muted(at)   ? QString("mute")
               : db <= off ? QString("off")
                           : QString::number(db, 'f', 1).replace('-', u'−');
    case Qt::TextAlignmentRole:
        return static_cast<int>(Qt::AlignRight | Qt::AlignVCenter);
    case Qt::ForegroundRole:
        return muted(at) ? tokens().fault : db <= off || closed ? tokens().ink3 : tokens().ink;
    case Qt::BackgroundRole: // open crossings stand out as tinted cells
        return db > off && !closed ? tokens().saffronTint : tokens().card;
    case Qt::ToolTipRole:
        return headerData(at.row(), Qt::Vertical, Qt::DisplayRole).toString() + " → " +
               headerData(at.column(), Qt::Horizontal, Qt::DisplayRole).toString();
    default:
        return {};
    }
}

QVariant MatrixModel::headerData(int section, Qt::Orientation way, int role) const {
    if (!block())
        return {};
    if (role == Qt::ForegroundRole)
        return lineMuted(section, way) ? tokens().fault : tokens().ink;
    if (role == Qt::ToolTipRole)
        return QString("Press to mute or open this whole %1").arg(way == Qt::Vertical ? "row" : "column");
    if (role != Qt::DisplayRole)
        return {};
    const auto& program = *session_.program();
    const engine::PortRef port{block_.toStdString(), section};
    std::string other;
    if (way == Qt::Vertical) {
        if (const auto* t = program.into(port))
            other = t->from.block;
    } else {
        for (const auto& t : program.connections)
            if (t.from == port)
                other = t.to.block;
    }
    const auto* b = program.find(other);
    const QString name = b ? q(project::blockName(program, *b)).section(QString::fromUtf8(" \u00b7 "), 0, 0)
                           : QString::number(section + 1);
    return lineMuted(section, way) ? name + " (mute)" : name;
}

Qt::ItemFlags MatrixModel::flags(const QModelIndex&) const {
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable;
}

void MatrixModel::refresh() {
    if (rowCount() == 0 || columnCount() == 0)
        return;
    emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
    emit headerDataChanged(Qt::Vertical, 0, rowCount() - 1);
    emit headerDataChanged(Qt::Horizontal, 0, columnCount() - 1);
}

MatrixTable::MatrixTable(Session& session, const QString& block, QWidget* parent)
    : QTableView(parent), session_(session), block_(block), model_(new MatrixModel(session, block, this)) {
    setObjectName("crossings." + block);
    setAccessibleName("Crossings");
    setModel(model_);
    setItemDelegate(new LevelDelegate(this));
    setEditTriggers(AnyKeyPressed | DoubleClicked | EditKeyPressed);
    setShowGrid(true);
    setFont(Theme::get().number(11));
    setStyleSheet(
        QString("QTableView { background: %1; gridline-color: %2; border: 1px solid %2; font-family: 'JetBrains "
                "Mono'; font-size: %3px; selection-background-color: %4; selection-color: #25282D; }"
                "QHeaderView { background: %1; } QHeaderView::section { background: %1; color: %5; border: 0; "
                "padding: 2px 6px; } QTableCornerButton::section { background: %1; border: 0; }")
            .arg(tokens().card.name(), tokens().hair.name())
            .arg(Theme::get().ipx(11))
            .arg(tokens().saffron.name(), tokens().ink.name()));
    horizontalHeader()->setDefaultSectionSize(Theme::get().ipx(92));
    horizontalHeader()->setMinimumSectionSize(Theme::get().ipx(60));
    verticalHeader()->setDefaultSectionSize(Theme::get().ipx(21));
    verticalHeader()->setMinimumSectionSize(Theme::get().ipx(16));
    verticalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    for (auto* header : {horizontalHeader(), verticalHeader()}) {
        header->setSectionsClickable(true);
        connect(header, &QHeaderView::sectionClicked, this,
                [this, way = header->orientation()](int section) { toggleLine(section, way); });
    }
    const int columns = std::min(model_->columnCount(), 9);
    setMinimumWidth(Theme::get().ipx(130 + 92 * columns));
    setMinimumHeight(Theme::get().ipx(100));
}

void MatrixTable::setAll(const std::map<std::string, double>& values, const QString& text, bool merge) {
    if (values.empty())
        return;
    if (values.size() == 1) {
        session_.set(block_, q(values.begin()->first), values.begin()->second, merge);
        return;
    }
    std::map<std::string, double> all;
    for (const auto& [param, value] : values)
        all[block_.toStdString() + "." + param] = value;
    session_.setAll(all, text, merge);
}

void MatrixTable::enter(const QString& text) {
    const auto& b = *session_.program()->find(block_.toStdString());
    const auto& table = *engine::BlockView(b).table;
    std::map<std::string, double> values;
    for (const auto& at : selectionModel()->selectedIndexes()) {
        const auto param = MatrixModel::crossing(at);
        const auto level =
            engine::parseValue(table.specs()[static_cast<std::size_t>(table.indexOf(param))], text.toStdString());
        if (!level)
            return session_.report(q(level.error().text()));
        values[param] = *level;
    }
    setAll(values, QString("Set %1 crossings to %2").arg(values.size()).arg(text));
}

void MatrixTable::step(double db, bool merge) {
    std::map<std::string, double> values;
    for (const auto& at : selectionModel()->selectedIndexes()) {
        const double now = model_->level(at);
        values[MatrixModel::crossing(at)] = now <= off ? (db > 0 ? softest : off) : qBound(off, now + db, 12.0);
    }
    setAll(values, QString("Level of %1 crossings").arg(values.size()), merge);
}

void MatrixTable::toggleMute() {
    const auto chosen = selectionModel()->selectedIndexes();
    const bool mute = std::any_of(chosen.begin(), chosen.end(), [this](const auto& at) { return !model_->muted(at); });
    std::map<std::string, double> values;
    for (const auto& at : chosen)
        values[MatrixModel::crossing(at) + ".mute"] = mute;
    setAll(values, QString("%1 %2 crossings").arg(mute ? "Mute" : "Open").arg(values.size()));
}

void MatrixTable::toggleLine(int section, Qt::Orientation way) {
    session_.set(block_, q(MatrixModel::lineMute(section, way)), model_->lineMuted(section, way) ? 0 : 1);
}

void MatrixTable::keyPressEvent(QKeyEvent* e) {
    const bool louder = e->key() == Qt::Key_Up;
    if (e->modifiers() & Qt::ControlModifier && (louder || e->key() == Qt::Key_Down))
        return step((louder ? 1 : -1) * (e->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0), true);
    if (e->key() == Qt::Key_M && e->modifiers() == Qt::NoModifier)
        return toggleMute();
    if (e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace)
        return enter("off");
    QTableView::keyPressEvent(e);
}

void MatrixTable::wheelEvent(QWheelEvent* e) {
    if (!(e->modifiers() & Qt::ControlModifier)) // without it the table scrolls
        return QTableView::wheelEvent(e);
    step((e->angleDelta().y() > 0 ? 1 : -1) * (e->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0), true);
    e->accept();
}

// A press on a crossing that is chosen already takes hold of its level, and of that of all others selected.
void MatrixTable::mousePressEvent(QMouseEvent* e) {
    const auto at = indexAt(e->pos());
    pressed_ = e->button() == Qt::LeftButton && e->modifiers() == Qt::NoModifier && at.isValid() &&
               selectionModel()->isSelected(at);
    dragging_ = false;
    if (!pressed_)
        return QTableView::mousePressEvent(e);
    pressAt_ = e->pos();
    before_.clear();
    for (const auto& chosen : selectionModel()->selectedIndexes())
        before_[MatrixModel::crossing(chosen)] = std::max(model_->level(chosen), softest);
}

void MatrixTable::mouseMoveEvent(QMouseEvent* e) {
    if (!pressed_)
        return QTableView::mouseMoveEvent(e);
    if (!dragging_ && std::abs(e->pos().y() - pressAt_.y()) < 4)
        return;
    std::map<std::string, double> values;
    for (const auto& [param, level] : before_) {
        const double wanted = level + (pressAt_.y() - e->pos().y()) * 0.25 / px(1);
        values[param] = wanted < softest ? off : std::round(std::min(wanted, 12.0) * 10) / 10;
    }
    setAll(values, QString("Level of %1 crossings").arg(values.size()), dragging_);
    dragging_ = true;
}

void MatrixTable::mouseReleaseEvent(QMouseEvent* e) {
    if (pressed_ && !dragging_) { // a plain press: this crossing alone
        setCurrentIndex(indexAt(e->pos()));
    } else if (!pressed_) {
        QTableView::mouseReleaseEvent(e);
    }
    pressed_ = dragging_ = false;
    session_.endDrag();
}

} // namespace loom::app
