#include "mix/delay_line.h"

#include "mix/processor.h"

#include <algorithm>
#include <array>

namespace tuvvo {

namespace {
constexpr int kFadeQuanta = 8; // 11 ms
}

DelayLine::DelayLine(int most)
    : m_most(std::max(0, most)),
      m_size((std::size_t(m_most) / kQuantum + 2) * kQuantum), // whole quanta
      m_left(m_size, 0.0f), m_right(m_size, 0.0f) {}

void DelayLine::setDelay(int frames) { m_wanted = std::clamp(frames, 0, m_most); }

void DelayLine::reset() {
  std::fill(m_left.begin(), m_left.end(), 0.0f);
  std::fill(m_right.begin(), m_right.end(), 0.0f);
  m_delay = m_next = m_wanted;
  m_fade = 0;
  m_filled = 0;
}

void DelayLine::read(int delay, float* left, float* right) const {
  std::size_t from = (m_at + m_size - std::size_t(delay)) % m_size;
  for (int i = 0; i < kQuantum; ++i) {
    left[i] = m_left[from];
    right[i] = m_right[from];
    if (++from == m_size) from = 0;
  }
}

void DelayLine::process(float* left, float* right) {
  if (m_fade == 0) m_next = m_wanted;
  if (m_delay == 0 && m_next == 0) { // it costs nothing
    m_filled = 0;
    return;
  }
  std::copy_n(left, kQuantum, m_left.begin() + std::ptrdiff_t(m_at));
  std::copy_n(right, kQuantum, m_right.begin() + std::ptrdiff_t(m_at));
  const bool moves = m_delay != m_next && m_filled >= m_next;
  if (m_delay > 0) read(m_delay, left, right);
  if (moves) {
    std::array<float, kQuantum> l, r;
    read(m_next, l.data(), r.data());
    const float step = 1.0f / (kFadeQuanta * kQuantum);
    for (int i = 0; i < kQuantum; ++i) {
      const float share = float(m_fade * kQuantum + i + 1) * step;
      left[i] += share * (l[std::size_t(i)] - left[i]);
      right[i] += share * (r[std::size_t(i)] - right[i]);
    }
    if (++m_fade == kFadeQuanta) {
      m_delay = m_next;
      m_fade = 0;
    }
  }
  m_filled += kQuantum;
  m_at = (m_at + kQuantum) % m_size;
}

} // namespace tuvvo
