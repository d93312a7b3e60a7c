#include "app/rules/scene_table.h"
#include "app/text.h"
#include "rules/scenes.h"
#include <QKeyEvent>

namespace loom::app {

using namespace project;

SceneModel::SceneModel(RulesState& state, QObject* parent) : QAbstractTableModel(parent), state_(state) {
    refresh();
}

void SceneModel::refresh() {
    beginResetModel();
    rows_.clear(), scenes_.clear();
    std::set<std::string> paths;
    for (const auto* s : state_.scenes()) {
        scenes_.push_back(*s);
        for (const auto& [path, _] : s->values)
            paths.insert(path);
    }
    for (const auto& path : paths) {
        Row r;
        r.path = path;
        r.signal = signalOf(state_.project(), path);
        r.now = state_.rehearsal() ? state_.rehearsal()->value(path)
                : r.signal         ? restingValue(state_.project(), *r.signal)
                                   : std::nullopt;
        rows_.push_back(std::move(r));
    }
    endResetModel();
}

std::string SceneModel::sceneAt(int column) const {
    return column < 1 || static_cast<std::size_t>(column) > scenes_.size()
               ? ""
               : scenes_[static_cast<std::size_t>(column) - 1].id;
}

std::string SceneModel::pathAt(int row) const {
    return row < 0 || static_cast<std::size_t>(row) >= rows_.size() ? "" : rows_[static_cast<std::size_t>(row)].path;
}

QVariant SceneModel::headerData(int section, Qt::Orientation way, int role) const {
    if (way != Qt::Horizontal || role != Qt::DisplayRole)
        return {};
    return section == 0 ? QString("Parameter") : q(scenes_[static_cast<std::size_t>(section) - 1].name);
}

QVariant SceneModel::data(const QModelIndex& at, int role) const {
    const auto& r = rows_[static_cast<std::size_t>(at.row())];
    if (at.column() == 0) {
        if (role == Qt::DisplayRole)
            return r.signal ? q(r.signal->label) : q(r.path);
        if (role == Qt::ToolTipRole)
            return q(r.path) + (r.signal && r.now ? ", now " + q(valueText(*r.signal, *r.now))
                                                  : QString(", is not there any more"));
        if (role == Qt::ForegroundRole && !r.signal)
            return tokens().fault;
        return {};
    }
    const auto& values = scenes_[static_cast<std::size_t>(at.column()) - 1].values;
    const auto it = values.find(r.path);
    const bool apart = it != values.end() && r.now && r.signal && std::abs(it->second - *r.now) > 1e-6;
    switch (role) {
    case Qt::DisplayRole:
    case Qt::EditRole:
        return it == values.end() ? (role == Qt::EditRole ? QString() : QString("\u2013"))
               : r.signal         ? q(valueText(*r.signal, it->second))
                                  : QString::number(it->second);
    case Qt::ForegroundRole:
        return apart ? tokens().threads[0] : it == values.end() ? tokens().ink3 : tokens().ink2;
    case Qt::FontRole:
        return Theme::get().number(11, apart);
    case Qt::TextAlignmentRole:
        return int(Qt::AlignRight | Qt::AlignVCenter);
    case Qt::ToolTipRole:
        return apart ? "differs from now, " + q(valueText(*r.signal, *r.now)) : QString();
    default:
        return {};
    }
}

bool SceneModel::setData(const QModelIndex& at, const QVariant& value, int role) {
    if (role != Qt::EditRole || at.column() == 0)
        return false;
    const auto& r = rows_[static_cast<std::size_t>(at.row())];
    const auto text = value.toString().trimmed().toStdString();
    if (text.empty() || !r.signal)
        return state_.edit(setSceneValue(state_.project(), sceneAt(at.column()), r.path, {}));
    const auto v = readSignalValue(*r.signal, text);
    if (!v) {
        state_.session().report(v.error());
        return false;
    }
    return state_.edit(setSceneValue(state_.project(), sceneAt(at.column()), r.path, *v));
}

Qt::ItemFlags SceneModel::flags(const QModelIndex& at) const {
    return at.column() == 0 ? Qt::ItemIsEnabled | Qt::ItemIsSelectable
                            : Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable;
}

SceneTable::SceneTable(RulesState& state, QWidget* parent)
    : TypedTable(parent), state_(state), model_(new SceneModel(state, this)) {
    setObjectName("sceneTable");
    setAccessibleName("Scenes against parameters");
    setModel(model_);
    setSelectionBehavior(QAbstractItemView::SelectItems);
    setSelectionMode(QAbstractItemView::SingleSelection);
    horizontalHeader()->setSectionsClickable(true);
    connect(horizontalHeader(), &QHeaderView::sectionClicked, this, [this](int column) {
        if (const auto id = model_->sceneAt(column); !id.empty())
            state_.chooseScene(id);
    });
    connect(selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& at) {
        if (const auto id = model_->sceneAt(at.column()); !id.empty() && (!state_.scene() || state_.scene()->id != id))
            state_.chooseScene(id);
    });
    connect(&state, &RulesState::changed, this, &SceneTable::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SceneTable::refresh);
    refresh();
}

void SceneTable::refresh() {
    if (state() == QAbstractItemView::EditingState)
        return;
    const auto row = currentIndex().row(), column = currentIndex().column();
    model_->refresh();
    dress(22, {});
    setFont(Theme::get().text(11));
    horizontalHeader()->setFont(Theme::get().text(11, true));
    for (int c = 0; c < model_->columnCount(); ++c)
        setColumnWidth(
            c, std::max(Theme::get().ipx(c == 0 ? 150 : 62), c == 0 ? 0 : horizontalHeader()->sectionSizeHint(c)));
    if (row >= 0)
        setCurrentIndex(
            model_->index(std::min(row, model_->rowCount() - 1), std::min(column, model_->columnCount() - 1)));
}

void SceneTable::leaveAlone() {
    const auto at = currentIndex();
    if (const auto id = model_->sceneAt(at.column()); !id.empty())
        state_.edit(setSceneValue(state_.project(), id, model_->pathAt(at.row()), {}));
}

void SceneTable::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace)
        return leaveAlone();
    TypedTable::keyPressEvent(e);
}

} // namespace loom::app
