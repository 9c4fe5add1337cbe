// Windowed-sinc interpolation tables for playing at any speed.
#pragma once

#include <cstdint>
#include <vector>

namespace tuvvo {

/// Kernels of 32 zero crossings under a Kaiser window (Kaiser & Schafer 1980; β for 100 dB), one
/// set for every quarter of speed in the first octave up, every half in the second and so on:
/// played faster than recorded, the kernel is wider and its cutoff lower, so that nothing folds
/// back. 256 phases with straight lines between them.
///
/// Whoever plays owns one.
class SincBank {
public:
  /// Now: all of it, about 30 ms; from then on safe on the audio thread, and for any number of
  /// threads. AsNeeded: each set at the first question for it, about 2 ms; for one thread.
  enum class Make { Now, AsNeeded };
  explicit SincBank(Make make);

  static constexpr int kPhases = 256;
  static constexpr double kFastest =
      16; ///< four octaves up; faster is played with this one's kernel

  /// One set.
  struct Kernel {
    double step = 1;          ///< the fastest it serves
    int taps = 0;             ///< a multiple of 8; the centre lies between taps/2 − 1 and taps/2
    std::vector<float> table; ///< (kPhases + 1) × taps
  };

  /// A sound played at one speed. Frame n of the output stands at from + n · step, reckoned anew
  /// for every frame, so that nothing adds up and any split into runs gives the same.
  struct Track {
    const float *left = nullptr, *right = nullptr; ///< first samples; the same for mono
    double from = 0, step = 1;                     ///< in frames of the sound
  };

  /// For a speed in frames of sound a frame of output.
  [[nodiscard]] const Kernel& forStep(double step) const;

  /// A run of frames, the quick way to play.
  /// @param first  number of the run's first frame; every window must lie inside the sound
  static void run(const Kernel& kernel, const Track& track, std::int64_t first, int frames,
                  float* outLeft, float* outRight);

private:
  mutable std::vector<Kernel> m_kernels; ///< without a table where it is not made yet
};

} // namespace tuvvo
