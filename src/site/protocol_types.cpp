// The declarations of what is asked and answered (site/protocol.h).
#include "rules/rule_pack.h"
#include "site/protocol.h"
#include "site/samples.h"
#include "surface/pack.h"

namespace loom::schema {

using namespace site;

namespace {

constexpr std::size_t keyLetters = 100, nameLetters = 120, pathLetters = 400, imageLetters = 4u << 20,
                      fileLetters = 7u << 20, sampleLetters = mostSamples * 3;

template <class T> Type<T> typeOf(const char* name) {
    return Type<T>(name, "");
}

template <class T> void addAuthor(Type<T>& t) {
    t.add("author", &T::author).letters(nameLetters).help("who asks it, for people");
}
template <class T> void addRevision(Type<T>& t, const char* help) {
    t.add("revision", &T::revision).range(0, 1e9).help(help);
}

Type<Nothing> nothingType() {
    return typeOf<Nothing>("nothing");
}

Type<DiscoveredDevice> foundType() {
    auto t = typeOf<DiscoveredDevice>("about");
    t.add("serial", &DiscoveredDevice::serial).id();
    t.add("model", &DiscoveredDevice::model).letters(nameLetters).needed();
    t.add("modelName", &DiscoveredDevice::modelName).letters(nameLetters);
    t.add("name", &DiscoveredDevice::name).letters(200);
    t.add("address", &DiscoveredDevice::address).letters(40);
    t.add("reachedAt", &DiscoveredDevice::reachedAt)
        .letters(40)
        .help("where it answers on this link whatever its address is: to give it another one");
    t.add("firmware", &DiscoveredDevice::firmware).letters(nameLetters);
    t.add("identity", &DiscoveredDevice::identity).letters(keyLetters).help("its public key, base64");
    t.add("sealed", &DiscoveredDevice::sealed).always();
    t.add("salt", &DiscoveredDevice::salt).letters(keyLetters).help("of the password, where it is sealed; base64");
    t.add("fresh", &DiscoveredDevice::fresh).always().help("nothing was ever kept on it");
    return t;
}

Type<Hello> helloType() {
    auto t = typeOf<Hello>("hello");
    t.add("key", &Hello::key).letters(keyLetters).needed().help("of this line alone, base64");
    return t;
}
Type<HelloBack> helloBackType() {
    auto t = typeOf<HelloBack>("helloBack");
    t.add("key", &HelloBack::key).letters(keyLetters).needed().help("of this line alone, base64");
    t.add("identity", &HelloBack::identity).letters(keyLetters).needed().help("its public key, base64");
    return t;
}
Type<Ticket> ticketType() {
    auto t = typeOf<Ticket>("ticket");
    t.add("ticket", &Ticket::ticket).letters(keyLetters).needed().help("32 bytes, base64");
    return t;
}
Type<Recognised> recognisedType() {
    auto t = typeOf<Recognised>("recognised");
    t.add("known", &Recognised::known).always();
    return t;
}
Type<UnlockBegin> unlockBeginType() {
    auto t = typeOf<UnlockBegin>("unlockBegin");
    t.add("share", &UnlockBegin::share).letters(keyLetters).needed().help("X, base64");
    return t;
}
Type<UnlockShare> unlockShareType() {
    auto t = typeOf<UnlockShare>("unlockShare");
    t.add("share", &UnlockShare::share).letters(keyLetters).needed().help("Y, base64");
    t.add("confirm", &UnlockShare::confirm).letters(keyLetters).needed().help("that it knows the password, base64");
    return t;
}
Type<UnlockProof> unlockProofType() {
    auto t = typeOf<UnlockProof>("unlockProof");
    t.add("confirm", &UnlockProof::confirm).letters(keyLetters).needed().help("that the asker knows it, base64");
    t.add("unseal", &UnlockProof::unseal).help("and no password is needed any more");
    return t;
}
Type<Unlocked> unlockedType() {
    auto t = typeOf<Unlocked>("unlocked");
    t.add("ticket", &Unlocked::ticket).letters(keyLetters).help("for `known`; none where it was opened");
    return t;
}
Type<SealAsk> sealType() {
    auto t = typeOf<SealAsk>("seal");
    t.add("salt", &SealAsk::salt).letters(keyLetters).needed().help("base64");
    t.add("w0", &SealAsk::w0).letters(keyLetters).needed().help("base64");
    t.add("l", &SealAsk::l).letters(keyLetters).needed().help("base64");
    return t;
}

Type<Told> toldType() {
    auto t = typeOf<Told>("told");
    t.add("config", &Told::config).needed();
    addAuthor(t);
    addRevision(t, "0: the next free one");
    return t;
}
Type<Staging> stagingType() {
    auto t = typeOf<Staging>("staging");
    t.add("config", &Staging::config);
    t.add("image", &Staging::image).letters(imageLetters).help("instead: of a small board, as Intel HEX");
    addAuthor(t);
    addRevision(t, "0: the next free one");
    t.rule([](const Staging& s, const At& at, Reading& r) {
        if (s.config.has_value() != s.image.empty())
            r.fail(at, "needs a config or an image, and not both");
    });
    return t;
}
Type<RevisionAsk> revisionAskType() {
    auto t = typeOf<RevisionAsk>("revisionAsk");
    t.add("revision", &RevisionAsk::revision).range(0, 1e9).needed();
    return t;
}
Type<RevisionInfo> revisionInfoType() {
    auto t = typeOf<RevisionInfo>("revisionInfo");
    addRevision(t, "its number");
    t.add("time", &RevisionInfo::time).letters(nameLetters).help("ISO 8601, UTC");
    addAuthor(t);
    t.add("kept", &RevisionInfo::kept).help("it boots with it");
    return t;
}
Type<Revisions> revisionsType() {
    auto t = typeOf<Revisions>("revisions");
    t.add("revisions", &Revisions::revisions).items(0, 100).always();
    return t;
}
Type<Runs> runsType() {
    auto t = typeOf<Runs>("runs");
    t.add("revision", &Runs::revision).range(0, 1e9).needed();
    t.add("fingerprint", &Runs::fingerprint).letters(40);
    t.add("author", &Runs::author).letters(nameLetters);
    t.add("time", &Runs::time).letters(nameLetters).help("ISO 8601, UTC");
    t.add("turned", &Runs::turned).help("changed since it was told");
    return t;
}
Type<DeviceState> stateType() {
    auto t = typeOf<DeviceState>("state");
    t.add("powered", &DeviceState::powered).always();
    t.add("boot", &DeviceState::boot).letters(40).help("another text after every start");
    t.add("fingerprint", &DeviceState::fingerprint).letters(40).help("of what runs, told or not");
    t.add("running", &DeviceState::running).help("none: it was never told anything");
    t.add("kept", &DeviceState::kept).help("what it boots with");
    t.add("tools", &DeviceState::tools).range(0, 10000).help("at work");
    t.add("missed", &DeviceState::missed).range(0, 2e9).help("deadlines");
    t.add("audioKey", &DeviceState::audioKey)
        .letters(40)
        .help("print of the key of its sound: 8 digits of its BLAKE2b; none without one");
    return t;
}
Type<Image> imageType() {
    auto t = typeOf<Image>("image");
    t.add("image", &Image::image).letters(imageLetters).needed();
    return t;
}
Type<AudioKeyAsk> audioKeyType() {
    auto t = typeOf<AudioKeyAsk>("audioKey");
    t.add("key", &AudioKeyAsk::key).letters(keyLetters).needed().help("32 bytes, base64; empty: none");
    return t;
}

Type<PathAsk> pathType() {
    auto t = typeOf<PathAsk>("path");
    t.add("path", &PathAsk::path).letters(pathLetters).needed().help("such as `chair.eq.2.gain`");
    return t;
}
Type<ValueAsk> valueAskType() {
    auto t = typeOf<ValueAsk>("valueAsk");
    t.add("path", &ValueAsk::path).letters(pathLetters).needed().help("such as `chair.eq.2.gain`");
    t.add("value", &ValueAsk::value).needed();
    addAuthor(t);
    return t;
}
Type<Value> valueType() {
    auto t = typeOf<Value>("value");
    t.add("path", &Value::path).letters(pathLetters).needed();
    t.add("value", &Value::value).needed();
    return t;
}
Type<SetUpAsk> setUpAskType() {
    auto t = typeOf<SetUpAsk>("setUpAsk");
    t.add("id", &SetUpAsk::id).letters(nameLetters).needed();
    t.add("value", &SetUpAsk::value).needed();
    addAuthor(t);
    return t;
}
Type<SetUpValue> setUpValueType() {
    auto t = typeOf<SetUpValue>("setUpValue");
    t.add("id", &SetUpValue::id).letters(nameLetters).needed();
    t.add("value", &SetUpValue::value).needed();
    return t;
}
Type<Meters> metersType() {
    auto t = typeOf<Meters>("meters");
    t.add("peaks", &Meters::peaks).items(0, 20000).help("dBFS by block; blocks that sound only").always();
    t.add("sent", &Meters::sent).items(0, 512).help("dBFS by port, of sound that goes to other devices");
    t.add("heard", &Meters::heard).items(0, 512).help("and that comes from them");
    return t;
}
Type<SoundAsk> soundAskType() {
    auto t = typeOf<SoundAsk>("soundAsk");
    t.add("port", &SoundAsk::port).letters(nameLetters).needed().help("such as `net 3`");
    t.add("input", &SoundAsk::input).always().help("false: what leaves there");
    t.add("after", &SoundAsk::after).range(0, 1e15).help("number of the sample from which on it is wanted");
    return t;
}
Type<PortSound> portSoundType() {
    auto t = typeOf<PortSound>("portSound");
    t.add("begins", &PortSound::begins).range(0, 1e15).always().help("number of the first sample");
    t.add("rate", &PortSound::rate).range(8000, 200000).label("", "Hz").always();
    t.add("samples", &PortSound::samples)
        .letters(sampleLetters)
        .always()
        .help("16 bits each, the most significant byte first, base64");
    return t;
}
Type<MuteAsk> muteAskType() {
    auto t = typeOf<MuteAsk>("mute");
    t.add("space", &MuteAsk::space).letters(200).needed().help("a room, or rooms joined by `+`");
    t.add("muted", &MuteAsk::muted).always();
    t.add("author", &MuteAsk::author).letters(200);
    return t;
}
Type<MuteTold> muteToldType() {
    auto t = typeOf<MuteTold>("muted");
    t.add("space", &MuteTold::space).letters(200);
    t.add("muted", &MuteTold::muted).always();
    return t;
}
Type<CallAsk> callAskType() {
    auto t = typeOf<CallAsk>("call");
    t.add("port", &CallAsk::port).letters(nameLetters).needed();
    t.add("does", &CallAsk::does).letters(nameLetters).needed().help("dial, answer, hold, resume, keys or hang-up");
    t.add("number", &CallAsk::number).letters(60).help("to dial, or the keys");
    return t;
}
Type<LineState> lineStateType() {
    auto t = typeOf<LineState>("line");
    t.add("port", &LineState::port).letters(nameLetters).always();
    t.add("how", &LineState::how).letters(200).always().help("how it is, in words");
    t.add("number", &LineState::number).letters(60).help("of whoever it speaks with");
    t.add("codec", &LineState::codec).letters(nameLetters);
    t.add("registered", &LineState::registered).always();
    t.add("secret", &LineState::secret).always().help("whether it has one");
    t.add("seconds", &LineState::seconds).range(0, 1e9).help("that the call has lasted");
    return t;
}
Type<Lines> linesType() {
    auto t = typeOf<Lines>("lines");
    t.add("lines", &Lines::lines).items(0, 16).always();
    return t;
}
Type<SecretAsk> secretAskType() {
    auto t = typeOf<SecretAsk>("lineSecret");
    t.add("secret", &SecretAsk::secret).letters(200);
    return t;
}

Type<Prints> printsType() {
    auto t = typeOf<Prints>("prints");
    t.add("prints", &Prints::prints).items(0, 4000).always();
    return t;
}
Type<PictureSent> pictureType() {
    auto t = typeOf<PictureSent>("picture");
    t.add("print", &PictureSent::print).letters(16).needed();
    t.add("data", &PictureSent::data).letters(fileLetters).needed().help("base64");
    return t;
}
Type<PinAsk> pinAskType() {
    auto t = typeOf<PinAsk>("pin");
    t.add("surface", &PinAsk::surface).letters(nameLetters).needed();
    t.add("role", &PinAsk::role).letters(nameLetters).needed();
    t.add("pin", &PinAsk::pin).letters(12);
    return t;
}
Type<PinState> pinStateType() {
    auto t = typeOf<PinState>("pins");
    t.add("roles", &PinState::roles).items(0, 4000).always();
    return t;
}

Type<project::Vitals> vitalsType() {
    using project::Vitals;
    auto t = typeOf<Vitals>("health");
    t.add("temperature", &Vitals::celsius).range(-100, 1000).label("", "°C").always();
    t.add("clip", &Vitals::clip).always();
    t.add("clockLost", &Vitals::clockLost).always();
    t.add("muted", &Vitals::muted).always();
    t.add("lamp", &Vitals::lamp)
        .letters(nameLetters)
        .help("live, muted, waits (muted, and nobody who cuts the sound is there) or blinks");
    t.add("outputs", &Vitals::outputs).items(0, 64).letters(nameLetters).help("amplifiers: good, open or short");
    t.add("firmware", &Vitals::firmware).letters(nameLetters);
    t.add("firmwareBefore", &Vitals::firmwareBefore).letters(nameLetters);
    t.add("uptime", &Vitals::uptime).range(0, 1e12).label("", "s").always();
    t.add("sounds", &Vitals::sounds)
        .items(0, 512)
        .letters(nameLetters)
        .help("by network input: encrypted, open, refused or none");
    t.add("contacts", &Vitals::contacts).items(0, 64).help("true: closed");
    t.add("mutes", &Vitals::mutes)
        .items(0, 128)
        .help("of its places (self, usb 1, relay 1) and of the spaces whose sound it cuts; true: muted");
    t.add("lines", &Vitals::lines).items(0, 64).letters(200).help("by telephone or USB port: how it is, in words");
    t.add("clock", &Vitals::clock).letters(nameLetters).help("of its sound network: leads, follows or free");
    t.add("clockFrom", &Vitals::clockFrom).letters(nameLetters).help("name of the device that leads it");
    t.add("clockAhead", &Vitals::clockAhead).range(-1e9, 1e9).label("", "samples").help("of the one that leads");
    return t;
}

Type<IdentifyAsk> identifyType() {
    auto t = typeOf<IdentifyAsk>("identify");
    t.add("on", &IdentifyAsk::on).always();
    t.add("tone", &IdentifyAsk::tone);
    return t;
}
Type<Blinks> blinksType() {
    auto t = typeOf<Blinks>("blinks");
    t.add("blinks", &Blinks::blinks).always();
    return t;
}
Type<Event> eventType() {
    auto t = typeOf<Event>("event");
    t.add("time", &Event::time).letters(nameLetters).help("ISO 8601, UTC");
    t.add("device", &Event::device).letters(200);
    t.add("who", &Event::who).letters(200);
    t.add("what", &Event::what).letters(2000).needed();
    t.add("bad", &Event::bad);
    t.add("times", &Event::times).range(1, 1e9).help("how often, the last at `time`");
    return t;
}
Type<Events> eventsType() {
    auto t = typeOf<Events>("log");
    t.add("events", &Events::events).items(0, 1000).always();
    return t;
}
Type<AddressAsk> addressType() {
    auto t = typeOf<AddressAsk>("address");
    t.add("address", &AddressAsk::address).letters(40).needed();
    t.rule([](const AddressAsk& a, const At& at, Reading& r) {
        if (!readAddress(a.address))
            r.fail(At(at, "address"), "is no address", "Give four numbers such as 127.20.4.10.");
    });
    return t;
}
Type<FirmwareAsk> firmwareType() {
    auto t = typeOf<FirmwareAsk>("firmware");
    t.add("firmware", &FirmwareAsk::firmware).letters(nameLetters).needed();
    return t;
}
Type<ToolAsk> toolAskType() {
    auto t = typeOf<ToolAsk>("toolAsk");
    t.add("tool", &ToolAsk::tool).needed();
    return t;
}
Type<ToolNumber> toolNumberType() {
    auto t = typeOf<ToolNumber>("toolNumber");
    t.add("number", &ToolNumber::number).range(1, 1e9).needed();
    return t;
}
Type<TakeToolAsk> takeToolType() {
    auto t = typeOf<TakeToolAsk>("takeTool");
    t.add("number", &TakeToolAsk::number).range(0, 1e9).help("0: all");
    return t;
}
Type<ToolCount> toolCountType() {
    auto t = typeOf<ToolCount>("toolCount");
    t.add("tools", &ToolCount::tools).range(0, 10000).always();
    return t;
}
Type<Tools> toolsType() {
    auto t = typeOf<Tools>("tools");
    t.add("tools", &Tools::tools).items(0, 10000).always();
    return t;
}

Type<Changed> changedType() {
    auto t = typeOf<Changed>("changed");
    t.add("path", &Changed::path).letters(pathLetters).help("of the program");
    t.add("value", &Changed::value);
    t.add("setUp", &Changed::setUp).letters(nameLetters).help("or of the set-up");
    t.add("text", &Changed::text).help("what that is now");
    t.add("who", &Changed::who).letters(nameLetters);
    t.add("time", &Changed::time).letters(nameLetters);
    return t;
}
Type<Pressed> pressedType() {
    auto t = typeOf<Pressed>("pressed");
    t.add("muted", &Pressed::muted).always();
    t.add("time", &Pressed::time).letters(nameLetters);
    return t;
}
Type<Turned> turnedType() {
    auto t = typeOf<Turned>("turned");
    t.add("knob", &Turned::knob).letters(nameLetters).needed();
    t.add("at", &Turned::at).range(0, 1).always();
    t.add("time", &Turned::time).letters(nameLetters);
    return t;
}
Type<ContactMoved> contactType() {
    auto t = typeOf<ContactMoved>("contact");
    t.add("contact", &ContactMoved::contact).letters(nameLetters).needed();
    t.add("closed", &ContactMoved::closed).always();
    t.add("time", &ContactMoved::time).letters(nameLetters);
    return t;
}

// A program is left out where there is none. Stores of an earlier version wrote null.
Type<Config> configType() {
    auto t = typeOf<Config>("config");
    auto& program = t.byHand("program", "none: it runs none");
    program.reader = [](Config& c, const Json* j, const At& at, Reading& r) {
        c.program.reset();
        if (j && !j->is_null())
            Codec<std::optional<engine::Program>>::read(c.program, *j, {}, At(at, "program"), r);
    };
    program.writer = [](const Config& c) { return c.program ? Codec<engine::Program>::write(*c.program, {}) : Json(); };
    program.checker = [](const Config& c, const Config* before, const At& at, Reading& r) {
        checkSince(c.program, before ? &before->program : nullptr, {}, At(at, "program"), r);
    };
    program.describer = [](Definitions& d) { return Codec<engine::Program>::schema({}, d); };
    t.add("setUp", &Config::setUp).items(0, 700).always();
    t.add("surfaces", &Config::surfaces).items(0, 200).letters(project::longestPack);
    t.add("rules", &Config::rules).letters(project::longestRulePack);
    return t;
}

} // namespace

LOOM_TYPE(Nothing, nothingType)
LOOM_TYPE(DiscoveredDevice, foundType)
LOOM_TYPE(Hello, helloType)
LOOM_TYPE(HelloBack, helloBackType)
LOOM_TYPE(Ticket, ticketType)
LOOM_TYPE(Recognised, recognisedType)
LOOM_TYPE(UnlockBegin, unlockBeginType)
LOOM_TYPE(UnlockShare, unlockShareType)
LOOM_TYPE(UnlockProof, unlockProofType)
LOOM_TYPE(Unlocked, unlockedType)
LOOM_TYPE(SealAsk, sealType)
LOOM_TYPE(Config, configType)
LOOM_TYPE(Told, toldType)
LOOM_TYPE(Staging, stagingType)
LOOM_TYPE(RevisionAsk, revisionAskType)
LOOM_TYPE(RevisionInfo, revisionInfoType)
LOOM_TYPE(Revisions, revisionsType)
LOOM_TYPE(Runs, runsType)
LOOM_TYPE(DeviceState, stateType)
LOOM_TYPE(Image, imageType)
LOOM_TYPE(AudioKeyAsk, audioKeyType)
LOOM_TYPE(PathAsk, pathType)
LOOM_TYPE(ValueAsk, valueAskType)
LOOM_TYPE(Value, valueType)
LOOM_TYPE(SetUpAsk, setUpAskType)
LOOM_TYPE(SetUpValue, setUpValueType)
LOOM_TYPE(Meters, metersType)
LOOM_TYPE(SoundAsk, soundAskType)
LOOM_TYPE(PortSound, portSoundType)
LOOM_TYPE(MuteAsk, muteAskType)
LOOM_TYPE(MuteTold, muteToldType)
LOOM_TYPE(CallAsk, callAskType)
LOOM_TYPE(LineState, lineStateType)
LOOM_TYPE(Lines, linesType)
LOOM_TYPE(SecretAsk, secretAskType)
LOOM_TYPE(Prints, printsType)
LOOM_TYPE(PictureSent, pictureType)
LOOM_TYPE(PinAsk, pinAskType)
LOOM_TYPE(PinState, pinStateType)
LOOM_TYPE(project::Vitals, vitalsType)
LOOM_TYPE(IdentifyAsk, identifyType)
LOOM_TYPE(Blinks, blinksType)
LOOM_TYPE(Event, eventType)
LOOM_TYPE(Events, eventsType)
LOOM_TYPE(AddressAsk, addressType)
LOOM_TYPE(FirmwareAsk, firmwareType)
LOOM_TYPE(ToolAsk, toolAskType)
LOOM_TYPE(ToolNumber, toolNumberType)
LOOM_TYPE(TakeToolAsk, takeToolType)
LOOM_TYPE(ToolCount, toolCountType)
LOOM_TYPE(Tools, toolsType)
LOOM_TYPE(Changed, changedType)
LOOM_TYPE(Pressed, pressedType)
LOOM_TYPE(Turned, turnedType)
LOOM_TYPE(ContactMoved, contactType)

} // namespace loom::schema
