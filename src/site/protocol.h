// The device protocol: every message once, with what is asked, what is answered and who may ask it. Dispatch on the
// device, calls of the client, the checks of both and the tables of docs/protocol.md come from here.
//
// Messages are JSON-RPC 2.0 objects. What is asked and answered are declared types (site/protocol_types.cpp): both
// sides read them by their declaration, so that a member of another kind, a text that is too long or a number outside
// its range is refused with its place, whoever sent it.
#pragma once
#include "model/describe.h"
#include "model/health.h"
#include "site/config.h"
#include "site/event_log.h"
#include "site/found.h"

namespace loom::site {

// Who may ask a message.
enum class Caller {
    anyone,    // also on a line in the open
    encrypted, // on an encrypted line
    unlocked,  // on an encrypted line; of a device that is sealed, by who has proved to know the password on it
};

// ---- what is asked and answered ----

using project::Vitals;

struct Nothing {
    bool operator==(const Nothing&) const = default;
};

// -- the line --
struct Hello {
    std::string key{}; // of this line alone, base64
};
struct HelloBack {
    std::string key{}, identity{};
};
struct Ticket {
    std::string ticket{}; // 32 bytes, base64: what the device gave to a computer that knew the password
};
struct Recognised {
    bool known = false;
};
struct UnlockBegin { // SPAKE2+, the first of two steps
    std::string share{};
};
struct UnlockShare {
    std::string share{}, confirm{}; // the device proves that it knows the password first
};
struct UnlockProof {
    std::string confirm{};
    bool unseal = false; // and no password is needed any more
};
struct Unlocked {
    std::string ticket{}; // "": it is not sealed any more
};
struct SealAsk {
    std::string salt{}, w0{}, l{}; // what is left of a password: site/password.h
};

// -- what it is told to be --
struct Told {
    Config config{};
    std::string author{};
    int revision = 0; // 0: the next free one
};
struct Staging {
    std::optional<Config> config{};
    std::string image{}; // instead: of a small board, as Intel HEX
    std::string author{};
    int revision = 0;
};
struct RevisionAsk {
    int revision = 0;
};
struct RevisionInfo {
    int revision = 0;
    std::string time{}, author{};
    bool kept = false;
    bool operator==(const RevisionInfo&) const = default;
};
struct Revisions {
    std::vector<RevisionInfo> revisions{};
};
struct Runs {
    int revision = 0;
    std::string fingerprint{}, author{}, time{};
    bool turned = false; // changed at the device, or by anybody, since it was told
    bool operator==(const Runs&) const = default;
};
struct DeviceState {
    bool powered = true;
    std::string boot{};            // another text after every start
    std::string fingerprint{};     // of what runs, told or not
    std::optional<Runs> running{}; // none: it was never told anything
    std::optional<Runs> kept{};    // what it boots with
    int tools = 0, missed = 0;     // at work; deadlines
    std::string audioKey{};        // print of the key of its sound; "": it has none
    bool operator==(const DeviceState&) const = default;
};
struct Image {
    std::string image{};
};
struct AudioKeyAsk {
    std::string key{}; // base64; "": none
};

// -- values --
struct PathAsk {
    std::string path{};
};
struct ValueAsk {
    std::string path{};
    double value = 0;
    std::string author{};
};
struct Value {
    std::string path{};
    double value = 0;
};
struct SetUpAsk {
    std::string id{}, value{}, author{};
};
struct SetUpValue {
    std::string id{}, value{};
};
struct Meters {
    std::map<std::string, double> peaks{};       // dBFS by block; blocks that sound only
    std::map<std::string, double> sent, heard{}; // dBFS by port, of sound that goes to other devices, and comes
};
struct SoundAsk {
    std::string port{};
    bool input = true; // else what leaves there
    double after = 0;  // number of the sample from which on it is wanted
};
struct PortSound {
    double begins = 0, rate = 48000; // number of the first sample; Hz
    std::string samples{};           // site/samples.h
};

// -- conversations --
struct MuteAsk {
    std::string space{}, author{};
    bool muted = false;
};
struct MuteTold {
    std::string space{};
    bool muted = false;
};
struct CallAsk {
    std::string port{}, does{}, number{}; // does: dial, answer, hold, resume, keys, hang-up; number: or keys
};
struct LineState {
    std::string port{}, how{}, number{}, codec{}; // how: "in a call", or why it cannot be called
    bool registered = false, secret = false;      // secret: the device has one
    double seconds = 0;                           // of the call
    bool operator==(const LineState&) const = default;
};
struct Lines {
    std::vector<LineState> lines{};
};
struct SecretAsk {
    std::string secret{}; // "": none
};

// -- touch surfaces --
struct Prints {
    std::vector<std::string> prints{}; // of pictures and sounds: project::contentPrint()
};
struct PictureSent {
    std::string print{}, data{}; // base64
};
struct PinAsk {
    std::string surface{}, role{}, pin{}; // ids; pin: "" takes it away
};
struct PinState {
    std::vector<std::string> roles{}; // "SURFACE/ROLE" of those that have one
};

// -- the device --
struct IdentifyAsk {
    bool on = true, tone = false;
};
struct Blinks {
    bool blinks = false;
};
struct Events {
    std::vector<Event> events{};
};
struct AddressAsk {
    std::string address{};
};
struct FirmwareAsk {
    std::string firmware{};
};
struct ToolAsk {
    project::Tool tool{};
};
struct ToolNumber {
    int number = 0;
};
struct TakeToolAsk {
    int number = 0; // 0: all
};
struct ToolCount {
    int tools = 0;
};
struct Tools {
    std::vector<project::Tool> tools{};
};

// -- what it tells unasked --
struct Changed { // a value of the program, or of the set-up
    std::string path{}, setUp{}, text{}, who{}, time{};
    double value = 0;
};
struct Pressed {
    bool muted = false;
    std::string time{};
};
struct Turned {
    std::string knob{}, time{};
    double at = 0; // 0 to 1
};
struct ContactMoved {
    std::string contact{}, time{};
    bool closed = false;
};

// ---- the messages ----

// One line a message: its name in C++ and on the line, what is asked, what is answered, who may, what it does.
#define LOOM_MESSAGES(X)                                                                                               \
    X(describe, "describe", Nothing, DiscoveredDevice, anyone, "what it is")                                           \
    X(secure, "secure", Hello, HelloBack, anyone, "encrypts the line from here on; only as its first message")         \
    X(known, "known", Ticket, Recognised, encrypted,                                                                   \
      "by the ticket that an earlier unlock gave: a place is kept for this computer, and strangers' wrong "            \
      "passwords do not hold it up")                                                                                   \
    X(unlock, "unlock", UnlockBegin, UnlockShare, encrypted, "begins to prove the password; counts as a try")          \
    X(prove, "prove", UnlockProof, Unlocked, encrypted, "ends it: the line is unlocked, or the device opened")         \
    X(seal, "seal", SealAsk, DeviceState, unlocked, "a password is needed from here on")                               \
    X(identify, "identify", IdentifyAsk, Blinks, unlocked,                                                             \
      "its lamp blinks and its lane is mute while on; with `tone` every output of its program sounds 1 kHz at "        \
      "-30 dBFS instead")                                                                                              \
    X(state, "state", Nothing, DeviceState, unlocked, "what runs and what is kept, without their contents")            \
    X(config, "config", Nothing, Config, unlocked, "what it is told to be")                                            \
    X(tryConfig, "try", Told, DeviceState, unlocked, "runs it from the next frame on")                                 \
    X(stage, "stage", Staging, DeviceState, unlocked,                                                                  \
      "several devices as one step: each checks and holds it. Small boards take an image, which must fit their "       \
      "store")                                                                                                         \
    X(commit, "commit", Nothing, DeviceState, unlocked, "runs what is staged")                                         \
    X(discard, "discard", Nothing, DeviceState, unlocked, "forgets what is staged")                                    \
    X(revert, "revert", Nothing, DeviceState, unlocked, "runs again what ran before the last commit")                  \
    X(keep, "keep", Nothing, DeviceState, unlocked, "what runs is a revision in the store, and what it boots with")    \
    X(image, "image", Nothing, Image, unlocked, "small boards: the store read back, as an Intel HEX file")             \
    X(revisions, "revisions", Nothing, Revisions, unlocked, "those it holds, oldest first, 12 at most")                \
    X(revision, "revision", RevisionAsk, Config, unlocked, "the content of one")                                       \
    X(goBack, "goBack", RevisionAsk, DeviceState, unlocked, "runs a stored one")                                       \
    X(bootWith, "bootWith", RevisionAsk, DeviceState, unlocked, "boots with a stored one from now on; 0: with none")   \
    X(stageAudioKey, "stageAudioKey", AudioKeyAsk, DeviceState, unlocked,                                              \
      "holds a key for its sound over the network; sealed devices only")                                               \
    X(commitAudioKey, "commitAudioKey", Nothing, DeviceState, unlocked, "takes it")                                    \
    X(revertAudioKey, "revertAudioKey", Nothing, DeviceState, unlocked, "takes the one before again")                  \
    X(get, "get", PathAsk, Value, unlocked, "a value of what runs")                                                    \
    X(set, "set", ValueAsk, Value, unlocked, "sets it, and answers with what holds now")                               \
    X(setUp, "setUp", SetUpAsk, SetUpValue, unlocked, "one value of the set-up")                                       \
    X(meters, "meters", Nothing, Meters, unlocked, "levels")                                                           \
    X(sound, "sound", SoundAsk, PortSound, unlocked,                                                                   \
      "what passes a port, from the first time that it is asked for until nobody has asked for 3 s; four at once")     \
    X(mute, "mute", MuteAsk, MuteTold, unlocked,                                                                       \
      "mutes a space that it takes part in, everywhere, or lets it be heard again")                                    \
    X(call, "call", CallAsk, LineState, unlocked, "of a telephone line: dial, answer, hold, resume, keys, hang-up")    \
    X(lines, "lines", Nothing, Lines, unlocked, "its telephone lines")                                                 \
    X(lineSecret, "lineSecret", SecretAsk, Lines, unlocked,                                                            \
      "secret of its lines' account: it stays in the device, and nobody is told it")                                   \
    X(pictures, "pictures", Prints, Prints, unlocked, "of these pictures of touch surfaces those that it has not")     \
    X(picture, "picture", PictureSent, Nothing, unlocked, "a picture of a touch surface, or a sound of a program")     \
    X(pin, "pin", PinAsk, PinState, unlocked,                                                                          \
      "PIN of a role of a touch surface, 4 to 12 digits: it stays in the device, and nobody is told it")               \
    X(pins, "pins", Nothing, PinState, unlocked, "which roles of its touch surfaces have a PIN")                       \
    X(health, "health", Nothing, Vitals, unlocked, "how it is")                                                        \
    X(log, "log", Nothing, Events, unlocked, "its own events, 200 at most")                                            \
    X(address, "address", AddressAsk, AddressAsk, unlocked, "it takes it up; all lines end")                           \
    X(update, "update", FirmwareAsk, Nothing, unlocked, "it starts anew with this firmware")                           \
    X(rollBack, "rollBack", Nothing, Nothing, unlocked, "it starts anew with the firmware before")                     \
    X(putTool, "putTool", ToolAsk, ToolNumber, unlocked, "acts on what runs, is never kept, and ends with the line")   \
    X(takeTool, "takeTool", TakeToolAsk, ToolCount, unlocked, "takes one away, or all; how many are left")             \
    X(tools, "tools", Nothing, Tools, unlocked, "those at work")                                                       \
    X(powerCycle, "powerCycle", Nothing, Nothing, unlocked, "all lines drop; 0.7 s later it runs what is kept")

// What a device tells by itself, on encrypted lines (of a sealed one: on unlocked ones).
#define LOOM_NOTICES(X)                                                                                                \
    X(changed, "changed", Changed, "a value of the program or of the set-up was changed, by whom")                     \
    X(pressed, "pressed", Pressed, "its button")                                                                       \
    X(turned, "turned", Turned, "a knob or push-button")                                                               \
    X(contact, "contact", ContactMoved, "a contact input")                                                             \
    X(event, "event", Event, "something for the log")

template <class A, class B> struct Message {
    using Ask = A;
    using Answer = B;
    const char* name;
    Caller caller;
};
template <class T> struct Notice { const char* name; };

namespace message {
#define LOOM_ONE(id, wire, Ask, Answer, who, says) inline constexpr Message<Ask, Answer> id{wire, Caller::who};
LOOM_MESSAGES(LOOM_ONE)
#undef LOOM_ONE
} // namespace message
namespace notice {
#define LOOM_ONE(id, wire, T, says) inline constexpr Notice<T> id{wire};
LOOM_NOTICES(LOOM_ONE)
#undef LOOM_ONE
} // namespace notice

// What is said of every message, for tables and tests.
struct MessageInfo {
    std::string name;
    Caller caller;
    std::string says;
    nlohmann::json ask, answer; // JSON Schemas
};
const std::vector<MessageInfo>& allMessages();
struct NoticeInfo {
    std::string name, says;
    nlohmann::json what; // JSON Schema
};
std::vector<NoticeInfo> allNotices();
std::string wordOf(Caller caller); // "anyone", "an encrypted line", "an unlocked line"

// ---- refusals ----

enum class Code { // JSON-RPC's, and our own
    notJson = -32700,
    noRequest = -32600,
    noMethod = -32601,
    wrongParams = -32602,
    refused = 1,  // by the device: the text says what, where and what to do
    locked = 2,   // a password is needed, or was wrong
    openLine = 3, // only on an encrypted line
    busy = 4,     // too many tries: later
    // Never on a line: what the client itself says.
    lost = 100, // the line went away, or was never there: whether it was done is not known
};
struct Refusal {
    Code code;
    Error why;
};
// What is answered to who may not ask it. `encrypted`: whether the line is.
Refusal refusalFor(Caller needed, bool encrypted, const std::string& serial);

// ---- limits ----

inline constexpr std::size_t mostBeforeUnlocked = 16u << 10; // bytes of a message, either way
inline constexpr std::size_t mostUnlocked = 8u << 20;
inline constexpr std::size_t mostFrame = 1u << 20;    // larger messages come in several
inline constexpr std::size_t mostWaiting = 16u << 20; // bytes that wait to be sent on one line; then it is dropped

// Requests and answers as texts.
template <class A, class B> std::string requestText(int id, const Message<A, B>& m, const A& ask) {
    return nlohmann::json{{"jsonrpc", "2.0"}, {"id", id}, {"method", m.name}, {"params", schema::toJson(ask)}}.dump(
        -1, ' ', false, nlohmann::json::error_handler_t::replace);
}
template <class T> std::string noticeText(const Notice<T>& n, const T& what) {
    return nlohmann::json{{"jsonrpc", "2.0"}, {"method", n.name}, {"params", schema::toJson(what)}}.dump(
        -1, ' ', false, nlohmann::json::error_handler_t::replace);
}

} // namespace loom::site

namespace loom::schema {

#define LOOM_PROTOCOL_TYPES(X)                                                                                         \
    X(site::Nothing)                                                                                                   \
    X(site::Hello)                                                                                                     \
    X(site::HelloBack)                                                                                                 \
    X(site::Ticket)                                                                                                    \
    X(site::Recognised)                                                                                                \
    X(site::UnlockBegin)                                                                                               \
    X(site::UnlockShare)                                                                                               \
    X(site::UnlockProof)                                                                                               \
    X(site::Unlocked)                                                                                                  \
    X(site::SealAsk)                                                                                                   \
    X(site::Told)                                                                                                      \
    X(site::Staging)                                                                                                   \
    X(site::RevisionAsk)                                                                                               \
    X(site::RevisionInfo)                                                                                              \
    X(site::Revisions)                                                                                                 \
    X(site::Runs)                                                                                                      \
    X(site::DeviceState)                                                                                               \
    X(site::Image)                                                                                                     \
    X(site::AudioKeyAsk)                                                                                               \
    X(site::PathAsk)                                                                                                   \
    X(site::ValueAsk)                                                                                                  \
    X(site::Value)                                                                                                     \
    X(site::SetUpAsk)                                                                                                  \
    X(site::SetUpValue)                                                                                                \
    X(site::Meters)                                                                                                    \
    X(site::SoundAsk)                                                                                                  \
    X(site::PortSound)                                                                                                 \
    X(site::MuteAsk)                                                                                                   \
    X(site::MuteTold)                                                                                                  \
    X(site::CallAsk)                                                                                                   \
    X(site::LineState)                                                                                                 \
    X(site::Lines)                                                                                                     \
    X(site::SecretAsk)                                                                                                 \
    X(site::Prints)                                                                                                    \
    X(site::PictureSent)                                                                                               \
    X(site::PinAsk)                                                                                                    \
    X(site::PinState)                                                                                                  \
    X(project::Vitals)                                                                                                 \
    X(site::IdentifyAsk)                                                                                               \
    X(site::Blinks)                                                                                                    \
    X(site::Event)                                                                                                     \
    X(site::Events)                                                                                                    \
    X(site::AddressAsk)                                                                                                \
    X(site::FirmwareAsk)                                                                                               \
    X(site::ToolAsk)                                                                                                   \
    X(site::ToolNumber)                                                                                                \
    X(site::TakeToolAsk)                                                                                               \
    X(site::ToolCount)                                                                                                 \
    X(site::Tools)                                                                                                     \
    X(site::Changed)                                                                                                   \
    X(site::Pressed)                                                                                                   \
    X(site::Turned)                                                                                                    \
    X(site::ContactMoved)

LOOM_PROTOCOL_TYPES(LOOM_DESCRIBE)

} // namespace loom::schema
