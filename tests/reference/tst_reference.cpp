// Checks against facts published outside the project; each names its source.
#include "audio/decode.h"
#include "base/tempo_map.h"
#include "listen/levels.h"
#include "support.h"

#include <QtTest>
#include <ebur128.h>

using namespace tuvvo;
using namespace tuvvo::test;

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
    QVERIFY(std::abs(hearLoudness(stereo).integratedLufs - lufs) <= 0.1);
  }

  void gatingOfEbuTech3341() {
    // Case 3: −36 dBFS 10 s, −23 dBFS 60 s, −36 dBFS 10 s reads −23.0 LUFS, within 0.1.
    Samples out;
    for (const auto& [level, seconds] : {std::pair{-36.0, 10.0}, {-23.0, 60.0}, {-36.0, 10.0}}) {
      const auto tone = sine(1000, seconds, 48000, std::pow(10, level / 20));
      out.insert(out.end(), tone.begin(), tone.end());
    }
    QVERIFY(std::abs(hearLoudness(Sound({out, out}, Hertz(48000))).integratedLufs + 23.0) <= 0.1);
  }

  void truePeakBetweenSamples() {
    // EBU Tech 3341, case 15: fs/4 sine, half-scale, phase 0: −6.0 dBTP, +0.2 / −0.4.
    Samples out(48000);
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] = float(0.5 * std::sin(M_PI / 2 * double(i)));
    const double peak = hearLoudness(Sound({out, out}, Hertz(48000))).truePeakDbtp;
    QVERIFY(peak <= -5.8 && peak >= -6.4);
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
      QVERIFY2(
          std::abs(hearLoudness(*sound).truePeakDbtp - decibelsOf(peak).value) < 1e-6,
          qPrintable(
              QString("%1 %2").arg(hearLoudness(*sound).truePeakDbtp).arg(decibelsOf(peak).value)));
    }
  }

  void loopArithmeticByHand() {
    // N bars of B beats at T BPM last 60·N·B/T s: four bars of four at 92.1 BPM last 10.4235 s.
    QVERIFY(std::abs(TempoMap(Bpm(92.1)).secondsAt(wholeBeats(16)).value - 10.42345) < 1e-5);
  }
};

QTEST_APPLESS_MAIN(TestReference)
#include "tst_reference.moc"
