// The declarations of devices and of the project as a whole (model/project.h).
#include "model/address.h"
#include "model/describe.h"
#include "model/set_up.h"
#include <set>

namespace loom::schema {

using namespace project;

namespace {

bool isLoudspeaker(const Device& d) {
    const auto* m = d.spec();
    return m && m->loudspeaker;
}
bool isMicrophone(const Device& d) {
    const auto* m = d.spec();
    return m && m->microphone;
}

// Which way it looks, where that matters.
std::vector<FieldOf<Device>> aimFields(const Device& d) {
    if (!d.place.rack.empty() || !(isLoudspeaker(d) || isMicrophone(d)))
        return {};
    std::vector<FieldOf<Device>> all;
    for (const auto& [id, label, most, member] :
         {std::tuple("turn", "Turned to", 360.0, &Place::turn), {"tilt", "Tilted up", 90.0, &Place::tilt}}) {
        FieldOf<Device> f{{id, label, "°", 0, -most, most, 0}};
        f.number = [member = member](const Device& one) { return one.place.*member; };
        f.setNumber = [member = member](Device& one, double v) { one.place.*member = v; };
        all.push_back(f);
    }
    return all;
}

// What its model can be set up with.
std::vector<FieldOf<Device>> setUpFields(const Device& d) {
    std::vector<FieldOf<Device>> all;
    const auto* m = d.spec();
    for (const auto& s : m ? setUpOf(*m) : std::vector<SetUpSpec>{}) {
        if (s.ofDevice)
            continue;
        const auto get = [s](const Device& one) {
            const auto it = one.setUp.find(s.id);
            return it == one.setUp.end() ? s.def : it->second;
        };
        const auto set = [s](Device& one, const std::string& v) { adoptSetUp(one, {{s.id, v}}); };
        FieldOf<Device> f{{s.id, s.label}};
        f.look.choices = s.choices;
        f.look.choiceNames = s.choiceNames;
        f.text = get;
        f.setText = set;
        if (isControl(s.id))
            f.check = [](const std::string& v) -> std::optional<Error> {
                const auto use = readKnob(v);
                return use ? std::nullopt : std::optional(use.error());
            };
        all.push_back(f);
    }
    return all;
}

std::optional<Error> errorInAddress(const std::string& v) {
    if (v.empty() || isAddress(v))
        return {};
    return Error{"\"" + v.substr(0, 40) + "\" is no address", "Address", "Type four numbers such as 10.20.4.21."};
}

template <class List> void unique(const List& list, const char* key, const char* what, const At& at, Reading& r) {
    std::set<std::string_view> ids;
    const At here(at, key);
    for (std::size_t i = 0; i < list.size(); ++i)
        if (!ids.insert(list[i].id).second) {
            const At one(here, i);
            return r.fail(At(one, "id"), std::string("is used by two ") + what);
        }
}

Type<Device> deviceType() {
    Type<Device> t("device", "A processor, amplifier, microphone, loudspeaker ...; planned or paired with a found one");
    t.add("id", &Device::id).id();
    t.add("name", &Device::name).label("Name").always();
    t.add("model", &Device::model).always().help("id in the catalogue");
    t.add("room", &Device::room).help("a room's id; without it the equipment rack");
    t.add("address", &Device::address).label("Address").typedCheck(errorInAddress).help("planned network address");
    t.add("place", &Device::place);
    t.form(aimFields);
    t.add("rate", &Device::rate).setting().range(8000, 192000).always().help("Hz");
    t.add("trimDb", &Device::trimDb)
        .setting()
        .formId("trim")
        .range(-40, 20)
        .label("Level against others", "dB", 1)
        .when(isLoudspeaker);
    t.add("delayMs", &Device::delayMs)
        .setting()
        .formId("delay")
        .range(0, 2000)
        .label("Delay", "ms", 1)
        .when(isLoudspeaker);
    t.add("silentHere", &Device::silentHere)
        .setting()
        .formId("heard")
        .label("Heard in its room")
        .opposite()
        .yesFirst()
        .when(isMicrophone)
        .help("microphones: not heard over the loudspeakers of their own room");
    t.add("role", &Device::role)
        .setting()
        .choices({"", "chair", "delegate", "presenter", "public"})
        .named({"Not said", "Chair", "Delegate", "Presenter", "Public"})
        .label("Who speaks there")
        .when(isMicrophone);
    t.add("mutes", &Device::mutes)
        .setting()
        .help("what it does about the mute of its space: `self` or one of its ports → `sets`, `shows`, `off`");
    t.add("contacts", &Device::contacts)
        .items(0, 64)
        .help("what hangs on its contacts: `contact 1` → `wall ID ROOMS` (closed while that wall is) or `mute ROOMS` "
              "(closed while a button is pressed); `relay 1` → `lamp ROOMS` (closed while that is muted)");
    t.add("use", &Device::use).setting().label("Use").help("one word, for names");
    t.add("owners", &Device::owners)
        .help("port → room, or rooms joined by `+` (theirs only while they are one), where it is not the device's");
    t.add("lampLive", &Device::lampLive).setting().label("Lamp while live");
    t.add("lampMuted", &Device::lampMuted).setting().label("Lamp while muted");
    t.add("setUp", &Device::setUp).setting().help("set-up by id, only what differs from how the device comes");
    t.form(setUpFields);
    t.add("assetNumber", &Device::assetNumber).own().label("Asset number");
    t.add("notes", &Device::notes).label("Notes").letters(longestNotes);
    t.add("program", &Device::program).setting();
    t.add("stands", &Device::standIns).setting();
    t.add("voicing", &Device::voicing).help("loudspeakers: id of one");
    t.add("outputs", &Device::outputs).help("amplifiers, by port");
    t.add("feeds", &Device::feeds).help("input → `\"device/port\"` whose sound comes there, by a cable of its own");
    t.add("soundNetwork", &Device::soundNetwork)
        .label("Sound network")
        .letters(60)
        .when([](const Device& d) { return d.spec() && d.spec()->network; })
        .help("devices with the same name see each other's streams and share a clock");
    t.add("clockPriority", &Device::clockPriority)
        .setting()
        .label("Clock priority")
        .range(0, 255)
        .when([](const Device& d) { return d.spec() && d.spec()->soundNetwork; })
        .help("who leads the clock: the lower goes first; 0: as the model has it, 255: never");
    t.add("streams", &Device::streams).items(0, 256);
    t.add("receivers", &Device::receivers).items(0, 256);
    t.rule([](const Device& d, const At& at, Reading& r) {
        unique(d.streams, "streams", "streams", at, r);
        unique(d.receivers, "receivers", "receivers", at, r);
    });
    t.add("serial", &Device::serial).own().help("of the found device it is paired with");
    const auto known = [](auto member) {
        return [member](auto& d) -> auto& {
            return d.known.*member;
        };
    };
    t.add("identity", known(&Known::identity)).own().help("public key of the paired device");
    t.add("lastSent", known(&Known::sent)).own().help("the program last tried on the paired device");
    t.add("lastKept", known(&Known::kept)).own().help("and last kept there");
    t.add("lastSetUp", known(&Known::setUp)).own().help("all of the set-up as last tried");
    t.add("lastSurfaces", known(&Known::surfaces)).own().help("prints of the touch surfaces as last tried");
    t.add("lastRules", known(&Known::rules)).own().help("print of its rules as last tried");
    t.add("lastRevision", known(&Known::revision)).own().range(0, 1e9).help("its number on the device");
    t.add("lastBoot", known(&Known::boot))
        .own()
        .help("where values were changed live since: the boot of the device in which they hold");
    t.extra(&Device::extra);
    return t;
}

Type<StandIn> standInType() {
    Type<StandIn> t("stand", "Sound that an input hears on the bench");
    t.add("port", &StandIn::port).needed();
    t.add("asset", &StandIn::asset).needed().help("one of the project's files");
    t.add("gainDb", &StandIn::gainDb).range(-120, 40).always();
    t.add("loop", &StandIn::loop).always();
    t.extra(&StandIn::extra);
    return t;
}

Type<DismissedFinding> dismissedType() {
    Type<DismissedFinding> t("left", "A finding left as it is");
    t.add("code", &DismissedFinding::code).needed();
    t.add("device", &DismissedFinding::device).always();
    t.add("block", &DismissedFinding::block).always();
    t.add("because", &DismissedFinding::because).needed();
    t.extra(&DismissedFinding::extra);
    return t;
}

Type<Project> projectType() {
    Type<Project> t("project", "A Nimble Loom project");
    t.fixed("format", "nimble-loom-project");
    t.fixed("version", formatVersion);
    t.add("name", &Project::name).always();
    t.add("buildings", &Project::buildings).always();
    t.add("devices", &Project::devices).always();
    t.add("voicings", &Project::voicings);
    t.add("wires", &Project::wires);
    t.add("left", &Project::dismissed);
    t.add("proofs", &Project::proofs).items(0, 1000);
    t.add("surfaces", &Project::surfaces).items(0, mostSurfaces);
    t.add("scenes", &Project::scenes).items(0, mostScenes);
    t.add("rules", &Project::rules).items(0, mostRules);
    t.add("scripts", &Project::scripts).items(0, mostScripts);
    t.add("ruleTests", &Project::ruleTests).items(0, mostRuleTests);
    t.add("place", &Project::place);
    t.add("outsideKinds", &Project::outsideKinds).items(0, mostOutsideKinds);
    t.add("outside", &Project::outside).items(0, mostOutside);
    t.add("access", &Project::access).items(0, mostAccess);
    t.add("soundSalt", &Project::soundSalt)
        .letters(60)
        .help("of phrases for keys of the sound between its devices, base64; another in every project");
    t.rule([](const Project& p, const At& at, Reading& r) {
        unique(p.devices, "devices", "devices", at, r);
        unique(p.voicings, "voicings", "voicings", at, r);
        unique(p.wires, "wires", "cables", at, r);
        unique(p.surfaces, "surfaces", "surfaces", at, r);
        unique(p.scenes, "scenes", "scenes", at, r);
        unique(p.rules, "rules", "rules", at, r);
        unique(p.scripts, "scripts", "scripts", at, r);
        unique(p.ruleTests, "ruleTests", "tests of rules", at, r);
        unique(p.outsideKinds, "outsideKinds", "kinds of outside devices", at, r);
        unique(p.outside, "outside", "outside devices", at, r);
        unique(p.access, "access", "accesses", at, r);
    });
    t.extra(&Project::extra);
    return t;
}

} // namespace

LOOM_TYPE(Device, deviceType)
LOOM_TYPE(StandIn, standInType)
LOOM_TYPE(DismissedFinding, dismissedType)
LOOM_TYPE(Project, projectType)

} // namespace loom::schema
