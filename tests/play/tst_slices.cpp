// What a slice's own settings do to what is heard: envelope, filters, loop, trims, method, swell;
// keys that stay with their sounds; names, roles, levels, novelty, bounces.
#include "beat/novelty.h"
#include "beat/slices_in_order.h"
#include "cut/slice_levels.h"
#include "formats/project_json.h"
#include "model/edits.h"
#include "notes/notes.h"
#include "play/bounce.h"
#include "play/engine.h"
#include "play/print.h"
#include "shape/played.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

double powerOf(std::span<const float> samples) {
  double sum = 1e-20;
  for (float s : samples) sum += double(s) * double(s);
  return sum / double(samples.size());
}

/// A source cut in equal parts of whole beats at 120 BPM, one key each.
struct Cutting {
  Project project;
  Id source = 0;
  std::vector<Id> keys;
};
Cutting cutOf(SoundPtr sound, int parts) {
  Cutting out;
  out.project.tempo = Bpm(120);
  Source s = sourceOf(std::move(sound), "cut");
  s.corrections.tempo = Bpm(120);
  const std::int64_t frames = s.sound->frames().value;
  out.project = withSource(std::move(out.project), s, &out.source);
  std::vector<Cut> cuts;
  for (int i = 0; i < parts; ++i) {
    Cut cut;
    cut.start = Frames(frames * i / parts);
    cut.end = Frames(frames * (i + 1) / parts);
    cut.fadeIn = cut.fadeOut = Milliseconds(0);
    cuts.push_back(cut);
  }
  out.project = withCuts(std::move(out.project), out.source, {}, cuts);
  out.keys = slicesOf(out.project, out.source);
  return out;
}

/// One key struck at 0 and held for so long, played by the engine in blocks.
Samples played(const Project& project, Id key, std::int64_t hold, int frames, int block) {
  BakeCache bakeCache(1, {});
  JobContext job;
  const auto baked = bakeCache.bakeAll(bakesOf(project), job);
  CompileOptions options;
  options.baked = [&](const BakeOrder& order) { return baked->at(order.name); };
  Score score = compilePattern(project, 0, options);
  score.length = EngineFrames(1 << 24);
  ScoreEvent event;
  event.patch = score.patchOf(key);
  event.hold = EngineFrames(hold);
  score.events = {event};
  auto engine = std::make_unique<Engine>();
  engine->setLimiterOff();
  engine->setScore(std::make_shared<const Score>(std::move(score)));
  engine->send(Engine::Command{Engine::Command::Kind::Play});
  Samples left(std::size_t(frames), 0.0f), right = left;
  for (int at = 0; at < frames; at += block)
    engine->process(left.data() + at, right.data() + at, std::min(block, frames - at));
  return left;
}

Pattern patternOf(const Project& p, const std::vector<std::pair<double, Id>>& hits, int bars) {
  Pattern pattern;
  pattern.bars = bars;
  for (const auto& [beat, key] : hits) {
    Hit hit;
    hit.at = Beats(std::llround(beat * double(kTicksPerBeat)));
    hit.key = key;
    hit.velocity = 1;
    laneOf(pattern, findKey(p, key)->part).hits.push_back(hit);
  }
  return pattern;
}

} // namespace

class TestSlices : public QObject {
  Q_OBJECT

  JobContext m_job;

private slots:
  // ---- what is heard ----

  void holdComesBeforeDecay() {
    auto c = cutOf(makeSound(Samples(48000, 0.5f)), 1);
    c.project = withKeyChanged(c.project, c.keys[0], [](Key& k) {
      k.envelope = {Milliseconds(10), Milliseconds(100), Milliseconds(200), 0, Milliseconds(40)};
    });
    const auto out = played(c.project, c.keys[0], 0, 24000, 128);
    QVERIFY(std::abs(out[240] - 0.25f) < 0.01f); // half way up
    QCOMPARE(out[500], 0.5f);
    QCOMPARE(out[480 + 4800 - 10], 0.5f);
    // Then to a thousandth in 200 ms: half the way in dB after half of it.
    QVERIFY(std::abs(out[480 + 4800 + 4800] - 0.5f * 0.0316f) < 0.001f);
  }

  void filtersAreTwelveDecibelsAnOctave() {
    // Butterworth, second order: |H|² = 1 / (1 + (f/fc)^4), whatever the way it is built.
    for (const auto& [hz, low, corner] : {std::tuple{200.0, false, 200.0},
                                          {100.0, false, 200.0},
                                          {1000.0, true, 1000.0},
                                          {2000.0, true, 1000.0}}) {
      auto c = cutOf(makeSound(sine(hz, 1, 48000)), 1);
      const auto plain = played(c.project, c.keys[0], 0, 48000, 128);
      c.project = withKeyChanged(c.project, c.keys[0], [&, low = low, corner = corner](Key& k) {
        (low ? k.lowPass : k.highPass) = Hertz(corner);
      });
      const auto out = played(c.project, c.keys[0], 0, 48000, 128);
      const double db = 10 * std::log10(powerOf(std::span(out).subspan(24000, 19200)) /
                                        powerOf(std::span(plain).subspan(24000, 19200)));
      const double ratio = low ? hz / corner : corner / hz;
      const double wanted = -10 * std::log10(1 + std::pow(ratio, 4));
      QVERIFY2(std::abs(db - wanted) < 0.15, qPrintable(QString("%1 %2").arg(db).arg(wanted)));
      QVERIFY(played(c.project, c.keys[0], 0, 48000, 77) == out); // whatever the blocks
    }
  }

  void aLoopSoundsWhileItIsHeldAndNotLonger() {
    auto c = cutOf(makeSound(sine(300, 1, 48000)), 2); // half a second each
    c.project = withKeyChanged(c.project, c.keys[0], [](Key& k) {
      k.loop = {true, 0.2, 0.8, Milliseconds(10)};
      k.envelope.release = Milliseconds(50);
    });
    const auto out = played(c.project, c.keys[0], 96000, 120000, 128);
    QVERIFY(powerOf(std::span(out).subspan(90000, 4800)) > 0.05);
    QVERIFY(powerOf(std::span(out).subspan(110000, 4800)) < 1e-8);
    float steepest = 0;
    for (std::size_t i = 1; i < 96000; ++i)
      steepest = std::max(steepest, std::abs(out[i] - out[i - 1]));
    QVERIFY(steepest < 1.3f * 2 * float(M_PI) * 300 / 48000 * 0.5f);
    QVERIFY(played(c.project, c.keys[0], 96000, 120000, 311) == out);
    // Repitched it goes round as well.
    c.project = withKeyChanged(c.project, c.keys[0], [](Key& k) { k.tune = Semitones(-7); });
    const auto low = played(c.project, c.keys[0], 96000, 120000, 128);
    QVERIFY(powerOf(std::span(low).subspan(90000, 4800)) > 0.05);
    QVERIFY(played(c.project, c.keys[0], 96000, 120000, 61) == low);
    // A hit without a length: once through.
    Id pattern = 0;
    Project p = withPattern(c.project, patternOf(c.project, {{0, c.keys[0]}}, 2), &pattern);
    CompileOptions options;
    BakeCache bakeCache(1, {});
    const auto baked = bakeCache.bakeAll(bakesOf(p), m_job);
    options.baked = [&](const BakeOrder& order) { return baked->at(order.name); };
    const Score score = compilePattern(p, pattern, options);
    QVERIFY(score.events[0].hold.value > 0);
  }

  void trimsStayInsideTheCut() {
    auto c = cutOf(makeSound(Samples(48000, 0.5f)), 2);
    const Source& source = *findSource(c.project, c.source);
    Key key = *findKey(c.project, c.keys[1]);
    key.trimStart = Milliseconds(100);
    key.trimEnd = Milliseconds(50);
    const Stretch s = stretchOf(source, key);
    QCOMPARE(s.start.value, 24000 + 4800);
    QCOMPARE(s.end.value, 48000 - 2400);
    key.trimStart = key.trimEnd = Milliseconds(60'000);
    const Stretch least = stretchOf(source, key);
    QCOMPARE(least.end.value - least.start.value, 1);
  }

  void aSliceHasAMethodOfItsOwn() {
    Project p;
    p.tempo = Bpm(80);
    Id source = 0;
    p = withSource(std::move(p), played(steadyBeats(100, 8, 0.0), 100, true, 220), &source);
    std::vector<Cut> cuts;
    for (int i = 0; i < 2; ++i) {
      Cut cut;
      cut.start = Frames(i * 26460);
      cut.end = Frames((i + 1) * 26460);
      cuts.push_back(cut);
    }
    p = withCuts(std::move(p), source, {}, cuts);
    const auto keys = slicesOf(p, source);
    QVERIFY(bakesOf(p).empty());
    p = withKeyChanged(std::move(p), keys[0], [](Key& k) { k.method = FitMethod::Stretch; });
    const auto orders = bakesOf(p);
    QCOMPARE(int(orders.size()), 1);
    QVERIFY(orders[0].recipe.method == FitMethod::Stretch);
    QVERIFY(std::abs(orders[0].recipe.line.length - 0.6 * 100 / 80) < 1e-6);
  }

  void aSwellArrivesOnItsHit() {
    Samples hit(24000, 0.0f);
    hit[0] = 0.9f;
    for (std::size_t i = 1; i < 9000; ++i) hit[i] = 0.2f * std::sin(float(i) * 0.05f);
    auto c = cutOf(makeSound(hit), 1);
    c.project = withKeyChanged(c.project, c.keys[0],
                               [](Key& k) { k.treatments = {{treat::Swell{.beats = 1}}}; });
    Id pattern = 0;
    c.project = withPattern(c.project, patternOf(c.project, {{2, c.keys[0]}, {4.5, c.keys[0]}}, 2),
                            &pattern);
    Section section;
    section.pattern = pattern;
    section.bars = 2;
    c.project = withSection(c.project, section, 0);
    const auto sounding = [&](const Project& p) {
      BakeCache bakeCache(1, {});
      PrintOptions options;
      options.limiter = false;
      return *print(*bakedSong(p, {}, bakeCache, m_job), options, m_job);
    };
    const auto arrivals = [](const Sound& sound) {
      std::vector<std::int64_t> at;
      for (std::int64_t i = 0; i < sound.frames().value; ++i)
        if (sound.channel(0)[std::size_t(i)] > 0.8f) at.push_back(i);
      return at;
    };
    const auto song = sounding(c.project);
    QVERIFY((arrivals(*song) == std::vector<std::int64_t>{2 * 24000, 108000}));
    QVERIFY(powerOf(song->channel(0).subspan(24000 + 12000, 12000)) > 1e-5); // it rises before
    // With its hit on the first beat, the song begins in the middle of nothing: on the hit.
    Project early = withPatternChanged(c.project, pattern, [](Pattern& changed) {
      for (auto& moved : changed.lanes[0].hits) moved.at.value = 0;
    });
    QCOMPARE(arrivals(*sounding(early)).front(), 0);
    // Bounced in place, it arrives where it did.
    const auto made = recipeOf(c.project, *findKey(c.project, c.keys[0]));
    const auto bounced = bounce(c.project.sources, *made, m_job);
    QVERIFY(bounced.ok());
    const Project after =
        withBounced(c.project, c.keys[0],
                    sourceOf(*findSource(c.project, c.source), *made, *bounced, "bounced"));
    QVERIFY((arrivals(*sounding(after)) == arrivals(*song)));
  }

  // ---- keys and cuts ----

  void keysStayWithTheirSounds() {
    auto c = cutOf(drumLoop(120, 8, 48000), 8);
    const auto starts = [&](int parts) {
      std::vector<Cut> cuts;
      for (int i = 0; i < parts; ++i) {
        Cut cut;
        cut.start = Frames(192000 * i / parts + (i == 4 ? 500 : 0)); // a little elsewhere
        cut.end = Frames(192000 * (i + 1) / parts);
        cuts.push_back(cut);
      }
      return cuts;
    };
    c.project = withKeyChanged(c.project, c.keys[2], [](Key& k) { k.name = "quay"; });
    const Project finer = withCuts(c.project, c.source, {}, starts(16));
    const Key& key = *findKey(finer, c.keys[2]);
    QCOMPARE(findCut(*findSource(finer, c.source), key.sound.cut)->start.value, 48500);
    QCOMPARE(key.name, std::string("quay"));
    // The row lies in the order of the sound all the same.
    std::int64_t last = -1;
    for (int i = 0; i < 16; ++i) {
      const Key* at = keyAt(finer, Row::Cuts, i % kColumns, i / kColumns);
      QVERIFY(at);
      const auto start = findCut(*findSource(finer, c.source), at->sound.cut)->start.value;
      QVERIFY(start > last);
      last = start;
    }
    const Project back = withCuts(finer, c.source, {}, starts(8));
    QCOMPARE(findKey(back, c.keys[2])->name, std::string("quay"));
    QCOMPARE(int(back.keys.size()), 8);
  }

  void aThousandSlicesAndSlicesOfOneFrame() {
    auto c = cutOf(makeSound(Samples(1000, 0.25f)), 1000);
    QCOMPARE(int(c.keys.size()), 1000);
    QCOMPARE(cutPages(c.project), 125);
    QVERIFY(std::abs(played(c.project, c.keys[500], 0, 256, 128)[0] - 0.25f) < 1e-6f);
    c.project = withKeyChanged(c.project, c.keys[3], [](Key& k) {
      k.treatments = {Treatment{treat::Reverse{}}, Treatment{treat::Octave{}}};
      k.loop.on = true;
    });
    const auto out = played(c.project, c.keys[3], 4800, 9600, 128);
    for (float s : out) QVERIFY(std::isfinite(s));
  }

  void namesSayBarBeatAndHit() {
    Source s = played(steadyBeats(100, 8, 0.0), 100, true);
    s.corrections.kind = SoundKind::Break;
    for (std::size_t i = 0; i < 8; ++i)
      s.heard->onsets[i].hits = {i % 2 ? HitClass::Snare : HitClass::Kick};
    Project p;
    Id source = 0;
    p = withSource(std::move(p), s, &source);
    std::vector<Cut> cuts;
    for (int i = 0; i < 16; ++i) {
      Cut cut;
      cut.start = Frames(std::llround(i * 0.3 * 44100));
      cut.end = Frames(std::llround((i + 1) * 0.3 * 44100));
      cuts.push_back(cut);
    }
    p = withCuts(std::move(p), source, {}, cuts);
    const auto keys = slicesOf(p, source);
    const auto name = [&](std::size_t i) { return nameOf(p, *findKey(p, keys[i])); };
    QCOMPARE(name(0), std::string("1.1 kick"));
    QCOMPARE(name(1), std::string("1.1&"));
    QCOMPARE(name(2), std::string("1.2 snare"));
    QCOMPARE(name(8), std::string("2.1 kick"));
    // Corrections follow through.
    p = withHitsChanged(std::move(p), source, s.heard->onsets[1].at, false,
                        [](std::vector<HitClass>& hits) { hits = {HitClass::Hat}; });
    QCOMPARE(name(2), std::string("1.2 hat"));
  }

  // ---- levels ----

  void levelsComeTogetherByAttackOrWhole() {
    // The same hit at falling levels, then with a long loud tail on one.
    Samples out(48000 * 4, 0.0f);
    for (int i = 0; i < 8; ++i) addHit(out, i * 0.5, 48000, 180, 0.6, 0.45 * std::pow(0.7, i));
    auto c = cutOf(makeSound(out), 8);
    LoudnessCache cache;
    const auto spread = [&](const Project& p, LevelBy by) {
      return levelSpread(p, c.keys, by, cache).lu;
    };
    QVERIFY(spread(c.project, LevelBy::Whole) > 15);
    for (LevelBy by : {LevelBy::Whole, LevelBy::Attack}) {
      const Project matched = withLevelsMatched(c.project, c.keys, {by, c.keys[4]}, cache);
      QVERIFY2(spread(matched, by) < 0.5, qPrintable(QString::number(spread(matched, by))));
      // As they are heard, by plain arithmetic: hits of one sound are as loud as they are strong.
      double low = 1e9, high = -1e9;
      for (Id id : c.keys) {
        const Key& key = *findKey(matched, id);
        const auto heard = bounce(matched.sources, *recipeOf(matched, key), m_job);
        QVERIFY(heard.ok());
        double square = 1e-12;
        for (float v : (*heard)->channel(0)) square += double(v) * double(v);
        low = std::min(low, 10 * std::log10(square));
        high = std::max(high, 10 * std::log10(square));
      }
      QVERIFY2(high - low < 0.5, qPrintable(QString::number(high - low)));
      qInfo("slices %.1f LU apart come within %.3f dB as heard", spread(c.project, by), high - low);
      QCOMPARE(findKey(matched, c.keys[4])->level.value, 0.0);
    }
    const Project peaks = withPeaksNormalised(c.project, c.keys, cache);
    for (const auto& level : levelsOf(peaks, c.keys, LevelBy::Whole, cache))
      QVERIFY(std::abs(level.peak + 1) < 0.01 || findKey(peaks, level.key)->level.value > 11.99);
    // Nothing is raised beyond full scale for loudness.
    const Project loud = withLoudnessNormalised(c.project, c.keys, LevelBy::Whole, cache);
    for (const auto& level : levelsOf(loud, c.keys, LevelBy::Whole, cache))
      QVERIFY(level.peak < 0.01);
  }

  // ---- novelty ----

  void newnessIsZeroAsItWasAndRisesWithEveryChange() {
    auto c = cutOf(drumLoop(120, 8, 48000), 8); // a beat each
    const auto fresh = [&](const std::vector<std::pair<double, Id>>& hits) {
      return noveltyOf(c.project, patternOf(c.project, hits, 2), c.source);
    };
    std::vector<std::pair<double, Id>> asItWas, shuffled, late;
    for (int i = 0; i < 8; ++i) asItWas.emplace_back(i, c.keys[std::size_t(i)]);
    QVERIFY2(fresh(asItWas).total < 0.01, qPrintable(QString::number(fresh(asItWas).total)));
    const int order[] = {4, 2, 6, 0, 5, 3, 7, 1};
    for (int i = 0; i < 8; ++i) shuffled.emplace_back(i, c.keys[std::size_t(order[i])]);
    QCOMPARE(fresh(shuffled).order, 1.0);
    QVERIFY(fresh(shuffled).rhythm < 0.01);
    for (int i = 0; i < 8; ++i) late.emplace_back(i + (i % 2 ? 0.5 : 0.0), c.keys[std::size_t(i)]);
    QCOMPARE(fresh(late).order, 0.0);
    QVERIFY(fresh(late).rhythm > 0.3);
    Project tuned = withKeyChanged(c.project, c.keys[3], [](Key& k) { k.tune = Semitones(7); });
    QVERIFY(std::abs(noveltyOf(tuned, patternOf(tuned, asItWas, 2), c.source).pitch - 1.0 / 8) <
            1e-9);
    // All of them moved: a matter of the key.
    for (Id key : c.keys) tuned = withKeyChanged(tuned, key, [](Key& k) { k.tune = Semitones(3); });
    QCOMPARE(noveltyOf(tuned, patternOf(tuned, asItWas, 2), c.source).pitch, 0.0);
    // The note offers another order, which is one.
    Id pattern = 0;
    const Project p = withPattern(c.project, patternOf(c.project, asItWas, 2), &pattern);
    LoudnessCache cache;
    const auto notes = notesOf(p, cache);
    const auto note = std::find_if(notes.begin(), notes.end(), [](const Note& n) {
      return std::holds_alternative<finding::OldOrder>(n.finding);
    });
    QVERIFY(note != notes.end());
    const Project fixed = note->fix(p);
    QVERIFY(noveltyOf(fixed, *findPattern(fixed, pattern), c.source).order > 0.8);
    QCOMPARE(findPattern(fixed, pattern)->lanes[0].hits.size(), std::size_t(8));
  }

  // ---- lining up ----

  void layingOutPutsTheDownbeatOnTheBar() {
    Source s = played(wanderingBeats(100, 16), 100, false);
    s.shape.method = FitMethod::Stretch;
    s.shape.straighten = 1;
    Project p;
    p.tempo = Bpm(90);
    Id source = 0, pattern = 0;
    p = withSource(std::move(p), s, &source);
    std::vector<Cut> cuts;
    for (std::size_t i = 0; i < 16; ++i) {
      Cut cut;
      cut.start = Frames(std::llround(s.heard->beats[i].value * 44100));
      cut.end = i + 1 < 16 ? Frames(std::llround(s.heard->beats[i + 1].value * 44100))
                           : s.sound->frames();
      cuts.push_back(cut);
    }
    p = withCuts(std::move(p), source, {}, cuts);
    const Project laid = withSlicesInOrder(p, source, {true}, &pattern);
    const auto& hits = findPattern(laid, pattern)->lanes[0].hits;
    QCOMPARE(int(hits.size()), 16);
    for (std::size_t i = 0; i < 16; ++i) // a bar empty, then every beat on the grid
      QVERIFY(std::abs(inBeats(hits[i].at) - 4 - double(i)) < 0.003);
    QCOMPARE(findPattern(laid, pattern)->bars, 5);
    // Again without: the same pattern, written anew.
    Id again = 0;
    const Project without = withSlicesInOrder(laid, source, {false}, &again);
    QCOMPARE(again, pattern);
    QCOMPARE(findPattern(without, again)->bars, 4);
  }

  // ---- bounces ----

  void aBounceIsTheSameAgainAndItsSecondsCountBack() {
    auto c = cutOf(drumLoop(120, 8, 48000), 4);
    c.project = withKeyChanged(c.project, c.keys[1], [](Key& k) {
      k.tune = Semitones(-12);
      k.pan = -0.5;
      k.lowPass = Hertz(3000);
      k.treatments = {Treatment{treat::Stutter{}}};
    });
    const Source& from = *findSource(c.project, c.source);
    const Recipe made = *recipeOf(c.project, *findKey(c.project, c.keys[1]));
    const auto& sources = c.project.sources;
    const auto first = bounce(sources, made, m_job), second = bounce(sources, made, m_job);
    QVERIFY(first.ok() && second.ok());
    QCOMPARE((*first)->hash(), (*second)->hash());
    QCOMPARE((*first)->frames().value, 2 * 48000); // an octave down: twice as long
    Id added = 0;
    Project p = withBounced(c.project, c.keys[1], sourceOf(from, made, *first, "bounced"), &added);
    QCOMPARE(originsOf(p, added).front().source, c.source);
    QVERIFY(std::abs(originsOf(p, added).front().share - 0.5) < 1e-9);
    Id pattern = 0;
    p = withPattern(p, patternOf(p, {{0, c.keys[1]}}, 2), &pattern);
    Section section;
    section.pattern = pattern;
    section.bars = 2;
    p = withSection(p, section, 0);
    QVERIFY(std::abs(heardInSong(p, c.source).value - 1) < 0.01);
    // Saved and read again, the recipe is whole.
    const auto read = projectFromText(projectToText(p, 1), "test");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const Source* again = findSource(read->project, added);
    QVERIFY(again && again->recipe && *again->recipe == made);
    // A bounce of what is not there says so.
    auto missing = std::make_shared<Source>(from);
    missing->sound = nullptr;
    QVERIFY(!bounce({missing}, made, m_job).ok());
    QVERIFY(!bounce({}, made, m_job).ok());
  }
};

QTEST_GUILESS_MAIN(TestSlices)
#include "tst_slices.moc"
