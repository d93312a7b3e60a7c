#include "engine/path_response.h"
#include "engine/block_kind.h"
#include "engine/play_list.h"
#include "engine/schedule.h"

namespace loom::engine {
namespace {

using Row = std::vector<dsp::Complex>;

Row responseOf(const BlockView& view, const Block& block, int in, int out, const std::vector<double>& hz, double rate,
               const Resources& resources) {
    Row row(hz.size());
    for (std::size_t f = 0; f < hz.size(); ++f)
        row[f] = view.response(in, out, hz[f], rate);
    if (!view.kind->tapResponse || !view.on() || in != out)
        return row;
    std::shared_ptr<const dsp::AudioClip> clip;
    if (const auto files = playList(block.texts); !files.empty() && resources.clip)
        clip = resources.clip(files.front(), rate);
    const bool there = clip && clip->frames() > 0;
    const Row taps =
        view.kind->tapResponse(view.look(), there ? clip->channels[0] : std::vector<float>{1.0f}, hz, rate);
    for (std::size_t f = 0; f < hz.size(); ++f)
        row[f] *= taps[f];
    return row;
}

} // namespace

Row blockResponse(const Block& block, int in, int out, const std::vector<double>& hz, double rate,
                  const Resources& resources) {
    return findKind(block.kind) ? responseOf(BlockView(block), block, in, out, hz, rate, resources)
                                : Row(hz.size(), 0.0);
}

ResponseTable tabulate(const std::vector<double>& hz, const std::vector<dsp::Complex>& h) {
    ResponseTable t{hz, {}, {}};
    for (const auto& v : h) {
        t.db.push_back(dsp::dbFromGain(std::abs(v)));
        t.deg.push_back(std::abs(v) > 0 ? std::arg(v) * 180.0 / dsp::pi : 0.0);
    }
    return t;
}

Result<std::vector<dsp::Complex>> pathResponse(const Program& program, const PortRef& from, const PortRef& to,
                                               const std::vector<double>& hz, double rate, const Resources& resources) {
    auto order = runningOrder(program);
    if (!order)
        return order.error();
    const Block *a = program.find(from.block), *b = program.find(to.block);
    if (!a || !b)
        return Error{"there is no such block", a ? to.block : from.block, "loomctl info FILE lists them."};
    if (from.port < 0 || from.port >= outputsOf(program, *a) || to.port < 0 ||
        to.port >= std::max(outputsOf(program, *b), inputsOf(program, *b)))
        return Error{"there is no such port", from.block + " \u2192 " + to.block, "Ports count from 0."};
    std::map<PortRef, PortRef> into;
    for (const auto& t : program.connections)
        into.emplace(t.to, t.from);
    std::map<PortRef, Row> rows{{from, Row(hz.size(), 1.0)}};
    const Row nothing(hz.size(), 0.0);
    const auto at = [&](const PortRef& p) -> const Row& {
        const auto it = rows.find(p);
        return it == rows.end() ? nothing : it->second;
    };
    for (const auto& id : *order) {
        const Block& block = *program.find(id);
        if (id == from.block || !findKind(block.kind))
            continue;
        const BlockView view(block);
        for (int in = 0; in < view.inputs(); ++in) {
            const auto source = into.find({id, in});
            if (source == into.end() || !rows.count(source->second))
                continue;
            const Row x = rows.at(source->second);
            for (int out = 0; out < view.outputs(); ++out) {
                const Row h = responseOf(view, block, in, out, hz, rate, resources);
                Row& sum = rows.try_emplace({id, out}, hz.size(), 0.0).first->second;
                for (std::size_t f = 0; f < hz.size(); ++f)
                    sum[f] += x[f] * h[f];
            }
        }
    }
    if (outputsOf(program, *b) > 0)
        return at(to);
    const auto arriving = into.find(to);
    return arriving == into.end() ? nothing : at(arriving->second);
}

} // namespace loom::engine
