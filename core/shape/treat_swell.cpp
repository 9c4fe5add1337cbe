// The tail of a sound turned round, so that it rises into the sound.
#include "base/convert.h"
#include "base/random.h"
#include "listen/spectrum.h"
#include "shape/treat_parts.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// Linear convolution by one transform.
Samples convolved(const Samples& a, const Samples& b) {
  int size = 16;
  while (std::size_t(size) < a.size() + b.size()) size *= 2;
  Fft forward(size);
  InverseFft back(size);
  const auto load = [&](const Samples& samples) {
    std::fill(forward.input().begin(), forward.input().end(), 0.0f);
    std::copy(samples.begin(), samples.end(), forward.input().begin());
    return forward.run();
  };
  const auto first = load(a);
  std::copy(first.begin(), first.end(), back.input().begin());
  const auto second = load(b);
  for (std::size_t i = 0; i < second.size(); ++i) back.input()[i] *= second[i] / float(size);
  const auto made = back.run();
  return {made.begin(), made.begin() + std::ptrdiff_t(a.size() + b.size() - 1)};
}

/// The loudest mean square over 50 ms.
double loudest(const Channels& sound, double rate) {
  const auto window = std::max<std::size_t>(1, toWhole<std::size_t>(rate * 0.05));
  double best = 0;
  for (std::size_t from = 0; from < sound[0].size(); from += window) {
    double sum = 0;
    const std::size_t to = std::min(from + window, sound[0].size());
    for (std::size_t i = from; i < to; ++i)
      for (const auto& channel : sound) sum += double(channel[i]) * double(channel[i]);
    best = std::max(best, sum / double(window));
  }
  return best;
}

} // namespace

void swell(Channels& sound, const treat::Swell& what, const TreatFrame& frame) {
  const double rate = frame.rate.value;
  const auto over = toNearest<std::size_t>(frame.framesOf(what.beats));
  Channels tail = sound;
  if (what.from == treat::Swell::From::Reverberation) {
    // Noise that falls by 60 dB over the tail's length, another one on each side.
    const double seconds = what.tail.value;
    const auto n = toWhole<std::size_t>(seconds * rate);
    const std::size_t first =
        std::min(tail[0].size(), toWhole<std::size_t>(rate)); // its first second rings
    for (std::size_t c = 0; c < 2; ++c) {
      Random random(17 + c);
      Samples room(n);
      for (std::size_t i = 0; i < n; ++i)
        room[i] = float(random.bipolar() * std::exp(std::log(1e-3) * double(i) / (seconds * rate)));
      Samples struck(sound[c].begin(), sound[c].begin() + std::ptrdiff_t(first));
      tail[c] = convolved(struck, room);
    }
    const double own = loudest(sound, rate), wet = loudest(tail, rate);
    const auto gain = float(wet > 0 ? std::sqrt(own / wet) : 0);
    for (auto& channel : tail)
      for (float& sample : channel) sample *= gain;
  }
  const bool then = what.then == treat::Swell::Then::Sound;
  Channels out(2, Samples(over + (then ? sound[0].size() : 0), 0.0f));
  const double fadeIn = 0.25 * double(over), fadeOut = 0.002 * rate;
  for (std::size_t c = 0; c < 2; ++c) {
    for (std::size_t i = 0; i < over; ++i) {
      const std::size_t at = over - 1 - i;
      if (at >= tail[c].size()) continue;
      const double gain = std::min(1.0, (double(i) + 0.5) / fadeIn) *
                          std::min(1.0, (double(over - i) - 0.5) / fadeOut);
      out[c][i] = float(gain * double(tail[c][at]));
    }
    if (then) std::copy(sound[c].begin(), sound[c].end(), out[c].begin() + std::ptrdiff_t(over));
  }
  sound = std::move(out);
}

} // namespace tuvvo
