#include "model/tool.h"
#include "engine/block_kind.h"
#include <sstream>

namespace loom::project {

Result<Tool> readSignal(const std::string& text) {
    std::vector<std::string> words;
    std::istringstream in(text);
    for (std::string w; in >> w;)
        words.push_back(w);
    Tool t{Tool::Kind::inject};
    if (words.empty())
        return Error{"nothing was said to inject", "", "Say pink -20, sine 1k -20 or file NAME."};
    const bool file = words[0] == "file";
    const auto level = engine::levelParam("level", "the level", -80, file ? 12 : 0, -20);
    std::size_t last = words.size();
    t.levelDb = file ? 0 : -20;
    if (const char sign = words.back()[0];
        words.size() > (file ? 2u : 1u) && (sign == '-' || sign == '+' || words.back() == "0")) {
        auto value = engine::parseValue(level, words.back());
        if (!value)
            return value.error();
        t.levelDb = *value;
        --last;
    }
    if (file) {
        t.signal = "file";
        for (std::size_t i = 1; i < last; ++i)
            t.signal += " " + words[i];
        return last > 1 ? Result<Tool>(t) : Result<Tool>(Error{"no file was named", "", ""});
    }
    const engine::BlockView view(engine::Block{"x", "generator", ""});
    const auto& specs = view.table->specs();
    t.signal = words[0];
    if (auto choice = engine::parseValue(specs[static_cast<std::size_t>(view.table->indexOf("signal"))], t.signal);
        !choice)
        return choice.error();
    if (last > 1) {
        auto hz = engine::parseValue(specs[static_cast<std::size_t>(view.table->indexOf("hz"))], words[1]);
        if (!hz)
            return hz.error();
        t.hz = *hz;
    }
    return t;
}

} // namespace loom::project
