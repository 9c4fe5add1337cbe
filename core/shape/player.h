// Stretches of a sound at any speed, added to a result. Inner part of shape/.
#pragma once

#include "audio/sound.h"
#include "audio/sinc_bank.h"

namespace tuvvo {

using Channels = std::vector<std::vector<float>>; ///< two of equal length

class Player {
public:
  /// @param rate  of the result
  Player(const Sound& sound, Hertz rate);

  /// Adds a stretch at one speed; silence where the sound has none.
  /// @param fromS  place in the sound, in seconds
  /// @param speed  1 as recorded; higher is faster and higher
  void add(double fromS, double speed, std::span<float> left, std::span<float> right) const;
  [[nodiscard]] double rate() const { return m_rate; }
  [[nodiscard]] double durationS() const { return m_durationS; }

private:
  static constexpr std::size_t kPad = 4096 * 16;
  const SincBank& m_bank;
  double m_rate, m_soundRate, m_durationS;
  Channels m_padded;
};

/// The part of samples between two frames.
[[nodiscard]] inline std::span<float> part(std::vector<float>& samples, std::size_t from,
                                           std::size_t to) {
  return std::span(samples).subspan(from, to - from);
}

} // namespace tuvvo
