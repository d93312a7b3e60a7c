#include "rig/far_side.h"
#include "catalogue/transport.h"

namespace loom::rig {

using nlohmann::json;

namespace {

Error wrongly(const std::string& fault, const std::string& takes) {
    return Error{"takes " + takes, "fault " + fault, ""};
}

std::set<std::string> textsIn(const json& list) {
    std::set<std::string> all;
    for (const auto& one : list)
        if (one.is_string())
            all.insert(one.get<std::string>());
    return all;
}

} // namespace

FarSide::FarSide(std::vector<Port> ports, std::shared_ptr<SoundSide> side) {
    for (auto& p : ports) {
        auto w = std::make_unique<Way>();
        w->port = std::move(p);
        w->from.cable = w->port.leaves;
        w->from.side = side;
        if (project::transportOf(w->port.port) == project::Transport::telephone) {
            w->line = std::make_unique<farend::Telephone>(w->port.voice);
        } else {
            if (!computer_)
                computer_ = std::make_unique<farend::Computer>(w->port.voice);
            (w->port.port == "usb 2" ? channels_[1] : channels_[0]) = w.get();
        }
        ways_.push_back(std::move(w));
    }
}

void FarSide::setAccount(const farend::Account& account, int answersAfter) {
    const std::lock_guard inside(door_);
    for (auto& w : ways_)
        if (w->line)
            w->line->setAccount(account), w->line->setAnswersAfter(answersAfter);
}

void FarSide::setMuted(const std::string& port, bool muted) {
    const std::lock_guard inside(door_);
    if (computer_ && project::transportOf(port) == project::Transport::usb)
        computer_->muted = muted;
}

Result<Done> FarSide::call(const std::string& port, const std::string& does, const std::string& number) {
    const std::lock_guard inside(door_);
    for (auto& w : ways_) {
        if (!w->line || w->port.port != port)
            continue;
        auto& line = *w->line;
        if (does == "dial")
            return line.dial(number);
        if (does == "answer")
            return line.answer();
        if (does == "hold")
            return line.hold();
        if (does == "resume")
            return line.resume();
        if (does == "keys")
            return line.keys(number);
        if (does == "hang-up")
            return line.hangUp();
        return Error{"\"" + does.substr(0, 40) + "\" is nothing that a line does", port,
                     "It dials, answers, holds, resumes, sends keys and hangs up."};
    }
    return Error{"there is no such line", port.substr(0, 40), "Its program uses none of that name."};
}

std::optional<bool> FarSide::pressed(const std::string& port) {
    const std::lock_guard inside(door_);
    if (!computer_ || project::transportOf(port) != project::Transport::usb || !std::exchange(pressed_, false))
        return {};
    return computer_->muted;
}

Result<Done> FarSide::setComputer(const json& how) {
    const auto wrong = wrongly("computer", "here, call, channel, rate and mute");
    const std::lock_guard inside(door_);
    if (!how.is_object() || !computer_)
        return computer_ ? wrong : Error{"it has no computer", "fault computer", ""};
    for (const auto& [key, v] : how.items()) {
        if (key == "here" && v.is_boolean()) {
            computer_->cameAway = computer_->here && !v.get<bool>() && computer_->calling;
            computer_->here = v.get<bool>();
        } else if (key == "call" && v.is_boolean()) {
            computer_->calling = v.get<bool>();
        } else if (key == "channel" && (v == 1 || v == 2)) {
            computer_->channel = v.get<int>();
        } else if (key == "rate" && (v == 16000 || v == 48000)) {
            computer_->rate = v.get<int>();
        } else if (key == "mute" && v.is_boolean()) { // its user presses the mute of the call
            computer_->muted = v.get<bool>();
            pressed_ = true;
        } else {
            return wrong;
        }
    }
    return Done{};
}

Result<Done> FarSide::setLine(const json& how) {
    const auto wrong = wrongly("line", "rings, codec, loss and delay");
    const std::lock_guard inside(door_);
    if (!how.is_object())
        return wrong;
    farend::LineFaults faults;
    for (const auto& [key, v] : how.items()) {
        const bool good = (key == "rings" && v.is_string()) ||
                          (key == "codec" && v.is_string() && farend::codecOf(v.get<std::string>())) ||
                          (key == "loss" && v.is_number() && v >= 0 && v <= 1) ||
                          (key == "delay" && v.is_number() && v >= 0 && v <= 1000);
        if (!good)
            return wrong;
        if (key == "loss")
            faults.loss = v.get<double>();
        if (key == "delay")
            faults.delayMs = v.get<double>();
    }
    for (auto& w : ways_)
        if (w->line) {
            if (how.contains("codec"))
                w->line->setCodec(*farend::codecOf(how["codec"].get<std::string>()));
            if (how.contains("loss") || how.contains("delay"))
                w->line->setFaults(faults); // of the next call
            if (how.contains("rings"))
                w->line->ring(how["rings"].get<std::string>().substr(0, 40));
        }
    return Done{};
}

Result<Done> FarSide::setExchange(const json& how) {
    const auto wrong = wrongly("exchange", "here, server, accounts, busy and nobody");
    const std::lock_guard inside(door_);
    if (!how.is_object())
        return wrong;
    auto now = exchange_;
    for (const auto& [key, v] : how.items()) {
        if (key == "here" && v.is_boolean()) {
            now.reachable = v.get<bool>();
        } else if (key == "server" && v.is_string()) {
            now.server = v.get<std::string>();
        } else if (key == "accounts" && v.is_object()) {
            now.accounts.clear();
            for (const auto& [name, secret] : v.items())
                if (secret.is_string())
                    now.accounts[name] = secret.get<std::string>();
        } else if (key == "busy" && v.is_array()) {
            now.busy = textsIn(v);
        } else if (key == "nobody" && v.is_array()) {
            now.nobody = textsIn(v);
        } else {
            return wrong;
        }
    }
    exchange_ = now;
    for (auto& w : ways_)
        if (w->line)
            w->line->setExchange(exchange_);
    return Done{};
}

std::vector<FarSide::Line> FarSide::lines() const {
    const std::lock_guard inside(door_);
    std::vector<Line> all;
    for (const auto& w : ways_)
        if (w->line) {
            using State = farend::Telephone::State;
            const auto state = w->line->state();
            const bool talks = state == State::inCall || state == State::onHold;
            all.push_back({w->port.port, w->line->words(), state == State::onHook ? "" : w->line->number(),
                           talks ? nameOf(w->line->codec()) : "", w->line->unregistered().empty(),
                           talks ? w->line->seconds() : 0});
        }
    return all;
}

std::map<std::string, std::string> FarSide::words() const {
    std::map<std::string, std::string> all;
    for (const auto& l : lines())
        all[l.port] = l.how;
    const std::lock_guard inside(door_);
    for (const auto* c : channels_)
        if (c && computer_)
            all[c->port.port] = computer_->words();
    return all;
}

bool FarSide::computerMuted() const {
    const std::lock_guard inside(door_);
    return computer_ && computer_->muted;
}

std::vector<float> FarSide::heard(const std::string& port) const {
    const std::lock_guard inside(door_);
    for (const auto& w : ways_)
        if (w->port.port == port)
            return w->line ? w->line->heard().last() : computer_->heard().last();
    return {};
}

void FarSide::step() {
    const std::lock_guard inside(door_);
    for (auto& w : ways_) {
        w->from.read();
        if (w->line)
            w->line->step(w->from.samples.data(), w->says.data(), soundBlock);
    }
    if (computer_) {
        const float* sent[2]{};
        float* says[2]{};
        for (int c = 0; c < 2; ++c)
            if (channels_[c])
                sent[c] = channels_[c]->from.samples.data(), says[c] = channels_[c]->says.data();
        computer_->step(sent, says, soundBlock);
    }
    for (auto& w : ways_)
        if (w->port.comes)
            w->port.comes->write(w->says.data(), soundBlock);
}

} // namespace loom::rig
