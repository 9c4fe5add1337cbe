// Chosen hits shaped together, and sent to other keys and pitches.
#include "beat/hand.h"
#include "beat/hit_shapes.h"
#include "support.h"
#include "tones/chord.h"
#include "tones/hits_elsewhere.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

HitOf hitOf(double beats, double velocity = 0.8, double tune = 0, Id part = 1) {
  Hit hit;
  hit.at = at(beats);
  hit.key = 1;
  hit.velocity = velocity;
  hit.tune = Semitones(tune);
  return {part, hit};
}

template <class Get> std::vector<double> each(const HitClip& clip, Get get) {
  std::vector<double> out;
  for (const auto& one : clip) out.push_back(get(one.hit));
  return out;
}
std::vector<double> timings(const HitClip& clip) {
  return each(clip, [](const Hit& hit) { return hit.microTiming.value; });
}
std::vector<double> velocities(const HitClip& clip) {
  return each(clip, [](const Hit& hit) { return std::round(hit.velocity * 1000) / 1000; });
}
using List = std::vector<double>;

/// A bass on A1, bells on C5 and a drum without a note, each on a key, and a pattern on the bass.
struct Band {
  Project project;
  Id bass = 0, bells = 0, drum = 0, pattern = 0;

  Band() {
    bass = add("bass", 55, Row::Floor);
    bells = add("bells", 523.2511, Row::Air);
    drum = add("drum", 0, Row::Body);
    Pattern made;
    made.bars = 1;
    project = withPattern(std::move(project), made, &pattern);
  }
  Id add(const std::string& name, double root, Row row) {
    Source source = sourceOf(makeSound(sine(root > 0 ? root : 90, 0.2, 48000)), name);
    source.heard = Analysis{};
    source.heard->kind = {SoundKind::OneShot, 1};
    source.heard->root = Hertz(root);
    Id added = 0, key = 0;
    project = withSource(std::move(project), std::move(source), &added);
    project = withKeySound(std::move(project), row, 0, 0, {added, 0}, name, &key);
    return key;
  }
  [[nodiscard]] Id partOf(Id key) const { return findKey(project, key)->part; }
  HitClip lay(const List& tunes) {
    HitClip clip;
    for (std::size_t i = 0; i < tunes.size(); ++i) {
      HitOf one = hitOf(double(i), 0.5 + 0.1 * double(i), tunes[i], partOf(bass));
      one.hit.key = bass;
      clip.push_back(one);
    }
    project = withPatternChanged(std::move(project), pattern, [&](Pattern& p) {
      for (const auto& one : clip) p = withHit(std::move(p), one.part, one.hit);
    });
    return clip;
  }
  [[nodiscard]] const Pattern& now() const { return *project.patterns[0]; }
};

} // namespace

class TestHitShapes : public QObject {
  Q_OBJECT
private slots:
  void aStrumRunsThroughAChordFromEitherSide() {
    const HitClip chord{hitOf(0, 0.8, 7), hitOf(0, 0.8, 0), hitOf(0, 0.8, 4), hitOf(1, 0.8, 2)};
    QCOMPARE(timings(strummed(chord, Milliseconds(10))), (List{20, 0, 10, 0}));
    QCOMPARE(timings(strummed(chord, Milliseconds(-10))), (List{0, 20, 10, 0}));
    // Another strum lays it anew.
    QCOMPARE(timings(strummed(strummed(chord, Milliseconds(60)), Milliseconds(5))),
             (List{10, 0, 5, 0}));
    HitClip many;
    for (int i = 0; i < 8; ++i) many.push_back(hitOf(0, 0.8, i));
    for (double ms : timings(strummed(many, Milliseconds(1000)))) QVERIFY(ms >= 0 && ms <= 200);
  }

  void placesAreSpreadEvenly() {
    const HitClip even =
        evenlySpaced({hitOf(2), hitOf(0), hitOf(0.25), hitOf(0.25, 0.8, 7), hitOf(3)});
    QCOMPARE(each(even, [](const Hit& h) { return inBeats(h.at); }), (List{2, 0, 1, 1, 3}));
    const HitClip two{hitOf(0.3), hitOf(1)};
    QVERIFY(evenlySpaced(two) == two);
    const auto pan = [](const Hit& h) { return h.pan; };
    QCOMPARE(each(pannedAcross({hitOf(1), hitOf(0), hitOf(2)}, 0.5), pan), (List{0, -0.5, 0.5}));
    QCOMPARE(each(pannedAcross({hitOf(0)}, 1), pan), (List{0}));
  }

  void velocitiesTakeAShape() {
    const HitClip flat{hitOf(0), hitOf(1), hitOf(2), hitOf(4)};
    const auto shaped = [&](VelocityShape shape) {
      return velocities(velocityShaped(flat, shape, 0.5));
    };
    QCOMPARE(shaped(VelocityShape::Rise), (List{0.4, 0.5, 0.6, 0.8}));
    QCOMPARE(shaped(VelocityShape::Fall), (List{0.8, 0.7, 0.6, 0.4}));
    QCOMPARE(shaped(VelocityShape::Arch), (List{0.4, 0.6, 0.8, 0.4}));
    QCOMPARE(shaped(VelocityShape::Dip), (List{0.8, 0.6, 0.4, 0.8}));
    QCOMPARE(shaped(VelocityShape::Alternate), (List{0.8, 0.4, 0.8, 0.4}));
    QCOMPARE(velocities(velocityShaped(flat, VelocityShape::Rise, 0)), velocities(flat));
    const HitClip chord{hitOf(1, 0.5, 0), hitOf(1, 0.7, 4)};
    QVERIFY(velocityShaped(chord, VelocityShape::Rise, 0.5) == chord);
  }

  void whatIsPlayedIsDealtAnewAndThePlacesStay() {
    HitClip clip;
    for (int i = 0; i < 12; ++i) clip.push_back(hitOf(i, 0.4 + 0.02 * i, i, i < 8 ? 1 : 2));
    const HitClip dealt = dealtAnew(clip, 5);
    QCOMPARE(velocities(dealt), velocities(clip));
    for (std::size_t i = 0; i < clip.size(); ++i) {
      QCOMPARE(dealt[i].hit.at, clip[i].hit.at);
      QVERIFY((dealt[i].hit.tune.value < 8) == (i < 8)); // parts stay among themselves
    }
    List tunes = each(dealt, [](const Hit& h) { return h.tune.value; });
    QVERIFY(tunes != each(clip, [](const Hit& h) { return h.tune.value; }));
    std::sort(tunes.begin(), tunes.end());
    for (std::size_t i = 0; i < tunes.size(); ++i) QCOMPARE(tunes[i], double(i));
    QVERIFY(dealtAnew(clip, 5) == dealt);
    QVERIFY(dealtAnew(clip, 6) != dealt);
  }

  void humanisedHitsDeviateAsMuchAsIsAskedFor() {
    HitClip clip;
    for (int i = 0; i < 4000; ++i) clip.push_back(hitOf(i * 0.25, 0.5));
    const HitClip human = humanised(clip, Milliseconds(10), 0.1, 1);
    double time = 0, level = 0;
    for (const auto& one : human) {
      time += std::pow(one.hit.microTiming.value, 2);
      level += std::pow(one.hit.velocity / 0.5 - 1, 2);
    }
    QVERIFY(std::abs(std::sqrt(time / 4000) - 10) < 0.5);
    QVERIFY(std::abs(std::sqrt(level / 4000) - 0.1) < 0.005);
    QVERIFY(humanised(clip, Milliseconds(0), 0, 1) == clip);
  }

  // ---- to other keys ----

  void tonesKeepTheirPitchesOnAnotherKey() {
    Band band;
    const HitClip line = band.lay({0, 3, 7, 12}); // A1 C2 E2 A2
    const SentHits copied = sent(band.project, band.now(), line, band.bells, SendAs::Copy);
    QCOMPARE(copied.moved, 0);
    QCOMPARE(findLane(copied.pattern, band.partOf(band.bass))->hits.size(), std::size_t(4));
    const Lane* there = findLane(copied.pattern, band.partOf(band.bells));
    QCOMPARE(there->hits.size(), std::size_t(4));
    for (std::size_t i = 0; i < 4; ++i) {
      QCOMPARE(noteOf(band.project, there->hits[i]), noteOf(band.project, line[i].hit));
      QCOMPARE(there->hits[i].at, line[i].hit.at);
      QCOMPARE(there->hits[i].velocity, line[i].hit.velocity);
    }
    const SentHits moved = sent(band.project, band.now(), line, band.bells, SendAs::Move);
    QVERIFY(findLane(moved.pattern, band.partOf(band.bass))->hits.empty());
    QCOMPARE(moved.hits.size(), std::size_t(4));
    // A drum has no note: hits keep their tunes.
    const SentHits drummed = sent(band.project, band.now(), line, band.drum, SendAs::Copy);
    QCOMPARE(drummed.hits[2].hit.tune.value, 7.0);
  }

  void whatAKeyDoesNotReachSoundsInANearerOctave() {
    Band band;
    const HitClip line = band.lay({-12}); // A0, 51 semitones under the bells
    const SentHits made = sent(band.project, band.now(), line, band.bells, SendAs::Copy);
    QCOMPARE(made.moved, 1);
    QCOMPARE(noteOf(band.project, made.hits[0].hit), noteOf(band.project, line[0].hit) + 12);
    // Two on one place and pitch are one.
    HitClip twice = band.lay({0});
    twice.push_back(twice.front());
    twice.back().hit.velocity = 0.9;
    QCOMPARE(sent(band.project, band.now(), twice, band.bells, SendAs::Copy).hits.size(),
             std::size_t(1));
    QVERIFY(sent(band.project, band.now(), line, 999, SendAs::Move).pattern == band.now());
  }

  void hitsGoUpTheScaleAndOntoChords() {
    Band band;
    band.project.key = KeyName{9, true};
    const HitClip line = band.lay({0, 2, 3, 5}); // A B C D
    const auto notes = [&](const HitClip& clip) {
      return each(clip, [&](const Hit& hit) { return noteOf(band.project, hit); });
    };
    QCOMPARE(notes(line), (List{33, 35, 36, 38}));
    QCOMPARE(notes(steppedInScale(band.project, line, 1)), (List{35, 36, 38, 40}));
    QCOMPARE(notes(steppedInScale(band.project, line, 7)), (List{45, 47, 48, 50}));
    const std::vector<ChordSpan> chords{{at(0), at(2), chord("Am"), 0},
                                        {at(2), at(4), chord("G"), 0}};
    QCOMPARE(notes(snappedToChords(band.project, line, chords)), (List{33, 36, 35, 38}));
    QVERIFY(snappedToChords(band.project, line, {}) == line);
    band.project.key = {};
    QCOMPARE(notes(steppedInScale(band.project, line, 1)), (List{34, 36, 37, 39}));
    QCOMPARE(notes(steppedInScale(band.project, line, 7)), (List{45, 47, 48, 50}));
    QCOMPARE(notes(steppedInScale(band.project, line, -7)), (List{21, 23, 24, 26}));
  }
};

QTEST_MAIN(TestHitShapes)
#include "tst_hit_shapes.moc"
