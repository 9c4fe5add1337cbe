#include "devices/rate_bridge.h"

#include <algorithm>

namespace tuvvo {

RateBridge::RateBridge(FillSound source, Hertz from, Hertz to, int most)
    : m_source(std::move(source)), m_step(from.value / to.value),
      m_kernel(SincBank::shared().forStep(m_step)) {
  const auto size = std::size_t(double(most) * m_step) + std::size_t(m_kernel.taps) * 2 + 16;
  m_left.assign(size, 0.0f);
  m_right.assign(size, 0.0f);
  m_held = m_kernel.taps / 2 - 1; // silence before the first frame
}

void RateBridge::fill(float* left, float* right, int frames) {
  // Everything that the last output's kernel reaches is fetched first, in one call.
  const int needed = int(m_place + m_step * (frames - 1)) + m_kernel.taps + 1;
  if (needed > m_held) {
    m_source(m_left.data() + m_held, m_right.data() + m_held, needed - m_held);
    m_held = needed;
  }
  const int centre = m_kernel.taps / 2 - 1;
  SincBank::run(m_kernel, {m_left.data() + centre, m_right.data() + centre, m_place, m_step}, 0,
                frames, left, right);
  m_place += m_step * frames;
  const int done = std::min(int(m_place), m_held);
  std::copy(m_left.begin() + done, m_left.begin() + m_held, m_left.begin());
  std::copy(m_right.begin() + done, m_right.begin() + m_held, m_right.begin());
  m_held -= done;
  m_place -= done;
}

} // namespace tuvvo
