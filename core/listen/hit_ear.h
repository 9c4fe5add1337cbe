// What a struck sound is made of: bands around a place, and a small network that names it.
#pragma once

#include "listen/listening.h"
#include "listen/spectrum.h"

namespace tuvvo {

/// Log-band levels of a whole sound at 2.9 ms, and what they say about single places.
class HitEar {
public:
  static constexpr double kRate = 22050.0, kHop = 64, kFramesASecond = kRate / kHop;
  static constexpr int kBands = 24;
  static constexpr int kFeatures = 12 * 6 + 2;
  using Features = std::array<float, kFeatures>;

  /// @param mono  at 22 050 Hz
  explicit HitEar(std::span<const float> mono);

  /// Superflux (Böck & Widmer 2013): places where the bands rise, stronger than a threshold above
  /// their surroundings. @returns frames in rising order
  [[nodiscard]] std::vector<int> rises(float threshold, double gapS) const;
  [[nodiscard]] int frames() const { return m_levels.rows; }

  /// Levels of twelve bands before a place, at it and in four stretches after it, against the
  /// loudest of the sound; how much they rise.
  [[nodiscard]] Features featuresAt(int frame) const;

  /// Likelihoods, 0 to 1: that something is struck at all, and that it is a kick, a snare, a hat or
  /// something else.
  struct Named {
    float onset = 0, kick = 0, snare = 0, hat = 0, other = 0;
  };
  [[nodiscard]] static Named name(const Features& features);

private:
  Matrix m_levels;   ///< ln(1 + B / ε), frames × kBands
  Matrix m_decibels; ///< dB under the sound's loudest, frames × 12
  std::vector<float> m_flux;
  std::array<float, 12> m_usual{}; ///< 90th percentile of each of the twelve
};

} // namespace tuvvo
