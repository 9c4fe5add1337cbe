// Stretches of a sound at any speed, added to a result. Inner part of shape/.
#pragma once

#include "audio/sinc_bank.h"
#include "audio/sound.h"

namespace tuvvo {

class Varispeed {
public:
  /// @param rate   of the result
  /// @param fromS  only what lies between is needed, with a quarter of a second on either side
  Varispeed(const Sound& sound, Hertz rate, double fromS, double toS);

  /// Adds a stretch at one speed; silence where the sound has none, and beyond what is needed.
  /// @param fromS  place in the sound, in seconds
  /// @param speed  1 as recorded; higher is faster and higher
  void add(double fromS, double speed, std::span<float> left, std::span<float> right) const;
  [[nodiscard]] double rate() const { return m_rate; }
  [[nodiscard]] double durationS() const { return m_durationS; }

private:
  static constexpr std::size_t kPad = std::size_t(4096) * 16;
  SincBank m_bank{SincBank::Make::AsNeeded}; ///< so one thread at a time
  double m_rate, m_soundRate, m_durationS;
  std::int64_t m_first = 0; ///< frame of the sound that the padded ones begin with
  Channels m_padded;
};

/// The part of samples between two frames.
[[nodiscard]] inline std::span<float> part(Samples& samples, std::size_t from, std::size_t to) {
  return std::span(samples).subspan(from, to - from);
}

} // namespace tuvvo
