// Sounds and projects that tests are made of.
#pragma once

#include "audio/sound.h"
#include "base/outputs.h"
#include "base/random.h"
#include "base/tempo_map.h"
#include "model/edits.h"

#include <QTemporaryDir>
#include <cmath>
#include <filesystem>

namespace tuvvo::test {

inline SoundPtr makeSound(Samples mono, double rate = 48000) {
  return std::make_shared<Sound>(Channels{std::move(mono)}, Hertz(rate));
}

inline Samples sine(double hz, double seconds, double rate, double amplitude = 0.5) {
  Samples out(std::size_t(seconds * rate));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = float(amplitude * std::sin(2 * M_PI * hz * double(i) / rate));
  return out;
}

/// A drum-like burst: a falling tone with noise on top.
inline void addHit(Samples& out, double atS, double rate, double hz, double noise,
                   double gain = 0.7) {
  Random random(std::uint64_t(atS * 1e6) + 3);
  const auto at = std::size_t(std::llround(atS * rate));
  for (std::size_t i = 0; i < std::size_t(0.12 * rate) && at + i < out.size(); ++i) {
    const double t = double(i) / rate;
    out[at + i] += float(gain * (std::exp(-t / 0.03) * std::sin(2 * M_PI * hz * t) +
                                 noise * std::exp(-t / 0.012) * random.bipolar()));
  }
}

/// A closed hat: noise, differentiated twice (12 dB an octave towards the highs), dying away.
inline void addHat(Samples& out, double atS, double rate, double gain = 0.25) {
  Random random(std::uint64_t(atS * 1e6) + 3);
  const auto at = std::size_t(std::llround(atS * rate));
  std::array<double, 3> noise{};
  for (std::size_t i = 0; i < std::size_t(0.12 * rate) && at + i < out.size(); ++i) {
    noise = {random.bipolar(), noise[0], noise[1]};
    out[at + i] += float(gain * std::exp(-double(i) / rate / 0.025) *
                         (noise[0] - 2 * noise[1] + noise[2]) / 2);
  }
}

/// Kick, hat, snare, hat at a tempo from beat 0 on, cut to whole beats.
inline SoundPtr drumLoop(double bpm, int beats, double rate = 44100, double startS = 0) {
  const double beat = 60 / bpm;
  Samples out(std::size_t(std::llround((startS + beats * beat) * rate)), 0.0f);
  for (int b = 0; b < beats; ++b) {
    addHit(out, startS + b * beat, rate, b % 2 ? 200 : 60, b % 2 ? 1.0 : 0.15);
    addHat(out, startS + (b + 0.5) * beat, rate);
  }
  return makeSound(std::move(out), rate);
}

inline Source sourceOf(SoundPtr sound, const std::string& name = "source") {
  Source source;
  source.name = name;
  source.hash = sound->hash();
  source.sound = std::move(sound);
  return source;
}

inline Beats at(double beats) { return Beats(std::llround(beats * double(kTicksPerBeat))); }

/// Where swing puts a place, in plain arithmetic: the second of a pair starts at so many per cent.
inline double swungBeats(double beats, double percent, double pair) {
  const double inside = beats - std::floor(beats / pair) * pair, share = percent / 100;
  return beats - inside +
         (inside < pair / 2 ? inside * 2 * share
                            : pair * share + (inside - pair / 2) * 2 * (1 - share));
}

/// A project with one short click on a key and a pattern that strikes it on the given beats.
struct ClickProject {
  Project project;
  Id key = 0, pattern = 0;
};
inline ClickProject clickProject(const std::vector<double>& beats, double bpm = 120, int bars = 2) {
  ClickProject out;
  Samples click(200, 0.0f);
  click[0] = 0.5f;
  Id source = 0;
  out.project.tempo = Bpm(bpm);
  out.project = withSource(std::move(out.project), sourceOf(makeSound(click)), &source);
  out.project =
      withKeySound(std::move(out.project), Row::Body, 0, 0, {source, 0}, "click", &out.key);
  Pattern pattern;
  pattern.bars = bars;
  Lane& lane = laneOf(pattern, findKey(out.project, out.key)->part);
  for (double beat : beats) {
    Hit hit;
    hit.at = Beats(std::llround(beat * double(kTicksPerBeat)));
    hit.key = out.key;
    hit.velocity = 1;
    lane.hits.push_back(hit);
  }
  out.project = withPattern(std::move(out.project), pattern, &out.pattern);
  Section section;
  section.pattern = out.pattern;
  section.bars = bars;
  out.project = withSection(std::move(out.project), section, 0);
  return out;
}

/// Frames whose magnitude passes a level after at least so many quiet ones.
inline std::vector<std::int64_t> clicksIn(const Sound& sound, float level = 0.2f) {
  std::vector<std::int64_t> out;
  for (std::int64_t i = 0; i < sound.frames().value; ++i)
    if (std::abs(sound.channel(0)[std::size_t(i)]) > level && (out.empty() || i - out.back() > 150))
      out.push_back(i);
  return out;
}

/// Leave to write over anything, for one call.
struct Freely {
  Outputs outputs{Replace::Yes};
  operator Outputs&() { return outputs; }
};

inline std::filesystem::path pathIn(const QTemporaryDir& dir, const char* name) {
  return std::filesystem::path(dir.path().toStdString()) / name;
}

} // namespace tuvvo::test
