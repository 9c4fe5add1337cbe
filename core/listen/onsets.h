// Places where hits begin, and where to cut before them.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "listen/analysis.h"

#include <span>

namespace tuvvo {

/// Superflux (Böck & Widmer 2013: maximum-filtered spectral flux over 24 bands) proposes places; a
/// network fitted on many kits (hit_names.h) says whether something is struck there and what. The
/// cut point is found on band envelopes of a third of a millisecond.
///
/// Not for the audio thread. Pure: the same sound and parameters give the same onsets everywhere.
class OnsetFinder {
public:
  struct Parameters {
    double sensitivity = 0.5; ///< 0 (only the plainest, loudest hits) to 1 (everything that moves)
    Milliseconds minimumGap{30}; ///< hits closer than this are one; 5 to 200
  };

  OnsetFinder() = default;
  explicit OnsetFinder(const Parameters& parameters) : m_parameters(parameters) {}

  /// @param sound  any rate from 8 to 192 kHz
  /// @returns onsets in rising time with cut points, classes, levels; empty for silence or when
  ///          the job was cancelled
  [[nodiscard]] std::vector<Onset> find(const Sound& sound, JobContext& job) const;
  /// The same from what is mono at 22 050 Hz already.
  [[nodiscard]] std::vector<Onset> find(std::span<const float> mono, JobContext& job) const;

private:
  Parameters m_parameters;
};

} // namespace tuvvo
