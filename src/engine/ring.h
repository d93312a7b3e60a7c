// A wait-free queue between exactly one writing and one reading thread.
#pragma once
#include <atomic>
#include <cstddef>
#include <span>
#include <vector>

namespace loom::engine {

// Memory is taken by the constructor only. T is copied by assignment.
template <class T> class Ring {
  public:
    explicit Ring(std::size_t capacity) : items_(powerOfTwo(capacity)), mask_(items_.size() - 1) {}
    bool push(const T& item) noexcept {
        const auto head = head_.load(std::memory_order_relaxed);
        if (head - tail_.load(std::memory_order_acquire) > mask_)
            return false;
        items_[head & mask_] = item;
        head_.store(head + 1, std::memory_order_release);
        return true;
    }
    // All of them, which the reader sees at once; false, and none, if there is no room for all.
    template <class Items> bool pushAll(const Items& items) noexcept {
        if (items.size() > room())
            return false;
        auto head = head_.load(std::memory_order_relaxed);
        for (const T& item : items)
            items_[head++ & mask_] = item;
        head_.store(head, std::memory_order_release);
        return true;
    }
    bool pop(T& item) noexcept {
        const auto tail = tail_.load(std::memory_order_relaxed);
        if (tail == head_.load(std::memory_order_acquire))
            return false;
        item = items_[tail & mask_];
        tail_.store(tail + 1, std::memory_order_release);
        return true;
    }
    std::size_t room() const noexcept { // for the writer
        return items_.size() - (head_.load(std::memory_order_relaxed) - tail_.load(std::memory_order_acquire));
    }
    std::size_t size() const noexcept {
        return head_.load(std::memory_order_acquire) - tail_.load(std::memory_order_acquire);
    }

  private:
    static std::size_t powerOfTwo(std::size_t n) { // <bit> would do, but moc of Qt 6.4 stumbles over it
        std::size_t p = 1;
        while (p < n)
            p *= 2;
        return p;
    }
    std::vector<T> items_;
    std::size_t mask_;
    alignas(64) std::atomic<std::size_t> head_{0};
    alignas(64) std::atomic<std::size_t> tail_{0};
};

} // namespace loom::engine
