// The sound of a key: curves, moving filters, glide, layers, mono, against closed forms.
#include "formats/key_json.h"
#include "formats/project_json.h"
#include "model/edits.h"
#include "notes/notes.h"
#include "play/bounce.h"
#include "play/engine.h"
#include "play/filter_response.h"
#include "play/patches.h"
#include "play/print.h"
#include "play/voice.h"
#include "support.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

const SincBank& sincs() {
  static const SincBank bank(SincBank::Make::Now);
  return bank;
}

Samples play(Voice& voice, int frames, int block = 128) {
  Samples left(std::size_t(frames), 0.0f), right = left;
  for (int at = 0; at < frames; at += block)
    voice.render(left.data() + at, right.data() + at, std::min(block, frames - at));
  return left;
}

/// How loud a sine of 1 comes out, by its quadrature over whole cycles.
double passed(const PatchFilters& filters, double hz, double bright = 0) {
  VoiceFilter filter;
  filter.start(filters, bright);
  Samples left = sine(hz, 2, 48000, 1), right = left;
  filter.run(left.data(), right.data(), int(left.size()));
  if (!filter.works()) return 1;
  double c = 0, s = 0;
  const int cycles = int(hz / 2), from = 48000, count = int(cycles * 48000 / hz);
  for (int i = from; i < from + count; ++i) {
    c += double(left[std::size_t(i)]) * std::cos(2 * M_PI * hz * i / 48000);
    s += double(left[std::size_t(i)]) * std::sin(2 * M_PI * hz * i / 48000);
  }
  return 2 * std::hypot(c, s) / count;
}

/// A deck of clicks: key 0 is the layered one; each click has a height of its own.
struct Clicks {
  Project project;
  std::vector<Id> sources;
  Id key = 0;
};
Clicks clicks(int count) {
  Clicks out;
  for (int i = 0; i < count; ++i) {
    Samples click(4800, 0.0f);
    click[0] = 0.1f * float(i + 1);
    Id source = 0;
    out.project = withSource(std::move(out.project), sourceOf(makeSound(click)), &source);
    out.sources.push_back(source);
  }
  out.project =
      withKeySound(std::move(out.project), Row::Body, 0, 0, {out.sources[0], 0}, "clap", &out.key);
  for (int i = 1; i < count; ++i) {
    Layer layer;
    layer.sound.source = out.sources[std::size_t(i)];
    out.project = withLayer(std::move(out.project), out.key, layer);
  }
  return out;
}

/// Strikes the first key at each of these velocities, a tenth of a second apart.
Samples struck(const Project& project, const std::vector<double>& velocities) {
  Engine engine;
  engine.setLimiterOff();
  engine.setScore(std::make_shared<Score>(compilePattern(project, 0)));
  Samples out, left(4800), right(4800);
  for (double velocity : velocities) {
    Engine::Command strike{Engine::Command::Kind::Strike};
    strike.key = project.keys[0].id;
    strike.velocity = float(velocity);
    engine.send(strike);
    engine.process(left.data(), right.data(), 4800);
    out.insert(out.end(), left.begin(), left.end());
  }
  return out;
}

} // namespace

class TestKeySound : public QObject {
  Q_OBJECT

private slots:
  // ---- the drawn response ----

  /// Butterworth's second order: |H|² = 1 / (1 + r⁴) below a low-pass, with r the ratio of the
  /// frequencies as the bilinear transform warps them.
  void theDrawnResponseIsButterworths() {
    const auto warped = [](double f) { return std::tan(M_PI * f / kEngineRate.value); };
    Key low, high, both;
    low.lowPass = both.lowPass = Hertz(1000);
    high.highPass = both.highPass = Hertz(1000);
    for (double hz : {50.0, 500.0, 1000.0, 2000.0, 8000.0, 15'000.0}) {
      const double r4 = std::pow(warped(hz) / warped(1000), 4);
      const double belowDb = -10 * std::log10(1 + r4), aboveDb = -10 * std::log10(1 + 1 / r4);
      QVERIFY(std::abs(filterResponseDb(low, hz, 0) - std::max(-120.0, belowDb)) < 1e-6);
      QVERIFY(std::abs(filterResponseDb(high, hz, 0) - std::max(-120.0, aboveDb)) < 1e-6);
      QVERIFY(std::abs(filterResponseDb(both, hz, 0) - (belowDb + aboveDb)) < 1e-6);
    }
    QVERIFY(std::abs(filterResponseDb(low, 1000, 0) + 3.0103) < 1e-3);
    QCOMPARE(filterResponseDb(Key{}, 1000, 1), 0.0); // none of them
    // Resonance lifts the corner by as much as it says; an octave of envelope moves the corner by
    // one.
    low.resonance = Decibels(12);
    QVERIFY(std::abs(filterResponseDb(low, 1000, 0) - (12 - 3.0103)) < 1e-3);
    low.resonance = Decibels(0);
    low.filterEnvelope.lowMoves = 1;
    QVERIFY(std::abs(filterResponseDb(low, 2000, 1) + 3.0103) < 1e-3);
    QVERIFY(std::abs(filterResponseDb(low, std::sqrt(2.0) * 1000, 0.5) + 3.0103) < 1e-3);
  }

  // ---- envelope ----

  // Decay falls to a thousandth of its way in its time (−60 dB, as reverberation time is defined in
  // ISO 3382-1) where its curve is 1, in a straight line where it is 0, the other way round at −1.
  void curvesBendTheSlopes_data() {
    QTest::addColumn<double>("curve");
    for (double curve : {-1.0, -0.5, 0.0, 0.3, 1.0}) QTest::addRow("%g", curve) << curve;
  }
  void curvesBendTheSlopes() {
    QFETCH(double, curve);
    Envelope e{Milliseconds(100), Milliseconds(0), Milliseconds(200), 0.25, Milliseconds(50)};
    e.attackCurve = e.decayCurve = e.releaseCurve = curve;
    EnvelopeRun run;
    run.start(shapeOf(e, Hertz(48000)));
    std::vector<float> level(30000);
    QCOMPARE(run.fill(level.data(), 20000), 20000);
    run.letGo();
    const int left = run.fill(level.data() + 20000, 10000);
    QCOMPARE(left, 2400);
    QVERIFY(run.faded());
    const auto done = [&](double share) { // the closed form
      const double k = curve * std::log(1000.0);
      return std::abs(k) < 1e-9 ? share : (1 - std::exp(-k * share)) / (1 - std::exp(-k));
    };
    for (double share : {0.1, 0.25, 0.5, 0.9, 1.0}) {
      const auto at = [&](int from, int frames) {
        return double(level[std::size_t(from + std::lround(share * frames)) - 1]);
      };
      QVERIFY(std::abs(at(0, 4800) - done(share)) < 1e-4);
      QVERIFY(std::abs(at(4800, 9600) - (1 - 0.75 * done(share))) < 1e-4);
      QVERIFY(std::abs(at(20000, 2400) - 0.25 * (1 - done(share))) < 1e-4);
    }
    QCOMPARE(level[19999], 0.25f);
  }

  // ---- filters ----

  // Magnitudes of the bilinear transform's second-order Butterworth filters (A. V. Oppenheim, R. W.
  // Schafer, Discrete-Time Signal Processing): 1 / (1 + (tan(πf/fs) / tan(πc/fs))^±4).
  void standingFiltersAreButterworths() {
    for (double corner : {120.0, 997.0, 6000.0})
      for (double hz : {60.0, 400.0, 997.0, 3000.0, 12000.0}) {
        const double r = std::tan(M_PI * hz / 48000) / std::tan(M_PI * corner / 48000);
        PatchFilters low, high;
        low.low.corner = corner;
        high.high.corner = corner;
        const double wantedLow = 1 / std::sqrt(1 + std::pow(r, 4)),
                     wantedHigh = 1 / std::sqrt(1 + std::pow(r, -4));
        QVERIFY(std::abs(20 * std::log10(passed(low, hz) / wantedLow)) < 0.05 || wantedLow < 1e-4);
        QVERIFY(std::abs(20 * std::log10(passed(high, hz) / wantedHigh)) < 0.05 ||
                wantedHigh < 1e-4);
      }
  }

  // At its corner a second-order low-pass stands at its Q (same source).
  void resonanceStandsUpAtTheCorner() {
    for (double db : {0.0, 6.0, 12.0, 24.0}) {
      PatchFilters filters;
      filters.low.corner = 1000;
      filters.damping = std::sqrt(2.0) / gainOf(Decibels(db));
      const double q = 20 * std::log10(passed(filters, 1000));
      QVERIFY2(std::abs(q - (db - 3.01)) < 0.05, qPrintable(QString::number(q)));
    }
  }

  void aBrighterHitMovesTheCorner() {
    PatchFilters filters;
    filters.low.corner = 1000;
    const double lower = passed(filters, 1000, -1), same = passed(filters, 500, -1);
    QVERIFY(std::abs(20 * std::log10(same) + 3.01) < 0.05);
    QVERIFY(lower < 0.3);
    QCOMPARE(passed({}, 1000, 0), 1.0);
    QVERIFY(passed({}, 8000, -4) < 0.06); // without one of its own it comes down from 20 kHz
  }

  void theFilterEnvelopeSweepsTheCorner() {
    PatchFilters filters;
    filters.low = {250, 4}; // up to 4 kHz and back
    filters.shape =
        shapeOf({Milliseconds(0), Milliseconds(500), Milliseconds(100), 0, Milliseconds(10)},
                Hertz(48000.0 / VoiceFilter::kStep));
    VoiceFilter filter;
    filter.start(filters, 0);
    Samples left = sine(2000, 1, 48000, 1), right = left;
    filter.run(left.data(), right.data(), 48000);
    const auto loudest = [&](int from, int to) {
      return *std::max_element(left.begin() + from, left.begin() + to);
    };
    const double open = std::tan(M_PI / 24) / std::tan(M_PI / 12); // 2 kHz under a corner of 4 kHz
    QVERIFY(std::abs(double(loudest(10000, 20000)) - 1 / std::sqrt(1 + std::pow(open, 4))) < 0.01);
    QVERIFY(loudest(40000, 48000) < 0.02f);       // three octaves over a corner of 250 Hz: −36 dB
    for (std::size_t i = 1; i < left.size(); ++i) // no step is steeper than the sine itself
      QVERIFY(std::abs(left[i] - left[i - 1]) < 0.3f);
  }

  // ---- glide ----

  // Evenly in semitones: the cycles on the way are the integral of f · 2^(n t / 12 T).
  void aGlideGoesEvenlyInSemitones() {
    Patch patch = patchOf(makeSound(sine(200, 10, 48000)));
    patch.glide = EngineFrames(24000);
    patch.gate = patch.mono = patch.legato = true;
    Voice voice;
    Voice::Start start;
    start.patch = &patch;
    start.touch = 1;
    voice.start(start, sincs());
    (void)play(voice, 9600);
    voice.bend(2, patch.glide, {}, 2);
    QCOMPARE(voice.touch(), 2u);
    const auto out = play(voice, 48000, 37);
    int rising = 0;
    std::vector<int> crossings;
    for (int i = 1; i < 48000; ++i)
      if (out[std::size_t(i) - 1] < 0 && out[std::size_t(i)] >= 0) {
        ++rising;
        crossings.push_back(i);
      }
    const double cycles = 200 * 0.5 / std::log(2.0) + 400 * 0.5;
    QVERIFY2(std::abs(rising - cycles) <= 1, qPrintable(QString::number(rising)));
    QVERIFY(std::abs(voice.tune() - 2) < 1e-12);
    const int last = crossings.back(), before = crossings[crossings.size() - 11];
    QVERIFY(std::abs((last - before) / 10.0 - 120) < 0.2); // 400 Hz from there on
    // Half way in time it is half way in semitones: 282.8 Hz at 12000 frames.
    const auto near = std::lower_bound(crossings.begin(), crossings.end(), 12000);
    const double period = *(near + 1) - *(near - 1);
    QVERIFY(std::abs(96000 / period - 200 * std::sqrt(2.0)) < 2);
  }

  void howAGlideIsSplitDoesNotMatter() {
    Patch patch = patchOf(drumLoop(120, 4, 48000), 0.9);
    patch.glide = EngineFrames(1000);
    patch.delay = EngineFrames(30);
    const auto run = [&](int block) {
      Voice voice;
      Voice::Start start;
      start.patch = &patch;
      start.tuneFrom = 0.5;
      start.tune = 1.5;
      start.wait = EngineFrames(30);
      start.from = 0.1;
      voice.start(start, sincs());
      return play(voice, 20000, block);
    };
    const auto whole = run(20000);
    for (int block : {1, 7, 16, 63, 64, 128}) QVERIFY(run(block) == whole);
    for (int i = 0; i < 30; ++i) QCOMPARE(whole[std::size_t(i)], 0.0f);
    QVERIFY(std::any_of(whole.begin(), whole.end(), [](float v) { return std::abs(v) > 0.1f; }));
  }

  // ---- layers ----

  void layersSoundTogetherAfterTheirDelays() {
    auto c = clicks(3);
    c.project = withKeyChanged(c.project, c.key, [](Key& k) {
      k.own.level = Decibels(-6.0206);
      k.layers[0].play.delay = Milliseconds(7);
      k.layers[1].play.delay = Milliseconds(12.5);
      k.layers[1].play.tune = Semitones(12);
    });
    const auto out = struck(c.project, {1.0});
    QVERIFY(std::abs(out[0] - 0.05f) < 1e-6f);
    QVERIFY(std::abs(out[336] - 0.2f) < 1e-6f);
    QVERIFY(out[600] > 0.1f); // an octave up: read through a wider kernel
    // One hit, written once: the score has an event for the key, not for each layer.
    Pattern pattern;
    Hit hit;
    hit.key = c.key;
    laneOf(pattern, findKey(c.project, c.key)->part).hits = {hit};
    Id id = 0;
    const Project p = withPattern(c.project, pattern, &id);
    const Score score = compilePattern(p, id);
    QCOMPARE(score.events.size(), 1u);
    QCOMPARE(score.patches.size(), 3u);
    QCOMPARE(score.patches[0].layers, 3);
  }

  // Each layer through filters of its own: −3 dB at a Butterworth corner, 12 dB an octave.
  void layersHaveFiltersAndShapesOfTheirOwn() {
    Clicks c = clicks(2);
    const auto replace = [&](Id source, Samples sound) {
      c.project = withSourceChanged(c.project, source,
                                    [&](Source& s) { s.sound = makeSound(std::move(sound)); });
    };
    replace(c.sources[0], sine(1000, 0.1, 48000, 0.4));
    replace(c.sources[1], Samples(4800, 0.0f));
    const auto loudest = [](const Samples& out, int from, int until) {
      return double(*std::max_element(out.begin() + from, out.begin() + until));
    };
    const auto with = [&](const std::function<void(LayerPlay&)>& change) {
      return struck(withKeyChanged(c.project, c.key, [&](Key& k) { change(k.own); }), {1.0});
    };
    const double plain = loudest(with([](LayerPlay&) {}), 2000, 4400);
    const auto share = [&](const std::function<void(LayerPlay&)>& change) {
      return loudest(with(change), 2000, 4400) / plain;
    };
    QVERIFY(std::abs(plain - 0.4) < 1e-3);
    QVERIFY(std::abs(share([](LayerPlay& l) { l.lowPass = Hertz(1000); }) - M_SQRT1_2) < 5e-3);
    QVERIFY(std::abs(share([](LayerPlay& l) { l.highPass = Hertz(1000); }) - M_SQRT1_2) < 5e-3);
    QVERIFY(share([](LayerPlay& l) { l.lowPass = Hertz(250); }) < 0.08);
    // The other layer is not touched by it.
    replace(c.sources[1], sine(1000, 0.1, 48000, 0.4));
    const Samples both = with([](LayerPlay& l) { l.lowPass = Hertz(20); });
    QVERIFY(std::abs(loudest(both, 2000, 4400) - 0.4) < 5e-3);
    // The same sound upside down is nothing; half of the time in the way in, half of the level.
    QVERIFY(loudest(with([](LayerPlay& l) { l.inverted = true; }), 0, 4800) < 1e-6);
    replace(c.sources[0], Samples(4800, 0.5f));
    replace(c.sources[1], Samples(4800, 0.0f));
    const Samples in = with([](LayerPlay& l) { l.attack = Milliseconds(50); });
    QVERIFY(std::abs(in[1200] - 0.25f) < 1e-3f && std::abs(in[3000] - 0.5f) < 1e-6f);
    // A decay dies to a thousandth: after half of its time to the square root of it.
    const Samples down = with([](LayerPlay& l) { l.decay = Milliseconds(50); });
    QVERIFY(std::abs(down[1200] - 0.5f * float(std::sqrt(1e-3))) < 2e-3f);
    QVERIFY(std::abs(down[3000]) < 1e-6f);
  }

  void velocityChoosesALayer() {
    auto c = clicks(3);
    c.project = withLayerMode(c.project, c.key, LayerMode::ByVelocity);
    const Key& key = *findKey(c.project, c.key);
    QVERIFY(std::abs(key.own.upTo - 1 / 3.0) < 1e-9); // shared evenly to begin with
    QVERIFY(std::abs(key.layers[0].play.upTo - 2 / 3.0) < 1e-9);
    const auto out = struck(c.project, {0.2, 1 / 3.0, 0.5, 0.9, 1.0});
    const std::vector<std::pair<double, float>> wanted{
        {0.2, 0.1f}, {1 / 3.0, 0.1f}, {0.5, 0.2f}, {0.9, 0.3f}, {1, 0.3f}};
    for (std::size_t i = 0; i < wanted.size(); ++i)
      QVERIFY(std::abs(out[i * 4800] - wanted[i].second * gainOfVelocity(wanted[i].first)) < 1e-5f);
    // Borders moved by hand stay; the loudest-reaching plays where none reaches.
    c.project = withKeyChanged(c.project, c.key, [](Key& k) { k.layers[1].play.upTo = 0.8; });
    c.project = withLayerMode(c.project, c.key, LayerMode::ByVelocity);
    QCOMPARE(findKey(c.project, c.key)->layers[1].play.upTo, 0.8);
    QVERIFY(std::abs(struck(c.project, {1.0})[0] - 0.3f) < 1e-6f);
  }

  void layersTakeTurns() {
    auto c = clicks(3);
    c.project = withLayerMode(c.project, c.key, LayerMode::InTurn);
    const auto out = struck(c.project, std::vector<double>(7, 1.0));
    for (std::size_t i = 0; i < 7; ++i)
      QVERIFY(std::abs(out[i * 4800] - 0.1f * float(i % 3 + 1)) < 1e-6f);
  }

  void randomLayersNeverRepeatAndAllCome() {
    for (int count : {2, 3, 5, 8}) {
      auto c = clicks(count);
      c.project = withLayerMode(c.project, c.key, LayerMode::AtRandom);
      const Score score = compilePattern(c.project, 0);
      std::array<int, kMostLayers> chosen{};
      std::vector<int> came(std::size_t(count), 0);
      int last = -1, rises = 0;
      for (std::uint32_t turn = 0; turn < 4000; ++turn) {
        QCOMPARE(layersOf(score, ScoreEvent{}, turn, chosen), 1);
        QVERIFY(chosen[0] != last);
        rises += chosen[0] == (last + 1) % count ? 1 : 0;
        last = chosen[0];
        ++came[std::size_t(last)];
      }
      for (int times : came) QVERIFY(std::abs(times - 4000 / count) <= 1);
      if (count > 2) QVERIFY(rises < 4000 * 6 / 10); // not in turn
    }
  }

  void printAndLoopTakeTheSameTurns() {
    auto c = clicks(2);
    c.project.tempo = Bpm(120);
    c.project = withLayerMode(c.project, c.key, LayerMode::InTurn);
    Pattern pattern;
    pattern.bars = 1;
    for (int beat : {0, 1, 2}) { // three hits of two layers: the second round begins with the other
      Hit hit;
      hit.at = wholeBeats(beat);
      hit.key = c.key;
      hit.velocity = 1;
      laneOf(pattern, findKey(c.project, c.key)->part).hits.push_back(hit);
    }
    Id id = 0;
    c.project = withPattern(c.project, pattern, &id);
    Section section;
    section.pattern = id;
    section.bars = 2;
    c.project = withSection(c.project, section, 0);
    JobContext job;
    const auto printed = print(compileSong(c.project), {}, job);
    Engine engine;
    engine.setLimiterOff();
    engine.setScore(std::make_shared<Score>(compilePattern(c.project, id)));
    engine.send({Engine::Command::Kind::Play});
    Samples left(192000), right(192000);
    engine.process(left.data(), right.data(), 192000);
    for (int hit = 0; hit < 6; ++hit) {
      const auto at = std::size_t((hit / 3 * 4 + hit % 3) * 24000);
      const float wanted = 0.1f * float(hit % 2 + 1);
      QVERIFY(std::abs(left[at] - wanted) < 1e-6f);
      QVERIFY(std::abs((*printed)->channel(0)[at] - wanted) < 1e-6f);
    }
  }

  void layersComeAndGo() {
    auto c = clicks(3);
    const Project before = c.project;
    // The next one steps up when the key's own sound goes, with its settings.
    c.project = withKeyChanged(c.project, c.key, [](Key& k) {
      k.layers[0].play.delay = Milliseconds(9);
      k.level = Decibels(-3);
    });
    c.project = withoutLayer(c.project, c.key, 0);
    const Key& key = *findKey(c.project, c.key);
    QCOMPARE(key.sound.source, c.sources[1]);
    QCOMPARE(key.own.delay.value, 9.0);
    QCOMPARE(key.level.value, -3.0);
    QCOMPARE(key.layers.size(), 1u);
    QCOMPARE(key.layers[0].sound.source, c.sources[2]);
    c.project = withoutLayer(c.project, c.key, 1);
    c.project = withoutLayer(c.project, c.key, 0); // the last one stays
    QCOMPARE(findKey(c.project, c.key)->sound.source, c.sources[1]);
    // A source that goes takes its layers with it; eight are the most.
    Project p = withoutSource(before, c.sources[2]);
    QCOMPARE(findKey(p, c.key)->layers.size(), 1u);
    for (int i = 0; i < 12; ++i) p = withLayer(p, c.key, {{c.sources[1], 0}, {}});
    QCOMPARE(int(findKey(p, c.key)->layers.size()), kMostLayers - 1);
  }

  void layersOfCutsStayWithThem() {
    auto c = clicks(2);
    const auto lay = [&](Project p, std::vector<std::int64_t> starts) {
      std::vector<Cut> cuts;
      for (std::int64_t start : starts) {
        Cut cut;
        cut.start = Frames(start);
        cut.end = Frames(start + 400);
        cuts.push_back(cut);
      }
      return withCuts(std::move(p), c.sources[1], {}, cuts);
    };
    Project p = lay(c.project, {0, 1000, 3400});
    const auto& cuts = findSource(p, c.sources[1])->cuts;
    p = withKeyChanged(p, c.key, [&](Key& k) {
      k.layers = {{{c.sources[1], cuts[1].id}, {}}, {{c.sources[1], cuts[2].id}, {}}};
    });
    const Project after =
        lay(p, {20, 1010}); // the second moved by hand's breadth, the last is gone
    const Key& key = *findKey(after, c.key);
    QCOMPARE(key.layers.size(), 1u);
    QCOMPARE(findCut(*findSource(after, c.sources[1]), key.layers[0].sound.cut)->start.value, 1010);
  }

  void aLayeredBounceHoldsAllItsSources() {
    auto c = clicks(2);
    c.project =
        withKeyChanged(c.project, c.key, [](Key& k) { k.layers[0].play.delay = Milliseconds(50); });
    const Recipe made = *recipeOf(c.project, c.project.keys[0]);
    JobContext job;
    const auto bounced = bounce(c.project.sources, made, job);
    QVERIFY(bounced.ok());
    QCOMPARE((*bounced)->frames().value, 4800 + 2400);
    QVERIFY(std::abs((*bounced)->channel(0)[0] - 0.1f) < 1e-6f);
    QVERIFY(std::abs((*bounced)->channel(0)[2400] - 0.2f) < 1e-6f);
    Id added = 0;
    Project p = withBounced(c.project, c.key,
                            tuvvo::sourceOf(*c.project.sources[0], made, *bounced, "both"), &added);
    QVERIFY(findKey(p, c.key)->layers.empty());
    const auto origins = originsOf(p, added);
    QCOMPARE(origins.size(), 2u);
    QCOMPARE(origins[1].source, c.sources[1]);
    QVERIFY(std::abs(origins[1].share - 4800.0 / 7200) < 1e-9);
    const auto read = projectFromText(projectToText(p, 1), "test");
    QVERIFY(read.ok());
    QVERIFY(*findSource(read->project, added)->recipe == made);
    // A source that is heard only under another is heard.
    Pattern pattern;
    Hit hit;
    hit.key = c.key;
    laneOf(pattern, findKey(c.project, c.key)->part).hits = {hit};
    Id id = 0;
    p = withPattern(c.project, pattern, &id);
    Section section;
    section.pattern = id;
    section.bars = 2;
    p = withSection(p, section, 0);
    QVERIFY(std::abs(heardInSong(p, c.sources[1]).value - 0.1) < 1e-6);
  }

  // ---- keeping it ----

  void everySettingOfAKeyComesBack() {
    auto c = clicks(3);
    c.project = withKeyChanged(c.project, c.key, [](Key& k) {
      k.own = {Milliseconds(3), Decibels(-2), Semitones(0.25), 0.4};
      k.layers[1].play = {Milliseconds(11), Decibels(4), Semitones(-7), 0.9};
      k.mode = LayerMode::AtRandom;
      k.resonance = Decibels(9);
      k.filterEnvelope.lowMoves = -3.5;
      k.filterEnvelope.highMoves = 2;
      k.filterEnvelope.shape = {
          Milliseconds(5), Milliseconds(6), Milliseconds(7), 0.5, Milliseconds(8), -0.25, 0.5, -1};
      k.envelope.attackCurve = 0.75;
      k.envelope.decayCurve = -0.5;
      k.envelope.releaseCurve = 0;
      k.mono = true;
      k.glide = Milliseconds(120);
      k.legato = false;
      k.muteSolo = {true, true};
    });
    c.project.roles[2] = {false, true};
    c.project.roles[0] = {true, false};
    c.project = withPartChanged(c.project, c.project.parts[0].id, [](Part& part) {
      part.quantiseStrength = 0.6;
      part.perBeat = 6;
    });
    Pattern pattern;
    Hit hit;
    hit.key = c.key;
    hit.start = 0.25;
    hit.bright = -2.5;
    laneOf(pattern, c.project.parts[0].id).hits = {hit};
    c.project = withPattern(c.project, pattern);
    const auto read = projectFromText(projectToText(c.project, 1), "test");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QVERIFY(read->project.keys == c.project.keys);
    QVERIFY(read->project.roles == c.project.roles);
    QVERIFY(read->project.parts == c.project.parts);
    QVERIFY(read->project.patterns[0]->lanes == c.project.patterns[0]->lanes);
    // What nobody vouches for is brought into range or refused.
    json_read::Reading reading;
    const auto wild = [&](const char* text) {
      return keyFromJson(json_read::parse(text), reading);
    };
    const Key held = wild(R"({"glideMs": 1e9, "resonanceDb": -5, "attackCurve": 7,
        "own": {"delayMs": -4, "upTo": 0}, "filterEnvelope": {"lowOctaves": 99}})");
    QCOMPARE(held.glide.value, 2000.0);
    QCOMPARE(held.resonance.value, 0.0);
    QCOMPARE(held.envelope.attackCurve, 1.0);
    QCOMPARE(held.own.delay.value, 0.0);
    QCOMPARE(held.own.upTo, 0.02);
    QCOMPARE(held.filterEnvelope.lowMoves, 8.0);
    // Or kept as it was, and not played.
    const Key odd = wild(R"({"layerWay": "sideways", "layers": [1,2]})");
    QVERIFY(odd.mode == LayerMode::Together && odd.layers.empty());
    const auto again = toJson(odd);
    QCOMPARE(again["layerWay"].get<std::string>(), std::string("sideways"));
    QCOMPARE(again["layers"].size(), std::size_t(2));
    QVERIFY_THROWS_EXCEPTION(json_read::Bad, (void)wild(R"({"row": "attic"})"));
  }

  void aFloorKeyIsMonoAndGlides() {
    auto c = clicks(1);
    Id floor = 0;
    c.project = withKeySound(c.project, Row::Floor, 0, 0, {c.sources[0], 0}, "low", &floor);
    QVERIFY(findKey(c.project, floor)->mono);
    QCOMPARE(findKey(c.project, floor)->glide, kFloorGlide);
    QVERIFY(!findKey(c.project, c.key)->mono);
  }
};

QTEST_GUILESS_MAIN(TestKeySound)
#include "tst_key_sound.moc"
