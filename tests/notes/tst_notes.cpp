#include "cut/slicing.h"
#include "model/edits.h"
#include "notes/notes.h"
#include "support.h"
#include "words/note_words.h"

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
  static Project uneven(Id* id, double third = 0.125) {
    Samples out;
    for (double gain : {0.5, 0.5, third, 0.5}) {
      const auto tone = sine(1000, 0.5, 48000, gain);
      out.insert(out.end(), tone.begin(), tone.end());
    }
    Project p = withSource({}, sourceOf(makeSound(out), "uneven"), id);
    CutSettings settings;
    settings.mode = CutMode::Equal;
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
    QCOMPARE(wordsOf(note->finding).figure, std::string("12.0 LU apart"));
    QVERIFY(QString::fromStdString(wordsOf(note->finding).reason).contains("cut 3 the quietest"));
    const Project after = note->fix(p);
    QVERIFY(levelSpread(after, slicesOf(after, id), LevelBy::Whole, loudness).lu < 0.5);
    QVERIFY(!find(notesOf(after, loudness), "levels"));
  }

  // ---- from where on something is said, what is said, and how bad it is ----

  void levelsOfTonesSpeakFromEightUnitsOn_data() {
    QTest::addColumn<double>("quieterDb");
    QTest::addColumn<QString>("figure"); // empty: nothing is said
    QTest::newRow("below") << 7.9 << QString();
    QTest::newRow("from eight on") << 8.1 << QString("8.1 LU apart");
    QTest::newRow("far apart") << 18.1 << QString("18.1 LU apart");
    QTest::newRow("a rest") << 20.5 << QString();
  }
  void levelsOfTonesSpeakFromEightUnitsOn() {
    QFETCH(double, quieterDb);
    QFETCH(QString, figure);
    Id id = 0;
    const Project p = uneven(&id, 0.5 * std::pow(10, -quieterDb / 20));
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "levels");
    QCOMPARE(note != nullptr, !figure.isEmpty());
    if (!note) return;
    QCOMPARE(QString::fromStdString(wordsOf(note->finding).figure), figure);
    QVERIFY(note->tone == Note::Tone::Taste);
    QVERIFY(note->stage == Stage::Cut);
  }

  void attacksSpeakWhereASnapIsLost() {
    // How long after the hit the cuts are, in ms. To 1.5 ms they are before what is heard of it;
    // after 25 ms the hit is over.
    Id id = 0;
    LoudnessCache loudness;
    for (const auto& [ms, speaks] :
         {std::pair{1.0, false}, {2.0, true}, {24.0, true}, {26.0, false}}) {
      const auto notes = notesOf(struck(ms / 1000, &id), loudness);
      const Note* note = find(notes, "attacks");
      QVERIFY2((note != nullptr) == speaks, qPrintable(QString::number(ms)));
      if (!note) continue;
      QVERIFY(note->tone == Note::Tone::Trouble);
      QVERIFY(wordsOf(note->finding).reason.find("In struck") == 0);
      QCOMPARE(wordsOf(note->finding).action, std::string("Cut before the attack"));
    }
    // One of them is counted as one.
    const Project one = withSourceChanged(struck(0.012, &id), id, [](Source& s) {
      for (std::size_t i = 1; i < s.cuts.size(); ++i) s.cuts[i].start.value -= 48 * 13;
    });
    QCOMPARE(wordsOf(find(notesOf(one, loudness), "attacks")->finding).figure,
             std::string("1 cut in an attack"));
  }

  void deadAirSpeaksFromThirtyMillisecondsOn() {
    Id id = 0;
    LoudnessCache loudness;
    for (const auto& [ms, speaks] : {std::pair{28.0, false}, {32.0, true}}) {
      const auto notes = notesOf(struck(-ms / 1000, &id), loudness);
      const Note* note = find(notes, "dead air");
      QVERIFY2((note != nullptr) == speaks, qPrintable(QString::number(ms)));
      if (!note) continue;
      QVERIFY(wordsOf(note->finding).reason.find("4 slices wait") != std::string::npos);
      // A millisecond before the sound is left.
      const Project after = note->fix(struck(-ms / 1000, &id));
      const auto& cut = after.sources[0]->cuts[0];
      const auto& sound = *after.sources[0]->sound;
      const float peak = peakOf(sound, cut.start, cut.end);
      QVERIFY(peakOf(sound, cut.start, cut.start + Frames(40)) < peak * 0.004f);
      QVERIFY(peakOf(sound, cut.start, cut.start + Frames(60)) > peak * 0.003f);
    }
  }

  void clicksSpeakOfEdgesWithoutFades() {
    Id id = 0;
    LoudnessCache loudness;
    // A tone cut in its middle: what stands at the edges is set by hand.
    const auto edges = [&](float first, float last, double inMs, double outMs) {
      Samples samples(4800, 0.0f);
      samples[1000] = first;
      samples[1999] = last;
      samples[1500] = 0.5f;
      Project p = withSource({}, sourceOf(makeSound(samples, 48000), "edges"), &id);
      Cut cut;
      cut.start = Frames(1000);
      cut.end = Frames(2000);
      cut.fadeIn = Milliseconds(inMs);
      cut.fadeOut = Milliseconds(outMs);
      return withCuts(p, id, {}, {cut});
    };
    QVERIFY(find(notesOf(edges(0.03f, 0, 0, 4), loudness), "clicks"));
    QVERIFY(find(notesOf(edges(0, -0.03f, 1, 0), loudness), "clicks"));
    QVERIFY(!find(notesOf(edges(0.015f, -0.015f, 0, 0), loudness), "clicks")); // too soft to tick
    QVERIFY(!find(notesOf(edges(0.3f, 0, 0.3, 4), loudness), "clicks"));       // faded
    QVERIFY(!find(notesOf(edges(0, 0.3f, 1, 0.6), loudness), "clicks"));
    QCOMPARE(wordsOf(find(notesOf(edges(0.3f, 0, 0, 4), loudness), "clicks")->finding).figure,
             std::string("1 edge clicks"));
    const Project after =
        find(notesOf(edges(0.3f, 0.3f, 0, 0), loudness), "clicks")->fix(edges(0.3f, 0.3f, 0, 0));
    QCOMPARE(after.sources[0]->cuts[0].fadeIn.value, 1.0);
    QCOMPARE(after.sources[0]->cuts[0].fadeOut.value, 4.0);
  }

  void stretchingSpeaksByWhatIsStretched() {
    // More than 12 per cent of tones and 25 of hits.
    Source source = sourceOf(drumLoop(100, 16), "far");
    source.heard = Analysis{};
    source.heard->duration = source.sound->duration();
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->downbeats = {Seconds(0)};
    for (int beat = 0; beat < 16; ++beat) source.heard->beats.emplace_back(beat * 0.6);
    source.shape.method = FitMethod::Stretch;
    LoudnessCache loudness;
    for (const auto& [material, percent, speaks] : {std::tuple{Material::Tones, 11.5, false},
                                                    {Material::Tones, 12.5, true},
                                                    {Material::Hits, 24.5, false},
                                                    {Material::Hits, 25.5, true},
                                                    {Material::Tones, -12.5, true}}) {
      source.shape.material = material;
      Project p = withSource({}, source);
      p.tempo = Bpm(100 / (1 + percent / 100));
      QVERIFY2((find(notesOf(p, loudness), "stretching") != nullptr) == speaks,
               qPrintable(QString::number(percent)));
    }
  }

  void barsSpeakFromATenthOfABeatOn() {
    LoudnessCache loudness;
    for (const auto& [beats, speaks] :
         {std::pair{16.08, false}, {15.92, false}, {15.88, true}, {15.8, true}}) {
      const double bpm = 100 * beats / 16; // 16 beats of 100 BPM heard at another tempo
      Source source = sourceOf(drumLoop(100, 16), "loop");
      source.heard = Analysis{};
      source.heard->tempo.emplace().bpm = Bpm(bpm);
      source.heard->downbeats = {Seconds(0)};
      QVERIFY2((find(notesOf(withSource({}, source), loudness), "bars") != nullptr) == speaks,
               qPrintable(QString::number(beats)));
    }
    // Within four per cent of whole bars the tempo may be wrong.
    for (const auto& [bpm, speaks] :
         {std::pair{103.9, true}, {96.2, true}, {104.5, false}, {95.5, false}}) {
      const Note* note = nullptr;
      const auto notes = notesOf(withSource({}, heardAt(bpm)), loudness);
      for (const auto& each : notes)
        if (std::holds_alternative<finding::TempoOfWholeBars>(each.finding)) note = &each;
      QVERIFY2((note != nullptr) == speaks, qPrintable(QString::number(bpm)));
      if (note) QCOMPARE(wordsOf(note->finding).action, std::string("Hear it at 100.00 BPM"));
    }
  }

  /// Four bars of drums at 100 BPM, with its beats where they are and another tempo.
  static Source heardAt(double bpm) {
    Source source = sourceOf(drumLoop(100, 16), "loop");
    source.heard = Analysis{};
    source.heard->tempo.emplace().bpm = Bpm(bpm);
    source.heard->downbeats = {Seconds(0)};
    for (int beat = 0; beat < 16; ++beat) source.heard->beats.emplace_back(beat * 0.6);
    return source;
  }

  /// So many bars of 100 BPM, as it is heard.
  static Source barsOfDrums(double bars) {
    Source source = sourceOf(drumLoop(100, 4), "bars");
    source.sound = makeSound(Samples(std::size_t(bars * 2.4 * 8000), 0.1f), 8000);
    source.heard = Analysis{};
    source.heard->duration = source.sound->duration();
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->downbeats = {Seconds(0)};
    return source;
  }

  void barsSpeakOfWhatMayBeALoop() {
    LoudnessCache loudness;
    for (const auto& [bars, speaks] : {std::pair{0.55, false},
                                       {0.65, true},
                                       {1.0, false},
                                       {1.4, true},
                                       {32.6, true},
                                       {33.2, false}})
      QVERIFY2((find(notesOf(withSource({}, barsOfDrums(bars)), loudness), "bars") != nullptr) ==
                   speaks,
               qPrintable(QString::number(bars)));
  }

  void wholeBarsAreCutByBeats() {
    LoudnessCache loudness;
    for (const auto& [bars, whole] : {std::pair{2.6, 2}, {0.7, 1}, {3.2, 3}}) {
      const Project p = withSource({}, barsOfDrums(bars));
      const Project after = find(notesOf(p, loudness), "bars")->fix(p);
      const Source& source = *after.sources[0];
      QVERIFY(source.cutting.mode == CutMode::Beats && source.cutting.perBeat == 1);
      const int beats = std::min(whole * 4, int(std::ceil(bars * 4)));
      QCOMPARE(int(source.cuts.size()), beats);
      for (int beat = 0; beat < beats; ++beat)
        QCOMPARE(source.cuts[std::size_t(beat)].start.value,
                 std::int64_t(std::llround(beat * 0.6 * 8000)));
      QCOMPARE(
          source.cuts.back().end.value,
          std::min(source.sound->frames().value, std::int64_t(std::llround(whole * 2.4 * 8000))));
    }
  }

  void hushedNotesStaySilent() {
    Id id = 0;
    Project p = uneven(&id);
    LoudnessCache loudness;
    p.dismissedNotes.insert(find(notesOf(p, loudness), "levels")->id);
    QVERIFY(!find(notesOf(p, loudness), "levels"));
  }

  void aLoopThatIsNoWholeNumberOfBars() {
    const Source source = heardAt(101.5);
    Project p = withSource({}, source);
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "bars");
    QVERIFY(note);
    QCOMPARE(wordsOf(note->finding).action, std::string("Hear it at 100.00 BPM"));
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
    source.heard = Analysis{};
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
    QCOMPARE(wordsOf(note->finding).figure, std::string("4 cuts in attacks"));
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
    QVERIFY(wordsOf(note->finding).figure.starts_with("60 ms") ||
            wordsOf(note->finding).figure.starts_with("61 ms"));
    const Project after = note->fix(p);
    QVERIFY(!find(notesOf(after, loudness), "dead air"));
    QVERIFY(after.sources[0]->cuts[0].start > p.sources[0]->cuts[0].start);
  }

  void stretchingThatIsHeardHasAnotherWay() {
    Source source = sourceOf(drumLoop(100, 16), "far");
    source.heard = Analysis{};
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
    QCOMPARE(wordsOf(note->finding).figure, std::string("+25 % of length"));
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
    QVERIFY(wordsOf(find(wobble, "stretching")->finding).reason.find("wobble") !=
            std::string::npos);
    QVERIFY(!find(notesOf(find(wobble, "stretching")->fix(p), loudness), "stretching"));
  }

  void aPassageIsCutToWholeBars() {
    Source source = sourceOf(drumLoop(100, 18), "passage"); // four and a half bars
    source.heard = Analysis{};
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->downbeats = {Seconds(0)};
    Project p = withSource({}, source);
    LoudnessCache loudness;
    const auto notes = notesOf(p, loudness);
    const Note* note = find(notes, "bars");
    QVERIFY(note);
    QCOMPARE(wordsOf(note->finding).figure, std::string("4.50 bars"));
    const Project after = note->fix(p);
    QCOMPARE(int(after.sources[0]->cuts.size()), 16);
    QCOMPARE(after.sources[0]->cuts.back().end.value, std::llround(16 * 0.6 * 44100));
  }

  void wholeBarsNeedNoNote() {
    Source source = sourceOf(drumLoop(100, 16), "loop");
    source.heard = Analysis{};
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
    QCOMPARE(wordsOf(note->finding).figure, std::string("8.0 s unrecorded"));
    QVERIFY(QString::fromStdString(wordsOf(note->finding).reason)
                .contains("no safe number of seconds"));
    // As long where it is played backwards, which is a patch of its own.
    Project turned = withPatternChanged(p, id, [](Pattern& changed) {
      for (auto& lane : changed.lanes)
        for (auto& hit : lane.hits) hit.reversed = hit.at.value % (2 * kTicksPerBeat) != 0;
    });
    QVERIFY(std::abs(heardInSong(turned, source).value - 8) < 1e-3);
    // So is what goes by another tempo; there the song ends half a second into the last hit.
    Project faster = withKeyChanged(p, key, [](Key& k) {
      k.treatments = {Treatment{treat::Stutter{}, {}}};
    });
    faster.tempoMarks = {{{wholeBeats(4), Bpm(120), false}, {}}};
    QVERIFY2(std::abs(heardInSong(faster, source).value - 7.5) < 1e-3,
             qPrintable(QString::number(heardInSong(faster, source).value)));
    // Choked by itself at half a beat it is heard half as long.
    Project choked = withKeyChanged(p, key, [](Key& k) { k.choke = 1; });
    choked.tempo = Bpm(120);
    QVERIFY(std::abs(heardInSong(choked, source).value - 4.0) < 1e-3);
  }
};

QTEST_APPLESS_MAIN(TestNotes)
#include "tst_notes.moc"
