#include "cut/slicing.h"
#include "model/edits.h"
#include "notes/notes.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestNotes : public QObject {
  Q_OBJECT

  static const Note* find(const std::vector<Note>& notes, const std::string& kind) {
    for (const auto& note : notes)
      if (note.id.starts_with(kind)) return &note;
    return nullptr;
  }
  /// Four equal slices of a tone, the third 12 dB quieter.
  static Project uneven(Id* id) {
    Samples out;
    for (double gain : {0.5, 0.5, 0.125, 0.5}) {
      const auto tone = sine(1000, 0.5, 48000, gain);
      out.insert(out.end(), tone.begin(), tone.end());
    }
    Project p = withSource({}, sourceOf(makeSound(out), "uneven"), id);
    CutSettings settings;
    settings.way = CutWay::Equal;
    settings.parts = 4;
    return withCuts(p, *id, settings, cutSource(*findSource(p, *id), settings));
  }

private slots:
  void slicesApartAreMeasuredAndMatched() {
    Id id = 0;
    const Project p = uneven(&id);
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "levels");
    QVERIFY(note);
    QCOMPARE(note->figure, std::string("12.0 LU apart"));
    QVERIFY(QString::fromStdString(note->reason).contains("cut 3 the quietest"));
    const Project after = note->fix(p);
    QVERIFY(levelSpread(after, slicesOf(after, id), LevelBy::Whole, loudness).lu < 0.5);
    QVERIFY(!find(notesOf(after, loudness), "levels"));
  }

  void hushedNotesStaySilent() {
    Id id = 0;
    Project p = uneven(&id);
    LoudnessCache loudness;
    p.dismissedNotes.insert(find(notesOf(p, loudness), "levels")->id);
    QVERIFY(!find(notesOf(p, loudness), "levels"));
  }

  void aLoopThatIsNoWholeNumberOfBars() {
    Source source = sourceOf(drumLoop(100, 16), "loop");
    source.heard = Listening{};
    source.heard->tempo.emplace().bpm = Bpm(101.5);
    source.heard->downbeats = {Seconds(0)};
    Project p = withSource({}, source);
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "bars");
    QVERIFY(note);
    QCOMPARE(note->action, std::string("Hear it at 100.00 BPM"));
    const Project after = note->fix(p);
    QVERIFY(std::abs(after.sources[0]->corrections.tempo->value - 100) < 0.01);
    QVERIFY(!find(notesOf(after, loudness), "bars"));
  }

  /// Four hits half a second apart, heard where they are, cut in four with the starts moved.
  static Project struck(double lateS, Id* id) {
    Samples out(96000, 0.0f);
    Source source;
    for (int hit = 0; hit < 4; ++hit) addHit(out, hit * 0.5 + 0.1, 48000, 200, 0.4);
    source = sourceOf(makeSound(out), "struck");
    source.heard = Listening{};
    source.heard->duration = Seconds(2);
    Project p;
    for (int hit = 0; hit < 4; ++hit) {
      Onset onset;
      onset.at = Seconds(hit * 0.5 + 0.1);
      onset.cut = Seconds(hit * 0.5 + 0.099);
      source.heard->onsets.push_back(onset);
      Cut cut;
      cut.start = toFrames(Seconds(hit * 0.5 + 0.1 + lateS), Hertz(48000));
      cut.end = toFrames(Seconds(hit * 0.5 + 0.45), Hertz(48000));
      source.cuts.push_back(cut);
    }
    const auto cuts = source.cuts;
    source.cuts.clear();
    p = withSource(std::move(p), source, id);
    return withCuts(std::move(p), *id, {}, cuts);
  }

  void cutsInAttacksAreMovedBeforeThem() {
    Id id = 0;
    LoudnessCache loudness;
    QVERIFY(!find(notesOf(struck(-0.001, &id), loudness), "attacks"));
    const Project p = struck(0.012, &id);
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "attacks");
    QVERIFY(note);
    QCOMPARE(note->figure, std::string("4 cuts in attacks"));
    const Project after = note->fix(p);
    QVERIFY(!find(notesOf(after, loudness), "attacks"));
    for (std::size_t i = 0; i < 4; ++i)
      QCOMPARE(after.sources[0]->cuts[i].start,
               toFrames(after.sources[0]->heard->onsets[i].cut, Hertz(48000)));
  }

  void edgesThatClickAreFaded() {
    Id id = 0;
    LoudnessCache loudness;
    Project p = struck(0.002, &id);
    p = withSourceChanged(std::move(p), id, [](Source& s) {
      for (auto& cut : s.cuts) cut.fadeIn = Milliseconds(0);
      QVERIFY(std::abs(s.sound->channel(0)[std::size_t(s.cuts[0].start.value)]) > 0.02f);
    });
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "clicks");
    QVERIFY(note);
    const Project after = note->fix(p);
    QVERIFY(!find(notesOf(after, loudness), "clicks"));
    QCOMPARE(after.sources[0]->cuts[0].fadeIn.value, 1.0);
  }

  void deadAirIsCutAway() {
    Id id = 0;
    LoudnessCache loudness;
    const Project p = struck(-0.06, &id);
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "dead air");
    QVERIFY(note);
    QVERIFY(note->figure.starts_with("60 ms") || note->figure.starts_with("61 ms"));
    const Project after = note->fix(p);
    QVERIFY(!find(notesOf(after, loudness), "dead air"));
    QVERIFY(after.sources[0]->cuts[0].start > p.sources[0]->cuts[0].start);
  }

  void stretchingThatIsHeardHasAnotherWay() {
    Source source = sourceOf(drumLoop(100, 16), "far");
    source.heard = Listening{};
    source.heard->duration = source.sound->duration();
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->key = KeyHeard{{0, true}, 0.9, {}, Cents(0), ""};
    source.heard->downbeats = {Seconds(0)};
    for (int beat = 0; beat < 16; ++beat) source.heard->beats.emplace_back(beat * 0.6);
    source.shape.method = FitMethod::Stretch;
    Id id = 0;
    Project p = withSource({}, source, &id);
    LoudnessCache loudness;
    p.tempo = Bpm(95); // five per cent: not worth a word
    QVERIFY(!find(notesOf(p, loudness), "stretching"));
    p.tempo = Bpm(80);
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "stretching");
    QVERIFY(note);
    QCOMPARE(note->figure, std::string("+25 % of length"));
    const Project after = note->fix(p);
    QVERIFY(after.sources[0]->shape.method != FitMethod::Stretch);
    QVERIFY(!find(notesOf(after, loudness), "stretching"));
    // Between two hits the speed changes more than the whole does.
    p.tempo = Bpm(100);
    p = withSourceChanged(p, id, [](Source& s) {
      s.shape.markers = {{Seconds(2.4), 4}, {Seconds(3.0), 5.2}, {Seconds(4.8), 8}};
    });
    const auto wobble = notesOf(p, loudness);
    QVERIFY(find(wobble, "stretching"));
    QVERIFY(find(wobble, "stretching")->reason.find("wobble") != std::string::npos);
    QVERIFY(!find(notesOf(find(wobble, "stretching")->fix(p), loudness), "stretching"));
  }

  void aPassageIsCutToWholeBars() {
    Source source = sourceOf(drumLoop(100, 18), "passage"); // four and a half bars
    source.heard = Listening{};
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->downbeats = {Seconds(0)};
    Project p = withSource({}, source);
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "bars");
    QVERIFY(note);
    QCOMPARE(note->figure, std::string("4.50 bars"));
    const Project after = note->fix(p);
    QCOMPARE(int(after.sources[0]->cuts.size()), 16);
    QCOMPARE(after.sources[0]->cuts.back().end.value, std::llround(16 * 0.6 * 44100));
  }

  void wholeBarsNeedNoNote() {
    Source source = sourceOf(drumLoop(100, 16), "loop");
    source.heard = Listening{};
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->downbeats = {Seconds(0)};
    LoudnessCache loudness;
    QVERIFY(!find(notesOf(withSource({}, source), loudness), "bars"));
  }

  void unrecordedRightsCountTheirSeconds() {
    // Eight hits of a one-second sound a second apart, each to its own end: eight seconds are
    // heard.
    Id source = 0, key = 0;
    Project p = withSource({}, sourceOf(makeSound(sine(300, 1, 48000)), "loan"), &source);
    p.tempo = Bpm(60);
    p = withKeySound(p, Row::Body, 0, 0, {source, 0}, "loan", &key);
    Pattern pattern;
    for (int i = 0; i < 8; ++i) {
      Hit hit;
      hit.at = wholeBeats(i);
      hit.key = key;
      laneOf(pattern, findKey(p, key)->part).hits.push_back(hit);
    }
    Id id = 0;
    p = withPattern(p, pattern, &id);
    Section s;
    s.pattern = id;
    s.bars = 2;
    p = withSection(p, s, 0);
    QVERIFY(std::abs(heardInSong(p, source).value - 8) < 1e-6);
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "rights");
    QVERIFY(note);
    QCOMPARE(note->figure, std::string("8.0 s unrecorded"));
    QVERIFY(QString::fromStdString(note->reason).contains("no safe number of seconds"));
    QVERIFY(!find(notesOf(note->fix(p), loudness), "rights"));
    // Choked by itself at half a beat it is heard half as long.
    Project choked = withKeyChanged(p, key, [](Key& k) { k.choke = 1; });
    choked.tempo = Bpm(120);
    QVERIFY(std::abs(heardInSong(choked, source).value - 4.0) < 1e-3);
  }
};

QTEST_APPLESS_MAIN(TestNotes)
#include "tst_notes.moc"
