// When notes on sources and cuts must speak, and when they must not: a table of cases for each
// kind.
#include "cut/slicing.h"
#include "model/edits.h"
#include "notes/cases.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr double kRate = 48000;
const HitClass K = HitClass::Kick, S = HitClass::Snare, H = HitClass::Hat, T = HitClass::Other;

double gain(double db) { return std::pow(10, db / 20); }

/// A slice for each class, so many decibels under half of full scale, 400 ms apart, cut and on
/// keys.
Project slices(const std::vector<std::pair<HitClass, double>>& played, bool heard = true) {
  Samples out(std::size_t(0.4 * kRate) * played.size(), 0.0f);
  Source source;
  std::vector<Cut> cuts;
  Analysis analysis;
  for (std::size_t i = 0; i < played.size(); ++i) {
    const double at = 0.4 * double(i) + 0.002, level = 0.5 * gain(-played[i].second);
    if (played[i].first == K)
      addHit(out, at, kRate, 60, 0.1, level);
    else if (played[i].first == S)
      addHit(out, at, kRate, 200, 1, level);
    else if (played[i].first == H)
      addHat(out, at, kRate, level);
    else
      for (std::size_t n = 0; n < std::size_t(0.39 * kRate); ++n)
        out[std::size_t(at * kRate) + n] = float(level * std::sin(0.1 * double(n)));
    Onset onset;
    onset.at = Seconds(at);
    onset.cut = Seconds(at - 0.001);
    if (played[i].first != T) onset.hits = {played[i].first};
    analysis.onsets.push_back(onset);
    Cut cut;
    cut.start = Frames(std::int64_t(0.4 * kRate * double(i)));
    cut.end = Frames(std::int64_t(0.4 * kRate * double(i + 1)));
    cuts.push_back(cut);
  }
  source = sourceOf(makeSound(out, kRate), "slices");
  analysis.duration = source.sound->duration();
  if (heard) source.heard = analysis;
  Id id = 0;
  const Project p = withSource({}, source, &id);
  return withCuts(p, id, {}, cuts);
}

/// So many beats at 100 BPM: a hit on each, then `tail` seconds in which the last one rings.
struct Bars {
  double beats = 16, tail = 0;
  double heardBpm = 100;
  double drift = 0; ///< seconds that beats come early or late
  bool beatsHeard = true, ringing = true, pickup = false, said = false, steady = true;
};
Project bars(const Bars& how) {
  const auto timeOf = [&](double beat) { return beat * 0.6 + how.drift * std::sin(beat * 0.7); };
  const double played = timeOf(how.beats), end = played + how.tail;
  Samples out(std::size_t(std::llround(end * kRate)), 0.0f);
  Analysis heard;
  heard.tempo.emplace().bpm = Bpm(how.heardBpm);
  heard.tempo->steady = how.steady && how.drift == 0;
  heard.downbeats = {Seconds(0)};
  for (int bar = 1; how.drift != 0 && bar * 4 <= how.beats; ++bar)
    heard.downbeats.emplace_back(timeOf(bar * 4));
  // The beat on which the next bar would begin is heard as a beat, as the listening has it.
  const int last = int(std::ceil(how.beats - 1e-9));
  for (int beat = 0; beat < last; ++beat) {
    addHit(out, timeOf(beat), kRate, beat % 2 ? 200 : 60, 0.5);
    Onset onset;
    onset.at = onset.cut = Seconds(timeOf(beat));
    heard.onsets.push_back(onset);
    if (how.beatsHeard) heard.beats.emplace_back(timeOf(beat));
  }
  if (how.drift != 0 && how.tail > 0) heard.beats.emplace_back(played);
  if (how.ringing) { // something held all along, dying away after the last beat
    for (std::size_t i = 0; i < out.size(); ++i) {
      const double t = double(i) / kRate, after = std::max(0.0, t - played);
      out[i] += float(0.2 * std::exp(-after / 0.15) * std::sin(2 * M_PI * 220 * t));
    }
  }
  if (how.pickup) { // played on into the next bar
    addHit(out, played + how.tail * 0.5, kRate, 200, 1);
    Onset onset;
    onset.at = onset.cut = Seconds(played + how.tail * 0.5);
    heard.onsets.push_back(onset);
  }
  Source source = sourceOf(makeSound(out, kRate), "bars");
  heard.duration = source.sound->duration();
  source.heard = heard;
  if (how.said) source.corrections.tempo = Bpm(how.heardBpm);
  return withSource({}, source);
}

/// Four sounds half a second apart, cut so many milliseconds after (or before) they begin.
enum class Attack { Snap, Pluck, Swell, Reversed };
Project attacks(Attack attack, double lateMs, int how_many = 4, bool heard = true) {
  Samples out(96000, 0.0f);
  Analysis analysis;
  std::vector<Cut> cuts;
  for (int i = 0; i < 4; ++i) {
    const double at = i * 0.5 + 0.1;
    if (attack == Attack::Snap) addHit(out, at, kRate, 200, 0.4);
    for (int n = 0; n < 14400 && attack != Attack::Snap; ++n) {
      const double t = n / kRate;
      const double shape = attack == Attack::Pluck   ? std::exp(-t / 0.1)
                           : attack == Attack::Swell ? std::min(1.0, t / 0.25)
                                                     : std::pow(10, 3 * (t / 0.3 - 1));
      out[std::size_t(at * kRate) + std::size_t(n)] +=
          float(0.5 * shape * std::cos(2 * M_PI * 300 * t));
    }
    Onset onset;
    onset.at = Seconds(at);
    onset.cut = Seconds(at - 0.001);
    analysis.onsets.push_back(onset);
    Cut cut;
    cut.start = toFrames(Seconds(at + (i < how_many ? lateMs / 1000 : -0.001)), Hertz(kRate));
    cut.end = toFrames(Seconds(at + 0.38), Hertz(kRate));
    cuts.push_back(cut);
  }
  Source source = sourceOf(makeSound(out, kRate), "attacks");
  analysis.duration = Seconds(2);
  if (heard) source.heard = analysis;
  Id id = 0;
  const Project p = withSource({}, source, &id);
  return withCuts(p, id, {}, cuts);
}

/// One slice with a sample of a height at its first and last frame.
Project edges(double first, double last, double inMs, double outMs) {
  Samples samples(4800, 0.0f);
  samples[1000] = float(first);
  samples[1999] = float(last);
  samples[1500] = 0.5f;
  Cut cut;
  cut.start = Frames(1000);
  cut.end = Frames(2000);
  cut.fadeIn = Milliseconds(inMs);
  cut.fadeOut = Milliseconds(outMs);
  Id id = 0;
  const Project p = withSource({}, sourceOf(makeSound(samples, kRate), "edges"), &id);
  return withCuts(p, id, {}, {cut});
}

/// Four bars at 100 BPM, brought to the beat in a way.
Project stretched(FitMethod method, Material material, double percent, bool heard = true,
                  bool key = true) {
  Source source = sourceOf(drumLoop(100, 16), "far");
  if (heard) {
    source.heard = Analysis{};
    source.heard->duration = source.sound->duration();
    source.heard->tempo.emplace().bpm = Bpm(100);
    if (key) source.heard->key = KeyHeard{{0, true}, 0.9, {}, Cents(0), ""};
    source.heard->downbeats = {Seconds(0)};
    for (int beat = 0; beat < 16; ++beat) source.heard->beats.emplace_back(beat * 0.6);
  }
  source.shape.method = method;
  source.shape.material = material;
  Project p = withSource({}, source);
  p.tempo = Bpm(100 / (1 + percent / 100));
  return p;
}
Project wobbling(double percent, double at = 3.0, FitMethod method = FitMethod::Stretch) {
  // Beats 4 to 5 take so much longer than the others, held at both ends.
  return withSourceChanged(stretched(method, Material::Hits, 0), 1, [&](Source& s) {
    s.shape.markers = {
        {Seconds(2.4), 4}, {Seconds(at), 5 + percent / 100}, {Seconds(9.0), 15 + percent / 100}};
  });
}

} // namespace

class TestNoteCases : public QObject {
  Q_OBJECT

private slots:
  void levels_data() {
    table([](auto row) {
      using Hits = std::vector<std::pair<HitClass, double>>;
      const auto of = [](Hits hits) { return [hits] { return slices(hits); }; };
      row("a hat far under the snare", false,
          of({{K, 0}, {H, 28}, {S, 0}, {H, 28}, {K, 0}, {H, 28}, {S, 0}, {H, 28}}));
      row("ghost notes under a backbeat", false, of({{S, 0}, {S, 16}, {S, 0}, {S, 14}, {S, 0}}));
      row("accents of a hat", false, of({{H, 0}, {H, 5}, {H, 1}, {H, 5}}));
      row("kicks played evenly", false, of({{K, 0}, {K, 2}, {K, 1}, {K, 3}}));
      row("a snare that jumps out", true, of({{S, 12}, {S, 12}, {S, 0}, {S, 12}, {S, 13}}));
      row("a kick that jumps out among hats", true,
          of({{K, 12}, {H, 20}, {K, 12}, {H, 20}, {K, 0}, {K, 12}}));
      row("a hat that jumps out", true, of({{H, 18}, {H, 18}, {H, 6}, {H, 18}}));
      row("two snares of one take", false, of({{S, 0}, {S, 12}, {K, 0}, {K, 0}}));
      row("chords played evenly", false, of({{T, 0}, {T, 3}, {T, 1}, {T, 5}}));
      row("chords with dynamics", false, of({{T, 0}, {T, 6}, {T, 2}, {T, 7}}));
      row("a chord that is lost", true, of({{T, 0}, {T, 1}, {T, 12}, {T, 0}}));
      row("a rest among chords", false, of({{T, 0}, {T, 1}, {T, 40}, {T, 0}}));
      row("a quiet tail", false, of({{T, 0}, {T, 1}, {T, 0}, {T, 24}}));
      row("nothing was heard in it", true, [] { return slices({{T, 0}, {T, 12}, {T, 0}}, false); });
      row("somebody has set them apart", false, [] {
        Project p = slices({{T, 0}, {T, 12}, {T, 0}});
        const Id key = p.keys[0].id;
        return withKeyChanged(std::move(p), key, [](Key& k) { k.level = Decibels(-3); });
      });
      row("two slices have no middle", false, of({{T, 0}, {T, 14}}));
    });
  }
  void levels() { judge<finding::LevelsApart>(); }

  /// What stands out over its like is brought down to them, with whatever stands half as far out;
  /// the others stay.
  void levelsAreBroughtDownAlone() {
    const Project p = slices({{S, 12}, {S, 12}, {S, 0}, {S, 4}, {S, 9}, {S, 12}, {S, 13}});
    LoudnessCache loudness;
    int found = 0;
    for (const auto& note : notesOf(p, loudness)) {
      if (!std::holds_alternative<finding::LevelsApart>(note.finding)) continue;
      ++found;
      const Project done = note.fix(p);
      const double moved[] = {0, 0, -12, -8, 0, 0, 0};
      QCOMPARE(done.keys.size(), std::size(moved));
      for (std::size_t i = 0; i < std::size(moved); ++i)
        QVERIFY2(std::abs(done.keys[i].level.value - moved[i]) < 0.5,
                 qPrintable(QString("%1: %2").arg(i).arg(done.keys[i].level.value)));
    }
    QCOMPARE(found, 1);
  }

  void endsOffBars_data() {
    table([](auto row) {
      const auto of = [](Bars how) { return [how] { return bars(how); }; };
      row("four whole bars", false, of({}));
      row("four bars and a tail", false, of({.tail = 0.3}));
      row("four bars and a long tail", false, of({.tail = 1.1}));
      row("eight bars and a tail", false, of({.beats = 32, .tail = 0.3}));
      row("a tail without anything held", false, of({.tail = 0.8, .ringing = false}));
      row("played on into the next bar", true, of({.tail = 0.6, .pickup = true}));
      row("half a bar more", true, of({.beats = 18}));
      row("stops short of its last beat", true, of({.beats = 15}));
      row("two beats short", true, of({.beats = 14}));
      row("one bar", false, of({.beats = 4}));
      row("a bar and a half", true, of({.beats = 6}));
      row("under a twentieth of a beat off", false, of({.beats = 16.04}));
      row("a moment that is no loop", false, of({.beats = 2}));
      row("a whole piece", false, of({.beats = 133.5}));
      row("played unevenly, with a tail", false, of({.beats = 32, .tail = 0.3, .drift = 0.03}));
      row("played unevenly, and on into the next bar", true,
          of({.beats = 32, .tail = 0.6, .drift = 0.03, .pickup = true}));
      row("a damaged hearing with all its beats in one place", false, [] {
        Project p = bars({.beats = 16, .drift = 0.03});
        return withSourceChanged(p, p.sources[0]->id, [](Source& s) {
          for (auto& beat : s.heard->beats) beat = Seconds(1);
          for (auto& downbeat : s.heard->downbeats) downbeat = Seconds(1);
        });
      });
      row("played unevenly, a beat and a half more", true, of({.beats = 17.5, .drift = 0.03}));
    });
  }
  void endsOffBars() { judge<finding::EndsOffBars>(); }

  void tempoOfWholeBars_data() {
    table([](auto row) {
      const auto of = [](Bars how) { return [how] { return bars(how); }; };
      row("heard a little fast", true, of({.heardBpm = 101.5, .beatsHeard = false}));
      row("heard a little slow", true, of({.heardBpm = 98.5, .beatsHeard = false}));
      row("the beats agree with the bars", true, of({.heardBpm = 102}));
      row("and where it is slower", true, of({.heardBpm = 98}));
      row("as it is", false, of({}));
      row("the beats agree with what was heard", false, of({.beats = 15.5}));
      row("short by half a beat, steady", false, of({.beats = 31.5}));
      row("the person said the tempo", false, of({.heardBpm = 101.5, .said = true}));
      row("too far to be a mistake", false, of({.heardBpm = 106, .beatsHeard = false}));
      row("not steady", false, of({.heardBpm = 101.5, .beatsHeard = false, .steady = false}));
      row("a tail is no bar", false, of({.tail = 0.5}));
      row("a moment", false, of({.beats = 2, .heardBpm = 101.5, .beatsHeard = false}));
    });
  }
  void tempoOfWholeBars() { judge<finding::TempoOfWholeBars>(); }

  void cutsInAttacks_data() {
    table([](auto row) {
      const auto of = [](Attack kind, double late, int count = 4, bool heard = true) {
        return [=] { return attacks(kind, late, count, heard); };
      };
      row("a hit cut 12 ms late", true, of(Attack::Snap, 12));
      row("a hit cut 3 ms late", true, of(Attack::Snap, 3));
      row("a hit cut 24 ms late", true, of(Attack::Snap, 24));
      row("one of four", true, of(Attack::Snap, 12, 1));
      row("a plucked string cut late", true, of(Attack::Pluck, 8));
      row("a hit cut just before", false, of(Attack::Snap, -1));
      row("a hit cut on it", false, of(Attack::Snap, 0));
      row("a hit cut a millisecond late", false, of(Attack::Snap, 1));
      row("cut after the hit is over", false, of(Attack::Snap, 40));
      row("a swell cut late loses nothing", false, of(Attack::Swell, 12));
      row("a swell cut later", false, of(Attack::Swell, 24));
      row("a reversed sound", false, of(Attack::Reversed, 12));
      row("nothing was heard in it", false, of(Attack::Snap, 12, 4, false));
    });
  }
  void cutsInAttacks() { judge<finding::CutsInAttacks>(); }

  void clicks_data() {
    table([](auto row) {
      const auto of = [](double first, double last, double in, double out) {
        return [=] { return edges(first, last, in, out); };
      };
      row("begins in the middle of a wave", true, of(0.3, 0, 0, 4));
      row("ends in the middle of a wave", true, of(0, -0.3, 1, 0));
      row("both", true, of(0.3, 0.3, 0, 0));
      row("softly but over 34 dB under full scale", true, of(0.03, 0, 0, 4));
      row("below it", false, of(0.015, -0.015, 0, 0));
      row("in silence", false, of(0, 0, 0, 0));
      row("faded in a quarter of a millisecond", false, of(0.3, 0, 0.25, 4));
      row("faded in", false, of(0.3, 0, 1, 4));
      row("faded out half a millisecond", false, of(0, 0.3, 1, 0.5));
      row("faded out", false, of(0, 0.3, 1, 4));
      row("too short a fade in", true, of(0.3, 0, 0.1, 4));
      row("too short a fade out", true, of(0, 0.3, 1, 0.2));
    });
  }
  void clicks() { judge<finding::EdgesClick>(); }

  void deadAir_data() {
    table([](auto row) {
      const auto of = [](Attack kind, double late, int count = 4) {
        return [=] { return attacks(kind, late, count); };
      };
      row("60 ms before a hit", true, of(Attack::Snap, -60));
      row("33 ms before a hit", true, of(Attack::Snap, -33));
      row("before a plucked string", true, of(Attack::Pluck, -50));
      row("one of four", true, of(Attack::Snap, -60, 1));
      row("90 ms", true, of(Attack::Snap, -90));
      row("28 ms is felt by nobody", false, of(Attack::Snap, -28));
      row("10 ms", false, of(Attack::Snap, -10));
      row("at the hit", false, of(Attack::Snap, 0));
      row("in the hit", false, of(Attack::Snap, 10));
      row("a swell begins out of nothing", false, of(Attack::Swell, -0.5));
      row("a reversed sound does", false, of(Attack::Reversed, 0));
      row("and before it a little", false, of(Attack::Reversed, -20));
      row("silence is no slice", false, [] { return edges(0, 0, 1, 4); });
    });
  }
  void deadAir() { judge<finding::DeadAir>(); }

  void stretches_data() {
    table([](auto row) {
      const auto of = [](FitMethod method, Material material, double percent, bool heard = true) {
        return [=] { return stretched(method, material, percent, heard); };
      };
      const auto Stretch = FitMethod::Stretch;
      row("tones by 13 per cent", true, of(Stretch, Material::Tones, 13));
      row("tones by −13", true, of(Stretch, Material::Tones, -13));
      row("tones by 30", true, of(Stretch, Material::Tones, 30));
      row("hits by 26", true, of(Stretch, Material::Hits, 26));
      row("hits by −27", true, of(Stretch, Material::Hits, -27));
      row("tones by 11", false, of(Stretch, Material::Tones, 11));
      row("tones by −11", false, of(Stretch, Material::Tones, -11));
      row("hits by 24", false, of(Stretch, Material::Hits, 24));
      row("hits by 15", false, of(Stretch, Material::Hits, 15));
      row("not at all", false, of(Stretch, Material::Tones, 0));
      row("repitched by 20", false, of(FitMethod::Repitch, Material::Tones, 20));
      row("re-spaced by 30", false, of(FitMethod::Respace, Material::Hits, 30));
      row("without a tempo there is no stretch", false, of(Stretch, Material::Tones, 30, false));
    });
  }
  void stretches() { judge<finding::HeardStretch>(); }

  void wobbles_data() {
    table([](auto row) {
      const auto of = [](double percent, double at = 3.0, FitMethod method = FitMethod::Stretch) {
        return [=] { return wobbling(percent, at, method); };
      };
      row("one beat 20 per cent longer", true, of(20));
      row("one beat 12 per cent longer", true, of(12));
      row("one beat 12 per cent shorter", true, of(-12));
      row("one beat 30 per cent shorter", true, of(-30));
      row("9 per cent", true, of(9));
      row("7 per cent", false, of(7));
      row("−7 per cent", false, of(-7));
      row("3 per cent", false, of(3));
      row("as it was", false, of(0));
      row("repitched it does not wobble so", false, of(20, 3.0, FitMethod::Repitch));
      row("re-spaced neither", false, of(20, 3.0, FitMethod::Respace));
      row("nothing is held", false,
          [] { return stretched(FitMethod::Stretch, Material::Hits, 5); });
    });
  }
  void wobbles() { judge<finding::HeardWobble>(); }
};

QTEST_APPLESS_MAIN(TestNoteCases)
#include "tst_note_cases.moc"
