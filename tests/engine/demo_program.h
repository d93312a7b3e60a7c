// Small programs that engine tests share.
#pragma once
#include "engine/program.h"

namespace loom::test {

// Two lanes into a 2x2 matrix into two destinations; sine generators as sources.
inline engine::Program twoLanes() {
    engine::Program p;
    p.blocks = {{"a", "generator", "A"},      {"a.highpass", "highpass", ""},
                {"a.eq", "eq", ""},           {"b", "generator", "B"},
                {"b.level", "level", ""},     {"mix", "matrix", "", {{"inputs", 2}, {"outputs", 2}}},
                {"out-1", "destination", ""}, {"out-2", "destination", ""}};
    p.blocks.change(0).values = {{"level", 0}};
    p.blocks.change(3).values = {{"hz", 440}, {"level", -6}};
    p.blocks.change(5).values = {{"1.1", 0}, {"2.2", 0}};
    p.blocks.change(6).texts["port"] = "out 1";
    p.blocks.change(7).texts["port"] = "out 2";
    p.connections = {{{"a", 0}, {"a.highpass", 0}}, {{"a.highpass", 0}, {"a.eq", 0}}, {{"a.eq", 0}, {"mix", 0}},
                     {{"b", 0}, {"b.level", 0}},    {{"b.level", 0}, {"mix", 1}},     {{"mix", 0}, {"out-1", 0}},
                     {{"mix", 1}, {"out-2", 0}}};
    return p;
}

} // namespace loom::test
