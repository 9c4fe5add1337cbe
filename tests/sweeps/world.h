// A small project of made sounds whose beats, hits and chords are known and lie on a grid, and
// patterns drawn from few values, so that many of them coincide.
#pragma once

#include "beat/hits.h"
#include "cut/slicing.h"
#include "support.h"
#include "tones/theory.h"

namespace tuvvo::test {

inline constexpr Bpm kWorldTempo{90};

/// Two channels that differ, so that a swap or a loss of one is heard.
inline SoundPtr twoSided(Samples left, double rate) {
  Samples right(left.size());
  for (std::size_t i = 0; i < left.size(); ++i)
    right[i] = 0.5f * left[i] - (i >= 7 ? 0.2f * left[i - 7] : 0.0f);
  return std::make_shared<Sound>(Channels{std::move(left), std::move(right)}, Hertz(rate));
}

/// Kick, hat, snare, hat in eighths over two bars, each hit where it is said to be.
inline Source worldBreak() {
  constexpr double rate = 24000, beat = 60 / kWorldTempo.value;
  Source source = sourceOf(twoSided(
      [] {
        const SoundPtr mono = drumLoop(kWorldTempo.value, 8, rate);
        const auto samples = mono->channel(0);
        return Samples(samples.begin(), samples.end());
      }(),
      rate));
  source.name = "cargo break";
  Analysis heard;
  heard.kind = {SoundKind::Break, 0.9};
  heard.duration = source.sound->duration();
  heard.rate = Hertz(rate);
  heard.channels = 2;
  heard.tempo = TempoHeard{.bpm = kWorldTempo, .confidence = 0.9, .alternatives = {}, .curve = {}};
  heard.loop = LoopHeard{2, true};
  for (int i = 0; i <= 8; ++i) heard.beats.emplace_back(i * beat);
  heard.downbeats = {Seconds(0), Seconds(4 * beat), Seconds(8 * beat)};
  for (int i = 0; i < 16; ++i) {
    Onset onset;
    onset.at = onset.cut = Seconds(i * beat / 2);
    const int kind = i % 4 == 0 ? 0 : i % 4 == 2 ? 1 : 2;
    onset.hits = {HitClass(kind)};
    if (i == 6) onset.hits.push_back(HitClass::Hat);
    onset.sure = {0.9, i == 10 ? 0.8 : 0.85, 0.9, 0.5};
    onset.level = Decibels(-6 - kind * 6 - (i > 8 ? 3 : 0));
    onset.brightness = Hertz(200.0 * (1 + 10 * kind));
    onset.decay = Milliseconds(kind == 2 ? 50 : 120);
    onset.group = kind;
    heard.onsets.push_back(onset);
  }
  heard.sections = {{Seconds(0), Seconds(4 * beat), "A"},
                    {Seconds(4 * beat), Seconds(8 * beat), "A"}};
  heard.loudness.integratedLufs = -14;
  source.heard = heard;
  return source;
}

/// Four chords, a bar each.
inline Source worldChords() {
  constexpr double rate = 24000, beat = 60 / kWorldTempo.value;
  const char* names[] = {"Am", "F", "C", "G7"};
  Samples left(std::size_t(16 * beat * rate), 0.0f);
  for (int bar = 0; bar < 4; ++bar) {
    const auto chord = chordFromName(names[bar]);
    for (int note : voiced(*chord, 0, 52))
      for (std::size_t i = 0; i < std::size_t(4 * beat * rate); ++i) {
        const double t = double(i) / rate;
        left[std::size_t(bar * 4 * beat * rate) + i] +=
            float(0.15 * std::exp(-t) * std::sin(2 * M_PI * frequencyOf(note).value * t));
      }
  }
  Source source = sourceOf(twoSided(std::move(left), rate), "breakwater");
  Analysis heard;
  heard.kind = {SoundKind::Loop, 0.9};
  heard.duration = source.sound->duration();
  heard.rate = Hertz(rate);
  heard.channels = 2;
  heard.tempo = TempoHeard{.bpm = kWorldTempo, .confidence = 0.9, .alternatives = {}, .curve = {}};
  heard.loop = LoopHeard{4, true};
  heard.key = KeyHeard{.name = {9, true},
                       .confidence = 0.9,
                       .alternatives = {{0, false}},
                       .tuning = Cents(3),
                       .mode = {}};
  for (int i = 0; i <= 16; ++i) heard.beats.emplace_back(i * beat);
  for (int i = 0; i <= 4; ++i) heard.downbeats.emplace_back(4 * i * beat);
  for (int bar = 0; bar < 4; ++bar) {
    heard.chords.push_back(
        {Seconds(bar * 4 * beat), Seconds((bar + 1) * 4 * beat), names[bar], {}});
    Onset onset;
    onset.at = onset.cut = Seconds(bar * 4 * beat);
    onset.hits = {HitClass::Other};
    onset.level = Decibels(-9);
    onset.decay = Milliseconds(1500);
    heard.onsets.push_back(onset);
  }
  source.heard = heard;
  return source;
}

struct World {
  Project project;
  Id drums = 0, chords = 0;                  ///< sources
  Id kick = 0, snare = 0, hat = 0, bass = 0; ///< keys
  std::vector<Id> slices;                    ///< keys, of both sources
  std::vector<Id> patterns;
};

/// One of a few values.
template <class T> T oneOf(Random& random, std::initializer_list<T> values) {
  return *(values.begin() + std::ptrdiff_t(random.next() % values.size()));
}

inline Hit drawnHit(Random& random, Id key, int places) {
  Hit hit;
  hit.key = key;
  hit.at = Beats(std::int64_t(random.next() % std::uint64_t(places)) * kTicksPerBeat /
                 oneOf(random, {4, 4, 4, 3}));
  hit.velocity = oneOf(random, {0.25, 0.5, 0.5, 0.75, 1.0});
  hit.microTiming = Milliseconds(oneOf(random, {0.0, 0.0, 0.0, -20.0, 12.0}));
  hit.tune = Semitones(oneOf(random, {0.0, 0.0, 0.0, 3.0, -12.0}));
  hit.length = Beats(oneOf(random, {0, 0, 1, 2, 4}) * kTicksPerBeat / 2);
  hit.start = oneOf(random, {0.0, 0.0, 0.0, 0.25});
  hit.pan = oneOf(random, {0.0, 0.0, -1.0, 0.5});
  hit.reversed = random.next() % 12 == 0;
  if (random.next() % 8 == 0) hit.roll = {4, Beats(kTicksPerBeat / 8), 0.5, Semitones(2)};
  if (random.next() % 8 == 0) hit.flam = {Milliseconds(20), 0.5};
  if (random.next() % 8 == 0) hit.condition = {0.5, 2, int(1 + random.next() % 2)};
  return hit;
}

inline Pattern drawnPattern(const World& world, std::uint64_t seed) {
  Random random(seed * 77 + 5);
  Pattern pattern;
  pattern.name = "drawn " + std::to_string(seed);
  pattern.bars = oneOf(random, {1, 2, 2, 4});
  pattern.meter = oneOf(random, {Meter{4, 4}, Meter{4, 4}, Meter{3, 4}, Meter{7, 8}});
  const int places = int(lengthOf(pattern).value * 4 / kTicksPerBeat);
  std::vector<Id> keys{world.kick, world.snare, world.hat, world.bass};
  keys.insert(keys.end(), world.slices.begin(), world.slices.end());
  for (int i = 0; i < 8 + int(random.next() % 24); ++i) {
    const Id key = keys[random.next() % keys.size()];
    pattern = withHit(std::move(pattern), findKey(world.project, key)->part,
                      drawnHit(random, key, places));
  }
  for (auto& lane : pattern.lanes) {
    if (random.next() % 5 == 0) lane.length = Beats(3 * kTicksPerBeat);
    lane.feel.swing16 = oneOf(random, {50.0, 50.0, 58.0, 66.0});
    lane.feel.swing8 = oneOf(random, {50.0, 50.0, 62.0});
    lane.feel.microTiming = Milliseconds(oneOf(random, {0.0, 0.0, 9.0, -5.0}));
    lane.feel.lag = Beats(oneOf(random, {0, 0, 12}));
    lane.feel.accent = AccentShape(random.next() % 7);
    lane.feel.accentDepth = oneOf(random, {0.0, 0.3});
    lane.feel.humanise = Milliseconds(oneOf(random, {0.0, 0.0, 6.0}));
    lane.feel.humaniseLevel = oneOf(random, {0.0, 0.1});
    lane.feel.quantiseStrength = oneOf(random, {0.0, 0.0, 0.5, 1.0});
    if (!world.project.grooves.empty() && random.next() % 4 == 0)
      lane.feel.groove = world.project.grooves.front().id;
  }
  if (random.next() % 3 == 0)
    pattern.chords = {{Beats(0), "Am7", {}}, {Beats(2 * kTicksPerBeat), "F", {}}};
  return pattern;
}

inline World madeWorld(int patterns = 24) {
  World out;
  Project& p = out.project;
  p.tempo = kWorldTempo;
  p.key = KeyName{9, true};
  p = withSource(std::move(p), worldBreak(), &out.drums);
  p = withSource(std::move(p), worldChords(), &out.chords);
  for (Id id : {out.drums, out.chords}) {
    CutSettings settings;
    settings.mode = id == out.drums ? CutMode::Hits : CutMode::Beats;
    const Source& source = *findSource(p, id);
    auto cuts = cutSource(source, settings);
    p = withCuts(std::move(p), id, settings, std::move(cuts));
  }
  for (Id id : {out.drums, out.chords}) {
    const std::size_t most = out.slices.size() + 6;
    for (const auto& key : p.keys)
      if (out.slices.size() < most && key.sound.source == id) out.slices.push_back(key.id);
  }
  const auto shot = [&](const char* name, Row row, int column, double hz, double noise) {
    Samples samples(6000, 0.0f);
    addHit(samples, 0, 24000, hz, noise);
    Source source = sourceOf(twoSided(std::move(samples), 24000), name);
    source.kit = true;
    Id id = 0, key = 0;
    p = withSource(std::move(p), source, &id);
    p = withKeySound(std::move(p), row, column, 0, {id, 0}, name, &key);
    return key;
  };
  out.kick = shot("kick", Row::Floor, 0, 55, 0.1);
  out.snare = shot("snare", Row::Body, 0, 190, 1);
  out.hat = shot("hat", Row::Air, 0, 4000, 2);
  out.bass = shot("bass", Row::Floor, 4, 65.41, 0);
  Groove groove;
  groove.name = "lilt";
  groove.steps = {{Beats(0), 0, 1.2, {}}, {Beats(kTicksPerBeat / 2), 40, 0.8, {}}};
  p = withGroove(std::move(p), groove);
  for (int i = 0; i < patterns; ++i) {
    Id id = 0;
    const Pattern drawn = drawnPattern(out, std::uint64_t(i));
    p = withPattern(std::move(p), drawn, &id);
    out.patterns.push_back(id);
    Section section;
    section.name = drawn.name;
    section.pattern = id;
    section.bars = 1 + i % 4;
    if (i % 3 == 0) section.mutedParts = {findKey(p, out.kick)->part};
    p = withSection(std::move(p), section, std::size_t(i));
  }
  return out;
}

} // namespace tuvvo::test
