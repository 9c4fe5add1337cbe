// What the ear keeps of a sound that passes by: all that is needed, and no more.
#pragma once

#include "audio/resample.h"
#include "listen/levels.h"

namespace tuvvo {

/// Takes a sound block by block, so that a file of any length is heard in little memory: a mono
/// track at 22 050 Hz (88 KB a second), its levels, and a small picture.
class Intake {
public:
  static constexpr double kRate = 22050;

  /// @param channels  1 or 2
  /// @param frames  how many are expected, 0 for not known; only a hint for memory
  /// @param side  what is kept of two channels; wantedSide() says after the last block whether
  ///              another one would have heard more
  Intake(int channels, Hertz rate, std::int64_t frames, EarSide side = EarSide::Both);
  void take(std::span<const float> left, std::span<const float> right);
  /// Once, after the last block.
  void finish();

  [[nodiscard]] const Samples& mono() const { return m_mono; }
  [[nodiscard]] Seconds duration() const { return toSeconds(Frames(m_frames), m_rate); }
  [[nodiscard]] Hertz rate() const { return m_rate; }
  [[nodiscard]] int channels() const { return m_channels; }
  [[nodiscard]] EarSide wantedSide() const;
  [[nodiscard]] LoudnessMeter& levels() { return m_levels; }

private:
  int m_channels;
  Hertz m_rate;
  EarSide m_side;
  LoudnessMeter m_levels;
  StreamResampler m_resampler;
  Samples m_mono, m_block;
  std::int64_t m_frames = 0;
};

/// A waveform of a fixed number of columns, loudest sample by column, 0 to 255 of the loudest of
/// all: what lists and cards show of a sound that is not in memory.
/// @param mono  at any rate
[[nodiscard]] std::vector<std::uint8_t> pictureOf(std::span<const float> mono, int columns = 600);

} // namespace tuvvo
