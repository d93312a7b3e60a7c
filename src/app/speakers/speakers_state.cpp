#include "app/speakers/speakers_state.h"
#include "app/text.h"
#include "engine/block_kind.h"
#include <algorithm>
#include <set>

namespace loom::app {

SpeakersState::SpeakersState(Session& session)
    : session_(session), work_([this](project::RoomDrives drives) {
          drives_ = std::move(drives);
          outputs_.reset();
          emit changed();
      }) {
    connect(&session, &Session::changed, this, [this](const project::Change& c) {
        drivesStale_ =
            drivesStale_ || (c.kind != project::Change::Kind::value && c.kind != project::Change::Kind::program);
        refresh();
    });
    refresh();
}

void SpeakersState::refresh() {
    curves_.reset();
    outputs_.reset();
    if (!voicing())
        voicing_ = project().voicings.empty() ? std::string() : project().voicings.front().id;
    emit changed();
}

void SpeakersState::choose(const std::string& voicing) {
    if (voicing == voicing_ || !project().voicing(voicing))
        return;
    voicing_ = voicing;
    curves_.reset();
    emit changed();
}

const project::VoicingCurves& SpeakersState::curves() {
    if (!curves_)
        curves_ = voicing() ? project::curvesOf(project(), *voicing(), project::curveFrequencies())
                            : project::VoicingCurves{};
    return *curves_;
}

const std::vector<project::OutputFigures>& SpeakersState::outputs() {
    if (!outputs_)
        outputs_ = project::outputFigures(project(), drives_);
    if (drivesStale_) { // levels at the seats take a while
        drivesStale_ = false;
        work_.start([copy = project()](std::stop_token stop) { return project::drivesOf(copy, stop); });
    }
    return *outputs_;
}

void SpeakersState::chooseOutput(int row) {
    if (row_ == row)
        return;
    row_ = row;
    emit changed();
}

bool SpeakersState::run(Result<project::Project> then, const QString& text, bool merge) {
    if (!then) {
        session_.report(then.error());
        return false;
    }
    std::vector<project::Edit> edits;
    for (const auto& [name, asset] : then->assets)
        if (!project().assets.count(name))
            edits.push_back(project::addAsset(name, asset));
    auto edit = project::editSpeakers(project(), std::move(*then), text.toStdString(), merge);
    if (edits.empty())
        return !edit || session_.edit(std::move(edit));
    if (edit)
        edits.push_back(std::move(edit));
    return session_.edit(project::together(std::move(edits), text.toStdString()));
}

bool SpeakersState::setPart(const std::string& part, const std::map<std::string, double>& values, const QString& text,
                            bool merge) {
    if (!voicing())
        return false;
    auto next = *voicing();
    auto* block = project::partOf(next, part);
    if (!block)
        return false;
    for (const auto& [param, value] : values)
        engine::enterValue(*block, param, value);
    return run(project::withVoicing(project(), next), text, merge);
}

bool SpeakersState::setField(int way, const std::string& field, const std::string& value) {
    if (!voicing())
        return false;
    auto next = *voicing();
    if (const auto wrong = project::setField(next, way, field, value)) {
        session_.report(*wrong);
        return false;
    }
    return run(project::withVoicing(project(), next), "Set " + q(next.name) + ": " + q(field));
}

QString SpeakersState::reachText() const {
    const auto all = project::reachOf(project(), voicing_);
    if (all.empty())
        return "No loudspeaker has it yet.";
    std::set<std::string> rooms;
    for (const auto& id : all)
        if (const auto* r = project().room(project().device(id)->room))
            rooms.insert(r->name);
    QStringList names;
    for (const auto& r : rooms)
        names << q(r);
    return QString("A change reaches %1 %2%3.")
        .arg(all.size())
        .arg(all.size() == 1 ? "loudspeaker" : "loudspeakers")
        .arg(names.isEmpty() ? QString() : " in " + names.join(", "));
}

} // namespace loom::app
