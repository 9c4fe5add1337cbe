// The limiter: it guards the output, and may stand in a chain.
#pragma once

#include "base/units.h"

#include <array>
#include <cstdint>

namespace tuvvo {

/// Looks ahead 63 frames (1.3 ms) and never lets a sample past the ceiling. What stays under it
/// passes unchanged, only later. The gain is the smallest needed over the look-ahead, let go slowly
/// and smoothed by a moving mean of the same length, so that it is never too late and never jumps.
///
/// Real time: no allocation, lock or wait in any call.
class Limiter {
public:
  static constexpr int kLatency = 63;       ///< frames
  static constexpr float kCeiling = 0.966f; ///< −0.3 dBFS: of the output

  /// Forgets what came by; ceiling and release stay.
  void reset();
  /// @param ceiling  gain, above 0; lowered while something sounds it is held at once
  void setCeiling(float ceiling) { m_ceiling = ceiling; }
  /// How fast the gain comes back: to 1/e of what is missing in this time.
  void setRelease(Milliseconds release, Hertz rate);
  /// One stereo frame in, the one of kLatency frames before out.
  void process(float& left, float& right);
  /// The gain in use, 1 when it does nothing.
  [[nodiscard]] float gain() const { return float(m_sum / kWindow); }

private:
  static constexpr int kWindow = 64;

  std::array<float, kWindow> m_left{}, m_right{}, m_needed = filled();
  std::array<double, kWindow> m_gains = filledDouble();
  float m_ceiling = kCeiling;
  double m_release = 1.0 - 0.99993; ///< a frame; to 1/e in about 0.3 s
  double m_envelope = 1, m_sum = kWindow;
  float m_smallest = 1;
  int m_smallestAge = 0, m_at = 0;

  static std::array<float, kWindow> filled() {
    std::array<float, kWindow> ones;
    ones.fill(1.0f);
    return ones;
  }
  static std::array<double, kWindow> filledDouble() {
    std::array<double, kWindow> ones;
    ones.fill(1.0);
    return ones;
  }
};

} // namespace tuvvo
