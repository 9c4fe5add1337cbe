// Windowed-sinc interpolation tables for playing at any speed.
#pragma once

#include <cstddef>
#include <vector>

namespace tuvvo {

/// Kernels of 32 zero crossings under a Kaiser window (Kaiser & Schafer 1980; β for 100 dB), one
/// set for every quarter octave of speed: played faster than recorded, the kernel is wider and its
/// cutoff lower, so that nothing folds back. 256 phases with straight lines between them.
///
/// Built once, about 30 ms; from then on const and safe on the audio thread.
class SincBank {
public:
  static constexpr int kPhases = 256;
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

  /// A run of frames at one speed, the quick way to play. Adds step once a frame, in order.
  /// @param left, right  the sound's first samples; right may be the same as left (mono)
  /// @param place        of the first output, in frames; every window must lie inside the sound
  static void run(const Kernel& kernel, const float* left, const float* right, double place,
                  double step, int frames, float* outLeft, float* outRight);

private:
  SincBank();
  std::vector<Kernel> m_kernels;
};

} // namespace tuvvo
