// When notes on patterns, the song and rights must speak, and when they must not: a table of cases
// for each kind.
#include "beat/hits.h"
#include "beat/slices_in_order.h"
#include "cut/slicing.h"
#include "formats/shipped.h"
#include "model/edits.h"
#include "notes/cases.h"
#include "support.h"
#include "tones/theory.h"
#include "words/note_words.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// Eight beats of drums at 120 BPM, a slice each, placed at beats of a pattern of two bars.
Project ordered(const std::vector<std::pair<double, int>>& placed, double lengthBeats = 0,
                const char* name = "quay") {
  Source source = sourceOf(drumLoop(120, 8, 48000), "loop");
  source.heard = Analysis{};
  source.heard->tempo.emplace().bpm = Bpm(120);
  source.heard->downbeats = {Seconds(0)};
  for (int beat = 0; beat < 8; ++beat) source.heard->beats.emplace_back(beat * 0.5);
  Id id = 0;
  Project p = withSource({}, source, &id);
  p.tempo = Bpm(120);
  std::vector<Cut> cuts;
  for (int beat = 0; beat < 8; ++beat) {
    Cut cut;
    cut.start = Frames(beat * 24000);
    cut.end = Frames((beat + 1) * 24000);
    cuts.push_back(cut);
  }
  p = withCuts(std::move(p), id, {}, cuts);
  Pattern pattern;
  pattern.name = name;
  pattern.bars = 2;
  for (const auto& [beat, slice] : placed) {
    const Key* key = keyAt(p, Row::Cuts, slice, 0);
    Hit hit;
    hit.at = at(beat);
    hit.key = key->id;
    hit.length = at(lengthBeats);
    pattern = withHit(std::move(pattern), key->part, hit);
  }
  return withPattern(std::move(p), pattern);
}

std::vector<std::pair<double, int>> asItWas(int slices = 8) {
  std::vector<std::pair<double, int>> out;
  for (int i = 0; i < slices; ++i) out.emplace_back(i, i);
  return out;
}

/// A kick on some beats, and bass notes on some, at 90 BPM.
struct Low {
  double kickHz = 52, ringMs = 240, bassNote = 33; ///< A1 is 55 Hz
  std::vector<double> kicks{0, 2, 4, 6}, basses{0, 2, 4, 6};
  double held = 1; ///< beats
  bool mono = false, ducked = false, kickMuted = false, restsInSong = false, gate = true,
       inSong = true;
};
Project low(const Low& how) {
  Project p;
  p.tempo = Bpm(90);
  Id kick = 0, bass = 0, id = 0;
  const auto add = [&](SoundPtr sound, const char* name, HitClass hit, Hertz root, Id* key) {
    Source source = sourceOf(std::move(sound), name);
    source.heard.emplace();
    source.heard->kind.kind = SoundKind::OneShot;
    source.heard->root = root;
    Onset onset;
    onset.hits = {hit};
    source.heard->onsets.push_back(onset);
    p = withSource(std::move(p), source, &id);
    p = withSoundOnDeck(std::move(p), Row::Floor, {id, 0}, name, key);
  };
  add(ringing(how.kickHz, how.ringMs), "bollard", HitClass::Kick, Hertz(0), &kick);
  add(makeSound(sine(frequencyOf(how.bassNote).value, 3, 48000)), "hawser", HitClass::Other,
      frequencyOf(how.bassNote), &bass);
  p = withKeyChanged(std::move(p), bass, [&](Key& key) { key.gate = how.gate; });
  p = withKeyChanged(std::move(p), kick, [&](Key& key) { key.mono = how.mono; });
  const Id kickPart = findKey(p, kick)->part, bassPart = findKey(p, bass)->part;
  p = withPartChanged(std::move(p), bassPart, [&](Part& part) {
    if (how.ducked) part.duck.by = kickPart;
  });
  p = withPartChanged(std::move(p), kickPart, [&](Part& part) { part.muted = how.kickMuted; });
  Pattern pattern;
  pattern.bars = 2;
  const auto set = [&](double beat, Id key, Id part, double length) {
    Hit hit;
    hit.at = at(beat);
    hit.key = key;
    hit.length = at(length);
    pattern = withHit(std::move(pattern), part, hit);
  };
  for (double beat : how.kicks) set(beat, kick, kickPart, 0);
  for (double beat : how.basses) set(beat, bass, bassPart, how.held);
  Id made = 0;
  p = withPattern(std::move(p), pattern, &made);
  Section section;
  section.pattern = made;
  section.bars = 2;
  if (how.restsInSong) section.mutedParts = {kickPart};
  return how.inSong ? withSection(std::move(p), section, 0) : p;
}

/// A pattern of some bars, each with these beats, in a section of so many.
struct Same {
  int patternBars = 2, sectionBars = 8;
  std::function<void(Pattern&, Lane&)> change = {}; ///< before it is laid
  bool empty = false, inSong = true;
};
Project same(const Same& how) {
  auto made = clickProject({}, 120, how.patternBars);
  Project p = std::move(made.project);
  const Id part = findKey(p, made.key)->part;
  p = withPatternChanged(std::move(p), made.pattern, [&](Pattern& pattern) {
    pattern.bars = how.patternBars;
    Lane& lane = laneOf(pattern, part);
    for (int beat = 0; beat < how.patternBars * 4 && !how.empty; ++beat) {
      Hit hit;
      hit.at = at(beat);
      hit.key = made.key;
      lane.hits.push_back(hit);
    }
    if (how.change) how.change(pattern, lane);
  });
  p.sections.clear();
  Section section;
  section.name = "Verse";
  section.pattern = made.pattern;
  section.bars = how.sectionBars;
  return how.inSong ? withSection(std::move(p), section, 0) : p;
}

/// A sound that is struck once in the song.
struct Rights {
  Permission recording = Permission::Unrecorded, composition = Permission::Unrecorded;
  bool kit = false, played = true, inSong = true, muted = false, dismissed = false, layer = false;
};
Project rights(const Rights& how) {
  Source source = sourceOf(makeSound(sine(300, 1, 48000)), "loan");
  source.kit = how.kit;
  source.provenance.recording = how.recording;
  source.provenance.composition = how.composition;
  Id id = 0, key = 0, own = 0;
  Project p = withSource({}, source, &id);
  Source mine = sourceOf(makeSound(sine(200, 1, 48000)), "mine");
  mine.provenance.recording = mine.provenance.composition = Permission::Own;
  p = withSource(std::move(p), mine, &own);
  p = withKeySound(std::move(p), Row::Body, 0, 0, {how.layer ? own : id, 0}, "loan", &key);
  if (how.layer) {
    Layer layer;
    layer.sound = {id, 0};
    p = withLayer(std::move(p), key, layer);
  }
  Pattern pattern;
  Hit hit;
  hit.key = key;
  if (how.played) pattern = withHit(std::move(pattern), findKey(p, key)->part, hit);
  Id made = 0;
  p = withPattern(std::move(p), pattern, &made);
  Section section;
  section.pattern = made;
  section.bars = 2;
  if (how.muted) section.mutedParts = {findKey(p, key)->part};
  if (how.inSong) p = withSection(std::move(p), section, 0);
  if (how.dismissed) p.dismissedNotes.insert("rights:" + source.hash);
  return p;
}

} // namespace

class TestNoteCasesBeat : public QObject {
  Q_OBJECT

private slots:
  void oldOrder_data() {
    table([](auto row) {
      using Placed = std::vector<std::pair<double, int>>;
      const auto of = [](const Placed& placed) { return [placed] { return ordered(placed); }; };
      row("as it was", true, of(asItWas()));
      row("its first half", true, of(asItWas(4)));
      row("as it was, one left out at the end", true, of(asItWas(7)));
      row("its second half", true, of({{0, 4}, {1, 5}, {2, 6}, {3, 7}}));
      row("later in the bar, in order", true, of({{2, 0}, {3, 1}, {4, 2}, {5, 3}}));
      row("shuffled", false, of({{0, 4}, {1, 2}, {2, 6}, {3, 0}, {4, 5}, {5, 3}, {6, 7}, {7, 1}}));
      row("backwards", false, of({{0, 7}, {1, 6}, {2, 5}, {3, 4}, {4, 3}, {5, 2}, {6, 1}, {7, 0}}));
      row("another rhythm", false,
          of({{0, 0}, {0.5, 1}, {2.5, 2}, {3, 3}, {4.75, 4}, {5, 5}, {7.5, 6}}));
      row("pairs turned", false,
          of({{0, 1}, {1, 0}, {2, 3}, {3, 2}, {4, 5}, {5, 4}, {6, 7}, {7, 6}}));
      row("one slice again and again", false, of({{0, 2}, {1, 2}, {2, 2}, {3, 2}, {4, 2}}));
      row("three are no order", false, of(asItWas(3)));
      row("nothing played", false, of({}));
      row("laid out in order on purpose", false, [] {
        Project p = ordered({});
        Id made = 0;
        return withSlicesInOrder(p, p.sources[0]->id, {}, &made);
      });
    });
  }
  void oldOrder() { judge<finding::OldOrder>(); }

  void kickRubs_data() {
    table([](auto row) {
      const auto of = [](const Low& how) { return [how] { return low(how); }; };
      row("a semitone under the bass", true, of({}));
      row("a semitone over it", true, of({.kickHz = 58.3}));
      row("two semitones over", true, of({.kickHz = 61.5}));
      row("an octave and a semitone over", true, of({.kickHz = 116.5}));
      row("where the bass begins a little later", true, of({.basses = {0.05, 2.05, 4.05, 6.05}}));
      row("in tune", false, of({.kickHz = 55}));
      row("ten cents off", false, of({.kickHz = 55.3}));
      row("an octave over", false, of({.kickHz = 110}));
      row("a fourth over", false, of({.kickHz = 73.4}));
      row("a fifth over", false, of({.kickHz = 82.4}));
      row("never together", false, of({.basses = {1, 3, 5, 7}, .held = 0.5}));
      row("the bass steps back", false, of({.ducked = true}));
      row("the kick is muted", false, of({.kickMuted = true}));
      row("the kick rests in the song", false, of({.restsInSong = true}));
      row("the song does not play it", false, of({.inSong = false}));
      row("no bass", false, of({.basses = {}}));
    });
  }
  void kickRubs() { judge<finding::KickRubs>(); }

  void lowsTogether_data() {
    table([](auto row) {
      const auto of = [](const Low& how) { return [how] { return low(how); }; };
      row("in tune and at once", true, of({.kickHz = 55}));
      row("an octave apart and at once", true, of({.kickHz = 110}));
      row("a fifth apart and at once", true, of({.kickHz = 82.4}));
      row("a long kick under a held bass", true, of({.kickHz = 55, .ringMs = 500, .held = 2}));
      row("the bass begins just after", true, of({.kickHz = 55, .basses = {0.1, 2.1, 4.1, 6.1}}));
      row("the bass steps back", false, of({.kickHz = 55, .ducked = true}));
      row("the bass comes after it", false, of({.kickHz = 55, .basses = {1, 3, 5, 7}, .held = 1}));
      row("a short kick, and the bass on the next eighth", false,
          of({.kickHz = 55, .ringMs = 120, .basses = {0.5, 2.5, 4.5, 6.5}}));
      row("at once in one of four", false, of({.kickHz = 55, .basses = {0, 3, 5, 7}, .held = 0.5}));
      row("the kick is muted", false, of({.kickHz = 55, .kickMuted = true}));
      row("the kick rests in the song", false, of({.kickHz = 55, .restsInSong = true}));
      row("no kick", false, of({.kicks = {}}));
      row("no bass", false, of({.basses = {}}));
      row("the song does not play it", false, of({.kickHz = 55, .inSong = false}));
    });
  }
  void lowsTogether() { judge<finding::LowsTogether>(); }

  void kickRingsOn_data() {
    table([](auto row) {
      const auto of = [](const Low& how) { return [how] { return low(how); }; };
      const std::vector<double> quick{0, 0.5, 4, 4.5}, eighths{0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5};
      row("half a beat is too short for it", true, of({.ringMs = 500, .kicks = quick}));
      row("in eighths", true, of({.ringMs = 400, .kicks = eighths}));
      row("a long one on every beat", true, of({.ringMs = 900, .kicks = {0, 1, 2, 3, 4, 5, 6, 7}}));
      row("twice in a sixteenth", true, of({.ringMs = 240, .kicks = {0, 0.25, 4, 4.25}}));
      row("a longer one still", true, of({.ringMs = 1200, .kicks = {0, 1, 4, 5}}));
      row("mono: it ends itself", false, of({.ringMs = 500, .kicks = quick, .mono = true}));
      row("every two beats", false, of({}));
      row("short in eighths", false, of({.ringMs = 200, .kicks = eighths}));
      row("long with room", false, of({.ringMs = 900}));
      row("once", false, of({.ringMs = 1200, .kicks = {0}}));
      row("muted", false, of({.ringMs = 500, .kicks = quick, .kickMuted = true}));
      row("resting in the song", false, of({.ringMs = 500, .kicks = quick, .restsInSong = true}));
      row("not in the song", false, of({.ringMs = 500, .kicks = quick, .inSong = false}));
    });
  }
  void kickRingsOn() { judge<finding::KickRingsOn>(); }

  void barsTheSame_data() {
    table([](auto row) {
      const auto of = [](const Same& how) { return [how] { return same(how); }; };
      row("two bars, eight times the same", true, of({}));
      row("one bar, sixteen times", true, of({.patternBars = 1, .sectionBars = 16}));
      row("four bars the same", true, of({.patternBars = 4}));
      row("a long section", true, of({.sectionBars = 64}));
      row("a groove does not change it", true,
          of({.change = [](Pattern&, Lane& lane) { lane.feel.swing16 = 57; }}));
      row("four bars are no long time", false, of({.sectionBars = 4}));
      row("seven bars", false, of({.sectionBars = 7}));
      row("one bar differs", false, of({.change = [](Pattern&, Lane& lane) {
            lane.hits.pop_back();
            lane.hits.pop_back();
          }}));
      row("one hit is softer", false,
          of({.change = [](Pattern&, Lane& lane) { lane.hits.back().velocity = 0.4; }}));
      row("one hit comes by chance", false, of({.change = [](Pattern&, Lane& lane) {
            for (auto& hit : lane.hits) hit.condition.chance = 0.5;
          }}));
      row("one hit comes every other time", false, of({.change = [](Pattern&, Lane& lane) {
            for (auto& hit : lane.hits) hit.condition.every = 2;
          }}));
      row("a part of three beats against four", false, of({.change = [](Pattern&, Lane& lane) {
            lane.length = at(3);
            lane.hits.resize(2);
          }}));
      row("nothing is played", false, of({.empty = true}));
      row("not in the song", false, of({.inSong = false}));
    });
  }
  void barsTheSame() { judge<finding::BarsTheSame>(); }

  void noPermission_data() {
    table([](auto row) {
      const auto of = [](const Rights& how) { return [how] { return rights(how); }; };
      row("heard, and nothing recorded", true, of({}));
      row("of the recording alone", true, of({.composition = Permission::Granted}));
      row("of the composition alone", true, of({.recording = Permission::Own}));
      row("as a layer", true, of({.layer = true}));
      row("asked for one, nothing for the other", true, of({.recording = Permission::Asked}));
      row("own work", false, of({.recording = Permission::Own, .composition = Permission::Own}));
      row("granted", false,
          of({.recording = Permission::Granted, .composition = Permission::Granted}));
      row("an open licence", false,
          of({.recording = Permission::OpenLicence, .composition = Permission::OpenLicence}));
      row("asked, and written down", false,
          of({.recording = Permission::Asked, .composition = Permission::Asked}));
      row("a drum that ships", false, of({.kit = true}));
      row("not played", false, of({.played = false}));
      row("not in the song", false, of({.inSong = false}));
      row("muted wherever it would be heard", false, of({.muted = true}));
      row("dismissed", false, of({.dismissed = true}));
    });
  }
  void noPermission() { judge<finding::NoPermission>(); }

  /// A false record would be worse than none: only the person can say that somebody was asked.
  void aNoteOnRightsMarksNothing() {
    const Project p = rights({});
    LoudnessCache loudness;
    for (const auto& note : notesOf(p, loudness))
      if (std::holds_alternative<finding::NoPermission>(note.finding)) {
        QVERIFY(!note.fix);
        QCOMPARE(note.opens, p.sources[0]->id);
        return;
      }
    QFAIL("no note");
  }

  /// Rights before a clash, that before a matter of taste.
  void whatIsAtStakeComesFirst() {
    Project p = low({});
    const Project loan = rights({});
    Id id = 0, key = 0;
    p = withSource(std::move(p), *loan.sources[0], &id);
    p = withKeySound(std::move(p), Row::Body, 0, 0, {id, 0}, "loan", &key);
    const Id part = findKey(p, key)->part;
    p = withPatternChanged(p, p.patterns[0]->id, [&](Pattern& pattern) {
      Hit hit;
      hit.key = key;
      pattern = withHit(std::move(pattern), part, hit);
    });
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    QVERIFY(notes.size() >= 2);
    QVERIFY(std::holds_alternative<finding::NoPermission>(notes.front().finding));
  }

  /// Judged by hand, against the samples and what the demo is made of: nothing has been written
  /// down of the break's rights, and the kick that was made of it lies 0.6 semitones over the
  /// bass's G and rings with it.
  void whatIsSaidOfTheDemo() {
    JobContext job;
    const auto demo = shippedDemo(TUVVO_DATA_DIR, job);
    QVERIFY(demo.ok());
    LoudnessCache loudness;
    QStringList said;
    for (const auto& note : notesOf(*demo, loudness)) {
      const NoteWords words = wordsOf(note.finding);
      said << QString::fromStdString(words.figure + ": " + words.reason.substr(0, 34));
    }
    QCOMPARE(said, QStringList({"42.0 s unrecorded: pier nine break is heard in the so",
                                "0.6 semitones apart: In Slipway, kick, pier nine break "}));
  }
};

QTEST_APPLESS_MAIN(TestNoteCasesBeat)
#include "tst_note_cases_beat.moc"
