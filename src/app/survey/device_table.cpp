#include "app/survey/device_table.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include <algorithm>

namespace loom::app {

DeviceTableModel::DeviceTableModel(SurveyState& state) : state_(state) {
    refresh();
}

void DeviceTableModel::refresh() {
    std::vector<std::string> now;
    const auto* b = state_.building();
    const auto space = b ? project::spaceOf(*b, state_.wallState(), state_.room()) : project::Space{};
    for (const auto& d : state_.session().project().devices)
        if (space.has(d.room) || (d.room == state_.room() && !d.room.empty()))
            now.push_back(d.id);
    for (const auto& d : state_.session().project().devices) // what stands in racks serves all rooms
        if (!d.place.rack.empty() && std::find(now.begin(), now.end(), d.id) == now.end())
            now.push_back(d.id);
    if (now != rows_) {
        beginResetModel();
        rows_ = std::move(now);
        endResetModel();
    } else if (!rows_.empty())
        emit dataChanged(index(0, 0), index(rowCount() - 1, columns - 1));
}

void DeviceTableModel::setFindings(const std::vector<project::Finding>& found) {
    errors_.clear();
    for (const auto& f : found)
        if (f.stage() == "Survey" && !f.dismissed() && f.block.empty())
            errors_.emplace(f.device, q(f.reason));
    if (!rows_.empty())
        emit dataChanged(index(0, 0), index(rowCount() - 1, columns - 1));
}

const project::Device* DeviceTableModel::device(const QModelIndex& at) const {
    return at.isValid() && at.row() < rowCount() ? state_.session().project().device(id(at.row())) : nullptr;
}

QString DeviceTableModel::errorOf(const std::string& id) const {
    const auto it = errors_.find(id);
    return it == errors_.end() ? QString() : it->second;
}

int DeviceTableModel::rowOf(const std::string& id) const {
    const auto it = std::find(rows_.begin(), rows_.end(), id);
    return it == rows_.end() ? -1 : static_cast<int>(it - rows_.begin());
}

QVariant DeviceTableModel::data(const QModelIndex& at, int role) const {
    const auto* d = device(at);
    if (!d)
        return {};
    const QString error = errorOf(d->id);
    if (role == Qt::BackgroundRole && !error.isEmpty())
        return tokens().faultTint;
    if (role == Qt::ToolTipRole)
        return error.isEmpty() ? q(d->notes) : error;
    if (role == Qt::FontRole && (at.column() == position || at.column() == address))
        return Theme::get().number(11);
    if (role != Qt::DisplayRole && role != Qt::EditRole)
        return {};
    const auto* m = d->spec();
    const auto* r = state_.session().project().room(d->room);
    switch (at.column()) {
    case name:
        return q(d->name);
    case model:
        return q(m ? m->name : d->model);
    case use:
        return q(!d->use.empty() ? d->use : m ? m->use : "");
    case position:
        if (!d->place.rack.empty())
            return QString("%1, unit %2").arg(q(d->place.rack)).arg(d->place.unit);
        return d->place.placed ? QString("%1, %2, %3")
                                     .arg(d->place.x, 0, 'f', 2)
                                     .arg(d->place.y, 0, 'f', 2)
                                     .arg(d->place.z, 0, 'f', 2)
                               : QString("not placed");
    case address:
        return q(d->address);
    case room:
        return r ? q(r->name) : QString("all rooms");
    case lamps:
        return d->lampLive.empty() && d->lampMuted.empty() ? QString() : q(d->lampLive + " / " + d->lampMuted);
    case asset:
        return q(d->assetNumber);
    case status:
        if (const auto& on = state_.session().health(); error.isEmpty() && on.count(d->id))
            return q(on.at(d->id).word + ": " + on.at(d->id).reason);
        return !error.isEmpty() ? error : d->serial.empty() ? QString("planned") : QString("paired");
    default:
        return {};
    }
}

QVariant DeviceTableModel::headerData(int section, Qt::Orientation o, int role) const {
    static const char* const names[] = {
        "Name", "Model", "Use", "Position x, y, z", "Address", "Belongs to", "Lamp: live / muted", "Asset", "State"};
    if (role == Qt::DisplayRole && o == Qt::Horizontal)
        return QString(names[section]);
    return {};
}

Qt::ItemFlags DeviceTableModel::flags(const QModelIndex& at) const {
    auto f = Qt::ItemIsSelectable | Qt::ItemIsEnabled;
    const int c = at.column();
    const auto* d = device(at);
    const bool racked = d && !d->place.rack.empty();
    if (c == name || c == use || c == address || c == lamps || c == asset || (c == position && !racked))
        f |= Qt::ItemIsEditable;
    return f;
}

bool DeviceTableModel::setData(const QModelIndex& at, const QVariant& value, int role) {
    const auto* d = device(at);
    if (!d || role != Qt::EditRole || value == data(at, Qt::EditRole))
        return false;
    const auto& p = state_.session().project();
    const std::string key = "device:" + d->id, text = value.toString().trimmed().toStdString();
    static const std::map<int, std::string> fields{
        {name, "name"}, {use, "use"}, {address, "address"}, {asset, "assetNumber"}};
    Result<project::Edit> edit = project::Edit{};
    if (const auto it = fields.find(at.column()); it != fields.end())
        edit = project::setField(p, {key}, it->second, text);
    else if (at.column() == position) {
        const auto numbers = typedNumbers(text);
        project::Place place = d->place;
        double* const into[] = {&place.x, &place.y, &place.z};
        const bool good = numbers && (numbers->size() == 2 || numbers->size() == 3);
        for (std::size_t i = 0; good && i < numbers->size(); ++i)
            *into[i] = (*numbers)[i];
        if (!good)
            return state_.session().report("A position is x, y, z in metres, such as 4.1, 5, 3.05."), false;
        edit = project::placeDevices({{d->id, place}}, "Move " + d->name);
    } else if (at.column() == lamps) {
        project::Device now = *d;
        const QString all = value.toString();
        now.lampLive = all.section('/', 0, 0).trimmed().left(20).toStdString();
        now.lampMuted = all.section('/', 1, 1).trimmed().left(20).toStdString();
        edit = project::setDevices({{d->id, now}}, "Lamp of " + d->name);
    }
    if (!edit)
        return state_.session().report(edit.error()), false;
    return state_.run(std::move(*edit));
}

DeviceTable::DeviceTable(SurveyState& state, QWidget* parent) : TypedTable(parent), state_(state), model_(state) {
    setObjectName("deviceTable");
    setAccessibleName("Devices of the room");
    setModel(&model_);
    const auto size = [this] { dress(22, {140, 84, 76, 134, 92, 92, 108, 50, 84}); };
    size();
    connect(&Theme::get(), &Theme::changed, this, size);
    connect(&state, &SurveyState::changed, this, [this] {
        model_.refresh();
        followChoice();
    });
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (following_)
            return;
        std::vector<std::string> keys;
        for (const auto& at : selectionModel()->selectedRows())
            keys.push_back("device:" + model_.id(at.row()));
        following_ = true;
        state_.choose(keys);
        following_ = false;
    });
}

void DeviceTable::followChoice() {
    if (following_)
        return;
    following_ = true;
    QItemSelection rows;
    int first = -1;
    for (const auto& key : state_.chosen())
        if (key.rfind("device:", 0) == 0)
            if (const int row = model_.rowOf(key.substr(7)); row >= 0) {
                rows.select(model_.index(row, 0), model_.index(row, DeviceTableModel::columns - 1));
                first = first < 0 ? row : first;
            }
    selectionModel()->select(rows, QItemSelectionModel::ClearAndSelect);
    if (first >= 0)
        scrollTo(model_.index(first, 0));
    following_ = false;
}

} // namespace loom::app
