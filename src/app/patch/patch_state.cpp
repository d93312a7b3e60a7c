#include "app/patch/patch_state.h"
#include "app/text.h"
#include <algorithm>

namespace loom::app {

using namespace project;

PatchState::PatchState(Session& session) : session_(session) {
    connect(&session, &Session::changed, this, [this](const Change& change) {
        if (change.kind == Change::Kind::value && !wired_)
            return;
        forget();
        emit changed();
    });
    connect(&session, &Session::opened, this, [this] {
        rows_.clear();
        thread_.clear();
        taker_.clear();
        wire_.clear();
        cut_ = {};
        filter_ = {};
        forget();
    });
}

void PatchState::forget() {
    ways_.reset();
    effects_.reset();
    network_.reset();
    uses_.reset();
    board_.reset();
    cutWired_.reset();
    wired_.reset();
    patched_.reset();
    seen_.reset();
}

const Patched& PatchState::patched() {
    if (!patched_) {
        seen_ = std::make_shared<const Project>(session_.project());
        patched_ = patchedOf(*seen_);
    }
    return *patched_;
}

const Wired& PatchState::wired() {
    if (!wired_) {
        const auto& all = patched();
        wired_ = wiredOf(*seen_, all);
    }
    return *wired_;
}

const SoundWays& PatchState::ways() {
    if (!ways_) {
        const auto& now = cutWired();
        ways_.emplace(*seen_, patched(), now);
    }
    return *ways_;
}

const Wired& PatchState::cutWired() {
    if (cut_.none())
        return wired();
    if (!cutWired_) {
        const auto& all = patched();
        cutWired_ = wiredOf(*seen_, all, cut_);
    }
    return *cutWired_;
}

const Board& PatchState::board() {
    if (!board_) {
        const auto& ways = cutWired();
        board_ = boardOf(*seen_, patched(), ways, filter_);
    }
    return *board_;
}

const std::vector<TransportUse>& PatchState::uses() {
    if (!uses_) {
        const auto& ways = wired();
        uses_ = transportUses(*seen_, patched(), ways);
    }
    return *uses_;
}

const NetworkState& PatchState::network() {
    if (!network_) {
        const auto& ways = wired();
        network_ = networkState(*seen_, patched(), ways);
    }
    return *network_;
}

const std::vector<CutEffect>& PatchState::effects() {
    if (!effects_)
        effects_ = effectsOf(wired(), cutWired());
    return *effects_;
}

void PatchState::showTransport(std::optional<Transport> transport, const std::string& ring) {
    filter_.transport = transport;
    filter_.ring = ring;
    board_.reset();
    emit changed();
}

void PatchState::showRoom(const std::string& room) {
    filter_.rooms = room.empty() ? std::set<std::string>{} : std::set{room};
    board_.reset();
    emit changed();
}

bool PatchState::isChosen(const std::string& row) const {
    return std::find(rows_.begin(), rows_.end(), row) != rows_.end();
}

const Offer* PatchState::offer() {
    return rows_.empty() ? nullptr : patched().offer(rows_.back());
}

void PatchState::chooseRow(const std::string& key, bool more) {
    thread_.clear();
    taker_.clear();
    if (!more)
        rows_ = key.empty() ? std::vector<std::string>{} : std::vector{key};
    else if (const auto it = std::find(rows_.begin(), rows_.end(), key); it != rows_.end())
        rows_.erase(it);
    else
        rows_.push_back(key);
    emit chosen();
}

void PatchState::chooseThread(const BoardThread& t, const std::string& slot) {
    slot_ = slot;
    thread_ = t.receiver.empty() ? t.lead : t.receiver;
    taker_ = endOf(thread_).first;
    rows_.clear();
    if (t.from >= 0)
        rows_ = {board().offers[static_cast<std::size_t>(t.from)].rows[static_cast<std::size_t>(t.row)].key};
    emit chosen();
}

void PatchState::chooseTaker(const std::string& device) {
    taker_ = device;
    thread_.clear();
    rows_.clear();
    emit chosen();
}

std::optional<PatchState::Port> PatchState::port() {
    if (const auto* h = thread_.empty() ? nullptr : patched().hearing(thread_)) {
        for (const auto& input : h->receiver->inputs)
            if (!input.empty() && (slot_.empty() || input == slot_))
                return Port{h->device->id, input, true};
        return {};
    }
    if (!thread_.empty()) {
        const auto [device, input] = endOf(thread_);
        return Port{device, input, true};
    }
    if (const auto* o = offer(); o && !o->stream->ports.empty())
        return Port{o->device->id, o->stream->ports.front(), false};
    if (rows_.empty())
        return {};
    const auto [device, output] = endOf(rows_.back());
    return Port{device, output, false};
}

bool PatchState::choosePort(const Port& port) {
    for (const auto& t : board().threads) {
        const auto* h = patched().hearing(t.receiver);
        const bool here = h ? h->device->id == port.device &&
                                  std::find(h->receiver->inputs.begin(), h->receiver->inputs.end(), port.port) !=
                                      h->receiver->inputs.end()
                            : t.lead == port.device + "/" + port.port;
        if (port.input && here)
            return chooseThread(t, port.port), true;
    }
    for (const auto& d : board().offers)
        for (const auto& row : d.rows)
            if (!port.input && project().devices[static_cast<std::size_t>(d.device)].id == port.device &&
                std::find(row.ports.begin(), row.ports.end(), port.port) != row.ports.end())
                return chooseRow(std::string(row.key)), true;
    return false;
}

void PatchState::chooseWire(const std::string& id) {
    wire_ = id;
    emit chosen();
}

void PatchState::toggleCut(const std::string& wire, const std::string& device) {
    auto& all = wire.empty() ? cut_.devices : cut_.wires;
    const auto& id = wire.empty() ? device : wire;
    if (!all.erase(id))
        all.insert(id);
    ways_.reset();
    cutWired_.reset();
    effects_.reset();
    board_.reset();
    emit changed();
}

void PatchState::mend() {
    cut_ = {};
    ways_.reset();
    cutWired_.reset();
    effects_.reset();
    board_.reset();
    emit changed();
}

// ---- changes ----

bool PatchState::run(Result<Edit> edit) {
    if (!edit) {
        session_.report(edit.error());
        return false;
    }
    return session_.edit(std::move(*edit));
}

bool PatchState::drop() {
    if (thread_.empty())
        return false;
    const auto& all = patched();
    const bool done =
        all.hearing(thread_) ? run(dropReceivers(project(), {thread_})) : run(lead(project(), "", thread_));
    if (done) {
        thread_.clear();
        emit chosen();
    }
    return done;
}

bool PatchState::dropAll() {
    return run(dropReceivers(project(), receiversOfStreams(project(), rows_)));
}

bool PatchState::withdraw() {
    const bool done = run(withdrawAll(project(), rows_));
    if (done)
        chooseRow("");
    return done;
}

bool PatchState::send(const std::string& device, const std::string& slot) {
    return run(sendTo(project(), rows_, device, slot));
}

bool PatchState::sendAll(const std::string& from, const std::string& to) {
    return run(hearAllOf(project(), from, to));
}

bool PatchState::sendChannel(const std::string& row, int channel, const std::string& device, const std::string& slot) {
    return run(hearChannel(project(), row, channel, device, slot));
}

bool PatchState::phrase(const QString& text) {
    return run(sendPhrase(project(), rows_, text.toStdString()));
}

bool PatchState::align() {
    return !rows_.empty() && run(alignReceivers(project(), rows_.back()));
}

} // namespace loom::app
