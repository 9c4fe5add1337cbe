#include "listen/key.h"

#include "audio/resample.h"
#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>
#include <complex>

namespace tuvvo {

namespace {

constexpr double kRate = 11025;
constexpr int kSize = 4096, kHop = 2048;
constexpr int kLowNote = 28, kHighNote = 108, kTopTemplate = 83, kPerSemitone = 3;
constexpr int kLogBins = (kHighNote - kLowNote) * kPerSemitone;

// Krumhansl & Kessler (1982), as printed in Krumhansl, Cognitive Foundations of Musical Pitch,
// 1990.
constexpr std::array<double, 12> kKrumhanslMajor{6.35, 2.23, 3.48, 2.33, 4.38, 4.09,
                                                 2.52, 5.19, 2.39, 3.66, 2.29, 2.88};
constexpr std::array<double, 12> kKrumhanslMinor{6.33, 2.68, 3.52, 5.38, 2.60, 3.53,
                                                 2.54, 4.75, 3.98, 2.69, 3.34, 3.17};
// Albrecht & Shanahan (2013), Music Perception 31(1), table 2; quoted from memory.
constexpr std::array<double, 12> kAlbrechtMajor{.238, .006, .111, .006, .137, .094,
                                                .016, .214, .009, .080, .008, .081};
constexpr std::array<double, 12> kAlbrechtMinor{.220, .006, .104, .123, .019, .103,
                                                .012, .214, .062, .022, .061, .052};

Matrix spectraOf(const Sound& sound) {
  return stftMagnitudes(resample(monoOf(sound), sound.rate(), Hertz(kRate)), kSize, kHop);
}

TuningHeard tuningOf(const Matrix& spectra) {
  float loudest = 0;
  for (float v : spectra.values) loudest = std::max(loudest, v);
  std::complex<double> sum(0, 0);
  double weight = 1e-12;
  const int low = int(80 * kSize / kRate), high = int(4000 * kSize / kRate);
  for (int t = 0; t < spectra.rows; ++t) {
    const auto row = spectra.row(t);
    const float frameMax = *std::max_element(row.begin(), row.end());
    const float floor = std::max(0.001f * loudest, 0.01f * frameMax);
    for (int k = low; k <= high; ++k) {
      const float a = row[std::size_t(k - 1)], b = row[std::size_t(k)], c = row[std::size_t(k + 1)];
      if (b <= floor || b <= a || b < c || a <= 0 || c <= 0) continue;
      const double la = std::log(a), lb = std::log(b), lc = std::log(c);
      const double bend = la - 2 * lb + lc;
      const double place = k + (bend < 0 ? 0.5 * (la - lc) / bend : 0);
      const double note = midiNoteOf(Hertz(place * kRate / kSize));
      sum += std::polar(double(b), 2 * M_PI * (note - std::round(note)));
      weight += double(b);
    }
  }
  return {Cents(std::arg(sum) / (2 * M_PI) * 100), std::abs(sum) / weight};
}

/// Keeps what stands in time and drops what stands in frequency: mask H² / (H² + P²).
Matrix tonesOf(const Matrix& spectra) {
  Matrix out(spectra.rows, spectra.columns);
  constexpr int acrossTime = 4, acrossBins = 8;
  std::vector<float> window;
  for (int t = 0; t < spectra.rows; ++t)
    for (int k = 0; k < spectra.columns; ++k) {
      window.clear();
      for (int i = std::max(0, t - acrossTime); i <= std::min(spectra.rows - 1, t + acrossTime);
           ++i)
        window.push_back(spectra.at(i, k));
      const float h = medianOf(window);
      const auto row = spectra.row(t);
      window.assign(row.begin() + std::max(0, k - acrossBins),
                    row.begin() + std::min(spectra.columns, k + acrossBins + 1));
      const float p = medianOf(window);
      const float sum = h * h + p * p;
      out.at(t, k) = sum > 0 ? spectra.at(t, k) * h * h / sum : 0.0f;
    }
  return out;
}

/// Log-frequency, three bins a semitone, shifted by the tuning, four frames averaged, whitened by
/// the running mean and deviation over 36 bins.
Matrix logFrequency(const Matrix& tones, Cents tuning) {
  const int groups = (tones.rows + 3) / 4;
  Matrix out(groups, kLogBins);
  for (int g = 0; g < groups; ++g) {
    auto row = out.row(g);
    for (int b = 0; b < kLogBins; ++b) {
      const double note = kLowNote + double(b) / kPerSemitone + tuning.value / 100;
      const double width = 0.5 / kPerSemitone;
      const double from = frequencyOf(note - width).value * kSize / kRate;
      const double to = frequencyOf(note + width).value * kSize / kRate;
      float total = 0;
      for (int t = g * 4; t < std::min(tones.rows, g * 4 + 4); ++t) {
        if (to - from < 1.0) { // lower notes are finer than the bins: interpolate
          const double centre = (from + to) / 2;
          const int k = int(centre);
          total += float((1 - (centre - k)) * double(tones.at(t, k)) +
                         (centre - k) * double(tones.at(t, k + 1)));
        } else {
          float most = 0;
          for (int k = int(std::ceil(from)); k <= int(to) && k < tones.columns; ++k)
            most = std::max(most, tones.at(t, k));
          total += most;
        }
      }
      row[std::size_t(b)] = total / 4;
    }
    const std::vector<float> raw(row.begin(), row.end());
    for (int b = 0; b < kLogBins; ++b) {
      double sum = 0, square = 0;
      int n = 0;
      for (int k = std::max(0, b - 18); k <= std::min(kLogBins - 1, b + 18); ++k, ++n) {
        sum += double(raw[std::size_t(k)]);
        square += double(raw[std::size_t(k)]) * double(raw[std::size_t(k)]);
      }
      const double mean = sum / n;
      const double deviation = std::sqrt(std::max(0.0, square / n - mean * mean));
      row[std::size_t(b)] =
          deviation > 1e-9 ? float(std::max(0.0, (double(raw[std::size_t(b)]) - mean) / deviation))
                           : 0.0f;
    }
  }
  return out;
}

Matrix noteTemplates() {
  Matrix out(kTopTemplate - kLowNote + 1, kLogBins);
  for (int note = 0; note < out.rows; ++note)
    for (int harmonic = 1; harmonic <= 12; ++harmonic) {
      const double centre = (note + 12 * std::log2(double(harmonic))) * kPerSemitone;
      for (int b = std::max(0, int(centre) - 3); b < std::min(kLogBins, int(centre) + 4); ++b) {
        const double off = (b - centre) / 0.6;
        out.at(note, b) += float(std::pow(0.85, harmonic - 1) * std::exp(-0.5 * off * off));
      }
    }
  return out;
}

/// Multiplicative updates (Lee & Seung 2001) of one activation per note.
void addNotes(std::span<const float> bins, const Matrix& templates, std::vector<double>& sum) {
  std::vector<float> activation(std::size_t(templates.rows), 0.1f), model(kLogBins);
  for (int pass = 0; pass < 20; ++pass) {
    std::fill(model.begin(), model.end(), 1e-6f);
    for (int note = 0; note < templates.rows; ++note) {
      const auto shape = templates.row(note);
      const float a = activation[std::size_t(note)];
      for (std::size_t b = 0; b < kLogBins; ++b) model[b] += a * shape[b];
    }
    for (int note = 0; note < templates.rows; ++note) {
      const auto shape = templates.row(note);
      float up = 0, down = 1e-6f;
      for (std::size_t b = 0; b < kLogBins; ++b) {
        up += shape[b] * bins[b];
        down += shape[b] * model[b];
      }
      activation[std::size_t(note)] *= up / down;
    }
  }
  for (int note = 0; note < templates.rows; ++note)
    sum[std::size_t(note)] += double(activation[std::size_t(note)]);
}

double correlation(const std::array<double, 12>& chroma, const std::array<double, 12>& profile,
                   int tonic) {
  double mc = 0, mp = 0;
  for (std::size_t i = 0; i < 12; ++i) {
    mc += chroma[i] / 12;
    mp += profile[i] / 12;
  }
  double cross = 0, cc = 1e-12, pp = 1e-12;
  for (int i = 0; i < 12; ++i) {
    const double c = chroma[std::size_t((i + tonic) % 12)] - mc, p = profile[std::size_t(i)] - mp;
    cross += c * p;
    cc += c * c;
    pp += p * p;
  }
  return cross / std::sqrt(cc * pp);
}

} // namespace

TuningHeard hearTuning(const Sound& sound) { return tuningOf(spectraOf(sound)); }

std::optional<KeyHeard> hearKey(const Sound& sound, JobContext& job) {
  if (sound.duration().value < 0.5) return std::nullopt;
  const Matrix spectra = spectraOf(sound);
  const TuningHeard tuning = tuningOf(spectra);
  if (job.cancelled() || tuning.agreement < 0.12) return std::nullopt;
  const Matrix tones = tonesOf(spectra);
  double kept = 0, all = 1e-12;
  for (std::size_t i = 0; i < tones.values.size(); ++i) {
    kept += double(tones.values[i]) * double(tones.values[i]);
    all += double(spectra.values[i]) * double(spectra.values[i]);
  }
  if (job.cancelled() || kept / all < 0.1) return std::nullopt;

  const Matrix bins = logFrequency(tones, tuning.off);
  const Matrix templates = noteTemplates();
  std::vector<double> notes(std::size_t(templates.rows), 0.0);
  for (int g = 0; g < bins.rows; ++g) {
    if (job.cancelled()) return std::nullopt;
    addNotes(bins.row(g), templates, notes);
  }
  std::array<double, 12> chroma{}, bass{};
  double bassSum = 1e-12;
  for (int note = 0; note < templates.rows; ++note) {
    const int pitch = note + kLowNote;
    chroma[std::size_t(pitch % 12)] += notes[std::size_t(note)];
    if (pitch <= 51) {
      bass[std::size_t(pitch % 12)] += notes[std::size_t(note)];
      bassSum += notes[std::size_t(note)];
    }
  }
  std::vector<std::pair<double, KeyName>> ranked;
  for (int tonic = 0; tonic < 12; ++tonic)
    for (bool minor : {false, true}) {
      const double score =
          0.75 * correlation(chroma, minor ? kKrumhanslMinor : kKrumhanslMajor, tonic) +
          0.25 * correlation(chroma, minor ? kAlbrechtMinor : kAlbrechtMajor, tonic) +
          0.1 * bass[std::size_t(tonic)] / bassSum;
      ranked.emplace_back(score, KeyName{tonic, minor});
    }
  std::sort(ranked.rbegin(), ranked.rend());
  if (ranked[0].first < 0.35) return std::nullopt;
  KeyHeard heard;
  heard.name = ranked[0].second;
  // A margin of .05 between the best two is where answers become trustworthy.
  heard.confidence = std::clamp((ranked[0].first - ranked[1].first) / 0.1, 0.05, 0.98);
  heard.alternatives = {ranked[1].second, ranked[2].second};
  heard.tuning = tuning.off;
  return heard;
}

} // namespace tuvvo
