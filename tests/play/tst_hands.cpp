// Playing by hand: touches, mono and legato, rolls, erasing, mute and solo, when it was struck.
#include "model/edits.h"
#include "play/engine.h"
#include "support.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

using Kind = Engine::Command::Kind;
using Report = Engine::Report;

/// An engine on a project, run by hand; everything it gave and reported is kept.
class Bench {
public:
  explicit Bench(const Project& project, Id pattern = 0) : m_pattern(pattern) {
    m_engine.setLimiterOff();
    set(project);
  }
  void set(const Project& project) {
    m_engine.setScore(std::make_shared<Score>(compilePattern(project, m_pattern)));
  }
  Engine::Command& command(Kind kind, Id key = 0) {
    m_command = Engine::Command{kind};
    m_command.key = key;
    m_command.velocity = 1;
    return m_command;
  }
  void send() { QVERIFY(m_engine.send(m_command)); }
  void send(Kind kind, Id key = 0) {
    command(kind, key);
    send();
  }
  void run(int frames, std::int64_t now = 0, int block = 128) {
    Samples left(static_cast<std::size_t>(block)), right(left.size());
    for (int done = 0; done < frames; done += block) {
      const int n = std::min(block, frames - done);
      m_engine.process(left.data(), right.data(), n, Nanoseconds(now));
      out.insert(out.end(), left.begin(), left.begin() + n);
    }
    Report report{};
    while (m_engine.nextReport(report)) reports.push_back(report);
  }
  std::vector<std::int64_t> hits(float level = 0.05f) const {
    std::vector<std::int64_t> found;
    for (std::size_t i = 0; i < out.size(); ++i)
      if (std::abs(out[i]) > level && (found.empty() || std::int64_t(i) - found.back() > 50))
        found.push_back(std::int64_t(i));
    return found;
  }

  Samples out;
  std::vector<Report> reports;
  Engine& engine() { return m_engine; }

private:
  Engine m_engine;
  Engine::Command m_command{Kind::Stop};
  Id m_pattern;
};

/// Where a command takes effect that was sent at a frame: the engine works in quanta.
constexpr std::int64_t begun(std::int64_t frame) {
  return (frame + kQuantum - 1) / kQuantum * kQuantum;
}

/// One key that plays a long tone.
struct Tone {
  Project project;
  Id key = 0;
};
Tone tone(double hz, const std::function<void(Key&)>& change) {
  Tone out;
  out.project.tempo = Bpm(120);
  Id source = 0;
  out.project =
      withSource(std::move(out.project), sourceOf(makeSound(sine(hz, 8, 48000))), &source);
  out.project =
      withKeySound(std::move(out.project), Row::Body, 0, 0, {source, 0}, "tone", &out.key);
  out.project = withKeyChanged(std::move(out.project), out.key, [&](Key& k) {
    k.envelope.release = Milliseconds(5);
    change(k);
  });
  return out;
}

double pitchOf(std::span<const float> samples) {
  int first = -1, last = -1, count = -1;
  for (std::size_t i = 1; i < samples.size(); ++i)
    if (samples[i - 1] < 0 && samples[i] >= 0) {
      if (first < 0) first = int(i);
      last = int(i);
      ++count;
    }
  return count > 0 ? 48000.0 * count / (last - first) : 0;
}

} // namespace

class TestHands : public QObject {
  Q_OBJECT

private slots:
  void eightKeysAreHeldAndLetGoOnTheirOwn() {
    Tone t = tone(200, [](Key& k) { k.gate = true; });
    Bench bench(t.project);
    for (std::uint32_t touch = 1; touch <= 8; ++touch) {
      auto& strike = bench.command(Kind::Strike, t.key);
      strike.touch = touch;
      strike.velocity = 0.3f;
      strike.tune = float(std::exp2(touch / 12.0));
      bench.send();
    }
    bench.run(4800);
    QCOMPARE(bench.engine().sounding(), 8);
    bench.command(Kind::Release).touch = 3;
    bench.send();
    bench.run(4800);
    QCOMPARE(bench.engine().sounding(), 7);
    QCOMPARE(bench.reports.size(), 9u);
    QCOMPARE(bench.reports.back().key, t.key);
    QCOMPARE(bench.reports.back().touch, 3u);
    QVERIFY(std::abs(bench.reports[4].tune - std::exp2(5 / 12.0f)) < 1e-6f);
    bench.send(Kind::Silence);
    bench.run(4800);
    QCOMPARE(bench.engine().sounding(), 0);
  }

  void aHeldMonoKeyBendsAndGoesBack() {
    Tone t = tone(200, [](Key& k) {
      k.gate = k.mono = true;
      k.glide = Milliseconds(20);
    });
    Bench bench(t.project);
    const auto strike = [&](std::uint32_t touch, double ratio) {
      auto& c = bench.command(Kind::Strike, t.key);
      c.touch = touch;
      c.tune = float(ratio);
      bench.send();
      bench.run(9600);
    };
    const auto last = [&] { return std::span(bench.out).last(4800); };
    strike(1, 1);
    strike(2, 1.5);
    QCOMPARE(bench.engine().sounding(), 1); // bent, not struck anew
    QVERIFY(std::abs(pitchOf(last()) - 300) < 0.5);
    for (std::size_t i = 9600; i < 11000; ++i) // and without a break
      QVERIFY(std::abs(bench.out[i] - bench.out[i - 1]) < 0.03f);
    bench.command(Kind::Release).touch = 2;
    bench.send();
    bench.run(9600);
    QVERIFY(std::abs(pitchOf(last()) - 200) < 0.5); // the finger that is still down
    bench.command(Kind::Release).touch = 1;
    bench.send();
    bench.run(9600);
    QCOMPARE(bench.engine().sounding(), 0);
  }

  void aMonoKeyWithoutLegatoStrikesAnewAndSlides() {
    Tone t = tone(200, [](Key& k) {
      k.mono = true;
      k.glide = Milliseconds(100);
    });
    Bench bench(t.project);
    bench.send(Kind::Strike, t.key);
    bench.run(9600);
    auto& c = bench.command(Kind::Strike, t.key);
    c.touch = 7;
    c.tune = 2;
    bench.send();
    bench.run(1200);
    const double early = pitchOf(std::span(bench.out).last(1000));
    bench.run(9600);
    QCOMPARE(bench.engine().sounding(), 1);
    QVERIFY(early > 205 && early < 260); // from where it was
    QVERIFY(std::abs(pitchOf(std::span(bench.out).last(4000)) - 400) < 1);
  }

  void aHitMayBeginInsideBrighterOrShort() {
    Tone t = tone(6000, [](Key& k) { k.gate = true; });
    Bench bench(t.project);
    auto& c = bench.command(Kind::Strike, t.key);
    c.hold = EngineFrames(2400);
    c.bright = -6; // 20 kHz to 312 Hz
    bench.send();
    bench.run(9600);
    QCOMPARE(bench.engine().sounding(), 0);
    float loudest = 0;
    for (std::size_t i = 480; i < bench.out.size(); ++i)
      loudest = std::max(loudest, std::abs(bench.out[i]));
    QVERIFY(loudest < 0.005f);
    auto& late = bench.command(Kind::Strike, t.key);
    late.from = 0.75f; // two of eight seconds are left
    late.touch = 2;
    bench.send();
    bench.run(95000);
    QCOMPARE(bench.engine().sounding(), 1);
    bench.run(2000);
    QCOMPARE(bench.engine().sounding(), 0);
  }

  // ---- rolls ----

  void aRollStandsOnTheLinesOfTheBeat() {
    auto c = clickProject({}, 120, 1);
    Bench bench(c.project, c.pattern);
    bench.send(Kind::Play);
    bench.run(1000);
    bench.command(Kind::Strike, c.key).roll.beats = 0.25; // 6000 frames
    bench.send();
    bench.run(24000);
    bench.send(Kind::Release, c.key);
    bench.run(24000);
    const std::vector<std::int64_t> wanted{begun(1000), 6000, 12000, 18000, 24000};
    QVERIFY(bench.hits() == wanted);
    QCOMPARE(bench.reports.size(), 6u);
    QCOMPARE(bench.reports[3].frame.value, 18000);
  }

  void aLineJustAfterTheStrikeIsTheStrike() {
    auto c = clickProject({}, 120, 1);
    Bench bench(c.project, c.pattern);
    bench.send(Kind::Play);
    bench.run(5000);
    bench.command(Kind::Strike, c.key).roll.beats = 0.25;
    bench.send();
    bench.run(14000);
    const std::vector<std::int64_t> wanted{begun(5000), 12000, 18000}; // not 6000
    QVERIFY(bench.hits() == wanted);
  }

  void aRollGoesOnOverTheLoopAndWithoutMusic() {
    auto c = clickProject({}, 120, 1);
    Bench bench(c.project, c.pattern);
    auto& strike = bench.command(Kind::Strike, c.key);
    strike.roll.beats = 1 / 3.0; // triplets: 8000 frames
    bench.send();
    bench.run(20000); // nothing plays: from the strike on
    bench.send(Kind::Play);
    bench.run(100000); // the loop is 96000 frames long
    std::vector<std::int64_t> wanted{0, 8000, 16000};
    for (std::int64_t line = 0; line <= 100000; line += 8000)
      if (line < 100000) wanted.push_back(begun(20000) + line);
    QVERIFY(bench.hits() == wanted);
    QCOMPARE(bench.reports.back().pass, 1);
    QCOMPARE(bench.reports.back().frame.value, 0);
  }

  void aRollSwellsClimbsAndObeysTheHand() {
    auto c = clickProject({}, 120, 1);
    Bench bench(c.project, c.pattern);
    auto& strike = bench.command(Kind::Strike, c.key);
    strike.velocity = 0.2f;
    strike.roll = {0.25, 0.4f, 12}; // every half second: .4 harder, an octave up
    bench.send();
    bench.run(24001);
    QCOMPARE(bench.reports.size(), 5u);
    for (int i = 0; i < 5; ++i) {
      QVERIFY(std::abs(bench.reports[std::size_t(i)].velocity - (0.2f + 0.1f * float(i))) < 1e-5f);
      QVERIFY(std::abs(bench.reports[std::size_t(i)].tune - std::exp2(0.25f * float(i))) < 1e-5f);
    }
    bench.command(Kind::Press, c.key).velocity = 0.33f;
    bench.send();
    bench.run(6000);
    QVERIFY(std::abs(bench.reports.back().velocity - 0.33f) < 1e-6f);
  }

  void howARollIsSplitDoesNotMatter() {
    auto c = clickProject({0, 1.5}, 97, 1);
    const auto run = [&](int block) {
      Bench bench(c.project, c.pattern);
      bench.send(Kind::Play);
      bench.command(Kind::Strike, c.key).roll = {0.125, 0.1f, -3};
      bench.send();
      bench.run(160000, 0, block);
      return bench.out;
    };
    const auto whole = run(160000);
    for (int block : {16, 37, 128, 1024}) QVERIFY(run(block) == whole);
  }

  // ---- taking ----

  // Two strikes inside one block are reported where the music was when they were made.
  void aStrikeIsReportedWhenItWasMade() {
    auto c = clickProject({}, 120, 1);
    Bench bench(c.project, c.pattern);
    bench.send(Kind::Play);
    const std::int64_t start = 5'000'000'000;
    bench.run(1024, start, 1024);
    for (std::int64_t after : {5'000'000, 15'000'000}) {
      bench.command(Kind::Strike, c.key).when = Nanoseconds(start + after);
      bench.send();
    }
    bench.command(Kind::Release, c.key).when = Nanoseconds(start + 20'000'000);
    bench.send();
    bench.run(1024, start + 21'333'333, 1024);
    QCOMPARE(bench.reports.size(), 3u);
    QCOMPARE(bench.reports[0].frame.value, 240);
    QCOMPARE(bench.reports[1].frame.value, 720);
    QCOMPARE(bench.reports[2].frame.value, 960);
    QCOMPARE(bench.reports[1].when.value, start + 15'000'000);
    QVERIFY(bench.out[1024] > 0.2f); // and heard at once
    // A time that makes no sense is not believed.
    bench.command(Kind::Strike, c.key).when = Nanoseconds(17);
    bench.send();
    bench.run(128, start + 42'666'666);
    QVERIFY(bench.reports.back().frame.value >= 2048 - 8192);
  }

  void anErasedKeyIsPassedOver() {
    auto c = clickProject({0, 1, 2, 3}, 120, 1);
    Bench bench(c.project, c.pattern);
    bench.send(Kind::Play);
    bench.run(12000);
    bench.command(Kind::Erase, c.key).on = true;
    bench.send();
    bench.run(48000);
    bench.command(Kind::Erase, c.key).on = false;
    bench.send();
    bench.run(36000);
    const std::vector<std::int64_t> wanted{0, 72000};
    QVERIFY(bench.hits() == wanted);
  }

  void clicksHaveALevelAndASound() {
    auto c = clickProject({}, 120, 1);
    std::array<Samples, Engine::kClickSounds> heard;
    for (int sound = 0; sound < Engine::kClickSounds; ++sound) {
      Bench bench(c.project, c.pattern);
      auto& m = bench.command(Kind::Metronome);
      m.on = true;
      m.sound = sound;
      m.level = 0.5f;
      bench.send();
      bench.send(Kind::Play);
      bench.run(48000);
      QVERIFY(!bench.hits(0.02f).empty() && bench.hits(0.02f).front() < 100);
      heard[std::size_t(sound)] = bench.out;
      auto& louder = bench.command(Kind::Metronome);
      louder.on = true;
      louder.sound = sound;
      louder.level = 1;
      bench.send();
      bench.send(Kind::Play);
      bench.out.clear();
      bench.run(48000);
      for (std::size_t i = 0; i < bench.out.size(); i += 7)
        QVERIFY(std::abs(bench.out[i] - 2 * heard[std::size_t(sound)][i]) < 1e-5f);
    }
    QVERIFY(heard[0] != heard[1] && heard[1] != heard[2]);
  }

  // ---- mute and solo ----

  void muteAndSoloWorkByKeyPartAndRole() {
    auto c = clickProject({}, 120, 1);
    Id other = 0;
    Project p = withKeySound(c.project, Row::Air, 0, 0, {c.project.sources[0]->id, 0}, "b", &other);
    const auto heard = [&](const Project& project) {
      const bool any = anySolo(project);
      return std::pair(audible(project, *findKey(project, c.key), any),
                       audible(project, *findKey(project, other), any));
    };
    using Both = std::pair<bool, bool>;
    const auto with = [&](auto change) {
      Project changed = p;
      change(changed);
      return heard(changed);
    };
    QVERIFY(heard(p) == Both(true, true));
    QVERIFY(with([](Project& x) { x.keys[0].muteSolo.muted = true; }) == Both(false, true));
    QVERIFY(with([](Project& x) { x.keys[0].muteSolo.solo = true; }) == Both(true, false));
    QVERIFY(with([](Project& x) { x.roles[std::size_t(Row::Air)].muted = true; }) ==
            Both(true, false));
    QVERIFY(with([](Project& x) { x.roles[std::size_t(Row::Air)].solo = true; }) ==
            Both(false, true));
    QVERIFY(with([](Project& x) { x.parts[0].solo = true; }) == Both(true, false));
    QVERIFY(with([](Project& x) { // a muted key of a solo role stays muted
              x.roles[std::size_t(Row::Body)].solo = true;
              x.keys[0].muteSolo.muted = true;
            }) == Both(false, false));
  }

  void whatIsMutedWhileItSoundsGoesSilentAndComesBack() {
    Tone t = tone(200, [](Key&) {});
    Bench bench(t.project);
    bench.send(Kind::Strike, t.key);
    bench.run(4800);
    bench.set(withKeyChanged(t.project, t.key, [](Key& k) { k.muteSolo.muted = true; }));
    bench.run(640);
    const auto loudest = [&](int last) {
      return peakOf(std::span(bench.out).last(std::size_t(last)));
    };
    bench.run(480);
    QCOMPARE(loudest(480), 0.0f);
    bench.send(Kind::Strike, t.key); // and a strike is still reported, for takes
    bench.run(480);
    QCOMPARE(loudest(480), 0.0f);
    QCOMPARE(bench.reports.size(), 2u);
    bench.set(t.project); // what was struck goes on where it is by now, without a step
    bench.run(960);
    QVERIFY(loudest(200) > 0.4f);
    for (std::size_t i = bench.out.size() - 960; i < bench.out.size(); ++i)
      QVERIFY(std::abs(bench.out[i] - bench.out[i - 1]) < 0.06f);
  }
};

QTEST_GUILESS_MAIN(TestHands)
#include "tst_hands.moc"
