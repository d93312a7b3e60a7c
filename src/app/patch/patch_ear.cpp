#include "app/patch/patch_ear.h"
#include "app/text.h"
#include "client/fleet.h"
#include "program/ports.h"
#include <algorithm>

namespace loom::app {

using namespace project;

namespace {

constexpr int everyMs = 100, spectrumSize = 8192;

engine::End sideOf(const PatchEar::Place& place) {
    return place.input ? engine::End::arrives : engine::End::leaves;
}

} // namespace

PatchEar::PatchEar(Session& session) : session_(session) {
    connect(&timer_, &QTimer::timeout, this, &PatchEar::follow);
    timer_.start(everyMs);
    connect(&session, &Session::opened, this, &PatchEar::giveBack);
}

void PatchEar::tap() {
    auto* fleet = session_.fleet();
    if (fleet == fleet_)
        return;
    fleet_ = fleet;
    if (!fleet)
        return;
    auto& ear = fleet->ear();
    connect(&ear, &client::PortTap::came, this, [this](const std::vector<float>& samples) {
        out_.write({samples.data(), std::min(samples.size(), out_.room())});
    });
    connect(&ear, &client::PortTap::changed, this, [this, &ear] {
        if (ofBench_ || ear.place() == brought_)
            return;
        brought_ = ear.place();
        if (!brought_)
            out_.close();
        emit changed();
    });
    connect(&ear, &client::PortTap::said, &session_, [this](const QString& why) { session_.report(why); });
}

std::optional<engine::PortRef> PatchEar::onBench(const Place& place) const {
    const auto* d = session_.device();
    if (!session_.bench().running() || !d || d->id != place.device || !d->program)
        return {};
    const auto* b = endAt(*d->program, place.port, sideOf(place));
    return b ? std::optional(engine::PortRef{b->id, 0}) : std::nullopt;
}

bool PatchEar::knows() const {
    return (session_.fleet() && session_.fleet()->live()) || session_.bench().running();
}

std::optional<double> PatchEar::level(const Place& place) const {
    if (const auto at = onBench(place))
        return std::max(static_cast<double>(session_.bench().meter(*at).peakDb), silent);
    const auto* fleet = session_.fleet();
    const auto* m = fleet && fleet->live() ? std::as_const(*fleet).member(place.device) : nullptr;
    if (!m || !m->link.up())
        return {};
    const auto& ports = place.input ? m->heard : m->sent;
    if (const auto it = ports.find(place.port); it != ports.end())
        return it->second;
    if (const auto* b =
            m->config && m->config->program ? endAt(*m->config->program, place.port, sideOf(place)) : nullptr)
        if (const auto it = m->meters.find(b->id); it != m->meters.end())
            return it->second;
    return silent;
}

void PatchEar::bring(const Place& place) {
    tap();
    giveBack();
    const auto* m = fleet_ ? std::as_const(*fleet_).member(place.device) : nullptr;
    if (m && m->link.up()) {
        brought_ = place;
        if (!fleet_->bring(fleet_->ear(), place))
            return brought_.reset();
        if (const auto error = out_.open(48000); !error.isEmpty())
            session_.report("This computer has no audio output: what is brought is shown, not heard.");
    } else if (const auto at = onBench(place)) {
        if (const auto error = session_.bench().listen(at); !error.isEmpty())
            session_.report(error);
        brought_ = place;
        ofBench_ = true;
    } else {
        const auto* d = session_.project().device(place.device);
        return session_.report((d ? q(d->name) : q(place.device)) +
                               " is not there: pair it in Site, or let its program run on the bench (F5).");
    }
    emit changed();
}

void PatchEar::giveBack() {
    if (!brought_)
        return;
    if (ofBench_)
        (void)session_.bench().listen({});
    ofBench_ = false;
    brought_.reset();
    if (fleet_ && fleet_ == session_.fleet())
        fleet_->ear().end();
    out_.close();
    emit changed();
}

QString PatchEar::words() const {
    if (!brought_)
        return {};
    const auto* d = session_.project().device(brought_->device);
    return q((d ? d->name : brought_->device) + " \u00b7 " + brought_->port);
}

void PatchEar::look(const std::optional<Place>& place) {
    if (looked_ == place)
        return;
    looked_ = place;
    tap();
    if (!fleet_)
        return;
    const auto* m = place ? std::as_const(*fleet_).member(place->device) : nullptr;
    if (m && fleet_->live() && !onBench(*place))
        fleet_->bring(fleet_->eye(), *place, true);
    else
        fleet_->eye().end();
}

std::vector<double> PatchEar::spectrum() {
    if (!looked_)
        return {};
    if (const auto at = onBench(*looked_))
        return session_.bench().spectrum(*at);
    if (!fleet_ || fleet_->eye().place() != looked_)
        return {};
    const auto sound = fleet_->eye().latest();
    if (sound.size() < spectrumSize / 2)
        return {};
    if (!analyser_ || rate_ != fleet_->eye().rate()) {
        rate_ = fleet_->eye().rate();
        analyser_ = std::make_unique<dsp::ThirdOctaveSpectrum>(rate_, spectrumSize);
    }
    return analyser_->measure(sound);
}

void PatchEar::follow() {
    if (ofBench_ && !session_.bench().running()) { // it was stopped
        ofBench_ = false;
        brought_.reset();
        emit changed();
    }
    if (knows() || brought_)
        emit levels();
}

} // namespace loom::app
