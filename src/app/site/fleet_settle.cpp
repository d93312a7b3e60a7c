// Settling what differs: choose, try, keep, go back, take.
#include "app/site/fleet.h"
#include "app/text.h"
#include "project/catalogue.h"
#include "site/board_image.h"
#include <algorithm>

namespace loom::app {

using nlohmann::json;
using site::Take;

namespace {

// What a small board's store holds against what runs there: empty, or what is wrong.
QString troubleReadingBack(const project::DeviceModel& model, const json& state, const json& back) {
    const auto text = back.is_object() ? back.value("image", json()) : json();
    const auto config = text.is_string() ? site::configOfHexImage(text.get<std::string>(), model)
                                         : Result<site::Config>(Trouble{"no image came", "", ""});
    if (!config)
        return q("Its store was read back and " + config.trouble().text() + " Replace the board.");
    const auto running = state.is_object() ? state.value("running", json()) : json();
    if (site::fingerprint(*config) != textOf(running, "fingerprint"))
        return "Its store was read back and holds something else than what was sent. Keep it again, or replace the "
               "board.";
    return {};
}

} // namespace

void Fleet::choose(const std::string& device, const std::string& key, Take take) {
    if (auto* m = member(device)) {
        m->choices[key] = take;
        compare(*m);
    }
}

void Fleet::chooseAll(const std::vector<std::string>& devices, Take take, bool openOnly) {
    for (const auto& id : devices)
        if (auto* m = member(id)) {
            for (const auto& r : m->rows)
                if (!openOnly || r.take == Take::open)
                    m->choices[r.key] = take;
            if (take == Take::open)
                m->choices.clear();
            compare(*m);
        }
}

void Fleet::tryNow(const std::vector<std::string>& devices) {
    struct Sending {
        site::Config config, design, device; // what is sent; both sides as they were then
        std::set<std::string> taken;         // from the device
        int revision = 0;
    };
    auto sent = std::make_shared<std::map<std::string, Sending>>();
    std::vector<AllOrNone::Part> parts;
    int open = 0, lost = 0;
    for (const auto& id : devices) {
        auto* m = member(id);
        const auto* d = session_.project().device(id);
        if (!m || !d)
            continue;
        if (!m->link.up() || m->locked || !m->config) {
            ++lost;
            continue;
        }
        compareNow(*m);
        open += m->open();
        if (m->rows.empty() && m->runningRevision() >= 0)
            continue; // it runs the design
        const auto* model = project::findModel(d->model);
        if (model && model->usb)
            if (const auto image = site::hexImageOf(site::settled(site::designOf(*d), *m->config, m->rows), *model);
                !image)
                return session_.report(image.trouble());
        AllOrNone::Part p;
        p.device = id, p.name = q(d->name), p.link = &m->link;
        p.make = [this, id, sent, model]() -> AllOrNone::Call {
            auto* at = member(id);
            const auto* planned = session_.project().device(id);
            if (!at || !planned || !at->config)
                return {"discard"};
            compareNow(*at);
            Sending s;
            s.design = site::designOf(*planned), s.device = *at->config;
            s.config = site::settled(s.design, s.device, at->rows);
            s.revision = std::max({0, at->runningRevision(), at->keptRevision(),
                                   s.config.program ? s.config.program->revision : 0}) +
                         1;
            if (s.config.program)
                s.config.program->revision = s.revision;
            for (const auto& r : at->rows)
                if (r.take == Take::device)
                    s.taken.insert(r.key);
            json what = {{"author", me()}, {"revision", s.revision}};
            const auto image =
                model && model->usb ? site::hexImageOf(s.config, *model) : Result<std::string>(Trouble{});
            image ? what["image"] = *image : what["config"] = site::toJson(s.config);
            (*sent)[id] = std::move(s);
            return {"stage", std::move(what)};
        };
        p.unprepare = {"discard"}, p.commit = {"commit"}, p.uncommit = {"revert"};
        parts.push_back(std::move(p));
    }
    if (open > 0)
        return session_.report(QString(open == 1 ? "%1 value changed on both sides or was never sent from here: choose "
                                                   "a side before going on."
                                                 : "%1 values changed on both sides or were never sent from here: "
                                                   "choose sides before going on.")
                                   .arg(open));
    if (parts.empty())
        return session_.report(
            lost > 0 ? QString("None of them can be reached.") : QString("They run the design already."), lost > 0);
    const auto count = parts.size();
    work_.start("Try", std::move(parts), [this, sent, count, lost](const QString& trouble) {
        if (!trouble.isEmpty()) {
            note("", me(), "Try: " + trouble, true);
            return session_.report(trouble + " No device was changed.");
        }
        std::map<std::string, std::optional<project::Device>> changed;
        for (auto& [id, sending] : *sent)
            if (const auto* d = session_.project().device(id)) {
                auto n = *d;
                const auto now = site::designOf(*d);
                if (sending.taken.empty()) {
                    if (n.program)
                        n.program->revision = sending.revision;
                } else {
                    // What was edited here while it was on its way stays as it was edited.
                    auto taken = sending.taken;
                    for (const auto& since : site::differences(now, sending.design, nullptr))
                        taken.erase(site::keyOf(since));
                    const auto design = site::merged(now, sending.device, taken);
                    n.program = design.program;
                    if (n.program)
                        n.program->revision = sending.revision;
                    project::adoptSetUp(n, design.setUp);
                }
                n.known.sent = sending.config.program, n.known.setUp = sending.config.setUp;
                n.known.revision = sending.revision, n.known.boot.clear();
                changed[id] = std::move(n);
                if (auto* m = member(id)) {
                    m->choices.clear();
                    m->print.clear(); // read back with the next look
                    m->config = sending.config;
                    m->agreed = std::move(sending.config);
                    m->agreedRevision = sending.revision, m->agreedBoot.clear(), m->wentBack = false;
                    askSoon(id);
                }
                note(id, me(), QString("Tried: revision %1 runs.").arg(sending.revision));
            }
        const bool taken =
            std::any_of(sent->begin(), sent->end(), [](const auto& s) { return !s.second.taken.empty(); });
        auto edit = project::setDevices(std::move(changed), "Take what differs on the devices");
        taken ? session_.edit(std::move(edit)) : session_.note(std::move(edit)); // what they were told is no step
        session_.report(QString(count == 1 ? "%1 device runs it. It is lost at power-off until it is kept."
                                           : "%1 devices run it. It is lost at power-off until it is kept.")
                                .arg(count) +
                            (lost > 0 ? QString(" %1 could not be reached.").arg(lost) : QString()),
                        false);
    });
}

void Fleet::keep(const std::vector<std::string>& devices) {
    std::vector<AllOrNone::Part> parts;
    for (const auto& id : devices)
        if (auto* m = member(id); m && m->link.up() && !m->locked && m->runningRevision() >= 0 && !m->kept()) {
            AllOrNone::Part p;
            p.device = id, p.name = q(nameOf(id)), p.link = &m->link;
            p.commit = {"keep"};
            p.uncommit = {"bootWith", {{"revision", std::max(0, m->keptRevision())}}};
            const auto* d = session_.project().device(id);
            if (const auto* model = d ? project::findModel(d->model) : nullptr; model && model->usb) {
                p.check = {"image"};
                p.verify = [model](const json& state, const json& back) {
                    return troubleReadingBack(*model, state, back);
                };
            }
            parts.push_back(std::move(p));
        }
    if (parts.empty())
        return session_.report("There is nothing to keep: what runs is kept, or nothing was tried.", false);
    std::map<std::string, int> ids; // with how often each was changed live until now
    for (const auto& p : parts)
        ids[p.device] = member(p.device)->changedLive;
    work_.start("Keep", std::move(parts), [this, ids](const QString& trouble) {
        if (!trouble.isEmpty()) {
            note("", me(), "Keep: " + trouble, true);
            return session_.report(trouble + " Every device keeps what it kept before.");
        }
        std::vector<project::Edit> edits;
        for (const auto& [id, before] : ids)
            if (auto* m = member(id)) {
                if (m->changedLive == before)
                    m->agreedBoot.clear(); // what was changed live is kept with it; later changes may not be
                askSoon(id);
                note(id, me(), "Kept: it survives power-off.");
                if (m->config && m->config->program && session_.project().device(id))
                    edits.push_back(project::changeDevice(
                        id, "Note", [kept = *m->config->program](auto& d) { d.known.kept = kept; }));
            }
        if (!edits.empty())
            session_.note(project::together(std::move(edits), "Note what was kept"));
        session_.report(QString(ids.size() == 1 ? "%1 device keeps it: it survives power-off."
                                                : "%1 devices keep it: it survives power-off.")
                            .arg(ids.size()),
                        false);
    });
}

void Fleet::goBack(const std::string& device, int revision) {
    auto* m = member(device);
    if (!m)
        return;
    m->link.call("goBack", {{"revision", revision}}, [this, device, revision](const json&, const QString& trouble) {
        if (!trouble.isEmpty())
            return session_.report(trouble);
        note(device, me(), QString("Went back to revision %1.").arg(revision));
        session_.report(QString("Revision %1 runs again. Where it differs from the design is listed.").arg(revision),
                        false);
        if (auto* now = member(device)) {
            now->wentBack = true;
            askState(*now);
        }
    });
}

void Fleet::takeFrom(const std::vector<std::string>& devices) {
    std::map<std::string, std::optional<project::Device>> changed;
    for (const auto& id : devices) {
        auto* m = member(id);
        const auto* d = session_.project().device(id);
        if (m)
            compareNow(*m);
        if (!m || !d || !m->config || m->rows.empty())
            continue;
        auto n = *d;
        if (m->config->program) // one that runs none takes nothing away
            n.program = m->config->program;
        project::adoptSetUp(n, m->config->setUp);
        n.known.sent = m->config->program, n.known.setUp = m->config->setUp; // both sides agree on it now
        n.known.revision = std::max(0, m->runningRevision()),
        n.known.boot = m->turned() ? textOf(m->state, "boot") : std::string();
        changed[id] = n;
        auto* now = member(id);
        now->agreed = m->config, now->agreedRevision = n.known.revision, now->agreedBoot = n.known.boot,
        now->wentBack = false;
    }
    if (changed.empty())
        return session_.report("Nothing differs: there is nothing to take.", false);
    session_.edit(project::setDevices(std::move(changed), "Take all values from the device"));
}

} // namespace loom::app
