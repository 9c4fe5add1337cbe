// What one hit does with its key's sound: a glide and treatments of its own, against closed forms.
#include "formats/project_json.h"
#include "model/edits.h"
#include "play/engine.h"
#include "play/patch_writer.h"
#include "play/print.h"
#include "support.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr double kRate = 48000;

/// One long sine on a key, and a pattern of one bar at 120 BPM.
struct Tone {
  Project project;
  Id key = 0, pattern = 0;

  explicit Tone(double hz = 200, double seconds = 1.5) : Tone(sine(hz, seconds, kRate)) {}
  explicit Tone(Samples sound) {
    project.tempo = Bpm(120);
    Id source = 0;
    project = withSource(std::move(project), sourceOf(makeSound(std::move(sound))), &source);
    project = withKeySound(std::move(project), Row::Body, 0, 0, {source, 0}, "tone", &key);
    Pattern made;
    made.bars = 1;
    project = withPattern(std::move(project), made, &pattern);
  }
  void add(double beats, const std::function<void(Hit&)>& change) {
    const Id part = findKey(project, key)->part;
    project = withPatternChanged(project, pattern, [&](Pattern& p) {
      Hit hit;
      hit.at = at(beats);
      hit.key = key;
      hit.velocity = 1;
      change(hit);
      laneOf(p, part).hits.push_back(hit);
    });
  }
  /// Rounds of the pattern, printed.
  Samples printed(int rounds = 1) {
    Section section;
    section.pattern = pattern;
    section.bars = rounds;
    Project song = withSection(project, section, 0);
    BakeCache bakes(1, [] {});
    JobContext job;
    const auto score = bakedSong(song, {}, bakes, job);
    PrintOptions options;
    options.limiter = false;
    const auto sound = print(*score, options, job);
    const auto samples = (*sound)->channel(0);
    return {samples.begin(), samples.end()};
  }
};

/// Cycles between two times, by rising zero crossings.
int cyclesIn(const Samples& sound, double fromS, double untilS) {
  int rising = 0;
  for (auto i = std::size_t(fromS * kRate) + 1; i < std::size_t(untilS * kRate); ++i)
    if (sound[i - 1] < 0 && sound[i] >= 0) ++rising;
  return rising;
}

bool near(double a, double b, double most) {
  if (std::abs(a - b) <= most) return true;
  qWarning("%g is not %g", a, b);
  return false;
}

} // namespace

class TestHitSound : public QObject {
  Q_OBJECT
private slots:
  // Evenly in semitones over T from n semitones off: the cycles on the way are the integral of
  // f · 2^(n (1 − t/T) / 12), which is f T (2^(n/12) − 1) · 12 / (n ln 2).
  void aHitBeginsOffItsPitch() {
    for (double from : {-12.0, 12.0, 7.0}) {
      Tone tone;
      tone.add(0, [&](Hit& hit) { hit.glide = {Milliseconds(500), Semitones(from)}; });
      const Samples out = tone.printed();
      const double way = 200 * 0.5 * (std::exp2(from / 12) - 1) * 12 / (from * std::log(2.0));
      QVERIFY(near(cyclesIn(out, 0, 0.5), way, 1));
      QVERIFY(near(cyclesIn(out, 0.5, 0.9), 200 * 0.4, 1));
    }
  }

  void withoutATimeItTakesTheUsualOne() {
    Tone tone;
    tone.add(0, [](Hit& hit) { hit.glide.from = Semitones(12); });
    const Samples out = tone.printed();
    QVERIFY(near(cyclesIn(out, 0, 0.1), 200 * 0.1 / std::log(2.0), 1));
    QVERIFY(near(cyclesIn(out, 0.1, 0.5), 200 * 0.4, 1));
  }

  void aHitHasAGlideOfItsOwnOnAMonoKey() {
    for (double ms : {0.0, 100.0, 400.0}) {
      Tone tone;
      tone.project = withKeyChanged(std::move(tone.project), tone.key, [](Key& key) {
        key.gate = key.mono = key.legato = true;
        key.glide = Milliseconds(250);
      });
      tone.add(0, [](Hit& hit) { hit.length = wholeBeats(2); });
      tone.add(1, [&](Hit& hit) {
        hit.length = wholeBeats(2);
        hit.tune = Semitones(12);
        hit.glide.time = Milliseconds(ms);
        hit.glide.from = Semitones(-24); // something sounds: it glides from that
      });
      const Samples out = tone.printed();
      const double way = ms / 1000 * 200 / std::log(2.0), rest = 400 * (0.45 - ms / 1000);
      QVERIFY(near(cyclesIn(out, 0.5, 0.95), way + rest, 1.5));
    }
  }

  void glidesComeBackFromFiles() {
    Tone tone;
    tone.add(0, [](Hit& hit) { hit.glide = {Milliseconds(120), Semitones(-5)}; });
    HitTreatments::List list;
    list.treatments = {{treat::Stutter{}}, {treat::Reverse{}, false}};
    list.every = 4;
    list.turn = 3;
    tone.add(1, [&](Hit& hit) { hit.treatments = HitTreatments(list); });
    const auto read = projectFromText(projectToText(tone.project, 1), "test");
    QVERIFY(read.ok());
    QVERIFY(*read->project.patterns[0] == *tone.project.patterns[0]);
    // Hits of equal treatments are equal, whoever holds them.
    QVERIFY(HitTreatments(list) == HitTreatments(list));
    list.turn = 2;
    QVERIFY(!(HitTreatments(list) == tone.project.patterns[0]->lanes[0].hits[1].treatments));
    QVERIFY(HitTreatments(HitTreatments::List{{}, 3, 2}).empty());
  }

  // A ramp tells which way it is played: treated by Reverse it comes from its end.
  void oneHitIsTreatedAndTheOthersAreNot() {
    Samples ramp(4800);
    for (std::size_t i = 0; i < ramp.size(); ++i) ramp[i] = float(0.1 + 0.5 * double(i) / 4800);
    Tone tone{ramp};
    tone.add(0, [](Hit&) {});
    HitTreatments::List list;
    list.treatments = {{treat::Reverse{}}};
    tone.add(1, [&](Hit& hit) { hit.treatments = HitTreatments(list); });
    const Samples out = tone.printed();
    const auto first = std::size_t(0), second = std::size_t(24000);
    for (std::size_t i = 100; i < 4700; i += 100) {
      QVERIFY(near(double(out[first + i]), double(ramp[i]), 1e-3));
      QVERIFY(near(double(out[second + i]), double(ramp[ramp.size() - 1 - i]), 1e-3));
    }
    QCOMPARE(bakesOf(tone.project).size(), std::size_t(1)); // ready before it is struck
  }

  void everyNthTimeRoundItIsTreated() {
    Samples ramp(4800);
    for (std::size_t i = 0; i < ramp.size(); ++i) ramp[i] = float(0.1 + 0.5 * double(i) / 4800);
    Tone tone{ramp};
    HitTreatments::List list;
    list.treatments = {{treat::Reverse{}}};
    list.every = 3;
    list.turn = 2;
    tone.add(0, [&](Hit& hit) { hit.treatments = HitTreatments(list); });
    const Samples out = tone.printed(7);
    for (int round = 0; round < 7; ++round) {
      const auto at = std::size_t(round) * 96000 + 200;
      const bool treated = round % 3 == 1;
      QVERIFY(near(double(out[at]), double(treated ? ramp[4799 - 200] : ramp[200]), 1e-3));
    }
    // The same live, round and round.
    BakeCache bakes(1, [] {});
    CompileOptions options;
    JobContext job;
    const auto made = bakes.bakeAll(bakesOf(tone.project), job);
    QVERIFY(made.ok());
    options.baked = [&](const BakeOrder& order) { return made->at(order.name); };
    Engine engine;
    engine.setLimiterOff();
    engine.setScore(std::make_shared<Score>(compilePattern(tone.project, tone.pattern, options)));
    engine.send({Engine::Command::Kind::Play});
    Samples left(96000 * 7), right(left.size());
    engine.process(left.data(), right.data(), int(left.size()));
    for (std::size_t i = 0; i < left.size(); i += 97)
      QVERIFY(near(double(left[i]), double(out[i]), 1e-6));
  }

  // More lists than a score may have: what is over is played untreated, each hit once.
  void manyTreatmentsAreBounded() {
    Samples click(480, 0.0f);
    click[0] = 0.5f;
    Tone tone{click};
    const Id part = findKey(tone.project, tone.key)->part;
    tone.project = withPatternChanged(tone.project, tone.pattern, [&](Pattern& p) {
      p.bars = 64;
      for (int i = 0; i < 700; ++i) {
        Hit hit;
        hit.at = Beats(i * (kTicksPerBeat / 4));
        hit.key = tone.key;
        HitTreatments::List list;
        list.treatments = {{treat::Fade{treat::Fade::Where::Out, 1.0 + i * 0.01, 1}}};
        list.every = 2;
        hit.treatments = HitTreatments(list);
        laneOf(p, part).hits.push_back(hit);
      }
    });
    const Score score = compilePattern(tone.project, tone.pattern);
    QVERIFY(score.patches.size() <= kMostTreatedSounds + 1);
    for (std::int64_t pass : {0, 1}) {
      int struck = 0;
      for (const auto& event : score.events) struck += isStruck(event, pass);
      QCOMPARE(struck, 700);
    }
  }
};

QTEST_GUILESS_MAIN(TestHitSound)
#include "tst_hit_sound.moc"
