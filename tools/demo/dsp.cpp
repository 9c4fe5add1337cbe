#include "dsp.h"

#include <algorithm>

namespace tuvvo::demo {

void Buffer::add(const Buffer& other, double atS, double gain, double pan) {
  const auto at = std::int64_t(std::llround(atS * kRate));
  const double l = gain * std::min(1.0, 1 - pan), r = gain * std::min(1.0, 1 + pan);
  for (std::size_t i = 0; i < other.size(); ++i) {
    const auto k = at + std::int64_t(i);
    if (k < 0 || k >= std::int64_t(size())) continue;
    left[std::size_t(k)] += l * other.left[i];
    right[std::size_t(k)] += r * other.right[i];
  }
}

void Buffer::each(const std::function<double(double)>& shape) {
  for (auto* channel : {&left, &right})
    for (double& v : *channel) v = shape(v);
}

double Buffer::peak() const {
  double peak = 0;
  for (const auto* channel : {&left, &right})
    for (double v : *channel) peak = std::max(peak, std::abs(v));
  return peak;
}

void Buffer::normalise(double target) {
  const double gain = target / std::max(1e-9, peak());
  each([gain](double v) { return v * gain; });
}

SoundPtr Buffer::sound(bool mono) const {
  Channels channels(mono ? 1 : 2, Samples(size()));
  Random dither(7);
  const auto step = [&](double v) {
    // 16-bit steps with triangular dither: what a person would have recorded.
    const double scaled = std::clamp(v, -0.9999, 0.9999) * 32767 + dither.unit() - dither.unit();
    return float(std::clamp(std::nearbyint(scaled), -32768.0, 32767.0) / 32768.0);
  };
  for (std::size_t i = 0; i < size(); ++i) {
    channels[0][i] = step(mono ? 0.5 * (left[i] + right[i]) : left[i]);
    if (!mono) channels[1][i] = step(right[i]);
  }
  return std::make_shared<Sound>(std::move(channels), Hertz(kRate));
}

namespace {
struct Corner {
  double cosine, alpha;
  Corner(double hz, double q) {
    const double w = 2 * M_PI * std::min(hz, kRate * 0.49) / kRate;
    cosine = std::cos(w);
    alpha = std::sin(w) / (2 * q);
  }
};
} // namespace

Biquad Biquad::lowPass(double hz, double q) {
  const Corner c(hz, q);
  Biquad f;
  const double a0 = 1 + c.alpha;
  f.b0 = f.b2 = (1 - c.cosine) / 2 / a0;
  f.b1 = (1 - c.cosine) / a0;
  f.a1 = -2 * c.cosine / a0;
  f.a2 = (1 - c.alpha) / a0;
  return f;
}

Biquad Biquad::highPass(double hz, double q) {
  const Corner c(hz, q);
  Biquad f;
  const double a0 = 1 + c.alpha;
  f.b0 = f.b2 = (1 + c.cosine) / 2 / a0;
  f.b1 = -(1 + c.cosine) / a0;
  f.a1 = -2 * c.cosine / a0;
  f.a2 = (1 - c.alpha) / a0;
  return f;
}

Biquad Biquad::bandPass(double hz, double q) {
  const Corner c(hz, q);
  Biquad f;
  const double a0 = 1 + c.alpha;
  f.b0 = c.alpha / a0;
  f.b1 = 0;
  f.b2 = -c.alpha / a0;
  f.a1 = -2 * c.cosine / a0;
  f.a2 = (1 - c.alpha) / a0;
  return f;
}

Biquad Biquad::peak(double hz, double q, double db) {
  const Corner c(hz, q);
  const double a = std::pow(10, db / 40);
  Biquad f;
  const double a0 = 1 + c.alpha / a;
  f.b0 = (1 + c.alpha * a) / a0;
  f.b1 = -2 * c.cosine / a0;
  f.b2 = (1 - c.alpha * a) / a0;
  f.a1 = -2 * c.cosine / a0;
  f.a2 = (1 - c.alpha / a) / a0;
  return f;
}

double Biquad::run(double x) {
  const double y = b0 * x + z1;
  z1 = b1 * x - a1 * y + z2;
  z2 = b2 * x - a2 * y;
  return y;
}

void filter(Buffer& buffer, const Biquad& section) {
  for (auto* channel : {&buffer.left, &buffer.right}) {
    Biquad f = section;
    for (double& v : *channel) v = f.run(v);
  }
}

Buffer room(const Buffer& dry, double seconds, double size, double brightHz, std::uint64_t seed) {
  constexpr int lines = 8;
  static constexpr double base[lines] = {0.0113, 0.0149, 0.0173, 0.0211,
                                         0.0239, 0.0271, 0.0307, 0.0353};
  Random random(seed);
  Buffer wet(double(dry.size()) / kRate + seconds);
  std::vector<std::vector<double>> delay(lines);
  std::vector<std::size_t> place(lines, 0);
  std::vector<double> gain(lines), low(lines, 0.0);
  for (std::size_t k = 0; k < lines; ++k) {
    const double length = base[k] * size * (1 + 0.05 * random.bipolar());
    delay[k].assign(std::max<std::size_t>(8, std::size_t(length * kRate)), 0.0);
    gain[k] = std::pow(10, -3 * length / seconds);
  }
  const double damp = std::exp(-2 * M_PI * brightHz / kRate);
  for (std::size_t i = 0; i < wet.size(); ++i) {
    const double inL = i < dry.size() ? dry.left[i] : 0, inR = i < dry.size() ? dry.right[i] : 0;
    double out[lines], sum = 0;
    for (std::size_t k = 0; k < lines; ++k) {
      low[k] = (1 - damp) * delay[k][place[k]] + damp * low[k];
      out[k] = low[k] * gain[k];
      sum += out[k];
    }
    double l = 0, r = 0;
    for (std::size_t k = 0; k < lines; ++k) {
      // Householder feedback: every line hears all the others, and no energy is made.
      delay[k][place[k]] = (k % 2 ? inR : inL) + out[k] - 2.0 / lines * sum;
      place[k] = (place[k] + 1) % delay[k].size();
      (k % 2 ? r : l) += out[k] * (k & 2 ? -1 : 1);
    }
    wet.left[i] = l * 0.5;
    wet.right[i] = r * 0.5;
  }
  return wet;
}

void saturate(Buffer& buffer, double drive) {
  const double norm = std::tanh(drive);
  buffer.each([&](double v) { return std::tanh(drive * v + 0.08 * drive * v * v) / norm; });
}

Buffer worn(const Buffer& clean, const DiscWear& wear) {
  const double speed = std::exp2(wear.cents / 1200);
  const auto frames = std::size_t(std::llround(double(clean.size()) / speed));
  Buffer out;
  out.left.resize(frames);
  out.right.resize(frames);
  const double seconds = double(frames) / kRate;
  const double turns = std::round(seconds * 0.5556), flutters = std::round(seconds * 9.3);
  const auto read = [](const std::vector<double>& from, double at) {
    // 16-point windowed sinc over a sound that goes round, as a loop does.
    const auto n = std::int64_t(from.size());
    const auto whole = std::int64_t(std::floor(at));
    double sum = 0;
    for (std::int64_t k = -7; k <= 8; ++k) {
      const double x = at - double(whole + k);
      const double w = 0.5 + 0.5 * std::cos(M_PI * x / 8.5);
      const double s = std::abs(x) < 1e-9 ? 1 : std::sin(M_PI * x) / (M_PI * x);
      sum += from[std::size_t(((whole + k) % n + n) % n)] * s * w;
    }
    return sum;
  };
  Random random(wear.seed);
  for (std::size_t i = 0; i < frames; ++i) {
    const double phase = double(i) / double(frames);
    const double sway =
        wear.wow * std::sin(2 * M_PI * turns * phase) / (2 * M_PI * turns) +
        wear.flutter * std::sin(2 * M_PI * flutters * phase) / (2 * M_PI * flutters);
    const double at = (phase + sway) * double(clean.size());
    out.left[i] = read(clean.left, at);
    out.right[i] = read(clean.right, at);
  }
  saturate(out, 0.9);
  filter(out, Biquad::highPass(wear.lowHz));
  filter(out, Biquad::lowPass(wear.highHz));
  filter(out, Biquad::peak(1800, 0.8, 2));
  // Dust: rare ticks through a resonance each, a finer grain below them, and surface hiss.
  Buffer dirt(seconds);
  for (std::size_t i = 0; i < dirt.size(); ++i) {
    if (random.unit() < 11 * wear.crackle / kRate) {
      const double size = 0.006 + 0.05 * std::pow(random.unit(), 6), side = random.bipolar();
      const double ring = 2500 + 4500 * random.unit();
      for (std::size_t k = 0; k < 30 && i + k < dirt.size(); ++k) {
        const double v =
            size * std::exp(-double(k) / 5) * std::cos(2 * M_PI * ring * double(k) / kRate);
        dirt.left[i + k] += v * (1 - 0.6 * side);
        dirt.right[i + k] += v * (1 + 0.6 * side);
      }
    }
    if (random.unit() < 160 * wear.crackle / kRate) {
      dirt.left[i] += 0.004 * random.bipolar();
      dirt.right[i] += 0.004 * random.bipolar();
    }
    dirt.left[i] += wear.hiss * random.bell();
    dirt.right[i] += wear.hiss * random.bell();
  }
  filter(dirt, Biquad::lowPass(7500));
  out.add(dirt, 0);
  return out;
}

} // namespace tuvvo::demo
