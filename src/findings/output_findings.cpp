#include "findings/output_findings.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <set>

namespace loom::project {
namespace {

using Code = FindingCode;

std::string roomOf(const Project& p, const Device& d) {
    const auto* r = p.room(d.room);
    return r ? r->name : "Equipment rack";
}

Finding at(const Project& p, const OutputPath& path, Code code, std::string reason, std::string remedy) {
    const auto& d = *path.amplifier;
    return {code, d.id, path.port, d.name + " \u00b7 " + path.port, std::move(reason), std::move(remedy), roomOf(p, d)};
}

void checkOutput(const Project& p, const OutputPath& path, const OutputFigures& f, std::vector<Finding>& found) {
    const auto add = [&](Code code, std::string reason, std::string remedy) {
        found.push_back(at(p, path, code, std::move(reason), std::move(remedy)));
    };
    const auto& out = *path.output;
    if (out.loads.empty())
        return add(Code::noLoad, "Sound comes to this output, and it was not told what hangs on it.",
                   "Hang its loudspeakers on it, so that limits follow from them.");
    std::set<std::pair<std::string, int>> voicings;
    for (const auto& l : out.loads) {
        const auto* d = p.device(l.device);
        if (!d)
            add(Code::loadGone, "The loudspeaker \"" + l.device + "\" is not there any more.",
                "Take it off this output.");
        else
            voicings.emplace(d->voicing, l.way);
        if (out.line() && l.tapWatts <= 0)
            add(Code::noTap, (d ? d->name : l.device) + " hangs on a line without a tap.",
                "Choose the tap of its transformer.");
    }
    if (voicings.size() > 1)
        add(Code::mixedVoicings,
            print("%d different voicings hang on one output; it plays only the first.", voicings.size()),
            "Give them the same voicing, or an output each.");
    else if (!path.voicing)
        add(Code::noVoicing, "These loudspeakers have no voicing, so nothing protects them.",
            "Give them one: from a sheet, the library, or by hand.");
    if (!out.line() && f.load.minimum + f.cableOhms < path.data->leastOhms)
        add(Code::lowImpedance,
            print("The load goes down to %.1f ohms; this amplifier drives %.3g ohms at least.",
                  f.load.minimum + f.cableOhms, path.data->leastOhms),
            "Fewer in parallel, two in series, or more outputs.");
    if (out.line() && path.data->lineWatts <= 0)
        add(Code::noLine, "This amplifier drives no 70 or 100 V line.",
            "Wire it in parallel or in series, or take an amplifier for lines.");
    else if (const double sum = f.tapWatts * std::pow(out.lineVolts() / 100, 2);
             out.line() && sum > path.data->lineWatts)
        add(Code::tapsOver,
            print("The taps take %.0f W altogether; this output gives %.0f W.", sum, path.data->lineWatts),
            "Choose lower taps, or part them over two outputs.");
    if (path.voicing && !path.runsIn)
        add(Code::runsNowhere,
            "Neither the amplifier nor a processor before it can run the voicing \"" + path.voicing->name + "\".",
            "Say which processor's output feeds it, and put a destination for that port on its lanes.");
    if (path.voicing && path.way < static_cast<int>(path.voicing->ways.size())) {
        const auto& w = path.voicing->ways[static_cast<std::size_t>(path.way)];
        const double one = w.rmsWatts;
        // On a line the tap is all that a driver gets.
        const double gets = out.line()
                                ? std::max_element(out.loads.begin(), out.loads.end(),
                                                   [](const auto& a, const auto& b) { return a.tapWatts < b.tapWatts; })
                                      ->tapWatts
                                : f.ampWatts / static_cast<double>(out.loads.size());
        if (one <= 0)
            add(Code::powerUnknown, "It is not known what \"" + path.voicing->name + "\" bears.",
                "Type its noise power from the sheet; the limiter follows from it.");
        else if (!f.limited && gets > one)
            add(Code::unprotected,
                print("The amplifier gives each driver %.0f W, it bears %.0f W, and no limiter works.", gets, one),
                "Let the limiter follow from the data.");
        else if (out.line() && gets > one)
            add(Code::tapTooHigh, print("The tap gives the driver %.3g W, it bears %.3g W.", gets, one),
                "Choose a lower tap.");
    }
}

} // namespace

std::vector<Finding> checkSpeakers(const Project& p) {
    std::vector<Finding> found;
    const auto paths = outputPaths(p);
    const auto figures = outputFigures(p, {});
    std::map<std::string, std::set<int>> hanging; // ways by loudspeaker
    for (std::size_t i = 0; i < paths.size(); ++i) {
        checkOutput(p, paths[i], figures[i], found);
        for (const auto& l : paths[i].output->loads)
            hanging[l.device].insert(l.way);
    }
    // Of one amplifier, all outputs together.
    std::map<const Device*, double> taken;
    for (std::size_t i = 0; i < paths.size(); ++i)
        taken[paths[i].amplifier] += paths[i].output->line() ? figures[i].tapWatts : figures[i].ampWatts;
    for (const auto& [d, watts] : taken)
        if (const auto* m = d->spec(); m->amplifier->totalWatts > 0 && watts > m->amplifier->totalWatts)
            found.push_back(
                {Code::amplifierOverload, d->id, "", d->name,
                 print("Its loads could take %.0f W at once; it gives %.0f W in all.", watts, m->amplifier->totalWatts),
                 "Spread them over more amplifiers if all of them play loud at once.", roomOf(p, *d)});
    for (const auto& d : p.devices) {
        const auto* v = p.voicing(d.voicing);
        const auto hangs = hanging.find(d.id);
        if (v && hangs == hanging.end())
            found.push_back({Code::hangsNowhere, d.id, "", d.name, "It has a voicing and hangs on no amplifier.",
                             "Hang it on an output.", roomOf(p, d)});
        else if (v && hangs->second.size() < v->ways.size())
            found.push_back({Code::wayMissing, d.id, "", d.name,
                             print("%d of its %d ways hang on an amplifier.", hangs->second.size(), v->ways.size()),
                             "Hang the other ways on outputs of their own.", roomOf(p, d)});
    }
    for (const auto& [id, program] : voicedPrograms(p))
        found.push_back(
            {Code::voicingApart, id, "", p.device(id)->name,
             "Blocks of a voicing are not as the voicing has them: changed here alone, or made by an earlier version.",
             "Bring voicings in step again (find-or-do), or give the loudspeaker a voicing of its own.",
             roomOf(p, *p.device(id))});
    return found;
}

std::vector<Finding> checkHeadroom(const Project& p, const RoomDrives& drives) {
    std::vector<Finding> found;
    const auto paths = outputPaths(p);
    const auto figures = outputFigures(p, drives);
    for (std::size_t i = 0; i < paths.size(); ++i)
        if (figures[i].needed > 0 && figures[i].most > 0 && figures[i].headroomDb < 0)
            found.push_back(at(p, paths[i], Code::overload,
                               print("The room's target needs %.3g W in each driver; %.3g W are left of amplifier, "
                                     "cable and limiter, %.1f dB too few.",
                                     figures[i].needed, figures[i].most, -figures[i].headroomDb),
                               "A stronger amplifier, a higher tap, more loudspeakers, or a lower target."));
    return found;
}

} // namespace loom::project
