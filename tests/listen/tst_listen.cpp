#include "audio/decode.h"
#include "listen/key.h"
#include "listen/levels.h"
#include "listen/listen.h"
#include "listen/onsets.h"
#include "listen/tap_tempo.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestListen : public QObject {
  Q_OBJECT
  JobContext m_job;

private slots:
  void loopTempoIsExact_data() {
    QTest::addColumn<double>("bpm");
    for (double bpm : {72.5, 88.0, 93.37, 101.0, 118.25, 133.0})
      QTest::newRow(qPrintable(QString::number(bpm))) << bpm;
  }
  void loopTempoIsExact() {
    QFETCH(double, bpm);
    const auto heard = listen(*drumLoop(bpm, 16), m_job);
    QVERIFY(heard.tempo.has_value());
    const double ratio = heard.tempo->bpm.value / bpm;
    const bool level =
        std::abs(ratio - 1) < 1e-4 || std::abs(ratio - 2) < 2e-4 || std::abs(ratio - 0.5) < 1e-4;
    QVERIFY2(level, qPrintable(QString::number(heard.tempo->bpm.value)));
    QVERIFY(heard.loop.has_value());
    QVERIFY(heard.tempo->steady);
    QVERIFY(!heard.downbeats.empty());
    QVERIFY(heard.downbeats.front().value < 0.01);
  }

  void halfAndDoubleAreOffered() {
    const auto heard = listen(*drumLoop(100, 16), m_job);
    QStringList relations;
    for (const auto& a : heard.tempo->alternatives) relations << QString::fromStdString(a.relation);
    QVERIFY(relations.contains("half"));
    QVERIFY(relations.contains("double"));
  }

  void onsetsAndCutPointsAreWhereTheHitsAre() {
    std::vector<float> out(44100 * 4, 0.0f);
    std::vector<double> truth;
    Random random(2);
    for (double at = 0.21; at < 3.8; at += 0.2 + 0.15 * random.unit()) {
      addHit(out, at, 44100, truth.size() % 2 ? 190 : 62, 0.8);
      truth.push_back(at);
    }
    const auto onsets = OnsetFinder().find(*makeSound(out, 44100), m_job);
    QCOMPARE(onsets.size(), truth.size());
    for (std::size_t i = 0; i < truth.size(); ++i) {
      QVERIFY2(std::abs(onsets[i].at.value - truth[i]) < 0.004,
               qPrintable(QString("%1 %2").arg(onsets[i].at.value).arg(truth[i])));
      QVERIFY(onsets[i].cut.value <= truth[i] + 0.0015); // the blade goes in before the attack
    }
  }

  void lowAndHighHitsAreToldApart() {
    std::vector<float> out(44100 * 2, 0.0f);
    addHit(out, 0.3, 44100, 55, 0.02);
    addHit(out, 0.9, 44100, 9000, 0.9, 0.4);
    const auto onsets = OnsetFinder().find(*makeSound(out, 44100), m_job);
    QCOMPARE(int(onsets.size()), 2);
    QVERIFY(onsets[0].hits == std::vector{HitClass::Kick});
    QVERIFY(onsets[1].hits == std::vector{HitClass::Hat});
    QVERIFY(onsets[0].brightness < onsets[1].brightness);
  }

  void gainChangesNothing() {
    const auto loud = drumLoop(97, 16);
    auto samples = std::vector<float>(loud->channel(0).begin(), loud->channel(0).end());
    for (float& v : samples) v *= 0.125f; // exact: a power of two
    const auto a = listen(*loud, m_job), b = listen(*makeSound(samples, 44100), m_job);
    QCOMPARE(a.onsets.size(), b.onsets.size());
    for (std::size_t i = 0; i < a.onsets.size(); ++i)
      QVERIFY(std::abs(a.onsets[i].cut.value - b.onsets[i].cut.value) < 1e-3);
    QVERIFY(std::abs(a.tempo->bpm.value - b.tempo->bpm.value) < 1e-6);
  }

  void silenceInFrontShiftsEverything() {
    const auto plain = OnsetFinder().find(*drumLoop(110, 8), m_job);
    const auto later = OnsetFinder().find(*drumLoop(110, 8, 44100, 1.0), m_job);
    QCOMPARE(plain.size(), later.size());
    for (std::size_t i = 0; i < plain.size(); ++i)
      QVERIFY(std::abs(later[i].at.value - plain[i].at.value - 1.0) < 0.003);
  }

  void silenceNoiseAndSingleHitsHaveNoTempo_data() {
    QTest::addColumn<int>("kind");
    QTest::newRow("silence") << 0;
    QTest::newRow("click") << 1;
    QTest::newRow("dc") << 2;
    QTest::newRow("one frame") << 3;
  }
  void silenceNoiseAndSingleHitsHaveNoTempo() {
    QFETCH(int, kind);
    std::vector<float> out(kind == 3 ? 1 : 44100 * 3, kind == 2 ? 0.5f : 0.0f);
    if (kind == 1) addHit(out, 0.5, 44100, 80, 0.5);
    const auto heard = listen(*makeSound(out, 44100), m_job);
    QVERIFY(!heard.tempo);
    QVERIFY(heard.beats.empty());
    QVERIFY(!heard.loop);
  }

  void aNightRecordingHasNoTempo() {
    const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/quay at night.flac", m_job);
    QVERIFY(file.ok());
    QVERIFY(!listen(*file->sound, m_job).tempo);
  }

  void theDemoLoopReportsItsTrueTempoAndCents() {
    // The tool that made it ran a 90 BPM loop 34 cents fast: 90 · 2^(34/1200) = 91.785 BPM.
    const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/lantern row.flac", m_job);
    QVERIFY(file.ok());
    const auto heard = listen(*file->sound, m_job);
    QVERIFY(std::abs(heard.tempo->bpm.value - 90 * std::exp2(34 / 1200.0)) < 0.005);
    QVERIFY(std::abs(heard.key->tuning.value - 34) < 3);
    QCOMPARE(heard.loop->bars, 4);
  }

  void driftIsSaid() {
    const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/pier nine break.flac", m_job);
    const auto heard = listen(*file->sound, m_job);
    QVERIFY(heard.tempo && !heard.tempo->steady);
    QVERIFY(heard.tempo->drift.value > 15);
  }

  void tuningOfDetunedTones() {
    for (double cents : {-35.0, 0.0, 22.0}) {
      std::vector<float> out(44100 * 2, 0.0f);
      for (double note : {57.0, 60.0, 64.0, 69.0}) {
        const auto tone = sine(frequencyOf(note + cents / 100).value, 2, 44100, 0.15);
        for (std::size_t i = 0; i < out.size(); ++i) out[i] += tone[i];
      }
      QVERIFY(std::abs(hearTuning(*makeSound(out, 44100)).off.value - cents) < 2);
    }
  }

  void keyOfACadence() {
    // I IV V I in D major, and its minor counterpart.
    for (bool minor : {false, true}) {
      std::vector<float> out;
      const int third = minor ? 3 : 4;
      for (int root : {50, 55, 57, 50}) {
        std::vector<float> chord(44100, 0.0f);
        for (int step : {0, root == 57 ? 4 : third, 7, 12})
          for (int h = 1; h <= 5; ++h) {
            const auto tone = sine(frequencyOf(root + step).value * h, 1, 44100, 0.12 / h);
            for (std::size_t i = 0; i < chord.size(); ++i)
              chord[i] += tone[i] * std::min(1.0f, float(44100 - i) / 2000);
          }
        out.insert(out.end(), chord.begin(), chord.end());
      }
      const auto key = hearKey(*makeSound(out, 44100), m_job);
      QVERIFY(key.has_value());
      QCOMPARE(QString::fromStdString(nameOf(key->name)), minor ? QString("Dm") : QString("D"));
    }
  }

  void noiseHasNoKey() {
    Random random(8);
    std::vector<float> out(44100 * 2);
    for (float& v : out) v = float(random.bipolar() * 0.3);
    QVERIFY(!hearKey(*makeSound(out, 44100), m_job));
  }

  void keyNames() {
    QCOMPARE(QString::fromStdString(nameOf(*keyFromName("Bbm"))), QString("A#m"));
    QCOMPARE(QString::fromStdString(nameOf(*keyFromName("f#"))), QString("F#"));
    for (const char* bad : {"", "H", "Cx", "m", "C##"}) QVERIFY(!keyFromName(bad));
  }

  void faultsAreNamed() {
    auto clipped = sine(200, 1, 44100, 2.0);
    for (float& v : clipped) v = std::clamp(v, -1.0f, 1.0f);
    const auto has = [](const Sound& sound, const char* kind) {
      for (const auto& fault : hearFaults(sound))
        if (fault.kind == kind) return true;
      return false;
    };
    QVERIFY(has(*makeSound(clipped, 44100), "clipping"));
    auto offset = sine(200, 1, 44100, 0.3);
    for (float& v : offset) v += 0.1f;
    QVERIFY(has(*makeSound(offset, 44100), "dc offset"));
    std::vector<float> late(44100, 0.0f);
    addHit(late, 0.5, 44100, 100, 0.5);
    QVERIFY(has(*makeSound(late, 44100), "silence at the front"));
    auto tone = sine(300, 1, 44100, 0.5), against = tone;
    for (float& v : against) v = -v;
    QVERIFY(has(Sound({tone, against}, Hertz(44100)), "inverted"));
    QVERIFY(has(Sound({tone, std::vector<float>(tone.size(), 0.0f)}, Hertz(44100)), "one-sided"));
    QVERIFY(hearFaults(*makeSound(sine(200, 1, 44100, 0.3), 44100)).empty());
  }

  void tapsBecomeSurer() {
    TapTempo taps;
    Random hand(4);
    QVERIFY(!taps.tempo());
    double last = 1e9;
    for (int i = 0; i < 24; ++i) {
      taps.tap(Seconds(1 + i * 60.0 / 92 + 0.008 * hand.bell()));
      if (i == 3 || i == 11 || i == 23) {
        QVERIFY(taps.tempo()->uncertaintyBpm < last);
        last = taps.tempo()->uncertaintyBpm;
      }
    }
    QVERIFY(std::abs(taps.tempo()->bpm.value - 92) < 4 * last);
    QVERIFY(last < 0.5);
  }

  void missedTapsAndPauses() {
    TapTempo taps;
    for (int i : {0, 1, 2, 4, 5}) taps.tap(Seconds(i * 0.5)); // one was missed
    QVERIFY(std::abs(taps.tempo()->bpm.value - 120) < 1e-6);
    taps.tap(Seconds(20)); // begins anew
    QVERIFY(!taps.tempo());
  }

  void cancelledListeningComesBack() {
    JobContext job;
    job.cancel();
    const auto heard = listen(*drumLoop(100, 16), job);
    QVERIFY(heard.onsets.empty() && !heard.tempo && !heard.key); // it stopped at once
  }
};

QTEST_APPLESS_MAIN(TestListen)
#include "tst_listen.moc"
