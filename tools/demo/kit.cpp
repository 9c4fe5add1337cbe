#include "kit.h"

#include <algorithm>

namespace tuvvo::demo {

namespace {

double fall(double t, double tau) { return std::exp(-t / tau); }

Buffer made(double seconds, const std::function<double(double)>& f) {
  Buffer b(seconds);
  for (std::size_t i = 0; i < b.size(); ++i) b.left[i] = b.right[i] = f(double(i) / kRate);
  return b;
}

/// Noise with a fall of its own, a little different left and right.
Buffer noise(double seconds, double tau, std::uint64_t seed, double width = 0.25) {
  Random random(seed);
  Buffer b(seconds);
  for (std::size_t i = 0; i < b.size(); ++i) {
    const double e = fall(double(i) / kRate, tau), mid = random.bell() / 3;
    b.left[i] = e * (mid + width * random.bell() / 3);
    b.right[i] = e * (mid + width * random.bell() / 3);
  }
  return b;
}

/// A drum whose pitch falls from one frequency to another.
Buffer swept(double seconds, double from, double to, double sweepTau, double tau, double bend = 0) {
  double phase = 0;
  return made(seconds, [&, phase](double t) mutable {
    const double hz = to + (from - to) * fall(t, sweepTau) + bend * fall(t, 0.15);
    phase += 2 * M_PI * hz / kRate;
    return std::sin(phase) * fall(t, tau) * std::min(1.0, t / 0.0006);
  });
}

void addModes(Buffer& b, double base, const std::vector<std::array<double, 3>>& modes) {
  for (const auto& [ratio, gain, tau] : modes) {
    const double hz = base * ratio;
    b.add(made(double(b.size()) / kRate,
               [&, hz, gain = gain, tau = tau](double t) {
                 return gain * std::sin(2 * M_PI * hz * t + 0.3) * fall(t, tau) *
                        std::min(1.0, t / 0.0003);
               }),
          0);
  }
}

/// Inharmonic clang: squares at ratios that do not meet, as struck plates have (ratios of our own).
Buffer clang(double seconds, double base, double tau, std::uint64_t seed, double width) {
  static constexpr double ratios[] = {1.0, 1.342, 1.531, 1.787, 2.114, 2.497, 2.891, 3.417};
  Random random(seed);
  Buffer b(seconds);
  for (double ratio : ratios) {
    const double hz = base * ratio * (1 + 0.01 * random.bipolar()), start = random.unit();
    const double side = width * random.bipolar();
    for (std::size_t i = 0; i < b.size(); ++i) {
      const double t = double(i) / kRate, x = hz * t + start;
      // A soft-edged square: fewer overtones fold back.
      const double v = std::tanh(3 * std::sin(2 * M_PI * x)) * fall(t, tau);
      b.left[i] += v * (1 - side) / 8;
      b.right[i] += v * (1 + side) / 8;
    }
  }
  return b;
}

void finish(Buffer& b, double drive, double roomMix, double roomS, std::uint64_t seed,
            double peak) {
  b.normalise(0.9);
  if (drive > 0) saturate(b, drive);
  if (roomMix > 0) {
    Buffer wet = room(b, roomS, 0.55, 5200, seed);
    filter(wet, Biquad::highPass(220));
    wet.normalise(roomMix);
    b.add(wet, 0.002);
  }
  // The tail reaches silence: the last 15 % fade.
  for (std::size_t i = b.size() * 85 / 100; i < b.size(); ++i) {
    const double left = double(b.size() - 1 - i) / (double(b.size()) * 0.15);
    b.left[i] *= left;
    b.right[i] *= left;
  }
  b.normalise(peak);
}

Buffer kick(double to, double tau, double knock, double drive, std::uint64_t seed) {
  Buffer b = swept(0.62, to * 4.2, to, 0.022, tau, 4);
  b.add(swept(0.08, 900, 180, 0.004, 0.010), 0, knock * 0.5); // the beater
  Buffer skin = noise(0.05, 0.006, seed, 0.1);
  filter(skin, Biquad::bandPass(3200, 0.7));
  b.add(skin, 0, knock * 0.7);
  finish(b, drive, 0.07, 0.25, seed, 0.93);
  return b;
}

Buffer snare(double base, double bodyTau, double wireTau, double bright, double drive,
             std::uint64_t seed) {
  Buffer b(0.55);
  b.add(swept(0.3, base * 1.5, base, 0.012, bodyTau), 0, 0.75);
  addModes(
      b, base,
      {{1.59, 0.35, bodyTau * 0.8}, {2.14, 0.22, bodyTau * 0.6}, {2.92, 0.12, bodyTau * 0.45}});
  Buffer wires = noise(0.5, wireTau, seed, 0.35);
  filter(wires, Biquad::highPass(1100));
  filter(wires, Biquad::peak(bright, 0.9, 7));
  filter(wires, Biquad::lowPass(11500));
  b.add(wires, 0.001, 0.9);
  Buffer crack = noise(0.03, 0.004, seed + 5, 0.1);
  filter(crack, Biquad::highPass(2500));
  b.add(crack, 0, 0.9);
  finish(b, drive, 0.22, 0.38, seed, 0.9);
  return b;
}

Buffer hat(double tau, double seconds, std::uint64_t seed) {
  Buffer b = clang(seconds, 523, tau, seed, 0.25);
  Buffer air = noise(seconds, tau * 0.8, seed + 1, 0.3);
  b.add(air, 0, 0.55);
  filter(b, Biquad::highPass(6800, 0.9));
  filter(b, Biquad::peak(9500, 1.2, 4));
  filter(b, Biquad::lowPass(15500));
  Buffer tick = noise(0.01, 0.0015, seed + 2, 0.1);
  filter(tick, Biquad::highPass(4000));
  b.add(tick, 0, 0.3);
  finish(b, 0.7, 0.05, 0.2, seed, 0.7);
  return b;
}

Buffer clap(std::uint64_t seed) {
  Buffer b(0.5);
  static constexpr double hands[] = {0, 0.0095, 0.0188, 0.0292};
  for (int k = 0; k < 4; ++k) {
    Buffer hand = noise(0.35, k < 3 ? 0.0055 : 0.085, seed + std::uint64_t(k), 0.5);
    filter(hand, Biquad::bandPass(1350 + 130 * k, 1.1));
    b.add(hand, hands[k], k < 3 ? 0.9 : 1.0, (k - 1.5) * 0.2);
  }
  filter(b, Biquad::peak(2600, 1.0, 4));
  finish(b, 1.2, 0.25, 0.32, seed, 0.85);
  return b;
}

Buffer shaker(std::uint64_t seed) {
  Buffer b = noise(0.18, 1.0, seed, 0.4);
  for (std::size_t i = 0; i < b.size(); ++i) {
    const double t = double(i) / kRate;
    const double e = std::pow(std::min(1.0, t / 0.045), 2) * fall(std::max(0.0, t - 0.045), 0.028);
    b.left[i] *= e;
    b.right[i] *= e;
  }
  filter(b, Biquad::bandPass(7600, 0.8));
  filter(b, Biquad::highPass(3800));
  finish(b, 0.4, 0.04, 0.2, seed, 0.6);
  return b;
}

Buffer tambourine(std::uint64_t seed) {
  Random random(seed);
  Buffer b(0.4);
  for (int jingle = 0; jingle < 9; ++jingle) {
    const double at = 0.02 * random.unit() * random.unit(), side = random.bipolar();
    Buffer one(0.35);
    addModes(one, 3900 + 3800 * random.unit(),
             {{1, 0.4, 0.07}, {1.47, 0.3, 0.05}, {2.09, 0.2, 0.035}});
    b.add(one, at, 0.5, 0.6 * side);
  }
  Buffer air = noise(0.3, 0.045, seed + 1, 0.4);
  filter(air, Biquad::highPass(5200));
  b.add(air, 0, 0.6);
  filter(b, Biquad::highPass(2400));
  finish(b, 0.6, 0.08, 0.25, seed, 0.62);
  return b;
}

Buffer struck(double base, const std::vector<std::array<double, 3>>& modes, double seconds,
              double slap, double slapHz, double roomMix, std::uint64_t seed, double peak) {
  Buffer b(seconds);
  addModes(b, base, modes);
  if (slap > 0) {
    Buffer s = noise(0.05, 0.005, seed, 0.15);
    filter(s, Biquad::bandPass(slapHz, 0.8));
    b.add(s, 0, slap);
  }
  finish(b, 0.8, roomMix, 0.3, seed, peak);
  return b;
}

Buffer cymbal(double base, double tau, double seconds, double highPass, double wash,
              std::uint64_t seed, double peak) {
  Buffer b = clang(seconds, base, tau, seed, 0.5);
  b.add(clang(seconds, base * 1.83, tau * 0.7, seed + 3, 0.5), 0, 0.6);
  Buffer air = noise(seconds, tau * 0.7, seed + 1, 0.6);
  b.add(air, 0, wash);
  filter(b, Biquad::highPass(highPass));
  filter(b, Biquad::lowPass(14500));
  finish(b, 0.5, 0.08, 0.6, seed, peak);
  return b;
}

/// A plucked-and-held bass on C2: a sine with a driven octave that fades, steady to the end.
Buffer bass(double hz, double drive, double pluck, double seconds) {
  double phase = 0;
  Buffer b = made(seconds, [&, phase](double t) mutable {
    phase += 2 * M_PI * hz * (1 + 0.012 * fall(t, 0.012)) / kRate;
    const double body = std::sin(phase) + 0.30 * fall(t, 0.5) * std::sin(2 * phase) +
                        pluck * fall(t, 0.12) * std::sin(3 * phase + 0.4) +
                        0.5 * pluck * fall(t, 0.06) * std::sin(5 * phase);
    return body * (0.72 + 0.28 * fall(t, 0.25)) * std::min(1.0, t / 0.003) * fall(t, 2.6);
  });
  finish(b, drive, 0, 0, 1, 0.8);
  return b;
}

} // namespace

std::vector<Drum> makeKit() {
  std::vector<Drum> kit;
  const auto add = [&](const char* name, Buffer b, bool mono = false) {
    kit.push_back({name, std::move(b), mono});
  };
  // Floor
  add("01 kick", kick(52, 0.115, 0.55, 1.7, 11), true);
  add("02 kick knock", kick(88, 0.055, 1.1, 2.4, 12), true);
  add("03 kick low", kick(43, 0.21, 0.18, 1.1, 13), true);
  add("04 tom low",
      struck(92, {{1, 1, 0.20}, {1.59, .4, 0.12}, {2.14, .2, 0.08}}, 0.7, .5, 1500, .15, 14, .85));
  add("05 bass C2", bass(65.406, 1.1, 0.35, 2.6), true);
  add("06 sub C2", bass(65.406, 0.5, 0.05, 2.6), true);
  // Body
  add("07 snare", snare(188, 0.075, 0.115, 4200, 1.6, 21));
  add("08 snare dusty", snare(154, 0.10, 0.075, 2600, 2.6, 22));
  add("09 rim",
      struck(1720, {{1, 1, .014}, {1.53, .6, .010}, {.43, .5, .02}}, .16, .6, 4200, .12, 23, .8));
  add("10 clap", clap(24));
  add("11 snap", struck(2250, {{1, .5, .009}, {1.31, .4, .007}}, .25, 1.2, 2600, .3, 25, .7));
  add("12 conga",
      struck(238, {{1, 1, .13}, {2.3, .35, .05}, {3.6, .15, .03}}, .5, .6, 1900, .12, 26, .8));
  add("13 wood", struck(890, {{1, 1, .035}, {2.71, .4, .018}}, .2, .25, 3000, .12, 27, .75));
  // Air
  add("14 hat", hat(0.022, 0.14, 31));
  add("15 hat half", hat(0.075, 0.35, 32));
  add("16 hat open", hat(0.20, 0.75, 33));
  add("17 shaker", shaker(34));
  add("18 tambourine", tambourine(35));
  add("19 ride", cymbal(418, 0.42, 1.5, 3200, .22, 36, .6));
  add("20 crash", cymbal(352, 0.62, 2.0, 2100, .8, 37, .7));
  return kit;
}

} // namespace tuvvo::demo
