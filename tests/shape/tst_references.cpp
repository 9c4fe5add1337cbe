// Repitching and stretching beside independent tools: soxr (the resampler, as a library) and the
// rubberband command-line tool.
#include "audio/decode.h"
#include "audio/encode.h"
#include "audio/resample.h"
#include "listen/spectrum.h"
#include "model/edits.h"
#include "play/engine.h"
#include "play/print.h"
#include "shape/played.h"
#include "shape/shaped.h"

#include <QProcess>
#include <QStandardPaths>
#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

double loudestHz(std::span<const float> samples, double rate) {
  constexpr int size = 65536;
  Fft fft(size);
  const std::size_t n = std::min<std::size_t>(samples.size(), size);
  for (std::size_t i = 0; i < std::size_t(size); ++i)
    fft.input()[i] =
        i < n ? samples[i] * float(0.5 - 0.5 * std::cos(2 * M_PI * double(i) / double(n))) : 0.0f;
  const auto spectrum = fft.run();
  std::size_t best = 1;
  for (std::size_t k = 1; k + 1 < spectrum.size(); ++k)
    if (std::norm(spectrum[k]) > std::norm(spectrum[best])) best = k;
  // The top of a parabola through the logs of three bins.
  const double a = std::log(double(std::abs(spectrum[best - 1]))),
               b = std::log(double(std::abs(spectrum[best]))),
               c = std::log(double(std::abs(spectrum[best + 1])));
  return (double(best) + 0.5 * (a - c) / (a - 2 * b + c)) * rate / size;
}

double cents(double a, double b) { return 1200 * std::log2(a / b); }

} // namespace

class TestReferences : public QObject {
  Q_OBJECT

  QTemporaryDir m_dir;
  JobContext m_job;

  SoundPtr baked(const SoundPtr& sound, FitMethod method, double pitch, double length,
                 bool preview = false, Material material = Material::Tones) {
    BakeRecipe recipe;
    recipe.method = method;
    recipe.pitch = method == FitMethod::Repitch ? 1 : pitch;
    recipe.line.length = length;
    recipe.line.knots = {{0, 0}, {sound->duration().value, length}};
    recipe.material = material;
    recipe.preview = preview;
    const auto out = bake(*sound, recipe, m_job);
    return out.ok() ? *out : nullptr;
  }

private slots:
  void speedAndPitchGoTogether() {
    // Equal temperament by hand: up a fifth (7 st) is 1.4983 times as fast; 96 BPM become 143.84.
    QVERIFY(std::abs(ratioOf(Semitones(7)) - 1.498307) < 1e-6);
    QVERIFY(std::abs(96 * ratioOf(Semitones(7)) - 143.8375) < 1e-3);
    QVERIFY(std::abs(ratioOf(Cents(34)) - 1.019833) < 1e-6); // 34 ct, the demo's disc
    const auto tone = makeSound(sine(440, 3, 48000));
    const auto up = baked(tone, FitMethod::Repitch, 1, 3 / ratioOf(Semitones(7)));
    QVERIFY(std::abs(cents(loudestHz(up->channel(0), 48000), 440 * ratioOf(Semitones(7)))) < 0.1);
  }

  void repitchingIsWhatSoxrMakesOfIt() {
    // Played at 44 100 / 48 000 of its speed, a sound is what a resampler makes of it.
    Samples samples(44100 * 2, 0.0f);
    for (double hz : {60.0, 440.0, 1500.0, 5000.0, 11000.0, 15000.0}) {
      const auto tone = sine(hz, 2, 44100, 0.12);
      for (std::size_t i = 0; i < samples.size(); ++i) samples[i] += tone[i];
    }
    const auto sound = makeSound(samples, 44100);
    const auto resampled = resample(*sound, Hertz(48000));
    QVERIFY(resampled.ok());
    const auto ours = baked(sound, FitMethod::Repitch, 1, sound->duration().value);
    const auto a = (*resampled)->channel(0), b = ours->channel(0);
    double signal = 0, error = 0;
    for (std::size_t i = 4800; i + 4800 < std::min(a.size(), b.size()); ++i) {
      signal += double(a[i]) * double(a[i]);
      error += std::pow(double(a[i]) - double(b[i]), 2);
    }
    const double db = 10 * std::log10(error / signal);
    QVERIFY2(db < -90, qPrintable(QString::number(db)));
  }

  void stretchingAgreesWithTheTool() {
    const QString tool = QStandardPaths::findExecutable("rubberband");
    QVERIFY2(!tool.isEmpty(), "rubberband-cli is in packages-test.txt");
    const auto tone = makeSound(sine(330, 4, 48000));
    const QString in = m_dir.filePath("in.wav"), out = m_dir.filePath("out.wav");
    QVERIFY(encodeFile(*tone, in.toStdString(), {FileFormat::Wav, SampleFormat::Float32}).ok());
    for (const auto& [time, semitones] : {std::pair{1.25, 0.0}, {0.8, 3.0}, {1.5, -5.0}}) {
      QCOMPARE(QProcess::execute(tool, {"-q", "--fine", "-t", QString::number(time), "-p",
                                        QString::number(semitones), in, out}),
               0);
      const auto theirs = decodeFile(out.toStdString(), m_job);
      QVERIFY(theirs.ok());
      const auto ours = baked(tone, FitMethod::Stretch, ratioOf(Semitones(semitones)), 4 * time);
      QCOMPARE(ours->frames().value, std::llround(4 * time * 48000));
      QVERIFY(std::abs(theirs->sound->frames().value - ours->frames().value) < 512);
      const double a = loudestHz(theirs->sound->channel(0).subspan(24000), 48000),
                   b = loudestHz(ours->channel(0).subspan(24000), 48000);
      QVERIFY2(std::abs(cents(a, b)) < 1, qPrintable(QString("%1 %2").arg(a).arg(b)));
      QVERIFY(std::abs(cents(b, 330 * ratioOf(Semitones(semitones)))) < 1);
    }
  }

  void extremesOfPitchAndLength() {
    const auto tone = makeSound(sine(500, 2, 48000));
    for (double semitones : {-24.0, 24.0})
      for (double time : {0.25, 1.0, 4.0}) {
        const auto out = baked(tone, FitMethod::Stretch, ratioOf(Semitones(semitones)), 2 * time);
        QVERIFY(out);
        QCOMPARE(out->frames().value, std::llround(2 * time * 48000));
        const double hz =
            loudestHz(out->channel(0).subspan(std::size_t(out->frames().value / 4)), 48000);
        QVERIFY2(std::abs(cents(hz, 500 * ratioOf(Semitones(semitones)))) < 12,
                 qPrintable(QString("%1 st, %2 x: %3 Hz").arg(semitones).arg(time).arg(hz)));
      }
    // One frame, and silence.
    const auto one = makeSound({0.5f});
    for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace}) {
      QVERIFY(baked(one, method, 1, one->duration().value * 2));
      const auto silent = baked(makeSound(Samples(48000, 0.0f)), method, 1, 1.3);
      QCOMPARE(peakOf(silent->channel(0)), 0.0f);
    }
  }

  void thePreviewBecomesTheBakeWithoutAJump() {
    // Notes with soft attacks: the two engines have to put them at the same places, equally loud.
    Samples samples(48000 * 4, 0.0f);
    for (int note = 0; note < 8; ++note)
      for (std::size_t i = 0; i < 20000; ++i) {
        const double t = double(i) / 48000, rise = std::min(1.0, t / 0.01);
        samples[std::size_t(note * 24000) + i] +=
            float(0.3 * rise * std::exp(-4 * t) * std::sin(2 * M_PI * (330 + 10 * note) * t));
      }
    const auto sound = makeSound(samples);
    const auto quick = baked(sound, FitMethod::Stretch, 1, 4.6, true),
               fine = baked(sound, FitMethod::Stretch, 1, 4.6);
    QCOMPARE(quick->frames().value, fine->frames().value);
    // Envelopes of 2 ms: where do they agree best?
    const auto envelope = [](const Sound& s) {
      std::vector<double> out(std::size_t(s.frames().value / 96), 0.0);
      for (std::size_t i = 0; i < out.size() * 96; ++i)
        out[i / 96] += std::abs(double(s.channel(0)[i]));
      return out;
    };
    const auto a = envelope(*quick), b = envelope(*fine);
    int best = 0;
    double most = -1, sumA = 0, sumB = 0;
    for (int lag = -25; lag <= 25; ++lag) {
      double sum = 0;
      for (std::size_t i = 30; i + 30 < a.size(); ++i) sum += a[i] * b[std::size_t(int(i) + lag)];
      if (sum > most) {
        most = sum;
        best = lag;
      }
    }
    for (double v : a) sumA += v;
    for (double v : b) sumB += v;
    QVERIFY2(std::abs(best) * 2 <= 6, qPrintable(QString("%1 ms apart").arg(best * 2)));
    QVERIFY(std::abs(20 * std::log10(sumA / sumB)) < 1);
  }

  void aSoundingVoiceKeepsItsSoundWhenTheBakeArrives() {
    Id source = 0, key = 0;
    Project p;
    p.tempo = Bpm(100);
    p = withSource(std::move(p), played(steadyBeats(100, 8), 100, true, 220), &source);
    p = withKeySound(std::move(p), Row::Body, 0, 0, {source, 0}, "held", &key);
    p = withSourceChanged(std::move(p), source, [](Source& s) {
      s.shape.method = FitMethod::Stretch;
      s.shape.semitones = Semitones(3);
    });
    const auto compiled = [&](BakeCache* bakeCache) {
      CompileOptions options;
      options.baked = [bakeCache](const BakeOrder& order) {
        return bakeCache ? bakeCache->find(order.name) : Baked{};
      };
      auto score = compilePattern(p, 0, options);
      score.length = EngineFrames(1 << 20);
      return std::make_shared<const Score>(std::move(score));
    };
    BakeCache bakeCache(2, {});
    bakeCache.want(bakesOf(p));
    bakeCache.wait();
    const auto play = [&](bool arrives) {
      auto engine = std::make_unique<Engine>();
      engine->setScore(compiled(nullptr));
      Engine::Command strike{Engine::Command::Kind::Strike};
      strike.key = key;
      engine->send(strike);
      Samples left(48000), right(48000);
      for (int at = 0; at < 48000; at += 128) {
        if (arrives && at == 12800) engine->setScore(compiled(&bakeCache));
        engine->process(left.data() + at, right.data() + at, 128);
      }
      return left;
    };
    QVERIFY(play(true) == play(false));
  }
};

QTEST_GUILESS_MAIN(TestReferences)
#include "tst_references.moc"
