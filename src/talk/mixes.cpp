#include "talk/mixes.h"
#include "dsp/number.h"
#include "engine/path_response.h"
#include "model/block_names.h"
#include "patch/patch_edit.h"
#include "patch/streams.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "talk/by_hand.h"
#include "talk/lane_way.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace {

using first::crossing;
using Cell = Mixes::Cell;
using Listener = Conversation::Listener;
constexpr double leastDb = -80, mostDb = 12;

// Looks at one program after another, each once.
class MixReader {
  public:
    MixReader(const Project& p, const SpaceOf& space) : p_(p), c_(conversationOf(p, space)), open_(space.walls()) {}

    Mixes read() {
        Mixes m;
        m.listeners = c_.listeners;
        for (const auto& one : c_.microphones)
            if (!one.source.empty())
                m.talkers.push_back({Mixes::Talker::Kind::microphone, one.input.device, one.source,
                                     nameAt(one.input.device, one.source), -1, one.role});
        for (std::size_t f = 0; f < c_.farEnds.size(); ++f)
            if (const auto& one = c_.farEnds[f]; !one.source.empty())
                m.talkers.push_back({Mixes::Talker::Kind::farEnd, one.device, one.source,
                                     nameAt(one.device, one.source), static_cast<int>(f), ""});
        others(m);
        m.cells.reserve(m.talkers.size() * m.listeners.size());
        for (const auto& t : m.talkers)
            for (const auto& l : m.listeners)
                m.cells.push_back(cell(t, l));
        return m;
    }

  private:
    const engine::Program& program(const std::string& device) const { return *p_.device(device)->program; }
    std::string nameAt(const std::string& device, const std::string& block) const {
        return blockName(program(device), *program(device).find(block));
    }

    // Whatever else a listener of the space is given: music, a player, the mix of another room.
    void others(Mixes& m) const {
        std::set<std::string> devices;
        for (const auto& l : m.listeners)
            devices.insert(l.device);
        for (const auto& id : devices)
            for (const auto& b : program(id).blocks) {
                if (engine::endOf(b) != engine::End::arrives || bringsTalkers(m, id, b) ||
                    std::any_of(m.talkers.begin(), m.talkers.end(),
                                [&](const auto& t) { return t.device == id && t.source == b.id; }))
                    continue;
                const Mixes::Talker t{Mixes::Talker::Kind::other, id, b.id, blockName(program(id), b), -1, ""};
                if (std::any_of(m.listeners.begin(), m.listeners.end(), [&](const auto& l) {
                        if (l.device != id)
                            return false;
                        const auto there = meeting(id, b.id, l);
                        return there.audible() && there.state != Cell::State::apart;
                    }))
                    m.talkers.push_back(t);
            }
    }

    // A source by which talkers of another processor come here: they have rows of their own.
    bool bringsTalkers(const Mixes& m, const std::string& device, const engine::Block& source) const {
        const auto port = source.texts.find("port");
        return port != source.texts.end() && std::any_of(streams().begin(), streams().end(), [&](const auto& way) {
                   return way.toDevice == device && way.toPort == port->second && way.fromDevice != device &&
                          std::any_of(m.talkers.begin(), m.talkers.end(),
                                      [&](const auto& t) { return t.device == way.fromDevice; });
               });
    }

    // Of a source on a matrix, or of a destination; each is looked for once.
    int portOn(bool input, const std::string& device, const engine::Block& matrix, const std::string& end) const {
        const auto [it, fresh] = ports_.try_emplace({input, device, matrix.id, end}, -1);
        if (fresh)
            it->second = input ? first::inputOn(program(device), matrix.id, end, wallsOf(matrix))
                               : first::outputOn(program(device), matrix.id, end);
        return it->second;
    }

    // In one processor: at the matrix mixer that both are on, or by threads.
    Cell meeting(const std::string& device, const std::string& source, const Listener& l) const {
        Cell cell;
        cell.device = device;
        const auto& p = program(device);
        const auto walls = wallsText(open_);
        for (const auto& b : p.blocks) {
            if (!engine::isMatrix(b) || (wallsOf(b) != walls && !(wallsOf(b).empty() && !hasOwn(p, walls))))
                continue;
            const int in = portOn(true, device, b, source), out = portOn(false, device, b, l.block);
            if (in < 0 || out < 0)
                continue;
            cell.block = b.id, cell.param = crossing(in, out);
            cell.db = first::valueOf(b, cell.param);
            cell.state = cell.db > closedCrossing ? Cell::State::open : Cell::State::closed;
            return cell;
        }
        const auto h = engine::pathResponse(atWalls(p, open_), {source, 0}, {l.block, 0}, {1000}, 48000);
        const double gain = h && !h->empty() ? std::abs(h->front()) : 0;
        if (gain > 1e-4) {
            cell.state = Cell::State::thread;
            cell.db = 20 * std::log10(gain);
        }
        return cell;
    }
    // Whether anything of a program is at work with these walls alone.
    static bool hasOwn(const engine::Program& p, const std::string& walls) {
        return !walls.empty() && std::any_of(p.blocks.begin(), p.blocks.end(),
                                             [&](const auto& b) { return engine::isMatrix(b) && wallsOf(b) == walls; });
    }

    Cell cell(const Mixes::Talker& t, const Listener& l) const {
        Cell cell;
        if (t.device == l.device)
            cell = meeting(t.device, t.source, l);
        else
            cell = overStream(t, l);
        if (t.farEnd >= 0 && t.farEnd == l.farEnd)
            cell.state = Cell::State::own;
        else if (cell.state == Cell::State::apart)
            cell.why = t.device == l.device ? t.name + " is not on the mixes of " + l.name + "."
                                            : t.name + " is at " + p_.device(t.device)->name + ", " + l.name + " at " +
                                                  p_.device(l.device)->name + "; no stream brings it there.";
        return cell;
    }

    // By a stream that carries this talker alone, or its mix, to the listener's processor.
    Cell overStream(const Mixes::Talker& t, const Listener& l) const {
        for (const auto& way : streams()) {
            if (way.fromDevice != t.device || way.toDevice != l.device)
                continue;
            const auto* leaves = endAt(program(t.device), way.fromPort, engine::End::leaves);
            const auto* comes = endAt(program(l.device), way.toPort, engine::End::arrives);
            if (!leaves || !comes)
                continue;
            const Listener there{Listener::Kind::other, t.device, leaves->id, way.fromPort, "", -1};
            if (const auto here = meeting(t.device, t.source, there);
                here.state == Cell::State::apart || !here.audible())
                continue;
            auto cell = meeting(l.device, comes->id, l);
            if (cell.state == Cell::State::apart)
                continue;
            cell.over = comes->id;
            return cell;
        }
        return {};
    }
    const std::vector<StreamThread>& streams() const {
        if (!streams_)
            streams_ = streamThreads(p_);
        return *streams_;
    }

    const Project& p_;
    Conversation c_;
    std::set<std::string> open_;
    mutable std::optional<std::vector<StreamThread>> streams_{};
    mutable std::map<std::tuple<bool, std::string, std::string, std::string>, int> ports_{};
};

// As loud as others of its kind are for this listener: the middle one.
double usualLevel(const Mixes& m, std::size_t talker, std::size_t listener) {
    std::vector<double> levels;
    for (std::size_t t = 0; t < m.talkers.size(); ++t)
        if (const auto& c = m.at(t, listener);
            m.talkers[t].kind == m.talkers[talker].kind && c.state == Cell::State::open)
            levels.push_back(c.db);
    if (levels.empty())
        return m.listeners[listener].kind == Listener::Kind::zone ? -6 : 0;
    std::nth_element(levels.begin(), levels.begin() + static_cast<std::ptrdiff_t>(levels.size() / 2), levels.end());
    return levels[levels.size() / 2];
}

template <class List> Result<std::size_t> said(const List& list, const std::string& text, const char* what) {
    std::optional<std::size_t> found;
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].name == text) {
            if (found)
                return Error{"two are called so", text, "Rename one in Weave."};
            found = i;
        }
    if (!found)
        return Error{std::string("there is no such ") + what, text, "loomctl mixes lists them."};
    return *found;
}

} // namespace

Mixes mixesOf(const Project& project, const SpaceOf& space) {
    return MixReader(project, space).read();
}

Result<Edit> setCrossing(const Project& project, const Mixes& m, std::size_t talker, std::size_t listener,
                         std::optional<double> db) {
    const auto& cell = m.at(talker, listener);
    const std::string what = m.talkers[talker].name + " in " + m.listeners[listener].name;
    const bool opens = db ? *db > closedCrossing : !cell.audible();
    if (cell.state == Cell::State::own && opens)
        return Error{"it would hear itself", what, "Its own sound is left out by itself."};
    if (cell.block.empty())
        return cell.state == Cell::State::thread
                   ? Error{"they meet at no matrix mixer", what, "Its way is drawn in Weave."}
                   : Error{"they do not meet", what, cell.why};
    const double to = db ? *db : opens ? usualLevel(m, talker, listener) : leastDb;
    if (!(to >= leastDb && to <= mostDb))
        return Error{"is outside the range of a crossing", what, "Use -80 to 12 dB."};
    const auto* d = project.device(cell.device);
    if (!d || !d->program || !d->program->find(cell.block))
        return Error{"is not there any more", what, ""};
    return setValues(cell.device, {{cell.block + "." + cell.param, to}},
                     to > closedCrossing ? what + ": " + fixedText(to, 1) + " dB" : what + " closed", db.has_value());
}

Result<Edit> bringTo(const Project& project, const Mixes& m, std::size_t talker, std::size_t listener) {
    const auto& t = m.talkers[talker];
    const auto& l = m.listeners[listener];
    const std::string what = t.name + " in " + l.name;
    if (m.at(talker, listener).state != Cell::State::apart)
        return Error{"it is there already", what, ""};
    const double level = usualLevel(m, talker, listener);
    const auto makes = [t, l, level, what](Project p) -> Result<Project> {
        std::string source = t.source;
        if (t.device != l.device) {
            const auto freeNet = [&](const std::string& device, bool leaves) -> std::string {
                const auto& d = *std::as_const(p).device(device);
                for (const auto& port : d.spec() ? d.spec()->ports(!leaves) : std::vector<std::string>{}) {
                    if (transportOf(port) != Transport::network)
                        continue;
                    bool used =
                        d.program && endAt(*d.program, port, leaves ? engine::End::leaves : engine::End::arrives);
                    for (const auto& s : d.streams)
                        used = used || (leaves && std::find(s.ports.begin(), s.ports.end(), port) != s.ports.end());
                    for (const auto& r : d.receivers)
                        used = used || (!leaves && std::find(r.inputs.begin(), r.inputs.end(), port) != r.inputs.end());
                    if (!used)
                        return port;
                }
                return "";
            };
            const auto out = freeNet(t.device, true), in = freeNet(l.device, false);
            if (out.empty() || in.empty())
                return Error{"no port of the network is left", what, "Free one in Patch."};
            auto* from = p.device(t.device);
            auto end = addBlock(*from->program, "destination", t.name + " for others", {{"port", out}});
            if (!end)
                return end.error();
            auto routed = routeAll(end->program, {t.source}, {end->block}, 0);
            if (!routed)
                return routed.error();
            from->program = std::move(*routed);
            auto* to = p.device(l.device);
            auto made = addBlock(*to->program, "source", t.name, {{"port", in}});
            if (!made)
                return made.error();
            to->program = std::move(made->program);
            source = made->block;
            auto then = joined(std::move(p), t.device + "/" + out, l.device + "/" + in);
            if (!then)
                return then.error();
            p = std::move(*then);
        }
        auto* d = p.device(l.device);
        auto routed = routeAll(*d->program, {source}, {l.block}, level);
        if (!routed)
            return routed.error();
        d->program = std::move(*routed);
        return p;
    };
    if (auto tried = makes(project); !tried)
        return tried.error();
    return Edit{"Bring " + t.name + " to " + l.name, makes};
}

Result<std::size_t> talkerSaid(const Mixes& m, const std::string& text) {
    return said(m.talkers, text, "talker");
}
Result<std::size_t> listenerSaid(const Mixes& m, const std::string& text) {
    return said(m.listeners, text, "listener");
}

} // namespace loom::project
