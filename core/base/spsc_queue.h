// A queue between exactly two threads, without locks.
//
// One thread pushes, one pops; no call allocates, locks or waits after construction. The writer
// publishes an element by a release store of its index, the reader sees it by an acquire load, and
// the other way round for free places.
#pragma once

#include <array>
#include <atomic>
#include <cstddef>

namespace tuvvo {

/// @tparam T         trivially copyable
/// @tparam Capacity  a power of two; one place stays unused
template <class T, std::size_t Capacity> class SpscQueue {
  static_assert((Capacity & (Capacity - 1)) == 0);

public:
  /// Writer's thread. False when full; the element is then not taken.
  bool push(const T& item) {
    const std::size_t head = m_head.load(std::memory_order_relaxed);
    const std::size_t next = (head + 1) & (Capacity - 1);
    if (next == m_tail.load(std::memory_order_acquire)) return false;
    m_items[head] = item;
    m_head.store(next, std::memory_order_release);
    return true;
  }

  /// Reader's thread. False when empty.
  bool pop(T& item) {
    const std::size_t tail = m_tail.load(std::memory_order_relaxed);
    if (tail == m_head.load(std::memory_order_acquire)) return false;
    item = m_items[tail];
    m_tail.store((tail + 1) & (Capacity - 1), std::memory_order_release);
    return true;
  }

private:
  std::array<T, Capacity> m_items{};
  alignas(64) std::atomic<std::size_t> m_head{0};
  alignas(64) std::atomic<std::size_t> m_tail{0};
};

} // namespace tuvvo
