// A level that steps back when something is struck, and comes back.
#pragma once

#include "mix/processor.h"

#include <array>
#include <cstdint>

namespace tuvvo {

/// Steps back within 2 ms, so that it does not click, and comes back exponentially. Strikes are
/// heeded to the frame. Real time.
class Ducker {
public:
  struct Plan {
    bool on = false;
    float to = 1;   ///< the gain it steps back to
    float back = 1; ///< frames in which it comes back by 1 − 1/e of the way
  };

  void plan(const Plan& plan) { m_plan = plan; }
  [[nodiscard]] bool on() const { return m_plan.on; }
  /// What it follows is struck at a frame of the quantum; in rising order.
  /// @param quantum  the frame of its clock at which the quantum begins
  void strike(std::int64_t quantum, int offset);
  /// The gains of the quantum, once; null where it stands at 1 throughout.
  const float* finish(std::int64_t quantum);

private:
  static constexpr std::int64_t kLongAgo = std::int64_t(1) << 62;
  [[nodiscard]] float gainAt(std::int64_t frame) const;
  void fill(std::int64_t quantum, int until);

  Plan m_plan;
  std::int64_t m_since = kLongAgo; ///< when it began to step back
  float m_from = 1;                ///< its gain then
  int m_done = 0;                  ///< gains of the quantum that are filled
  bool m_moves = false;
  std::array<float, kQuantum> m_gains{};
};

} // namespace tuvvo
