// What is baked: repitched, stretched, re-spaced, straightened and nailed down, whole and in
// slices.
#include "sweeps/sweep.h"
#include "sweeps/world.h"

#include "audio/resample.h"
#include "play/bounce.h"
#include "play/score.h"
#include "shape/bake_cache.h"
#include "shape/shaped.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestSweepShapes : public QObject {
  Q_OBJECT
  World m_world = madeWorld(2);

  static Channels channelsOf(const Sound& sound) {
    Channels out;
    for (int c = 0; c < 2; ++c) {
      const auto from = sound.channel(std::min(c, sound.channels() - 1));
      out.emplace_back(from.begin(), from.end());
    }
    return out;
  }
  /// Every shape that is tried: method, pitch, straightening, markers.
  static std::vector<Shape> shapes() {
    std::vector<Shape> out;
    for (int method = 0; method < 3; ++method)
      for (double st : {-12.0, -1.0, 0.0, 5.0})
        for (double straighten : {0.0, 0.5, 1.0}) {
          Shape shape;
          shape.method = FitMethod(method);
          shape.semitones = Semitones(st);
          shape.cents = Cents(st == -1 ? 40 : 0);
          shape.straighten = straighten;
          shape.by = StraightenBy(int(st + 12) % 3);
          if (straighten == 0.5) shape.markers = {{Seconds(0.7), 1, {}}, {Seconds(2.0), 3.25, {}}};
          shape.formants = st == 5;
          out.push_back(shape);
        }
    return out;
  }

private slots:
  void lines() {
    Sweep sweep("lines-of-time");
    for (Id id : {m_world.drums, m_world.chords}) {
      Source s = *findSource(m_world.project, id);
      for (std::size_t i = 0; i < s.heard->beats.size(); ++i) // not quite even
        s.heard->beats[i] = s.heard->beats[i] + Seconds(0.02 * std::sin(double(i)));
      s.heard->tempo->steady = false;
      for (const Shape& shape : shapes())
        for (double bpm : {45.0, 90.0, 100.0}) {
          s.shape = shape;
          const ResolvedSource resolved(s);
          KeptJson answer = {movesTime(shape)};
          for (const auto& stretch : localStretches(resolved, Bpm(bpm)))
            answer.push_back({stretch.fromS, stretch.toS, stretch.ratio});
          for (const auto& anchor : anchorsOf(resolved, shape.by))
            answer.push_back({anchor.at, anchor.played, anchor.target, shapedBeat(shape, anchor)});
          const TimeLine line = shapedLine(resolved, shape, Bpm(bpm));
          if (const auto recipe =
                  recipeOf(resolved, shape, line, {Frames(0), s.sound->frames()}, Hertz(48000)))
            answer.push_back({framesOf(*recipe).value, recipe->pitch, recipe->hits,
                              int(recipe->material), recipe->formants});
          sweep.tell("line", answer);
        }
      Shape marked;
      for (double at : {0.5, 0.5, 0.1, 2.0, 0.502})
        marked = withMarker(marked, {Seconds(at), at * 2, {}});
      sweep.tell("markers", KeptJson(marked.markers.size()));
      for (double at : {0.0, 0.5, 0.503, 2.0})
        sweep.tell("less", KeptJson(withoutMarker(marked, Seconds(at)).markers.size()));
    }
    sweep.compare();
  }

  void bakes() {
    Sweep sweep("baked");
    JobContext job;
    const Source& s = *findSource(m_world.project, m_world.drums);
    std::size_t i = 0;
    for (const Shape& shape : shapes()) {
      if (++i % 2) continue; // enough of each
      Project p =
          withSourceChanged(m_world.project, s.id, [&](Source& source) { source.shape = shape; });
      p.tempo = Bpm(i % 4 ? 80 : 101);
      const Key* slice = findKey(p, m_world.slices[i % 6]);
      p = withKeyChanged(std::move(p), slice->id, [&](Key& k) {
        k.loop.on = i % 8 == 0;
        if (i % 3 == 0) k.treatments = {{treat::Reverse{}}, {treat::Stutter{}}};
      });
      const auto order = bakeOf(p, *findKey(p, m_world.slices[i % 6]));
      sweep.tell("asked for", KeptJson(order.has_value()));
      if (!order) continue;
      const auto base = bake(*order->sound, order->recipe, job);
      QVERIFY(base.ok());
      const auto done = finishOrder(*order, *base, job);
      QVERIFY(done.ok());
      sweep.tell("sound", channelsOf(*done->sound));
      sweep.tell("loop", {done->loopStart, done->loopEnd});
    }
    for (double rate : {8000.0, 24000.0, 44100.0, 96000.0}) {
      const auto other = resample(*s.sound, Hertz(rate));
      QVERIFY(other.ok());
      sweep.tell("resampled", channelsOf(**other));
    }
    for (Id slice : {m_world.slices[0], m_world.slices[3], m_world.kick}) {
      const auto recipe = recipeOf(m_world.project, *findKey(m_world.project, slice));
      QVERIFY(recipe);
      const auto sound = bounce(m_world.project.sources, *recipe, job);
      QVERIFY(sound.ok());
      sweep.tell("bounced", channelsOf(**sound));
    }
    sweep.compare();
  }
};

QTEST_APPLESS_MAIN(TestSweepShapes)
#include "tst_sweep_shapes.moc"
