#include "mix/limiter.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

void Limiter::reset() {
  Limiter fresh;
  fresh.m_ceiling = m_ceiling;
  fresh.m_release = m_release;
  *this = fresh;
}

void Limiter::setRelease(Milliseconds release, Hertz rate) {
  m_release = 1 - std::exp(-1 / std::max(1.0, toSeconds(release).value * rate.value));
}

void Limiter::process(float& left, float& right) {
  const float peak = std::max(std::abs(left), std::abs(right));
  const float needed = peak > m_ceiling ? m_ceiling / peak : 1.0f;

  const auto at = std::size_t(m_at);
  const float outLeft = m_left[(at + 1) % kWindow], outRight = m_right[(at + 1) % kWindow];
  m_left[at] = left;
  m_right[at] = right;
  m_needed[at] = needed;
  // The smallest of the window; looked for again only when the last one leaves it.
  if (needed <= m_smallest) {
    m_smallest = needed;
    m_smallestAge = 0;
  } else if (++m_smallestAge >= kWindow) {
    m_smallest = 1.0f;
    for (int age = kWindow - 1; age >= 0; --age) {
      const float v = m_needed[std::size_t(m_at - age + kWindow) % kWindow];
      if (v <= m_smallest) {
        m_smallest = v;
        m_smallestAge = age;
      }
    }
  }
  m_envelope = std::min(double(m_smallest), m_envelope + (1 - m_envelope) * m_release);
  if (m_envelope > 0.99999) m_envelope = std::min(1.0, double(m_smallest));
  m_sum += m_envelope - m_gains[at];
  m_gains[at] = m_envelope;
  m_at = (m_at + 1) % kWindow;
  if (m_at == 0) { // keep rounding from gathering: exactly one when nothing is held down
    m_sum = 0;
    for (double gain : m_gains) m_sum += gain;
  }
  const auto gain = float(std::min(1.0, m_sum / kWindow));
  left = std::clamp(outLeft * gain, -m_ceiling, m_ceiling);
  right = std::clamp(outRight * gain, -m_ceiling, m_ceiling);
}

} // namespace tuvvo
