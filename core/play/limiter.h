// The safety limiter that guards the output.
#pragma once

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
  static constexpr float kCeiling = 0.966f; ///< −0.3 dBFS

  void reset();
  /// One stereo frame in, the one of kLatency frames before out.
  void process(float& left, float& right);
  /// The gain in use, 1 when it does nothing.
  [[nodiscard]] float gain() const { return float(m_sum / kWindow); }

private:
  static constexpr int kWindow = 64;
  static constexpr double kLetGo = 1.0 - 0.99993; // to 1/e in about 0.3 s

  std::array<float, kWindow> m_left{}, m_right{}, m_needed = filled();
  std::array<double, kWindow> m_gains = filledDouble();
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
