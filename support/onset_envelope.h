// How alike two sounds begin, for tests and the bench of breaks.
#pragma once

#include "audio/resample.h"
#include "audio/sound.h"
#include "listen/onset_strength.h"

#include <cmath>

namespace tuvvo::test {

/// Where things begin, at 172 frames a second, smoothed over three.
inline std::vector<double> onsetEnvelope(const Sound& sound) {
  const auto mono = resample(monoOf(sound), sound.rate(), Hertz(22050));
  const auto strength = onsetStrength(mono).mixed({1, 1, 1, 1, 1});
  std::vector<double> out(strength.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double before = i > 0 ? double(strength[i - 1]) : 0,
                 after = i + 1 < strength.size() ? double(strength[i + 1]) : 0;
    out[i] = (before + double(strength[i]) + after) / 3;
  }
  return out;
}

/// Pearson's, over the shorter of the two.
inline double correlation(const std::vector<double>& a, const std::vector<double>& b) {
  const std::size_t n = std::min(a.size(), b.size());
  double ma = 0, mb = 0, ab = 0, aa = 0, bb = 0;
  for (std::size_t i = 0; i < n; ++i) {
    ma += a[i] / double(n);
    mb += b[i] / double(n);
  }
  for (std::size_t i = 0; i < n; ++i) {
    ab += (a[i] - ma) * (b[i] - mb);
    aa += (a[i] - ma) * (a[i] - ma);
    bb += (b[i] - mb) * (b[i] - mb);
  }
  return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : 0;
}

} // namespace tuvvo::test
