// Offline change of sample rate, by libsoxr at its very high quality.
#pragma once

#include "audio/sound.h"
#include "base/result.h"

namespace tuvvo {

/// The same sound at another rate; length round(frames · to / from). Not for the audio thread.
Result<SoundPtr> resample(const Sound& sound, Hertz rate);

/// One channel resampled as it passes by; gives what resample() gives. Not for the audio thread.
class StreamResampler {
public:
  StreamResampler(Hertz from, Hertz to);
  ~StreamResampler();
  StreamResampler(const StreamResampler&) = delete;
  StreamResampler& operator=(const StreamResampler&) = delete;
  /// Appends what the samples give so far.
  void take(std::span<const float> samples, Samples& out);
  /// Appends the rest: round(frames taken · to / from) in all.
  void finish(Samples& out);

private:
  void append(std::span<const float> samples, bool last, Samples& out);
  void* m_soxr = nullptr; ///< null when both rates are the same
  double m_ratio;
  std::int64_t m_taken = 0, m_given = 0;
};

/// The same for one channel of samples.
[[nodiscard]] Samples resample(std::span<const float> samples, Hertz from, Hertz to);

} // namespace tuvvo
