// The declaration of a kind of block. Each lives in one file of engine/blocks/; catalogue, editors, files, tests and
// documentation are made from it.
#pragma once
#include "dsp/units.h"
#include "engine/gang.h"
#include "engine/program.h"

namespace loom::engine {

// A number that shapes the block itself (channels, bands); changing it makes a new kernel.
struct ShapeSpec {
    std::string id, label;
    int def = 1, min = 1, max = 64;
};

// Parameter values of one block by name.
class Values {
  public:
    Values(const ParamTable& table, const std::vector<double>& values, const Shape& shape)
        : table_(table), values_(values), shape_(shape) {}
    double operator[](const std::string& id) const;
    int shape(const std::string& id) const { return shape_.at(id); }
    const ParamTable& table() const { return table_; }
    const std::vector<double>& all() const { return values_; }

  private:
    const ParamTable& table_;
    const std::vector<double>& values_;
    const Shape& shape_;
};

// What a block takes from its processor. Work is in nanoseconds per sample on the reference core
// (docs/measurements.md).
struct Cost {
    double work = 0;
    double memoryBytes = 0;
};

// How the block draws itself small on its bead.
enum class Glyph { number, curve, transfer, weave, meter, wave, tape, port };

enum class Group { ends, level, filters, delay, routing, sources, eyes, dynamics, speech };

// How a block's kernel takes its sound (kernel.h says more).
enum class Flow { flat, wide, ganged };

struct BlockKind {
    std::string id, label, purpose;
    Group group = Group::level;
    std::vector<ShapeSpec> shape{};
    std::function<std::vector<ParamSpec>(const Shape&)> params{};
    std::function<int(const Shape&)> inputs{}, outputs{};
    std::function<Cost(const Shape&, double rate)> cost{};
    std::function<std::unique_ptr<Kernel>(const KernelSetup&, const ParamTable&, const std::vector<double>&)> kernel{};
    Flow flow = Flow::flat;
    // Flow::ganged: blocks of kinds of one family run side by side in a gang; the kind is channelwise.
    std::string family{};
    std::function<std::unique_ptr<Gang>()> gang{};
    // Complex gain from input to output at a frequency; empty: the block has none (a generator).
    std::function<dsp::Complex(const Values&, int in, int out, double hz, double rate)> response{};
    // Samples by which the sound is later than it came in, beyond what is asked for.
    std::function<int(const Values&, double rate)> latency{};
    bool takesFile = false; // texts["file"] names an asset: a player's sound, a filter's impulse response
    // Dynamics: the level that comes out for a steady level that goes in, both in dBFS.
    std::function<double(const Values&, double inDb)> transfer{};
    std::vector<std::string> readouts{}; // what Kernel::readout() gives, by number: "gain" in dB ...
    Glyph glyph = Glyph::number;
    std::string glyphParam{};                  // Glyph::number: the parameter shown
    std::function<bool(const Values&)> flat{}; // true: changes nothing even when on
    bool channelwise() const;                  // as many outputs as inputs, each fed by its own input
};

const std::vector<BlockKind>& blockKinds();
const BlockKind* findKind(const std::string& id);

// Shape and parameters of a block with defaults filled in. Tables are made once per kind and shape and kept.
Shape fullShape(const BlockKind& kind, const Block& block);
const ParamTable& paramTable(const BlockKind& kind, const Shape& shape);
std::vector<double> fullValues(const ParamTable& table, const Block& block);

// Everything needed to ask about one block.
struct BlockView {
    const BlockKind* kind;
    Shape shape;
    const ParamTable* table;
    std::vector<double> values;
    explicit BlockView(const Block& block); // kind must be known
    Values look() const { return {*table, values, shape}; }
    int inputs() const { return kind->inputs(shape); }
    int outputs() const { return kind->outputs(shape); }
    bool on() const;
    // With the "on" switch and crossed-out ports taken into account.
    dsp::Complex response(int in, int out, double hz, double rate) const;
};

// Puts a value into a block as people mean it: a default is forgotten rather than stored, and a value entered into a
// section or band that is off switches it on. The parameter must exist.
void enterValue(Block& block, const std::string& param, double value);

// The block and parameter a dotted address means: "chair.eq.2.gain" is parameter "2.gain" of block "chair.eq". The
// longest block id that leaves a known parameter wins; block is null if there is none.
struct Address {
    const Block* block = nullptr;
    std::string param{};
    int index = -1; // in the block's parameter table
};
Address findParameter(const Program& program, const std::string& dotted);

// Ports of a block; those of an unknown kind follow from the threads.
int inputsOf(const Program& program, const Block& block);
int outputsOf(const Program& program, const Block& block);

} // namespace loom::engine
