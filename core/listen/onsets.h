// Places where hits begin, and where to cut before them.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "listen/listening.h"

namespace tuvvo {

/// Superflux (Böck & Widmer 2013: maximum-filtered spectral flux over 24 bands), verified in fine
/// time by comparing medians after and before, so that clicks of a worn disc do not count. The cut
/// point is found on band envelopes of 16 samples.
///
/// Not for the audio thread. Pure: the same sound and parameters give the same onsets everywhere.
class OnsetFinder {
public:
  struct Parameters {
    double sensitivity = 0.5;    ///< 0 (only the plainest hits) to 1 (everything that moves)
    Milliseconds minimumGap{30}; ///< hits closer than this are one; 5 to 200
  };

  OnsetFinder() = default;
  explicit OnsetFinder(const Parameters& parameters) : m_parameters(parameters) {}

  /// @param sound  any rate from 8 to 192 kHz
  /// @returns onsets in rising time with cut points, classes, levels; empty for silence or when
  ///          the job was cancelled
  [[nodiscard]] std::vector<Onset> find(const Sound& sound, JobContext& job) const;

private:
  Parameters m_parameters;
};

} // namespace tuvvo
