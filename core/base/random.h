// Seeded numbers that are the same on every machine (the standard library's distributions are not).
#pragma once

#include <cstdint>

namespace tuvvo {

/// SplitMix64 (Steele, Lea, Flood 2014). Safe on the audio thread.
class Random {
public:
  explicit Random(std::uint64_t seed) : m_state(seed) {}

  std::uint64_t next() {
    std::uint64_t z = (m_state += 0x9e3779b97f4a7c15ULL);
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
    return z ^ (z >> 31);
  }
  /// Evenly in [0, 1).
  double unit() { return double(next() >> 11) * 0x1.0p-53; }
  /// Evenly in [−1, 1).
  double bipolar() { return 2.0 * unit() - 1.0; }
  /// Bell-shaped, mean 0, deviation about 1 (sum of twelve, within ±6).
  double bell() {
    double sum = -6.0;
    for (int i = 0; i < 12; ++i) sum += unit();
    return sum;
  }

private:
  std::uint64_t m_state;
};

} // namespace tuvvo
