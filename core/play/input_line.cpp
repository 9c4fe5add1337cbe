#include "play/input_line.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
const double kKeep = std::exp(-1 / (0.3 * 48000)); ///< of the mean square, a frame
} // namespace

InputLine::InputLine() : m_left(kRing), m_right(kRing) {}

void InputLine::take(const float* left, const float* right, Place place) {
  place.frame = EngineFrames(m_frame);
  m_frame += place.frames;
  m_shownFrames.store(m_frame, std::memory_order_relaxed);
  const std::uint64_t written = m_written, read = m_read.load(std::memory_order_acquire);
  const auto count = std::size_t(place.frames);
  // The place is pushed last: whoever sees it may read its frames.
  if (kRing - std::size_t(written - read) < count) {
    m_lost.fetch_add(count, std::memory_order_relaxed);
    return;
  }
  const std::size_t at = std::size_t(written % kRing), first = std::min(count, kRing - at);
  std::copy(left, left + first, m_left.begin() + std::ptrdiff_t(at));
  std::copy(right, right + first, m_right.begin() + std::ptrdiff_t(at));
  std::copy(left + first, left + count, m_left.begin());
  std::copy(right + first, right + count, m_right.begin());
  if (!m_places.push(place)) {
    m_lost.fetch_add(count, std::memory_order_relaxed);
    return;
  }
  m_written = written + count;
}

void InputLine::read(float* left, float* right, int frames) {
  const std::uint64_t read = m_read.load(std::memory_order_relaxed);
  const auto count = std::size_t(frames);
  const std::size_t at = std::size_t(read % kRing), first = std::min(count, kRing - at);
  std::copy_n(m_left.begin() + std::ptrdiff_t(at), first, left);
  std::copy_n(m_right.begin() + std::ptrdiff_t(at), first, right);
  std::copy_n(m_left.begin(), count - first, left + first);
  std::copy_n(m_right.begin(), count - first, right + first);
  m_read.store(read + count, std::memory_order_release);
}

void InputLine::measureChannel(std::size_t channel, const float* samples, int frames) {
  double square = m_square[channel];
  float peak = m_peak[channel].load(std::memory_order_relaxed);
  int run = m_run[channel];
  std::uint32_t clips = 0;
  for (int i = 0; i < frames; ++i) {
    const float v = std::abs(samples[i]);
    peak = std::max(peak, v);
    square = square * kKeep + (1 - kKeep) * double(v) * double(v);
    if (v < kFull) {
      run = 0;
      continue;
    }
    ++run;
    // Beyond full scale is a clip at once; at it, a run is (common practice, no source).
    if (run == 3 || (v > 1 && run < 3)) {
      ++clips;
      run = 3;
    }
  }
  m_square[channel] = square < 1e-20 ? 0 : square;
  m_run[channel] = run;
  m_peak[channel].store(peak, std::memory_order_relaxed);
  m_rms[channel].store(float(std::sqrt(square)), std::memory_order_relaxed);
  if (clips > 0) m_clips.fetch_add(clips, std::memory_order_relaxed);
}

void InputLine::measure(const float* left, const float* right, int frames) {
  measureChannel(0, left, frames);
  measureChannel(1, right, frames);
}

InputLine::Level InputLine::takeLevel() {
  Level level;
  for (std::size_t c = 0; c < 2; ++c) {
    level.peak[c] = m_peak[c].exchange(0, std::memory_order_relaxed);
    level.rms[c] = m_rms[c].load(std::memory_order_relaxed);
  }
  level.clips = m_clips.load(std::memory_order_relaxed);
  return level;
}

} // namespace tuvvo
