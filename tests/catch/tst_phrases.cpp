// Phrase detection: where the phrases of a long take lie, and which of them fit.
#include "catch/level_advice.h"
#include "catch/phrases.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A take: hiss all through, phrases of drums at given places.
struct MadePhrase {
  double from, bpm;
  int beats;
};
SoundPtr takeOf(const std::vector<MadePhrase>& phrases, double seconds, double looseMs = 0) {
  Samples all(std::size_t(seconds * 48000));
  Random random(21);
  for (float& v : all) v = float(3e-4 * random.bipolar());
  for (const MadePhrase& phrase : phrases)
    for (int half = 0; half < phrase.beats * 2; ++half)
      addHit(all, phrase.from + half * 30 / phrase.bpm + looseMs / 1000 * random.bell(), 48000,
             half % 4 == 2 ? 200 : 60, half % 4 == 2 ? 1.0 : 0.2, half % 2 ? 0.25 : 0.6);
  return makeSound(std::move(all));
}

/// A held chord with its harmonics.
void addChord(Samples& out, double from, double to, const std::vector<double>& hz) {
  for (std::size_t i = std::size_t(from * 48000); i < std::size_t(to * 48000) && i < out.size();
       ++i)
    for (double f : hz)
      for (int h = 1; h <= 6; ++h)
        out[i] += float(0.04 / h * std::sin(2 * M_PI * f * h * double(i) / 48000));
}

} // namespace

class TestPhrases : public QObject {
  Q_OBJECT
private slots:
  void silencePartsPhrases() {
    const auto take = takeOf({{2, 90, 8}, {12, 120, 16}, {24, 75, 6}}, 34);
    JobContext job;
    const auto found = findPhrases(*take, {}, job);
    QCOMPARE(found.size(), std::size_t(3));
    const double starts[] = {2, 12, 24};
    const double ends[] = {2 + 15 * 30 / 90.0 + 0.12, 12 + 31 * 30 / 120.0 + 0.12,
                           24 + 11 * 30 / 75.0 + 0.12};
    for (std::size_t i = 0; i < 3; ++i) {
      const double from = toSeconds(found[i].start, take->rate()).value,
                   to = toSeconds(found[i].end, take->rate()).value;
      QVERIFY2(from <= starts[i] && from > starts[i] - 0.05, qPrintable(QString::number(from)));
      QVERIFY2(std::abs(to - ends[i]) < 0.1, qPrintable(QString::number(to)));
    }
    // A shorter rest parts more: then every hit of the slow one stands alone.
    PhraseSettings fine;
    fine.rest = Seconds(0.2);
    fine.shortest = Seconds(0.05);
    QVERIFY(findPhrases(*take, fine, job).size() > 10);
  }

  void noveltyPartsWhatNeverRests() {
    // 40 s without a rest: three harmonies and a stretch of noise, each of its own colour.
    Samples all(48000 * 40);
    addChord(all, 0, 11, {110, 138.6, 164.8});
    addChord(all, 11, 20, {440, 523.3, 1318.5});
    Random random(6);
    for (std::size_t i = 48000 * 20; i < 48000 * 29; ++i) all[i] = float(0.08 * random.bipolar());
    addChord(all, 29, 40, {73.4, 98, 880});
    const auto take = makeSound(std::move(all));
    JobContext job;
    PhraseSettings settings;
    settings.longest = Seconds(12);
    const auto found = findPhrases(*take, settings, job);
    QCOMPARE(found.size(), std::size_t(4));
    const double borders[] = {11, 20, 29};
    for (std::size_t i = 0; i < 3; ++i)
      QVERIFY(std::abs(toSeconds(found[i + 1].start, take->rate()).value - borders[i]) < 0.5);
    // One long even sound has no border in it, however long.
    Samples even(48000 * 40);
    addChord(even, 0, 40, {110, 138.6, 164.8});
    QCOMPARE(findPhrases(*makeSound(std::move(even)), settings, job).size(), std::size_t(1));
  }

  void silenceHasNoPhrases() {
    JobContext job;
    QVERIFY(findPhrases(*makeSound(Samples(48000 * 5)), {}, job).empty());
    QVERIFY(findPhrases(*makeSound(Samples(100)), {}, job).empty());
    job.cancel();
    QVERIFY(findPhrases(*takeOf({{1, 90, 60}}, 45), {}, job).empty());
  }

  void phrasesAreHeardAndTheOneThatFitsStandsFirst() {
    const auto take = takeOf({{1, 93, 16}, {14, 117, 16}}, 26);
    JobContext job;
    std::vector<Phrase> phrases;
    detectPhrases(*take, {}, job, [&](Phrase phrase) { phrases.push_back(std::move(phrase)); });
    QCOMPARE(phrases.size(), std::size_t(2));
    QVERIFY(phrases[0].heard.tempo && phrases[1].heard.tempo);
    QVERIFY(std::abs(phrases[0].heard.tempo->bpm.value - 93) < 1);
    QVERIFY(std::abs(phrases[1].heard.tempo->bpm.value - 117) < 1.2);
    QVERIFY(costOf(phrases[0], {Bpm(93), std::nullopt}) <
            costOf(phrases[1], {Bpm(93), std::nullopt}));
    QVERIFY(costOf(phrases[1], {Bpm(117), std::nullopt}) <
            costOf(phrases[0], {Bpm(117), std::nullopt}));
    Phrase clipped = phrases[0];
    clipped.heard.faults.push_back({"clipping", 4});
    QVERIFY(costOf(clipped, {Bpm(93), std::nullopt}) >
            costOf(phrases[0], {Bpm(93), std::nullopt}) + 2);
  }

  void unevennessIsWhatWasPlayed() {
    JobContext job;
    std::optional<Milliseconds> tight, loose;
    for (auto [ms, out] : {std::pair{0.0, &tight}, {14.0, &loose}})
      detectPhrases(*takeOf({{1, 100, 16}}, 12, ms), {}, job,
                    [&, to = out](Phrase phrase) { *to = unevennessOf(phrase.heard); });
    QVERIFY(tight && loose);
    QVERIFY2(tight->value < 6, qPrintable(QString::number(tight->value)));
    QVERIFY2(loose->value > 9 && loose->value < 19, qPrintable(QString::number(loose->value)));
    Samples one(48000, 0.0f);
    addHit(one, 0.2, 48000, 60, 0.2);
    Analysis single;
    single.kind.kind = SoundKind::OneShot;
    QVERIFY(!unevennessOf(single));
  }

  void aStretchIsCutAsItLies() {
    const auto take = takeOf({{1, 90, 4}}, 5);
    const auto part = soundOf(*take, Frames(48000), Frames(96000));
    QCOMPARE(part->frames().value, std::int64_t(48000));
    QVERIFY(std::equal(part->channel(0).begin(), part->channel(0).end(),
                       take->channel(0).begin() + 48000));
  }

  void theLevelIsAdvised() {
    using Is = LevelAdvice::Is;
    QVERIFY(adviceFor(0, 0).is == Is::Silent);
    QVERIFY(adviceFor(0.5f, 3).is == Is::Clipped);
    QVERIFY(adviceFor(0.25f, 0).is == Is::Good); // −12 dBFS, the middle of the target
    const auto quiet = adviceFor(0.01f, 0);      // −40 dBFS
    QVERIFY(quiet.is == Is::Quiet);
    QVERIFY(std::abs(quiet.change - 28) < 0.1);
    const auto loud = adviceFor(0.9f, 0);
    QVERIFY(loud.is == Is::Loud);
    QVERIFY(loud.change < -10);
  }
};

QTEST_GUILESS_MAIN(TestPhrases)
#include "tst_phrases.moc"
