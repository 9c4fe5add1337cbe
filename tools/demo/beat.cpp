#include "beat/grooves.h"
#include "beat/hits.h"
#include "beat/read_break.h"
#include "beat/vary.h"
#include "deck.h"
#include "model/edits.h"
#include "scenes.h"
#include "tones/bass_line.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace tuvvo::demo {

namespace {

/// Builds one pattern: hits by key, then the feel of each part.
class Writer {
public:
  Writer(const Project& project, const char* name, int bars) : m_project(project) {
    m_pattern.name = name;
    m_pattern.bars = bars;
  }
  void hit(Id key, double beat, double velocity, double tune = 0, double length = 0,
           double microTimingMs = 0) {
    Hit hit;
    hit.at = Beats(std::llround(beat * double(kTicksPerBeat)));
    hit.key = key;
    hit.velocity = velocity;
    hit.tune = Semitones(tune);
    hit.length = Beats(std::llround(length * double(kTicksPerBeat)));
    hit.microTiming = Milliseconds(microTimingMs);
    m_pattern = withHit(std::move(m_pattern), findKey(m_project, key)->part, hit);
  }
  void feel(Id key, double swing, double microTimingMs) {
    Lane& lane = laneOf(m_pattern, findKey(m_project, key)->part);
    lane.feel.swing16 = swing;
    lane.feel.microTiming = Milliseconds(microTimingMs);
  }
  Pattern done() { return std::move(m_pattern); }

private:
  const Project& m_project;
  Pattern m_pattern;
};

/// Slices of the brass by number from 1, each one beat long at the beat's tempo.
void brass(Writer& w, const Deck& d, const std::vector<std::array<double, 3>>& line) {
  for (const auto& [beat, number, velocity] : line)
    w.hit(d.brass[std::size_t(number) - 1], beat, velocity);
}

void drums(Writer& w, const Deck& d, int bars, bool full) {
  Random hand(full ? 5 : 6);
  for (int bar = 0; bar < bars; ++bar) {
    const double b = bar * 4;
    w.hit(d.kick, b, 0.98);
    w.hit(d.kick, b + (bar % 2 ? 1.75 : 0.75), 0.66);
    w.hit(d.kick, b + 2.5, 0.9);
    if (bar % 4 == 3) w.hit(d.kick, b + 3.5, 0.62);
    w.hit(d.snare, b + 1, 0.93, 0, 0, 4);
    w.hit(d.snare, b + 3, 0.97, 0, 0, 6);
    w.hit(d.dusty, b + 1.75, 0.34, 0, 0, 5);
    if (bar % 2) w.hit(d.dusty, b + 3.75, 0.42, 0, 0, 2);
    for (int e = 0; e < 8; ++e) {
      const bool open = bar % 4 == 3 && e == 7;
      w.hit(open ? d.hatOpen : d.hat, b + e * 0.5, (e % 2 ? 0.60 : 0.82) + 0.05 * hand.bell() / 2);
      if (full && (e == 3 || e == 6))
        w.hit(d.hat, b + e * 0.5 + 0.25, 0.42 + 0.05 * hand.bell() / 2);
    }
    if (full) {
      for (int e = 0; e < 4; ++e) w.hit(d.tambourine, b + e + 0.5, 0.55 + 0.05 * hand.bell() / 2);
      w.hit(d.clap, b + 3, 0.8, 0, 0, 9);
      w.hit(d.knock, b, 0.8);
      w.hit(d.knock, b + 2.5, 0.7);
    }
  }
  w.feel(d.hat, 57, 9);
  if (full) w.feel(d.tambourine, 57, 12);
  w.feel(d.kick, 55, 0);
  w.feel(d.dusty, 58, 3);
}

/// B, G, E, A and F sharp under the chords, from a sound on C2.
void bassLine(Writer& w, const Deck& d, bool busy) {
  constexpr double B = -1, G = -5, E = -8, A = -3, F = -6, D = 2;
  w.hit(d.bass, 0, .9, B, 0.7);
  w.hit(d.bass, 0.75, .72, B, 0.5);
  w.hit(d.bass, 2.5, .86, B, 0.9);
  if (busy) w.hit(d.bass, 3.5, .7, D, 0.4);
  w.hit(d.bass, 4, .9, G, 1.1);
  w.hit(d.bass, 5.75, .74, G, 0.5);
  w.hit(d.bass, 6.5, .84, G, 0.9);
  if (busy) w.hit(d.bass, 7.5, .68, -3, 0.4);
  w.hit(d.bass, 8, .9, E, 0.7);
  w.hit(d.bass, 8.75, .7, E, 0.5);
  w.hit(d.bass, 10.5, .86, E, 1.2);
  w.hit(d.bass, 12, .9, A, 1.2);
  w.hit(d.bass, 13.75, .72, A, 0.25);
  w.hit(d.bass, 14, .88, F, 1.0);
  if (busy) w.hit(d.bass, 15.5, .74, F + 7, 0.4);
  w.feel(d.bass, 55, 6);
}

/// A bass that follows what sounds, instead of what its key has.
void follow(Project& p, Id pattern, const BassPlan& plan) {
  const auto laid = withBass(p, *findPattern(p, pattern), plan);
  if (!laid) {
    std::fprintf(stderr, "%s\n", laid.error().text().c_str());
    std::exit(1);
  }
  p = withPatternChanged(std::move(p), pattern, [&](Pattern& changed) { changed = *laid; });
}

/// Eight bars of the break from its own hits: hats of the deck with its feel, brass over it, a bass
/// that leads into the chords and slides, and a last bar of its own.
Id slipway(Deck& d) {
  Project& p = d.project;
  const Id source = findKey(p, d.breaks[0])->sound.source;
  const auto reading = readBreak(*findSource(p, source));
  const auto groove = grooveOf(*findSource(p, source));
  if (!reading || !groove) {
    std::fprintf(stderr, "the break cannot be read\n");
    std::exit(1);
  }
  Id pattern = 0, feel = 0;
  p = withBreakRebuilt(std::move(p), source, *reading, 0, &pattern);
  p = withGroove(std::move(p), *groove, &feel);
  // What is neither kick, snare nor hat stays out: there is to be room on the deck.
  std::vector<Id> others;
  for (const auto& key : p.keys)
    if (key.name.starts_with("other")) others.push_back(key.id);
  for (Id key : others) p = withoutKey(std::move(p), key);
  Writer w(p, "Slipway", 8);
  for (int bar = 0; bar < 8; ++bar)
    for (int e = 0; e < 8; ++e) w.hit(d.hat, bar * 4 + e * 0.5, e % 2 ? .5 : .68);
  for (int half : {0, 16})
    brass(w, d,
          {{half + 0., 1, .9},
           {half + 1.5, 3, .86},
           {half + 2.5, 2, .84},
           {half + 4., 5, .9},
           {half + 5., 7, .86},
           {half + 6.5, half ? 6. : 8., .88},
           {half + 8., 9, .9},
           {half + 9.5, 11, .86},
           {half + 11., half ? 10. : 12., .88},
           {half + 12., 13, .9},
           {half + 13., 14, .86},
           {half + 14.5, half ? 16. : 15., .92}});
  const Pattern over = w.done();
  const Id hats = findKey(p, d.hat)->part;
  p = withPatternChanged(std::move(p), pattern, [&](Pattern& changed) {
    changed.name = over.name;
    changed.bars = over.bars;
    for (const auto& lane : over.lanes) {
      Lane& to = laneOf(changed, lane.part);
      to.hits.insert(to.hits.end(), lane.hits.begin(), lane.hits.end());
      if (lane.part == hats) to.feel.groove = feel;
    }
  });
  BassPlan bass;
  bass.key = d.bass;
  bass.tones = BassPlan::Tones::Approach;
  bass.length = 1.02;
  follow(p, pattern, bass);
  Pattern last = *findPattern(p, pattern);
  for (LastBar way : {LastBar::OtherSlice, LastBar::Roll})
    last = withLastBarChanged(p, std::move(last), way, 4);
  p = withPatternChanged(std::move(p), pattern, [&](Pattern& changed) { changed = last; });
  return pattern;
}

} // namespace

Project makeBeat(std::vector<Source> kit, Source brassSource, Source breakSource, Source quay) {
  Deck d = dealDeck(kit, std::move(brassSource), std::move(breakSource), std::move(quay));
  Project& p = d.project;
  Id gangway = 0, boarding = 0, crossing = 0, fog = 0;

  Writer g(p, "Gangway", 4);
  brass(g, d,
        {{0, 1, .7},
         {1, 2, .7},
         {2.5, 3, .66},
         {4, 5, .7},
         {5, 6, .7},
         {6.5, 7, .64},
         {8, 9, .7},
         {9, 10, .7},
         {10, 11, .72},
         {12, 13, .7},
         {14, 15, .76},
         {15, 16, .8}});
  g.hit(d.quay, 0, .8, 0, 15.5);
  g.hit(d.horn, 12, .55, -1);
  for (int bar = 0; bar < 4; ++bar) {
    for (int e = 0; e < 8; ++e) g.hit(d.shaker, bar * 4 + e * 0.5, e % 2 ? .72 : .52);
    g.hit(d.rim, bar * 4 + 1, .7);
    g.hit(d.rim, bar * 4 + 3, .78);
    if (bar > 1) g.hit(d.low, bar * 4, .8);
  }
  g.feel(d.shaker, 58, 8);
  p = withPattern(std::move(p), g.done(), &gangway);

  Writer b(p, "Boarding", 4);
  drums(b, d, 4, false);
  brass(b, d,
        {{0, 1, .82},
         {1, 1, .78},
         {2, 3, .8},
         {3, 4, .8},
         {4.5, 5, .8},
         {5.5, 6, .78},
         {7, 4, .74},
         {8, 9, .82},
         {9, 9, .76},
         {10, 11, .82},
         {11, 12, .8},
         {12, 13, .82},
         {13.5, 7, .7},
         {14, 15, .84},
         {15, 15, .8},
         {15.5, 16, .8}});
  bassLine(b, d, false);
  for (int bar = 0; bar < 4; ++bar) b.hit(d.wood, bar * 4 + 2.75, .6);
  b.feel(d.wood, 57, 6);
  p = withPattern(std::move(p), b.done(), &boarding);

  Writer c(p, "Crossing", 4);
  drums(c, d, 4, true);
  brass(c, d,
        {{0, 1, .92},
         {1, 2, .9},
         {2, 3, .9},
         {3, 4, .92},
         {4, 5, .9},
         {5, 6, .9},
         {6, 5, .86},
         {6.5, 7, .86},
         {7, 8, .9},
         {8, 9, .9},
         {9, 10, .92},
         {10, 11, .92},
         {11, 12, .9},
         {12, 13, .9},
         {13, 14, .9},
         {14, 15, .94},
         {14.5, 15, .9},
         {15, 16, .96}});
  bassLine(c, d, true);
  for (int k = 0; k < 16; ++k)
    if (k % 4 != 1 && std::size_t(k) < d.breaks.size())
      c.hit(d.breaks[std::size_t(k)], k, .5, 0, 0, 3);
  c.hit(d.crash, 0, .8);
  p = withPattern(std::move(p), c.done(), &crossing);

  Writer f(p, "Fog", 4);
  f.hit(d.quay, 0, .95, 0, 15.8);
  f.hit(d.horn, 0, .8, -1);
  f.hit(d.gulls, 6, .8);
  f.hit(d.rope, 11, .8);
  brass(f, d,
        {{4, 5, .7},
         {5, 6, .66},
         {8, 9, .68},
         {10, 11, .7},
         {12, 13, .7},
         {14, 15, .78},
         {14.5, 15, .72},
         {15, 15, .8},
         {15.25, 15, .74},
         {15.5, 15, .84},
         {15.75, 15, .8}});
  for (int e = 0; e < 8; ++e) f.hit(d.ride, e * 2 + 1, .5);
  f.hit(d.conga, 7.5, .6);
  f.hit(d.conga, 7.75, .7);
  f.hit(d.conga, 15.5, .6);
  f.hit(d.conga, 15.75, .8);
  p = withPattern(std::move(p), f.done(), &fog);
  // Long low notes under the chords, which are written here.
  p = withPatternChanged(std::move(p), fog, [](Pattern& changed) {
    changed.chords = {{Beats(0), "Bm"},
                      {wholeBeats(4), "Gmaj7"},
                      {wholeBeats(8), "Em7"},
                      {wholeBeats(12), "A"},
                      {wholeBeats(14), "F#7"}};
  });
  BassPlan low;
  low.key = d.sub;
  low.rhythm = BassPlan::Rhythm::OnOnes;
  low.velocity = 0.8;
  follow(p, fog, low);
  const Id launched = slipway(d);
  // The bass steps back a little while the kick rings.
  const Id bassPart = findKey(p, d.bass)->part, kickPart = findKey(p, d.kick)->part;
  p = withPartChanged(std::move(p), bassPart, [&](Part& part) {
    part.duck = {kickPart, Decibels(4), Milliseconds(160)};
  });

  const auto section = [&](const char* name, Id pattern, int bars, std::vector<Id> mutedParts) {
    Section s;
    s.name = name;
    s.pattern = pattern;
    s.bars = bars;
    for (Id key : mutedParts) s.mutedParts.push_back(findKey(p, key)->part);
    p = withSection(std::move(p), s, p.sections.size());
  };
  section("Gangway", gangway, 4, {});
  section("Boarding", boarding, 8, {});
  section("Crossing", crossing, 8, {});
  section("Fog", fog, 4, {});
  section("Slipway", launched, 8, {});
  section("Crossing", crossing, 6, {});
  section("Away", gangway, 2, {d.low});
  return p;
}

} // namespace tuvvo::demo
