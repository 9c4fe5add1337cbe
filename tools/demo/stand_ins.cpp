#include "stand_ins.h"

namespace tuvvo::demo {

namespace {

/// A knock: a few modes of a board, struck.
Buffer knock(double hz, double ring, double noise, std::uint64_t seed) {
  Buffer out(0.5);
  Random random(seed);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = double(i) / kRate;
    double v = noise * std::exp(-t / 0.004) * random.bipolar();
    for (int mode = 0; mode < 4; ++mode)
      v += std::exp(-t / (ring / (1 + mode))) * std::sin(2 * M_PI * hz * (1 + 1.47 * mode) * t) /
           (1 + mode);
    out.left[i] = out.right[i] = v;
  }
  return out;
}

/// Hands: three bursts of noise close together.
Buffer clap(std::uint64_t seed) {
  Buffer out(0.4);
  Random random(seed);
  const double gap = 0.008 + 0.004 * random.unit();
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = double(i) / kRate;
    double e = 0;
    for (int k = 0; k < 3; ++k)
      if (t >= k * gap) e = std::exp(-(t - k * gap) / (k == 2 ? 0.045 : 0.004));
    out.left[i] = out.right[i] = e * random.bipolar();
  }
  filter(out, Biquad::bandPass(1500, 0.8));
  return out;
}

/// A bunch of keys, shaken once.
Buffer jingle(std::uint64_t seed) {
  Buffer out(0.8);
  Random random(seed);
  for (int key = 0; key < 9; ++key) {
    const double at = 0.12 * random.unit(), hz = 3200 + 5200 * random.unit(),
                 ring = 0.03 + 0.09 * random.unit();
    for (std::size_t i = std::size_t(at * kRate); i < out.size(); ++i) {
      const double t = double(i) / kRate - at;
      out.left[i] += 0.25 * std::exp(-t / ring) * std::sin(2 * M_PI * hz * t);
    }
  }
  out.right = out.left;
  return out;
}

/// A hummed note with breath, vibrato and a soft edge.
Buffer hum(double note, double seconds, std::uint64_t seed) {
  Buffer out(seconds);
  Random random(seed);
  double phase = 0;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = double(i) / kRate, into = std::min(1.0, t / 0.09);
    const double cents =
        18 * std::sin(2 * M_PI * 5.3 * t) * std::min(1.0, t / 0.4) - 60 * (1 - into);
    phase += 2 * M_PI * 440 * std::exp2((note - 69) / 12 + cents / 1200) / kRate;
    double v = 0;
    for (int h = 1; h <= 9; ++h) v += std::sin(h * phase) * std::exp(-0.55 * h);
    const double e = into * std::min(1.0, (seconds - t) / 0.12);
    out.left[i] = out.right[i] = e * (v + 0.012 * random.bell());
  }
  filter(out, Biquad::lowPass(1800));
  return out;
}

struct Note {
  double beat, length, note;
};

void phrase(Buffer& out, double from, double bpm, const std::vector<Note>& notes, int beats,
            std::uint64_t seed) {
  const double beat = 60 / bpm;
  Random hand(seed);
  for (const Note& note : notes)
    out.add(hum(note.note, note.length * beat, seed + std::uint64_t(note.beat * 8)),
            from + note.beat * beat, 0.5);
  for (int half = 0; half < 2 * beats; ++half) {
    const bool low = half % 4 == 0 || half % 8 == 5, high = half % 4 == 2;
    const double at = from + half * beat / 2 + 0.006 * hand.bell();
    if (low) out.add(knock(92, 0.09, 0.3, seed + std::uint64_t(half)), at, 0.42);
    if (high) out.add(knock(310, 0.03, 0.8, seed + std::uint64_t(half)), at, 0.3);
    if (!low && !high) out.add(knock(620, 0.012, 0.6, seed + std::uint64_t(half)), at, 0.08);
  }
}

} // namespace

Buffer makeMicrophone() {
  Buffer dry(41);
  const Buffer singles[] = {knock(85, 0.12, 0.25, 1),
                            clap(2),
                            knock(300, 0.04, 0.9, 3),
                            jingle(4),
                            clap(5),
                            knock(140, 0.08, 0.4, 6),
                            knock(980, 0.015, 0.5, 7),
                            jingle(8)};
  const double levels[] = {0.8, 0.6, 0.5, 0.35, 0.8, 0.7, 0.3, 0.5};
  for (int i = 0; i < 8; ++i) dry.add(singles[i], 1.0 + 1.1 * i, levels[i]);
  phrase(dry, 12, 88,
         {{0, 1.5, 57},
          {1.5, 0.5, 60},
          {2, 1.8, 59},
          {4, 1.5, 55},
          {5.5, 0.5, 57},
          {6, 1.8, 52},
          {8, 1.5, 57},
          {9.5, 0.5, 60},
          {10, 1.8, 64},
          {12, 1, 62},
          {13, 1, 59},
          {14, 1.8, 57}},
         16, 31);
  phrase(dry, 28, 102,
         {{0, 0.9, 60},
          {1, 0.9, 63},
          {2, 1.8, 67},
          {4, 0.9, 65},
          {5, 0.9, 63},
          {6, 1.8, 60},
          {8, 0.9, 60},
          {9, 0.9, 58},
          {10, 1.8, 55},
          {12, 3.6, 60}},
         16, 57);
  Buffer out(41.5);
  out.add(dry, 0, 0.8);
  out.add(room(dry, 0.8, 1.4, 3800, 12), 0.004, 0.12);
  Random hiss(99);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = double(i) / kRate;
    out.left[i] += 0.00045 * hiss.bell() + 0.0004 * std::sin(2 * M_PI * 50 * t);
  }
  out.right = out.left;
  out.normalise(0.6);
  return out;
}

} // namespace tuvvo::demo
