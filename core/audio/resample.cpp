#include "audio/resample.h"

#include "base/convert.h"

#include <array>
#include <cmath>
#include <soxr.h>

namespace tuvvo {

Samples resample(std::span<const float> samples, Hertz from, Hertz to) {
  if (from == to) return {samples.begin(), samples.end()};
  const auto frames = toNearest<std::size_t>(double(samples.size()) * to.value / from.value);
  Samples out(frames + 64, 0.0f);
  const auto quality = soxr_quality_spec(SOXR_VHQ, 0);
  std::size_t used = 0, made = 0;
  soxr_oneshot(from.value, to.value, 1, samples.data(), samples.size(), &used, out.data(),
               out.size(), &made, nullptr, &quality, nullptr);
  out.resize(frames);
  return out;
}

StreamResampler::StreamResampler(Hertz from, Hertz to) : m_ratio(to.value / from.value) {
  if (from == to) return;
  const auto quality = soxr_quality_spec(SOXR_VHQ, 0);
  m_soxr = soxr_create(from.value, to.value, 1, nullptr, nullptr, &quality, nullptr);
}

StreamResampler::~StreamResampler() {
  if (m_soxr) soxr_delete(static_cast<soxr_t>(m_soxr));
}

void StreamResampler::append(std::span<const float> samples, bool last, Samples& out) {
  std::array<float, 8192> made{};
  std::size_t used = 0;
  for (;;) {
    std::size_t eaten = 0, given = 0;
    const bool end = last && used == samples.size();
    soxr_process(static_cast<soxr_t>(m_soxr), end ? nullptr : samples.data() + used,
                 samples.size() - used, &eaten, made.data(), made.size(), &given);
    used += eaten;
    out.insert(out.end(), made.begin(), made.begin() + std::ptrdiff_t(given));
    m_given += std::int64_t(given);
    if (given == 0 && (end || used == samples.size())) return;
  }
}

void StreamResampler::take(std::span<const float> samples, Samples& out) {
  m_taken += std::int64_t(samples.size());
  if (m_soxr) return append(samples, false, out);
  out.insert(out.end(), samples.begin(), samples.end());
}

void StreamResampler::finish(Samples& out) {
  if (!m_soxr) return;
  append({}, true, out);
  const std::int64_t wanted = toNearest<std::int64_t>(double(m_taken) * m_ratio);
  out.resize(std::size_t(std::int64_t(out.size()) + wanted - m_given), 0.0f);
}

Result<SoundPtr> resample(const Sound& sound, Hertz rate) {
  if (rate.value < 8000 || rate.value > 192000)
    return Error{"A sample rate of " + std::to_string(toNearest<std::int64_t>(rate.value)) + " Hz",
                 "", "Choose 8 to 192 kHz."};
  Channels channels;
  for (int c = 0; c < sound.channels(); ++c)
    channels.push_back(resample(sound.channel(c), sound.rate(), rate));
  return SoundPtr(std::make_shared<Sound>(std::move(channels), rate));
}

} // namespace tuvvo
