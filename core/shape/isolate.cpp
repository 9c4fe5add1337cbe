#include "shape/isolate.h"

#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tuvvo {

namespace {

constexpr std::size_t kStretchFrames = std::size_t(1) << 20, kMarginFrames = 48000;
constexpr float kFloor = 1e-12f;

/// Short-time transform with a root-Hann window on both ways, so that analysis and synthesis add
/// up to the sound.
class ShortTime {
public:
  ShortTime(int size, int hop) : m_size(size), m_hop(hop), m_window(std::size_t(size)) {
    for (int i = 0; i < size; ++i)
      m_window[std::size_t(i)] = float(std::sin(std::numbers::pi * (i + 0.5) / size));
  }
  [[nodiscard]] int bins() const { return m_size / 2 + 1; }
  [[nodiscard]] int count(std::size_t samples) const {
    return int((samples + std::size_t(m_size)) / std::size_t(m_hop)) + 1;
  }
  /// The mean power of the channels, frame by frame.
  [[nodiscard]] Matrix power(const Channels& sound) const {
    Matrix out(count(sound[0].size()), bins());
    Fft fft(m_size);
    for (const auto& channel : sound)
      for (int t = 0; t < out.rows; ++t) {
        load(channel, t, fft.input());
        const auto spectrum = fft.run();
        const auto row = out.row(t);
        for (std::size_t k = 0; k < spectrum.size(); ++k)
          row[k] += std::norm(spectrum[k]) / float(sound.size());
      }
    return out;
  }
  /// What a mask lets through.
  [[nodiscard]] Channels masked(const Channels& sound, const Matrix& mask) const {
    Channels out(sound.size(), Samples(sound[0].size(), 0.0f));
    Fft fft(m_size);
    InverseFft back(m_size);
    // Root-Hann twice, at this many frames to a window, adds up to half of them.
    const float scale = 2.0f * float(m_hop) / float(m_size) / float(m_size);
    for (std::size_t c = 0; c < sound.size(); ++c)
      for (int t = 0; t < mask.rows; ++t) {
        load(sound[c], t, fft.input());
        const auto spectrum = fft.run();
        const auto row = mask.row(t);
        for (std::size_t k = 0; k < spectrum.size(); ++k) back.input()[k] = spectrum[k] * row[k];
        const auto made = back.run();
        const std::int64_t first = start(t);
        for (int i = 0; i < m_size; ++i) {
          const std::int64_t at = first + i;
          if (at >= 0 && at < std::int64_t(out[c].size()))
            out[c][std::size_t(at)] += made[std::size_t(i)] * m_window[std::size_t(i)] * scale;
        }
      }
    return out;
  }

private:
  [[nodiscard]] std::int64_t start(int t) const { return std::int64_t(t) * m_hop - m_size; }
  void load(const Samples& samples, int t, std::span<float> in) const {
    const std::int64_t first = start(t);
    for (int i = 0; i < m_size; ++i) {
      const std::int64_t at = first + i;
      in[std::size_t(i)] = at >= 0 && at < std::int64_t(samples.size())
                               ? samples[std::size_t(at)] * m_window[std::size_t(i)]
                               : 0.0f;
    }
  }
  int m_size, m_hop;
  std::vector<float> m_window;
};

/// Medians along a line of values, mirrored at its ends.
void medians(std::vector<float>& line, int width, std::vector<float>& scratch) {
  const int n = int(line.size()), half = width / 2;
  std::vector<float> out(line.size());
  scratch.resize(std::size_t(width));
  for (int i = 0; i < n; ++i) {
    for (int k = -half; k <= half; ++k) {
      int at = i + k;
      if (at < 0) at = -at - 1;
      if (at >= n) at = 2 * n - 1 - at;
      scratch[std::size_t(k + half)] = line[std::size_t(std::clamp(at, 0, n - 1))];
    }
    std::nth_element(scratch.begin(), scratch.begin() + half, scratch.end());
    out[std::size_t(i)] = scratch[std::size_t(half)];
  }
  line = std::move(out);
}

/// How much of every cell is hit, 0 to 1. Medians of powers are powers of medians.
Matrix hitMask(const Matrix& power, int alongTime, int alongFrequency) {
  Matrix mask(power.rows, power.columns), tones(power.rows, power.columns);
  std::vector<float> line, scratch;
  for (int k = 0; k < power.columns; ++k) {
    line.resize(std::size_t(power.rows));
    for (int t = 0; t < power.rows; ++t) line[std::size_t(t)] = power.at(t, k);
    medians(line, alongTime, scratch);
    for (int t = 0; t < power.rows; ++t) tones.at(t, k) = line[std::size_t(t)];
  }
  for (int t = 0; t < power.rows; ++t) {
    const auto row = power.row(t);
    line.assign(row.begin(), row.end());
    medians(line, alongFrequency, scratch);
    for (int k = 0; k < power.columns; ++k) {
      const float hit = line[std::size_t(k)];
      mask.at(t, k) = hit / (hit + tones.at(t, k) + kFloor);
    }
  }
  return mask;
}

Channels less(const Channels& whole, const Channels& part) {
  Channels out = whole;
  for (std::size_t c = 0; c < out.size(); ++c)
    for (std::size_t i = 0; i < out[c].size(); ++i) out[c][i] -= part[c][i];
  return out;
}

/// The hits of a stretch.
Channels hitsIn(const Channels& sound, const JobContext& job) {
  const ShortTime longer(8192, 2048), shorter(2048, 512), shared(4096, 1024);
  const Channels tones = less(sound, longer.masked(sound, hitMask(longer.power(sound), 17, 17)));
  if (job.cancelled()) return sound;
  Channels hits = shorter.masked(sound, hitMask(shorter.power(sound), 31, 17));
  Matrix tonePower = shared.power(tones);
  for (int round = 0; round < 3 && !job.cancelled(); ++round) {
    Matrix mask = shared.power(hits);
    for (std::size_t i = 0; i < mask.values.size(); ++i)
      mask.values[i] /= mask.values[i] + tonePower.values[i] + kFloor;
    hits = shared.masked(sound, mask);
    tonePower = shared.power(less(sound, hits));
  }
  return hits;
}

} // namespace

Result<void> isolate(Channels& sound, Kept keep, Decibels rest, JobContext& job) {
  const std::size_t frames = sound[0].size();
  const float other = rest.value <= -60 ? 0.0f : float(gainOf(rest));
  Channels out(sound.size(), Samples(frames, 0.0f));
  for (std::size_t from = 0; from < frames; from += kStretchFrames) {
    job.report(double(from) / double(frames));
    const std::size_t first = from > kMarginFrames ? from - kMarginFrames : 0;
    const std::size_t last = std::min(frames, from + kStretchFrames + kMarginFrames);
    Channels stretch;
    for (const auto& channel : sound)
      stretch.emplace_back(channel.begin() + std::ptrdiff_t(first),
                           channel.begin() + std::ptrdiff_t(last));
    const Channels hits = hitsIn(stretch, job);
    if (job.cancelled()) return Error{"Baking was cancelled", "", ""};
    // The stretches hand over to each other in the middle of what they share.
    const std::size_t end = std::min(frames, from + kStretchFrames);
    constexpr std::size_t kCross = 4800;
    const std::size_t begin = from >= kCross ? from - kCross : from;
    for (std::size_t c = 0; c < out.size(); ++c)
      for (std::size_t i = begin; i < end; ++i) {
        const float hit = hits[c][i - first], tone = sound[c][i] - hit;
        const float kept = keep == Kept::Hits ? hit + other * tone : tone + other * hit;
        const float share = i < from ? float(i - begin) / float(kCross) : 1.0f;
        out[c][i] = share * kept + (1 - share) * out[c][i];
      }
  }
  sound = std::move(out);
  return {};
}

} // namespace tuvvo
