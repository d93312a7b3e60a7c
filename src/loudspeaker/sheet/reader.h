// Goes through the rows of a sheet: finds tables by their heads, sections, paths and lines by themselves, and hands to
// Facts what they say, with whom it is of.
#pragma once
#include "loudspeaker/sheet/facts.h"
#include "loudspeaker/sheet/heads.h"
#include "loudspeaker/sheet/rows.h"
#include <map>
#include <memory>

namespace loom::loudspeaker::sheet {

class Reader {
  public:
    Reader(Sheet& sheet, const Lexicon& lexicon);
    void read();

  private:
    void sheetSays(); // what it says of all its numbers
    bool section();   // a line that names a way and nothing else
    void plain();     // a line by itself
    void unread();    // marks what nothing was made of

    // -- columns are ways (way_tables) --
    bool waysHead();
    bool oneCellALine();
    bool rowOfColumns();
    std::size_t columnOf(const Row& row, std::size_t cell) const; // its number, from 0
    void cell(const Run& run, const WayRef& way, std::optional<Means> key);
    void off(Run& run, std::optional<Means> key);

    // -- columns are what is said (field_tables) --
    bool fieldsHead();
    bool rowOfHeads();
    bool rowOfSequence();
    std::size_t headOf(const Row& row, std::size_t cell) const;
    void filterRow(std::vector<Run>& said, const Run& rest, const WayRef& way, std::size_t wayColumn);
    void wayRow(std::vector<Run>& said, const WayRef& way, std::size_t wayColumn);

    // -- settings with paths --
    static bool pathLine(const Letters& l, std::size_t& ends);
    bool paths();

    Sheet& sheet_;
    Facts facts_;
    std::unique_ptr<Lexer> lexer_;
    std::vector<Row> rows_;
    std::size_t at_ = 0;
    WayRef where_{};              // of the section
    std::vector<WayRef> columns_; // of a table whose columns are ways
    std::vector<std::size_t> columnStarts_;
    bool columnsBySign_ = false;
    std::vector<WayRef> order_; // ways of the last table, lowest first
    std::vector<Head> heads_;   // of a table whose columns are what is said
    bool headsBySign_ = false, headsBySequence_ = false, headIsFilters_ = false;
    int rowsOfTable_ = 0;
    std::optional<Means> carried_{};          // what a label said of the lines below
    std::map<std::string, WayRef> groupWays_; // of paths
};

} // namespace loom::loudspeaker::sheet
