// Which chord sounds when; a bass that follows rendered progressions whose roots are known; chords
// by name.
#include "tones/bass_line.h"
#include "tones/chord.h"

#include "beat/hand.h"
#include "beat/pattern_edits.h"
#include "cut/slicing.h"
#include "formats/pattern_json.h"
#include "formats/shipped.h"
#include "listen/analyse.h"
#include "play/print.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A chord as a plucked keyboard plays it: six falling partials a tone, the root an octave under.
void addChord(Samples& out, const ChordName& name, double fromS, double toS, double rate,
              double cents = 0) {
  std::vector<int> notes = voiced(name, 0, 55);
  notes.push_back(noteAbove(name.root, 40));
  for (int note : notes)
    for (int partial = 1; partial <= 6; ++partial) {
      const double hz = frequencyOf(note + cents / 100).value * partial;
      const auto from = std::size_t(fromS * rate),
                 to = std::min(out.size(), std::size_t(toS * rate));
      for (std::size_t i = from; i < to; ++i) {
        const double t = double(i - from) / rate;
        out[i] += float(0.09 / partial * std::exp(-t * (1.2 + 0.4 * partial)) *
                        std::min(1.0, t / 0.004) * std::sin(2 * M_PI * hz * t));
      }
    }
}

Id keyNamed(const Project& project, const std::string& name) {
  for (const auto& key : project.keys)
    if (nameOf(project, key) == name) return key.id;
  qFatal("no key %s", name.c_str());
}

struct Progression {
  std::vector<ChordName> chords; ///< one a bar
  double bpm;
  Source source;
};
/// Four bars, each chord struck on every beat, listened to.
Progression progression(std::vector<ChordName> chords, double bpm, double cents = 0) {
  const double rate = 44100, beat = 60 / bpm;
  Samples out(std::size_t(std::llround(double(chords.size()) * 4 * beat * rate)), 0.0f);
  for (std::size_t bar = 0; bar < chords.size(); ++bar)
    for (int b = 0; b < 4; ++b)
      addChord(out, chords[bar], (double(bar) * 4 + b) * beat, (double(bar) * 4 + b + 1) * beat,
               rate, cents);
  Progression made{std::move(chords), bpm,
                   sourceOf(makeSound(std::move(out), rate), "landing stage")};
  JobContext job;
  made.source.heard = analyse(*made.source.sound, job);
  return made;
}

/// A beat with the deck that ships, a source cut at its beats, and a pattern of four bars that
/// plays those slices in an order.
struct Setting {
  Project project;
  Id source = 0, pattern = 0;
  std::vector<Id> slices; ///< keys
  Id kick = 0, bass = 0;
};
Setting settingOf(const Source& source, double bpm) {
  Setting out;
  JobContext job;
  out.project = newProject(TUVVO_DATA_DIR, job).project;
  out.project.tempo = Bpm(bpm);
  out.project = withSource(std::move(out.project), source, &out.source);
  CutSettings byBeats;
  byBeats.mode = CutMode::Beats;
  const Source& held = *findSource(out.project, out.source);
  out.project = withCuts(out.project, out.source, byBeats, cutSource(held, byBeats));
  for (const auto& cut : findSource(out.project, out.source)->cuts)
    for (const auto& key : out.project.keys)
      if (key.sound == SoundRef{out.source, cut.id}) out.slices.push_back(key.id);
  out.kick = keyAt(out.project, Row::Floor, 0, 0)->id;
  out.bass = keyNamed(out.project, "bass C2");
  Pattern pattern;
  pattern.bars = 4;
  out.project = withPattern(std::move(out.project), pattern, &out.pattern);
  return out;
}

void strike(Setting& s, Id key, double beat, double tune = 0) {
  Hit hit;
  hit.at = at(beat);
  hit.key = key;
  hit.tune = Semitones(tune);
  const Id part = findKey(s.project, key)->part;
  s.project = withPatternChanged(std::move(s.project), s.pattern,
                                 [&](Pattern& p) { p = withHit(std::move(p), part, hit); });
}

const Pattern& patternOf(const Setting& s) { return *findPattern(s.project, s.pattern); }

} // namespace

class TestTones : public QObject {
  Q_OBJECT

  /// Whether a key of a one-shot is taken for a kick where its sound has one hit there.
  bool isTakenForAKick(double onsetS, HitClass hit, double trimmedMs = 0) {
    Source source = sourceOf(makeSound(Samples(96'000, 0.1f)), "thud");
    Onset onset;
    onset.at = onset.cut = Seconds(onsetS);
    onset.hits = {hit};
    source.heard.emplace();
    source.heard->kind.kind = SoundKind::OneShot;
    source.heard->onsets = {onset};
    Id id = 0, key = 0, pattern = 0;
    Project p = withSource({}, source, &id);
    p = withKeySound(std::move(p), Row::Floor, 0, 0, {id, 0}, "thud", &key);
    p = withKeyChanged(std::move(p), key, [&](Key& k) { k.trimStart = Milliseconds(trimmedMs); });
    Pattern laid;
    Hit struck;
    struck.key = key;
    laneOf(laid, findKey(p, key)->part).hits = {struck};
    p = withPattern(std::move(p), laid, &pattern);
    return !kicksOf(p, *findPattern(p, pattern)).empty();
  }
private slots:
  /// A one-shot's hit may come up to a tenth of a second after its beginning.
  void whatIsAKick() {
    QVERIFY(isTakenForAKick(0.001, HitClass::Kick));
    QVERIFY(isTakenForAKick(0.08, HitClass::Kick));
    QVERIFY(!isTakenForAKick(0.2, HitClass::Kick));
    QVERIFY(!isTakenForAKick(0.08, HitClass::Snare));
    QVERIFY(isTakenForAKick(0.58, HitClass::Kick, 500));
    QVERIFY(!isTakenForAKick(0.7, HitClass::Kick, 500));
  }

  // ---- which chord sounds when ----

  void chordsFollowTheSlicesAndTheirTune() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    QVERIFY(made.source.heard->chords.size() >= 4);
    Setting s = settingOf(made.source, 96);
    QCOMPARE(s.slices.size(), std::size_t(16));
    QVERIFY(heardChords(s.project, patternOf(s)).empty());
    // The bars of the source in another order, the third of them three semitones up.
    const std::vector<std::pair<int, int>> order{{2, 0}, {0, 0}, {1, 3}, {3, 0}};
    for (int bar = 0; bar < 4; ++bar)
      for (int b = 0; b < 4; ++b)
        strike(s, s.slices[std::size_t(order[std::size_t(bar)].first * 4 + b)], bar * 4 + b,
               order[std::size_t(bar)].second);
    const auto spans = chordsOf(s.project, patternOf(s));
    const std::array<int, 4> roots{0, 9, 8, 7};
    for (int bar = 0; bar < 4; ++bar) {
      const ChordSpan* span = chordAt(spans, at(bar * 4 + 1.5));
      QVERIFY(span);
      QCOMPARE(span->chord.root, roots[std::size_t(bar)]);
      QCOMPARE(span->source, s.source);
    }
    for (std::size_t i = 1; i < spans.size(); ++i) QVERIFY(spans[i - 1].until <= spans[i].from);
    // The source's own retuning moves them all.
    Project lower = withSourceChanged(
        s.project, s.source, [](Source& source) { source.shape.semitones = Semitones(-2); });
    QCOMPARE(chordAt(chordsOf(lower, patternOf(s)), at(5.5))->chord.root, 7);
    QVERIFY(chordAt({}, at(1)) == nullptr);
  }

  void writtenChordsWin() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    Setting s = settingOf(made.source, 96);
    for (int b = 0; b < 16; ++b) strike(s, s.slices[std::size_t(b)], b);
    Pattern changed = withChord(s.project, patternOf(s), at(5), "Dm7");
    QVERIFY(changed.chords.size() >= 4); // the others are written as they sound
    s.project = withPatternChanged(s.project, s.pattern, [&](Pattern& p) { p = changed; });
    const auto spans = chordsOf(s.project, patternOf(s));
    QCOMPARE(spelt(chordAt(spans, at(6))->chord, {}), std::string("Dm7"));
    QCOMPARE(chordAt(spans, at(2))->chord.root, 9);
    QCOMPARE(chordAt(spans, at(2))->source, Id(0));
    // Lengthening, splitting, joining and the file carry them along.
    const Pattern twice = withBars(changed, 8);
    QCOMPARE(twice.chords.size(), 2 * changed.chords.size());
    const Pattern second = barsOf(twice, 1, 2);
    QCOMPARE(second.chords.front().at, Beats(0));
    QCOMPARE(second.chords.front().name, std::string("Dm7"));
    QCOMPARE(joined(s.project, second, second).chords.size(), 2 * second.chords.size());
    json_read::Reading reading;
    QCOMPARE(patternFromJson(toJson(changed), {}, reading).chords, changed.chords);
    Pattern odd = changed;
    odd.chords.push_back({at(3), "H13"});
    clamp(odd);
    QCOMPARE(odd.chords, changed.chords); // what is no chord is dropped
  }

  /// What is choked, or struck again where only one sounds, sounds no longer than until then.
  void chordsEndWhereTheirSliceDoes() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    for (const bool choked : {false, true}) {
      Setting s = settingOf(made.source, 96);
      // The whole bar of Am twice as long as the pattern's place for it, F in its middle.
      Id whole = 0;
      s.project = withKeySound(s.project, Row::Cuts, 7, 1, {s.source, 0}, "whole", &whole);
      strike(s, whole, 0);
      strike(s, s.slices[4], 2);
      s.project =
          withKeyChanged(s.project, s.slices[4], [&](Key& key) { key.choke = choked ? 3 : 0; });
      s.project = withKeyChanged(s.project, whole, [&](Key& key) { key.choke = choked ? 3 : 0; });
      const auto spans = chordsOf(s.project, patternOf(s));
      QCOMPARE(chordAt(spans, at(1))->chord.root, 9);
      QCOMPARE(chordAt(spans, at(2.5))->chord.root, 5);
      // F lasts a beat; the whole goes on with Am under it, unless it was choked.
      QCOMPARE(chordAt(spans, at(3.5))->chord.root, choked ? 5 : 9);
      QCOMPARE(chordAt(spans, at(9))->chord.root, choked ? 5 : 0);
    }
    // The same by striking a key again that sounds one at a time.
    Setting s = settingOf(made.source, 96);
    Id whole = 0;
    s.project = withKeySound(s.project, Row::Cuts, 7, 1, {s.source, 0}, "whole", &whole);
    s.project = withKeyChanged(s.project, whole, [](Key& key) { key.mono = true; });
    strike(s, whole, 0);
    strike(s, whole, 6); // F has sounded for two beats: Am again
    const auto spans = chordsOf(s.project, patternOf(s));
    QCOMPARE(chordAt(spans, at(5))->chord.root, 5);
    QCOMPARE(chordAt(spans, at(7))->chord.root, 9);
    QCOMPARE(chordAt(spans, at(11))->chord.root, 5);
  }

  void aChordIsWrittenBeforeAllOthers() {
    Pattern pattern;
    pattern.bars = 2;
    pattern.chords = {{at(4), "F", {}}};
    const Pattern before = withChord({}, pattern, at(1), "Am");
    QCOMPARE(before.chords.size(), std::size_t(2));
    QCOMPARE(before.chords[0].name, std::string("Am"));
    QCOMPARE(before.chords[0].at, at(1));
    // Anywhere else it takes the place of the one that sounds there.
    QCOMPARE(withChord({}, before, at(3), "Dm").chords[0].name, std::string("Dm"));
    QCOMPARE(withChord({}, before, at(7), "G").chords[1].name, std::string("G"));
  }

  // ---- a bass that follows ----

  /// Rendered progressions at many keys, tunings and tempos; the bass's notes against the roots
  /// that were written, wherever the ears' chord is right.
  void theBassFollowsTheRoots() {
    int right = 0, notes = 0, chordsRight = 0, places = 0;
    Random random(77);
    const std::vector<std::vector<const char*>> progressions{{"", "m+9", "+5", "+7"},
                                                             {"m", "+8", "+3", "+10"},
                                                             {"m7+2", "7+7", "maj7", "m7+9"},
                                                             {"m", "m+5", "+8", "7+7"}};
    for (int n = 0; n < 12; ++n) {
      const int tonic = int(random.next() % 12);
      std::vector<ChordName> chords;
      for (const char* each : progressions[std::size_t(n) % progressions.size()]) {
        const std::string text = each;
        const auto plus = std::min(text.find('+'), text.size());
        const int up = plus < text.size() ? std::stoi(text.substr(plus + 1)) : 0;
        chords.push_back(chord((spelt(tonic + up, {}) + text.substr(0, plus)).c_str()));
      }
      const double bpm = 78 + 4 * n;
      const auto made = progression(chords, bpm, 40 * random.bipolar());
      Setting s = settingOf(made.source, bpm * 0.97); // repitched a little down, as a record is
      if (s.slices.size() != 16) continue;
      const int retuned = int(random.next() % 5) - 2;
      s.project = withSourceChanged(s.project, s.source, [&](Source& source) {
        source.shape.semitones = Semitones(retuned);
        source.shape.cents = Cents(
            -std::clamp(source.heard->key ? source.heard->key->tuning.value : 0, -50.0, 50.0));
      });
      std::array<int, 4> order{0, 1, 2, 3};
      for (std::size_t i = 3; i > 0; --i) std::swap(order[i], order[random.next() % (i + 1)]);
      for (int bar = 0; bar < 4; ++bar)
        for (int b = 0; b < 4; ++b)
          strike(s, s.slices[std::size_t(order[std::size_t(bar)] * 4 + b)], bar * 4 + b);
      for (double b : {0.0, 2.5, 4.0, 5.75, 8.0, 10.5, 12.0, 14.25}) strike(s, s.kick, b);
      BassPlan plan;
      plan.key = s.bass;
      const auto laid = withBass(s.project, patternOf(s), plan);
      QVERIFY2(laid.ok(), laid.ok() ? "" : laid.error().text().c_str());
      const auto spans = chordsOf(s.project, patternOf(s));
      const Lane* lane = findLane(*laid, findKey(s.project, s.bass)->part);
      QCOMPARE(lane->hits.size(), std::size_t(8));
      for (const auto& hit : lane->hits) {
        const int bar = int(inBeats(hit.at) / 4);
        const int root = (chords[std::size_t(order[std::size_t(bar)])].root + retuned + 24) % 12;
        const int note = noteOf(s.project, hit);
        QVERIFY(note >= plan.lowest && note < plan.lowest + 12);
        ++places;
        if (chordAt(spans, hit.at + Beats(kTicksPerBeat / 16))->chord.root != root) continue;
        ++chordsRight;
        ++notes;
        right += note % 12 == root;
      }
    }
    qInfo() << "bass:" << right << "of" << notes << "notes right where the chord was heard right;"
            << chordsRight << "of" << places << "chords were";
    QVERIFY(places >= 80 && chordsRight >= places * 3 / 4);
    QVERIFY2(right >= 0.95 * notes, qPrintable(QString("%1 of %2").arg(right).arg(notes)));
  }

  void everyRhythmAndChoiceOfNotes() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    Setting s = settingOf(made.source, 96);
    s.project.key = KeyName{9, true};
    s.project = withPatternChanged(s.project, s.pattern, [](Pattern& p) {
      p.chords = {{at(0), "Am"}, {at(4), "F"}, {at(8), "C"}, {at(12), "G"}};
    });
    for (int bar = 0; bar < 4; ++bar)
      for (double b : {0.0, 2.0}) strike(s, s.kick, bar * 4 + b);
    const auto laid = [&](BassPlan plan) {
      plan.key = s.bass;
      const auto made2 = withBass(s.project, patternOf(s), plan);
      if (!made2) qFatal("%s", made2.error().text().c_str());
      return findLane(*made2, findKey(s.project, s.bass)->part)->hits;
    };
    const auto notes = [&](const std::vector<Hit>& hits) {
      std::vector<int> out;
      for (const auto& hit : hits) out.push_back(noteOf(s.project, hit));
      return out;
    };
    BassPlan plan;
    plan.lowest = 28; // E1: A1 33, F1 29, C2 36, G1 31
    QCOMPARE(notes(laid(plan)), (std::vector<int>{33, 33, 29, 29, 36, 36, 31, 31}));
    plan.tones = BassPlan::Tones::Fifths;
    QCOMPARE(notes(laid(plan)), (std::vector<int>{33, 40, 29, 36, 36, 43, 31, 38}));
    plan.tones = BassPlan::Tones::Octaves;
    QCOMPARE(notes(laid(plan)), (std::vector<int>{33, 45, 29, 41, 36, 48, 31, 43}));
    // The step of A minor under or over the next root, on the side it comes from.
    plan.tones = BassPlan::Tones::Approach;
    QCOMPARE(notes(laid(plan)), (std::vector<int>{33, 31, 29, 35, 36, 33, 31, 31}));
    plan.tones = BassPlan::Tones::Roots;
    plan.rhythm = BassPlan::Rhythm::BeforeKick;
    const auto before = laid(plan);
    QCOMPARE(before.size(), std::size_t(8));
    for (const auto& hit : before) {
      QCOMPARE(hit.at.value % (2 * kTicksPerBeat), kTicksPerBeat * 3 / 2);
      QVERIFY(hit.length.value <= kTicksPerBeat / 2); // up to the kick
    }
    // An eighth before bar two it plays what bar two brings.
    QCOMPARE(noteOf(s.project, before[1]), 29);
    plan.rhythm = BassPlan::Rhythm::OnOnes;
    QCOMPARE(notes(laid(plan)), (std::vector<int>{33, 29, 36, 31}));
    plan.rhythm = BassPlan::Rhythm::Answering;
    for (const auto& hit : laid(plan)) QCOMPARE(hit.at.value % (2 * kTicksPerBeat), kTicksPerBeat);
    plan.length = 1.2; // reaches into the next: a key that glides slides there
    const auto gliding = laid(plan);
    QVERIFY(gliding[0].at + gliding[0].length > gliding[1].at);
  }

  void aBassGoesWithTheKickAsItIsHeard() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    Setting s = settingOf(made.source, 96);
    for (int b = 0; b < 16; ++b) strike(s, s.slices[std::size_t(b)], b);
    for (double b : {0.0, 2.75}) strike(s, s.kick, b);
    const Id kickPart = findKey(s.project, s.kick)->part,
             bassPart = findKey(s.project, s.bass)->part;
    s.project = withPatternChanged(s.project, s.pattern, [&](Pattern& p) {
      laneOf(p, kickPart).feel.swing16 = 62;
      laneOf(p, kickPart).feel.microTiming = Milliseconds(7);
      laneOf(p, bassPart).feel.swing8 = 57;
    });
    BassPlan plan;
    plan.key = s.bass;
    const auto laid = withBass(s.project, patternOf(s), plan);
    const ResolvedTiming bass(s.project, *laid, bassPart), kick(s.project, *laid, kickPart);
    const auto &b = findLane(*laid, bassPart)->hits, &k = findLane(*laid, kickPart)->hits;
    for (std::size_t i = 0; i < 2; ++i)
      QVERIFY(std::abs(bass.heardAt(b[i]) - kick.heardAt(k[i])) < 1);
  }

  void bassNotesAreHeldBetweenATenthAndAFifthMore() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    Setting s = settingOf(made.source, 96);
    for (int b = 0; b < 16; ++b) strike(s, s.slices[std::size_t(b)], b);
    for (double b : {0.0, 2.0, 4.0, 6.0, 8.0}) strike(s, s.kick, b);
    const Id bassPart = findKey(s.project, s.bass)->part;
    const auto held = [&](double length) {
      BassPlan plan;
      plan.key = s.bass;
      plan.length = length;
      const auto laid = withBass(s.project, patternOf(s), plan);
      return inBeats(findLane(*laid, bassPart)->hits.front().length); // of two beats
    };
    const double whole = held(1);
    QVERIFY(std::abs(held(0.1) / whole - 0.1) < 0.01);
    QCOMPARE(held(0), held(0.1)); // and no shorter
    QVERIFY(std::abs(held(0.12) / whole - 0.12) < 0.01);
    QVERIFY(held(1.2) > held(1));
    QCOMPARE(held(9), held(1.2));
  }

  void whatIsMissingIsSaid() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    Setting s = settingOf(made.source, 96);
    BassPlan plan;
    plan.key = s.bass;
    const auto noChords = withBass(s.project, patternOf(s), plan);
    QVERIFY(!noChords.ok() && noChords.error().what.find("chords") != std::string::npos);
    ChordPlan chords;
    chords.key = s.bass;
    QVERIFY(!withChordsPlayed(s.project, patternOf(s), chords).ok());
    for (int b = 0; b < 16; ++b) strike(s, s.slices[std::size_t(b)], b);
    const auto noKick = withBass(s.project, patternOf(s), plan);
    QVERIFY(!noKick.ok() && noKick.error().what.find("kick") != std::string::npos);
    plan.rhythm = BassPlan::Rhythm::OnOnes;
    QVERIFY(withBass(s.project, patternOf(s), plan).ok());
    plan.key = keyAt(s.project, Row::Air, 0, 0)->id; // a hat has no note
    const auto noNote = withBass(s.project, patternOf(s), plan);
    QVERIFY(!noNote.ok() && !noNote.error().remedy.empty());
    plan.key = 0;
    QVERIFY(!withBass(s.project, patternOf(s), plan).ok());
  }

  // ---- chords by name, and what is written is what sounds ----

  void chordsArePlayedWithInversionAndStrum() {
    const auto made = progression({chord("Am"), chord("F"), chord("C"), chord("G")}, 96);
    Setting s = settingOf(made.source, 96);
    s.project = withPatternChanged(s.project, s.pattern, [](Pattern& p) {
      p.chords = {{at(0), "Am"}, {at(4), "Fmaj7"}};
    });
    ChordPlan plan;
    plan.key = s.bass;
    plan.inversion = 1;
    plan.lowest = 48;
    plan.strum = Milliseconds(12);
    const auto laid = withChordsPlayed(s.project, patternOf(s), plan);
    const auto& hits = findLane(*laid, findKey(s.project, s.bass)->part)->hits;
    QCOMPARE(hits.size(), std::size_t(7)); // three and four notes
    for (std::size_t i = 0; i < 3; ++i) {
      QCOMPARE(noteOf(s.project, hits[i]), voiced(chord("Am"), 1, 48)[i]);
      QVERIFY(std::abs(hits[i].microTiming.value - 12.0 * double(i)) < 0.01);
    }
    plan.strum = Milliseconds(-10); // from the top
    const auto down = withChordsPlayed(s.project, patternOf(s), plan);
    const auto& other = findLane(*down, findKey(s.project, s.bass)->part)->hits;
    QVERIFY(other[0].microTiming.value > other[2].microTiming.value);
    // Hits of one key at one place and different notes stay beside each other when they are pasted.
    HitClip clip;
    for (std::size_t i = 0; i < 3; ++i) clip.push_back({findKey(s.project, s.bass)->part, hits[i]});
    QCOMPARE(findLane(withPasted(*laid, clip, at(8), 1, Beats(0)), clip[0].part)->hits.size(),
             std::size_t(10));
  }

  void agreeingIsByChordThenByKey() {
    const ChordSpan am{at(0), at(4), chord("Am"), 0};
    const KeyName key{9, true};
    QVERIFY(agrees(60, &am, key) == Agrees::Chord);
    QVERIFY(agrees(62, &am, key) == Agrees::Scale);
    QVERIFY(agrees(61, &am, key) == Agrees::Neither);
    QVERIFY(agrees(62, nullptr, {}) == Agrees::Neither);
  }

  void aOneShotIsTunedToWhatIsWritten() {
    JobContext job;
    Project p = newProject(TUVVO_DATA_DIR, job).project;
    Samples out = sine(110 * ratioOf(Cents(37)), 1.5, 48000, 0.5);
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] *= float(std::exp(-2.0 * double(i) / 48000));
    Source tone = sourceOf(makeSound(out), "bollard");
    tone.heard = analyse(*tone.sound, job);
    QVERIFY2(std::abs(midiNoteOf(tone.heard->root) - 45.37) < 0.05,
             qPrintable(QString::number(midiNoteOf(tone.heard->root))));
    Id source = 0, key = 0;
    p = withSource(std::move(p), tone, &source);
    p = withSoundOnDeck(std::move(p), Row::Floor, {source, 0}, "bollard", &key);
    p = withNoteTuned(std::move(p), key);
    const double note = midiNoteOf(rootOf(p, *findKey(p, key)));
    QVERIFY(std::abs(note - 45) < 0.001);
    // Tuned far off beforehand it still reaches a whole note, within what fine tune may be.
    p = withKeyChanged(std::move(p), key, [](Key& k) { k.fine = Cents(-90); });
    p = withNoteTuned(std::move(p), key);
    const double again = midiNoteOf(rootOf(p, *findKey(p, key)));
    QVERIFY(std::abs(again - std::round(again)) < 0.001);
    QVERIFY(std::abs(findKey(p, key)->fine.value) <= 100);
    const Id hat = keyAt(p, Row::Air, 0, 0)->id;
    QVERIFY(withNoteTuned(p, hat) == p);
  }
};

QTEST_APPLESS_MAIN(TestTones)
#include "tst_tones.moc"
