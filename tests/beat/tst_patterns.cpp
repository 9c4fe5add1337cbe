// Whole patterns: meters, lanes of their own length, condition, rolls, joining and splitting,
// grooves.
#include "base/random.h"
#include "beat/grooves.h"
#include "beat/pattern_edits.h"
#include "formats/project_json.h"
#include "listen/analyse.h"
#include "play/engine.h"
#include "play/print.h"
#include "song/timeline.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

Hit hitAt(Id key, double beats, double velocity = 0.8) {
  Hit hit;
  hit.at = at(beats);
  hit.key = key;
  hit.velocity = velocity;
  return hit;
}

std::vector<double> placesOf(const Pattern& pattern, Id part) {
  std::vector<double> out;
  if (const Lane* lane = findLane(pattern, part))
    for (const auto& hit : lane->hits) out.push_back(inBeats(hit.at));
  return out;
}
using List = std::vector<double>;

/// A click's project with its pattern changed.
struct Changed : ClickProject {
  Changed(const std::vector<double>& beats, double bpm, int bars,
          const std::function<void(Pattern&)>& change)
      : ClickProject(clickProject(beats, bpm, bars)) {
    project = withPatternChanged(project, pattern, change);
  }
  [[nodiscard]] Id part() const { return findKey(project, key)->part; }
  [[nodiscard]] const Pattern& now() const { return *project.patterns[0]; }
  [[nodiscard]] Score looped() const { return compilePattern(project, pattern); }
};

std::vector<std::int64_t> framesOf(const Score& score) {
  std::vector<std::int64_t> out;
  for (const auto& event : score.events) out.push_back(event.frame.value);
  return out;
}

/// The same pattern in another meter, as a section after the first.
Project followedBy(const ClickProject& first, Meter meter, int bars) {
  Pattern pattern = *first.project.patterns[0];
  pattern.meter = meter;
  Section section;
  Project out = withPattern(first.project, pattern, &section.pattern);
  section.bars = bars;
  return withSection(std::move(out), section, 9);
}

} // namespace

class TestPatterns : public QObject {
  Q_OBJECT

private slots:
  void metersByArithmetic() {
    QCOMPARE(quartersOf({6, 8}), 3.0);
    QCOMPARE(quartersOf({7, 8}), 3.5);
    QCOMPARE(quartersOf({5, 4}), 5.0);
    QCOMPARE(quartersOf({11, 16}), 2.75);
    QCOMPARE(pulseOf({12, 8}), at(1.5)); // compound time is felt in threes
    QCOMPARE(pulseOf({3, 8}), at(0.5));
    QCOMPARE(nameOf(Meter{7, 8}), std::string("7/8"));
    for (const char* good : {"4/4", "7/8", "32/32", "1/1"})
      QCOMPARE(nameOf(*meterFromName(good)), std::string(good));
    for (const char* bad : {"", "4", "/4", "4/", "0/4", "33/4", "4/3", "4/64", "4/4x", "-3/4",
                            "4 /4", "99999999999/4", "4/0"})
      QVERIFY2(!meterFromName(bad), bad);
  }

  void barsOfAnyMeterLieInTheSong() {
    const Project p = followedBy(clickProject({0}, 120, 1), {7, 8}, 3);
    const Timeline t = timelineOf(p);
    QCOMPARE(t.length, at(4 + 10.5));
    QCOMPARE(barAt(t, 2), at(7.5));
    QCOMPARE(barAt(t, 99), t.length);
    const BarPlace place = barPlaceOf(t, at(7.5 + 1.5));
    QCOMPARE(place.bar, 2);
    QCOMPARE(place.beat, 3);
    QCOMPARE(barPlaceOf(Meter{4, 4}, at(-1)).bar, -1);
    QCOMPARE(barPlaceOf(Meter{4, 4}, at(-1)).beat, 3);
    // A click on every bar line, at 120 BPM.
    QCOMPARE(framesOf(compileSong(p)),
             (std::vector<std::int64_t>{0, 96'000, 96'000 + 84'000, 96'000 + 168'000}));
  }

  // The metronome counts the meter's unit, high on every bar line, whatever meters the song has.
  void theMetronomeFollowsTheMeters() {
    const Project p = followedBy(clickProject({}, 120, 1), {3, 8}, 2);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(p)));
    Engine::Command metronome{Engine::Command::Kind::Metronome};
    metronome.on = true;
    engine.send(metronome);
    engine.send(Engine::Command{Engine::Command::Kind::Play});
    Samples left(96'000 + 72'000), right(left.size());
    for (std::size_t i = 0; i < left.size(); i += 512)
      engine.process(left.data() + i, right.data() + i,
                     int(std::min<std::size_t>(512, left.size() - i)));
    std::vector<std::int64_t> clicks;
    for (const std::int64_t frame : clicksIn(*makeSound(left), 0.02f)) // each swings several times
      if (clicks.empty() || frame - clicks.back() > 6000)
        clicks.push_back((frame + 20) / 1000 * 1000);
    // Quarters of 4/4, then eighths of 3/8.
    QCOMPARE(clicks, (std::vector<std::int64_t>{0, 24'000, 48'000, 72'000, 96'000, 108'000, 120'000,
                                                132'000, 144'000, 156'000}));
  }

  // A figure that returns every beat and a half over a bar of four: they meet after three bars.
  void lanesOfTheirOwnLengthMeetAgain() {
    const Changed c({0}, 120, 1, [](Pattern& p) { p.lanes[0].length = at(1.5); });
    QCOMPARE(*meetingOf(c.now()), wholeBeats(12));
    const Score score = c.looped();
    QCOMPARE(score.length.value, 12 * 24'000);
    std::vector<std::int64_t> wanted;
    for (int i = 0; i < 8; ++i) wanted.push_back(i * 36'000);
    QCOMPARE(framesOf(score), wanted);
    // In the song it runs on from the section's beginning, through every pass of the pattern.
    Project song =
        withSectionChanged(c.project, c.project.sections[0].id, [](Section& s) { s.bars = 2; });
    wanted.resize(6);
    QCOMPARE(framesOf(compileSong(song)), wanted);
  }

  void lanesThatHardlyMeetAreBounded() {
    const Changed c({0}, 120, 1,
                    [](Pattern& p) { p.lanes[0].length = Beats(kTicksPerBeat * 3 / 2 + 1); });
    QVERIFY(!meetingOf(c.now()));
    const Score score = c.looped();
    QCOMPARE(score.length.value % 96'000, 0); // whole rounds of the pattern
    QVERIFY(score.events.size() < 2000);
  }

  void rollsAndFlams() {
    const Changed c({1}, 120, 1, [](Pattern& p) {
      Hit& hit = p.lanes[0].hits[0];
      hit.velocity = 0.8;
      hit.roll = {4, Beats(kTicksPerBeat / 8), 0.5, Semitones(3)};
      hit.flam = {Milliseconds(20), 0.25};
    });
    const Score score = c.looped();
    QCOMPARE(framesOf(score),
             (std::vector<std::int64_t>{24'000 - 960, 24'000, 27'000, 30'000, 33'000}));
    const auto gain = [](double velocity) { return float(velocity * velocity); };
    QCOMPARE(score.events[0].gain, gain(0.2));
    QCOMPARE(score.events[1].gain, gain(0.8));
    QVERIFY(std::abs(score.events[4].gain - gain(0.4)) < 1e-6f);
    QVERIFY(std::abs(score.events[3].tune - std::exp2(2.0 / 12)) < 1e-9);
  }

  // A roll at the pattern's end stays inside: what would come after it is left out.
  void aRollEndsWithThePattern() {
    const Changed c({3.75}, 120, 1, [](Pattern& p) {
      p.lanes[0].hits[0].roll = {8, Beats(kTicksPerBeat / 8), 1, Semitones(0)};
    });
    QCOMPARE(framesOf(c.looped()), (std::vector<std::int64_t>{90'000, 93'000}));
  }

  void everyNthTimeRound() {
    const Changed c({0}, 120, 1, [](Pattern& p) { p.lanes[0].hits[0].condition = {1, 4, 2}; });
    const Score score = c.looped();
    std::vector<int> struck;
    for (int pass = 0; pass < 9; ++pass)
      if (isStruck(score.events[0], pass)) struck.push_back(pass);
    QCOMPARE(struck, (std::vector<int>{1, 5}));
    // The song's sections count the same rounds.
    Project song =
        withSectionChanged(c.project, c.project.sections[0].id, [](Section& s) { s.bars = 8; });
    JobContext job;
    const auto printed = print(compileSong(song), {}, job);
    QCOMPARE(clicksIn(**printed), (std::vector<std::int64_t>{96'000, 5 * 96'000}));
  }

  // Chance: as often as it says, the same every time, live as in print.
  void chanceIsThrownOnce() {
    const Changed c({0, 1, 2, 3}, 120, 1, [](Pattern& p) {
      for (auto& hit : p.lanes[0].hits) hit.condition.chance = 0.3;
    });
    const Score score = c.looped();
    int struck = 0;
    for (int pass = 0; pass < 2500; ++pass)
      for (const auto& event : score.events) struck += isStruck(event, pass) ? 1 : 0;
    // 10 000 throws of .3: a standard deviation is .0046.
    QVERIFY2(std::abs(struck / 10'000.0 - 0.3) < 0.02, qPrintable(QString::number(struck)));
    Project song =
        withSectionChanged(c.project, c.project.sections[0].id, [](Section& s) { s.bars = 64; });
    JobContext job;
    const auto printed = print(compileSong(song), {}, job);
    std::vector<std::int64_t> live;
    for (int pass = 0; pass < 64; ++pass)
      for (const auto& event : score.events)
        if (isStruck(event, pass)) live.push_back((event.frame + score.length * pass).value);
    QCOMPARE(clicksIn(**printed), live);
  }

  // Printed and live: every event on the frame that arithmetic says, whatever the feel and the
  // tempo are, in the twentieth round as in the first.
  void printedEventsLieWhereTheyAreReckoned() {
    Random random(21);
    for (int i = 0; i < 200; ++i) {
      const double bpm = 40 + 200 * random.unit();
      const Changed c({}, bpm, 2, [&](Pattern& p) {
        p.meter = {int(3 + random.next() % 5), random.unit() < 0.5 ? 4 : 8};
      });
      Feel feel;
      feel.swing8 = 50 + 30 * random.unit();
      feel.swing16 = 50 + 30 * random.unit();
      feel.microTiming = Milliseconds(15 * random.bipolar());
      feel.lag = Beats(std::int64_t(600 * random.bipolar()));
      const Project p = withPatternChanged(c.project, c.pattern, [&](Pattern& pattern) {
        Lane& lane = laneOf(pattern, c.part());
        lane.feel = feel;
        for (int k = 0; k < 12; ++k) {
          Hit hit = hitAt(c.key, 0);
          hit.at = Beats(std::int64_t(random.next() % std::uint64_t(lengthOf(pattern).value)));
          hit.microTiming = Milliseconds(20 * random.bipolar());
          lane.hits.push_back(hit);
        }
      });
      const Pattern& pattern = *p.patterns[0];
      const double length = inBeats(lengthOf(pattern)), beat = 60 / bpm * 48'000;
      const auto reckoned = [&](const Hit& hit) {
        return (swungBeats(swungBeats(inBeats(hit.at), feel.swing16, 0.5), feel.swing8, 1) +
                inBeats(feel.lag)) *
                   beat +
               (hit.microTiming.value + feel.microTiming.value) * 48;
      };
      // Live: round and round. Print: twenty rounds of it.
      const Project song = withSectionChanged(p, p.sections[0].id, [](Section& s) { s.bars = 40; });
      const Score live = compilePattern(p, c.pattern), printed = compileSong(song);
      QCOMPARE(live.events.size(), std::size_t(12));
      std::size_t found = 0;
      for (const auto& hit : findLane(pattern, c.part())->hits)
        for (int round = 0; round < 20; ++round) {
          const double frame = reckoned(hit) + round * length * beat;
          if (frame < 0.5 || frame > double(printed.length.value) - 1) continue;
          ++found;
          QVERIFY(std::any_of(printed.events.begin(), printed.events.end(), [&](const auto& event) {
            return std::abs(double(event.frame.value) - frame) <= 0.5 + 1e-3;
          }));
          if (round > 0) continue;
          QVERIFY(std::any_of(live.events.begin(), live.events.end(), [&](const auto& event) {
            return std::abs(std::remainder(double(event.frame.value) - frame, length * beat)) <=
                   1.01;
          }));
        }
      QVERIFY(found > 200);
    }
  }

  void aReversedHitHasAPatchOfItsOwn() {
    const Changed c({0, 1}, 120, 1, [](Pattern& p) { p.lanes[0].hits[1].reversed = true; });
    QCOMPARE(bakesOf(c.project).size(), std::size_t(1));
    JobContext job;
    BakeCache bakeCache(1, {});
    Project song = c.project;
    const auto score = bakedSong(song, {}, bakeCache, job);
    QVERIFY(score.ok());
    QCOMPARE(score->patches.size(), std::size_t(2));
    QCOMPARE(score->patches[0].key, score->patches[1].key);
    // The click is at the sound's beginning, so backwards it comes at its end: 200 frames.
    const auto printed = print(*score, {}, job);
    const auto clicks = clicksIn(**printed);
    QCOMPARE(clicks.size(), std::size_t(2));
    QCOMPARE(clicks[0], 0);
    QVERIFY2(std::abs(clicks[1] - (24'000 + 199)) <= 1, qPrintable(QString::number(clicks[1])));
  }

  void aHitsPanIsOnTopOfItsKeys() {
    const Changed c({0}, 120, 1, [](Pattern& p) { p.lanes[0].hits[0].pan = -1; });
    JobContext job;
    const auto printed = print(compileSong(c.project), {}, job);
    const auto peak = [&](int channel) {
      float most = 0;
      for (float v : (*printed)->channel(channel)) most = std::max(most, std::abs(v));
      return most;
    };
    QVERIFY(peak(0) > 0.3f);
    QVERIFY(peak(1) < 1e-6f);
  }

  // ---- choosing and changing ----

  void classesOfPlaces() {
    const Meter four{4, 4};
    QCOMPARE(classOf(at(0), four), BeatClass::Downbeats);
    QCOMPARE(classOf(at(4), four), BeatClass::Downbeats);
    QCOMPARE(classOf(at(1), four), BeatClass::Backbeats);
    QCOMPARE(classOf(at(2), four), BeatClass::OnBeats);
    QCOMPARE(classOf(at(7), four), BeatClass::Backbeats);
    QCOMPARE(classOf(at(2.5), four), BeatClass::OffBeats);
    QCOMPARE(classOf(at(2.25), four), BeatClass::Between);
    QCOMPARE(classOf(at(1.5), Meter{6, 8}), BeatClass::Backbeats);
    const Changed c({0, 0.5, 1, 1.25, 2, 2.5, 3}, 120, 1, [](Pattern&) {});
    QCOMPARE(hitsOf(c.now(), c.part(), BeatClass::OffBeats).size(), std::size_t(2));
    QCOMPARE(hitsOf(c.now(), c.part(), BeatClass::OnBeats).size(), std::size_t(4));
    QCOMPARE(hitsOf(c.now(), 99, BeatClass::OnBeats).size(), std::size_t(0));
  }

  void chosenHitsAreStretchedRampedAndPasted() {
    const Changed c({0, 0.5, 1, 3}, 120, 2, [](Pattern&) {});
    const Id part = c.part();
    HitClip some;
    for (double beat : {0.5, 1.0}) some.push_back({part, hitAt(c.key, beat, 1)});
    QCOMPARE(placesOf(withReplaced(c.now(), some, stretched(c.now(), some, 2)), part),
             (List{0, 0.5, 1.5, 3}));
    QCOMPARE(placesOf(withReplaced(c.now(), some, stretched(c.now(), some, 0.5)), part),
             (List{0, 0.5, 0.75, 3}));
    // What falls past the end is left out.
    QCOMPARE(stretched(c.now(), {{part, hitAt(c.key, 0)}, {part, hitAt(c.key, 3)}}, 16).size(),
             std::size_t(1));
    QCOMPARE(placesOf(withPasted(c.now(), some, at(4), 2, Beats(0)), part),
             (List{0, 0.5, 1, 3, 4, 4.5, 5, 5.5}));
    // However often is asked for, it is done no more than 256 times.
    const auto rounds = [&](int times) {
      Pattern wide = c.now();
      wide.bars = kMostBars;
      const auto before = findLane(wide, part)->hits.size();
      const HitClip one(some.begin(), some.begin() + 1);
      return findLane(withPasted(wide, one, at(0.3), times, at(0.37)), part)->hits.size() - before;
    };
    QCOMPARE(rounds(255), std::size_t(255));
    QCOMPARE(rounds(1000), std::size_t(256));
    QCOMPARE(rounds(-3), std::size_t(1));
    QCOMPARE(placesOf(withPasted(c.now(), some, at(7.5), 1, Beats(0)), part),
             (List{0, 0.5, 1, 3, 7.5}));
    QCOMPARE(placesOf(without(c.now(), some), part), (List{0, 3}));
  }

  void manyHitsAreFoundAgain() {
    Random random(3);
    std::vector<Hit> hits;
    for (int i = 0; i < 5000; ++i) {
      Hit hit = hitAt(Id(1 + random.next() % 3), double(random.next() % 400) / 4, random.unit());
      hit.pan = random.bipolar();
      hits.push_back(hit);
    }
    const HitSet half(std::vector<Hit>(hits.begin(), hits.begin() + 2500));
    for (int i = 0; i < 5000; ++i) QCOMPARE(half.contains(hits[std::size_t(i)]), i < 2500);
  }

  // ---- whole patterns ----

  void joinedAndSplitSoundAsBefore() {
    Changed c({0, 1.5}, 120, 1, [](Pattern& p) { p.lanes[0].feel.swing8 = 60; });
    Pattern other = c.now();
    other.lanes[0].feel = {};
    other.lanes[0].feel.microTiming = Milliseconds(10);
    other.lanes[0].hits[1].velocity = 0.5;
    Id second = 0;
    c.project = withPattern(c.project, other, &second);
    const Pattern both = joined(c.project, c.now(), other);
    QCOMPARE(both.bars, 2);
    Id joint = 0;
    const Project p = withPattern(c.project, both, &joint);
    auto frames = framesOf(compilePattern(p, c.pattern));
    const auto after = compilePattern(p, second);
    for (const auto& event : after.events) frames.push_back(event.frame.value + 96'000);
    QCOMPARE(framesOf(compilePattern(p, joint)), frames);
    const auto velocities = [](const Score& score) {
      std::vector<float> out;
      for (const auto& event : score.events) out.push_back(event.gain);
      return out;
    };
    auto loud = velocities(compilePattern(p, c.pattern));
    for (float v : velocities(after)) loud.push_back(v);
    QCOMPARE(velocities(compilePattern(p, joint)), loud);
    QVERIFY(loud[3] < loud[2]);
    // Taken apart again.
    const Pattern first = barsOf(both, 0, 1), last = barsOf(both, 1, 1);
    QCOMPARE(first.lanes[0].hits, c.now().lanes[0].hits);
    QCOMPARE(placesOf(last, c.part()), (List{0, 1.5}));
    QCOMPARE(last.lanes[0].hits[1].velocity, 0.5);
    QCOMPARE(last.lanes[0].hits[0].velocity, c.now().lanes[0].hits[0].velocity);
    QCOMPARE(barsOf(both, 7, 9).bars, 1);
  }

  void writtenOutAndOtherMeters() {
    const Changed c({0, 1}, 120, 2, [](Pattern& p) { p.lanes[0].length = at(3); });
    const Pattern out = writtenOut(c.now());
    QCOMPARE(placesOf(out, c.part()), (List{0, 1, 3, 4, 6, 7}));
    const Pattern three = withMeter(out, {3, 4});
    QCOMPARE(three.bars, 3);
    QCOMPARE(placesOf(three, c.part()), placesOf(out, c.part()));
    QCOMPARE(withMeter(three, {4, 4}).bars, 3); // nothing was lost on the way there
    QCOMPARE(withBars(c.now(), 4).lanes[0].hits.size(), std::size_t(2)); // it comes round by itself
  }

  void alternativesStandSideBySide() {
    const Changed c({0}, 120, 1, [](Pattern&) {});
    Id second = 0, third = 0;
    Project p = withAlternative(c.project, c.pattern, &second);
    p = withAlternative(p, second, &third);
    QCOMPARE(familyOf(p, c.pattern).size(), std::size_t(3));
    QCOMPARE(familyOf(p, third).size(), std::size_t(3));
    QCOMPARE(p.sections[0].pattern, c.pattern);
    QCOMPARE(withFamilyPlaying(p, third).sections[0].pattern, third);
    Id alone = 0;
    p = withPattern(p, Pattern{}, &alone);
    QCOMPARE(familyOf(p, alone).size(), std::size_t(1));
  }

  // ---- feels that were played ----

  // A loop whose offsets are known: what is taken is what was played, and laid back it is again.
  void aFeelTakenIsTheOnePlayed() {
    const std::array<double, 8> late{0, 14, -9, 22, 5, 18, -6, 25}; // ms, eighths of a bar
    const double bpm = 96, beatS = 60 / bpm;
    Samples sound(std::size_t(48'000 * beatS * 16), 0.0f);
    Source source;
    source.name = "known";
    Analysis heard;
    TempoHeard tempo;
    tempo.bpm = Bpm(bpm);
    heard.tempo = tempo;
    for (int i = 0; i < 16; ++i) heard.beats.push_back(Seconds(i * beatS));
    for (int i = 0; i < 16; i += 4) heard.downbeats.push_back(Seconds(i * beatS));
    for (int i = 0; i < 32; ++i) {
      Onset onset;
      onset.at = Seconds(i * beatS / 2 + late[std::size_t(i % 8)] / 1000);
      onset.hits = {i % 4 == 2 ? HitClass::Snare : HitClass::Hat};
      onset.level = Decibels(i % 2 ? -12 : -6);
      heard.onsets.push_back(onset);
    }
    source.sound = makeSound(sound);
    source.heard = heard;
    const auto groove = grooveOf(source);
    QVERIFY2(groove.ok(), groove.ok() ? "" : groove.error().text().c_str());
    QCOMPARE(groove->length, wholeBeats(16));
    Project p;
    p.tempo = Bpm(bpm);
    Lane lane;
    p = withGroove(p, *groove, &lane.feel.groove);
    const ResolvedTiming timed(p, Meter{}, lane);
    for (int i = 0; i < 8; ++i) {
      const double ms =
          timed.msOf(timed.placeOf(at(i / 2.0)) - i / 2.0 * double(kTicksPerBeat)).value;
      QVERIFY2(std::abs(ms - late[std::size_t(i)]) < 0.01, qPrintable(QString::number(ms)));
    }
    // Half of it is half as late; another tempo carries it along.
    lane.feel.grooveTiming = 0.5;
    QVERIFY(std::abs(ResolvedTiming(p, Meter{}, lane)
                         .msOf(ResolvedTiming(p, Meter{}, lane).placeOf(at(0.5)) -
                               0.5 * double(kTicksPerBeat))
                         .value -
                     7) < 0.01);
    // Soft hats are soft among hats: 6 dB are a factor of .71 in velocity.
    const double ratio = levelAt(*groove, at(0.5)) / levelAt(*groove, at(0));
    QVERIFY2(std::abs(ratio - std::pow(10.0, -6 / 40.0)) < 0.01,
             qPrintable(QString::number(ratio)));
  }

  void aFeelNeedsATempoAndHits() {
    Source source;
    source.name = "still";
    source.sound = makeSound(Samples(48'000, 0.0f));
    source.heard = Analysis{};
    QVERIFY(!grooveOf(source).ok());
    QVERIFY(!grooveOf(source).error().remedy.empty());
    source.corrections.tempo = Bpm(90);
    QVERIFY(!grooveOf(source).ok());
  }

  void feelsThatShipAreInRange() {
    std::set<std::string> names;
    for (const auto& groove : shippedGrooves()) {
      Groove held = groove;
      clamp(held);
      QCOMPARE(held, groove);
      QVERIFY(names.insert(groove.name).second);
      QCOMPARE(groove.steps.front().late, 0.0); // the one stands
    }
    QVERIFY(names.size() >= 6);
  }

  // ---- the file ----

  void everythingOfAPatternIsKept() {
    Changed c({0, 1}, 120, 12, [](Pattern& p) {
      p.meter = {7, 8};
      p.lanes[0].length = at(2.5);
      Hit& hit = p.lanes[0].hits[1];
      hit.pan = -0.5;
      hit.reversed = true;
      hit.roll = {5, Beats(kTicksPerBeat / 6), 0.4, Semitones(-2)};
      hit.flam = {Milliseconds(18), 0.3};
      hit.condition = {0.75, 3, 2};
      Feel& feel = p.lanes[0].feel;
      feel.swing8 = 58;
      feel.swing16 = 61;
      feel.microTiming = Milliseconds(-4);
      feel.lag = Beats(210);
      feel.accent = AccentShape::OffBeats;
      feel.accentDepth = 0.25;
      feel.humanise = Milliseconds(3);
      feel.humaniseLevel = 0.1;
      feel.seed = 77;
      feel.quantiseStrength = 0.5;
      feel.grooveTiming = 0.8;
      feel.grooveLevel = 0.2;
    });
    Id groove = 0, other = 0;
    c.project = withGroove(c.project, shippedGrooves()[1], &groove);
    c.project = withPatternChanged(c.project, c.pattern,
                                   [&](Pattern& p) { p.lanes[0].feel.groove = groove; });
    c.project = withAlternative(c.project, c.pattern, &other);
    c.project.meter = {5, 4};
    const auto read = projectFromText(projectToText(c.project, 1), "x");
    QVERIFY(read.ok());
    QVERIFY(read->warnings.empty());
    QCOMPARE(read->project.meter, (Meter{5, 4}));
    QVERIFY(read->project.grooves == c.project.grooves);
    for (std::size_t i = 0; i < 2; ++i)
      QVERIFY(*read->project.patterns[i] == *c.project.patterns[i]);
  }

  // As files were written before patterns had meters and feels.
  void olderFilesAreRead() {
    const auto read = projectFromText(
        R"({"format":"tuvvo project","bpm":90,"beatsPerBar":3,"nextId":50,
      "parts":[{"id":4,"name":"a"}],"keys":[{"id":5,"part":4}],
      "patterns":[{"id":1,"bars":2,"lanes":[{"part":4,"swing":61,"swingPairs":1,"leanMs":-7,
      "pins":[{"at":0,"key":5,"velocity":0.5}]}]}]})",
        "x");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const Pattern& p = *read->project.patterns[0];
    QCOMPARE(p.meter, (Meter{3, 4}));
    QCOMPARE(p.lanes[0].feel.swing8, 61.0);
    QCOMPARE(p.lanes[0].feel.swing16, 50.0);
    QCOMPARE(p.lanes[0].feel.microTiming.value, -7.0);
    QCOMPARE(p.lanes[0].hits.size(), std::size_t(1));
  }

  void wildPatternsAreHeldInRange() {
    const auto read = projectFromText(
        R"({"format":"tuvvo project","nextId":50,"parts":[{"id":4,"name":"a"}],
      "keys":[{"id":5,"part":4}],"grooves":[{"id":9,"length":-1,"steps":[{"at":5,"late":1e30}]}],
      "patterns":[{"id":1,"bars":2,"meter":"4/4","lanes":[{"part":4,"length":1,
      "feel":{"swing8":900,"groove":77,"pull":-3},
      "pins":[{"at":0,"key":5,"roll":{"hits":100000,"step":0},"flam":{"beforeMs":1e9},"every":0,
      "turn":99,"chance":7,"pan":-9}]}]}]})",
        "x");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QVERIFY(!read->warnings.empty()); // its feel was not there
    const Lane& lane = read->project.patterns[0]->lanes[0];
    QCOMPARE(lane.feel.groove, Id(77)); // kept for the day when it is there, and not heard
    QVERIFY(!findGroove(read->project, 77));
    QCOMPARE(lane.feel.swing8, 80.0);
    QCOMPARE(lane.feel.quantiseStrength, 0.0);
    QVERIFY(lane.length >= kShortestLane);
    const Hit& hit = lane.hits[0];
    QCOMPARE(hit.roll.hits, kMostRoll);
    QVERIFY(hit.roll.step >= kShortestStep);
    QCOMPARE(hit.condition, (Condition{1, 1, 1}));
    QCOMPARE(hit.pan, -1.0);
    for (const char* bad : {R"("4/5")", R"("x")", "7"}) {
      const std::string text = std::string(R"({"format":"tuvvo project","meter":)") + bad + "}";
      const auto odd = projectFromText(text, "x");
      QVERIFY(odd.ok() && odd->warnings.size() == 1 && odd->project.meter == Meter{});
      QVERIFY(projectToText(odd->project, 1).find(std::string("\"meter\": ") + bad) !=
              std::string::npos);
    }
  }
};

QTEST_APPLESS_MAIN(TestPatterns)
#include "tst_patterns.moc"
