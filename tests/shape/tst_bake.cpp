// Baking by the three methods, straightening, what the keys then play.
#include "model/edits.h"
#include "play/print.h"
#include "shape/played.h"
#include "shape/shaped.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr Hertz k48{48000};

/// Where hits begin: the first sample above a third of the loudest, then nothing for a while.
std::vector<double> hitsIn(const Sound& sound, double holdS = 0.08) {
  std::vector<double> out;
  const auto samples = sound.channel(0);
  const float least = peakOf(samples) / 3;
  for (std::size_t i = 1; i < samples.size(); ++i)
    if (std::abs(samples[i]) > least) {
      out.push_back(double(i) / sound.rate().value);
      i += std::size_t(holdS * sound.rate().value);
    }
  return out;
}

TimeLine lineOf(const Source& source, Bpm beat) {
  return shapedLine(ResolvedSource(source), source.shape, beat);
}

std::optional<BakeRecipe> recipeIn(const Source& source, Bpm beat, Stretch stretch) {
  return recipeOf(ResolvedSource(source), source.shape, lineOf(source, beat), stretch, k48);
}

SoundPtr bakedWhole(const Source& source, Bpm beat, JobContext& job) {
  const Stretch all{Frames(0), source.sound->frames()};
  const auto recipe = recipeIn(source, beat, all);
  if (!recipe) return nullptr;
  auto sound = bake(*source.sound, *recipe, job);
  return sound ? *sound : nullptr;
}

/// How far hits stand from even beats at the worst, in ms, after the best common shift.
double unevenMs(const std::vector<double>& hits, double beatS) {
  if (hits.size() < 2) return 1e9;
  double low = 1e9, high = -1e9;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const double off = hits[i] - hits[0] - std::round((hits[i] - hits[0]) / beatS) * beatS;
    low = std::min(low, off);
    high = std::max(high, off);
  }
  return (high - low) * 1000;
}

float largestStep(std::span<const float> samples) {
  float most = 0;
  for (std::size_t i = 1; i < samples.size(); ++i)
    most = std::max(most, std::abs(samples[i] - samples[i - 1]));
  return most;
}

double levelDb(const Sound& sound, double fromS, double toS) {
  const auto samples = sound.channel(0);
  double sum = 1e-12;
  const auto from = std::size_t(fromS * sound.rate().value),
             to = std::min(samples.size(), std::size_t(toS * sound.rate().value));
  for (std::size_t i = from; i < to; ++i) sum += double(samples[i]) * double(samples[i]);
  return 10 * std::log10(sum / double(to - from));
}

} // namespace

class TestBake : public QObject {
  Q_OBJECT
  JobContext m_job;

private slots:
  void whatNeedsNothingIsNotBaked() {
    Source source = played(steadyBeats(100, 16), 100, true);
    const Stretch all{Frames(0), source.sound->frames()};
    const auto needed = [&](Bpm beat) { return recipeIn(source, beat, all).has_value(); };
    QVERIFY(!movesTime(source.shape) && !needed(Bpm(92)));
    source.shape.semitones = Semitones(-3);
    QVERIFY(!needed(Bpm(92))); // a repitch is played
    source.shape.method = FitMethod::Stretch;
    source.shape.semitones = Semitones(0);
    QVERIFY(!needed(Bpm(100)) && !needed(Bpm(200)) && needed(Bpm(92)));
    source.shape.semitones = Semitones(2);
    QVERIFY(needed(Bpm(100)));
    source.shape.method = FitMethod::Repitch;
    source.shape.straighten = 1;
    QVERIFY(!needed(Bpm(92))); // it is straight already
  }

  void beyondItsEndsATimeLineGoesOn() {
    Source source = played(wanderingBeats(100, 12), 100, false, 220);
    source.shape.method = FitMethod::Stretch;
    source.shape.straighten = 1;
    const TimeLine line = lineOf(source, Bpm(91));
    QVERIFY(line.knots.size() > 3);
    const auto goesOn = [&](const TimeLine::Knot& a, const TimeLine::Knot& b, double result) {
      const double source2 =
          a.source + (result - a.result) * (b.source - a.source) / (b.result - a.result);
      QVERIFY(std::abs(line.sourceAt(result) - source2) < 1e-9);
      QVERIFY(std::abs(line.resultAt(source2) - result) < 1e-9);
    };
    const auto& knots = line.knots;
    goesOn(knots[0], knots[1], knots[0].result - 0.4);
    goesOn(knots[knots.size() - 2], knots.back(), knots.back().result + 0.4);
    goesOn(knots[1], knots[2], (knots[1].result + knots[2].result) / 2);
  }

  void theSameRecipeGivesTheSameSamplesAndExactlyItsFrames() {
    Source source = played(wanderingBeats(100, 12), 100, false, 220);
    for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace}) {
      source.shape = {};
      source.shape.method = method;
      source.shape.straighten = 0.7;
      source.shape.semitones = Semitones(method == FitMethod::Stretch ? 1 : 0);
      const TimeLine line = lineOf(source, Bpm(91));
      const auto recipe = *recipeOf(ResolvedSource(source), source.shape, line,
                                    {Frames(10000), Frames(200000)}, k48);
      const auto once = bake(*source.sound, recipe, m_job),
                 again = bake(*source.sound, recipe, m_job);
      QVERIFY(once && again);
      QCOMPARE((*once)->hash(), (*again)->hash());
      const double length = line.resultAt(200000 / kRate) - line.resultAt(10000 / kRate);
      QCOMPARE((*once)->frames().value, std::llround(length * 48000));
      // Its name stands for all of it.
      const std::string name = recipe.nameOver(source.sound->hash());
      QCOMPARE(name, recipe.nameOver(source.sound->hash()));
      for (int change = 0; change < 6; ++change) {
        BakeRecipe other = recipe;
        if (change == 0) other.pitch *= 1.01;
        if (change == 1) other.line.knots.back().result += 1e-4;
        if (change == 2) other.formants = true;
        if (change == 3) other.material = Material(1 - int(other.material));
        if (change == 4) other.hits.push_back(99);
        if (change == 5) other.preview = true;
        QVERIFY(other.nameOver(source.sound->hash()) != name);
      }
      QVERIFY(recipe.nameOver("another") != name);
    }
  }

  void beatsComeOutEven_data() {
    QTest::addColumn<int>("method");
    QTest::addColumn<int>("by");
    for (const auto& [method, name] : {std::pair{FitMethod::Repitch, "repitch"},
                                       {FitMethod::Stretch, "stretch"},
                                       {FitMethod::Respace, "re-space"}})
      for (const auto& [by, level] :
           {std::pair{StraightenBy::Beats, "beats"}, {StraightenBy::Hits, "hits"}})
        QTest::addRow("%s by %s", name, level) << int(method) << int(by);
  }
  void beatsComeOutEven() {
    QFETCH(int, method);
    QFETCH(int, by);
    Source source = played(wanderingBeats(100, 64), 100, false); // 16 bars that drift by 3 %
    source.corrections.kind = SoundKind::Break;
    source.shape.method = FitMethod(method);
    source.shape.by = StraightenBy(by);
    const double before = unevenMs(hitsIn(*source.sound), 0.6);
    QVERIFY2(before > 15, qPrintable(QString::number(before)));
    source.shape.straighten = 1;
    const auto baked = bakedWhole(source, Bpm(92), m_job);
    QVERIFY(baked);
    const auto hits = hitsIn(*baked);
    QCOMPARE(int(hits.size()), 64);
    const double beatS =
        method == int(FitMethod::Repitch) ? ResolvedSource(source).even()->beatS : 60.0 / 92;
    const double after = unevenMs(hits, beatS);
    QVERIFY2(after < 1.0, qPrintable(QString::number(after)));
    // Attacks: the peak of the first 5 ms of each against the original's.
    const auto originals = hitsIn(*source.sound);
    double least = 1;
    for (std::size_t i = 1; i + 1 < hits.size(); ++i) {
      const auto peakAt = [](const Sound& sound, double at) {
        return peakOf(sound, toFrames(Seconds(at - 0.0005), sound.rate()),
                      toFrames(Seconds(at + 0.005), sound.rate()));
      };
      const double kept = peakAt(*baked, hits[i]) / peakAt(*source.sound, originals[i]);
      QVERIFY2(kept > 0.9, qPrintable(QString("%1: %2").arg(i).arg(kept)));
      least = std::min(least, kept);
    }
    qInfo("worst from the grid %.3f ms (%.1f as played), attacks kept to %.3f", after, before,
          least);
  }

  void ghostNotesKeepTheirPlaceAtBeatLevel() {
    // A soft hit a little late of the third sixteenth of every beat, which the beats do not know
    // of.
    const auto beats = wanderingBeats(100, 32);
    Source source = played(beats, 100, false);
    Samples out(source.sound->channel(0).begin(), source.sound->channel(0).end());
    const double share = 0.56;
    std::vector<Onset> onsets;
    for (std::size_t i = 0; i + 1 < beats.size(); ++i) {
      const double at = beats[i] + share * (beats[i + 1] - beats[i]);
      addHit(out, at, kRate, 900, 0.5, 0.5);
      onsets.push_back(source.heard->onsets[i]);
      Onset ghost;
      ghost.at = Seconds(at);
      ghost.cut = Seconds(at - 0.0005);
      onsets.push_back(ghost);
    }
    onsets.push_back(source.heard->onsets.back());
    source.heard->onsets = onsets;
    source.sound = makeSound(out, kRate);
    source.corrections.kind = SoundKind::Break;
    source.shape.method = FitMethod::Stretch;
    source.shape.straighten = 1;
    const double beatS = 60.0 / 92;
    for (StraightenBy by : {StraightenBy::Beats, StraightenBy::Hits}) {
      source.shape.by = by;
      const auto hits = hitsIn(*bakedWhole(source, Bpm(92), m_job));
      QCOMPARE(int(hits.size()), 63);
      for (std::size_t i = 1; i + 1 < hits.size(); i += 2) {
        const double place = (hits[i] - hits[i - 1]) / beatS;
        const double wanted = by == StraightenBy::Beats ? share : 0.5;
        QVERIFY2(std::abs(place - wanted) * beatS < 0.003, qPrintable(QString::number(place)));
      }
    }
  }

  void halfStraightIsHalfAsUneven() {
    Source source = played(wanderingBeats(100, 32), 100, false);
    source.shape.method = FitMethod::Respace;
    double last = unevenMs(hitsIn(*source.sound), 0.6) * 100 / 92;
    for (double amount : {0.5, 1.0}) {
      source.shape.straighten = amount;
      const double now = unevenMs(hitsIn(*bakedWhole(source, Bpm(92), m_job)), 60.0 / 92);
      QVERIFY2(now < last * 0.65, qPrintable(QString("%1 of %2").arg(now).arg(last)));
      last = now;
    }
  }

  void aMarkerMovesOnlyWhatIsPinned() {
    Source source = played(steadyBeats(100, 16, 0.0), 100, true);
    const TimeLine before = lineOf(source, Bpm(100));
    for (double beat : {4.0, 6.0, 8.0})
      source.shape.markers.push_back({Seconds(beat * 0.6), beat == 6 ? 6.1 : beat});
    const TimeLine after = lineOf(source, Bpm(100));
    for (double t = 0; t < 9.6; t += 0.05) {
      const double moved = after.resultAt(t) - before.resultAt(t);
      if (t <= 2.4 || t >= 4.8)
        QVERIFY(std::abs(moved) < 1e-9);
      else
        QVERIFY(moved > 0 && moved <= 0.06 + 1e-9);
    }
    QVERIFY(std::abs(after.resultAt(3.6) - before.resultAt(3.6) - 0.06) < 1e-9);
    const auto local = localStretches(ResolvedSource(source), Bpm(100));
    QCOMPARE(int(local.size()), 2);
    QVERIFY(std::abs(local[0].ratio - 2.1 / 2) < 1e-9 && std::abs(local[1].ratio - 1.9 / 2) < 1e-9);
    // A marker past its neighbour is not obeyed, and nothing breaks.
    source.shape.markers[1].beat = 9;
    const TimeLine crossed = lineOf(source, Bpm(100));
    for (std::size_t k = 1; k < crossed.knots.size(); ++k)
      QVERIFY(crossed.knots[k].result > crossed.knots[k - 1].result);
  }

  void reSpacingFillsItsGaps() {
    // A held tone under soft hits, spread to two thirds of its tempo: gaps of a fifth of a second.
    Source source = played(steadyBeats(120, 16, 0.0), 120, true, 330);
    source.shape.method = FitMethod::Respace;
    const auto baked = bakedWhole(source, Bpm(81), m_job);
    QVERIFY(baked);
    const double beatS = 60.0 / 81;
    double farthest = 0;
    for (int beat = 1; beat < 14; ++beat) {
      const double at = beat * beatS;
      const double own = levelDb(*baked, at + 0.40, at + 0.49);
      const double gap = levelDb(*baked, at + 0.51, at + beatS - 0.012);
      QVERIFY2(std::abs(gap - own) < 3, qPrintable(QString("%1 %2").arg(gap).arg(own)));
      farthest = std::max(farthest, std::abs(gap - own));
    }
    // Nothing is steeper than the source itself is at this rate, wherever its frames may lie.
    float own = 0;
    for (int phase = 0; phase < 16; ++phase) {
      BakeRecipe asItIs;
      asItIs.line.knots = {{phase / 16.0 / 48000, 0}, {1 + phase / 16.0 / 48000, 1}};
      asItIs.line.length = source.sound->duration().value;
      own = std::max(own, largestStep((*bake(*source.sound, asItIs, m_job))->channel(0)));
    }
    const float most = largestStep(baked->channel(0));
    QVERIFY2(most <= own * 1.001f, qPrintable(QString("%1 %2").arg(most).arg(own)));
    qInfo("gaps within %.2f dB of what is beside them, steepest step %.3f of the source's",
          farthest, double(most / own));
  }

  void reSpacedAtItsOwnTempoItIsTheSource() {
    Source source = played(steadyBeats(100, 16, 0.0), 100, true, 220);
    BakeRecipe recipe;
    recipe.method = FitMethod::Respace;
    const double length = source.sound->duration().value;
    recipe.line.knots = {{0, 0}, {length, length}};
    recipe.line.length = length;
    recipe.hits = hitsOf(source);
    recipe.rate = Hertz(kRate);
    const auto baked = *bake(*source.sound, recipe, m_job);
    double worst = 0;
    double own = 0, got = 0;
    for (std::size_t i = 0; i + 400 < std::size_t(source.sound->frames().value); ++i) {
      const auto is = double(baked->channel(0)[i]), was = double(source.sound->channel(0)[i]);
      worst = std::max(worst, std::abs(is - was));
      own += was * was;
      got += is * is;
    }
    QVERIFY2(worst < 0.02, qPrintable(QString::number(worst)));
    QVERIFY2(std::abs(10 * std::log10(got / own)) < 0.01, qPrintable(QString::number(got / own)));
  }

  void extremes() {
    Source source = played(steadyBeats(100, 8), 100, true, 220);
    for (double pitch : {-24.0, 24.0})
      for (double ratio : {0.25, 4.0})
        for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace}) {
          BakeRecipe recipe;
          recipe.method = method;
          recipe.pitch = ratioOf(Semitones(pitch));
          recipe.line.knots = {{0, 0}, {2, 2 * ratio}};
          recipe.line.length = 2 * ratio;
          recipe.hits = hitsOf(source);
          const auto baked = bake(*source.sound, recipe, m_job);
          QVERIFY(baked.ok());
          QCOMPARE((*baked)->frames().value, std::llround(2 * ratio * 48000));
          for (float v : (*baked)->channel(1)) QVERIFY(std::isfinite(v));
        }
    // One frame; silence; a cancelled job.
    BakeRecipe one;
    one.line.knots = {{0.5, 0}, {0.5 + 1 / 48000.0, 1 / 48000.0}};
    one.line.length = 1 / 48000.0;
    for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace}) {
      one.method = method;
      QCOMPARE((*bake(*source.sound, one, m_job))->frames().value, 1);
    }
    JobContext cancelled;
    cancelled.cancel();
    QVERIFY(!bake(*source.sound, one, cancelled));
  }

  // ---- what the keys play ----

  void keysPlayWhatWasBaked() {
    Id id = 0;
    Source source = played(steadyBeats(100, 8, 0.0), 100, true, 220);
    source.name = "held";
    Project project;
    project.tempo = Bpm(80);
    project = withSource(std::move(project), source, &id);
    Id key = 0;
    project = withKeySound(std::move(project), Row::Body, 0, 0, {id, 0}, "held", &key);
    QVERIFY(bakesOf(project).empty());
    project = withSourceChanged(std::move(project), id, [](Source& s) {
      s.shape.method = FitMethod::Stretch;
      s.shape.semitones = Semitones(2);
    });
    const auto orders = bakesOf(project);
    QCOMPARE(int(orders.size()), 1);
    // Not there yet: the source itself, at its pitch.
    Score score = compileSong(project);
    QVERIFY(score.patches[0].sound == source.sound);
    QVERIFY(std::abs(score.patches[0].step - 44100.0 / 48000 * std::exp2(2 / 12.0)) < 1e-9);
    int baked = 0;
    BakeCache bakeCache(2, [&baked] { ++baked; });
    bakeCache.want(orders);
    bakeCache.wait();
    QCOMPARE(bakeCache.progress().ready, 1);
    CompileOptions options;
    options.baked = [&](const BakeOrder& order) { return bakeCache.find(order.name); };
    score = compileSong(project, options);
    QVERIFY(score.patches[0].sound != source.sound);
    QCOMPARE(score.patches[0].start.value, 0);
    QCOMPARE(score.patches[0].end.value, std::llround(8 * 60.0 / 80 * 48000));
    QCOMPARE(score.patches[0].step, 1.0);
  }
};

QTEST_GUILESS_MAIN(TestBake)
#include "tst_bake.moc"
