#include "midi/clock.h"

#include "base/convert.h"

#include <algorithm>

namespace tuvvo {

void ClockFollower::pulse(Seconds at) {
  if (m_count > 0) {
    const double last = m_times[(m_count - 1) % kKept];
    if (at.value <= last || at.value - last > 0.5) m_count = 0;
  }
  m_times[m_count++ % kKept] = at.value;
}

std::optional<Bpm> ClockFollower::tempo() const {
  const std::size_t have = std::min(m_count, kKept);
  if (have <= std::size_t(kClocksPerBeat)) return std::nullopt;
  double n = 0, k = 0, t = 0, kk = 0, kt = 0;
  const double from = m_times[(m_count - have) % kKept];
  for (std::size_t i = 0; i < have; ++i) {
    const double time = m_times[(m_count - have + i) % kKept] - from, at = double(i);
    n += 1, k += at, t += time, kk += at * at, kt += at * time;
  }
  const double perPulse = (n * kt - k * t) / (n * kk - k * k);
  if (!(perPulse > 0)) return std::nullopt;
  return Bpm(60 / (perPulse * kClocksPerBeat));
}

int ClockSender::due(double beats) {
  if (!m_began) {
    m_began = true;
    m_last = beats;
    m_done = 0;
    m_next = 0;
  }
  // Going round counts as going on by what has been played since.
  if (beats >= m_last) m_done += beats - m_last;
  m_last = beats;
  int count = 0;
  while (double(m_next) / kClocksPerBeat <= m_done + 1e-9 && count < 4) {
    ++m_next;
    ++count;
  }
  if (count == 4) m_next = toWhole<std::int64_t>(m_done * kClocksPerBeat) + 1;
  return count;
}

} // namespace tuvvo
