// Windowed-sinc interpolation tables for playing at any speed.
#pragma once

#include <cstddef>
#include <vector>

namespace tuvvo {

/// Kernels of 32 zero crossings under a Kaiser window (Kaiser & Schafer 1980; β for 100 dB), one
/// set for every quarter octave of speed: played faster than recorded, the kernel is wider and its
/// cutoff lower, so that nothing folds back. 512 phases with straight lines between them.
///
/// Built once, about 30 ms; from then on const and safe on the audio thread.
class SincBank {
public:
  static constexpr int kPhases = 512;
  static constexpr double kFastest =
      16; ///< four octaves up; faster is played with this one's kernel

  /// One set: taps at whole phases and the steps between them, phase after phase.
  struct Kernel {
    int taps = 0;             ///< a multiple of 8; the centre lies between taps/2 − 1 and taps/2
    std::vector<float> table; ///< kPhases × (taps values, taps differences)
  };

  /// The shared bank, built at the first call (call it once outside the audio thread).
  static const SincBank& shared();

  /// For a speed in frames of sound a frame of output.
  [[nodiscard]] const Kernel& forStep(double step) const;

  /// One sample between others: sum of taps around samples[taps / 2 − 1 .. taps / 2].
  /// @param samples   taps samples, the first of them taps/2 − 1 before the whole place
  /// @param fraction  0 ≤ fraction < 1 from the whole place on
  [[nodiscard]] static float at(const Kernel& kernel, const float* samples, double fraction);
  /// The same for two channels at once.
  static void at(const Kernel& kernel, const float* left, const float* right, double fraction,
                 float& outLeft, float& outRight);

private:
  SincBank();
  std::vector<Kernel> m_kernels;
};

} // namespace tuvvo
