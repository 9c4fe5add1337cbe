// Sameness of bars, and changes against it.
#include "beat/flip.h"
#include "beat/pattern_edits.h"
#include "beat/similarity.h"
#include "beat/vary.h"
#include "cut/slicing.h"
#include "formats/shipped.h"
#include "notes/similarity_note.h"
#include "song/first_song.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// The deck that ships and four bars of kick, snare and hats; optionally slices of a loop over it.
struct Beat {
  Project project;
  Pattern pattern;
  Id kick, snare, hat;
  Id part(Id key) const { return findKey(project, key)->part; }
  void hit(Id key, double beat, double velocity = 0.8) {
    Hit hit;
    hit.at = at(beat);
    hit.key = key;
    hit.velocity = velocity;
    pattern = withHit(std::move(pattern), part(key), hit);
  }
  [[nodiscard]] std::size_t hits(const Pattern& p, Id key) const {
    const Lane* lane = findLane(p, part(key));
    return lane ? lane->hits.size() : 0;
  }
};

Beat fourBars() {
  Beat b;
  JobContext job;
  b.project = newProject(TUVVO_DATA_DIR, job).project;
  b.pattern.bars = 4;
  b.kick = keyAt(b.project, Row::Floor, 0, 0)->id;
  b.snare = keyAt(b.project, Row::Body, 0, 0)->id;
  b.hat = keyAt(b.project, Row::Air, 0, 0)->id;
  for (int bar = 0; bar < 4; ++bar) {
    for (double k : {0.0, 2.5}) b.hit(b.kick, bar * 4 + k, 0.9);
    for (double s : {1.0, 3.0}) b.hit(b.snare, bar * 4 + s);
    for (int e = 0; e < 8; ++e) b.hit(b.hat, bar * 4 + e * 0.5, e % 2 ? 0.5 : 0.7);
  }
  return b;
}

Pattern without(const Pattern& pattern, Beats from) {
  Pattern out = pattern;
  for (auto& lane : out.lanes)
    std::erase_if(lane.hits, [&](const Hit& hit) { return hit.at >= from; });
  return out;
}

} // namespace

class TestVary : public QObject {
  Q_OBJECT
private slots:
  void barsAreComparedHitByHit() {
    Beat b = fourBars();
    const auto all = barsAlike(b.project, b.pattern);
    for (std::size_t i = 0; i < all.size(); ++i) {
      QCOMPARE(all[i].letter, 0);
      QVERIFY(all[i].exact);
      if (i > 0) QCOMPARE(all[i].share, 1.0);
    }
    QCOMPARE(meanSimilarity(all), 1.0);
    // Of 12 hits a bar one more: 2 · 12 of 25 agree.
    b.hit(b.kick, 13.75);
    const auto more = barsAlike(b.project, b.pattern);
    QCOMPARE(more[3].letter, 0);
    QVERIFY(!more[3].exact);
    QVERIFY(std::abs(more[3].share - 24.0 / 25) < 1e-9);
    // Half as hard agrees less; another tune by half.
    Pattern soft = b.pattern;
    for (auto& hit : laneOf(soft, b.part(b.snare)).hits)
      if (hit.at >= wholeBeats(12)) hit.velocity -= 0.4;
    QVERIFY(std::abs(barSimilarity(b.project, soft, 0, 3) - (24 - 2 * 0.8) / 25) < 1e-9);
    for (auto& hit : laneOf(soft, b.part(b.snare)).hits)
      if (hit.at >= wholeBeats(12)) hit.tune = Semitones(2);
    QVERIFY(std::abs(barSimilarity(b.project, soft, 0, 3) - (24 - 4 + 2 * 2 * 0.6 * 0.5) / 25) <
            1e-9);
  }

  void whatIsOtherGetsALetterOfItsOwn() {
    Beat b = fourBars();
    b.pattern = without(b.pattern, wholeBeats(8));
    b.hit(b.kick, 9);
    const auto bars = barsAlike(b.project, b.pattern);
    QCOMPARE(bars[1].letter, 0);
    QCOMPARE(bars[2].letter, 1);
    QCOMPARE(bars[2].share, 0.0);
    QCOMPARE(bars[3].letter, 2); // empty, as none before
    QVERIFY(meanSimilarity(bars) < 0.5);
    Pattern empty;
    empty.bars = 3;
    QCOMPARE(meanSimilarity(barsAlike(b.project, empty)), 1.0);
    QCOMPARE(meanSimilarity({}), 0.0);
    // A lane that comes round by itself is followed: every beat and a half over bars of four.
    Pattern round;
    round.bars = 4;
    Lane& lane = laneOf(round, b.part(b.hat));
    lane.length = at(1.5);
    Hit hit;
    hit.key = b.hat;
    lane.hits.push_back(hit);
    const auto met = barsAlike(b.project, round);
    QCOMPARE(met[1].share, 0.0); // 0 1.5 3, then 0.5 2 3.5, then 1 2.5; after three bars they meet
    QVERIFY(met[3].letter == 0 && met[3].exact);
  }

  void everyChangeOfTheLastBarIsInTheLastBarOnly() {
    const Beat b = fourBars();
    for (LastBar way : {LastBar::Drop, LastBar::Fill, LastBar::Roll, LastBar::Reverse}) {
      const Pattern changed = withLastBarChanged(b.project, b.pattern, way, 5);
      QVERIFY2(!(changed == b.pattern), qPrintable(QString::number(int(way))));
      QVERIFY(without(changed, wholeBeats(12)) == without(b.pattern, wholeBeats(12)));
      QVERIFY(withLastBarChanged(b.project, b.pattern, way, 5) == changed); // the same seed
      Pattern held = changed;
      clamp(held);
      QVERIFY(held == changed); // plain hits, in range and in order
      for (const auto& lane : changed.lanes)
        for (const auto& hit : lane.hits) QVERIFY(hit.at < lengthOf(changed));
      QVERIFY(barSimilarity(b.project, changed, 0, 3) < 1);
    }
    const Pattern dropped = withLastBarChanged(b.project, b.pattern, LastBar::Drop, 1);
    for (const auto& lane : dropped.lanes)
      for (const auto& hit : lane.hits) QVERIFY(hit.at < wholeBeats(15));
    const Pattern rolled = withLastBarChanged(b.project, b.pattern, LastBar::Roll, 1);
    const auto& hats = findLane(rolled, b.part(b.hat))->hits;
    QVERIFY(hats.back().roll.hits > 1);
    const Roll& roll = hats.back().roll;
    QCOMPARE(hats.back().at.value + roll.step.value * roll.hits, lengthOf(rolled).value);
    // Another seed fills otherwise.
    std::set<std::size_t> fills;
    for (std::uint64_t seed = 1; seed < 12; ++seed)
      fills.insert(b.hits(withLastBarChanged(b.project, b.pattern, LastBar::Fill, seed), b.snare));
    QVERIFY(fills.size() > 1);
  }

  void slicesAreDealtAnewAndTurned() {
    Beat b = fourBars();
    Id source = 0;
    b.project = withSource(std::move(b.project), sourceOf(drumLoop(90, 16)), &source);
    CutSettings equal;
    equal.mode = CutMode::Equal;
    equal.parts = 4;
    b.project =
        withCuts(b.project, source, equal, cutSource(*findSource(b.project, source), equal));
    std::vector<Id> slices;
    for (const auto& key : b.project.keys)
      if (key.sound.source == source) slices.push_back(key.id);
    QCOMPARE(slices.size(), std::size_t(4));
    for (int i = 0; i < 16; ++i) b.hit(slices[std::size_t(i) % 4], i);
    const Pattern other = withLastBarChanged(b.project, b.pattern, LastBar::OtherSlice, 3);
    const auto &before = findLane(b.pattern, b.part(slices[0]))->hits,
               &after = findLane(other, b.part(slices[0]))->hits;
    QCOMPARE(after.size(), before.size());
    for (std::size_t i = 0; i < after.size(); ++i)
      QCOMPARE(after[i].key != before[i].key, before[i].at >= wholeBeats(12));
    const Pattern turned = withLastBarChanged(b.project, b.pattern, LastBar::Reverse, 3);
    QVERIFY(findLane(turned, b.part(slices[0]))->hits.back().reversed);
    // Nothing to deal: it stays as it was.
    Pattern bare;
    bare.bars = 2;
    QVERIFY(withLastBarChanged(b.project, bare, LastBar::OtherSlice, 3) == bare);
  }

  // Without slices the drums of one part change places in the last bar, and no others.
  void drumsAreDealtAnewWhereThereAreNoSlices() {
    Beat b = fourBars();
    Id added = 0;
    const Key snare = *findKey(b.project, b.snare);
    b.project = withKeySound(b.project, Row::Body, 7, 0, snare.sound, "other snare", &added);
    b.project =
        withKeyChanged(b.project, added, [part = snare.part](Key& key) { key.part = part; });
    bool changed = false;
    for (std::uint64_t seed = 1; seed < 6; ++seed) {
      const Pattern varied = withLastBarChanged(b.project, b.pattern, LastBar::OtherSlice, seed);
      QVERIFY(without(varied, wholeBeats(12)) == without(b.pattern, wholeBeats(12)));
      QCOMPARE(b.hits(varied, b.kick), b.hits(b.pattern, b.kick));
      for (const auto& hit : findLane(varied, b.part(b.snare))->hits)
        if (hit.key != b.snare) {
          const Key* now = findKey(b.project, hit.key);
          QVERIFY(now->row == Row::Body && now->part == b.part(b.snare) &&
                  hit.at >= wholeBeats(12));
          changed = true;
        }
    }
    QVERIFY(changed);
  }

  void aPartRestsForABar() {
    Beat b = fourBars();
    for (auto& hit : laneOf(b.pattern, b.part(b.kick)).hits) hit.length = wholeBeats(3);
    const Pattern rests = withPartDropped(b.pattern, b.part(b.kick), 1);
    for (const auto& hit : findLane(rests, b.part(b.kick))->hits) {
      QVERIFY(hit.at < wholeBeats(4) || hit.at >= wholeBeats(8));
      if (hit.at < wholeBeats(4)) QVERIFY(hit.at + hit.length <= wholeBeats(4)); // let go there
    }
    QCOMPARE(b.hits(rests, b.hat), b.hits(b.pattern, b.hat));
    QVERIFY(withPartDropped(b.pattern, 9999, 1) == b.pattern);
  }

  void sameBarsAreSpokenOf() {
    Beat b = fourBars();
    b.pattern = barsOf(b.pattern, 0, 2);
    Id id = 0;
    b.project = withPattern(std::move(b.project), b.pattern, &id);
    Section section;
    section.name = "Verse";
    section.pattern = id;
    section.bars = 4;
    const auto notes = [](const Project& p) {
      std::vector<Note> out;
      addSimilarityNotes(p, out);
      return out;
    };
    QVERIFY(notes(withSection(b.project, section, 0)).empty()); // four bars are no long time
    section.bars = 8;
    const Project song = withSection(b.project, section, 0);
    const auto said = notes(song);
    QCOMPARE(said.size(), std::size_t(1));
    QCOMPARE(std::get<finding::BarsTheSame>(said[0].finding).bars, 8);
    const Project changed = said[0].fix(song);
    QVERIFY(notes(changed).empty());
    QCOMPARE(findPattern(changed, id)->bars, 4);
    QVERIFY(barSimilarity(changed, *findPattern(changed, id), 0, 3) < 1);
  }

  void anIntroIsThinnerOnTheBeatFirst() {
    const Beat b = fourBars();
    const Pattern thin = thinned(b.project, b.pattern, 0.5, 1);
    QCOMPARE(b.hits(thin, b.hat), std::size_t(16));
    int onBeat = 0;
    for (const auto& hit : findLane(thin, b.part(b.hat))->hits)
      onBeat += hit.at.value % kTicksPerBeat == 0;
    QCOMPARE(onBeat, 16); // off-beats, and the softer ones, went
    QVERIFY(thinned(b.project, b.pattern, 1, 1) == b.pattern);
    for (const auto& lane : thinned(b.project, b.pattern, 0, 1).lanes)
      QCOMPARE(lane.hits.size(), std::size_t(1)); // the first of every part
    QVERIFY(thinned(b.project, b.pattern, 0.3, 4) == thinned(b.project, b.pattern, 0.3, 4));
  }

  // ---- first beats and songs ----

  void aPlainBeatIsLaidUnderWhatIsThere() {
    Beat b = fourBars();
    for (auto& lane : b.pattern.lanes) lane.hits.clear();
    b.pattern.bars = 2;
    QVERIFY(isEmpty(b.pattern));
    const Pattern plain = withStarterDrums(b.pattern, b.project);
    QVERIFY(!isEmpty(plain));
    QCOMPARE(b.hits(plain, b.snare), std::size_t(5)); // two and four, and one that leads back
    QCOMPARE(b.hits(plain, b.hat), std::size_t(15));  // the last eighth is the open one
    for (double two : {1.0, 3.0, 5.0, 7.0}) {
      const auto& hits = findLane(plain, b.part(b.snare))->hits;
      QVERIFY(std::any_of(hits.begin(), hits.end(), [&](const Hit& h) { return h.at == at(two); }));
    }
    b.hit(b.kick, 0.75);
    QCOMPARE(b.hits(withStarterDrums(b.pattern, b.project), b.kick), b.hits(plain, b.kick) + 1);
  }

  void aFirstSongBeginsAndEndsThin() {
    Beat b = fourBars();
    Id id = 0;
    b.project = withPattern(std::move(b.project), b.pattern, &id);
    const Project song = withFirstSong(b.project, id);
    QCOMPARE(song.sections.size(), std::size_t(5));
    const auto hitsOf = [&](std::size_t section) {
      std::size_t hits = 0;
      for (const auto& lane : findPattern(song, song.sections[section].pattern)->lanes)
        hits += lane.hits.size();
      return hits;
    };
    QVERIFY(hitsOf(0) < hitsOf(1) * 6 / 10 && hitsOf(4) == hitsOf(0));
    QCOMPARE(song.sections[1].pattern, id);
    QVERIFY(hitsOf(3) < hitsOf(1)); // its last beat rests
    int bars = 0;
    for (const auto& section : song.sections) {
      QCOMPARE(section.bars % b.pattern.bars, 0); // whole rounds
      bars += section.bars;
    }
    QCOMPARE(bars, 4 + 8 + 4 + 4 + 4);
    QVERIFY(*findPattern(song, id) == *findPattern(withFirstSong(song, id), id));
    QCOMPARE(withFirstSong(song, id).sections.size(), std::size_t(5));
    QVERIFY(withFirstSong(b.project, 9999).sections.size() == b.project.sections.size());
  }
};

QTEST_APPLESS_MAIN(TestVary)
#include "tst_vary.moc"
