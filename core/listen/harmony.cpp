#include "listen/harmony.h"

#include "audio/sound.h"
#include "base/convert.h"
#include "base/wide.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <functional>

namespace tuvvo {

namespace {

constexpr double kSoundRate = 22050;
constexpr int kChromaSize = 8192, kChromaHop = 2048;
constexpr float kNoTone = 3e-5f; // of the loudest bin: 90 dB under it nothing is a tone
constexpr int kTopBin = 1600;    // MIDI note 108 lies at 1555
constexpr std::size_t kLowBin = 55, kVoiceFrom = 111, kVoiceTo = 1263; // 150, 300 and 3400 Hz

/// A spectral peak's distance from equal temperament.
struct TuningPeak {
  float strength, off; ///< semitones, −½ to ½
  int frame;
};

void addPeaks(int frame, std::span<const float> row, std::vector<TuningPeak>& peaks) {
  const int low = toWhole<int>(80 * kChromaSize / kSoundRate),
            high = toWhole<int>(4000 * kChromaSize / kSoundRate);
  const float floor = 0.01f * *std::max_element(row.begin(), row.begin() + kTopBin);
  for (int k = low; k <= high; ++k) {
    const float a = row[std::size_t(k - 1)], b = row[std::size_t(k)], c = row[std::size_t(k + 1)];
    if (b <= floor || b <= a || b < c || a <= 0 || c <= 0) continue;
    const double la = std::log(a), lb = std::log(b), lc = std::log(c);
    const double bend = la - 2 * lb + lc;
    const double place = k + (bend < 0 ? 0.5 * (la - lc) / bend : 0);
    const double note = midiNoteOf(Hertz(place * kSoundRate / kChromaSize));
    peaks.push_back({b, float(note - std::round(note)), frame});
  }
}

/// The middle of nine values, for whole rows at once (exchange network after Devillard 1998).
TUVVO_WIDE void middleOfNine(std::array<const float*, 9> rows, int count, float* out) {
  for (int i = 0; i < count; ++i) {
    float v[9];
    for (int k = 0; k < 9; ++k) v[k] = rows[std::size_t(k)][i];
    const auto order = [&v](int a, int b) {
      const float low = v[a] < v[b] ? v[a] : v[b], high = v[a] < v[b] ? v[b] : v[a];
      v[a] = low;
      v[b] = high;
    };
    order(1, 2), order(4, 5), order(7, 8), order(0, 1), order(3, 4), order(6, 7), order(1, 2);
    order(4, 5), order(7, 8), order(0, 3), order(5, 8), order(4, 7), order(3, 6), order(1, 4);
    order(2, 5), order(4, 7), order(4, 2), order(6, 4), order(4, 2);
    out[i] = v[4];
  }
}

/// Spectra as they pass by, of which the tones are kept and what is struck is dropped: what stands
/// in time (median of nine frames over 1.2 s) against what stands in frequency (of nine bins over
/// 46 Hz), mask H² / (H² + P²). Holds thirteen frames, whatever the sound's length.
class ToneKeeper {
public:
  using Take =
      std::function<void(int frame, std::span<const float> tones, const Harmony::Power& power)>;
  ToneKeeper(int frames, Take take)
      : m_frames(frames), m_take(std::move(take)), m_recent(kRing, kTopBin), m_steady(kTopBin),
        m_spread(kTopBin), m_tones(kTopBin), m_padded(kTopBin + 2 * kEdge) {}

  void add(int frame, std::span<const float> magnitudes) {
    std::copy_n(magnitudes.begin(), kTopBin, m_recent.row(frame % kRing).begin());
    const int last = frame == m_frames - 1 ? frame : frame - kAhead;
    for (; m_next <= last; ++m_next) keep(m_next);
  }

private:
  void keep(int t) {
    std::array<const float*, 9> rows{};
    for (std::size_t k = 0; k < 9; ++k)
      rows[k] = m_recent.row(std::clamp(t + kFrames[k], 0, m_frames - 1) % kRing).data();
    middleOfNine(rows, kTopBin, m_steady.data());
    const auto row = m_recent.row(t % kRing);
    std::copy(row.begin(), row.end(), m_padded.begin() + kEdge);
    for (int k = 0; k < 9; ++k) rows[std::size_t(k)] = m_padded.data() + std::ptrdiff_t(2) * k;
    middleOfNine(rows, kTopBin, m_spread.data());
    Harmony::Power power;
    for (std::size_t k = 0; k < row.size(); ++k) {
      const float h = m_steady[k] * m_steady[k], p = m_spread[k] * m_spread[k];
      m_tones[k] = row[k] * h / (h + p + 1e-20f);
      power.tones += double(m_tones[k]) * double(m_tones[k]);
      const double whole = double(row[k]) * double(row[k]);
      power.all += whole;
      if (k <= kLowBin) power.lows += whole;
      if (k >= kVoiceFrom && k <= kVoiceTo) power.voices += whole;
    }
    m_take(t, m_tones, power);
  }

  static constexpr std::array<int, 9> kFrames{-6, -5, -3, -2, 0, 2, 3, 5, 6};
  static constexpr int kAhead = 6, kEdge = 8, kRing = 2 * kAhead + 1;
  int m_frames, m_next = 0;
  Take m_take;
  Matrix m_recent;
  std::vector<float> m_steady, m_spread, m_tones, m_padded;
};

/// Which FFT bins a log-frequency bin takes: interpolated below, the largest above.
struct Reach {
  int first, last;
  float part; ///< of the upper of two bins; below zero: the largest of first to last
};

std::vector<Reach> reaches(Cents tuning) {
  std::vector<Reach> out;
  for (int b = 0; b < Harmony::kBins; ++b) {
    const double note = Harmony::kLowNote + double(b) / Harmony::kPerSemitone + tuning.value / 100;
    const double width = 0.5 / Harmony::kPerSemitone;
    const double from = frequencyOf(note - width).value * kChromaSize / kSoundRate;
    const double to = frequencyOf(note + width).value * kChromaSize / kSoundRate;
    const double centre = (from + to) / 2;
    if (to - from < 1.0)
      out.push_back({toWholeIn(centre, 0, kTopBin - 2), toWholeIn(centre, 0, kTopBin - 2) + 1,
                     float(centre - std::floor(centre))});
    else
      out.push_back(
          {toWholeIn(std::ceil(from), 0, kTopBin - 1), toWholeIn(to, 0, kTopBin - 1), -1.0f});
  }
  return out;
}

/// @param floor  deviation of what is hardly there: it stays small
void whiten(std::span<float> row, double floor) {
  constexpr int kReach = 18;
  std::array<double, Harmony::kBins + 1> sums{}, squares{};
  for (std::size_t b = 0; b < row.size(); ++b) {
    sums[b + 1] = sums[b] + double(row[b]);
    squares[b + 1] = squares[b] + double(row[b]) * double(row[b]);
  }
  for (int b = 0; b < Harmony::kBins; ++b) {
    const auto low = std::size_t(std::max(0, b - kReach)),
               high = std::size_t(std::min(Harmony::kBins, b + kReach + 1));
    const double n = double(high - low), mean = (sums[high] - sums[low]) / n;
    const double deviation =
        std::sqrt(std::max(0.0, (squares[high] - squares[low]) / n - mean * mean));
    float& v = row[std::size_t(b)];
    v = float(std::max(0.0, (double(v) - mean) / (deviation + floor)));
  }
}

} // namespace

std::vector<float> Harmony::between(double fromS, double toS) const {
  std::vector<float> out(kBins, 0.0f);
  if (bins.rows == 0) return out;
  int first = toWhole<int>(std::ceil(fromS * kRate)), last = toWhole<int>(std::ceil(toS * kRate));
  if (last <= first) {
    first = toNearest<int>((fromS + toS) / 2 * kRate);
    last = first + 1;
  }
  first = std::clamp(first, 0, bins.rows - 1);
  last = std::clamp(last, first + 1, bins.rows);
  for (int t = first; t < last; ++t) {
    const auto row = bins.row(t);
    for (std::size_t b = 0; b < kBins; ++b) out[b] += row[b];
  }
  for (float& v : out) v /= float(last - first);
  return out;
}

Harmony::Power Harmony::powerBetween(double fromS, double toS) const {
  if (power.size() < 2) return {};
  const int frames = int(power.size()) - 1;
  const int first = toNearestIn(fromS * kRate, 0, frames - 1);
  const int last = std::max(first + 1, toNearestIn(toS * kRate, 0, frames));
  const Power &a = power[std::size_t(first)], &b = power[std::size_t(last)];
  return {b.all - a.all, b.tones - a.tones, b.lows - a.lows, b.voices - a.voices};
}

Harmony::Change Harmony::changeAt(double fromS, double atS, double toS) const {
  const auto frame = [this](double s) { return std::size_t(toNearestIn(s * kRate, 0, bins.rows)); };
  const std::size_t a = frame(fromS), m = frame(atS), b = frame(toS);
  if (m <= a + 2 || b <= m + 2) return {};
  // The frame on either side of the place hears both.
  const double *from = sums.data() + a * kSemitones, *until = sums.data() + (m - 1) * kSemitones,
               *since = sums.data() + (m + 2) * kSemitones, *to = sums.data() + b * kSemitones;
  double xx = 1e-9, yy = 1e-9, xy = 0;
  Change out;
  for (int k = 0; k < kSemitones; ++k) {
    const double x = until[k] - from[k], y = to[k] - since[k];
    xx += x * x;
    yy += y * y;
    xy += x * y;
    if (k + 1 == kBassSemitones) out.bass = std::max(0.0, 1 - xy / std::sqrt(xx * yy));
  }
  out.all = std::max(0.0, 1 - xy / std::sqrt(xx * yy));
  return out;
}

Harmony analyseHarmony(std::span<const float> mono, JobContext& job) {
  Harmony out;
  // Every second frame is enough for the tuning; the second pass needs to know it.
  std::vector<TuningPeak> peaks;
  float loudest = 0;
  forEachFrame(
      mono, kChromaSize, 2 * kChromaHop,
      [&](int t, std::span<const float> magnitudes) {
        loudest = std::max(loudest, peakOf(magnitudes.first(kTopBin)));
        addPeaks(t, magnitudes, peaks);
      },
      kTopBin);
  if (job.cancelled() || loudest <= 0) return out;
  std::complex<double> sum(0, 0);
  double weight = 1e-12;
  std::vector<std::complex<float>> byFrame(mono.size() / (std::size_t(2) * kChromaHop) + 1);
  for (const auto& peak : peaks) {
    if (peak.strength <= 0.001f * loudest) continue;
    const auto arrow = std::polar(peak.strength, float(2 * M_PI) * peak.off);
    sum += std::complex<double>(arrow);
    byFrame[std::size_t(peak.frame)] += arrow;
    weight += double(peak.strength);
  }
  peaks = {};
  for (const auto& arrow : byFrame) {
    // Against the tuning of the whole, so that a disc that wavers round a quarter tone is whole.
    const auto off = arrow * std::polar(1.0f, float(-std::arg(sum)));
    out.speeds.push_back({std::arg(off) / float(2 * M_PI) * 100, std::abs(arrow)});
  }
  out.tuning = Cents(std::arg(sum) / (2 * M_PI) * 100);
  out.agreement = std::abs(sum) / weight;
  const auto places = reaches(out.tuning);
  out.bins = Matrix(int((mono.size() + kChromaHop - 1) / kChromaHop), Harmony::kBins);
  out.power.assign(std::size_t(out.bins.rows) + 1, {});
  ToneKeeper keeper(
      out.bins.rows, [&](int t, std::span<const float> row, const Harmony::Power& power) {
        const Harmony::Power& before = out.power[std::size_t(t)];
        out.power[std::size_t(t) + 1] = {before.all + power.all, before.tones + power.tones,
                                         before.lows + power.lows, before.voices + power.voices};
        auto target = out.bins.row(t);
        for (std::size_t b = 0; b < places.size(); ++b) {
          const auto& [first, last, part] = places[b];
          float v = 0;
          if (part >= 0)
            v = (1 - part) * row[std::size_t(first)] + part * row[std::size_t(last)];
          else
            for (int k = first; k <= last; ++k) v = std::max(v, row[std::size_t(k)]);
          target[b] = v;
        }
        whiten(target, double(kNoTone * loudest));
      });
  forEachFrame(
      mono, kChromaSize, kChromaHop,
      [&](int t, std::span<const float> magnitudes) {
        if (!job.cancelled()) keeper.add(t, magnitudes);
      },
      kTopBin);
  if (job.cancelled()) return out;
  out.tonal = out.power.back().tones / (out.power.back().all + 1e-12);
  out.sums.assign(std::size_t(out.bins.rows + 1) * Harmony::kSemitones, 0.0);
  for (int t = 0; t < out.bins.rows; ++t) {
    const auto row = out.bins.row(t);
    const double* last = out.sums.data() + std::size_t(t) * Harmony::kSemitones;
    double* next = out.sums.data() + std::size_t(t + 1) * Harmony::kSemitones;
    for (std::size_t k = 0; k < Harmony::kSemitones; ++k)
      next[k] = last[k] + double(row[3 * k]) +
                double(row[std::min<std::size_t>(3 * k + 1, Harmony::kBins - 1)]) / 2 +
                (k > 0 ? double(row[3 * k - 1]) / 2 : 0.0);
  }
  return out;
}

NoteFinder::NoteFinder() {
  std::array<float, kReachBins> full{};
  for (int harmonic = 1; harmonic <= 12; ++harmonic) {
    const double centre = 12 * std::log2(double(harmonic)) * Harmony::kPerSemitone;
    for (int b = toWhole<int>(centre) - 3; b < toWhole<int>(centre) + 4; ++b) {
      const double off = (b - centre) / 0.6;
      full[std::size_t(b + kBelow)] +=
          float(std::pow(0.85, harmonic - 1) * std::exp(-0.5 * off * off));
    }
  }
  for (std::size_t b = 0; b < full.size(); ++b)
    if (full[b] > 1e-3f)
      m_shape.push_back({b % Harmony::kPerSemitone, b / Harmony::kPerSemitone, full[b]});
}

namespace {

TUVVO_WIDE void addScaled(const float* from, float scale, float* to, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) to[i] += scale * from[i];
}

} // namespace

Notes NoteFinder::find(std::span<const float> bins) const {
  // Every note has the same template, further up: it is laid over all notes at once, along the bins
  // that lie a semitone apart. What of it lies outside the bins counts nothing.
  Spread heard{}, model{};
  for (std::size_t b = 0; b < bins.size(); ++b)
    heard[b % Harmony::kPerSemitone][b / Harmony::kPerSemitone + kBelow / Harmony::kPerSemitone] =
        bins[b];
  const auto under = [this](const Spread& of, float least) {
    Notes sums;
    sums.fill(least);
    for (const auto& [row, semitone, value] : m_shape)
      addScaled(of[row].data() + semitone, value, sums.data(), sums.size());
    return sums;
  };
  const Notes up = under(heard, 0);
  Notes activation;
  activation.fill(0.1f);
  for (int pass = 0; pass < 20; ++pass) {
    for (auto& row : model) row.fill(1e-6f);
    for (const auto& [row, semitone, value] : m_shape)
      addScaled(activation.data(), value, model[row].data() + semitone, activation.size());
    for (auto& row : model) {
      std::fill_n(row.begin(), kBelow / Harmony::kPerSemitone, 0.0f);
      std::fill(row.begin() + kEnd, row.end(), 0.0f);
    }
    const Notes down = under(model, 1e-6f);
    for (std::size_t note = 0; note < activation.size(); ++note)
      activation[note] *= up[note] / down[note];
  }
  return activation;
}

} // namespace tuvvo
