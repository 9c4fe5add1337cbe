// Kick and bass as they sound: fundamental, ring, overlap; what the answers do; ducking in the
// engine.
#include "notes/free_space.h"

#include "beat/hand.h"
#include "beat/hits.h"
#include "beat/roles.h"
#include "formats/shipped.h"
#include "notes/cases.h"
#include "play/engine.h"
#include "play/print.h"
#include "support.h"
#include "tones/bass_line.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

struct Low {
  Project project;
  Id pattern = 0, kick = 0, bass = 0;
  const Pattern& shown() const { return *findPattern(project, pattern); }
};

/// A kick of a known pitch on every second beat, and a bass note held with and after it.
Low low(double kickHz, double ringMs, double bassNote) {
  Low out;
  JobContext job;
  Project& p = out.project;
  p.tempo = Bpm(90);
  const auto add = [&](SoundPtr sound, const char* name, HitClass hit, Hertz root, Id* key) {
    Source source = sourceOf(std::move(sound), name);
    source.heard.emplace();
    source.heard->kind.kind = SoundKind::OneShot;
    source.heard->root = root;
    Onset onset;
    onset.hits = {hit};
    source.heard->onsets.push_back(onset);
    Id id = 0;
    p = withSource(std::move(p), source, &id);
    p = withSoundOnDeck(std::move(p), Row::Floor, {id, 0}, name, key);
  };
  add(ringing(kickHz, ringMs), "bollard", HitClass::Kick, Hertz(0), &out.kick);
  add(makeSound(sine(frequencyOf(bassNote).value, 3, 48000)), "hawser", HitClass::Other,
      frequencyOf(bassNote), &out.bass);
  p = withKeyChanged(std::move(p), out.bass, [](Key& key) { key.gate = true; });
  Pattern pattern;
  pattern.bars = 2;
  for (double beat : {0.0, 2.0, 4.0, 6.0}) {
    Hit hit;
    hit.at = at(beat);
    hit.key = out.kick;
    pattern = withHit(std::move(pattern), findKey(p, out.kick)->part, hit);
    hit.key = out.bass;
    hit.length = at(1);
    pattern = withHit(std::move(pattern), findKey(p, out.bass)->part, hit);
  }
  p = withPattern(std::move(p), pattern, &out.pattern);
  Section section;
  section.pattern = out.pattern;
  section.bars = 2;
  p = withSection(std::move(p), section, 0);
  return out;
}

FreeSpace roomIn(const Low& low) {
  const auto pair = lowPairOf(low.project, low.shown());
  if (!pair) qFatal("no pair");
  return freeSpaceOf(low.project, low.shown(), *pair,
                     analyseLow(low.project, *findKey(low.project, pair->kick)));
}

double level(const Sound& sound, double fromS, double toS) {
  double sum = 0;
  const auto from = std::int64_t(fromS * 48000), to = std::int64_t(toS * 48000);
  for (std::int64_t i = from; i < to; ++i) {
    const double v = double(sound.channel(0)[std::size_t(i)]);
    sum += v * v;
  }
  return 10 * std::log10(sum / double(to - from) + 1e-20);
}

} // namespace

class TestFreeSpace : public QObject {
  Q_OBJECT
private slots:
  void aKickIsHeardAsItsKeyPlaysIt() {
    const Low l = low(52, 240, 33);
    const LowSound heard = analyseLow(l.project, *findKey(l.project, l.kick));
    QVERIFY2(std::abs(heard.fundamental.value - 52) < 0.5,
             qPrintable(QString::number(heard.fundamental.value)));
    QVERIFY2(std::abs(heard.ring.value - 240) <= 10, qPrintable(QString::number(heard.ring.value)));
    // Tuned up a fifth by its key it is higher and shorter.
    const Project tuned =
        withKeyChanged(l.project, l.kick, [](Key& key) { key.tune = Semitones(7); });
    const LowSound up = analyseLow(tuned, *findKey(tuned, l.kick));
    QVERIFY(std::abs(semitonesOf(up.fundamental.value / heard.fundamental.value).value - 7) < 0.2);
    QVERIFY(up.ring < heard.ring);
    // The kick that ships falls in pitch all along and still has a strongest low tone.
    JobContext job;
    const Project deck = newProject(TUVVO_DATA_DIR, job).project;
    const LowSound shipped = analyseLow(deck, *keyAt(deck, Row::Floor, 0, 0));
    QVERIFY2(shipped.fundamental.value > 35 && shipped.fundamental.value < 120,
             qPrintable(QString::number(shipped.fundamental.value)));
  }

  void figuresAreThoseOfTheSounds() {
    // A kick at A1 (55 Hz) less 1 semitone against a bass on A1: an octave-folded semitone apart.
    const Low l = low(frequencyOf(32).value, 300, 33);
    const FreeSpace room = roomIn(l);
    QCOMPARE(room.keys.kick, l.kick);
    QCOMPARE(room.keys.bass, l.bass);
    QCOMPARE(room.bassNote, 33);
    QVERIFY2(std::abs(room.apart + 1) < 0.1, qPrintable(QString::number(room.apart)));
    QVERIFY(std::abs(room.freeBeats - 2) < 1e-9);
    QVERIFY(std::abs(room.ringBeats - 0.3 * 90 / 60) < 0.02);
    QVERIFY(room.overlap > 0.99); // the bass sounds all along
  }

  void theAnswersAnswer() {
    const Low l = low(frequencyOf(32).value, 300, 33);
    const FreeSpace room = roomIn(l);
    Low tuned = l;
    tuned.project = withKickTuned(l.project, room);
    QVERIFY(std::abs(roomIn(tuned).apart) < 0.1);
    // Near the fifth it goes to the fifth: five semitones up to the octave are further than one.
    const Low near = low(frequencyOf(33 + 6.5).value, 200, 33);
    Low fifth = near;
    fifth.project = withKickTuned(near.project, roomIn(near));
    QVERIFY2(std::abs(std::abs(roomIn(fifth).apart) - 5) < 0.1, // a fifth, from the octave above
             qPrintable(QString::number(roomIn(fifth).apart)));
    Low brief = l;
    brief.project = withKickShortened(low(60, 1200, 33).project, roomIn(low(60, 1200, 33)));
    const double longBefore = roomIn(low(60, 1200, 33)).ringBeats, after = roomIn(brief).ringBeats;
    QVERIFY2(after < longBefore && after < 2, qPrintable(QString::number(after)));
    Low moved = l;
    moved.project = withBassMoved(l.project, l.pattern, room);
    QVERIFY2(roomIn(moved).overlap < 0.05, qPrintable(QString::number(roomIn(moved).overlap)));
    const auto &before = findLane(l.shown(), findKey(l.project, l.bass)->part)->hits,
               &now = findLane(moved.shown(), findKey(l.project, l.bass)->part)->hits;
    for (std::size_t i = 0; i < now.size(); ++i)
      QCOMPARE(now[i].at + now[i].length, before[i].at + before[i].length); // the ends stay
  }

  /// Worked by hand: a hit is a quarter of a beat, a held note its length, a short ribbon comes
  /// round.
  void whoPlaysWhen() {
    Low floor = low(55, 300, 33);
    const auto floorOf = [](const Project& p, const Pattern& pattern) {
      const auto roles = rolesOverTime(p, pattern);
      for (Row role : {Row::Cuts, Row::Air, Row::Body})
        if (roles[std::size_t(role)] != std::vector<double>(roles[0].size(), 0.0))
          qFatal("something plays in another role");
      return roles[std::size_t(Row::Floor)];
    };
    using Shares = std::vector<double>;
    QCOMPARE(floorOf(floor.project, floor.shown()), (Shares{1, 0, 1, 0, 1, 0, 1, 0}));

    Pattern hits = floor.shown();
    const Id kicks = findKey(floor.project, floor.kick)->part;
    std::erase_if(hits.lanes, [&](const Lane& lane) { return lane.part != kicks; });
    QCOMPARE(floorOf(floor.project, hits), (Shares{.25, 0, .25, 0, .25, 0, .25, 0}));
    Pattern short3 = hits;
    short3.lanes[0].length = at(3); // its kicks at 0 and 2 come again at 3 and 5, at 6
    QCOMPARE(floorOf(floor.project, short3), (Shares{.25, 0, .25, .25, 0, .25, .25, 0}));
    Pattern late = hits;
    late.lanes[0].hits[0].at = at(0.9); // a quarter of a beat, over the line
    const Shares over = floorOf(floor.project, late);
    QVERIFY(std::abs(over[0] - 0.1) < 1e-6 && std::abs(over[1] - 0.15) < 1e-6);
  }

  void notesSpeakAndTheirFixesSilenceThem() {
    Low l = low(frequencyOf(32).value, 300, 33);
    const auto notes = [&](const Project& p) {
      std::vector<Note> out;
      addFreeSpaceNotes(p, out);
      return out;
    };
    auto said = notes(l.project);
    QCOMPARE(said.size(), std::size_t(1));
    QVERIFY(said[0].id.starts_with("rub:"));
    QVERIFY(std::abs(std::get<finding::KickRubs>(said[0].finding).apart - 1) < 0.05);
    l.project = said[0].fix(l.project); // in tune now; they still share the low end
    said = notes(l.project);
    QCOMPARE(said.size(), std::size_t(1));
    QVERIFY(said[0].id.starts_with("low:"));
    l.project = said[0].fix(l.project);
    QVERIFY(notes(l.project).empty());
    // A kick that rings into the next one.
    Low ringing = low(60, 2500, 33 + 4);
    QVERIFY(findKey(ringing.project, ringing.kick)->mono); // it would end itself
    ringing.project = withKeyChanged(ringing.project, ringing.kick, [](Key& k) { k.mono = false; });
    bool rings = false;
    for (const auto& note : notes(ringing.project)) rings = rings || note.id.starts_with("ring:");
    QVERIFY(rings);
    QVERIFY(notes(Project{}).empty());
  }

  /// The bass under the kick, by the samples of the print.
  void theBassStepsBackUnderTheKick() {
    Low l = low(frequencyOf(32).value, 100, 33);
    const Id bassPart = findKey(l.project, l.bass)->part,
             kickPart = findKey(l.project, l.kick)->part;
    l.project = withPatternChanged(l.project, l.pattern, [&](Pattern& p) {
      for (auto& hit : laneOf(p, bassPart).hits) hit.length = at(2); // held throughout
    });
    const auto stem = [&](const Project& p) {
      CompileOptions options;
      options.onlyPart = bassPart;
      JobContext job;
      PrintOptions plain;
      plain.limiter = false;
      return *print(compilePattern(p, l.pattern, options), plain, job);
    };
    const SoundPtr open = stem(l.project);
    Project ducked = withPartChanged(l.project, bassPart, [&](Part& part) {
      part.duck = {kickPart, Decibels(12), Milliseconds(200)};
    });
    const SoundPtr stepped = stem(ducked);
    const double kickS = 2 * 60.0 / 90; // the second kick
    const auto change = [&](double fromS, double toS) {
      return level(*stepped, fromS, toS) - level(*open, fromS, toS);
    };
    QVERIFY2(std::abs(change(kickS + 0.003, kickS + 0.008) + 12) < 1.2,
             qPrintable(QString::number(change(kickS + 0.003, kickS + 0.008))));
    // After 200 ms it is back by 19 of 20 parts: −0.3 dB and less.
    QVERIFY2(change(kickS + 0.2, kickS + 0.21) > -0.5,
             qPrintable(QString::number(change(kickS + 0.2, kickS + 0.21))));
    QVERIFY(std::abs(change(kickS + 0.8, kickS + 0.9)) < 0.01);
    // It moves without a step that clicks: no sample differs from the one before by more than the
    // open bass's steepest slope and what 2 ms of ducking add.
    float steepest = 0, most = 0;
    for (std::int64_t i = 1; i < open->frames().value; ++i) {
      const auto at = std::size_t(i);
      steepest = std::max(steepest, std::abs(open->channel(0)[at] - open->channel(0)[at - 1]));
      most = std::max(most, std::abs(stepped->channel(0)[at] - stepped->channel(0)[at - 1]));
    }
    QVERIFY(most < steepest + 0.02f);
    // Muted, a kick ducks nothing; depth 0 is not ducked at all.
    const Project muted = withPartChanged(ducked, kickPart, [](Part& part) { part.muted = true; });
    QCOMPARE(stem(muted)->hash(), open->hash());
    const Project flat =
        withPartChanged(ducked, bassPart, [](Part& part) { part.duck.depth = Decibels(0); });
    QCOMPARE(stem(flat)->hash(), open->hash());
  }

  void blocksOfAnySizeDuckAlike() {
    Low l = low(frequencyOf(32).value, 100, 33);
    l.project = withPartChanged(l.project, findKey(l.project, l.bass)->part, [&](Part& part) {
      part.duck = {findKey(l.project, l.kick)->part, Decibels(18), Milliseconds(90)};
    });
    const auto score = std::make_shared<const Score>(compilePattern(l.project, l.pattern));
    const auto played = [&](int block) {
      Engine engine;
      engine.setScore(score);
      Engine::Command play{Engine::Command::Kind::Play};
      engine.send(play);
      Samples left(96'000), right(96'000);
      for (int at = 0; at < 96'000; at += block) {
        const int n = std::min(block, 96'000 - at);
        engine.process(left.data() + at, right.data() + at, n);
      }
      return left;
    };
    const Samples one = played(64);
    for (int block : {1, 128, 480, 1024, 5000}) QVERIFY(played(block) == one);
  }

  void aDuckIsKeptInRangeAndWithItsPart() {
    Low l = low(50, 100, 33);
    const Id bass = findKey(l.project, l.bass)->part, kick = findKey(l.project, l.kick)->part;
    Project p = withPartChanged(l.project, bass, [&](Part& part) {
      part.duck = {kick, Decibels(400), Milliseconds(0)};
    });
    QCOMPARE(findPart(p, bass)->duck, (Duck{kick, Decibels(40), Milliseconds(10)}));
    p = withoutKey(std::move(p), l.kick); // its part goes with it
    QCOMPARE(findPart(p, bass)->duck.by, Id(0));
    p = withPartChanged(l.project, bass, [&](Part& part) { part.duck.by = bass; });
    QCOMPARE(findPart(p, bass)->duck.by, Id(0)); // not under itself
  }
};

QTEST_APPLESS_MAIN(TestFreeSpace)
#include "tst_free_space.moc"
