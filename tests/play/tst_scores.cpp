// Scores and recipes: bars of other meters, what comes in through a key, bounces made again.
#include "cut/slicing.h"
#include "patience.h"
#include "play/bounce.h"
#include "play/engine.h"
#include "play/print.h"
#include "play/score.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestScores : public QObject {
  Q_OBJECT
  JobContext m_job;

private slots:
  void barLinesFollowTheMeters() {
    Score score; // two bars of 4/4, three of 3/4, then 7/8
    score.meters = {{at(0), {4, 4}}, {at(8), {3, 4}}, {at(17), {7, 8}}};
    QCOMPARE(score.barLineAfter(at(0), 1), at(4));
    QCOMPARE(score.barLineAfter(at(0), 2), at(8));
    QCOMPARE(score.barLineAfter(at(4), 2), at(11));
    QCOMPARE(score.barLineAfter(at(0), 5), at(17));
    QCOMPARE(score.barLineAfter(at(14), 2), at(20.5));
    QCOMPARE(score.barLineAfter(at(4), 0), at(4));
    // A bar that another meter cuts short ends there.
    score.meters = {{at(0), {4, 4}}, {at(6), {4, 4}}};
    QCOMPARE(score.barLineAfter(at(4), 1), at(6));
    QCOMPARE(score.barLineAfter(at(4), 2), at(10));
  }

  void aBarLineStandsOnItsFrame() {
    Score score;
    score.tempo = TempoMap(Bpm(100)); // a beat is 28 800 frames
    score.meters = {{at(0), {4, 4}}, {at(8), {3, 4}}};
    for (const auto& [frame, beat] : {std::pair{0, 0.0},
                                      {115'199, 0.0},
                                      {115'200, 4.0},
                                      {230'399, 4.0},
                                      {230'400, 8.0},
                                      {316'799, 8.0},
                                      {316'800, 11.0}})
      QCOMPARE(score.barLineAt(EngineFrames(frame)), at(beat));
  }

  void aStretchOfAPatternIsPlayed() {
    const ClickProject clicks = clickProject({0, 1.5, 4, 7}, 120, 2);
    CompileOptions options;
    QCOMPARE(compilePattern(clicks.project, clicks.pattern, options).length.value, 8 * 24'000);
    options.loop = {at(0), at(4)};
    const Score one = compilePattern(clicks.project, clicks.pattern, options);
    QCOMPARE(one.length.value, 4 * 24'000);
    QCOMPARE(one.events.size(), std::size_t(2));
    options.loop = {at(4), at(8)};
    const Score second = compilePattern(clicks.project, clicks.pattern, options);
    QCOMPARE(second.loopStart.value, 4 * 24'000);
    QCOMPARE(second.length.value, 8 * 24'000);
    QCOMPARE(second.events.front().frame.value, 4 * 24'000);
    options.loop = {at(4), at(99)}; // there are no more than two bars
    QCOMPARE(compilePattern(clicks.project, clicks.pattern, options).length.value, 8 * 24'000);
    options.loop = {at(9), at(12)};
    QCOMPARE(compilePattern(clicks.project, clicks.pattern, options).round().value, 8 * 24'000);
  }

  void framesThatCountOnHaveAPlace() {
    Score score;
    score.loops = true;
    score.loopStart = EngineFrames(300);
    score.length = EngineFrames(500);
    for (const auto& [counted, place, round] : std::vector<std::array<std::int64_t, 3>>{
             {0, 0, 0}, {499, 499, 0}, {500, 300, 1}, {699, 499, 1}, {700, 300, 2}}) {
      QCOMPARE(score.placeOf(EngineFrames(counted)).value, place);
      QCOMPARE(score.roundOf(EngineFrames(counted)), round);
    }
    score.loops = false;
    QCOMPARE(score.placeOf(EngineFrames(700)).value, 700);
  }

  void whatComesInGoesThroughItsKey() {
    ClickProject clicks = clickProject({0});
    clicks.project = withKeyChanged(clicks.project, clicks.key, [](Key& key) {
      key.level = Decibels(-6);
      key.pan = 1;
      key.lowPass = Hertz(900);
    });
    const Id part = findKey(clicks.project, clicks.key)->part;
    clicks.project =
        withPartChanged(clicks.project, part, [](Part& it) { it.bus.level = Decibels(-6); });
    const Monitor through = monitorThrough(clicks.project, clicks.key);
    QVERIFY(through.on && !through.prints);
    QVERIFY(std::abs(through.left) < 1e-6f);
    // As the key's own sound would be: its level and its part's, all of it to the right.
    const Score score = compilePattern(clicks.project, clicks.pattern);
    const PatchFilters& own = score.patches[0].filters;
    QVERIFY(own.high.corner == 0 ? own.low.corner == 900 : own.high.corner == 900);
    QVERIFY(through.filters.low.corner == own.low.corner &&
            through.filters.high.corner == own.high.corner);
    QCOMPARE(through.filters.damping, own.damping);
    Project middle = withKeyChanged(clicks.project, clicks.key, [](Key& key) { key.pan = 0; });
    const Monitor even = monitorThrough(middle, clicks.key);
    QVERIFY(std::abs(even.left - even.right) < 1e-6f);
    QVERIFY(std::abs(20 * std::log10(double(even.left)) + 12) < 0.01);
    // Without a key it is heard as it comes.
    const Monitor plain = monitorThrough(clicks.project, 0);
    QVERIFY(plain.on && plain.left == 1 && plain.right == 1 && plain.filters.low.corner == 0 &&
            plain.filters.high.corner == 0);
  }

  void aWholeSourceIsTreatedAtItsOwnTempo() {
    Source source = sourceOf(makeSound(sine(300, 2, 48000)), "tone");
    source.id = 7;
    Treatment reverse;
    reverse.what = treat::Reverse{};
    const Recipe plain = treatedWhole(source, {reverse});
    QVERIFY(plain.as.sound == (SoundRef{7, 0}) && plain.as.treatments.size() == 1);
    QCOMPARE(plain.start.value, 0);
    QCOMPARE(plain.end.value, 96'000);
    source.corrections.tempo = Bpm(77);
    source.corrections.downbeat = Seconds(0);
    source.heard = Analysis{};
    source.heard->meter = 3;
    source.heard->tempo.emplace().bpm = Bpm(80);
    const Recipe timed = treatedWhole(source, {reverse});
    QCOMPARE(timed.tempo.value, 77.0);
    QVERIFY(timed.meter == (Meter{3, 4}));
    // Bounced it is the sound turned round.
    const auto made = bounce({std::make_shared<const Source>(source)}, plain, m_job);
    QVERIFY2(made.ok(), made.ok() ? "" : made.error().text().c_str());
    const auto before = source.sound->channel(0), after = (*made)->channel(0);
    for (std::size_t i = 1000; i < 90'000; i += 997)
      QVERIFY(std::abs(after[i] - before[95'999 - i]) < 1e-3f);
  }

  void whatIsMadeAgainKeepsItsCutsAsFarAsTheyReach() {
    Source source = sourceOf(makeSound(sine(300, 2, 48000)), "made");
    Id id = 0;
    Project project = withSource({}, source, &id);
    CutSettings fourths;
    fourths.mode = CutMode::Equal;
    fourths.parts = 4;
    project = withCuts(project, id, fourths, cutSource(*findSource(project, id), fourths));
    Recipe recipe;
    recipe.tempo = Bpm(66);
    Analysis heard;
    heard.duration = Seconds(1.2);
    const auto shorter = makeSound(sine(200, 1.2, 48000));
    const Project after = withRemade(project, id, recipe, shorter, heard);
    const Source& now = *findSource(after, id);
    QCOMPARE(now.hash, shorter->hash());
    QVERIFY(now.sound == shorter && *now.heard == heard && now.recipe->tempo == Bpm(66));
    QCOMPARE(now.cuts.size(), std::size_t(3)); // the fourth would begin after its end
    QCOMPARE(now.cuts[2].end.value, 57'600);
    QCOMPARE(findSource(withRemade(project, id, recipe, makeSound(sine(200, 1, 48000)), heard), id)
                 ->cuts.size(),
             std::size_t(2)); // one of no frames is none
  }

  void whatCannotBeBouncedIsSaid() {
    Recipe made;
    made.as.sound = {3, 0};
    const auto none = bounce({}, made, m_job);
    QVERIFY(!none.ok() && none.error().text().find("missing") != std::string::npos);
    Source source = sourceOf(makeSound(sine(300, 1, 48000)), "tone");
    source.id = 3;
    // What goes round is bounced with its loop; what does not, once.
    made.start = Frames(0);
    made.end = Frames(48'000);
    const auto once = bounceRound({std::make_shared<const Source>(source)}, made, m_job);
    QVERIFY(once.ok() && once->loopStart == 0 && once->loopEnd == 0);
    QCOMPARE(once->sound->frames().value, 48'000);
    made.as.gate = true;
    made.as.loop.on = true;
    made.as.loop.from = 0.5;
    const auto round = bounceRound({std::make_shared<const Source>(source)}, made, m_job);
    QVERIFY(round.ok());
    QVERIFY(round->loopStart >= 24'000 && round->loopEnd > round->loopStart);
  }

  void theBeginningOfEveryLongSoundIsReadBeforeItIsStruck() {
    const auto sound = makeSound(Samples(std::size_t(1100 * PrefetchedSound::kPiece), 0.1f));
    Id source = 0, first = 0, second = 0;
    Project p = withSource({}, sourceOf(sound), &source);
    p = withKeySound(std::move(p), Row::Body, 0, 0, {source, 0}, "whole", &first);
    Prefetcher prefetcher;
    Engine engine(&prefetcher);
    engine.setScore(std::make_shared<Score>(compilePattern(p, 0))); // one patch alone
    const auto held = prefetcher.prefetched(sound);
    QVERIFY(held);
    EVENTUALLY(held->ready(0, 20'000));
    // And of a second one, elsewhere in it.
    p = withKeySound(std::move(p), Row::Body, 1, 0, {source, 0}, "later", &second);
    p = withKeyChanged(std::move(p), second,
                       [](Key& key) { key.trimStart = Milliseconds(60'000); });
    engine.setScore(std::make_shared<Score>(compilePattern(p, 0)));
    EVENTUALLY(held->ready(60 * 48'000, 60 * 48'000 + 20'000));
    QVERIFY(held->ready(0, 20'000));
  }

  void aHitThatStartsInsideIsReadThere() {
    const auto sound = makeSound(Samples(std::size_t(1100 * PrefetchedSound::kPiece), 0.1f));
    auto c = clickProject({0, 1}); // a short sound, which is in memory, is struck inside as well
    Id source = 0, key = 0;
    Project p = withSource(c.project, sourceOf(sound), &source);
    p = withKeySound(std::move(p), Row::Floor, 0, 0, {source, 0}, "whole", &key);
    const Id part = findKey(p, key)->part;
    p = withPatternChanged(std::move(p), c.pattern, [&](Pattern& pattern) {
      for (auto& lane : pattern.lanes)
        for (auto& hit : lane.hits) hit.start = 0.5;
      Hit inside;
      inside.key = key;
      inside.start = 0.5;
      laneOf(pattern, part).hits.push_back(inside);
    });
    Prefetcher prefetcher;
    Engine engine(&prefetcher);
    engine.setScore(std::make_shared<Score>(compilePattern(p, c.pattern)));
    const auto held = prefetcher.prefetched(sound);
    const std::int64_t middle = sound->frames().value / 2;
    EVENTUALLY(held->ready(middle, middle + 20'000));
    QVERIFY(held->ready(0, 20'000));
  }
};

QTEST_GUILESS_MAIN(TestScores)
#include "tst_scores.moc"
