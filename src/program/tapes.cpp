#include "program/tapes.h"
#include "dsp/audio_file.h"
#include "dsp/number.h"
#include <cstdio>

namespace loom::project {

std::vector<Result<std::string>> Tapes::tend(const engine::Program& program, const engine::Schedule& plan) {
    std::vector<Result<std::string>> done;
    std::vector<float> part;
    for (const auto& b : program.blocks) {
        if (b.kind != "recorder")
            continue;
        const auto kernel = plan.kernel(b.id);
        if (!kernel)
            continue;
        const engine::BlockView view(b);
        const auto channels = static_cast<std::size_t>(view.inputs());
        part.resize(channels * 4096);
        std::size_t got = 0;
        for (std::size_t n; (n = kernel->drain(part)) > 0; got += n) {
            auto& tape = tapes_.try_emplace(b.id, Tape{b, plan.rate()}).first->second;
            tape.channels.resize(channels);
            tape.full = static_cast<double>(tape.channels[0].size()) >= maxTapeSeconds * plan.rate();
            for (std::size_t i = 0; i < n && !tape.full; ++i)
                tape.channels[i % channels].push_back(part[i]);
        }
        const auto open = tapes_.find(b.id);
        if (open != tapes_.end() && got == 0 && view.look()["record"] < 0.5) {
            done.push_back(write(std::move(open->second)));
            tapes_.erase(open);
        }
    }
    return done;
}

std::vector<Result<std::string>> Tapes::finish() {
    std::vector<Result<std::string>> done;
    for (auto& [id, tape] : tapes_)
        done.push_back(write(std::move(tape)));
    tapes_.clear();
    return done;
}

Result<std::string> Tapes::write(Tape tape) const {
    const std::string path = fileFor_(tape.block);
    const auto seconds = print("%.1f s", static_cast<double>(tape.channels[0].size()) / tape.rate);
    std::string error;
    if (!dsp::writeWav(path, {tape.rate, std::move(tape.channels)}, error))
        return Error{error, tape.block.id, "Choose another folder, or make room there."};
    return seconds + " in " + path + (tape.full ? " (full: the rest was left out)" : "");
}

} // namespace loom::project
