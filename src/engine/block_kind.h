// The declaration of a kind of block. Each lives in one file of engine/blocks/; catalogue, editors, files, tests and
// documentation are made from it.
#pragma once
#include "dsp/units.h"
#include "engine/gang.h"
#include "engine/param_set.h"
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
    double operator[](Param p) const { return values_[static_cast<std::size_t>(p.at)]; }
    double operator[](const std::string& id) const; // for those who do not know the kind
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

// Ports of the device as blocks: sound enters a program there, or leaves it.
enum class End { none, arrives, leaves };

enum class Group { ends, level, filters, delay, routing, sources, eyes, dynamics, speech };

// What a block's editor shows besides its values. What moves is told by Kernel::readout(), by number from 0:
// the declared readouts, and after them one for each lane, band or point of the picture.
enum class Picture {
    none,
    curve,    // gain over frequency
    transfer, // level out over level in
    lanes,    // each lane's gain in dB
    bands,    // third-octave levels in dB (dsp::thirdOctaveCentres)
    lines,    // a fine spectrum in dB (dsp::FftAnalyser)
    notches   // frequency and depth of each, in turns; 0 Hz: free
};

// A figure that a running block shows. The first of a block is drawn over time as well.
struct Readout {
    std::string id, label;
    std::string unit;          // as it is read: "dB", "LUFS", "" ...
    double min = -60, max = 0; // of the drawing
};

// How a block's kernel takes its sound (kernel.h says more).
enum class Flow { flat, wide, ganged };

struct BlockKind {
    std::string id, label, purpose;
    Group group = Group::level;
    End end = End::none;
    bool network = false; // End: on a port of the network
    std::vector<ShapeSpec> shape{};
    std::function<std::vector<ParamSpec>(const Shape&)> params = ParamSet{};
    std::function<int(const Shape&)> inputs{}, outputs{};
    std::function<Cost(const Shape&, double rate)> cost{};
    std::function<std::unique_ptr<Kernel>(const KernelSetup&, const ParamTable&, const std::vector<double>&)> kernel{};
    Flow flow = Flow::flat;
    // Flow::ganged: blocks of kinds of one family run side by side in a gang; the kind is channelwise.
    std::string family{};
    std::function<std::unique_ptr<Gang>()> gang{};
    // Complex gain from input to output at a frequency; empty: it moves with the sound (dynamics) or there is none.
    std::function<dsp::Complex(const Values&, int in, int out, double hz, double rate)> response{};
    // The same of a filter whose taps are in a file, at many frequencies, without what its latency adds.
    std::function<std::vector<dsp::Complex>(const Values&, const std::vector<float>& taps,
                                            const std::vector<double>& hz, double rate)>
        tapResponse{};
    // Where neither is declared: whether sound goes on from an input to an output; empty: to the one of its number.
    std::function<bool(const Shape&, int in, int out)> passes{};
    // Samples by which the sound is later than it came in, beyond what is asked for.
    std::function<int(const Values&, double rate)> latency{};
    int files = 0;     // how many assets its texts may name (play_list.h): a player's sounds, a filter's response
    bool taps = false; // they are impulse responses (dsp/tap_file.h)
    // Dynamics: the level that comes out for a steady level that goes in, both in dBFS.
    std::function<double(const Values&, double inDb)> transfer{};
    std::vector<Readout> readouts{};
    Picture picture = Picture::none;
    std::map<std::string, double> example{}; // settings that show what it does, for its picture in the documentation
    Glyph glyph = Glyph::number;
    std::string glyphParam{}; // Glyph::number: the parameter shown
    // True: changes nothing even when on.
    std::function<bool(const Values&)> neutral = [](const Values&) { return false; };
    // What a port is called, and by what it is known again when the block gets another shape; empty: its number.
    std::function<std::string(const Shape&, bool input, int port)> portName{};
    const ShapeSpec* shapeSpec(const std::string& id) const; // null: none
    // Every input meets every output: drawn as a weave, its warps and wefts reached by themselves; the crossings'
    // levels are its first parameters, "in.out" from 1.
    bool crosses = false;
    bool channelwise() const; // as many outputs as inputs, each fed by its own input
};

const std::vector<BlockKind>& blockKinds();
const BlockKind* findKind(const std::string& id);
End endOf(const Block& block);     // End::none for an unknown kind
bool isMatrix(const Block& block); // its kind crosses; no for an unknown kind

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
    // With the "on" switch and crossed-out ports taken into account. A kind that declares none passes sound on as it
    // is, as late as it says: dynamics at rest, an automatic mixer with all lanes open.
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

std::string portName(const BlockKind& kind, const Shape& shape, bool input, int port);

// Ports of a block; those of an unknown kind follow from the threads.
int inputsOf(const Program& program, const Block& block);
int outputsOf(const Program& program, const Block& block);

// A kind of block in one shape: worked out once, kept, and known by its address.
struct Form {
    Shape shape;
    ParamTable table;
    int ins, outs;
};

// Any thread. The shape is complete and within its limits (fullShape).
const Form& formOf(const BlockKind& kind, const Shape& shape);

} // namespace loom::engine
