// Loudness (ITU-R BS.1770 through libebur128) and faults of a recording.
#pragma once

#include "audio/sound.h"
#include "listen/analysis.h"

#include <array>

namespace tuvvo {

/// Measures a sound that passes by in blocks. Not for the audio thread.
class LoudnessMeter {
public:
  /// @param channels  1 or 2
  LoudnessMeter(int channels, Hertz rate);
  ~LoudnessMeter();
  LoudnessMeter(const LoudnessMeter&) = delete;
  LoudnessMeter& operator=(const LoudnessMeter&) = delete;

  /// The next block, any length; left and right are the same span for mono.
  void take(std::span<const float> left, std::span<const float> right);
  /// Once, after the last block: integrated, largest short-term, range, true and sample peak;
  /// −infinity where there is silence.
  [[nodiscard]] LoudnessHeard loudness();
  [[nodiscard]] StereoPower power() const { return {m_square[0], m_square[1], m_product}; }
  /// Clipping, DC offset, silence at the front, one-sided and inverted stereo.
  [[nodiscard]] std::vector<FaultHeard> faults() const;

private:
  struct Meters;
  void takeStep();
  void takePeaks(std::span<const float> left, std::span<const float> right);
  void searchTruePeak();

  const int m_channels;
  const double m_rate;
  std::unique_ptr<Meters> m_meters;
  std::vector<float> m_block;
  std::int64_t m_frames = 0;
  std::size_t m_sinceStep = 0, m_stepCount = 0;
  std::array<double, 30> m_steps{}; ///< energy of the last tenths of a second
  double m_shortTerm;
  float m_peak = 0; ///< the largest sample so far
  double m_truePeak = 0;
  // The true peak is looked for a little behind what was taken.
  std::vector<float> m_recent[2];
  std::size_t m_searched = 0; ///< in m_recent
  // Sums of left and right.
  double m_sum[2]{}, m_square[2]{}, m_product = 0;
  int m_clipRun[2]{}, m_longestClip = 0;
  struct Louder {
    std::int64_t frame;
    float level;
  };
  std::vector<Louder> m_rising; ///< every place louder than all before it
};

/// The loudness of a whole sound.
[[nodiscard]] LoudnessHeard analyseLoudness(const Sound& sound);

/// Integrated loudness of a stretch: gated as EBU R 128 asks where it is 400 ms or longer, and of
/// the stretch repeated to that length where it is shorter, so that short slices compare.
/// @returns LUFS; −infinity for silence
[[nodiscard]] double loudnessOf(const Sound& sound, Frames from, Frames to);

} // namespace tuvvo
