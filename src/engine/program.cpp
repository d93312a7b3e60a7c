#include "engine/program.h"
#include <algorithm>
#include <cctype>

namespace loom::engine {

const Block* Program::find(const std::string& id) const {
    for (const auto& b : blocks)
        if (b.id == id)
            return &b;
    return nullptr;
}

Block* Program::find(const std::string& id) {
    for (std::size_t i = 0; i < blocks.size(); ++i)
        if (blocks[i].id == id)
            return &blocks.change(i);
    return nullptr;
}

const Connection* Program::into(const PortRef& port) const {
    for (const auto& t : connections)
        if (t.to == port)
            return &t;
    return nullptr;
}

std::string slug(const std::string& words) {
    std::string s;
    for (const char c : words) {
        const auto u = static_cast<unsigned char>(c);
        if (std::isalnum(u) && u < 128)
            s += static_cast<char>(std::tolower(u));
        else if (!s.empty() && s.back() != '-')
            s += '-';
    }
    while (!s.empty() && s.back() == '-')
        s.pop_back();
    return s.empty() ? "block" : s;
}

std::string freshId(const Program& program, const std::string& wanted) {
    std::string id = wanted;
    for (int n = 2; program.find(id); ++n)
        id = wanted + "-" + std::to_string(n);
    return id;
}

} // namespace loom::engine
