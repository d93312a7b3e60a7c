#include "app/speakers/loads_table.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include <QRegularExpression>
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

const QRegularExpression numbered("^(.*\\S) (\\d{1,4})$"), // "Foyer ceiling 3"
    ranged("^(.*\\S) (\\d{1,4}) *[-\u2013] *(\\d{1,4})$"), // "Foyer ceiling 1-10"
    tapsOfAll("^(?:all)? *@ *([0-9.]+) *W?$", QRegularExpression::CaseInsensitiveOption);

const char* const wirings[] = {"parallel", "series", "70 V line", "100 V line"};

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
        if (const auto* m = project::findModel(d.model); m && m->amplifier)
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
    troubles_.clear();
    for (const auto& f : found)
        if (f.stage == "Speakers" && !f.left())
            troubles_.emplace(std::pair(f.device, f.block), q(f.reason + " " + f.remedy));
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

// Numbered ones in a row, all alike, are told by their ends: "Foyer ceiling 1-10 @ 6 W".
QString LoadsModel::loadsText(const project::AmplifierOutput& out) const {
    struct Said {
        QString stem, rest;
        int first = 0, last = 0; // numbers; 0: none
    };
    std::vector<Said> all;
    for (const auto& l : out.loads) {
        const auto* d = state_.project().device(l.device);
        const auto* v = d ? state_.project().voicing(d->voicing) : nullptr;
        Said said{d ? q(d->name) : q(l.device), {}};
        if (v && v->ways.size() > 1 && l.way < static_cast<int>(v->ways.size()))
            said.rest += ": " + q(v->ways[static_cast<std::size_t>(l.way)].name);
        else if (l.way > 0)
            said.rest += QString(": %1").arg(l.way + 1);
        if (out.line() && l.tapWatts > 0)
            said.rest += QString(" @ %1 W").arg(l.tapWatts);
        if (const auto m = numbered.match(said.stem); m.hasMatch())
            said.stem = m.captured(1), said.first = said.last = m.captured(2).toInt();
        if (!all.empty() && said.first > 0 && all.back().stem == said.stem && all.back().rest == said.rest &&
            all.back().last + 1 == said.first)
            all.back().last = said.first;
        else
            all.push_back(said);
    }
    QStringList texts;
    for (const auto& one : all)
        texts << one.stem +
                     (one.first == 0          ? QString()
                      : one.first == one.last ? QString(" %1").arg(one.first)
                                              : QString(" %1\u2013%2").arg(one.first).arg(one.last)) +
                     one.rest;
    return texts.join(", ");
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
        return loadsText(out);
    case voicing:
        return f && !f->voicing.empty() ? q(f->voicing) + (f->way.empty() ? QString() : " \u00b7 " + q(f->way))
                                        : QString();
    case wiring:
        return hung ? QString(wirings[static_cast<int>(out.wiring)]) : QString();
    case feed: {
        const auto it = d->feeds.find(inputOf(row));
        if (it == d->feeds.end())
            return {};
        const auto slash = it->second.find('/');
        const auto* from = state_.project().device(it->second.substr(0, slash));
        return from ? q(from->name) + " / " + q(it->second.substr(slash + 1)) : q(it->second);
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
    const auto trouble = troubles_.find({row.amplifier, row.port});
    if (role == Qt::BackgroundRole && trouble != troubles_.end())
        return tokens().faultTint;
    if (role == Qt::ToolTipRole) {
        if (trouble != troubles_.end())
            return trouble->second;
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
                                       "Loudspeakers, parted by commas; \"Foyer ceiling 1-10\" for many, \"name: "
                                       "High\" for one way, \"name @ 6 W\" for a tap, \"@ 6 W\" for the taps of all",
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

Result<std::vector<project::HangsOn>> LoadsModel::readLoads(const QString& text) const {
    std::vector<project::HangsOn> all;
    for (const QString& part : text.split(',', Qt::SkipEmptyParts)) {
        project::HangsOn h;
        QString name = part.section('@', 0, 0).trimmed();
        bool good = true;
        if (part.contains('@')) {
            const std::string tap =
                part.section('@', 1, 1).remove(QChar('W'), Qt::CaseInsensitive).trimmed().toStdString();
            const auto typed = typedNumber(tap);
            good = !typed.unsure && typed.length > 0 && typed.length == tap.size();
            h.tapWatts = typed.value;
        }
        if (!good || !(h.tapWatts >= 0 && h.tapWatts <= 10000))
            return Trouble{"\"" + part.trimmed().left(60).toStdString() + "\" has no tap in watts", "Hangs on it",
                           "Write name @ 6 W."};
        const QString way = name.contains(':') ? name.section(':', -1).trimmed() : QString();
        name = name.section(':', 0, way.isEmpty() ? -1 : -2).trimmed();
        QStringList names{name};
        if (const auto m = ranged.match(name); m.hasMatch() && m.captured(2).toInt() < m.captured(3).toInt()) {
            names.clear();
            for (int n = m.captured(2).toInt(); n <= m.captured(3).toInt(); ++n)
                names << QString("%1 %2").arg(m.captured(1)).arg(n);
        }
        for (const auto& one : names) {
            const project::Device* found = nullptr;
            for (const auto& d : state_.project().devices)
                if (const auto* m = project::findModel(d.model); m && m->loudspeaker)
                    if (q(d.name).compare(one, Qt::CaseInsensitive) == 0 || q(d.id) == one)
                        found = &d;
            if (!found)
                return Trouble{"there is no loudspeaker \"" + one.left(60).toStdString() + "\"", "Hangs on it",
                               "Write names as in Survey, parted by commas; Foyer ceiling 1-10 means ten."};
            h.device = found->id;
            if (!way.isEmpty()) {
                const auto* v = state_.project().voicing(found->voicing);
                h.way = way.toInt() - 1;
                for (std::size_t w = 0; v && w < v->ways.size(); ++w)
                    if (q(v->ways[w].name).compare(way, Qt::CaseInsensitive) == 0)
                        h.way = static_cast<int>(w);
                if (h.way < 0 || h.way >= static_cast<int>(v ? v->ways.size() : project::mostWays))
                    return Trouble{"\"" + one.toStdString() + "\" has no way \"" + way.left(40).toStdString() + "\"",
                                   "Hangs on it", "Write a way of its voicing, such as Low or High."};
            }
            all.push_back(h);
        }
    }
    return all;
}

bool LoadsModel::setData(const QModelIndex& at, const QVariant& value, int role) {
    if (role != Qt::EditRole || !at.isValid() || value == data(at, Qt::EditRole))
        return false;
    const auto row = rows_[static_cast<std::size_t>(at.row())];
    const QString text = value.toString().trimmed();
    auto out = outputOf(row);
    const auto refuse = [&](const Trouble& trouble) { return state_.session().report(trouble), false; };
    if (at.column() == feed) {
        QString from = text;
        for (const auto& d : state_.project().devices) // the name as it is shown
            if (from.startsWith(q(d.name) + " / "))
                from = q(d.id) + "/" + from.mid(q(d.name).size() + 3);
        return state_.run(project::fed(state_.project(), row.amplifier, inputOf(row), from.toStdString()),
                          "Feed an amplifier");
    }
    if (const auto taps = tapsOfAll.match(text); at.column() == hangs && taps.hasMatch() && !out.loads.empty()) {
        const double tap = typedNumber(taps.captured(1).toStdString()).value;
        for (auto& l : out.loads)
            l.tapWatts = tap;
        out.wiring = out.line() ? out.wiring : project::Wiring::line100;
    } else if (at.column() == hangs) {
        auto loads = readLoads(text);
        if (!loads)
            return refuse(loads.trouble());
        out.loads = std::move(*loads);
        if (!out.line() &&
            std::any_of(out.loads.begin(), out.loads.end(), [](const auto& l) { return l.tapWatts > 0; }))
            out.wiring = project::Wiring::line100; // a tap is for a line
    } else if (at.column() == wiring) {
        int found = -1;
        for (int i = 0; i < 4; ++i)
            if (QString(wirings[i]).startsWith(text, Qt::CaseInsensitive) ||
                (i >= 2 && text.startsWith(QString(wirings[i]).section(' ', 0, 0))))
                found = i;
        if (found < 0 || text.isEmpty())
            return refuse(Trouble{"\"" + text.left(40).toStdString() + "\" is no wiring", "Wiring",
                                  "Write parallel, series, 70 V line or 100 V line."});
        out.wiring = static_cast<project::Wiring>(found);
    } else {
        project::Field field{"",
                             at.column() == metres ? "Cable" : "Cross-section",
                             at.column() == metres ? "m" : "mm\u00b2",
                             0,
                             at.column() == metres ? 0.0 : 0.05,
                             at.column() == metres ? 10000.0 : 100.0};
        const auto v = project::readNumber(field, text.section(',', 0, 0).toStdString());
        if (!v)
            return refuse(v.trouble());
        (at.column() == metres ? out.metres : out.mm2) = *v;
        if (at.column() == mm2 && text.contains(',')) { // "2.5 mm2, 40 C": a warm duct
            const auto warm = project::readNumber({"", "Temperature", "\u00b0C", 0, -50, 150},
                                                  text.section(',', 1).trimmed().toStdString());
            if (!warm)
                return refuse(warm.trouble());
            out.celsius = *warm;
        }
    }
    return state_.run(project::hung(state_.project(), row.amplifier, row.port, out),
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
