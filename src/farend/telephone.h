// A telephone line with somebody at its other end: registered at an exchange, dialled, answered, held, hung up.
#pragma once
#include "engine/result.h"
#include "farend/exchange.h"
#include "farend/line_codec.h"
#include "farend/record.h"

namespace loom::farend {

// One thread at a time; its clock is the sound that passes (step).
class Telephone {
  public:
    enum class State { onHook, dialling, ringsThere, ringsHere, inCall, onHold };
    // voice: what the other end says, at 48 kHz, over and over.
    explicit Telephone(std::shared_ptr<const std::vector<float>> voice);

    void setAccount(const Account& account) { account_ = account; }
    void setExchange(const Exchange& exchange) { exchange_ = exchange; }
    void setFaults(LineFaults faults) { faults_ = faults; }
    void setCodec(Codec codec) { wanted_ = codec; }
    void setAnswersAfter(int rings) { answersAfter_ = rings; } // 0: by hand
    // "" while it is registered, else why not.
    std::string unregistered() const { return exchange_.refuses(account_); }

    // Errors say what hinders it and what to do.
    Result<Done> dial(const std::string& number);
    Result<Done> answer();
    Result<Done> hold();
    Result<Done> resume();
    Result<Done> keys(const std::string& keys); // keypad tones, in a call
    Result<Done> hangUp();
    void ring(const std::string& from); // somebody calls; nothing happens while it is engaged or not registered

    State state() const { return state_; }
    const std::string& number() const { return number_; } // of whoever it speaks with
    Codec codec() const { return codec_ ? codec_->codec() : wanted_; }
    double seconds() const { return seconds_; } // that the call has lasted
    std::string words() const;                  // "in a call with 2041, G.722"
    // What it is sent, and what it hears of the other end.
    void step(const float* sent, float* received, int frames);
    const Record& heard() const { return heard_; } // there

  private:
    void begin();
    void end(const std::string& why);
    std::shared_ptr<const std::vector<float>> voice_;
    Account account_{};
    Exchange exchange_{};
    LineFaults faults_{};
    Codec wanted_ = Codec::g722;
    int answersAfter_ = 0;
    State state_ = State::onHook;
    std::string number_{}, ended_{};
    double seconds_ = 0, inState_ = 0;
    std::unique_ptr<LineCodec> codec_{}, back_{};
    std::vector<float> tones_{};
    std::size_t spoken_ = 0, toned_ = 0;
    Record heard_{};
};

const char* nameOf(Telephone::State state); // "in a call"

} // namespace loom::farend
