// Files that Speakers opens and writes: responses, impedance curves, taps, voicings, set-ups.
#include "app/speakers/loads_table.h"
#include "app/speakers/speakers_page.h"
#include "app/text.h"
#include "disk/safe_file.h"
#include "model/asset_name.h"
#include <QFileDialog>
#include <QFileInfo>

namespace loom::app {
namespace {

constexpr std::size_t mostFile = 16u << 20;

} // namespace

void SpeakersPage::openResponse(int way) {
    const QString file = QFileDialog::getOpenFileName(this, way < 0 ? "Open a target" : "Open a response", {},
                                                      "Responses (*.txt *.csv *.frd);;All files (*)");
    if (!file.isEmpty())
        readResponse(file, way);
}

bool SpeakersPage::readResponse(const QString& file, int way) {
    if (!state_.voicing())
        return false;
    const auto text = project::readWhole(file.toStdString(), loudspeaker::maxResponseBytes);
    if (!text)
        return state_.session().report(text.error()), false;
    std::string name = QFileInfo(file).fileName().toStdString();
    const auto read = loudspeaker::readResponse(*text, name);
    if (!read)
        return state_.session().report(read.error()), false;
    auto then = state_.project();
    const project::Asset bytes(std::vector<char>(text->begin(), text->end()));
    name = project::freeAssetName(then.assets, name, bytes);
    then.assets[name] = bytes;
    auto next = *state_.voicing();
    (way < 0 ? next.target : next.ways[static_cast<std::size_t>(way)].response) = name;
    return state_.run(project::withVoicing(std::move(then), next), way < 0 ? "Open a target" : "Open a response");
}

bool SpeakersPage::readImpedance(const QString& file, int way) {
    const auto text = project::readWhole(file.toStdString(), loudspeaker::maxResponseBytes);
    if (!text)
        return state_.session().report(text.error()), false;
    return state_.run(project::withImpedance(state_.project(), state_.voicingId(), static_cast<std::size_t>(way),
                                             QFileInfo(file).fileName().toStdString(), {text->begin(), text->end()}),
                      "Impedance curve " + QFileInfo(file).fileName());
}

bool SpeakersPage::readTaps(const QString& file, int way) {
    std::vector<char> bytes;
    if (!file.isEmpty()) {
        const auto text = project::readWhole(file.toStdString(), mostFile);
        if (!text)
            return state_.session().report(text.error()), false;
        bytes.assign(text->begin(), text->end());
    }
    return state_.run(project::withTaps(state_.project(), state_.voicingId(), static_cast<std::size_t>(way),
                                        QFileInfo(file).fileName().toStdString(), bytes),
                      file.isEmpty() ? QString("Take the FIR filter out") : "FIR filter " + QFileInfo(file).fileName());
}

std::vector<std::string> SpeakersPage::amplifiers() const {
    std::vector<std::string> all;
    for (const auto& d : state_.project().devices)
        if (const auto* m = d.spec(); m && m->amplifier && all.size() < project::mostSetups)
            all.push_back(d.id);
    return all;
}

std::string SpeakersPage::chosenAmplifier() const {
    const auto at = loads_->currentIndex();
    const auto all = amplifiers();
    for (const auto& id : all)
        for (const auto& port : state_.project().device(id)->spec()->ports(false))
            if (at.isValid() && loads_->rows().rowOf(id, port) == at.row())
                return id;
    return all.empty() ? std::string() : all.front();
}

bool SpeakersPage::takeFile(const project::VoicingFile& file, const QString& text) {
    std::vector<std::string> made;
    if (!state_.run(project::withVoicings(state_.project(), file, &made), text))
        return false;
    if (!made.empty())
        state_.choose(made.front());
    return true;
}

bool SpeakersPage::saveVoicings(const QString& file, const std::vector<std::string>& voicings) {
    const auto done = project::writeWhole(file.toStdString(), project::voicingText(state_.project(), voicings), false);
    if (!done)
        state_.session().report(done.error());
    return bool(done);
}

bool SpeakersPage::loadVoicings(const QString& file) {
    const auto text = project::readWhole(file.toStdString(), mostFile);
    const auto read =
        text ? project::readVoicings(*text, file.toStdString()) : Result<project::VoicingFile>(text.error());
    if (!read)
        return state_.session().report(read.error()), false;
    return takeFile(*read, "Recall voicings");
}

bool SpeakersPage::saveSetups(const QString& file, const std::vector<std::string>& which) {
    const auto done = project::writeWhole(file.toStdString(), project::setupText(state_.project(), which), false);
    if (!done)
        state_.session().report(done.error());
    return bool(done);
}

bool SpeakersPage::recallSetup(const QString& file, const std::string& amplifier) {
    const auto text = project::readWhole(file.toStdString(), mostFile);
    const auto read = text ? project::readSetups(*text, file.toStdString()) : Result<project::SetupFile>(text.error());
    if (!read)
        return state_.session().report(read.error()), false;
    if (!amplifier.empty())
        return state_.run(project::withSetup(state_.project(), amplifier, *read, 0), "Recall a set-up");
    std::vector<std::string> left;
    if (!state_.run(project::withSetups(state_.project(), *read, &left), "Recall set-ups"))
        return false;
    if (!left.empty())
        state_.session().report("No amplifier is called " + q(left.front()) +
                                (left.size() > 1 ? QString(", nor %1 others").arg(left.size() - 1) : QString()) + ".");
    return true;
}

void SpeakersPage::askScope(bool save, int scope) {
    const std::string amplifier = scope == 2 ? chosenAmplifier() : std::string();
    const bool voicings = scope == 1 || scope == 4;
    if ((voicings && save && !state_.voicing()) || (scope == 2 && amplifier.empty()))
        return state_.session().report(voicings ? "Choose a voicing first." : "There is no amplifier in this project.");
    const QString kinds = voicings ? "Voicings (*.json)" : "Set-ups of amplifiers (*.json)";
    const QString file = save ? QFileDialog::getSaveFileName(this, "Store", {}, kinds)
                              : QFileDialog::getOpenFileName(this, "Recall", {}, kinds);
    if (file.isEmpty())
        return;
    std::vector<std::string> ids{state_.voicingId()};
    if (scope == 4) {
        ids.clear();
        for (const auto& v : state_.project().voicings)
            ids.push_back(v.id);
    }
    if (voicings)
        save ? saveVoicings(file, ids) : loadVoicings(file);
    else
        save ? saveSetups(file, scope == 2 ? std::vector<std::string>{amplifier} : amplifiers())
             : recallSetup(file, amplifier);
}

} // namespace loom::app
