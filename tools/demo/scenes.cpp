#include "scenes.h"

#include "notes_player.h"

#include <algorithm>

namespace tuvvo::demo {

namespace {

/// beat, length in beats, pitch, velocity
using Line = std::vector<std::array<double, 4>>;

void addLine(std::vector<Note>& notes, const Line& line, int channel, double beat0,
             double transpose, double lateS, Random& hand) {
  const double beat = 60 / kBandBpm;
  for (const auto& [at, length, pitch, velocity] : line) {
    // Eighths swing a little: the second of a pair comes at 58 %.
    const double inPair = at - std::floor(at);
    const double swing = std::abs(inPair - 0.5) < 0.01 ? 0.08 : 0.0;
    notes.push_back({(beat0 + at + swing) * beat + lateS + 0.006 * hand.bell() / 2,
                     length * beat * 0.94, channel, int(pitch + transpose),
                     std::clamp(velocity + 0.04 * hand.bell() / 2, 0.05, 1.0)});
  }
}

const Line kTrumpet{
    {0.5, .5, 67, .70},    {1, 1, 72, .86},    {2, .5, 70, .72},    {2.5, .5, 72, .74},
    {3, 1, 75, .90},       {4.5, .5, 72, .72}, {5, 1.5, 67, .84},   {6.5, .5, 68, .70},
    {7, 1, 67, .78},       {8.5, .5, 65, .70}, {9, 1, 68, .84},     {10, .75, 72, .86},
    {10.75, .25, 70, .64}, {11, .5, 68, .72},  {11.5, .5, 67, .70}, {12, 1.5, 65, .82},
    {13.5, .5, 67, .70},   {14, .75, 71, .88}, {15, .75, 74, .92}};
// A third or a fourth below, inside the chord.
const Line kTrombone{
    {0.5, .5, 63, .6},     {1, 1, 67, .74},    {2, .5, 65, .6},    {2.5, .5, 67, .64},
    {3, 1, 70, .78},       {4.5, .5, 67, .6},  {5, 1.5, 63, .74},  {6.5, .5, 63, .6},
    {7, 1, 60, .68},       {8.5, .5, 60, .6},  {9, 1, 63, .74},    {10, .75, 67, .74},
    {10.75, .25, 67, .56}, {11, .5, 63, .64},  {11.5, .5, 63, .6}, {12, 1.5, 62, .72},
    {13.5, .5, 62, .6},    {14, .75, 65, .78}, {15, .75, 68, .82}};
const Line kSax{{1, 1, 55, .6},    {3, 1, 58, .62},    {5, 1.5, 56, .6},
                {7, 1, 55, .58},   {9, 1, 56, .6},     {10, .75, 60, .62},
                {12, 1.5, 58, .6}, {14, .75, 59, .66}, {15, .75, 59, .68}};
const std::vector<std::pair<double, std::vector<int>>> kChords{{0, {51, 55, 58, 62}},
                                                               {4, {51, 55, 56, 60}},
                                                               {8, {53, 56, 60, 63}},
                                                               {12, {50, 53, 55, 58}},
                                                               {14, {53, 55, 59, 63}}};

Line organLine() {
  Line line;
  for (std::size_t c = 0; c < kChords.size(); ++c) {
    const double from = kChords[c].first,
                 until = c + 1 < kChords.size() ? kChords[c + 1].first : 16;
    for (int pitch : kChords[c].second) {
      line.push_back({from, 0.45, double(pitch), .80});
      for (double at = from + 0.5; at < until; at += 1) // short chords between the beats
        line.push_back({at, 0.22, double(pitch), at + 0.6 > until ? .92 : .74});
    }
    static constexpr int roots[] = {36, 44, 41, 46, 43};
    line.push_back({from, 1.4, double(roots[c]), .70});
    if (until - from > 2) line.push_back({from + 2.5, 1.3, double(roots[c]), .62});
  }
  return line;
}

} // namespace

Buffer makeBrassLoop(const std::string& soundfont) {
  Random hand(41);
  std::vector<Note> notes;
  const double bars = 16 * 60 / kBandBpm;
  for (int pass = 0; pass < 2; ++pass) { // the second pass carries the tails of the first
    Random same(41);
    addLine(notes, kTrumpet, 0, 16 * pass, 0, 0.004, same);
    addLine(notes, kTrombone, 1, 16 * pass, 0, 0.009, same);
    addLine(notes, kSax, 2, 16 * pass, 0, 0.006, same);
    addLine(notes, organLine(), 3, 16 * pass, 0, 0, same);
  }
  const std::vector<Instrument> band{
      {0, 0, 61, .86, -.25}, {1, 0, 57, .80, .2}, {2, 0, 66, .62, .05}, {3, 0, 17, .74, .1}};
  Buffer dry = playNotes(soundfont, band, notes, bars * 2 + 1);
  Buffer wet = room(dry, 0.9, 1.3, 3800, 5);
  filter(wet, Biquad::highPass(180));
  Buffer mix = dry;
  mix.add(wet, 0.012, 0.20);
  Buffer loop(bars);
  const auto from = std::size_t(std::llround(bars * kRate));
  for (std::size_t i = 0; i < loop.size(); ++i) {
    loop.left[i] = mix.left[from + i];
    loop.right[i] = mix.right[from + i];
  }
  loop.normalise(0.62);
  DiscWear wear;
  wear.cents = kDiscCents;
  wear.seed = 90;
  Buffer out = worn(loop, wear);
  out.normalise(0.86);
  return out;
}

Buffer makeBreak(const std::string& soundfont) {
  Random hand(96);
  std::vector<double> beatAt{0.14};
  for (int b = 0; b < 33; ++b)
    beatAt.push_back(beatAt.back() + 60.0 / 96 *
                                         (1 + 0.021 * std::sin(2 * M_PI * b / 23.0 + 0.7) +
                                          0.011 * std::sin(2 * M_PI * b / 8.3)));
  const auto timeOf = [&](double beat) {
    const auto k = std::size_t(beat);
    return beatAt[k] + (beatAt[k + 1] - beatAt[k]) * (beat - double(k));
  };
  std::vector<Note> notes;
  const auto hit = [&](double beat, int pitch, double velocity) {
    const double within =
        beat - std::floor(beat * 2) / 2; // sixteenths micro-timing back by a little swing
    const double swing = std::abs(within - 0.25) < 0.01 ? 0.035 : 0;
    notes.push_back({timeOf(beat + swing) + 0.0025 * hand.bell(), 0.2, 9, pitch,
                     std::clamp(velocity + 0.03 * hand.bell(), 0.08, 1.0)});
  };
  constexpr int kick = 36, snare = 38, hat = 42, open = 46, crash = 49;
  for (int bar = 0; bar < 8; ++bar) {
    const double b = bar * 4;
    for (int e = 0; e < 8; ++e) {
      const bool lift = (bar % 4 == 3 && e == 7);
      hit(b + e * 0.5, lift ? open : hat, e % 2 ? .48 : .68);
    }
    hit(b, kick, .95);
    hit(b + (bar % 2 ? 0.75 : 1.75), kick, .62);
    hit(b + 2.5, kick, .86);
    if (bar % 4 == 2) hit(b + 2.25, kick, .55);
    hit(b + 1, snare, .92);
    hit(b + 3, snare, .96);
    for (double ghost : {1.75, 2.25, 3.75})
      if (hand.unit() < 0.62) hit(b + ghost, snare, .22);
    if (bar == 7)
      for (int k = 0; k < 4; ++k) hit(b + 3.25 + k * 0.1875, snare, .45 + .14 * k);
    if (bar == 0) hit(b, crash, .55);
  }
  Buffer dry = playNotes(soundfont, {{9, 128, 0, .9, 0}}, notes, timeOf(32) + 0.2);
  filter(dry, Biquad::peak(180, 0.8, 2));
  Buffer wet = room(dry, 0.34, 0.7, 4800, 17);
  Buffer mix(double(dry.size()) / kRate);
  mix.add(dry, 0, 1);
  mix.add(wet, 0.004, 0.42);
  mix.normalise(1.0);
  saturate(mix, 1.9); // an old machine, run hot
  filter(mix, Biquad::lowPass(12500));
  filter(mix, Biquad::highPass(38));
  Random hiss(4);
  for (std::size_t i = 0; i < mix.size(); ++i) {
    const double air = 0.0005 * hiss.bell();
    mix.left[i] += air;
    mix.right[i] += air;
  }
  mix.normalise(0.9);
  return mix;
}

Buffer makeQuay() {
  const double seconds = 17;
  Random random(7);
  Buffer out(seconds);
  // Water: slow swells of dark noise, each side its own.
  Buffer water(seconds);
  for (std::size_t i = 0; i < water.size(); ++i) {
    const double t = double(i) / kRate;
    water.left[i] = random.bell() * (0.5 + 0.35 * std::sin(2 * M_PI * 0.13 * t) +
                                     0.15 * std::sin(2 * M_PI * 0.41 * t));
    water.right[i] = random.bell() * (0.5 + 0.35 * std::sin(2 * M_PI * 0.11 * t + 1) +
                                      0.15 * std::sin(2 * M_PI * 0.37 * t));
  }
  filter(water, Biquad::lowPass(620));
  filter(water, Biquad::highPass(90));
  out.add(water, 0, 0.055);
  // The ship's engine: low harmonics that beat against each other.
  Buffer engine(seconds);
  for (std::size_t i = 0; i < engine.size(); ++i) {
    const double t = double(i) / kRate, sway = 1 + 0.12 * std::sin(2 * M_PI * 0.7 * t) +
                                               0.06 * std::sin(2 * M_PI * 5.2 * t);
    double v = 0;
    for (int h = 1; h <= 7; ++h) v += std::sin(2 * M_PI * 27.3 * h * (1 + 0.0011 * h) * t + h) / h;
    engine.left[i] = v * sway;
    engine.right[i] = v * (2 - sway);
  }
  out.add(engine, 0, 0.035);

  Buffer dry(seconds);
  // The horn: two reeds a little apart, with breath, swelling and dying.
  Buffer horn(kHorn[1] - kHorn[0] - 0.6);
  Random breath(3);
  double phase[2] = {0, 0};
  for (std::size_t i = 0; i < horn.size(); ++i) {
    const double t = double(i) / kRate, length = double(horn.size()) / kRate;
    const double e = std::min(1.0, t / 0.22) * std::min(1.0, (length - t) / 0.5);
    double v = 0;
    for (int reed = 0; reed < 2; ++reed) {
      phase[reed] += 2 * M_PI * (reed ? 123.1 : 92.2) * (1 - 0.01 * std::exp(-t / 0.1)) / kRate;
      for (int h = 1; h <= 14; ++h) v += std::sin(h * phase[reed]) * std::exp(-0.22 * h) / 2;
    }
    horn.left[i] = horn.right[i] = e * (v + 0.05 * breath.bell());
  }
  filter(horn, Biquad::lowPass(1900));
  dry.add(horn, kHorn[0] + 0.04, 0.24, 0.2);
  // Gulls: falling cries with overtones.
  Random flock(19);
  for (int cry = 0; cry < 6; ++cry) {
    const double at = kGulls[0] + 0.05 + cry * 0.36 + 0.06 * flock.unit(),
                 base = 1150 + 260 * flock.unit();
    Buffer gull(0.34);
    double p = 0;
    for (std::size_t i = 0; i < gull.size(); ++i) {
      const double t = double(i) / kRate, x = t / 0.34;
      const double hz = base * (1 + 0.35 * std::sin(M_PI * std::min(1.0, x * 1.7)) - 0.25 * x) *
                        (1 + 0.012 * std::sin(2 * M_PI * 31 * t));
      p += 2 * M_PI * hz / kRate;
      const double e = std::pow(std::sin(M_PI * std::min(1.0, x)), 0.6);
      gull.left[i] = gull.right[i] =
          e * (std::sin(p) + 0.5 * std::sin(2 * p) + 0.25 * std::sin(3 * p));
    }
    dry.add(gull, at, 0.07 * (0.5 + 0.5 * flock.unit()), flock.bipolar() * 0.7);
  }
  // A rope on a bollard: stick and slip through wood.
  Buffer rope(kRope[1] - kRope[0]);
  double next = 0.05, gap = 0.05;
  while (next < double(rope.size()) / kRate - 0.1) {
    const auto at = std::size_t(next * kRate);
    const double size = 0.5 + 0.5 * flock.unit();
    for (std::size_t k = 0; k < 700 && at + k < rope.size(); ++k) {
      const double t = double(k) / kRate;
      const double v = size * std::exp(-t / 0.0035) *
                       (std::sin(2 * M_PI * 740 * t) + 0.6 * std::sin(2 * M_PI * 1310 * t) +
                        0.4 * flock.bipolar());
      rope.left[at + k] += v;
      rope.right[at + k] += v;
    }
    gap = std::max(0.008, gap * (0.94 + 0.1 * flock.unit()));
    next += gap;
  }
  dry.add(rope, kRope[0] + 0.02, 0.16, -0.4);
  out.add(dry, 0);
  Buffer far = room(dry, 2.6, 3.2, 2600, 77); // the harbour answers
  filter(far, Biquad::highPass(120));
  out.add(far, 0.09, 0.5);
  filter(out, Biquad::lowPass(11000));
  out.normalise(0.7);
  return out;
}

} // namespace tuvvo::demo
