#include "audio/resample.h"

#include <cmath>
#include <soxr.h>

namespace tuvvo {

std::vector<float> resample(std::span<const float> samples, Hertz from, Hertz to) {
  if (from == to) return {samples.begin(), samples.end()};
  const auto frames = std::size_t(std::llround(double(samples.size()) * to.value / from.value));
  std::vector<float> out(frames + 64, 0.0f);
  const auto quality = soxr_quality_spec(SOXR_VHQ, 0);
  std::size_t used = 0, made = 0;
  soxr_oneshot(from.value, to.value, 1, samples.data(), samples.size(), &used, out.data(),
               out.size(), &made, nullptr, &quality, nullptr);
  out.resize(frames);
  return out;
}

Result<SoundPtr> resample(const Sound& sound, Hertz rate) {
  if (rate.value < 8000 || rate.value > 192000)
    return Error{"A sample rate of " + std::to_string(std::llround(rate.value)) + " Hz", "",
                 "Choose 8 to 192 kHz."};
  std::vector<std::vector<float>> channels;
  for (int c = 0; c < sound.channels(); ++c)
    channels.push_back(resample(sound.channel(c), sound.rate(), rate));
  return SoundPtr(std::make_shared<Sound>(std::move(channels), rate));
}

} // namespace tuvvo
