#include "listen/levels.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <ebur128.h>
#include <limits>
#include <memory>

namespace tuvvo {

namespace {

constexpr double kSilence = -std::numeric_limits<double>::infinity();

struct MeterDeleter {
  void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};
using Meter = std::unique_ptr<ebur128_state, MeterDeleter>;

Meter makeMeter(const Sound& sound, int mode) {
  return Meter(ebur128_init(unsigned(sound.channels()), (unsigned long)(sound.rate().value), mode));
}

void feed(ebur128_state* meter, const Sound& sound, std::int64_t from, std::int64_t to) {
  std::vector<float> block;
  const auto channels = std::size_t(sound.channels());
  for (std::int64_t at = from; at < to; at += 8192) {
    const auto n = std::size_t(std::min<std::int64_t>(8192, to - at));
    block.resize(n * channels);
    for (std::size_t c = 0; c < channels; ++c) {
      const auto samples = sound.channel(int(c));
      for (std::size_t i = 0; i < n; ++i) block[i * channels + c] = samples[std::size_t(at) + i];
    }
    ebur128_add_frames_float(meter, block.data(), n);
  }
}

std::string sentence(const char* format, double figure) {
  char text[160];
  std::snprintf(text, sizeof text, format, figure);
  return text;
}

int longestClip(std::span<const float> samples, float ceiling) {
  int longest = 0, run = 0;
  for (float v : samples) {
    run = std::abs(v) >= ceiling ? run + 1 : 0;
    longest = std::max(longest, run);
  }
  return longest;
}

/// The true peak by the library's interpolator, asked only where it can lie. Its filter's absolute
/// sum stays below two, so that no peak between samples is over twice the samples around it; what
/// has none above half the sample peak within reach cannot hold the largest.
double truePeakOf(const Sound& sound, float samplePeak) {
  constexpr std::int64_t kBlock = 32, kReach = 16;
  Meter meter = makeMeter(sound, EBUR128_MODE_TRUE_PEAK);
  if (!meter) return double(samplePeak);
  const std::int64_t frames = sound.frames().value;
  std::int64_t from = 0, to = -1; // a run of stretches that may hold it; none yet
  const auto flush = [&] {
    if (from < to) feed(meter.get(), sound, from, to);
  };
  for (std::int64_t at = 0; at < frames; at += kBlock) {
    const std::int64_t end = std::min(frames, at + kBlock);
    if (peakOf(sound, Frames(at), Frames(end)) <= samplePeak / 2) continue;
    if (to < 0 || at - kReach > to) {
      flush();
      from = std::max<std::int64_t>(0, at - kReach);
    }
    to = std::min(frames, end + kReach);
  }
  flush();
  double truePeak = double(samplePeak);
  for (unsigned c = 0; c < unsigned(sound.channels()); ++c) {
    double value = 0;
    ebur128_true_peak(meter.get(), c, &value);
    truePeak = std::max(truePeak, value);
  }
  return truePeak;
}

} // namespace

LoudnessHeard hearLoudness(const Sound& sound) {
  LoudnessHeard heard{kSilence, kSilence, kSilence, 0};
  Meter meter = makeMeter(sound, EBUR128_MODE_I | EBUR128_MODE_LRA);
  if (!meter) return heard;
  feed(meter.get(), sound, 0, sound.frames().value);
  ebur128_loudness_global(meter.get(), &heard.integratedLufs);
  ebur128_loudness_range(meter.get(), &heard.rangeLu);
  const float samplePeak = peakOf(sound, Frames(0), sound.frames());
  const double truePeak = truePeakOf(sound, samplePeak);
  heard.truePeakDbtp = decibelsOf(truePeak).value;
  heard.samplePeakDbfs = decibelsOf(double(samplePeak)).value;
  return heard;
}

double loudnessOf(const Sound& sound, Frames from, Frames to) {
  const auto begin = std::clamp<std::int64_t>(from.value, 0, sound.frames().value);
  const auto end = std::clamp<std::int64_t>(to.value, begin, sound.frames().value);
  if (begin == end) return kSilence;
  Meter meter = makeMeter(sound, EBUR128_MODE_I);
  if (!meter) return kSilence;
  const auto least = std::int64_t(0.41 * sound.rate().value);
  std::int64_t fed = 0;
  do {
    feed(meter.get(), sound, begin, end);
    fed += end - begin;
  } while (fed < least);
  double lufs = kSilence;
  ebur128_loudness_global(meter.get(), &lufs);
  return lufs;
}

std::vector<FaultHeard> hearFaults(const Sound& sound) {
  std::vector<FaultHeard> faults;
  const Frames all = sound.frames();
  const float peak = peakOf(sound, Frames(0), all);
  if (peak <= 0) return {{"silence", 0, "There is nothing but silence in it."}};

  int clipped = 0;
  double left = 0, right = 0, both = 0;
  for (int c = 0; c < sound.channels(); ++c) {
    if (peak >= 0.98f) clipped = std::max(clipped, longestClip(sound.channel(c), peak * 0.9999f));
    double sum = 0;
    for (float v : sound.channel(c)) sum += double(v);
    const double offset = sum / double(all.value);
    if (std::abs(offset) > 0.003) {
      faults.push_back({"dc offset", offset,
                        sentence("The middle of the wave stands %.1f %% off zero.", offset * 100)});
      break;
    }
  }
  if (clipped >= 4)
    faults.push_back({"clipping", double(clipped),
                      sentence("Up to %.0f samples in a row are cut off at the top.", clipped)});
  const auto l = sound.channel(0), r = sound.channel(1);
  std::int64_t firstLoud = 0;
  while (firstLoud < all.value && std::abs(l[std::size_t(firstLoud)]) < 0.003f * peak &&
         std::abs(r[std::size_t(firstLoud)]) < 0.003f * peak)
    ++firstLoud;
  const double quietS = toSeconds(Frames(firstLoud), sound.rate()).value;
  if (quietS > 0.05)
    faults.push_back({"silence at the front", quietS * 1000,
                      sentence("It begins with %.0f ms of silence.", quietS * 1000)});
  if (sound.channels() == 2) {
    for (std::size_t i = 0; i < l.size(); ++i) {
      left += double(l[i]) * double(l[i]);
      right += double(r[i]) * double(r[i]);
      both += double(l[i]) * double(r[i]);
    }
    const double apart = 10 * std::log10((left + 1e-12) / (right + 1e-12));
    if (std::abs(apart) > 20)
      faults.push_back(
          {"one-sided", apart,
           apart > 0 ? "Nearly all of it is on the left." : "Nearly all of it is on the right."});
    else if (both < -0.6 * std::sqrt(left * right))
      faults.push_back({"inverted", both / std::sqrt(left * right + 1e-12),
                        "Left and right are turned against each other; in mono it disappears."});
  }
  return faults;
}

} // namespace tuvvo
