#include "cut/slicing.h"
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
    std::vector<float> out;
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
    QVERIFY(levelSpread(after, id, loudness).lu < 0.5);
    QVERIFY(!find(notesOf(after, loudness), "levels"));
  }

  void hushedNotesStaySilent() {
    Id id = 0;
    Project p = uneven(&id);
    LoudnessCache loudness;
    p.hushed.insert(find(notesOf(p, loudness), "levels")->id);
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
      Pin pin;
      pin.at = wholeBeats(i);
      pin.key = key;
      laneOf(pattern, findKey(p, key)->part).pins.push_back(pin);
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
