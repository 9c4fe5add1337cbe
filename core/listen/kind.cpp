#include "listen/kind.h"

#include "audio/sound.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::size_t kSpeechGrain = 220; // 10 ms at 22 050 Hz

double logistic(double x) { return 1 / (1 + std::exp(-x)); }

/// How much a sound moves as speech does.
struct SpeechHeard {
  double quiet = 0;     ///< share of frames under half the mean level around them
  double syllables = 0; ///< share of the envelope's movement between 2.5 and 8 Hz
};

SpeechHeard findSpeech(std::span<const float> mono) {
  std::vector<float> level;
  for (std::size_t at = 0; at + kSpeechGrain <= mono.size(); at += kSpeechGrain) {
    float sum = 0;
    for (float v : mono.subspan(at, kSpeechGrain)) sum += v * v;
    level.push_back(std::sqrt(sum / kSpeechGrain));
  }
  SpeechHeard out;
  if (level.size() < 100) return out;
  std::vector<double> sums(level.size() + 1, 0.0);
  for (std::size_t t = 0; t < level.size(); ++t) sums[t + 1] = sums[t] + double(level[t]);
  for (std::size_t t = 0; t < level.size(); ++t) {
    const std::size_t a = t < 50 ? 0 : t - 50, b = std::min(level.size(), t + 50);
    if (double(level[t]) < 0.5 * (sums[b] - sums[a]) / double(b - a)) out.quiet += 1;
  }
  out.quiet /= double(level.size());
  int size = 1024;
  while (std::size_t(size) < level.size() && size < (1 << 16)) size *= 2;
  Fft fft(size);
  auto input = fft.input();
  const double mean = sums.back() / double(level.size());
  for (std::size_t i = 0; i < input.size(); ++i)
    input[i] = i < level.size() ? float(double(level[i]) - mean) : 0.0f;
  const auto bins = fft.run();
  double all = 1e-12, between = 0;
  for (std::size_t k = 1; k < bins.size(); ++k) {
    const double hertz = double(k) * 22050 / kSpeechGrain / size,
                 power = double(std::norm(bins[k]));
    if (hertz < 0.4 || hertz > 30) continue;
    all += power;
    if (hertz >= 2.5 && hertz <= 8) between += power;
  }
  out.syllables = between / all;
  return out;
}

/// Hits within 12 dB of the loudest and not in another's first tenth of a second.
int plainHits(const std::vector<Onset>& onsets) {
  double top = -200, last = -1;
  for (const auto& onset : onsets) top = std::max(top, onset.level.value);
  int count = 0;
  for (const auto& onset : onsets)
    if (onset.level.value > top - 12 && onset.at.value - last > 0.1) {
      ++count;
      last = onset.at.value;
    }
  return count;
}

// A second, in what somebody plays: less is a place or a held sound.
constexpr double kFewHits = 0.6;

/// Of what begins. Few onsets in a long sound say little: it is counted as if something that is no
/// drum began every five seconds as well.
double drumShare(const std::vector<Onset>& onsets, Seconds duration) {
  double drums = 0;
  for (const auto& onset : onsets)
    drums += std::any_of(onset.hits.begin(), onset.hits.end(),
                         [](HitClass hit) { return hit != HitClass::Other; });
  return onsets.empty() ? 0 : drums / (double(onsets.size()) + duration.value / 5);
}

} // namespace

KindEvidence kindEvidence(const Analysis& heard, const Harmony& harmony,
                          std::span<const float> mono) {
  KindEvidence out;
  const SpeechHeard speech = findSpeech(mono);
  out.duration = heard.duration.value;
  out.hits = plainHits(heard.onsets);
  out.drums = drumShare(heard.onsets, heard.duration);
  for (std::size_t i = 1; i < heard.chords.size(); ++i)
    out.changes += heard.chords[i].name != heard.chords[i - 1].name;
  out.changes /= std::max(1.0, out.duration);
  out.quiet = speech.quiet;
  out.syllables = speech.syllables;
  out.agreement = harmony.agreement;
  out.tonal = harmony.tonal;
  out.pulse = heard.tempo ? heard.tempo->confidence : 0;
  out.key = heard.key ? heard.key->confidence : 0;
  out.loopBars = heard.loop ? heard.loop->bars : 0;
  return out;
}

KindHeard analyseKind(const KindEvidence& e) {
  if (e.pulse <= 0 && e.duration < 8 && e.hits <= 1)
    return {SoundKind::OneShot, std::clamp(1.05 - e.duration / 16, 0.5, 0.97)};
  if (e.duration < 1.0) return {SoundKind::OneShot, 0.6};

  // Speech glides: its partials agree on no tuning. What sounds like drums all through is drums.
  const double voice =
      logistic(14 * (e.syllables - 0.45) + 8 * (e.quiet - 0.35) + 6 * (0.35 - e.agreement) -
               20 * std::max(0.0, e.drums - 0.2) - (e.pulse > 0 ? 4 * e.pulse - 1 : 0));
  if (e.duration > 1.2 && voice > 0.5) return {SoundKind::Voice, voice};

  if (e.pulse <= 0) {
    if (e.duration < 4 && e.hits <= 2) return {SoundKind::OneShot, 0.6};
    const double music = logistic(6 * (e.tonal - 0.45) + 4 * (e.agreement - 0.3));
    // Too little begins and changes in it for somebody to be playing; that the sound itself begins
    // is no playing.
    const double begun = std::max(0, e.hits - 1) / e.duration;
    const double still = logistic(8 * (kFewHits - begun) + 8 * (0.35 - e.changes));
    if (e.key > 0 && music > 0.5 && still < 0.7) return {SoundKind::Passage, music * (1 - still)};
    return {SoundKind::Field, std::clamp(std::max(still, 1 - music), 0.5, 0.97)};
  }
  // Drums ring, some of them in tune; but they are in no key, and music of other things nearly
  // always is.
  const double brk =
      logistic(9 * (e.drums - 0.75) + 14 * (0.43 - e.tonal) + (e.key > 0 ? -2 * e.key : 5));
  if (brk > 0.5) return {SoundKind::Break, brk};
  // A length of whole bars by chance is rarely a count that people loop.
  if (e.loopBars > 0 && (e.loopBars <= 8 || e.loopBars == 12 || e.loopBars == 16))
    return {SoundKind::Loop, std::clamp(0.6 + 0.4 * e.pulse, 0.0, 0.98)};
  return {SoundKind::Passage, std::clamp(0.5 + e.duration / 60, 0.5, 0.95)};
}

} // namespace tuvvo
