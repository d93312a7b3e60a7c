// The parameters of a kind of block, each declared once: adding it gives the handle by which the block's code knows it.
#pragma once
#include "engine/kernel.h"
#include "engine/parameter.h"
#include <functional>
#include <vector>

namespace loom::engine {

// Where a parameter stands in its block's table; -1: the block has none such.
struct Param {
    int at = -1;
    constexpr operator int() const { return at; }
};

// Those that a block has in every shape. BlockKind::params takes it as it is.
class ParamSet {
  public:
    Param add(ParamSpec spec) {
        specs_.push_back(std::move(spec));
        return {size() - 1};
    }
    int size() const { return static_cast<int>(specs_.size()); }
    std::vector<ParamSpec> operator()(const Shape&) const { return specs_; }

  private:
    std::vector<ParamSpec> specs_;
};

// Those that come once for each band, edge or lane: rows of the same fields, one row after the other.
class ParamRows {
  public:
    struct Field {
        int at;
    };
    // `make` gets the number of the row as people count, from 1.
    Field add(std::function<ParamSpec(int number)> make) {
        fields_.push_back(std::move(make));
        return {width() - 1};
    }
    int width() const { return static_cast<int>(fields_.size()); }
    void append(std::vector<ParamSpec>& specs, int rows) const {
        for (int number = 1; number <= rows; ++number)
            for (const auto& make : fields_)
                specs.push_back(make(number));
    }
    // A field of a row, counted from 0; `first`: how many parameters stand before the rows.
    Param at(int first, int row, Field field) const { return {first + row * width() + field.at}; }

  private:
    std::vector<std::function<ParamSpec(int)>> fields_;
};

} // namespace loom::engine
