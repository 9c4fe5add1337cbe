// What a struck sound is made of: bands around a place.
#pragma once

#include "listen/analysis.h"
#include "listen/spectrum.h"

namespace tuvvo {

/// Log-band levels of a whole sound at 2.9 ms, and what they say about single places.
class HitDetector {
public:
  static constexpr double kRate = 22050.0, kHop = 64, kFramesASecond = kRate / kHop;
  static constexpr int kBands = 24, kRegions = 6;
  /// Stretches around a place, in frames from it: over the first levels are averaged, over the
  /// second how noisy the sound is.
  struct Stretch {
    int from, to;
  };
  static constexpr std::array<Stretch, 7> kStretches{
      {{-16, -6}, {-2, 1}, {1, 5}, {5, 13}, {13, 26}, {26, 52}, {52, 104}}};
  static constexpr std::array<Stretch, 5> kNoiseStretches{
      {{-12, -6}, {1, 5}, {5, 13}, {13, 26}, {26, 52}}};
  /// Blocks of a value a band: one a stretch, the loudest of the attack, the usual level. Then
  /// blocks of a value a region: one a stretch. Then how much the bands rise, and the flux.
  static constexpr int kAttackBlock = int(kStretches.size()), kUsualBlock = kAttackBlock + 1;
  static constexpr int kFeatures =
      (kUsualBlock + 1) * kBands + int(kNoiseStretches.size()) * kRegions + 2;
  using Features = std::array<float, kFeatures>;

  /// @param mono  at 22 050 Hz
  explicit HitDetector(std::span<const float> mono);

  /// Superflux (Böck & Widmer 2013): places where the bands rise, stronger than a threshold above
  /// their surroundings. @returns frames in rising order
  [[nodiscard]] std::vector<int> rises(float threshold, double gapS) const;
  [[nodiscard]] int frames() const { return m_levels.rows; }

  /// Levels of the bands before a place, at it and after it, against the loudest of the sound (0
  /// for 66 dB under it and less, 3.3 for it), and how noisy six regions of the spectrum are
  /// (spectral flatness: 0 for noise, higher for tones).
  [[nodiscard]] Features featuresAt(int frame) const;

private:
  Matrix m_levels;   ///< ln(1 + B / ε), frames × kBands
  Matrix m_decibels; ///< dB over what is 66 dB under the loudest, by 20, frames × kBands
  Matrix m_tonality; ///< −ln of the flatness, frames × kRegions
  std::vector<float> m_flux;
  std::array<float, kBands> m_usual{}; ///< 90th percentile of each band
};

} // namespace tuvvo
