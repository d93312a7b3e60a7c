// Sound that several loudspeakers make at a place in a room: direct by distance and direction, reverberant by
// statistics, per octave.
#pragma once
#include "acoustics/directivity.h"
#include "acoustics/reverberation.h"
#include "acoustics/speech_index.h"
#include <vector>

namespace loom::acoustics {

struct Emitter {
    Point at{};
    Aim aim{};
    Bands level{};              // dB SPL on the axis at 1 m
    const Directivity* pattern; // outlives the emitter
    double delay = 0;           // seconds, >= 0
};

// The room that the emitters play in.
struct Field {
    Reverberation room;
    Bands decay{}; // the reverberation times that count (Eyring's, unless the room says otherwise)
    Bands noise{}; // dB SPL
    Air air{};
    std::vector<Emitter> emitters{};
};

// What is made ready once for all places.
class Prediction {
  public:
    explicit Prediction(Field field);
    const Field& field() const { return field_; }
    // Direct level of one emitter at a place: L1 + D(direction) - 20 lg r - air, r at least 0.1 m.
    Bands direct(std::size_t emitter, const Point& at) const;
    // Reverberant level of all emitters together: Lw + 10 lg(4 / R) with Lw = L1 - DI + 10 lg 4 pi
    // (L. Beranek, Acoustics, ch. 10). It is the same everywhere.
    const Bands& reverberant() const { return reverberant_; }

    struct Value {
        Bands direct{}, total{}; // dB SPL of all emitters
        double directA = 0, totalA = 0;
        double clarity = 0; // C50 in dB over 500 Hz to 4 kHz, weighted as speech is (0.15, 0.25, 0.35, 0.25)
        double sti = 0;
        int loudest = -1;  // emitter of the strongest A-weighted direct sound
        double spread = 0; // seconds between first and last arrival of emitters within 10 dB of the loudest
    };
    // C50: early is what comes up to 50 ms after the first direct sound. Reverberant sound dies away from the direct
    // sound on and is weaker further off (M. Barron, L.-J. Lee, J. Acoust. Soc. Am. 84, 1988, with 50 ms).
    // STI: modulation transfer of direct sounds and one decay (T. Houtgast, H. Steeneken, J. Acoust. Soc. Am. 77,
    // 1985), with noise, masking and threshold (IEC 60268-16).
    Value at(const Point& place) const;

  private:
    struct Arrival {
        Bands energy;
        double time;
    };
    void clarityOf(Value& v, const std::vector<Arrival>& arrivals, double first) const;
    void indexOf(Value& v, const std::vector<Arrival>& arrivals, double first) const;
    Field field_;
    Bands reverberant_{}, airLoss_{};
    double speed_ = 343;
    std::array<std::array<std::array<double, 2>, modulations>, bandCount> decayTurn_{}; // 1 / (1 + j w T / 13.8)
};

} // namespace loom::acoustics
