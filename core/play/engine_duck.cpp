// Parts that step back while another is struck.
#include "play/engine.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
constexpr std::int64_t kStepsBack = 96; ///< frames in which a part steps back: 2 ms, so that it
                                        ///< does not click
constexpr float kNearlyBack = 0.9995f;
} // namespace

/// Those of a new score; what steps back already goes on as it was.
void Engine::takeDucks() {
  const auto before = m_ducked;
  const int had = m_duckedParts;
  m_duckedParts = 0;
  for (const auto& strip : m_slots[std::size_t(m_current)]->score->strips) {
    if (strip.duckBy == 0 || m_duckedParts >= kMostDucks) continue;
    Ducked next;
    for (int i = 0; i < had; ++i)
      if (before[std::size_t(i)].strip.part == strip.part) next = before[std::size_t(i)];
    next.strip = strip;
    m_ducked[std::size_t(m_duckedParts++)] = next;
  }
}

void Engine::duckOthers(Id part) {
  for (int i = 0; i < m_duckedParts; ++i) {
    Ducked& ducked = m_ducked[std::size_t(i)];
    if (ducked.strip.duckBy != part) continue;
    ducked.from = duckAt(std::size_t(i), m_clock);
    ducked.since = m_clock;
  }
}

/// A part's gain at a frame of the clock.
float Engine::duckAt(std::size_t place, std::int64_t frame) const {
  const Ducked& ducked = m_ducked[place];
  const std::int64_t gone = frame - ducked.since;
  const float to = ducked.strip.duckTo;
  if (gone < 0) return 1;
  if (gone < kStepsBack) return ducked.from + (to - ducked.from) * float(gone) / float(kStepsBack);
  const float gain = 1 - (1 - to) * std::exp(-float(gone - kStepsBack) / ducked.strip.duckBack);
  return gain < kNearlyBack ? gain : 1;
}

void Engine::fillDucks(int frames) {
  for (int i = 0; i < m_duckedParts; ++i) {
    const auto place = std::size_t(i);
    Ducked& ducked = m_ducked[place];
    const std::int64_t gone = m_clock - ducked.since;
    ducked.moves = gone >= 0 && (gone < kStepsBack || duckAt(place, m_clock) < 1);
    for (int n = 0; ducked.moves && n < frames; ++n)
      m_duckGains[place][std::size_t(n)] = duckAt(place, m_clock + n);
  }
}

/// Gains of the run that is rendered; null for a part that stands where it is.
const float* Engine::duckOf(Id part) const {
  for (int i = 0; i < m_duckedParts; ++i)
    if (m_ducked[std::size_t(i)].strip.part == part && m_ducked[std::size_t(i)].moves)
      return m_duckGains[std::size_t(i)].data();
  return nullptr;
}

} // namespace tuvvo
