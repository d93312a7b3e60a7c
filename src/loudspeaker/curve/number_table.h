// Lines of numbers in a text, however they are parted, with the words above them.
#pragma once
#include <string>
#include <string_view>
#include <vector>

namespace loom::loudspeaker::curve {

struct NumberTable {
    struct Row {
        std::size_t line = 0; // from 1
        std::vector<double> values;
    };
    std::vector<Row> rows;             // as many values as `columns` in each
    std::size_t columns = 0, left = 0; // rows of other lengths that were left out
    bool complex = false;              // the last two columns are one number of the form a+bi
    char separator = ' ';
    bool decimalComma = false;
    bool commasOpen = false;                     // commas may part columns, or be decimal
    bool thousandsOpen = false;                  // "1,000" may be a thousand, or one
    std::vector<std::string> units;              // said beside values, one a column
    std::vector<std::string> remarks;            // lines before the first row and between rows, without their signs
    std::vector<std::vector<std::string>> heads; // lines above the rows that have a word for each column, nearest first
};

// How commas are to be taken where that is open: 0 as they are likely, 1 parting, 2 decimal; thousands likewise: 1
// thousands, 2 decimal.
NumberTable numberTableOf(std::string_view text, int commas = 0, int thousands = 0);

} // namespace loom::loudspeaker::curve
