// An envelope, frame by frame.
#pragma once

#include "model/key.h"

namespace tuvvo {

/// A way from one level to another in so many frames: after i of them
/// (1 − ratio^i) / (1 − ratio^frames) of it is done; a ratio of 1 is a straight line.
struct Slope {
  int frames = 0;
  double ratio = 1;
};
/// @param curve  see Envelope: 1 falls to a thousandth of the way left in its time
[[nodiscard]] Slope slopeOf(Milliseconds time, double curve, Hertz rate);

/// An envelope in frames of a rate.
struct EnvelopeShape {
  Slope attack;
  int held = 0;
  Slope decay;
  double sustain = 1;
  Slope release;
};
[[nodiscard]] EnvelopeShape shapeOf(const Envelope& envelope, Hertz rate);

/// Real time: no allocation, lock or wait. What it gives does not depend on how frames are split.
class EnvelopeRun {
public:
  void start(const EnvelopeShape& shape);
  /// Goes into the release from wherever it is.
  void letGo();
  /// Ends at once.
  void end() { m_stage = Stage::Faded; }
  /// The level of the next frames, 0 to 1. @returns how many were filled before it faded away
  int fill(float* level, int frames);
  [[nodiscard]] bool faded() const { return m_stage == Stage::Faded; }

private:
  enum class Stage { Attack, Hold, Decay, Sustain, Release, Faded };
  void enter(Stage stage);
  void begin(const Slope& slope, double to);
  int slope(float* level, int frames);

  EnvelopeShape m_shape;
  Stage m_stage = Stage::Faded;
  double m_level = 0;
  double m_from = 0, m_way = 0, m_ratio = 1, m_power = 1, m_scale = 0; ///< of the slope
  int m_done = 0, m_frames = 0;
};

} // namespace tuvvo
