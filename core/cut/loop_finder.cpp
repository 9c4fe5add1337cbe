#include "cut/loop_finder.h"

#include "base/convert.h"
#include "listen/chord_name.h"
#include "listen/spectrum.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo {

namespace {

constexpr int kBands = 24;
constexpr double kWindowS = 0.09, kLevelS = 0.05; // how much around a seam is compared
constexpr double kJoinS = 0.003, kEarlyS = 0.015, kStepS = 0.0002;

std::vector<double> bandEdges(double rate) {
  std::vector<double> edges;
  const double from = 40, to = std::min(16000.0, rate * 0.45);
  for (int i = 0; i < kBands + 2; ++i)
    edges.push_back(from * std::pow(to / from, double(i) / (kBands + 1)));
  return edges;
}

int sizeFor(double rate) {
  int size = 256;
  while (size < kWindowS * rate) size *= 2;
  return size;
}

/// Looks at stretches of one sound.
class Seams {
public:
  explicit Seams(const Sound& sound)
      : m_rate(sound.rate().value), m_mono(monoOf(sound)), m_fft(sizeFor(m_rate)),
        m_summer(bandEdges(m_rate), m_fft.size(), m_rate) {}

  [[nodiscard]] double rate() const { return m_rate; }

  /// dB of the log bands of a stretch that begins at a frame; beyond the ends there is silence.
  std::array<float, kBands> bandsFrom(std::int64_t from) {
    const auto input = m_fft.input();
    for (std::size_t i = 0; i < input.size(); ++i) {
      const double hann = 0.5 - 0.5 * std::cos(2 * M_PI * double(i) / double(input.size()));
      input[i] = sample(from + std::int64_t(i)) * float(hann);
    }
    const auto bins = m_fft.run();
    m_magnitudes.resize(bins.size());
    for (std::size_t k = 0; k < bins.size(); ++k) m_magnitudes[k] = std::sqrt(std::norm(bins[k]));
    std::array<float, kBands> out{};
    m_summer.sum(m_magnitudes, out);
    for (float& v : out) v = 20 * std::log10(v + 1e-3f); // −60 dB under a quiet hiss counts no more
    return out;
  }

  [[nodiscard]] double levelDb(std::int64_t from) const {
    const auto n = toWhole<std::int64_t>(kLevelS * m_rate);
    double sum = 0;
    for (std::int64_t i = from; i < from + n; ++i) sum += double(sample(i)) * double(sample(i));
    return 10 * std::log10(sum / double(n) + 1e-7);
  }

  /// 1 less the correlation of the waves around two places.
  [[nodiscard]] double apart(std::int64_t a, std::int64_t b) const {
    const auto n = toWhole<std::int64_t>(kJoinS * m_rate);
    double aa = 1e-9, bb = 1e-9, ab = 0;
    for (std::int64_t i = -n; i < n; ++i) {
      const double x = double(sample(a + i)), y = double(sample(b + i));
      aa += x * x;
      bb += y * y;
      ab += x * y;
    }
    return 1 - ab / std::sqrt(aa * bb);
  }

private:
  [[nodiscard]] float sample(std::int64_t i) const {
    return i >= 0 && i < std::int64_t(m_mono.size()) ? m_mono[std::size_t(i)] : 0.0f;
  }

  double m_rate;
  Samples m_mono;
  Fft m_fft;
  BandSummer m_summer;
  std::vector<float> m_magnitudes;
};

const ChordHeard* chordAt(const std::vector<ChordHeard>& chords, double atS) {
  for (const auto& chord : chords)
    if (chord.start.value <= atS && atS < chord.end.value) return &chord;
  return nullptr;
}

std::string longestChord(const std::vector<ChordHeard>& chords, double fromS, double toS) {
  std::map<std::string, double> time;
  for (const auto& chord : chords) {
    const double both = std::min(toS, chord.end.value) - std::max(fromS, chord.start.value);
    if (both > 0) time[chord.name] += both;
  }
  std::string best;
  double most = 0;
  for (const auto& [name, seconds] : time)
    if (seconds > most) {
      most = seconds;
      best = name;
    }
  return best;
}

/// 0 for the same chord, 1 for chords without a tone in common; ½ where one is not known.
double harmonyApart(const ChordHeard* a, const ChordHeard* b) {
  if (!a || !b) return a == b ? 0 : 0.5;
  const auto first = chordFromName(a->name), second = chordFromName(b->name);
  if (!first || !second) return a->name == b->name ? 0 : 0.5;
  const auto x = first->tones(), y = second->tones();
  std::size_t common = 0;
  for (int tone : x) common += std::size_t(std::count(y.begin(), y.end(), tone));
  return 1 - double(common) / double(std::max(x.size(), y.size()));
}

} // namespace

bool asksFor(const LoopQuestion& question, const std::string& chord) {
  if (!question.root && !question.minor) return true;
  const auto name = chordFromName(chord);
  return name && (!question.root || name->root == *question.root) &&
         (!question.minor || name->minor() == *question.minor);
}

std::vector<LoopPlace> findLoops(const Source& source, const LoopQuestion& question,
                                 std::size_t most) {
  std::vector<LoopPlace> out;
  const ResolvedSource resolved(source);
  const auto& grid = resolved.grid();
  auto bars = resolved.bars();
  const int n = std::clamp(question.bars, 1, 64);
  if (!source.sound || !grid || bars.empty()) return out;
  // The last bar ends where the next would begin.
  const double duration = source.sound->duration().value;
  bars.push_back(bars.back() + (bars.size() > 1 ? bars.back() - bars[bars.size() - 2]
                                                : Seconds(60 / grid->tempo.value * grid->meter)));
  if (bars.back().value > duration + 0.03) bars.pop_back();
  Seams seams(*source.sound);
  const double rate = seams.rate();
  const auto& chords = source.heard ? source.heard->chords : std::vector<ChordHeard>{};
  for (std::size_t i = 0; i + std::size_t(n) < bars.size(); ++i) {
    LoopPlace place;
    const double startS = bars[i].value, endS = bars[i + std::size_t(n)].value;
    place.chord = longestChord(chords, startS, endS);
    if (!asksFor(question, place.chord)) continue;
    const auto length =
        std::int64_t(toNearest<std::int64_t>(endS * rate) - toNearest<std::int64_t>(startS * rate));
    auto start = toNearest<std::int64_t>(startS * rate);
    place.phase = 3;
    for (double early = 0; early <= kEarlyS; early += kStepS) {
      const auto from = toNearest<std::int64_t>((startS - early) * rate);
      if (from < 0) break;
      const double apart = seams.apart(from, from + length);
      if (apart < place.phase - 0.02) { // later unless it is better by something
        place.phase = apart;
        start = from;
      }
    }
    const auto end = std::min(start + length, std::int64_t(source.sound->frames().value));
    place.start = Frames(start);
    place.end = Frames(end);
    place.firstBar = int(i);
    place.bars = n;
    const auto level = toWhole<std::int64_t>(kLevelS * rate);
    place.levelDb = seams.levelDb(start) - seams.levelDb(end);
    // At the end of the file nothing would have come: the end itself is compared then.
    const bool last = end + level > source.sound->frames().value;
    if (last) place.levelDb = seams.levelDb(start) - seams.levelDb(end - level);
    const auto window = toWhole<std::int64_t>(kWindowS * rate);
    const auto before = seams.bandsFrom(end - window), was = seams.bandsFrom(start - window);
    const auto comes = seams.bandsFrom(start), would = seams.bandsFrom(last ? start : end);
    for (std::size_t b = 0; b < kBands; ++b) {
      place.spectrumDb += std::abs(double(comes[b] - would[b])) / kBands / 2;
      if (start > window) place.spectrumDb += std::abs(double(before[b] - was[b])) / kBands / 2;
    }
    const double little = 0.05;
    place.harmony =
        last ? 0 : harmonyApart(chordAt(chords, startS + little), chordAt(chords, endS + little));
    place.seam = std::abs(place.levelDb) / 6 + place.spectrumDb / 6 + place.phase + place.harmony;
    out.push_back(std::move(place));
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const LoopPlace& a, const LoopPlace& b) { return a.seam < b.seam; });
  if (out.size() > most) out.resize(most);
  return out;
}

} // namespace tuvvo
