#include "app/speakers/loads_table.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "voicings/load_text.h"
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

QString number(double v, int digits, const char* unit) {
    return QString("%1 %2").arg(v, 0, 'f', digits).arg(unit).replace('-', QChar(0x2212));
}

} // namespace

LoadsModel::LoadsModel(SpeakersState& state) : state_(state) {
    connect(&state, &SpeakersState::changed, this, &LoadsModel::refresh);
    refresh();
}

void LoadsModel::refresh() {
    std::vector<Row> now;
    for (const auto& d : state_.project().devices)
        if (const auto* m = d.spec(); m && m->amplifier)
            for (const auto& port : m->ports(false))
                now.push_back({d.id, port});
    if (now != rows_) {
        beginResetModel();
        rows_ = std::move(now);
        endResetModel();
    } else if (!rows_.empty())
        emit dataChanged(index(0, 0), index(rowCount() - 1, columns - 1));
}

void LoadsModel::setFindings(const std::vector<project::Finding>& found) {
    errors_.clear();
    for (const auto& f : found)
        if (f.stage() == "Speakers" && !f.dismissed())
            errors_.emplace(std::pair(f.device, f.block), q(f.reason + " " + f.remedy));
    if (!rows_.empty())
        emit dataChanged(index(0, 0), index(rowCount() - 1, columns - 1));
}

int LoadsModel::rowOf(const std::string& amplifier, const std::string& port) const {
    const auto it = std::find(rows_.begin(), rows_.end(), Row{amplifier, port});
    return it == rows_.end() ? -1 : static_cast<int>(it - rows_.begin());
}

std::string LoadsModel::voicingOf(int row) const {
    if (row < 0 || row >= rowCount())
        return {};
    for (const auto& l : outputOf(rows_[static_cast<std::size_t>(row)]).loads)
        if (const auto* d = state_.project().device(l.device); d && !d->voicing.empty())
            return d->voicing;
    return {};
}

const project::OutputFigures* LoadsModel::figures(const Row& row) const {
    for (const auto& f : state_.outputs())
        if (f.amplifier == row.amplifier && f.port == row.port)
            return &f;
    return nullptr;
}

project::AmplifierOutput LoadsModel::outputOf(const Row& row) const {
    const auto* d = state_.project().device(row.amplifier);
    const auto it = d->outputs.find(row.port);
    return it == d->outputs.end() ? project::AmplifierOutput{} : it->second;
}

// Of the amplifier, whose sound comes to this output.
std::string LoadsModel::inputOf(const Row& row) const {
    const auto* f = figures(row);
    return f && !f->input.empty() ? f->input : "in" + row.port.substr(row.port.rfind(' '));
}

QString LoadsModel::textAt(const Row& row, int column) const {
    const auto* d = state_.project().device(row.amplifier);
    if (!d)
        return {};
    const auto out = outputOf(row);
    const auto* f = figures(row);
    const bool hung = !out.loads.empty();
    switch (column) {
    case output:
        return q(d->name) + " \u00b7 " + q(row.port);
    case hangs:
        return q(project::loadsText(state_.project(), out));
    case voicing:
        return f && !f->voicing.empty() ? q(f->voicing) + (f->way.empty() ? QString() : " \u00b7 " + q(f->way))
                                        : QString();
    case wiring:
        return hung ? q(project::wiringNames()[static_cast<std::size_t>(out.wiring)]) : QString();
    case feed: {
        const auto lead = d->feeds.find(inputOf(row)); // also of an output that nothing hangs on yet
        const std::string text = f && !f->from.empty() ? f->from : lead == d->feeds.end() ? "" : lead->second;
        const auto slash = text.find('/');
        const auto* from = state_.project().device(text.substr(0, slash));
        return from && slash != std::string::npos ? q(from->name) + " / " + q(text.substr(slash + 1)) : q(text);
    }
    default:
        break;
    }
    if (!hung || !f)
        return {};
    switch (column) {
    case load:
        return f->load.nominal > 1e6 ? QString("no taps")
                                     : number(f->load.nominal, f->load.nominal < 20 ? 1 : 0, "\u03a9");
    case metres:
        return number(out.metres, 0, "m");
    case mm2:
        return number(out.mm2, out.mm2 < 1 ? 2 : 1, "mm\u00b2") +
               (out.celsius == 20 ? QString() : number(out.celsius, 0, "\u00b0C").prepend(", "));
    case loss:
        return number(f->lossDb, 2, "dB");
    case damping:
        return f->damping > 9999 ? QString("\u2014") : QString::number(f->damping, 'f', 0);
    case amperes:
        return number(f->amperes, 1, "A");
    case watts:
        return out.line() ? QString("%1/%2 W").arg(f->tapWatts, 0, 'f', 0).arg(f->ampWatts, 0, 'f', 0)
                          : number(f->ampWatts, 0, "W");
    case peak:
        return f->limited ? number(f->protection->peak.volts, 1, "V") : QString("no limiter");
    case heat:
        return f->limited ? number(f->protection->thermal.volts, 1, "V") : QString("no limiter");
    case each:
        return number(f->most, f->most < 10 ? 1 : 0, "W");
    case headroom:
        return f->needed > 0 ? (f->headroomDb >= 0 ? "+" : "") + number(f->headroomDb, 1, "dB") : QString();
    case seats:
        return f->needed > 0 ? number(f->seatDb, 0, "dB") : QString();
    default:
        return {};
    }
}

QVariant LoadsModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || at.row() >= rowCount())
        return {};
    const auto& row = rows_[static_cast<std::size_t>(at.row())];
    if (role == Qt::DisplayRole || role == Qt::EditRole)
        return textAt(row, at.column());
    const auto error = errors_.find({row.amplifier, row.port});
    if (role == Qt::BackgroundRole && error != errors_.end())
        return tokens().faultTint;
    if (role == Qt::ToolTipRole) {
        if (error != errors_.end())
            return error->second;
        const auto* f = figures(row);
        if (f && f->limited && (at.column() == peak || at.column() == heat)) {
            const auto& l = at.column() == peak ? f->protection->peak : f->protection->thermal;
            return QString("%1\n%2 V at the output \u00b7 %3 dBu at the input \u00b7 %4 dBFS \u00b7 %5 W in each "
                           "driver%6\nRuns in %7.")
                .arg(q(l.reason))
                .arg(l.volts, 0, 'f', 1)
                .arg(l.dbu, 0, 'f', 1)
                .arg(l.dbfs, 0, 'f', 1)
                .arg(l.watts, 0, 'f', 0)
                .arg(at.column() == heat         ? QString(" \u00b7 %1 s").arg(f->protection->seconds, 0, 'f', 1)
                     : f->protection->clipsFirst ? QString("\nThe amplifier clips before it comes to this.")
                                                 : QString())
                .arg(q(f->runsIn));
        }
        return textAt(row, at.column());
    }
    if (role == Qt::FontRole && at.column() >= load)
        return Theme::get().number(11);
    if (role == Qt::ForegroundRole && at.column() == headroom)
        if (const auto* f = figures(row); f && f->needed > 0 && f->headroomDb < 0)
            return tokens().fault;
    return {};
}

QVariant LoadsModel::headerData(int section, Qt::Orientation o, int role) const {
    static const char* const names[] = {"Output", "Hangs on it", "Voicing", "Wiring",   "Fed by",  "Load",
                                        "Cable",  "of",          "Loss",    "Damp.",    "Current", "Gives",
                                        "Peaks",  "Heat",        "Each",    "Headroom", "At seats"};
    static const char* const tips[] = {"",
                                       ("Loudspeakers, parted by commas; \"Foyer ceiling 1-10\" for many, \"name: "
                                        "High\" for one way, \"name @ 6 W\" for a tap, \"@ 6 W\" for the taps of all"),
                                       "Follows from the loudspeakers",
                                       "parallel, series, 70 V line, 100 V line",
                                       "device / output whose sound comes to this amplifier's input",
                                       "Nominal impedance",
                                       "Length, one way",
                                       "Cross-section of a conductor; \"2.5, 40\" is at 40 \u00b0C",
                                       "Of level at the load, by the cable",
                                       "Damping factor: the load over cable and amplifier",
                                       "At the most it gives",
                                       "The amplifier into this load; on lines: the taps of what it has",
                                       "Peak limiter, volts at the output",
                                       "Thermal limiter, volts at the output",
                                       "Watts into each driver: what amplifier, cable and limiter leave",
                                       "Over what the room's target needs",
                                       "Level there with all of it, dB(A)"};
    if (o != Qt::Horizontal)
        return {};
    return role == Qt::DisplayRole   ? QVariant(QString(names[section]))
           : role == Qt::ToolTipRole ? QVariant(QString::fromUtf8(tips[section]))
                                     : QVariant();
}

Qt::ItemFlags LoadsModel::flags(const QModelIndex& at) const {
    auto f = Qt::ItemIsSelectable | Qt::ItemIsEnabled;
    const int c = at.column();
    const bool hung = at.isValid() && !outputOf(rows_[static_cast<std::size_t>(at.row())]).loads.empty();
    if (c == hangs || c == feed || (hung && (c == wiring || c == metres || c == mm2)))
        f |= Qt::ItemIsEditable;
    return f;
}

bool LoadsModel::setData(const QModelIndex& at, const QVariant& value, int role) {
    if (role != Qt::EditRole || !at.isValid() || value == data(at, Qt::EditRole))
        return false;
    const auto row = rows_[static_cast<std::size_t>(at.row())];
    const QString text = value.toString().trimmed();
    if (at.column() == feed) {
        QString from = text;
        for (const auto& d : state_.project().devices) // the name as it is shown
            if (from.startsWith(q(d.name) + " / "))
                from = q(d.id) + "/" + from.mid(q(d.name).size() + 3);
        return state_.run(project::fed(state_.project(), row.amplifier, inputOf(row), from.toStdString()),
                          "Feed an amplifier");
    }
    Result<project::AmplifierOutput> typed = outputOf(row);
    const std::string said = text.toStdString();
    if (at.column() == hangs)
        typed = project::withLoads(state_.project(), *typed, said);
    else if (at.column() == mm2)
        typed = project::withCrossSection(*typed, said);
    else if (at.column() == wiring) {
        if (const auto w = project::readWiring(said))
            typed->wiring = *w;
        else
            typed = w.error();
    } else if (const auto v = project::readNumber({"", "Cable", "m", 0, 0, 10000}, said))
        typed->metres = *v;
    else
        typed = v.error();
    if (!typed)
        return state_.session().report(typed.error()), false;
    return state_.run(project::hung(state_.project(), row.amplifier, row.port, *typed),
                      "Set " + q(row.port) + " of " + q(state_.project().device(row.amplifier)->name));
}

LoadsTable::LoadsTable(SpeakersState& state, QWidget* parent) : TypedTable(parent), model_(state) {
    setObjectName("loadsTable");
    setAccessibleName("Outputs of amplifiers and their loads");
    setModel(&model_);
    const auto size = [this] { dress(24, {138, 150, 84, 68, 92, 54, 44, 54, 56, 44, 50, 66, 60, 60, 50, 64, 62}); };
    size();
    connect(&Theme::get(), &Theme::changed, this, size);
    connect(selectionModel(), &QItemSelectionModel::currentRowChanged, this,
            [this, &state](const QModelIndex& now) { // the deck follows
                state.chooseOutput(now.row());
                if (const auto id = model_.voicingOf(now.row()); !id.empty())
                    state.choose(id);
            });
}

} // namespace loom::app
