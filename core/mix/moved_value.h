// A figure that goes where it is sent without a step.
#pragma once

#include <cmath>

namespace tuvvo {

/// Moves by a share of the way left at every quantum: to 1/e of it in 10 ms (a pole of first
/// order). Real time.
class MovedValue {
public:
  MovedValue() = default;
  /// @param least  what is nearer than this is there
  MovedValue(double value, double least) : m_now(value), m_target(value), m_least(least) {}

  void send(double target) { m_target = target; }
  void jump() { m_now = m_target; }
  /// @returns the value of the next quantum
  double next() {
    m_now += (m_target - m_now) * kShare;
    if (std::abs(m_target - m_now) < m_least) m_now = m_target;
    return m_now;
  }
  [[nodiscard]] double now() const { return m_now; }
  [[nodiscard]] double target() const { return m_target; }
  [[nodiscard]] bool moves() const { return m_now != m_target; }

private:
  static constexpr double kShare = 0.1248; // 1 − e^(−64 / 480)
  double m_now = 0, m_target = 0, m_least = 1e-6;
};

} // namespace tuvvo
