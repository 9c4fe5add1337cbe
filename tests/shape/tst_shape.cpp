// A source brought to a beat: where its hits land, what pitch it has, how long it is.
#include "audio/resample.h"
#include "listen/analyse.h"
#include "listen/onsets.h"
#include "listen/pitch.h"
#include "shape/fit_to_beat.h"
#include "shape/played.h"
#include "shape/shaped.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

FitRow way(FitMethod method, double semitones = 0) {
  FitRow row;
  row.method = method;
  row.semitones = Semitones(semitones);
  return row;
}

/// Where clicks begin, in beats; the loudest rise of each.
std::vector<double> clicksInBeats(const Sound& sound, double bpm) {
  std::vector<double> out;
  const auto samples = sound.channel(0);
  const auto hold = std::size_t(0.2 * sound.rate().value);
  for (std::size_t i = 1; i < samples.size(); ++i)
    if (std::abs(samples[i]) > 0.3f) {
      out.push_back(double(i) / sound.rate().value * bpm / 60);
      i += hold;
    }
  return out;
}

double worstOff(const std::vector<double>& places) {
  double worst = 0;
  for (double place : places) worst = std::max(worst, std::abs(place - std::round(place)));
  return worst;
}

} // namespace

class TestShape : public QObject {
  Q_OBJECT
  JobContext m_job;

private slots:
  void hitsLandOnTheBeat_data() {
    QTest::addColumn<int>("method");
    QTest::addColumn<bool>("steady");
    QTest::addColumn<double>("worstMs"); // of a beat at 92 BPM
    QTest::newRow("repitch, steady") << int(FitMethod::Repitch) << true << 1.5;
    QTest::newRow("repitch, wandering") << int(FitMethod::Repitch) << false << 1.5;
    QTest::newRow("re-space, steady") << int(FitMethod::Respace) << true << 1.5;
    QTest::newRow("re-space, wandering") << int(FitMethod::Respace) << false << 1.5;
    QTest::newRow("stretch, steady") << int(FitMethod::Stretch) << true << 8.0;
    QTest::newRow("stretch, wandering") << int(FitMethod::Stretch) << false << 12.0;
  }
  void hitsLandOnTheBeat() {
    QFETCH(int, method);
    QFETCH(bool, steady);
    QFETCH(double, worstMs);
    const auto beats = steady ? steadyBeats(100, 16) : wanderingBeats(100, 16);
    const Source source = played(beats, 100, steady);
    const auto fitted =
        fitToBeat(source, way(FitMethod(method)), {Bpm(92), 4, Hertz(48000)}, m_job);
    QVERIFY(fitted.ok());
    QVERIFY(fitted->loops);
    QCOMPARE(fitted->beats, 16.0);
    QCOMPARE(fitted->sound->frames().value, std::llround(16 * 60.0 / 92 * 48000));
    const auto places = clicksInBeats(*fitted->sound, 92);
    QCOMPARE(int(places.size()), 16);
    const double ms = worstOff(places) * 60000 / 92;
    QVERIFY2(ms < worstMs, qPrintable(QString::number(ms)));
  }

  // So that one played once neither begins nor ends with a click: straight over 3 ms.
  void aFittedSoundIsFadedAtItsEnds() {
    Source source = played(steadyBeats(90, 16), 90, true);
    Samples level(std::size_t(source.sound->frames().value), 0.5f);
    source.sound = makeSound(level, source.sound->rate().value);
    const auto fitted =
        fitToBeat(source, way(FitMethod::Repitch), {Bpm(90), 4, Hertz(48000)}, m_job);
    QVERIFY(fitted.ok());
    const auto& out = fitted->sound->channel(0);
    const std::size_t fade = 144;
    const float middle = out[fade + 200];
    QVERIFY(middle > 0.3f);
    for (std::size_t i : {std::size_t(0), fade / 4, fade / 2, fade - 1}) {
      const float owed = (float(i) + 0.5f) / float(fade);
      QVERIFY2(std::abs(out[i] / middle - owed) < 0.1f, qPrintable(QString::number(i)));
      QVERIFY2(std::abs(out[out.size() - 1 - i] / middle - owed) < 0.1f,
               qPrintable(QString::number(i)));
    }
  }

  void halfAndDoubleTempoMeet() {
    for (const auto& [bpm, beatsOut] : {std::pair{184.0, 8.0}, {46.0, 32.0}, {92.0, 16.0}}) {
      const Source source = played(steadyBeats(bpm, 16), bpm, true);
      const auto fitted =
          fitToBeat(source, way(FitMethod::Repitch), {Bpm(92), 4, Hertz(48000)}, m_job);
      QVERIFY(fitted.ok());
      QVERIFY2(fitted->beats == beatsOut, qPrintable(QString::number(fitted->beats)));
    }
  }

  void pitchMovesAsTheMethodSays() {
    const Source source = played(steadyBeats(100, 16), 100, true, 220);
    const BeatFrame frame{Bpm(90), 4, Hertz(48000)};
    const auto pitchOf = [&](const FitRow& row) {
      const auto fitted = fitToBeat(source, row, frame, m_job);
      // Between hits: the middle of several beats.
      const auto mono = resample(fitted->sound->channel(0), Hertz(48000), Hertz(22050));
      PitchFinder finder;
      std::vector<double> found;
      for (int beat = 2; beat < 13; ++beat)
        if (const auto pitch = finder.find(std::span<const float>(mono).subspan(
                std::size_t((beat + 0.45) * 60 / 90 * 22050), 5000)))
          found.push_back(pitch->pitch.value);
      std::sort(found.begin(), found.end());
      return found.size() < 6 ? 0.0 : found[found.size() / 2];
    };
    const auto cents = [](double hz, double wanted) {
      return 1200 * std::abs(std::log2(hz / wanted));
    };
    QVERIFY(cents(pitchOf(way(FitMethod::Repitch)), 220 * 0.9) < 8); // with the speed
    const double left = pitchOf(way(FitMethod::Stretch));
    QVERIFY2(cents(left, 220) < 8, qPrintable(QString::number(left))); // left alone
    QVERIFY(cents(pitchOf(way(FitMethod::Stretch, 3)), 220 * std::exp2(0.25)) < 8);
    QVERIFY(cents(pitchOf(way(FitMethod::Respace)), 220) < 8);
    QVERIFY(cents(pitchOf(way(FitMethod::Respace, -2)), 220 * std::exp2(-2 / 12.0)) < 8);
  }

  void withoutATempoItPlaysOnceAtItsOwnPace() {
    Source source = sourceOf(makeSound(sine(200, 2, kRate), kRate));
    source.heard.emplace();
    source.heard->duration = Seconds(2);
    const auto fitted =
        fitToBeat(source, way(FitMethod::Repitch, 12), {Bpm(90), 4, Hertz(48000)}, m_job);
    QVERIFY(fitted.ok() && !fitted->loops);
    QVERIFY(std::abs(fitted->sound->duration().value - 1.0) < 1e-3); // an octave up, half as long
  }

  void whatStandsBeforeTheFirstBarIsLeftOut() {
    const Source source = played(steadyBeats(100, 9, 1.7), 100, true);
    const auto fitted =
        fitToBeat(source, way(FitMethod::Repitch), {Bpm(100), 4, Hertz(48000)}, m_job);
    QCOMPARE(fitted->beats, 8.0); // whole bars
    const auto places = clicksInBeats(*fitted->sound, 100);
    QVERIFY(!places.empty() && places[0] < 0.01);
  }

  void aLongSourceIsHeldToHalfAMinute() {
    const Source source = played(steadyBeats(120, 400), 120, true);
    const auto fitted =
        fitToBeat(source, way(FitMethod::Repitch), {Bpm(120), 4, Hertz(48000)}, m_job);
    QVERIFY(fitted->sound->duration().value <= 31);
    QCOMPARE(std::fmod(fitted->beats, 4), 0.0);
  }

  void aFirstBarFarInIsFoundAndOneBeyondWhatWasReadIsNone() {
    const Source late = played(steadyBeats(120, 24, 45), 120, true); // after 45 s of nothing
    const auto fitted =
        fitToBeat(late, way(FitMethod::Repitch), {Bpm(120), 4, Hertz(48000)}, m_job);
    QVERIFY(fitted.ok() && fitted->loops && fitted->beats == 24);
    QVERIFY(clicksInBeats(*fitted->sound, 120)[0] < 0.01);
    // Only the beginning of its file was read: there is no beat in it, and it plays as it is.
    Source cut = late;
    const auto all = late.sound->channel(0);
    cut.sound = makeSound({all.begin(), all.begin() + 40 * 44100}, kRate);
    const auto beginning =
        fitToBeat(cut, way(FitMethod::Repitch), {Bpm(120), 4, Hertz(48000)}, m_job);
    QVERIFY(beginning.ok() && !beginning->loops);
  }

  void theWayToHearMeetsTheTempo() {
    FitQuestion question;
    question.bpm = Bpm(97);
    question.key = keyFromName("G");
    question.hitsASecond = 4;
    question.toBpm = Bpm(92);
    question.toKey = keyFromName("Am");
    const auto row = wayToHear(question);
    QVERIFY(row && std::abs(row->bpmErrorPercent) < 0.01);
    QVERIFY(row->keyDistance <= 1);
    QVERIFY(!wayToHear(FitQuestion{})); // nothing is known: nothing is moved
  }

  void markersStandInOrderAndApart() {
    Shape shape;
    for (double at : {2.0, 1.0, 3.0}) shape = withMarker(shape, {Seconds(at), at * 2, {}});
    QCOMPARE(shape.markers.size(), std::size_t(3));
    for (std::size_t i = 0; i < 3; ++i) QCOMPARE(shape.markers[i].at.value, double(i + 1));
    // One at the same place takes the other's.
    shape = withMarker(shape, {Seconds(2.0005), 9, {}});
    QCOMPARE(shape.markers.size(), std::size_t(3));
    QCOMPARE(shape.markers[1].beat, 9.0);
    QVERIFY(markerAt(shape, 2.0) == &shape.markers[1] && !markerAt(shape, 2.1));
    QCOMPARE(withoutMarker(shape, Seconds(1)).markers.size(), std::size_t(2));
    QCOMPARE(withoutMarker(shape, Seconds(1.1)).markers.size(), std::size_t(3));
  }

  void troubleIsSaid() {
    Source missing;
    missing.name = "gone";
    const auto none = fitToBeat(missing, way(FitMethod::Repitch), {}, m_job);
    QVERIFY(!none && none.error().text().find("gone") != std::string::npos);
    JobContext cancelled;
    cancelled.cancel();
    for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace})
      QVERIFY(!fitToBeat(played(steadyBeats(100, 8), 100, true), way(method), {}, cancelled));
  }
};

QTEST_APPLESS_MAIN(TestShape)
#include "tst_shape.moc"
