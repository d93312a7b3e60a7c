// What a device answers to each message (site/protocol.h).
#include "file/base64.h"
#include "rig/front.h"
#include "site/samples.h"

namespace loom::rig {

using site::Code;
using site::DeviceState;
using site::Nothing;
using site::Refusal;

namespace {

template <class T> T orRefuse(Result<T> result) {
    if (!result)
        throw Refusal{Code::refused, result.error()};
    return std::move(*result);
}

} // namespace

// ---- the line ----

site::DiscoveredDevice Front::about() const {
    auto f = device_.describe();
    f.address = where ? where() : "";
    f.reachedAt = reachedAt ? reachedAt() : "";
    return f;
}

site::DiscoveredDevice Front::describe(const Nothing&, Line&) {
    return about();
}

site::HelloBack Front::secure(const site::Hello& ask, Line& line) {
    if (line.channel)
        throw Refusal{Code::refused, {"this line is encrypted already", device_.made().serial, ""}};
    const auto desk = site::readKey(ask.key);
    const auto own = site::newKeys();
    auto channel = desk ? site::Channel::device(own, device_.store().identity(), *desk) : site::Channel();
    if (!channel.usable())
        throw Refusal{Code::wrongParams, {"is no public key", "params/key", ""}};
    next_ = std::move(channel); // the answer leaves in the open; everything after it is encrypted
    return {site::keyText(own.open), site::keyText(device_.store().identity().open)};
}

site::Recognised Front::known(const site::Ticket& ask, Line& line) {
    if (device_.store().knows(ask.ticket)) {
        line.known = true;
        line.ticket = ask.ticket;
    }
    return {line.known};
}

site::UnlockShare Front::unlock(const site::UnlockBegin& ask, Line& line) {
    const auto lock = site::readLock(device_.store().lock());
    if (!lock)
        throw Refusal{Code::refused, device_.store().lock().empty()
                                         ? Error{"it is not sealed", device_.made().serial, ""}
                                         : Error{"its password cannot be read any more", device_.made().serial,
                                                 "Reset it by its button, and try and seal it anew."}};
    const std::string source = line.known ? line.ticket : line.source;
    if (const int wait = guesses_.begin(source, line.known, now_()); wait > 0)
        throw Refusal{Code::busy,
                      {"too many wrong passwords", device_.made().serial,
                       "Try again in " + std::to_string(wait) + (wait == 1 ? " second." : " seconds.")}};
    // Until it is proved it counts as wrong; the log says so once, with how often.
    line.check = site::PasswordCheck::begin(*lock, line.channel->binding(), device_.store().identity().open, ask.share);
    if (!line.check)
        throw Refusal{Code::wrongParams, {"is no share", "params/share", ""}};
    return {line.check->answer().share, line.check->answer().confirm};
}

site::Unlocked Front::prove(const site::UnlockProof& ask, Line& line) {
    const auto check = std::exchange(line.check, std::nullopt);
    if (!check)
        throw Refusal{Code::refused, {"nothing is to be proved", device_.made().serial, "Begin with unlock."}};
    if (!check->proves(ask.confirm)) {
        device_.note("somebody", "A wrong password was tried.", true);
        throw Refusal{Code::locked, {"the password is wrong", device_.made().serial, ""}};
    }
    guesses_.right(line.known ? line.ticket : line.source, line.known);
    site::Unlocked answer;
    if (ask.unseal) {
        orRefuse(device_.unseal());
        device_.note("a computer", "It was opened: no password is needed any more.");
        for (auto& [_, other] : lines_)
            other.check.reset();
    } else if (line.known) {
        answer.ticket = line.ticket;
    } else if (auto ticket = device_.store().newTicket()) { // without room for one it is unlocked all the same
        answer.ticket = line.ticket = *ticket;
        line.known = true;
    }
    line.unlocked = true;
    allowAll();
    return answer;
}

DeviceState Front::seal(const site::SealAsk& ask, Line& line) {
    const auto lock = site::lockFrom(ask.salt, ask.w0, ask.l);
    if (!lock)
        throw Refusal{Code::wrongParams, {"is not what is left of a password", "params", ""}};
    orRefuse(device_.store().setLock(site::lockText(*lock)));
    for (auto& [_, other] : lines_) {
        other.unlocked = other.number == line.number;
        other.known = false;
        other.check.reset();
    }
    device_.note("a computer", "It was sealed with a password.");
    allowAll();
    return device_.state();
}

// ---- what it is told to be ----

DeviceState Front::state(const Nothing&, Line&) {
    return device_.state();
}
site::Config Front::config(const Nothing&, Line&) {
    return device_.running();
}
DeviceState Front::tryConfig(const site::Told& ask, Line&) {
    orRefuse(device_.tryConfig(ask.config, ask.author, ask.revision));
    return device_.state();
}
DeviceState Front::stage(const site::Staging& ask, Line&) {
    orRefuse(ask.config ? device_.stage(*ask.config, ask.author, ask.revision)
                        : device_.stageImage(ask.image, ask.author, ask.revision));
    return device_.state();
}
DeviceState Front::commit(const Nothing&, Line&) {
    orRefuse(device_.commit());
    return device_.state();
}
DeviceState Front::discard(const Nothing&, Line&) {
    device_.discard();
    return device_.state();
}
DeviceState Front::revert(const Nothing&, Line&) {
    orRefuse(device_.revert());
    return device_.state();
}
DeviceState Front::keep(const Nothing&, Line&) {
    orRefuse(device_.keep());
    return device_.state();
}
site::Image Front::image(const Nothing&, Line&) {
    return {orRefuse(device_.image())};
}
site::Revisions Front::revisions(const Nothing&, Line&) {
    return {device_.revisions()};
}
site::Config Front::revision(const site::RevisionAsk& ask, Line&) {
    const auto* r = device_.store().find(ask.revision);
    if (!r)
        throw Refusal{Code::refused,
                      {"it holds no such revision", device_.made().serial, "revisions tells which it holds."}};
    return r->config;
}
DeviceState Front::goBack(const site::RevisionAsk& ask, Line&) {
    orRefuse(device_.goBack(ask.revision));
    return device_.state();
}
DeviceState Front::bootWith(const site::RevisionAsk& ask, Line&) {
    orRefuse(device_.bootWith(ask.revision));
    return device_.state();
}
DeviceState Front::stageAudioKey(const site::AudioKeyAsk& ask, Line&) {
    orRefuse(device_.stageAudioKey(ask.key));
    return device_.state();
}
DeviceState Front::commitAudioKey(const Nothing&, Line&) {
    orRefuse(device_.commitAudioKey());
    device_.note("a computer",
                 device_.store().audioKey().empty() ? "Its sound is open." : "Its sound has another key.");
    return device_.state();
}
DeviceState Front::revertAudioKey(const Nothing&, Line&) {
    orRefuse(device_.revertAudioKey());
    device_.note("a computer",
                 device_.store().audioKey().empty() ? "Its sound is open." : "Its sound has another key.");
    return device_.state();
}

// ---- values ----

site::Value Front::get(const site::PathAsk& ask, Line&) {
    return {ask.path, orRefuse(device_.get(ask.path))};
}
site::Value Front::set(const site::ValueAsk& ask, Line&) {
    return {ask.path, orRefuse(device_.set(ask.path, ask.value, ask.author))};
}
site::SetUpValue Front::setUp(const site::SetUpAsk& ask, Line&) {
    orRefuse(device_.setUp(ask.id, ask.value, ask.author));
    return {ask.id, ask.value};
}
site::Meters Front::meters(const Nothing&, Line&) {
    return {device_.meters(), device_.portLevels(SoundSide::Way::leaves), device_.portLevels(SoundSide::Way::comes)};
}
site::PortSound Front::sound(const site::SoundAsk& ask, Line&) {
    const auto heard = orRefuse(device_.sound(ask.port, ask.input, static_cast<std::uint64_t>(ask.after)));
    return {static_cast<double>(heard.begins), device_.made().rate, site::samplesText(heard.samples)};
}

// ---- conversations ----

site::MuteTold Front::mute(const site::MuteAsk& ask, Line&) {
    return {ask.space, orRefuse(device_.mute(ask.space, ask.muted, ask.author))};
}
site::LineState Front::call(const site::CallAsk& ask, Line&) {
    orRefuse(device_.call(ask.port, ask.does, ask.number));
    for (auto& l : device_.lines())
        if (l.port == ask.port)
            return l;
    return {};
}
site::Lines Front::lines(const Nothing&, Line&) {
    return {device_.lines()};
}
site::Prints Front::pictures(const site::Prints& ask, Line&) {
    site::Prints lacking;
    for (const auto& print : ask.prints)
        if (!device_.store().hasPicture(print))
            lacking.prints.push_back(print);
    return lacking;
}

Nothing Front::picture(const site::PictureSent& ask, Line&) {
    const auto bytes = project::bytesOfBase64(ask.data);
    if (!bytes)
        throw Refusal{Code::wrongParams, {"is no base64", "params/data", ""}};
    orRefuse(device_.store().addPicture(ask.print, *bytes));
    return {};
}

site::PinState Front::pin(const site::PinAsk& ask, Line&) {
    orRefuse(device_.setPin(ask));
    return {device_.pins()};
}

site::PinState Front::pins(const Nothing&, Line&) {
    return {device_.pins()};
}

site::Lines Front::lineSecret(const site::SecretAsk& ask, Line&) {
    orRefuse(device_.setLineSecret(ask.secret));
    device_.note("a computer",
                 ask.secret.empty() ? "The secret of its lines was taken away." : "The secret of its lines was set.");
    return {device_.lines()};
}

// ---- the device ----

site::Blinks Front::identify(const site::IdentifyAsk& ask, Line&) {
    device_.identify(ask.on, ask.tone);
    return {device_.identifying()};
}
site::Vitals Front::health(const Nothing&, Line&) {
    return device_.health();
}
site::Events Front::log(const Nothing&, Line&) {
    const auto& log = device_.store().log();
    return {{log.begin(), log.end()}};
}
site::AddressAsk Front::address(const site::AddressAsk& ask, Line&) {
    if (device_.model() && device_.model()->usb)
        throw Refusal{Code::refused, {"a board on USB has no address of its own", device_.made().serial, ""}};
    after_ = [this, to = ask.address] {
        if (moveTo)
            moveTo(to);
    };
    return ask;
}
Nothing Front::update(const site::FirmwareAsk& ask, Line&) {
    orRefuse(device_.update(ask.firmware));
    after_ = [this] {
        if (restart)
            restart(1500);
    };
    return {};
}
Nothing Front::rollBack(const Nothing&, Line&) {
    orRefuse(device_.rollBack());
    after_ = [this] {
        if (restart)
            restart(1500);
    };
    return {};
}
site::ToolNumber Front::putTool(const site::ToolAsk& ask, Line& line) {
    const int number = orRefuse(device_.putTool(ask.tool));
    toolOwners_[number] = line.number;
    return {number};
}
site::ToolCount Front::takeTool(const site::TakeToolAsk& ask, Line&) {
    ask.number > 0 ? device_.takeTool(ask.number) : device_.takeTools();
    return {static_cast<int>(device_.tools().size())};
}
site::Tools Front::tools(const Nothing&, Line&) {
    return {device_.tools()};
}
Nothing Front::powerCycle(const Nothing&, Line&) {
    after_ = [this] {
        if (restart)
            restart(700);
    };
    return {};
}

} // namespace loom::rig
