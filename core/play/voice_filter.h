// The two filters of a voice, which may move.
#pragma once

#include "play/envelope_run.h"

#include <array>

namespace tuvvo {

/// What a patch says about its filters.
struct PatchFilters {
  struct One {
    double corner = 0; ///< Hz; 0: not there
    double moves = 0;  ///< octaves at the envelope's top
  };
  One low, high;
  double damping = 1.4142135623730951; ///< 1/Q of both; √2 is Butterworth's
  EnvelopeShape shape;                 ///< in steps of VoiceFilter::kStep frames
  [[nodiscard]] bool moving() const { return low.moves != 0 || high.moves != 0; }
};

/// A high-pass and a low-pass of 12 dB an octave, one behind the other, for two channels: state
/// variable filters by trapezoidal integration, which may move at any time without a jump (A.
/// Simper, "Solving the continuous SVF equations using trapezoidal integration and equivalent
/// currents", 2013). Standing still they are the bilinear transform's Butterworth sections.
/// Real time: no allocation, lock or wait. How frames are split does not matter.
class VoiceFilter {
public:
  static constexpr int kStep = 16; ///< frames between two moves

  /// @param bright  octaves by which the low-pass stands elsewhere
  void start(const PatchFilters& filters, double bright);
  void letGo() { m_envelope.letGo(); }
  [[nodiscard]] bool works() const { return m_low.on || m_high.on; }
  /// Filters both channels in place.
  void run(float* left, float* right, int frames);

private:
  using Pair = double __attribute__((vector_size(16))); // left and right
  struct Section {
    bool on = false, moving = false;
    double corner = 0, moves = 0;
    double a1 = 1, a2 = 0, a3 = 0, damping = 1;
    Pair first{}, second{}; ///< the two states
  };
  static void tune(Section& section, double level);
  static void settle(Section& section);
  template <bool high> static void pass(Section& section, Pair* frames, int count);

  Section m_low, m_high;
  EnvelopeRun m_envelope;
  int m_until = 0; ///< frames to the next move
};

} // namespace tuvvo
