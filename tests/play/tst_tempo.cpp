// A song with two tempi and a ramp between them: everything that goes by the beat goes by it.
#include "formats/project_json.h"
#include "formats/smf_beat.h"
#include "formats/smf_events.h"
#include "play/engine.h"
#include "play/print.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// 60 BPM for eight beats, 120 for four, down to 60 again over four, and on. By hand: on the ramp
/// v(b) = 120 − 15 b, so b beats of it last 60 / −15 · ln(1 − b / 8) s.
const std::vector<TempoMark> kMarks{{{wholeBeats(8), Bpm(120), false}},
                                    {{wholeBeats(12), Bpm(120), false}},
                                    {{wholeBeats(16), Bpm(60), true}}};
double secondsAt(double beats) {
  if (beats <= 8) return beats;
  if (beats <= 12) return 8 + (beats - 8) / 2;
  if (beats <= 16) return 10 - 4 * std::log(1 - (beats - 12) / 8);
  return 10 + 4 * std::log(2.0) + (beats - 16);
}

/// A click on every beat of six bars.
ClickProject songOfTwoTempi() {
  ClickProject out = clickProject({0, 1, 2, 3}, 60, 1);
  out.project.sections[0].bars = 6;
  out.project.tempoMarks = kMarks;
  return out;
}

SoundPtr printed(const Project& project) {
  JobContext job;
  PrintOptions options;
  options.limiter = false;
  BakeCache bakeCache(1, {});
  const auto score = bakedSong(project, {}, bakeCache, job);
  auto sound = score ? print(*score, options, job) : Result<SoundPtr>(score.error());
  return sound ? *sound : nullptr;
}

} // namespace

class TestTempo : public QObject {
  Q_OBJECT
private slots:
  void hitsSoundWhereTheTempoPutsThem() {
    const auto song = songOfTwoTempi();
    const SoundPtr sound = printed(song.project);
    QCOMPARE(sound->frames().value, std::llround(secondsAt(24) * 48000));
    const auto clicks = clicksIn(*sound);
    QCOMPARE(clicks.size(), std::size_t(24));
    for (int beat = 0; beat < 24; ++beat)
      QCOMPARE(clicks[std::size_t(beat)], std::llround(secondsAt(beat) * 48000));
  }

  void whatIsSaidInMillisecondsStaysAsLong() {
    auto song = songOfTwoTempi();
    song.project = withPatternChanged(song.project, song.pattern, [&](Pattern& pattern) {
      for (auto& hit : pattern.lanes[0].hits) hit.microTiming = Milliseconds(20);
    });
    const auto clicks = clicksIn(*printed(song.project));
    QCOMPARE(clicks.size(), std::size_t(24));
    for (int beat = 0; beat < 24; ++beat)
      QCOMPARE(clicks[std::size_t(beat)], std::llround((secondsAt(beat) + 0.02) * 48000));
  }

  void rollsAndHeldNotesFollowTheBeat() {
    auto song = songOfTwoTempi();
    song.project = withPatternChanged(song.project, song.pattern, [&](Pattern& pattern) {
      auto& hits = pattern.lanes[0].hits;
      hits.resize(1);
      hits[0].roll = {2, wholeBeats(1), 1, {}};
      hits[0].length = at(0.5);
    });
    const Score score = compileSong(song.project);
    QCOMPARE(score.events.size(), std::size_t(12));
    for (std::size_t i = 0; i < score.events.size(); ++i) {
      const double beat = double(i / 2 * 4 + i % 2);
      QCOMPARE(score.events[i].frame.value, std::llround(secondsAt(beat) * 48000));
      QCOMPARE(score.events[i].hold.value,
               std::llround((secondsAt(beat + 0.5) - secondsAt(beat)) * 48000));
    }
  }

  void theMetronomeCountsInAndGoesAlong() {
    auto song = songOfTwoTempi();
    song.project =
        withKeyChanged(song.project, song.key, [](Key& key) { key.muteSolo.muted = true; });
    const auto score = std::make_shared<Score>(compileSong(song.project));
    Engine engine;
    engine.setLimiterOff();
    engine.setScore(score);
    Engine::Command metronome{Engine::Command::Kind::Metronome};
    metronome.on = true;
    engine.send(metronome);
    Engine::Command play{Engine::Command::Kind::Play};
    play.frame = score->frameAt(-4);
    QCOMPARE(play.frame.value, std::int64_t(-4 * 48000)); // at the first tempo
    engine.send(play);
    const auto total = std::size_t((score->length - play.frame).value);
    Samples left(total), right(total);
    for (std::size_t at = 0; at < total; at += 500)
      engine.process(left.data() + at, right.data() + at,
                     int(std::min<std::size_t>(500, total - at)));
    std::vector<std::int64_t> clicks;
    std::int64_t loud = -10'000;
    for (std::size_t i = 0; i < total; ++i)
      if (std::abs(left[i]) > 1e-4f) {
        if (std::int64_t(i) - loud > 6000) clicks.push_back(std::int64_t(i));
        loud = std::int64_t(i);
      }
    QCOMPARE(clicks.size(), std::size_t(28));
    for (int beat = -4; beat < 24; ++beat)
      QVERIFY(std::abs(clicks[std::size_t(beat + 4)] -
                       (std::llround(secondsAt(beat) * 48000) + 4 * 48000)) <= 2);
  }

  void thePlaceStaysInBeatsWhenTheTempoChanges() {
    auto song = songOfTwoTempi();
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(song.project)));
    Engine::Command play{Engine::Command::Kind::Play};
    play.frame = EngineFrames(std::llround(secondsAt(14) * 48000));
    engine.send(play);
    Samples left(64), right(64);
    engine.process(left.data(), right.data(), 64);
    const double before = engine.positionBeats();
    QVERIFY(std::abs(before - 14) < 0.01);
    song.project.tempoMarks[2].change.tempo = Bpm(90);
    song.project.tempoMarks[0].change.tempo = Bpm(100);
    engine.setScore(std::make_shared<Score>(compileSong(song.project)));
    engine.process(left.data(), right.data(), 64);
    QVERIFY(std::abs(engine.positionBeats() - before) < 0.01);
  }

  void aRollByHandFallsOnTheLinesOfTheBeat() {
    auto song = songOfTwoTempi();
    song.project = withPatternChanged(song.project, song.pattern,
                                      [](Pattern& pattern) { pattern.lanes[0].hits.clear(); });
    const auto score = std::make_shared<Score>(compileSong(song.project));
    Engine engine;
    engine.setLimiterOff();
    engine.setScore(score);
    Engine::Command play{Engine::Command::Kind::Play};
    play.frame = score->frameAt(11);
    engine.send(play);
    Engine::Command strike{Engine::Command::Kind::Strike};
    strike.key = song.key;
    strike.velocity = 1;
    strike.roll.beats = 0.5;
    engine.send(strike);
    Samples left(4 * 48000), right(4 * 48000);
    for (std::size_t at = 0; at < left.size(); at += 480)
      engine.process(left.data() + at, right.data() + at, 480);
    const auto clicks = clicksIn(*makeSound(std::move(left)));
    QVERIFY(clicks.size() >= 10);
    for (std::size_t i = 0; i < 10; ++i)
      QVERIFY(std::abs(clicks[i] - (std::llround(secondsAt(11 + double(i) / 2) * 48000) -
                                    play.frame.value)) <= 1);
  }

  void whatIsStretchedIsBakedForTheTempoWhereItSounds() {
    // Kick and snare, stretched to the beat: its second hit comes a beat after the first, whatever
    // the tempo is there.
    Id source = 0, key = 0;
    Source loop = sourceOf(drumLoop(100, 4, 48000));
    loop.corrections.tempo = Bpm(100);
    loop.corrections.downbeat = Seconds(0);
    loop.corrections.kind = SoundKind::Loop;
    loop.shape.method = FitMethod::Stretch;
    Project p = withSource({}, std::move(loop), &source);
    p.tempo = Bpm(60);
    p = withKeySound(std::move(p), Row::Cuts, 0, 0, {source, 0}, "loop", &key);
    Pattern pattern;
    pattern.bars = 1;
    Hit hit;
    hit.key = key;
    hit.velocity = 1;
    laneOf(pattern, findKey(p, key)->part).hits = {hit};
    Id id = 0;
    p = withPattern(std::move(p), pattern, &id);
    Section section;
    section.pattern = id;
    section.bars = 6;
    p = withSection(std::move(p), section, 0);
    p.tempoMarks = kMarks;
    // Struck at 60, 60, 120, on the ramp's beginning at 120, 60, 60.
    QCOMPARE(bakesOf(p).size(), std::size_t(2));
    const SoundPtr sound = printed(p);
    QVERIFY(sound);
    const auto loudestNear = [&](double seconds) {
      const auto at = std::int64_t(seconds * 48000);
      return peakOf(*sound, Frames(at - 1000), Frames(at + 3000));
    };
    const auto quietBefore = [&](double seconds) {
      const auto at = std::int64_t(seconds * 48000);
      return peakOf(*sound, Frames(at - 4000), Frames(at - 1500));
    };
    for (double beat : {1.0, 5.0, 9.0, 17.0}) { // snares: each at its own tempo's beat
      QVERIFY(loudestNear(secondsAt(beat)) > 0.3f);
      QVERIFY(quietBefore(secondsAt(beat)) < 0.1f);
    }
  }

  void itIsSavedAndRead() {
    auto song = songOfTwoTempi();
    const std::string text = projectToText(song.project, 1);
    const auto read = projectFromText(text, "here");
    QVERIFY(read.ok());
    QVERIFY(read->project.tempoMarks == song.project.tempoMarks);
    QVERIFY(read->warnings.empty());
    // What a later version says about a mark stays, and so do marks out of order.
    auto odd = text;
    const auto place = odd.find("\"ramp\": true");
    QVERIFY(place != std::string::npos);
    odd.insert(place, "\"curve\": \"slow\", ");
    const auto again = projectFromText(odd, "here");
    QVERIFY(again.ok());
    QVERIFY(projectToText(again->project, 1).find("\"curve\": \"slow\"") != std::string::npos);
  }

  void midiFilesCarryIt() {
    const auto song = songOfTwoTempi();
    QTemporaryDir folder;
    const std::filesystem::path path = folder.filePath("song.mid").toStdString();
    QVERIFY(writeSmf(compileSong(song.project), song.project, true, path, Freely{}).ok());
    // Read by plain arithmetic: every note lies where it was heard, to a tenth of a millisecond.
    const auto events = readSmfFile(path);
    QVERIFY(events.ok());
    double now = 0, quarters = 0, micros = 500'000;
    std::vector<double> notes;
    for (const auto& event : events->events) {
      now += (event.quarters - quarters) * micros * 1e-6;
      quarters = event.quarters;
      if (event.bytes.size() == 5 && event.bytes[0] == 0xff && event.bytes[1] == 0x51)
        micros = event.bytes[2] << 16 | event.bytes[3] << 8 | event.bytes[4];
      if ((event.bytes[0] & 0xf0) == 0x90 && event.bytes[2] > 0) notes.push_back(now);
    }
    QCOMPARE(notes.size(), std::size_t(24));
    for (int beat = 0; beat < 24; ++beat)
      QVERIFY2(std::abs(notes[std::size_t(beat)] - secondsAt(beat)) < 1e-4,
               qPrintable(QString::number(notes[std::size_t(beat)] - secondsAt(beat))));
    // And by our own reader: the same marks, the same beats.
    const auto read = readSmfBeat(path, song.project, "again", {});
    QVERIFY(read.ok());
    QVERIFY(std::abs(read->tempo.value - 60) < 1e-3);
    QCOMPARE(read->tempoChanges.size(), kMarks.size());
    for (std::size_t i = 0; i < kMarks.size(); ++i) {
      const auto &has = read->tempoChanges[i], &want = kMarks[i].change;
      QVERIFY2(has.at == want.at, qPrintable(QString::number(inBeats(has.at), 'g', 12)));
      QCOMPARE(has.ramp, want.ramp);
      QVERIFY(std::abs(has.tempo.value - want.tempo.value) < 0.02);
    }
    QCOMPARE(read->pattern.bars, 6);
  }
};

QTEST_GUILESS_MAIN(TestTempo)
#include "tst_tempo.moc"
