// Values whose copies share their parts until one of them is changed. A copy costs a counter; what is different between
// two copies follows from comparing addresses. Reading is always const: who changes something says so (change()), and
// only what is shared with others is copied then. Copies may be read and dropped on any thread; one copy belongs to one
// thread at a time.
#pragma once
#ifndef Q_MOC_RUN
#include <atomic>
#endif
#include <algorithm>
#include <cstddef>
#include <initializer_list>
#include <iterator>
#include <type_traits>
#include <utility>
#include <vector>

namespace loom {

template <class T> class Shared {
  public:
    Shared() = default; // a T{} that takes no memory
    Shared(T value) : held_(new Held{{1}, std::move(value)}) {}
    Shared(const Shared& o) : held_(o.held_) {
        if (held_)
            held_->users.fetch_add(1, std::memory_order_relaxed);
    }
    Shared(Shared&& o) noexcept : held_(std::exchange(o.held_, nullptr)) {}
    Shared& operator=(Shared o) noexcept { return std::swap(held_, o.held_), *this; }
    ~Shared() {
        if (held_ && held_->users.fetch_sub(1, std::memory_order_acq_rel) == 1)
            delete held_;
    }
    const T& operator*() const { return held_ ? held_->value : plain(); }
    const T* operator->() const { return &**this; }
    operator const T&() const { return **this; }
    // The value, for this copy alone. It stays where it is until this copy is copied and changed again.
    T& change() {
        if (!held_ || held_->users.load(std::memory_order_acquire) != 1)
            *this = Shared(T(**this));
        return held_->value;
    }
    bool is(const Shared& o) const { return held_ == o.held_; } // the same one, not only an equal one
    bool operator==(const Shared& o) const { return is(o) || **this == *o; }

  private:
    static const T& plain() {
        static const T value{};
        return value;
    }
    struct Held {
        std::atomic<unsigned> users;
        T value;
    };
    Held* held_ = nullptr;
};

// Small values that are copied with their chunk of a list rather than shared each for itself: set true for a type.
template <class T> inline constexpr bool heldInChunks = false;

// A list that shares its items, held in chunks so that changing one of thousands copies little more than that one.
// Items stay where they are while they are in the list (small ones as long as none is inserted or erased); inserting
// and erasing moves handles of what follows.
template <class T> class List {
    struct Small { // as a Shared, but not
        T value;
        Small(T v) : value(std::move(v)) {}
        const T& operator*() const { return value; }
        T& change() { return value; }
        bool is(const Small& o) const { return value == o.value; }
        bool operator==(const Small& o) const { return value == o.value; }
    };
    static constexpr std::size_t chunkSize = 64; // all chunks but the last are full
    using Item = std::conditional_t<heldInChunks<T>, Small, Shared<T>>;
    using Chunk = std::vector<Item>;

  public:
    using value_type = T;
    class const_iterator {
      public:
        using iterator_category = std::random_access_iterator_tag;
        using value_type = T;
        using difference_type = std::ptrdiff_t;
        using pointer = const T*;
        using reference = const T&;
        const_iterator() = default;
        const_iterator(const Shared<Chunk>* chunks, std::size_t i) : chunks_(chunks), i_(i) {}
        reference operator*() const { return **(at_ ? at_ : at_ = &(*chunks_[i_ / chunkSize])[i_ % chunkSize]); }
        pointer operator->() const { return &**this; }
        reference operator[](difference_type n) const { return *(*this + n); }
        const_iterator& operator++() {
            at_ = ++i_ % chunkSize && at_ ? at_ + 1 : nullptr;
            return *this;
        }
        const_iterator& operator--() { return *this += -1; }
        const_iterator operator++(int) {
            auto was = *this;
            ++*this;
            return was;
        }
        const_iterator operator--(int) {
            auto was = *this;
            --*this;
            return was;
        }
        const_iterator& operator+=(difference_type n) {
            at_ = nullptr;
            i_ += static_cast<std::size_t>(n);
            return *this;
        }
        const_iterator& operator-=(difference_type n) { return *this += -n; }
        friend const_iterator operator+(const_iterator a, difference_type n) { return a += n; }
        friend const_iterator operator+(difference_type n, const_iterator a) { return a += n; }
        friend const_iterator operator-(const_iterator a, difference_type n) { return a -= n; }
        difference_type operator-(const const_iterator& o) const { return static_cast<difference_type>(i_ - o.i_); }
        bool operator==(const const_iterator& o) const { return i_ == o.i_; }
        auto operator<=>(const const_iterator& o) const { return i_ <=> o.i_; }

      private:
        const Shared<Chunk>* chunks_ = nullptr;
        mutable const Item* at_ = nullptr; // as far as it is known
        std::size_t i_ = 0;
    };
    using iterator = const_iterator;

    List() = default;
    List(std::initializer_list<T> items) : List(items.begin(), items.end()) {}
    template <std::input_iterator It> List(It from, It to) {
        for (; from != to; ++from)
            push_back(*from);
    }

    std::size_t size() const { return all_->size; }
    bool empty() const { return size() == 0; }
    const_iterator begin() const { return {all_->chunks.data(), 0}; }
    const_iterator end() const { return {all_->chunks.data(), size()}; }
    auto rbegin() const { return std::make_reverse_iterator(end()); }
    auto rend() const { return std::make_reverse_iterator(begin()); }
    const T& operator[](std::size_t i) const { return *item(i); }
    const T& front() const { return *item(0); }
    const T& back() const { return *item(size() - 1); }

    // The i-th, for this list alone: it is copied first where others share it.
    T& change(std::size_t i) { return all_.change().chunks[i / chunkSize].change()[i % chunkSize].change(); }
    T& changeBack() { return change(size() - 1); }
    // Those of which `which` is true; the others stay shared.
    template <class Is, class F> void changeIf(Is which, F f) {
        for (std::size_t i = 0; i < size(); ++i)
            if (which((*this)[i]))
                f(change(i));
    }
    template <class F> void changeEach(F f) {
        for (std::size_t i = 0; i < size(); ++i)
            f(change(i));
    }
    T& push_back(T one) {
        auto& all = all_.change();
        if (all.size % chunkSize == 0)
            all.chunks.push_back(Chunk());
        ++all.size;
        auto& chunk = all.chunks.back().change();
        if (heldInChunks<T>)
            chunk.reserve(chunkSize);
        return chunk.emplace_back(std::move(one)).change();
    }
    T& emplace_back() { return push_back(T{}); }
    void insert(const_iterator where, T one) {
        const auto at = where - begin();
        Chunk items = handles();
        items.insert(items.begin() + at, Item(std::move(one)));
        take(std::move(items));
    }
    void erase(const_iterator where) { erase(where, where + 1); }
    void erase(const_iterator from, const_iterator to) {
        const auto a = from - begin(), b = to - begin();
        Chunk items = handles();
        items.erase(items.begin() + a, items.begin() + b);
        take(std::move(items));
    }
    void pop_back() { erase(end() - 1); }
    void clear() { *this = List(); }
    template <class Less> void sort(Less less) {
        Chunk items = handles();
        std::stable_sort(items.begin(), items.end(), [&](const auto& a, const auto& b) { return less(*a, *b); });
        take(std::move(items));
    }
    // Takes out all of which `gone` is true; how many.
    template <class F> friend std::size_t erase_if(List& list, F gone) {
        Chunk kept;
        for (std::size_t i = 0; i < list.size(); ++i)
            if (!gone(list[i]))
                kept.push_back(list.item(i));
        const std::size_t n = list.size() - kept.size();
        if (n > 0)
            list.take(std::move(kept));
        return n;
    }

    bool is(const List& o) const { return all_.is(o.all_); } // nothing at all is different
    bool shares(std::size_t i, const List& o, std::size_t j) const { return item(i).is(o.item(j)); }
    // f(i) for each of these that `before` does not share at the same place.
    template <class F> void eachApart(const List& before, F f) const {
        for (std::size_t c = 0; c < all_->chunks.size(); ++c) {
            if (c < before.all_->chunks.size() && all_->chunks[c].is(before.all_->chunks[c]))
                continue;
            for (std::size_t i = c * chunkSize; i < std::min((c + 1) * chunkSize, size()); ++i)
                if (i >= before.size() || !item(i).is(before.item(i)))
                    f(i);
        }
    }
    bool operator==(const List& o) const {
        if (is(o) || size() != o.size())
            return is(o);
        for (std::size_t c = 0; c < all_->chunks.size(); ++c)
            if (!(all_->chunks[c] == o.all_->chunks[c]))
                return false;
        return true;
    }

  private:
    struct All {
        std::vector<Shared<Chunk>> chunks{};
        std::size_t size = 0;
    };
    const Item& item(std::size_t i) const { return (*all_->chunks[i / chunkSize])[i % chunkSize]; }
    Chunk handles() const {
        Chunk items;
        items.reserve(size() + 1);
        for (const auto& chunk : all_->chunks)
            items.insert(items.end(), chunk->begin(), chunk->end());
        return items;
    }
    void take(Chunk items) { // chunks that are as before stay shared
        All next{{}, items.size()};
        for (std::size_t i = 0; i < items.size(); i += chunkSize) {
            const std::size_t n = std::min(chunkSize, items.size() - i), c = i / chunkSize;
            const auto from = items.begin() + static_cast<std::ptrdiff_t>(i);
            const bool same = c < all_->chunks.size() && all_->chunks[c]->size() == n &&
                              std::equal(from, from + static_cast<std::ptrdiff_t>(n), all_->chunks[c]->begin(),
                                         [](const auto& a, const auto& b) { return a.is(b); });
            next.chunks.push_back(
                same ? all_->chunks[c]
                     : Shared<Chunk>(Chunk(std::make_move_iterator(from),
                                           std::make_move_iterator(from + static_cast<std::ptrdiff_t>(n)))));
        }
        all_ = Shared<All>(std::move(next));
    }
    Shared<All> all_;
};

} // namespace loom
