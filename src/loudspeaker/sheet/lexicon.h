// What the words of spec sheets mean, in six languages: words.txt, and files of the same form that add to it.
#pragma once
#include <cstdint>
#include <initializer_list>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace loom::loudspeaker::sheet {

// In the order of words.txt.
enum class Means : std::uint8_t {
    highPass,
    lowPass,
    crossover,
    bell,
    lowShelf,
    highShelf,
    shelf,
    notch,
    allPass,
    level,
    delay,
    polarity,
    impedance,
    leastImpedance,
    power,
    noisePower,
    peakPower,
    otherPower,
    sensitivity,
    coil,
    coverage,
    taps,
    driver,
    compression,
    cone,
    name,
    maker,
    peakLimit,
    rmsLimit,
    limit,
    attack,
    release,
    threshold,
    ignored,
    number,
    type,
    frequency,
    width,
    slope,
    state,
    filter,
    waySub,
    wayLow,
    wayLowMid,
    wayMid,
    wayHighMid,
    wayHigh,
    way,
    butterworth,
    linkwitz,
    bessel,
    bw, // "octave-or-butterworth"
    order,
    inverted,
    normal,
    off,
    forYou,
    yes,
    minimum,
    less,
    relative,
    both,
    otherSide,
    times,
    conjunction,
    per,
    whole,
    filler
};

// What a word may mean: often one thing, sometimes several, of which its surroundings decide.
class Meanings {
  public:
    bool has(Means m) const {
        return bits_[static_cast<std::size_t>(m) / 64] >> (static_cast<std::size_t>(m) % 64) & 1;
    }
    bool any(std::initializer_list<Means> all) const {
        for (const Means m : all)
            if (has(m))
                return true;
        return false;
    }
    void keep(const Meanings& other) { // what both mean
        bits_[0] &= other.bits_[0];
        bits_[1] &= other.bits_[1];
    }
    void drop(Means m) {
        bits_[static_cast<std::size_t>(m) / 64] &= ~(std::uint64_t(1) << (static_cast<std::size_t>(m) % 64));
    }
    void add(Means m) {
        bits_[static_cast<std::size_t>(m) / 64] |= std::uint64_t(1) << (static_cast<std::size_t>(m) % 64);
    }
    bool none() const { return bits_[0] == 0 && bits_[1] == 0; }

  private:
    std::uint64_t bits_[2]{};
};

class Lexicon {
  public:
    // Adds what a text in the form of words.txt says; lines that it does not understand are left out and told.
    // Bounded: a term has at most six words.
    std::vector<std::string> add(std::string_view text);
    void forget(std::string_view words); // what these together mean
    // The longest term that begins with the first of these words: how many of them it takes (0: none), what it means.
    std::size_t longest(const std::vector<std::string_view>& words, Meanings& meanings) const;
    // What all words mean that begin so ("sens", "freq"); nothing if they have nothing in common.
    Meanings abbreviated(std::string_view word) const;
    static const Lexicon& standard();

  private:
    std::map<std::string, Meanings, std::less<>> terms_;  // words parted by one blank
    std::map<std::string, Meanings, std::less<>> begins_; // what words begin with: "tiefton*"
};

} // namespace loom::loudspeaker::sheet
