// A delay of whole frames, for what has to wait for something slower.
#pragma once

#include "audio/samples.h"

namespace tuvvo {

/// Moves sound by a number of frames that may change while it runs: from one to the other it is
/// crossfaded. Made outside the audio thread; else real time.
class DelayLine {
public:
  /// @param most  frames; 0 and more
  explicit DelayLine(int most);

  /// Takes effect over the next 8 quanta, and not before so much has come by.
  void setDelay(int frames);
  /// It stands at the delay it was set to.
  [[nodiscard]] bool settled() const { return m_fade == 0 && m_delay == m_wanted; }
  [[nodiscard]] int most() const { return m_most; }
  /// One quantum of both channels, in place.
  void process(float* left, float* right);
  /// Silence, and the delay as it was set, at once.
  void reset();

private:
  void read(int delay, float* left, float* right) const;

  int m_most;
  std::size_t m_size;
  Samples m_left, m_right; ///< rings
  std::size_t m_at = 0;    ///< where the next quantum goes
  std::int64_t m_filled = 0;
  int m_delay = 0, m_next = 0, m_wanted = 0;
  int m_fade = 0; ///< quanta of the crossfade that are done
};

} // namespace tuvvo
