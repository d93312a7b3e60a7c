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
    Reader(Sheet& sheet, const Lexicon& lexicon, std::size_t from, std::size_t to); // of its lines
    void read();
    std::vector<WayRef> waysToExpect{}; // that another reading should know from its begin
    void expect(std::vector<WayRef> ways) { facts_.expected = std::move(ways); }

  private:
    void sheetSays(); // what it says of all its numbers
    void asSheetSays(const Run& run) const;
    void languageSays();
    void twoWaysSay();
    void driverSays(); // "woofer" and "driver" beside each other: the driver is the horn's
    bool section();    // a line that names a way and nothing else
    bool footnote();
    // "Way 2 of 3: Mid", as sheets of ours name their ways: by number, with any name.
    std::optional<WayRef> ownWay(const Run& run) const;
    void plain(); // a line by itself
    std::size_t paragraphEnds(std::size_t from) const;
    bool wayBeforeValues(const Run& run);
    void partColumns();
    static std::vector<WayRef> waysBeforeValues(const Run& run);
    void unread(); // marks what nothing was made of

    // -- columns are ways (way_tables) --
    bool waysHead();
    bool namedColumns(); // the same, where the heads are no words for ways
    bool oneCellALine();
    bool rowOfColumns();
    bool besideEachOther();
    std::size_t columnOf(const Row& row, std::size_t cell) const; // its number, from 0
    void joinCells(Row& row, std::size_t first) const;
    void cell(const Run& run, const WayRef& way, std::optional<Means> key, bool less = false);
    void off(Run& run, std::optional<Means> key);

    // -- columns are what is said (field_tables) --
    bool fieldsHead();
    bool rowOfHeads();
    bool rowOfSequence();
    std::size_t headOf(const Row& row, std::size_t cell) const;
    std::size_t nearestHead(std::size_t start) const;
    bool beginsCell(const Row& row, std::size_t cell, std::size_t item) const;
    void filterRow(std::vector<Run>& said, const Run& rest, const WayRef& way, std::size_t wayColumn);
    void wayRow(std::vector<Run>& said, const WayRef& way, std::size_t wayColumn);

    // -- parts of one fact in several lines (settings) --
    struct Label {
        std::optional<WayRef> way{};
        std::optional<Means> key{};
        std::optional<Means> part{}; // frequency, level, type, slope, order, width, state; off: it is bypassed
        std::string index{};
        Unit unit = Unit::none;
        bool filter = false, output = false, kilo = false;
    };
    static std::optional<Label> settingLabel(const Run& run, std::size_t from, std::size_t to);
    static std::size_t valueBegins(const Row& row, const Run& run, std::size_t& labelEnds);
    bool settings();
    bool heading(const Run& run);
    bool attributeFollows(std::size_t row) const;
    void gather(const Label& label, const WayRef& way, Run value);
    void closeSettings();
    WayRef namedWay(const std::string& name); // one that the sheet calls by a name of its own

    Sheet& sheet_;
    Facts facts_;
    std::unique_ptr<Lexer> lexer_;
    std::vector<Row> rows_;
    std::size_t at_ = 0;
    WayRef where_{};                                      // of the section
    std::vector<WayRef> columns_;                         // of a table whose columns are ways
    std::vector<std::size_t> columnStarts_, otherStarts_; // others: of units, of remarks
    bool columnsBySign_ = false;
    std::vector<WayRef> order_; // ways of the last table, lowest first
    std::vector<Head> heads_;   // of a table whose columns are what is said
    bool headsBySign_ = false, headsBySequence_ = false, headIsFilters_ = false;
    int rowsOfTable_ = 0;
    std::optional<Means> carried_{}; // what a label said of the lines below
    WayRef carriedWay_{};
    WayRef hung_{}; // whose are lines that hang below one of this way, further in than
    std::size_t hungFrom_ = 0;
    bool driverBeside_ = false, driverSpoken_ = false, enIsNoAnd_ = false, twoWays_ = false; // what the sheet says
    std::map<std::string, WayRef> groupWays_; // what numbered ways are called: "out1.name: Low"
    std::vector<std::string> names_;          // of ways that are no words for ways
    struct Gathering {
        bool open = false, headed = false; // headed: by a line above, so that parts need no word for what they are of
        std::optional<Means> key{};
        std::string index{};
        WayRef way{};
        std::size_t indent = 0; // of the part before
        std::vector<std::pair<WayRef, std::map<Means, Run>>> said{};
    };
    Gathering gathering_;
};

} // namespace loom::loudspeaker::sheet
