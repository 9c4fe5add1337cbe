#include "mix/ducker.h"

#include <cmath>

namespace tuvvo {

namespace {
constexpr std::int64_t kStepsBack = 96; ///< frames: 2 ms
constexpr float kNearlyBack = 0.9995f;
} // namespace

float Ducker::gainAt(std::int64_t frame) const {
  const std::int64_t gone = frame - m_since;
  if (gone < 0 || !m_plan.on) return 1;
  const float to = m_plan.to;
  if (gone < kStepsBack) return m_from + (to - m_from) * float(gone) / float(kStepsBack);
  const float gain = 1 - (1 - to) * std::exp(-float(gone - kStepsBack) / m_plan.back);
  return gain < kNearlyBack ? gain : 1;
}

void Ducker::fill(std::int64_t quantum, int until) {
  const bool moves = gainAt(quantum + m_done) < 1 || quantum + m_done - m_since < kStepsBack;
  const bool sounds = m_since != kLongAgo && moves;
  m_moves = m_moves || sounds;
  for (; m_done < until; ++m_done)
    m_gains[std::size_t(m_done)] = sounds ? gainAt(quantum + m_done) : 1.0f;
}

void Ducker::strike(std::int64_t quantum, int offset) {
  fill(quantum, offset);
  m_from = gainAt(quantum + offset);
  m_since = quantum + offset;
}

const float* Ducker::finish(std::int64_t quantum) {
  const bool stands = m_done == 0 && gainAt(quantum) == 1 && quantum - m_since >= kStepsBack;
  if (m_since == kLongAgo || stands) return nullptr;
  fill(quantum, kQuantum);
  const bool moves = m_moves;
  m_done = 0;
  m_moves = false;
  return moves ? m_gains.data() : nullptr;
}

} // namespace tuvvo
