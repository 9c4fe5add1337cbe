// What the ear says of kinds, single notes, discs, modes, hits; and that it holds for any length.
#include "audio/decode.h"
#include "audio/encode.h"
#include "listen/analyse.h"
#include "listen/harmony.h"
#include "listen/hit_detail.h"
#include "listen/hit_names.h"
#include "listen/intake.h"
#include "listen/kind.h"
#include "listen/pitch.h"
#include "listen/wow.h"
#include "model/resolved_source.h"
#include "support.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>
#include <fstream>
#include <thread>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr double kRate = 22050;

/// Notes of four harmonics; start, length, MIDI note.
struct Played {
  double at, length, note;
};
Samples playedNotes(const std::vector<Played>& notes, double seconds, double rate = 44100,
                    double cents = 0) {
  Samples out(std::size_t(seconds * rate), 0.0f);
  for (const auto& [at, length, note] : notes) {
    const double hz = frequencyOf(note + cents / 100).value;
    const auto from = std::size_t(at * rate), count = std::size_t(length * rate);
    for (std::size_t i = 0; i < count && from + i < out.size(); ++i) {
      const double t = double(i) / rate;
      const double env = std::min({1.0, t / 0.01, (length - t) / 0.02}) * std::exp(-t);
      for (int h = 1; h <= 4; ++h)
        out[from + i] += float(0.12 / h * env * std::sin(2 * M_PI * h * hz * t));
    }
  }
  return out;
}

Analysis heard(const Samples& mono, double rate = 44100) {
  JobContext job;
  return analyse(*makeSound(mono, rate), job);
}

/// Triads in turn, half a second each, over their own roots; the first one twice as long.
Samples vamp(const std::vector<std::array<int, 3>>& chords) {
  std::vector<Played> notes;
  double at = 0;
  for (int round = 0; round < 8; ++round)
    for (std::size_t c = 0; c < chords.size(); ++c)
      for (int half = 0; half < (c == 0 ? 4 : 2); ++half, at += 0.5) {
        for (int note : chords[c]) notes.push_back({at, 0.48, double(note)});
        notes.push_back({at, 0.48, double(chords[c][0] - 24)});
      }
  return playedNotes(notes, at);
}

} // namespace

class TestHearing : public QObject {
  Q_OBJECT
private slots:
  // ---- single notes ----

  void pitchOfTones_data() {
    QTest::addColumn<double>("hz");
    for (double note : {33.0, 40.0, 57.0, 60.0, 69.0, 81.0, 93.0}) // equal temperament, ISO 16
      QTest::newRow(qPrintable(QString::number(note))) << frequencyOf(note).value;
  }
  void pitchOfTones() {
    QFETCH(double, hz);
    Samples tone(6000);
    for (std::size_t i = 0; i < tone.size(); ++i)
      for (int h = 1; h <= 5; ++h)
        tone[i] += float(0.2 / h * std::sin(2 * M_PI * h * hz * double(i) / kRate + h));
    PitchFinder finder;
    const auto found = finder.find(tone);
    QVERIFY(found);
    const double cents = 1200 * std::log2(found->pitch.value / hz);
    QVERIFY2(std::abs(cents) < 4, qPrintable(QString::number(cents)));
    QVERIFY(found->clarity > 0.85);
  }

  void noiseAndSilenceHaveNoPitch() {
    PitchFinder finder;
    Samples noise(6000);
    Random random(9);
    for (float& v : noise) v = float(random.bipolar());
    QVERIFY(!finder.find(noise));
    QVERIFY(!finder.find(Samples(6000, 0.0f)));
    QVERIFY(!finder.find(Samples(10, 0.5f))); // too short
  }

  void noteNames() {
    QCOMPARE(QString::fromStdString(noteNameOf(Hertz(440))), QString("A4")); // ISO 16
    QCOMPARE(QString::fromStdString(noteNameOf(Hertz(261.6256))), QString("C4"));
    QCOMPARE(QString::fromStdString(noteNameOf(Hertz(440 * std::exp2(0.12 / 12)))),
             QString("A4 +12 ct"));
    QCOMPARE(QString::fromStdString(noteNameOf(Hertz(27.5))), QString("A0"));
  }

  void aOneShotHasARootAndNoKey() {
    const auto h = heard(playedNotes({{0.02, 1.5, 45}}, 1.6));
    QVERIFY(h.kind.kind == SoundKind::OneShot);
    QVERIFY(!h.key && h.chords.empty() && !h.tempo);
    QVERIFY(std::abs(midiNoteOf(h.root) - 45) < 0.1);
  }

  // ---- kinds ----

  void kindsOfInventedSounds() {
    const auto drums = drumLoop(96, 32);
    JobContext job;
    QVERIFY(analyse(*drums, job).kind.kind == SoundKind::Break);
    std::vector<Played> loop; // four bars of chords on the beat, cut to the frame
    for (int beat = 0; beat < 16; ++beat)
      for (int note : {57, 60, 64}) loop.push_back({beat * 0.6, 0.5, double(note + beat / 4)});
    QVERIFY(heard(playedNotes(loop, 16 * 0.6)).kind.kind == SoundKind::Loop);
    // Wind over a drone: nothing begins, nothing changes.
    Samples wind = sine(110, 20, 44100, 0.1);
    Random random(3);
    double low = 0;
    for (std::size_t i = 0; i < wind.size(); ++i) {
      low += 0.02 * (random.bipolar() - low);
      wind[i] += float(0.8 * low * (1 + 0.5 * std::sin(double(i) * 2e-5)));
    }
    const auto place = heard(wind);
    QVERIFY(place.kind.kind == SoundKind::Field);
    QVERIFY(!place.tempo && !place.key && place.chords.empty());
  }

  void kindsFromEvidence() {
    KindEvidence speech; // figures of the size that speech has: see docs/decisions
    speech.duration = 12;
    speech.hits = 44;
    speech.drums = 0.1;
    speech.quiet = 0.45;
    speech.syllables = 0.56;
    speech.agreement = 0.02;
    speech.tonal = 0.07;
    QVERIFY(analyseKind(speech).kind == SoundKind::Voice);
    speech.drums = 0.95; // the same movement made of drums
    speech.pulse = 0.9;
    QVERIFY(analyseKind(speech).kind == SoundKind::Break);
    KindEvidence ringing; // congas over kicks that ring, four bars
    ringing.duration = 8;
    ringing.hits = 60;
    ringing.drums = 0.7;
    ringing.agreement = 0.4;
    ringing.tonal = 0.7;
    ringing.pulse = 0.95;
    ringing.loopBars = 4;
    QVERIFY(analyseKind(ringing).kind == SoundKind::Break);
    ringing.key = 0.8; // the same with a bass
    QVERIFY(analyseKind(ringing).kind == SoundKind::Loop);
  }

  // ---- discs ----

  void wowIsFoundAtTheTurnOfTheDisc_data() {
    QTest::addColumn<double>("turns");
    QTest::newRow("33") << 100 / 3.0 / 60; // IEC 60098
    QTest::newRow("45") << 45 / 60.0;
    QTest::newRow("78") << 78 / 60.0;
  }
  void wowIsFoundAtTheTurnOfTheDisc() {
    QFETCH(double, turns);
    JobContext job;
    Samples out(std::size_t(20 * kRate));
    const double depth = 12; // cents, peak
    for (double hz : {220.0, 277.18, 329.63}) {
      double phase = 0;
      for (std::size_t i = 0; i < out.size(); ++i) {
        const double t = double(i) / kRate;
        phase += 2 * M_PI * hz * std::exp2(depth * std::sin(2 * M_PI * turns * t) / 1200) / kRate;
        out[i] += float(0.2 * std::sin(phase));
      }
    }
    const auto wow = measureWow(analyseHarmony(out, job), Seconds(0));
    QVERIFY(wow);
    QVERIFY2(std::abs(wow->rate.value - turns) < 0.05,
             qPrintable(QString::number(wow->rate.value)));
    QVERIFY2(std::abs(wow->depth.value - depth) < 5, qPrintable(QString::number(wow->depth.value)));
  }

  void steadyTonesHaveNoWow() {
    JobContext job;
    const Harmony harmony =
        analyseHarmony(playedNotes({{0, 10, 57}, {10, 10, 60}}, 20, kRate), job);
    QVERIFY(!measureWow(harmony, Seconds(0)));
    QVERIFY(!measureSpeedDrift(harmony));
  }

  void whatComesOnceABarIsNoWow() {
    JobContext job;
    Samples out(std::size_t(20 * kRate));
    double phase = 0;
    for (std::size_t i = 0; i < out.size(); ++i) { // a tone that is bent once in 1.8 s
      const double cents = 12 * std::sin(2 * M_PI * double(i) / kRate / 1.8);
      phase += 2 * M_PI * 220 * std::exp2(cents / 1200) / kRate;
      out[i] = float(0.5 * std::sin(phase));
    }
    const Harmony harmony = analyseHarmony(out, job);
    QVERIFY(measureWow(harmony, Seconds(0)));
    QVERIFY(!measureWow(harmony, Seconds(1.8)));
    QVERIFY(measureWow(harmony, Seconds(2.08)));
  }

  void aDiscThatSlowsDownSaysHowFar() {
    JobContext job;
    Samples out(std::size_t(30 * kRate));
    double phase = 0;
    for (std::size_t i = 0; i < out.size(); ++i) {
      phase += 2 * M_PI * 220 * std::exp2(-30 * double(i) / double(out.size()) / 1200) / kRate;
      out[i] = float(0.3 * std::sin(phase));
    }
    const auto drift = measureSpeedDrift(analyseHarmony(out, job));
    QVERIFY(drift);
    QVERIFY2(std::abs(drift->value + 30) < 4, qPrintable(QString::number(drift->value)));
  }

  // ---- modes ----

  void modesAreSaid_data() {
    using Chords = std::vector<std::array<int, 3>>;
    QTest::addColumn<std::vector<std::array<int, 3>>>("chords");
    QTest::addColumn<QString>("mode");
    const std::array<int, 3> dm{62, 65, 69}, d{62, 66, 69};
    QTest::newRow("minor") << Chords{dm, {67, 70, 74}, {58, 62, 65}, {60, 64, 67}} << "";
    QTest::newRow("dorian") << Chords{dm, {67, 71, 74}} << "dorian";
    QTest::newRow("phrygian") << Chords{dm, {63, 67, 70}} << "phrygian";
    QTest::newRow("mixolydian") << Chords{d, {60, 64, 67}} << "mixolydian";
    QTest::newRow("lydian") << Chords{d, {64, 68, 71}} << "lydian";
    QTest::newRow("major") << Chords{d, {67, 71, 74}, {69, 73, 76}} << "";
  }
  void modesAreSaid() {
    using Chords = std::vector<std::array<int, 3>>;
    QFETCH(Chords, chords);
    QFETCH(QString, mode);
    const auto h = heard(vamp(chords));
    QVERIFY(h.key);
    QCOMPARE(QString::fromStdString(nameOf(h.key->name)), QString(chords[0][1] == 65 ? "Dm" : "D"));
    QCOMPARE(QString::fromStdString(h.key->mode), mode);
  }

  // ---- hits ----

  /// The network in C++ against what PyTorch makes of the same weights and features
  /// (bench/listening/fit_hits.py, write_check).
  void hitsAreNamedAsPytorchNamesThem() {
    QFile file(QStringLiteral(TUVVO_TEST_DIR "/listen/hit_names.json"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto check = QJsonDocument::fromJson(file.readAll()).object();
    std::vector<int> frames;
    for (const auto& frame : check["frames"].toArray()) frames.push_back(frame.toInt());
    std::vector<HitDetector::Features> features(frames.size());
    for (std::size_t r = 0; r < frames.size(); ++r) {
      const auto values = check["features"].toArray()[int(r)].toArray();
      QCOMPARE(std::size_t(values.size()), features[r].size());
      for (std::size_t i = 0; i < features[r].size(); ++i)
        features[r][i] = float(values[int(i)].toDouble());
    }
    const auto named = nameHits(frames, [&](std::size_t i) { return features[i]; });
    QCOMPARE(named.size(), std::size_t(12));
    const auto expected = check["likelihoods"].toArray();
    for (std::size_t r = 0; r < named.size(); ++r) {
      const HitNamed& n = named[r];
      const std::array<float, 5> mine{n.onset, n.kick, n.snare, n.hat, n.other};
      const auto said = expected[int(r)].toArray();
      QCOMPARE(std::size_t(said.size()), mine.size() + kDrums);
      for (std::size_t k = 0; k < mine.size(); ++k)
        QVERIFY(std::abs(double(mine[k]) - said[int(k)].toDouble()) < 1e-3);
      for (std::size_t d = 0; d < kDrums; ++d)
        QVERIFY(std::abs(double(n.drums[d]) - said[int(mine.size() + d)].toDouble()) < 1e-3);
    }
  }

  /// A hat that is struck together with a kick is as loud as itself: here every other one 12 dB
  /// softer.
  void whatIsStruckTogetherHasItsOwnLevels() {
    Samples out(std::size_t(8.5 * 44100), 0.0f);
    for (int i = 0; i < 16; ++i) {
      addHit(out, 0.1 + i * 0.5, 44100, 60, 0.0, 0.7);
      addHat(out, 0.1 + i * 0.5, 44100, i % 2 ? 0.06 : 0.24);
    }
    const auto h = heard(out);
    QCOMPARE(h.onsets.size(), std::size_t(16));
    const auto level = [&](std::size_t i, HitClass hit) {
      return h.onsets[i].levels[std::size_t(hit)].value;
    };
    for (std::size_t i = 0; i + 1 < 16; i += 2) {
      const double hats = level(i, HitClass::Hat) - level(i + 1, HitClass::Hat),
                   kicks = level(i, HitClass::Kick) - level(i + 1, HitClass::Kick);
      QVERIFY2(std::abs(hats - 20 * std::log10(0.24 / 0.06)) < 2,
               qPrintable(QString::number(hats)));
      QVERIFY2(std::abs(kicks) < 0.5, qPrintable(QString::number(kicks)));
    }
  }

  /// The waves of a loud low tail rise and fall: they are no beginning.
  void brightHitsOverALowTailAreCutWhereTheyBegin() {
    Samples out(std::size_t(8.5 * 44100), 0.0f);
    std::vector<double> hats;
    for (int i = 0; i < 8; ++i) {
      const double at = 0.1 + i;
      for (std::size_t k = 0; k < 44100; ++k) {
        const double t = double(k) / 44100;
        const auto place = std::size_t(at * 44100) + k;
        if (place < out.size())
          out[place] += float(0.7 * std::exp(-t / 0.5) * std::sin(2 * M_PI * 48 * t));
      }
      for (double later : {0.25, 0.5, 0.75}) {
        hats.push_back(at + later + 0.003 * i);
        addHat(out, hats.back(), 44100, 0.12);
      }
    }
    const auto h = heard(out);
    for (double at : hats) {
      double nearest = 1;
      for (const auto& onset : h.onsets)
        if (std::abs(onset.at.value - at) < std::abs(nearest)) nearest = onset.at.value - at;
      QVERIFY2(std::abs(nearest) < 0.003, qPrintable(QString("%1: %2").arg(at).arg(nearest)));
    }
  }

  void hitsAreCalledByTheirDrumWhereThatIsSure() {
    Onset onset;
    onset.hits = {HitClass::Other};
    QCOMPARE(nameOf(onset), std::string_view());
    onset.drums = {Drum::Clap};
    QCOMPARE(nameOf(onset), std::string_view("clap"));
    onset.hits = {HitClass::Hat, HitClass::Other};
    QCOMPARE(nameOf(onset), std::string_view("hat"));
    onset.drums = {Drum::ClosedHat};
    QCOMPARE(nameOf(onset), std::string_view("hat"));
    onset.drums = {Drum::Clap, Drum::OpenHat};
    QCOMPARE(nameOf(onset), std::string_view("open hat"));
    onset.hits.insert(onset.hits.begin(), HitClass::Kick);
    QCOMPARE(nameOf(onset), std::string_view("kick"));
    // What somebody says of the class goes before.
    Source source;
    source.heard.emplace();
    source.heard->onsets = {onset};
    source.corrections.hits = {{onset.at, {HitClass::Snare}}};
    const ResolvedSource resolved(source);
    QCOMPARE(nameOf(resolved.onsets().front()), std::string_view("snare"));
    QVERIFY(resolved.onsets().front().drums.empty());
  }

  void hitsOfOneDrumShareAGroup() {
    Samples out(std::size_t(8 * 44100), 0.0f);
    std::vector<int> truth;
    for (int i = 0; i < 16; ++i) { // low, high, low, middle, at three strengths
      const int drum = i % 4 == 1 ? 1 : i % 4 == 3 ? 2 : 0;
      addHit(out, 0.1 + i * 0.48, 44100,
             drum == 0   ? 60
             : drum == 1 ? 6000
                         : 220,
             drum == 1 ? 0.9 : 0.2, 0.4 + 0.1 * (i % 3));
      truth.push_back(drum);
    }
    const auto h = heard(out);
    QCOMPARE(h.onsets.size(), truth.size());
    for (std::size_t a = 0; a < truth.size(); ++a)
      for (std::size_t b = 0; b < a; ++b)
        QCOMPARE(h.onsets[a].group == h.onsets[b].group, truth[a] == truth[b]);
    QCOMPARE(h.onsets[0].group, 0); // the commonest
  }

  void decayIsTheFallOfTwentyDecibels() {
    for (double fall : {0.05, 0.2, 0.6}) { // s to 1/e
      Samples out(std::size_t(3 * 44100), 0.0f);
      for (std::size_t i = 2000; i < out.size(); ++i) {
        const double t = double(i - 2000) / 44100;
        out[i] = float(0.8 * std::exp(-t / fall) * std::sin(2 * M_PI * 300 * t));
      }
      const auto h = heard(out);
      QVERIFY(!h.onsets.empty());
      const double wanted = fall * std::log(10.0) * 1000; // 20 dB
      QVERIFY2(std::abs(h.onsets[0].decay.value / wanted - 1) < 0.15,
               qPrintable(QString("%1 for %2").arg(h.onsets[0].decay.value).arg(wanted)));
    }
  }

  void aDrumThatRingsHasAPitch() {
    Samples out(44100, 0.0f);
    for (std::size_t i = 1000; i < out.size(); ++i) {
      const double t = double(i - 1000) / 44100;
      out[i] = float(0.8 * std::exp(-t / 0.25) * std::sin(2 * M_PI * 82.4 * t)); // E2
    }
    const auto h = heard(out);
    QVERIFY(!h.onsets.empty());
    QVERIFY(std::abs(midiNoteOf(h.onsets[0].ring) - 40) < 0.15);
  }

  // ---- any length ----

  void aFileIsHeardAsItsSoundIs() {
    QTemporaryDir dir;
    JobContext job;
    for (double rate : {8000.0, 44100.0, 96000.0}) {
      const auto loop = drumLoop(93, 16, rate);
      Channels channels{{loop->channel(0).begin(), loop->channel(0).end()},
                        {loop->channel(0).begin(), loop->channel(0).end()}};
      for (float& v : channels[1]) v *= 0.7f;
      const auto path = pathIn(dir, "f.wav");
      QVERIFY(encodeFile(Sound(std::move(channels), Hertz(rate)), path,
                         {FileFormat::Wav, SampleFormat::Float32})
                  .ok());
      const auto whole = decodeFile(path, job);
      const auto passing = analyseFile(path, job);
      QVERIFY(whole.ok() && passing.ok());
      QVERIFY(passing->hash == whole->sound->hash());
      QVERIFY(passing->heard == analyse(*whole->sound, job));
      QVERIFY(*soundHashOf(path, job) == passing->hash);
      QCOMPARE(passing->picture.size(), std::size_t(600));
      QCOMPARE(int(*std::max_element(passing->picture.begin(), passing->picture.end())), 255);
    }
  }

  void aFileThatChangesWhileItIsHeardIsRefused() {
    QTemporaryDir dir;
    const auto path = pathIn(dir, "growing.wav");
    QVERIFY(encodeFile(*drumLoop(93, 16), path, {FileFormat::Wav, SampleFormat::Int16}).ok());
    JobContext job;
    std::atomic<bool> stop{false};
    std::thread writer([&] {
      while (!stop) std::ofstream(path, std::ios::app | std::ios::binary) << "more";
    });
    auto heardNow = analyseFile(path, job);
    // On a busy machine nothing may be written in the few milliseconds in which it is read.
    for (int tries = 0; heardNow.ok() && tries < 50; ++tries) heardNow = analyseFile(path, job);
    stop = true;
    writer.join();
    QVERIFY(!heardNow);
    QVERIFY(heardNow.error().text().find("changed") != std::string::npos);
    QVERIFY(analyseFile(path, job).ok()); // at rest it is heard
  }

  void streamedResamplingIsTheWholes() {
    Samples in(50000);
    Random random(4);
    for (float& v : in) v = float(random.bipolar());
    for (const auto& [from, to] : {std::pair{44100.0, 22050.0},
                                   {44100.0, 44100.0},
                                   {44100.0, 48000.0},
                                   {8000.0, 22050.0},
                                   {8000.0, 192'000.0}}) {
      const auto whole = resample(in, Hertz(from), Hertz(to));
      StreamResampler stream{Hertz(from), Hertz(to)};
      Samples out;
      for (std::size_t at = 0; at < in.size();) {
        const std::size_t n =
            std::min<std::size_t>(1 + std::size_t(random.unit() * 5000), in.size() - at);
        stream.take(std::span<const float>(in).subspan(at, n), out);
        at += n;
      }
      stream.finish(out);
      QCOMPARE(out.size(), whole.size());
      for (std::size_t i = 0; i < out.size(); ++i) QVERIFY(std::abs(out[i] - whole[i]) < 1e-5f);
      StreamResampler atOnce{Hertz(from), Hertz(to)};
      Samples all;
      atOnce.take(in, all);
      atOnce.finish(all);
      QCOMPARE(all.size(), whole.size());
      for (std::size_t i = 0; i < all.size(); ++i) QVERIFY(std::abs(all[i] - whole[i]) < 1e-5f);
    }
  }

  // ---- what must not matter, and what must follow ----

  void gainChangesNothingButLevels() {
    const auto loop = drumLoop(93, 16);
    Samples soft(loop->channel(0).begin(), loop->channel(0).end());
    for (float& v : soft) v *= 0.25f;
    auto a = heard({loop->channel(0).begin(), loop->channel(0).end()}), b = heard(soft);
    QVERIFY(a.kind == b.kind && a.beats == b.beats && a.loop == b.loop && a.meter == b.meter);
    QVERIFY(std::abs(a.tempo->bpm.value - b.tempo->bpm.value) < 1e-6);
    QCOMPARE(a.onsets.size(), b.onsets.size());
    QVERIFY(std::abs(a.loudness.integratedLufs - b.loudness.integratedLufs - 12.04) < 0.1);
  }

  void sidesThatOpposeEachOtherAreHeard_data() {
    QTest::addColumn<float>("right"); // times the left
    QTest::newRow("opposite, as loud") << -1.0f;
    QTest::newRow("opposite, softer") << -0.6f;
    QTest::newRow("opposite, louder") << -1.5f;
  }
  void sidesThatOpposeEachOtherAreHeard() {
    QFETCH(float, right);
    const auto loop = drumLoop(93, 16);
    const Samples one(loop->channel(0).begin(), loop->channel(0).end());
    Samples other(one);
    for (float& v : other) v *= right;
    const auto sound = std::make_shared<const Sound>(Channels{one, other}, loop->rate());
    const auto alone = heard(right < -1 ? other : one); // the louder one
    JobContext job;
    auto both = analyse(*sound, job);
    QVERIFY(both.tempo && alone.tempo);
    QCOMPARE(both.tempo->bpm.value, alone.tempo->bpm.value);
    QVERIFY(both.kind == alone.kind && both.beats == alone.beats);
    QCOMPARE(both.onsets.size(), alone.onsets.size());
    // A file of it says the same.
    QTemporaryDir folder;
    const auto path = std::filesystem::path(folder.filePath("opposed.wav").toStdString());
    QVERIFY(encodeFile(*sound, path, {}));
    const auto file = analyseFile(path, job);
    QVERIFY(file);
    QCOMPARE(file->heard.onsets.size(), alone.onsets.size());
    QCOMPARE(file->heard.beats.size(), alone.beats.size());
    QVERIFY(*std::max_element(file->picture.begin(), file->picture.end()) == 255);
  }

  void whatOneEarListensTo() {
    QCOMPARE(earSideFor({1, 1, 1}), EarSide::Both);     // mono
    QCOMPARE(earSideFor({1, 1, 0}), EarSide::Both);     // nothing in common
    QCOMPARE(earSideFor({1, 0, 0}), EarSide::Both);     // one side alone
    QCOMPARE(earSideFor({1, 1, -0.25}), EarSide::Both); // three eighths are kept
    QCOMPARE(earSideFor({1, 1, -0.5}), EarSide::Left);
    QCOMPARE(earSideFor({1, 2, -1.2}), EarSide::Right);
    QCOMPARE(earSideFor({0, 0, 0}), EarSide::Both);
  }

  void silenceInFrontMovesEverything() {
    std::vector<Played> notes;
    for (int beat = 0; beat < 24; ++beat)
      notes.push_back(
          {beat * 0.55, 0.5, double(std::array{57, 60, 64, 62}[std::size_t(beat % 4)])});
    const auto tune = playedNotes(notes, 24 * 0.55 + 0.4);
    Samples later(44100, 0.0f);
    later.insert(later.end(), tune.begin(), tune.end());
    const auto a = heard(tune), b = heard(later);
    QVERIFY(a.tempo && b.tempo);
    QVERIFY(std::abs(a.tempo->bpm.value / b.tempo->bpm.value - 1) < 0.002);
    QCOMPARE(a.onsets.size(), b.onsets.size());
    for (std::size_t i = 0; i < a.onsets.size(); ++i)
      QVERIFY(std::abs(b.onsets[i].at.value - a.onsets[i].at.value - 1) < 0.004);
  }

  void shortTermAndNoiseFloor() {
    // EBU Tech 3341 case 9 has a steady short-term value of −23: a sine at −23 dBFS on both sides.
    auto tone = sine(1000, 12, 48000, std::pow(10, -23 / 20.0));
    const Sound stereo({tone, tone}, Hertz(48000));
    JobContext job;
    const auto h = analyse(stereo, job);
    QVERIFY(std::abs(h.loudness.shortTermLufs + 23) <= 0.1);
    // Half loud, half 40 dB lower: the floor is the lower half's RMS.
    for (std::size_t i = tone.size() / 2; i < tone.size(); ++i) tone[i] *= 0.01f;
    const auto floor = analyse(*makeSound(tone, 48000), job).loudness.noiseFloorDbfs;
    QVERIFY2(std::abs(floor - (-23 - 40 - 3.01)) < 0.5, qPrintable(QString::number(floor)));
  }
};

QTEST_APPLESS_MAIN(TestHearing)
#include "tst_hearing.moc"
