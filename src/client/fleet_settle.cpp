// Settling what differs: choose, try, keep, go back, take.
#include "client/fleet.h"
#include "file/base64.h"
#include "program/file_prints.h"
#include "rules/rule_pack.h"
#include "site/board_image.h"
#include "surface/pack.h"
#include <algorithm>

namespace loom::client {

using site::Take;

namespace {

// What a small board's store holds against what runs there: empty, or what is wrong.
std::string errorReadingBack(const project::DeviceModel& model, const site::DeviceState& state,
                             const std::string& image) {
    const auto config = site::configOfHexImage(image, model);
    if (!config)
        return "Its store was read back and " + config.error().text() + " Replace the board.";
    if (site::fingerprint(*config) != (state.running ? state.running->fingerprint : ""))
        return "Its store was read back and holds something else than what was sent. Keep it again, or replace the "
               "board.";
    return {};
}

// Keeps, and of a small board reads back what its store holds; one that holds something else boots with `before` again.
Transaction::Ask keeping(const project::DeviceModel* model, int before,
                         std::function<void(const site::DeviceState&)> heard) {
    if (!model || !model->usb)
        return asking(site::message::keep, {}, std::move(heard));
    return [model, before, heard](DeviceSession& session, Transaction::Answered answered) {
        session.call(site::message::keep, {}, [=, watch = session.watch()](const Reply<site::DeviceState>& kept) {
            auto* there = watch.get();
            if (!kept || !there)
                return answered(kept ? site::Code::lost : kept.code, kept ? "It went away." : kept.error);
            there->call(site::message::image, {}, [=](const Reply<site::Image>& back) {
                const std::string wrong = back ? errorReadingBack(*model, *kept, back->image) : back.error;
                if (wrong.empty()) {
                    heard(*kept);
                    return answered({}, "");
                }
                if (auto* still = watch.get())
                    still->call(site::message::bootWith, {before}, [](const Reply<site::DeviceState>&) {});
                answered(back ? site::Code::refused : back.code, wrong);
            });
        });
    };
}

constexpr const char* surfaceKey = "surface/";

// Touch surfaces as devices show them; "": none of that id.
project::Edit takeSurfaces(std::map<std::string, std::string> texts) {
    return {"Take touch surfaces", [texts = std::move(texts)](project::Project p) -> Result<project::Project> {
                for (const auto& [id, text] : texts) {
                    if (text.empty()) {
                        erase_if(p.surfaces, [&, key = id](const project::Surface& s) { return s.id == key; });
                    } else if (auto done = project::adoptSurface(p, id, text); !done) {
                        return done.error();
                    }
                }
                return p;
            }};
}

// Rules as devices run them; "": a device runs none any more.
project::Edit takeRules(std::vector<std::string> texts) {
    return {"Take rules", [texts = std::move(texts)](project::Project p) -> Result<project::Project> {
                for (const auto& text : texts)
                    if (!text.empty())
                        if (auto done = project::adoptRules(p, text); !done)
                            return done.error();
                return p;
            }};
}

// Files of what is about to be sent (pictures of surfaces, sounds of programs), one after another; then `then`.
class Files : public std::enable_shared_from_this<Files> {
  public:
    Files(const project::Project& p, const site::Config& config) {
        if (config.program)
            for (const auto& [name, print] : project::filePrints(*config.program))
                if (const auto it = p.assets.find(name); it != p.assets.end())
                    bytes_[print] = it->second;
        for (const auto& [id, _] : config.surfaces)
            if (const auto* s = p.surface(id))
                for (const auto& name : project::picturesOf(*s))
                    if (const auto it = p.assets.find(name); it != p.assets.end())
                        bytes_[project::picturePrint(it->second)] = it->second;
    }
    void send(DeviceSession& session, Transaction::Answered failed, std::function<void(DeviceSession&)> then) {
        if (bytes_.empty())
            return then(session);
        site::Prints ask;
        for (const auto& [print, _] : bytes_)
            ask.prints.push_back(print);
        session.call(
            site::message::pictures, ask,
            [self = shared_from_this(), watch = session.watch(), failed, then](const Reply<site::Prints>& lacking) {
                if (!lacking || !watch.get())
                    return failed(lacking.code, lacking ? "It went away." : lacking.error);
                self->lacking_ = lacking->prints;
                self->next(*watch.get(), failed, then);
            });
    }

  private:
    void next(DeviceSession& session, Transaction::Answered failed, std::function<void(DeviceSession&)> then) {
        while (!lacking_.empty() && !bytes_.count(lacking_.back()))
            lacking_.pop_back();
        if (lacking_.empty())
            return then(session);
        const auto print = lacking_.back();
        lacking_.pop_back();
        session.call(
            site::message::picture, {print, project::base64Of(static_cast<const std::vector<char>&>(bytes_.at(print)))},
            [self = shared_from_this(), watch = session.watch(), failed, then](const Reply<site::Nothing>& took) {
                if (!took || !watch.get())
                    return failed(took.code, took ? "It went away." : took.error);
                self->next(*watch.get(), failed, then);
            });
    }
    std::map<std::string, project::Asset> bytes_{};
    std::vector<std::string> lacking_{};
};

std::string ofDevices(std::size_t n) {
    return std::to_string(n) + (n == 1 ? " device" : " devices");
}

} // namespace

void Fleet::compare(Member& m) {
    const auto* d = design_.project().device(m.device);
    if (d && m.config) {
        m.rows = site::rowsOf(site::designOf(design_.project(), *d), *m.config, m.agreed ? &*m.agreed : nullptr,
                              m.standing(), m.choices);
        std::erase_if(m.choices, [&](const auto& c) {
            return std::none_of(m.rows.begin(), m.rows.end(), [&](const auto& r) { return r.key == c.first; });
        });
    }
    changedSoon(m.device);
}

// A device that fell back to what it was told holds nothing of anybody else's. Once somebody changes a value there,
// that can no longer be seen: so what it holds before is what both had last.
void Fleet::noteFallBack(Member& m) {
    if (m.standing() != site::Standing::older || m.turned() || !m.config || m.print.empty() ||
        m.print != (m.state ? m.state->fingerprint : ""))
        return;
    m.agreed = m.config;
    m.agreedRevision = m.runningRevision();
    m.agreedBoot.clear();
    m.wentBack = false;
}

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

// What is sent to one device, and both sides as they were then.
struct Fleet::Sending {
    site::Config config, design, device;
    std::set<std::string> taken; // from the device
    int revision = 0;
    site::DeviceState state{}; // once it runs it, as it answered
};

void Fleet::tryNow(const std::vector<std::string>& devices) {
    const auto sent = std::make_shared<std::map<std::string, Sending>>();
    std::vector<Transaction::Part> parts;
    int open = 0;
    std::size_t lost = 0;
    for (const auto& id : devices) {
        auto* m = member(id);
        const auto* d = design_.project().device(id);
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
        const auto* model = d->spec();
        if (model && model->usb)
            if (const auto image =
                    site::hexImageOf(site::settled(site::designOf(design_.project(), *d), *m->config, m->rows), *model);
                !image)
                return design_.say(image.error().text());
        Transaction::Part p;
        p.device = id;
        p.name = d->name;
        p.session = m->link.watch();
        p.prepare = [this, id, sent, model](DeviceSession& session, Transaction::Answered answered) {
            const auto what = stagingFor(id, model, *sent); // made late: hundreds are not made in one go
            if (!what)
                return answered(site::Code::lost, "The device is not paired any more.");
            const auto stage = [what, answered](DeviceSession& s) { asking(site::message::stage, *what)(s, answered); };
            what->config ? std::make_shared<Files>(design_.project(), *what->config)->send(session, answered, stage)
                         : stage(session);
        };
        p.unprepare = asking(site::message::discard);
        p.commit = asking(site::message::commit, {}, [id, sent](const auto& now) { (*sent)[id].state = now; });
        p.uncommit = asking(site::message::revert);
        parts.push_back(std::move(p));
    }
    if (open > 0)
        return design_.say(std::to_string(open) +
                           (open == 1 ? " value changed on both sides or was never sent from here: choose a side "
                                        "before going on."
                                      : " values changed on both sides or were never sent from here: choose sides "
                                        "before going on."));
    if (parts.empty())
        return design_.say(lost > 0 ? "None of them can be reached." : "They run the design already.", lost > 0);
    work_.start("Try", std::move(parts),
                [this, sent, lost](const Transaction::Outcome& outcome) { tried(outcome, *sent, lost); });
}

std::optional<site::Staging> Fleet::stagingFor(const std::string& id, const project::DeviceModel* model,
                                               std::map<std::string, Sending>& sent) {
    auto* m = member(id);
    const auto* planned = design_.project().device(id);
    if (!m || !planned || !m->config)
        return {};
    compareNow(*m);
    Sending s;
    s.design = site::designOf(design_.project(), *planned);
    s.device = *m->config;
    s.config = site::settled(s.design, s.device, m->rows);
    s.revision =
        std::max({0, m->runningRevision(), m->keptRevision(), s.config.program ? s.config.program->revision : 0}) + 1;
    if (s.config.program)
        s.config.program->revision = s.revision;
    for (const auto& r : m->rows)
        if (r.take == Take::device)
            s.taken.insert(r.key);
    site::Staging what;
    what.author = me();
    what.revision = s.revision;
    if (const auto image = model && model->usb ? site::hexImageOf(s.config, *model) : Result<std::string>(Error{}))
        what.image = *image;
    else
        what.config = s.config;
    sent[id] = std::move(s);
    return what;
}

void Fleet::tried(const Transaction::Outcome& outcome, std::map<std::string, Sending>& sent, std::size_t lost) {
    if (!outcome) {
        note("", me(), "Try: " + inWords(outcome), true);
        return design_.say(inWords(outcome) +
                           (outcome.unsure.empty() ? " No device was changed." : " No other device was changed."));
    }
    const auto count = sent.size();
    const bool taken = std::any_of(sent.begin(), sent.end(), [](const auto& s) { return !s.second.taken.empty(); });
    std::map<std::string, std::optional<project::Device>> changed;
    std::map<std::string, std::string> surfaces; // taken from devices
    std::vector<std::string> rules;
    for (auto& [id, sending] : sent) {
        const auto* d = design_.project().device(id);
        if (!d)
            continue;
        auto n = *d;
        const auto now = site::designOf(design_.project(), *d);
        if (sending.taken.empty()) {
            if (n.program)
                n.program->revision = sending.revision;
        } else {
            // What was edited here while it was on its way stays as it was edited.
            auto taking = sending.taken;
            for (const auto& since : site::differences(now, sending.design, nullptr))
                taking.erase(site::keyOf(since));
            const auto design = site::merged(now, sending.device, taking);
            n.program = design.program;
            if (n.program)
                n.program = project::withoutFilePrints(std::move(*n.program));
            if (n.program)
                n.program->revision = sending.revision;
            project::adoptSetUp(n, design.setUp);
            if (taking.count("rules"))
                rules.push_back(design.rules);
            for (const auto& key : taking)
                if (key.rfind(surfaceKey, 0) == 0)
                    surfaces[key.substr(std::char_traits<char>::length(surfaceKey))] =
                        design.surfaces.at(key.substr(std::char_traits<char>::length(surfaceKey)));
        }
        n.known.sent = sending.config.program;
        n.known.setUp = sending.config.setUp;
        n.known.surfaces = site::surfacePrints(sending.config);
        n.known.rules = site::rulesPrint(sending.config);
        n.known.revision = sending.revision;
        n.known.boot.clear();
        changed[id] = std::move(n);
        if (auto* m = member(id)) {
            m->choices.clear();
            m->print.clear(); // read back with the next look
            m->config = sending.config;
            m->agreed = std::move(sending.config);
            m->agreedRevision = sending.revision;
            m->agreedBoot.clear();
            m->wentBack = false;
            heardState(*m, sending.state);
            askSoon(id);
        }
        note(id, me(), "Tried: revision " + std::to_string(sending.revision) + " runs.");
    }
    auto edit = project::setDevices(std::move(changed), "Take what differs on the devices");
    if (!surfaces.empty())
        edit =
            project::together({std::move(edit), takeSurfaces(std::move(surfaces))}, "Take what differs on the devices");
    if (!rules.empty())
        edit = project::together({std::move(edit), takeRules(std::move(rules))}, "Take what differs on the devices");
    taken ? design_.edit(std::move(edit)) : design_.note(std::move(edit)); // what they were told is no step
    design_.say(ofDevices(count) + (count == 1 ? " runs" : " run") + " it. It is lost at power-off until it is kept." +
                    (lost > 0 ? " " + std::to_string(lost) + " could not be reached." : ""),
                false);
}

void Fleet::keep(const std::vector<std::string>& devices) {
    std::vector<Transaction::Part> parts;
    std::map<std::string, int> ids; // with how often each was changed live until now
    const auto states = std::make_shared<std::map<std::string, site::DeviceState>>(); // as they answered
    for (const auto& id : devices)
        if (auto* m = member(id); m && m->link.up() && !m->locked && m->runningRevision() >= 0 && !m->kept()) {
            const auto* d = design_.project().device(id);
            const int before = std::max(0, m->keptRevision());
            Transaction::Part p;
            p.device = id;
            p.name = nameOf(id);
            p.session = m->link.watch();
            p.commit = keeping(d ? d->spec() : nullptr, before, [id, states](const auto& now) { (*states)[id] = now; });
            p.uncommit = asking(site::message::bootWith, {before});
            parts.push_back(std::move(p));
            ids[id] = m->changedLive;
        }
    if (parts.empty())
        return design_.say("There is nothing to keep: what runs is kept, or nothing was tried.", false);
    work_.start("Keep", std::move(parts), [this, ids, states](const Transaction::Outcome& outcome) {
        if (!outcome) {
            note("", me(), "Keep: " + inWords(outcome), true);
            return design_.say(inWords(outcome) + (outcome.unsure.empty() ? " Every device keeps what it kept before."
                                                                          : " The others keep what they kept before."));
        }
        std::vector<project::Edit> edits;
        for (const auto& [id, before] : ids)
            if (auto* m = member(id)) {
                if (m->changedLive == before)
                    m->agreedBoot.clear(); // what was changed live is kept with it; later changes may not be
                heardState(*m, (*states)[id]);
                askSoon(id);
                note(id, me(), "Kept: it survives power-off.");
                if (m->config && m->config->program && design_.project().device(id))
                    edits.push_back(project::changeDevice(
                        id, "Note", [kept = *m->config->program](auto& d) { d.known.kept = kept; }));
            }
        if (!edits.empty())
            design_.note(project::together(std::move(edits), "Note what was kept"));
        design_.say(ofDevices(ids.size()) + (ids.size() == 1 ? " keeps" : " keep") + " it: it survives power-off.",
                    false);
    });
}

void Fleet::goBack(const std::string& device, int revision) {
    auto* m = member(device);
    if (!m)
        return;
    m->link.call(site::message::goBack, {revision},
                 answer<site::DeviceState>(*m, [this, revision](Member& one, const Reply<site::DeviceState>& back) {
                     if (!back)
                         return design_.say(back.error);
                     note(one.device, me(), "Went back to revision " + std::to_string(revision) + ".");
                     design_.say("Revision " + std::to_string(revision) +
                                     " runs again. Where it differs from the design is listed.",
                                 false);
                     one.wentBack = true;
                     askState(one);
                 }));
}

void Fleet::takeFrom(const std::vector<std::string>& devices) {
    std::map<std::string, std::optional<project::Device>> changed;
    std::map<std::string, std::string> surfaces;
    std::vector<std::string> rules;
    for (const auto& id : devices) {
        auto* m = member(id);
        const auto* d = design_.project().device(id);
        if (m)
            compareNow(*m);
        if (!m || !d || !m->config || m->rows.empty())
            continue;
        auto n = *d;
        if (m->config->program) // one that runs none takes nothing away
            n.program = m->config->program;
        auto all = m->config->setUp;
        project::nameMissing(all, project::setUpOf(n)); // what it does not offer or hear goes here too
        project::adoptSetUp(n, all);
        n.known.sent = m->config->program;
        n.known.setUp = m->config->setUp; // both sides agree on it now
        n.known.surfaces = site::surfacePrints(*m->config);
        n.known.rules = site::rulesPrint(*m->config);
        rules.push_back(m->config->rules);
        for (const auto& [key, text] : m->config->surfaces) // one that shows none takes none away
            surfaces[key] = text;
        n.known.revision = std::max(0, m->runningRevision());
        n.known.boot = m->turned() && m->state ? m->state->boot : std::string();
        changed[id] = n;
        auto* now = member(id);
        now->agreed = m->config;
        now->agreedRevision = n.known.revision;
        now->agreedBoot = n.known.boot;
        now->wentBack = false;
    }
    if (changed.empty())
        return design_.say("Nothing differs: there is nothing to take.", false);
    auto edit = project::setDevices(std::move(changed), "Take all values from the device");
    if (!surfaces.empty())
        edit = project::together({std::move(edit), takeSurfaces(std::move(surfaces))}, edit.text);
    if (std::any_of(rules.begin(), rules.end(), [](const auto& text) { return !text.empty(); }))
        edit = project::together({std::move(edit), takeRules(std::move(rules))}, edit.text);
    design_.edit(std::move(edit));
}

void Fleet::powerCycle(const std::vector<std::string>& devices) {
    for (const auto& id : devices)
        command(id, site::message::powerCycle, {}, "Power is off. It comes back with what it keeps.");
}

void Fleet::update(const std::string& device, bool back) {
    const auto* d = design_.project().device(device);
    const auto* model = d ? d->spec() : nullptr;
    if (!model)
        return;
    const char* const what = "It starts anew.";
    back ? command(device, site::message::rollBack, {}, what)
         : command(device, site::message::update, {model->firmware}, what);
}

void Fleet::mute(const std::string& device, const std::string& space, bool muted) {
    command(device, site::message::mute, {space, me(), muted}, muted ? "Muted." : "Live again.");
}

void Fleet::call(const std::string& device, const std::string& port, const std::string& does,
                 const std::string& number) {
    const std::string what = does == "dial"     ? "Dials " + number + "."
                             : does == "answer" ? "The call is answered."
                             : does == "hold"   ? "The call is held."
                             : does == "resume" ? "The call goes on."
                             : does == "keys"   ? "Keys were sent."
                                                : "Hung up.";
    command(device, site::message::call, {port, does, number}, what);
}

void Fleet::setLineSecret(const std::string& device, const std::string& secret) {
    command(device, site::message::lineSecret, {secret},
            secret.empty() ? "The secret of its lines is gone." : "The secret of its lines is set.");
}

void Fleet::setPin(const std::string& device, const std::string& surface, const std::string& role,
                   const std::string& pin) {
    command(device, site::message::pin, {surface, role, pin}, pin.empty() ? "The PIN is gone." : "The PIN is set.");
}

template <class A, class B>
void Fleet::command(const std::string& device, const site::Message<A, B>& message, std::type_identity_t<A> ask,
                    const std::string& what) {
    auto* m = member(device);
    if (!m)
        return design_.say("It is not paired yet.");
    m->link.call(message, ask, answer<B>(*m, [this, what](Member& one, const Reply<B>& done) {
                     const std::string text = done ? what : done.error;
                     note(one.device, me(), text, !done);
                     design_.say(nameOf(one.device) + ": " + text, !done);
                 }));
}

} // namespace loom::client
