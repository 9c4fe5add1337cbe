// Checks against facts published outside the project; each names its source.
#include "audio/decode.h"
#include "base/tempo_map.h"
#include "listen/levels.h"
#include "support.h"

#include <QtTest>
#include <ebur128.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A sine of 1 kHz that goes on through steps of level.
Samples stepped(const std::vector<std::pair<double, double>>& steps) {
  Samples out;
  for (const auto& [dbfs, seconds] : steps) {
    const auto count = std::size_t(std::llround(seconds * 48000));
    const double peak = std::pow(10, dbfs / 20);
    for (std::size_t i = 0; i < count; ++i)
      out.push_back(float(peak * std::sin(2 * M_PI * 1000 * double(out.size()) / 48000)));
  }
  return out;
}

} // namespace

class TestReference : public QObject {
  Q_OBJECT
private slots:
  void notesByIso16() {
    // ISO 16:1975: A4 = 440 Hz. Equal temperament, to the cent, as in any table of it.
    QCOMPARE(frequencyOf(69).value, 440.0);
    QVERIFY(std::abs(frequencyOf(60).value - 261.6256) < 1e-4);  // C4
    QVERIFY(std::abs(frequencyOf(21).value - 27.5) < 1e-9);      // A0
    QVERIFY(std::abs(frequencyOf(108).value - 4186.009) < 1e-3); // C8
    QVERIFY(std::abs(midiNoteOf(Hertz(466.1638)) - 70) < 1e-5);  // B flat 4
  }

  void intervalsOfEqualTemperament() {
    QCOMPARE(ratioOf(Semitones(12)), 2.0);
    QVERIFY(std::abs(ratioOf(Semitones(7)) - 1.498307) < 1e-6);
    QVERIFY(std::abs(ratioOf(Cents(100)) - ratioOf(Semitones(1))) < 1e-12);
    QVERIFY(std::abs(semitonesOf(1.5).value - 7.01955) < 1e-5); // a just fifth is 702 cents
  }

  void decibels() {
    QVERIFY(std::abs(gainOf(Decibels(-6.0206)) - 0.5) < 1e-5);
    QVERIFY(std::isinf(decibelsOf(0).value));
  }

  void loudnessOfEbuTech3341_data() {
    QTest::addColumn<double>("peakDbfs");
    QTest::addColumn<double>("lufs");
    QTest::newRow("case 1") << -23.0 << -23.0;
    QTest::newRow("case 2") << -33.0 << -33.0;
  }
  void loudnessOfEbuTech3341() {
    // EBU Tech 3341 v4, table 1, cases 1 and 2: a stereo 1 kHz sine with that peak in each channel,
    // 20 s, reads the same figure in LUFS, within 0.1.
    QFETCH(double, peakDbfs);
    QFETCH(double, lufs);
    const auto tone = sine(1000, 20, 48000, std::pow(10, peakDbfs / 20));
    const Sound stereo({tone, tone}, Hertz(48000));
    QVERIFY(std::abs(analyseLoudness(stereo).integratedLufs - lufs) <= 0.1);
  }

  // The cases that two channels can carry; figures and tolerances are from memory of EBU Tech 3341,
  // table 1 (minimum requirements). Case 6 needs five channels; 7 and 8 are programmes of the EBU.
  void gatingOfEbuTech3341_data() {
    using Steps = std::vector<std::pair<double, double>>;
    QTest::addColumn<Steps>("steps"); // dBFS, seconds
    QTest::newRow("case 3") << Steps{{-36, 10}, {-23, 60}, {-36, 10}};
    QTest::newRow("case 4") << Steps{{-72, 10}, {-36, 10}, {-23, 60}, {-36, 10}, {-72, 10}};
    QTest::newRow("case 5") << Steps{{-26, 20}, {-20, 20.1}, {-26, 20}};
  }
  void gatingOfEbuTech3341() {
    using Steps = std::vector<std::pair<double, double>>;
    QFETCH(Steps, steps);
    const Samples tones = stepped(steps);
    const double lufs = analyseLoudness(Sound({tones, tones}, Hertz(48000))).integratedLufs;
    QVERIFY2(std::abs(lufs + 23.0) <= 0.1, qPrintable(QString::number(lufs)));
  }

  void shortTermOfEbuTech3341() {
    // Case 9: −20 dBFS 1.34 s and −30 dBFS 1.66 s in turn, five times: short-term −23.0 LUFS
    // throughout, within 0.1.
    std::vector<std::pair<double, double>> steps;
    for (int i = 0; i < 5; ++i) {
      steps.emplace_back(-20, 1.34);
      steps.emplace_back(-30, 1.66);
    }
    const Samples tones = stepped(steps);
    const double lufs = analyseLoudness(Sound({tones, tones}, Hertz(48000))).shortTermLufs;
    QVERIFY2(std::abs(lufs + 23.0) <= 0.1, qPrintable(QString::number(lufs)));
  }

  void shortTermIsTheLoudestThreeSeconds() {
    // Case 10: a tone of −23 dBFS and 3 s with silence around it reads −23.0 at its loudest.
    const Samples tones = stepped({{-200, 2.15}, {-23, 3}, {-200, 2}});
    const double lufs = analyseLoudness(Sound({tones, tones}, Hertz(48000))).shortTermLufs;
    QVERIFY2(std::abs(lufs + 23.0) <= 0.1, qPrintable(QString::number(lufs)));
  }

  void rangeOfEbuTech3342_data() {
    using Steps = std::vector<std::pair<double, double>>;
    QTest::addColumn<Steps>("steps");
    QTest::addColumn<double>("range");
    // EBU Tech 3342, minimum requirements, tones of 20 s each, within 1 LU; from memory.
    QTest::newRow("case 1") << Steps{{-20, 20}, {-30, 20}} << 10.0;
    QTest::newRow("case 2") << Steps{{-20, 20}, {-15, 20}} << 5.0;
    QTest::newRow("case 3") << Steps{{-40, 20}, {-20, 20}} << 20.0;
    QTest::newRow("case 4") << Steps{{-50, 20}, {-35, 20}, {-20, 20}, {-35, 20}, {-50, 20}} << 15.0;
  }
  void rangeOfEbuTech3342() {
    using Steps = std::vector<std::pair<double, double>>;
    QFETCH(Steps, steps);
    QFETCH(double, range);
    const Samples tones = stepped(steps);
    const double heard = analyseLoudness(Sound({tones, tones}, Hertz(48000))).rangeLu;
    QVERIFY2(std::abs(heard - range) <= 1, qPrintable(QString::number(heard)));
  }

  void truePeakOfEbuTech3341_data() {
    QTest::addColumn<int>("period"); // frames of a cycle
    QTest::addColumn<double>("phase");
    QTest::addColumn<double>("peak");
    QTest::addColumn<double>("dbtp");
    // Cases 15 to 19, +0.2 and −0.4 dB; from memory. A tone that begins at once has an edge of its
    // own between the samples, so it comes in and goes out over 10 ms.
    QTest::newRow("case 15") << 4 << 0.0 << 0.5 << -6.0;
    QTest::newRow("case 16") << 4 << 45.0 << 0.5 << -6.0;
    QTest::newRow("case 17") << 6 << 60.0 << 0.5 << -6.0;
    QTest::newRow("case 18") << 8 << 67.5 << 0.5 << -6.0;
    QTest::newRow("case 19") << 4 << 45.0 << 1.41 << 3.0;
  }
  void truePeakOfEbuTech3341() {
    QFETCH(int, period);
    QFETCH(double, phase);
    QFETCH(double, peak);
    QFETCH(double, dbtp);
    Samples out(48000);
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] = float(std::min({1.0, double(i) / 480, double(out.size() - 1 - i) / 480}) * peak *
                     std::sin(2 * M_PI * double(i) / period + phase * M_PI / 180));
    const double heard = analyseLoudness(Sound({out, out}, Hertz(48000))).truePeakDbtp;
    QVERIFY2(heard <= dbtp + 0.2 && heard >= dbtp - 0.4, qPrintable(QString::number(heard)));
  }

  // The peak that is asked of the library only where it can lie is the one it gives for the whole.
  void truePeakIsTheLibrarysOwn() {
    JobContext job;
    std::vector<SoundPtr> sounds;
    for (const char* name :
         {"/demo/lantern row.flac", "/demo/pier nine break.flac", "/kit/01 kick.flac"})
      sounds.push_back(decodeFile(std::string(TUVVO_DATA_DIR) + name, job)->sound);
    Random random(5);
    for (double tone : {997.0, 11000.0, 15500.0}) {
      auto samples = sine(tone, 0.5, 48000, 0.9);
      for (float& v : samples) v += float(0.05 * random.bipolar());
      sounds.push_back(makeSound(samples, 48000));
    }
    for (const auto& sound : sounds) {
      ebur128_state* whole =
          ebur128_init(unsigned(sound->channels()), (unsigned long)(sound->rate().value),
                       EBUR128_MODE_TRUE_PEAK);
      double peak = 0;
      for (std::int64_t i = 0; i < sound->frames().value; ++i) {
        float frame[8];
        for (int c = 0; c < sound->channels(); ++c) frame[c] = sound->channel(c)[std::size_t(i)];
        ebur128_add_frames_float(whole, frame, 1);
      }
      for (unsigned c = 0; c < unsigned(sound->channels()); ++c) {
        double value = 0;
        ebur128_true_peak(whole, c, &value);
        peak = std::max(peak, value);
      }
      ebur128_destroy(&whole);
      QVERIFY2(std::abs(analyseLoudness(*sound).truePeakDbtp - decibelsOf(peak).value) < 1e-6,
               qPrintable(QString("%1 %2")
                              .arg(analyseLoudness(*sound).truePeakDbtp)
                              .arg(decibelsOf(peak).value)));
    }
  }

  void loopArithmeticByHand() {
    // N bars of B beats at T BPM last 60·N·B/T s: four bars of four at 92.1 BPM last 10.4235 s.
    QVERIFY(std::abs(TempoMap(Bpm(92.1)).secondsAt(wholeBeats(16)).value - 10.42345) < 1e-5);
  }
};

QTEST_APPLESS_MAIN(TestReference)
#include "tst_reference.moc"
