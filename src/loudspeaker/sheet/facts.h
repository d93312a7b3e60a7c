// Facts out of runs of items: of cells, of lines that begin with a word for what they say, of sentences.
#pragma once
#include "loudspeaker/sheet/keys.h"
#include <optional>

namespace loom::loudspeaker::sheet {

class Facts {
  public:
    explicit Facts(Sheet& sheet) : sheet_(sheet) {}

    // What the sheet as a whole says of bare numbers.
    struct Said {
        double hertz = 0; // of a bare frequency: 1 or 1000; 0: not said
        int width = 0;    // of a bare width: 1 Q, 2 octaves
        double delay = 0; // of a bare delay: how many ms its unit is; 0: not said
        double rate = 0;  // of samples, Hz
    };
    Said said{};
    std::vector<std::string> blocks{}; // headings that may be loudspeakers' names, so far

    struct Where {
        WayRef way{};
        std::optional<Means> key{};
        std::vector<WayRef> list{}; // ways over which values of one kind are spread, in this order
        bool less = false;          // a level is how much is taken away
    };
    void read(const Run& run, Where where);
    void readSentences(const Run& run, Where& where); // changes whom they are about
    void settle();                                    // once all is read
    std::vector<WayRef> ways() const;                 // found so far, or expected, in order
    bool ofTheWhole = false;                          // a heading says that what follows is of the whole loudspeaker
    bool numbersHold = false;                         // "way 2 of 3": in their order, whatever their edges are
    std::vector<WayRef> expected{};                   // ways that another reading of the sheet has found
    bool factsBeforeWays() const;                     // something stands before the ways it is of

  private:
    struct Draft {
        std::optional<Means> key{};
        SheetField field{};
        bool hz = false, gain = false, width = false, off = false, forYou = false, bareEdge = false;
        bool done = false;    // the one value it takes is there
        bool implied = false; // no word said its kind: it is that of the one before
        const Item *first = nullptr, *last = nullptr;
        Run touched{};
    };
    void start(std::optional<Means> key, const Item* at);
    void touch(Item& item);
    void flush();
    void item(const Run& run, std::size_t& i);
    void term(const Run& run, std::size_t& i);
    void quantity(const Run& run, std::size_t& i);
    void decibels(const Run& run, std::size_t& i);
    bool index(const Run& run, std::size_t& i);
    void powers(const Run& run, std::size_t& i);
    void limits(const Run& run, std::size_t& i);
    void frequency(Item& item);
    void width(Item& item, int as); // 1 Q, 2 octaves, 0 not said
    void single(SheetKind kind, Item& item, double value);
    void push(SheetField field, const Item& first, const Item& last);
    void edgesOf(Draft d);
    void endOfList(const Run& run, std::size_t i);
    void spread();
    void waysInBrackets(const Run& run);
    int wayId(const WayRef& way);
    void clause(Run clause, Where& where);
    bool valuesOfWays(const Run& sentence);
    void orderNamedWays();
    void askSides();
    void askEdges();
    void askNames();
    void askBlocks(); // several loudspeakers, each below its name
    bool edgesMeet() const;
    void askWays(); // of filters that none is said of, or one that does not reach there
    void askWhatCannotBe();
    void askTwice();
    void sayEdgesThatDoNotMeet();

    Sheet& sheet_;
    Where where_{};
    Draft d_{};
    int pendingWidth_ = -1; // a word for a width was read: 1 Q, 2 octaves, 0 either
    int depth_ = 0;         // of brackets
    bool prose_ = false, less_ = false, tapsRead_ = false, offAhead_ = false;
    std::vector<WayRef> found_;
    std::vector<int> place_; // of the found ways, once those with names of their own were ordered by their edges
    bool namedPlaced_ = false;
    bool named_ = false;               // the sentence says whose what it says is
    std::vector<std::size_t> whole_;   // filters that a heading says are of the whole loudspeaker
    std::vector<std::size_t> carried_; // filters of sentences that do not
    std::vector<std::size_t> run_;     // fields of the run that is read
    std::vector<std::size_t> bare_;    // edges whose side is not said
    std::vector<std::size_t> block_;   // of each field: how many of the blocks' headings stood before it
};

} // namespace loom::loudspeaker::sheet
