// Shared values and lists: what copies share, and that none of them sees what another changes.
#ifndef Q_MOC_RUN
#include "engine/program.h"
#include "engine/shared.h"
#include <random>
#include <thread>
#endif
#include "test.h"

using namespace loom;

struct Tiny {
    int value = 0;
    explicit Tiny(int v = 0) : value(v) {}
    bool operator==(const Tiny&) const = default;
};
template <> inline constexpr bool loom::heldInChunks<Tiny> = true;

class TestShared : public QObject {
    Q_OBJECT
    struct Counted { // how many of them were copied
        int value = 0;
        static inline int copies = 0;
        Counted(int v = 0) : value(v) {}
        Counted(const Counted& o) : value(o.value) { ++copies; }
        Counted(Counted&&) = default;
        Counted& operator=(const Counted& o) { return value = o.value, ++copies, *this; }
        Counted& operator=(Counted&&) = default;
        bool operator==(const Counted& o) const { return value == o.value; }
    };
    template <class T> static std::vector<int> valuesOf(const List<T>& list) {
        std::vector<int> all;
        for (const auto& one : list)
            all.push_back(one.value);
        return all;
    }
    template <class T> void likeVectors() {
        std::mt19937 dice(7);
        List<T> list;
        std::vector<int> truth;
        std::vector<std::pair<List<T>, std::vector<int>>> aside;
        const auto at = [&](std::size_t n) { return dice() % std::max<std::size_t>(n, 1); };
        for (int step = 0; step < 20000; ++step) {
            const std::size_t i = at(truth.size());
            const auto d = static_cast<std::ptrdiff_t>(i);
            const int v = static_cast<int>(dice() % 1000);
            switch (truth.empty() ? 0 : dice() % (truth.size() > 400 ? 11 : 9)) {
            case 0:
            case 1:
                list.push_back(T(v)).value = v + 1, truth.push_back(v + 1);
                break;
            case 2:
                list.insert(list.begin() + d, T(v)), truth.insert(truth.begin() + d, v);
                break;
            case 3:
                list.erase(list.begin() + d), truth.erase(truth.begin() + d);
                break;
            case 4:
                list.change(i).value = v, truth[i] = v;
                break;
            case 5:
                list.changeIf([&](const auto& c) { return c.value % 7 == v % 7; }, [](auto& c) { ++c.value; });
                for (auto& t : truth)
                    t += t % 7 == v % 7;
                break;
            case 6: {
                const auto gone = [&](int t) { return t % 97 == v % 97; };
                QCOMPARE(erase_if(list, [&](const auto& c) { return gone(c.value); }),
                         std::size_t(std::erase_if(truth, gone)));
                break;
            }
            case 7:
                aside.emplace_back(list, truth);
                break;
            case 8:
                if (!aside.empty())
                    std::tie(list, truth) = aside[at(aside.size())];
                break;
            case 9:
                list.sort([](const auto& a, const auto& b) { return a.value < b.value; });
                std::stable_sort(truth.begin(), truth.end());
                break;
            default:
                list.erase(list.begin() + d / 2, list.begin() + d),
                    truth.erase(truth.begin() + d / 2, truth.begin() + d);
            }
            QCOMPARE(list.size(), truth.size());
            if (step % 50 == 0)
                QVERIFY(valuesOf(list) == truth);
        }
        for (const auto& [then, was] : aside)
            QVERIFY(valuesOf(then) == was);
        QVERIFY(valuesOf(List<T>(list.rbegin(), list.rend())) == std::vector<int>(truth.rbegin(), truth.rend()));
    }
    template <class T> static std::vector<std::size_t> apart(const List<T>& list, const List<T>& before) {
        std::vector<std::size_t> all;
        list.eachApart(before, [&](std::size_t i) { all.push_back(i); });
        return all;
    }

  private slots:
    void copiesAreFreeUntilChanged() {
        Shared<std::string> none, a(std::string("a"));
        QVERIFY(none->empty() && none == Shared<std::string>());
        auto b = a;
        QVERIFY(b.is(a) && b == a);
        b.change() += "b";
        QVERIFY(!b.is(a) && *a == "a" && *b == "ab");
        const auto* there = &*b;
        b.change() += "c"; // nobody else has it: it stays where it is
        QVERIFY(&*b == there && *b == "abc");
        auto moved = std::move(b);
        QVERIFY(*moved == "abc" && b->empty()); // NOLINT: what was moved from is empty
        none.change() = "now";
        QCOMPARE(*none, std::string("now"));
    }
    void oneOfThousandsIsCopiedAlone() {
        List<Counted> list;
        for (int i = 0; i < 5000; ++i)
            list.push_back(Counted(i));
        auto other = list;
        QVERIFY(other.is(list));
        Counted::copies = 0;
        other.change(4321).value = -1;
        QCOMPARE(Counted::copies, 1);
        QVERIFY(list[4321].value == 4321 && other[4321].value == -1 && !(list == other));
        int shared = 0;
        for (std::size_t i = 0; i < list.size(); ++i)
            shared += list.shares(i, other, i);
        QCOMPARE(shared, 4999);
        QCOMPARE(apart(other, list), (std::vector<std::size_t>{4321}));
        other.change(4321).value = 4321;
        QCOMPARE(Counted::copies, 1);
        QVERIFY(list == other && !list.is(other)); // equal again, though not the same
        other.push_back(Counted(7));
        erase_if(other, [](const Counted& c) { return c.value == 9; });
        QCOMPARE(Counted::copies, 1); // handles move, things stay
        const Counted* first = &other[0];
        other.insert(other.begin(), Counted(1));
        QVERIFY(&other[1] == first && list.size() == 5000);
    }
    // Whatever is done to lists, they are as vectors would be; and each copy that was put aside stays as it was.
    void asVectorsWouldBe() { likeVectors<Counted>(), likeVectors<Tiny>(); }
    void goesBothWays() {
        List<Tiny> list;
        for (int i = 0; i < 200; ++i)
            list.push_back(Tiny(i));
        auto it = list.begin() + 63;
        QVERIFY(it->value == 63 && (it++)->value == 63 && it->value == 64 && (it--)->value == 64 && it->value == 63);
        it += 70;
        QVERIFY(it->value == 133 && it[-3].value == 130 && (--it)->value == 132 && (it -= 100)->value == 32);
        QVERIFY(list.end() - it == 168 && it < list.end() && (list.end() - 1)->value == 199);
        const auto other = list;
        list.change(70).value = -1;
        QVERIFY(list.shares(3, other, 3) && !list.shares(70, other, 70) && other[70].value == 70 && list != other);
        list.change(70).value = 70;
        QVERIFY(list == other);
        list.erase(list.begin() + 63); // the last of a chunk: the chunk is another one
        QVERIFY(list[63].value == 64 && list != other && other != list && list.size() == 199);
        list.changeEach([](Tiny& t) { t.value = 5; });
        QVERIFY(list[0].value == 5 && list[198].value == 5 && other[198].value == 198);
        QVERIFY(List<Tiny>() != other && List<Tiny>(other.begin(), other.begin() + 10) != other);
    }
    void whatIsApartIsVisited() {
        List<Counted> before;
        for (int i = 0; i < 130; ++i)
            before.push_back(Counted(i));
        auto list = before;
        QVERIFY(apart(list, before).empty());
        list.change(63).value = -1, list.change(64).value = -1, list.change(129).value = -1; // the ends of chunks
        QCOMPARE(apart(list, before), (std::vector<std::size_t>{63, 64, 129}));
        list = before;
        list.push_back(Counted(130)); // what was not there before; and the other way round there is nothing more
        QCOMPARE(apart(list, before), (std::vector<std::size_t>{130}));
        QVERIFY(apart(before, list).empty());
        list.erase(list.begin() + 128, list.end());
        QVERIFY(apart(list, before).empty());
        QCOMPARE(apart(before, list), (std::vector<std::size_t>{128, 129}));
        list.erase(list.begin()); // all that follows stands elsewhere
        QCOMPARE(apart(list, before).size(), std::size_t(127));
        QCOMPARE(apart(list, List<Counted>()).size(), std::size_t(127));
    }
    void oneIsReadWhileAnotherIsChanged() { // under TSan: a snapshot on another thread
        engine::Program program;
        for (int i = 0; i < 300; ++i)
            program.blocks.push_back({"b" + std::to_string(i), "level", ""});
        for (int round = 0; round < 50; ++round) {
            std::thread reader([snapshot = program, round] {
                double sum = 0;
                for (const auto& b : snapshot.blocks)
                    for (const auto& [name, value] : b.values)
                        sum += value;
                QCOMPARE(sum, static_cast<double>(round));
            });
            program.find("b" + std::to_string(round * 5))->values["gain"] = 1;
            reader.join();
        }
    }
};

LOOM_TEST(tst_shared, TestShared)
#include "tst_shared.moc"
