// Files that Speakers opens and writes: responses, impedance curves, taps, voicings, set-ups.
#include "app/speakers/curve_reader.h"
#include "app/speakers/loads_table.h"
#include "app/speakers/sheet_pdf.h"
#include "app/speakers/sheet_reader.h"
#include "app/speakers/speakers_page.h"
#include "app/text.h"
#include "disk/pdf_text.h"
#include "disk/safe_file.h"
#include "dsp/text.h"
#include "voicings/voicing_sheet.h"
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QMimeData>

namespace loom::app {
namespace {

constexpr std::size_t mostFile = 16u << 20;

} // namespace

void SpeakersPage::openResponse(int way) {
    const QString file =
        QFileDialog::getOpenFileName(this, way < 0 ? "Open a target" : "Open a response", {},
                                     "Responses (*.txt *.csv *.frd *.tsv *.dat *.wav *.flac);;All files (*)");
    if (!file.isEmpty())
        readCurve(file, way, false);
}

void SpeakersPage::openImpedance(int way) {
    const QString file = QFileDialog::getOpenFileName(this, "Open an impedance curve", {},
                                                      "Impedances (*.txt *.csv *.zma *.tsv *.dat);;All files (*)");
    if (!file.isEmpty())
        readCurve(file, way, true);
}

bool SpeakersPage::readCurve(const QString& file, int way, bool impedance) {
    const auto* v = state_.voicing();
    if (!v)
        return state_.session().report("Choose a voicing first, or make one: a curve belongs to one."), false;
    const auto bytes = project::readWhole(file.toStdString(), mostFile);
    if (!bytes)
        return state_.session().report(bytes.error()), false;
    using loudspeaker::CurveUse;
    std::vector<CurveReader::For> all;
    int chosen = 0;
    for (int w = 0; w < static_cast<int>(v->ways.size()); ++w)
        for (const bool ohms : {false, true}) {
            if (w == way && ohms == impedance)
                chosen = static_cast<int>(all.size());
            all.push_back({(ohms ? "Impedance of " : "Response of ") + q(v->ways[static_cast<std::size_t>(w)].name), w,
                           ohms ? CurveUse::impedance : CurveUse::response});
        }
    if (way < 0)
        chosen = static_cast<int>(all.size());
    all.push_back({"Target", -1, CurveUse::response});
    if (const auto wrong = curve_->open(*bytes, QFileInfo(file).fileName(), all, chosen))
        return state_.session().report(*wrong), false;
    showView(fileView);
    return true;
}

void SpeakersPage::takeCurve() {
    if (!curve_->ready())
        return;
    const auto& c = curve_->chosen();
    const std::string name = curve_->name().toStdString();
    const auto& curve = curve_->reading().curve;
    const bool done = c.use == loudspeaker::CurveUse::impedance
                          ? state_.run(project::withImpedance(state_.project(), state_.voicingId(),
                                                              static_cast<std::size_t>(c.way), name, curve),
                                       "Impedance curve " + curve_->name())
                          : state_.run(project::withResponse(state_.project(), state_.voicingId(), c.way, name, curve),
                                       c.way < 0 ? QString("Open a target") : QString("Open a response"));
    if (done)
        showView(curvesView);
}

void SpeakersPage::openFile(const QString& file) {
    opening_.start([file](std::stop_token) -> Opened {
        const auto bytes = project::readWhole(file.toStdString(), project::maxPdfBytes);
        if (!bytes)
            return {file, Result<std::string>(bytes.error())};
        if (project::isPdf(*bytes))
            return {file, project::pdfText(file.toStdString())};
        // Lines of numbers, or sound, are a curve; everything else is words.
        const auto curve =
            loudspeaker::readCurve(*bytes, QFileInfo(file).fileName().toStdString(), loudspeaker::CurveUse::response);
        if (curve && (curve->impulse || curve->curve.hz.size() >= 8))
            return {file, {}};
        return {file, Result<std::string>(utf8Of(*bytes))};
    });
}

void SpeakersPage::takeOpened(const Opened& opened) {
    if (!opened.text) {
        readCurve(opened.file, 0, false);
        return;
    }
    if (!*opened.text)
        return state_.session().report(opened.text->error());
    reader_->setText(q(**opened.text));
    showView(sheetView);
}

void SpeakersPage::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls() && e->mimeData()->urls().size() == 1 && e->mimeData()->urls().first().isLocalFile())
        e->acceptProposedAction();
}

void SpeakersPage::dropEvent(QDropEvent* e) {
    e->acceptProposedAction();
    openFile(e->mimeData()->urls().first().toLocalFile());
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

void SpeakersPage::askSheet() {
    const QString file = QFileDialog::getSaveFileName(this, "Write the voicing as a sheet",
                                                      q(state_.voicing() ? state_.voicing()->name : "") + ".pdf",
                                                      "Sheets (*.pdf *.txt *.csv)");
    if (!file.isEmpty())
        writeSheet(file);
}

bool SpeakersPage::writeSheet(const QString& file) {
    const auto* v = state_.voicing();
    if (!v)
        return state_.session().report("Choose a voicing first."), false;
    if (file.endsWith(".pdf", Qt::CaseInsensitive)) {
        if (writeSheetPdf(q(project::sheetText(*v)), file))
            return true;
        return state_.session().report(file + " cannot be written. Is its folder there?"), false;
    }
    const auto done = project::writeWhole(
        file.toStdString(), file.endsWith(".csv", Qt::CaseInsensitive) ? project::sheetCsv(*v) : project::sheetText(*v),
        false);
    if (!done)
        state_.session().report(done.error());
    return bool(done);
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
