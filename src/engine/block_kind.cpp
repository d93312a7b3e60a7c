#include "engine/block_kind.h"
#include <algorithm>
#include <mutex>

namespace loom::engine {

double Values::operator[](const std::string& id) const {
    return values_.at(table_.indexOf(id));
}

bool BlockKind::channelwise() const {
    Shape s;
    for (const auto& spec : shape)
        s[spec.id] = spec.id == "channels" ? 3 : spec.def;
    return s.count("channels") && inputs(s) == 3 && outputs(s) == 3;
}

const BlockKind* findKind(const std::string& id) {
    static const auto byId = [] {
        std::unordered_map<std::string, const BlockKind*> all;
        for (const auto& k : blockKinds())
            all.emplace(k.id, &k);
        return all;
    }();
    const auto it = byId.find(id);
    return it == byId.end() ? nullptr : it->second;
}

const ShapeSpec* BlockKind::shapeSpec(const std::string& wanted) const {
    for (const auto& s : shape)
        if (s.id == wanted)
            return &s;
    return nullptr;
}

End endOf(const Block& block) {
    const auto* kind = findKind(block.kind);
    return kind ? kind->end : End::none;
}

bool isMatrix(const Block& block) {
    const auto* kind = findKind(block.kind);
    return kind && kind->crosses;
}

Shape fullShape(const BlockKind& kind, const Block& block) {
    Shape s;
    for (const auto& spec : kind.shape) {
        const auto it = block.shape.find(spec.id);
        s[spec.id] = it == block.shape.end() ? spec.def : std::clamp(it->second, spec.min, spec.max);
    }
    return s;
}

const Form& formOf(const BlockKind& kind, const Shape& shape) {
    static std::mutex lock;
    static std::map<std::pair<const BlockKind*, Shape>, std::unique_ptr<const Form>> forms;
    std::lock_guard guard(lock);
    auto& form = forms[{&kind, shape}];
    if (!form)
        form = std::make_unique<const Form>(
            Form{shape, ParamTable(kind.params(shape)), kind.inputs(shape), kind.outputs(shape)});
    return *form;
}

const ParamTable& paramTable(const BlockKind& kind, const Shape& shape) {
    return formOf(kind, shape).table;
}

std::vector<double> fullValues(const ParamTable& table, const Block& block) {
    std::vector<double> v;
    v.reserve(table.size());
    for (const auto& spec : table.specs())
        v.push_back(spec.def);
    for (const auto& [id, value] : block.values) {
        const int i = table.indexOf(id);
        if (i >= 0 && value == value) // not a number stays at the default
            v[i] = std::clamp(value, table.specs()[i].min, table.specs()[i].max);
    }
    return v;
}

BlockView::BlockView(const Block& block)
    : kind(findKind(block.kind)), shape(fullShape(*kind, block)), table(&paramTable(*kind, shape)),
      values(fullValues(*table, block)) {}

bool BlockView::on() const {
    const int i = table->indexOf("on");
    return i < 0 || values[i] >= 0.5;
}

dsp::Complex BlockView::response(int in, int out, double hz, double rate) const {
    if (in < 0 || out < 0 || in >= inputs() || out >= outputs())
        return 0.0;
    if (on() && kind->response)
        return kind->response(look(), in, out, hz, rate);
    if (on() && kind->passes ? !kind->passes(shape, in, out) : in != out)
        return 0.0;
    const int late = kind->latency ? kind->latency(look(), rate) : 0;
    return std::polar(1.0, -2 * dsp::pi * hz / rate * late);
}

Address findParameter(const Program& program, const std::string& dotted) {
    for (auto dot = dotted.rfind('.'); dot != std::string::npos && dot > 0; dot = dotted.rfind('.', dot - 1)) {
        const Block* block = program.find(dotted.substr(0, dot));
        const BlockKind* kind = block ? findKind(block->kind) : nullptr;
        const std::string param = dotted.substr(dot + 1);
        const int index = kind ? paramTable(*kind, fullShape(*kind, *block)).indexOf(param) : -1;
        if (index >= 0)
            return {block, param, index};
    }
    return {};
}

namespace {
int portsSeen(const Program& program, const Block& block, bool arriving) {
    int n = 0;
    for (const auto& t : program.connections) {
        const PortRef& p = arriving ? t.to : t.from;
        if (p.block == block.id)
            n = std::max(n, p.port + 1);
    }
    return n;
}
} // namespace

void enterValue(Block& b, const std::string& param, double value) {
    const BlockKind& kind = *findKind(b.kind);
    const ParamTable& table = paramTable(kind, fullShape(kind, b));
    const auto put = [&](const std::string& id, double v) {
        const int i = table.indexOf(id);
        if (i >= 0 && table.specs()[i].def == v)
            b.values.erase(id);
        else if (i >= 0)
            b.values[id] = v;
    };
    put(param, value);
    const auto dot = param.find('.');
    const std::string ownSwitch = dot == std::string::npos ? "" : param.substr(0, dot) + ".on";
    if (param == "on" || param == ownSwitch)
        return;
    put(ownSwitch, 1);
    put("on", 1);
}

std::string portName(const BlockKind& kind, const Shape& shape, bool input, int port) {
    return kind.portName ? kind.portName(shape, input, port) : std::to_string(port + 1);
}

int inputsOf(const Program& program, const Block& block) {
    const BlockKind* k = findKind(block.kind);
    return k ? k->inputs(fullShape(*k, block)) : portsSeen(program, block, true);
}

int outputsOf(const Program& program, const Block& block) {
    const BlockKind* k = findKind(block.kind);
    return k ? k->outputs(fullShape(*k, block)) : portsSeen(program, block, false);
}

} // namespace loom::engine
