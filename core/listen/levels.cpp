#include "listen/levels.h"

#include "base/convert.h"
#include "base/wide.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <ebur128.h>
#include <limits>
#include <memory>
#include <numeric>

namespace tuvvo {

namespace {
constexpr double kLoudnessOffset = 0.691; // dB; ITU-R BS.1770

constexpr double kSilence = -std::numeric_limits<double>::infinity();
constexpr float kClipped = 0.98f; // a ceiling below this is a level, not an overload

struct MeterDeleter {
  void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};
using Meter = std::unique_ptr<ebur128_state, MeterDeleter>;

Meter makeMeter(int channels, Hertz rate, int mode) {
  return Meter(ebur128_init(unsigned(channels), toWhole<unsigned long>(rate.value), mode));
}

void interleave(std::span<const float> left, std::span<const float> right, int channels,
                std::vector<float>& out) {
  out.resize(left.size() * std::size_t(channels));
  if (channels == 1) {
    std::copy(left.begin(), left.end(), out.begin());
    return;
  }
  for (std::size_t i = 0; i < left.size(); ++i) {
    out[2 * i] = left[i];
    out[2 * i + 1] = right[i];
  }
}

struct Sums {
  double values = 0, squares = 0, products = 0;
};

/// Of one channel with itself and with the other; eight side by side, as with the peak.
TUVVO_WIDE Sums sumsOf(std::span<const float> x, std::span<const float> y) {
  std::array<float, 8> values{}, squares{}, products{};
  Sums out;
  for (std::size_t i = 0; i + 8 <= x.size(); i += 8)
    for (std::size_t k = 0; k < 8; ++k) {
      const float v = x[i + k];
      values[k] += v;
      squares[k] += v * v;
      products[k] += v * y[i + k];
    }
  for (std::size_t i = x.size() / 8 * 8; i < x.size(); ++i) {
    out.values += double(x[i]);
    out.squares += double(x[i]) * double(x[i]);
    out.products += double(x[i]) * double(y[i]);
  }
  for (std::size_t k = 0; k < 8; ++k) {
    out.values += double(values[k]);
    out.squares += double(squares[k]);
    out.products += double(products[k]);
  }
  return out;
}

// The wave between samples (ITU-R BS.1770-4, annex 2: four times as many, or twice at 96 kHz): Hann
// windowed sinc over twelve samples, which is libebur128's own filter.
constexpr int kTapsBefore = 5, kTapsAfter = 6;
constexpr std::size_t kTaps = kTapsBefore + kTapsAfter + 1;
constexpr std::size_t kPeakBlock = 32; // places looked at in one go
using Kernel = std::array<double, kTaps>;

std::vector<Kernel> peakKernels(double rate) {
  const int factor = rate < 96000 ? 4 : rate < 192000 ? 2 : 1;
  std::vector<Kernel> out;
  for (int f = 1; f < factor; ++f) {
    Kernel kernel{};
    for (int t = -kTapsBefore; t <= kTapsAfter; ++t) {
      const double d = t - double(f) / factor;
      if (std::abs(d) < 6)
        kernel[std::size_t(t + kTapsBefore)] =
            std::sin(M_PI * d) / (M_PI * d) * 0.5 * (1 + std::cos(M_PI * d / 6));
    }
    out.push_back(kernel);
  }
  return out;
}

/// Many places at once, each a running sum of its own, so that the compiler can take several.
TUVVO_WIDE float roughPeak(const float* first, const Kernel& kernel) {
  std::array<float, kPeakBlock> sum{};
  for (std::size_t t = 0; t < kTaps; ++t) {
    const auto weight = float(kernel[t]);
    for (std::size_t i = 0; i < kPeakBlock; ++i) sum[i] += weight * first[t + i];
  }
  return peakOf(sum);
}

double exactPeak(const float* first, const Kernel& kernel) {
  double most = 0;
  for (std::size_t i = 0; i < kPeakBlock; ++i) {
    double sum = 0;
    for (std::size_t t = 0; t < kTaps; ++t) sum += kernel[t] * double(first[t + i]);
    most = std::max(most, std::abs(sum));
  }
  return most;
}

} // namespace

struct LoudnessMeter::Meters {
  Meter loudness;
  std::vector<Kernel> kernels;
};

LoudnessMeter::LoudnessMeter(int channels, Hertz rate)
    : m_channels(channels), m_rate(rate.value), m_meters(std::make_unique<Meters>()),
      m_shortTerm(kSilence) {
  m_meters->loudness =
      makeMeter(channels, rate, EBUR128_MODE_I | EBUR128_MODE_LRA | EBUR128_MODE_S);
  m_meters->kernels = peakKernels(rate.value);
  for (auto& recent : m_recent) recent.assign(kTaps, 0.0f); // silence before the start
}

LoudnessMeter::~LoudnessMeter() = default;

void LoudnessMeter::take(std::span<const float> left, std::span<const float> right) {
  if (left.empty()) return;
  interleave(left, right, m_channels, m_block);
  if (m_meters->loudness) {
    const auto step = std::max<std::size_t>(1, toWhole<std::size_t>(m_rate / 10));
    for (std::size_t done = 0; done < left.size();) {
      const std::size_t some = std::min(left.size() - done, step - m_sinceStep);
      ebur128_add_frames_float(m_meters->loudness.get(),
                               m_block.data() + done * std::size_t(m_channels), some);
      done += some;
      m_sinceStep += some;
      if (m_sinceStep == step) takeStep();
    }
  }
  takePeaks(left, right);
  for (int c = 0; c < m_channels; ++c) {
    const auto samples = c == 0 ? left : right;
    m_recent[c].insert(m_recent[c].end(), samples.begin(), samples.end());
  }
  searchTruePeak();
  m_frames += std::int64_t(left.size());
}

/// Another tenth of a second: the last thirty of them are the short-term loudness (EBU Tech 3341).
/// They are added up here, as the library would add up three seconds anew each time.
void LoudnessMeter::takeStep() {
  m_sinceStep = 0;
  double lufs = kSilence;
  if (ebur128_loudness_window(m_meters->loudness.get(), 100, &lufs) != EBUR128_SUCCESS) return;
  m_steps[m_stepCount++ % m_steps.size()] =
      std::isfinite(lufs) ? std::pow(10, (lufs + kLoudnessOffset) / 10) : 0;
  if (m_stepCount < m_steps.size()) return;
  const double mean = std::accumulate(m_steps.begin(), m_steps.end(), 0.0) / double(m_steps.size());
  if (mean > 0) m_shortTerm = std::max(m_shortTerm, 10 * std::log10(mean) - kLoudnessOffset);
}

void LoudnessMeter::takePeaks(std::span<const float> left, std::span<const float> right) {
  for (int c = 0; c < m_channels; ++c) {
    const Sums sums = c == 0 ? sumsOf(left, right) : sumsOf(right, left);
    m_sum[c] += sums.values;
    m_square[c] += sums.squares;
    if (c == 1) m_product += sums.products;
  }
  const float peak = std::max(peakOf(left), m_channels == 2 ? peakOf(right) : 0.0f);
  if (peak > m_peak) {
    for (std::size_t i = 0; i < left.size(); ++i)
      if (const float v = std::max(std::abs(left[i]), std::abs(right[i])); v > m_peak) {
        m_rising.push_back({m_frames + std::int64_t(i), v});
        if (m_peak < 0.9999f * v) m_longestClip = m_clipRun[0] = m_clipRun[1] = 0;
        m_peak = v;
      }
  }
  // Runs at the ceiling; a block far below it holds none.
  const float ceiling = m_peak * 0.9999f;
  if (peak < ceiling || m_peak < kClipped) {
    m_clipRun[0] = m_clipRun[1] = 0;
    return;
  }
  for (int c = 0; c < m_channels; ++c)
    for (float v : c == 0 ? left : right) {
      m_clipRun[c] = std::abs(v) >= ceiling ? m_clipRun[c] + 1 : 0;
      m_longestClip = std::max(m_longestClip, m_clipRun[c]);
    }
}

/// Only where it can lie: the filter's absolute sum stays below two, so that no value between
/// samples is over twice the samples around it.
void LoudnessMeter::searchTruePeak() {
  const std::size_t have = m_recent[0].size();
  while (m_searched + kPeakBlock + kTaps <= have) {
    for (int c = 0; c < m_channels; ++c) {
      const float* first = m_recent[c].data() + m_searched;
      if (peakOf({first, kPeakBlock + kTaps}) <= m_peak / 2) continue;
      for (const Kernel& kernel : m_meters->kernels)
        if (double(roughPeak(first, kernel)) > 0.9999 * m_truePeak)
          m_truePeak = std::max(m_truePeak, exactPeak(first, kernel));
    }
    m_searched += kPeakBlock;
  }
  for (int c = 0; c < m_channels; ++c)
    m_recent[c].erase(m_recent[c].begin(), m_recent[c].begin() + std::ptrdiff_t(m_searched));
  m_searched = 0;
}

LoudnessHeard LoudnessMeter::loudness() {
  LoudnessHeard heard{kSilence, kSilence, kSilence, 0, kSilence, kSilence};
  if (!m_meters->loudness || m_frames == 0) return heard;
  for (int c = 0; c < m_channels; ++c) // to the last whole block
    m_recent[c].insert(m_recent[c].end(), kPeakBlock, 0.0f);
  searchTruePeak();
  ebur128_loudness_global(m_meters->loudness.get(), &heard.integratedLufs);
  ebur128_loudness_range(m_meters->loudness.get(), &heard.rangeLu);
  heard.shortTermLufs = std::isfinite(m_shortTerm) ? m_shortTerm : heard.integratedLufs;
  heard.truePeakDbtp = decibelsOf(std::max(double(m_peak), m_truePeak)).value;
  heard.samplePeakDbfs = decibelsOf(double(m_peak)).value;
  return heard;
}

std::vector<FaultHeard> LoudnessMeter::faults() const {
  if (m_peak <= 0) return {{"silence"}};
  std::vector<FaultHeard> faults;
  for (int c = 0; c < m_channels; ++c) {
    const double offset = m_sum[c] / double(m_frames);
    if (std::abs(offset) <= 0.003) continue;
    faults.push_back({"dc offset", offset});
    break;
  }
  if (m_longestClip >= 4 && m_peak >= kClipped)
    faults.push_back({"clipping", double(m_longestClip)});
  const auto first = std::find_if(m_rising.begin(), m_rising.end(), [this](const Louder& place) {
    return place.level >= 0.003f * m_peak;
  });
  const double quietS = double(first->frame) / m_rate;
  if (quietS > 0.05) faults.push_back({"silence at the front", quietS * 1000});
  if (m_channels == 2) {
    const double apart = 10 * std::log10((m_square[0] + 1e-12) / (m_square[1] + 1e-12));
    const double together = std::sqrt(m_square[0] * m_square[1]);
    if (std::abs(apart) > 20)
      faults.push_back({"one-sided", apart});
    else if (m_product < -0.6 * together)
      faults.push_back({"inverted", m_product / (together + 1e-12)});
  }
  return faults;
}

LoudnessHeard analyseLoudness(const Sound& sound) {
  constexpr std::size_t kBlock = 16384;
  LoudnessMeter meter(sound.channels(), sound.rate());
  const auto left = sound.channel(0), right = sound.channel(1);
  for (std::size_t at = 0; at < left.size(); at += kBlock) {
    const std::size_t n = std::min(kBlock, left.size() - at);
    meter.take(left.subspan(at, n), right.subspan(at, n));
  }
  return meter.loudness();
}

double loudnessOf(const Sound& sound, Frames from, Frames to) {
  const auto begin = std::clamp<std::int64_t>(from.value, 0, sound.frames().value);
  const auto end = std::clamp<std::int64_t>(to.value, begin, sound.frames().value);
  if (begin == end) return kSilence;
  Meter meter = makeMeter(sound.channels(), sound.rate(), EBUR128_MODE_I);
  if (!meter) return kSilence;
  std::vector<float> block;
  const auto part = [&](int c) {
    return sound.channel(c).subspan(std::size_t(begin), std::size_t(end - begin));
  };
  interleave(part(0), part(1), sound.channels(), block);
  const auto least = toWhole<std::int64_t>(0.41 * sound.rate().value);
  for (std::int64_t fed = 0; fed < std::max<std::int64_t>(1, least); fed += end - begin)
    ebur128_add_frames_float(meter.get(), block.data(), std::size_t(end - begin));
  double lufs = kSilence;
  ebur128_loudness_global(meter.get(), &lufs);
  return lufs;
}

} // namespace tuvvo
