// The engine under fingers that are drawn, and what catches sound as it comes in.
#include "sweeps/sweep.h"
#include "sweeps/world.h"

#include "catch/hit_catcher.h"
#include "catch/level_advice.h"
#include "catch/phrases.h"
#include "play/engine.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestSweepPlaying : public QObject {
  Q_OBJECT
  World m_world = madeWorld(10);
  using Kind = Engine::Command::Kind;

  /// Keys that hold, go round, choke, bend and have layers, so that every way to play is there.
  Project withEveryWay() const {
    Project p = m_world.project;
    const auto change = [&](Id key, const std::function<void(Key&)>& how) {
      p = withKeyChanged(std::move(p), key, how);
    };
    change(m_world.bass, [](Key& k) {
      k.gate = true;
      k.mono = k.legato = true;
      k.glide = Milliseconds(60);
      k.loop.on = true;
      k.envelope.release = Milliseconds(80);
    });
    change(m_world.hat, [](Key& k) { k.choke = 1; });
    change(m_world.snare, [](Key& k) { k.choke = 1; });
    Layer layer;
    layer.sound = {m_world.drums, 0};
    p = withLayer(std::move(p), m_world.kick, layer);
    p = withLayerMode(std::move(p), m_world.kick, LayerMode::ByVelocity);
    change(m_world.slices[1], [](Key& k) {
      k.gate = true;
      k.envelope.attack = Milliseconds(20);
      k.envelope.decay = Milliseconds(50);
      k.envelope.sustain = 0.5;
    });
    return p;
  }

  Engine::Command drawn(Random& random) const {
    Engine::Command c{oneOf(random, {Kind::Strike, Kind::Strike, Kind::Strike, Kind::Release,
                                     Kind::Release, Kind::Press, Kind::Play, Kind::Stop, Kind::Seek,
                                     Kind::Erase, Kind::Metronome, Kind::Silence})};
    c.key = oneOf(random, {m_world.kick, m_world.snare, m_world.hat, m_world.bass,
                           m_world.slices[0], m_world.slices[1], m_world.slices[5]});
    c.velocity = oneOf(random, {0.2f, 0.5f, 1.0f});
    c.tune = oneOf(random, {1.0f, 1.0f, 0.5f, 1.5f});
    c.touch = std::uint32_t(random.next() % 3);
    c.from = oneOf(random, {0.0f, 0.0f, 0.5f});
    c.bright = oneOf(random, {0.0f, 0.0f, 2.0f});
    c.hold = EngineFrames(oneOf(random, {0, 0, 4800}));
    c.frame = EngineFrames(oneOf(random, {0, 0, 16000, 32000, -32000}));
    c.on = random.next() % 2 == 0;
    c.sound = int(random.next() % 3);
    if (random.next() % 3 == 0) c.roll = {oneOf(random, {0.25, 0.5, 1.0 / 3}), 0.1f, 1.0f};
    if (c.kind == Kind::Silence && random.next() % 3 != 0) c.kind = Kind::Strike;
    return c;
  }

private slots:
  void fingers() {
    Sweep sweep("fingers");
    const Project p = withEveryWay();
    for (std::uint64_t seed = 0; seed < 24; ++seed) {
      Random random(seed * 31 + 7);
      Engine engine;
      if (seed % 2) engine.setLimiterOff();
      auto score = std::make_shared<Score>(
          compilePattern(p, m_world.patterns[seed % m_world.patterns.size()]));
      engine.setScore(score);
      Channels out{Samples(2 * 48000), Samples(2 * 48000)};
      KeptJson heard = KeptJson::array();
      const int block = seed % 3 == 0 ? 64 : seed % 3 == 1 ? 100 : 480;
      for (int at = 0, count = 0; at + block <= int(out[0].size()); at += block, ++count) {
        if (random.next() % 12 == 0) engine.send(drawn(random));
        if (count == 90 && seed % 4 == 0)
          engine.setScore(std::make_shared<Score>(
              compilePattern(p, m_world.patterns[(seed + 1) % m_world.patterns.size()])));
        engine.process(&out[0][std::size_t(at)], &out[1][std::size_t(at)], block);
        Engine::Report r;
        while (engine.nextReport(r))
          heard.push_back({int(r.kind), r.key, double(r.velocity), r.frame.value, r.pass, r.playing,
                           r.touch, double(r.tune), double(r.from), r.hold.value});
        if (count % 10 == 0)
          heard.push_back({engine.playing(), engine.position().value, engine.sounding(),
                           engine.absolutePosition().value, engine.positionBeats()});
        engine.collect();
      }
      sweep.tell("reports", heard);
      sweep.tell("sound", out);
    }
    sweep.compare();
  }

  void hitsCaught() {
    Sweep sweep("caught");
    Samples left(48000 * 3, 0.0f);
    Random noise(3);
    for (float& v : left) v = float(0.002 * noise.bipolar());
    for (const auto& [at, gain] : {std::pair{0.5, 0.7},
                                   {0.62, 0.2},
                                   {1.0, 0.05},
                                   {1.03, 0.6},
                                   {1.5, 0.9},
                                   {2.2, 0.02},
                                   {2.6, 0.4}})
      addHit(left, at, 48000, 120, 0.5, gain);
    const SoundPtr sound = twoSided(std::move(left), 48000);
    for (double over : {4.0, 9.0, 30.0})
      for (double preRoll : {0.0, 5.0, 100.0})
        for (double rest : {20.0, 80.0, 700.0})
          for (double gap : {20.0, 60.0, 200.0}) {
            HitCatcher catcher({.over = Decibels(over),
                                .preRoll = Milliseconds(preRoll),
                                .silence = Milliseconds(rest),
                                .gap = Milliseconds(gap),
                                .longest = Seconds(0.4)},
                               Hertz(48000));
            KeptJson caught = KeptJson::array();
            const auto take = [&](const CaughtHit& hit) {
              caught.push_back({hit.start, hit.attack, hit.channels[0].size()});
            };
            const auto l = sound->channel(0), r = sound->channel(1);
            for (std::size_t at = 0; at < l.size(); at += 500)
              catcher.feed(&l[at], &r[at], int(std::min<std::size_t>(500, l.size() - at)), take);
            catcher.finish(take);
            caught.push_back(std::round(catcher.floor().value * 10));
            sweep.tell("hits", caught);
          }
    for (int clips : {0, 1})
      for (int i = 0; i <= 40; ++i) {
        const auto advice = adviceFor(float(std::pow(10, -i / 20.0 * 2)), std::uint32_t(clips));
        sweep.tell("advice", {int(advice.is), advice.change});
      }
    sweep.compare();
  }

  void phrases() {
    Sweep sweep("phrases");
    Samples left(24000 * 20, 0.0f);
    for (double at : {0.5, 0.75, 1.0, 1.25, 4.0, 4.5, 5.0, 5.5, 6.0, 9.0, 14.0, 14.2, 14.4})
      addHit(left, at, 24000, 220, 0.3);
    const SoundPtr take = twoSided(std::move(left), 24000);
    JobContext job;
    for (double rest : {0.1, 0.6, 2.0})
      for (double longest : {4.0, 16.0})
        for (double shortest : {0.05, 0.4, 2.0}) {
          KeptJson found = KeptJson::array();
          for (const auto& s :
               findPhrases(*take, {Seconds(rest), Seconds(longest), Seconds(shortest)}, job))
            found.push_back({s.start.value, s.end.value});
          sweep.tell("phrases", found);
        }
    sweep.compare();
  }
};

QTEST_APPLESS_MAIN(TestSweepPlaying)
#include "tst_sweep_playing.moc"
