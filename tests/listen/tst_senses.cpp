// The learnt senses of beats, chords and keys: the same in C++ as where they were learnt, and what
// follows from how they are built.
#include "listen/analyse.h"
#include "listen/beat_sense.h"
#include "listen/chords.h"
#include "listen/content.h"
#include "listen/hit_intervals.h"
#include "listen/tone_sense.h"
#include "support.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>
#include <numeric>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

QJsonObject checkOf(const char* name) {
  QFile file(QStringLiteral(TUVVO_TEST_DIR "/listen/%1.json").arg(QLatin1String(name)));
  return file.open(QIODevice::ReadOnly) ? QJsonDocument::fromJson(file.readAll()).object()
                                        : QJsonObject{};
}

std::vector<Notes> notesIn(const QJsonArray& rows) {
  std::vector<Notes> out(std::size_t(rows.size()));
  for (std::size_t r = 0; r < out.size(); ++r)
    for (std::size_t n = 0; n < out[r].size(); ++n)
      out[r][n] = float(rows[int(r)].toArray()[int(n)].toDouble());
  return out;
}

std::vector<bool> everyFourth(std::size_t count) {
  std::vector<bool> out;
  for (std::size_t i = 0; i < count; ++i) out.push_back(i % 4 == 0);
  return out;
}

} // namespace

class TestSenses : public QObject {
  Q_OBJECT
private slots:
  /// Against what PyTorch makes of the same weights and inputs (bench/listening/fit_beats.py).
  void beatsAreSensedAsPytorchSensesThem() {
    const auto check = checkOf("beat_sense");
    const auto rows = check["inputs"].toArray(), said = check["said"].toArray();
    QCOMPARE(rows.size(), 120);
    Matrix inputs(int(rows.size()), kSenseInputs);
    for (int t = 0; t < inputs.rows; ++t) {
      const auto row = rows[t].toArray();
      QCOMPARE(int(row.size()), kSenseInputs);
      for (int i = 0; i < kSenseInputs; ++i) inputs.at(t, i) = float(row[i].toDouble());
    }
    const BeatSense sense = senseBeats(inputs);
    QCOMPARE(sense.beat.size(), std::size_t(120));
    for (std::size_t t = 0; t < sense.beat.size(); ++t) {
      QVERIFY(std::abs(double(sense.beat[t]) - said[int(t)].toArray()[0].toDouble()) < 1e-3);
      QVERIFY(std::abs(double(sense.one[t]) - said[int(t)].toArray()[1].toDouble()) < 1e-3);
    }
  }

  /// Likewise (bench/listening/fit_tones.py).
  void tonesAreSensedAsPytorchSensesThem() {
    const auto check = checkOf("tone_sense");
    const auto notes = notesIn(check["notes"].toArray());
    QCOMPARE(notes.size(), std::size_t(8));
    const ToneSense sense = senseTones(notes, everyFourth(notes.size()));
    for (std::size_t i = 0; i < notes.size(); ++i)
      for (std::size_t c = 0; c < kChordNames; ++c) {
        const double said = check["chords"].toArray()[int(i)].toArray()[int(c)].toDouble();
        QVERIFY(std::abs(double(sense.chords[i][c]) - said) < 2e-3);
      }
    for (std::size_t k = 0; k < kKeyNames; ++k)
      QVERIFY(std::abs(double(sense.key[k]) - check["key"].toArray()[int(k)].toDouble()) < 2e-3);
  }

  /// Every tone is taken for the tonic in turn: moving the notes by an octave's part moves what is
  /// sensed by as much, as far as they stay in their registers.
  void whatIsSensedMovesWithTheNotes() {
    std::vector<Notes> notes(12), up(12);
    Random random(5);
    for (std::size_t i = 0; i < notes.size(); ++i)
      for (int pitch : {36, 40, 43, 52, 55, 59, 72, 76}) {
        const float v = float(random.unit());
        notes[i][std::size_t(pitch - Harmony::kLowNote)] = v;
        up[i][std::size_t(pitch + 3 - Harmony::kLowNote)] = v;
      }
    const ToneSense low = senseTones(notes, everyFourth(12)),
                    high = senseTones(up, everyFourth(12));
    for (std::size_t i = 0; i < notes.size(); ++i)
      for (std::size_t root = 0; root < 12; ++root)
        for (std::size_t kind = 0; kind < kHeardKinds; ++kind)
          QVERIFY(std::abs(low.chords[i][root * kHeardKinds + kind] -
                           high.chords[i][(root + 3) % 12 * kHeardKinds + kind]) < 1e-4f);
    for (std::size_t tonic = 0; tonic < 12; ++tonic)
      for (std::size_t mode : {0u, 12u})
        QVERIFY(std::abs(low.key[mode + tonic] - high.key[mode + (tonic + 3) % 12]) < 1e-4f);
  }

  void likelihoodsAddUpToOne() {
    const auto sense = senseTones(std::vector<Notes>(3), everyFourth(3)); // silence
    for (const auto& chord : sense.chords)
      QVERIFY(std::abs(std::accumulate(chord.begin(), chord.end(), 0.0f) - 1) < 1e-4f);
    QVERIFY(std::abs(std::accumulate(sense.key.begin(), sense.key.end(), 0.0f) - 1) < 1e-4f);
    QVERIFY(senseTones({}, {}).chords.empty());
    QVERIFY(senseBeats(Matrix(0, kSenseInputs)).beat.empty());
  }

  /// Kicks on one and three, snares on two and four, hats on eighths, at 100 BPM: who follows whom.
  void whatIsStruckFollowsItself() {
    std::vector<Onset> onsets;
    const auto strike = [&](double beat, std::vector<HitClass> hits) {
      Onset onset;
      onset.at = Seconds(1 + beat * 0.6);
      onset.hits = std::move(hits);
      onsets.push_back(onset);
    };
    for (int beat = 0; beat < 32; ++beat) {
      strike(beat, {beat % 2 == 0 ? HitClass::Kick : HitClass::Snare, HitClass::Hat});
      strike(beat + 0.5, {HitClass::Hat});
    }
    const HitIntervals hits(onsets);
    using Pair = HitIntervals::Pair;
    const auto near = [](double said, double owed) { return std::abs(said - owed) < 1e-6; };
    // Sixteen of each: the last of them has none after it.
    QVERIFY(near(hits.share(Pair::KickSnare, 0.6), 1) &&
            near(hits.share(Pair::SnareKick, 0.6), 15 / 16.0));
    QVERIFY(near(hits.turns(0.6), 31 / 32.0) && near(hits.turns(1.2), 0) &&
            near(hits.turns(0.3), 0));
    QVERIFY(near(hits.share(Pair::SnareSnare, 1.2), 15 / 16.0));
    QVERIFY(near(hits.share(Pair::SnareSnare, 0.6), 0));
    QVERIFY(near(hits.share(Pair::KickKick, 2.4), 14 / 16.0));
    QVERIFY(near(hits.share(Pair::HatHat, 0.3), 63 / 64.0));
    QVERIFY(near(hits.share(Pair::HatHat, 0.33), 63 / 64.0)); // within 35 ms
    QVERIFY(near(hits.share(Pair::HatHat, 0.36), 0));
    QVERIFY(near(hits.share(Pair::HatHat, 6), 0) && near(hits.share(Pair::HatHat, -1), 0));
    // Two of a class say nothing.
    onsets.resize(7); // kicks on one and three, one snare
    QVERIFY(near(HitIntervals(onsets).share(Pair::KickKick, 1.2), 0));
    QVERIFY(near(HitIntervals({}).turns(0.6), 0));
  }

  /// Three stretches that say Am, C or nothing in parts: two for Am, one for C.
  void aChordSaysHowSureItIsAndWhatElseItMayBe() {
    const auto place = [](int root, std::string_view ending) {
      const auto kind = std::find_if(kChordKinds.begin(), kChordKinds.end(),
                                     [&](const ChordKind& k) { return k.ending == ending; });
      return std::size_t(root) * kHeardKinds + std::size_t(kind - kChordKinds.begin());
    };
    const std::size_t am = place(9, "m"), c = place(0, ""), none = kChordNames - 1;
    ToneSense sense;
    sense.chords.resize(3);
    sense.chords[0][am] = 0.8f, sense.chords[0][c] = 0.2f;
    sense.chords[1][am] = 0.6f, sense.chords[1][c] = 0.4f;
    sense.chords[2][am] = 0.01f, sense.chords[2][c] = 0.44f, sense.chords[2][none] = 0.55f;
    const std::vector<Notes> notes(3);
    const std::array edges{Seconds(0), Seconds(1), Seconds(2), Seconds(3)};
    auto heard = analyseChords(sense, notes, edges, {true, false, true});
    QCOMPARE(int(heard.size()), 1); // the last is likelier none
    QCOMPARE(heard[0].name, std::string("Am"));
    QCOMPARE(heard[0].other, std::string("C"));
    QVERIFY(std::abs(heard[0].confidence - 0.7) < 1e-6 && heard[0].end == Seconds(2));
    // Over another bass it goes on: three times as long at .7, then at .3.
    const std::array parts{ChordHeard{Seconds(0), Seconds(3), "Am", "A", 0.7, "C"},
                           ChordHeard{Seconds(3), Seconds(4), "Am", "E", 0.3, "F"},
                           ChordHeard{Seconds(5), Seconds(6), "Am", "A", 0.5, "F"}};
    const auto whole = overAnyBass(parts);
    QCOMPARE(int(whole.size()), 2); // there is a gap before the last
    QVERIFY(whole[0].end == Seconds(4) && std::abs(whole[0].confidence - 0.6) < 1e-9);
    QCOMPARE(whole[0].other, std::string("C"));
    sense.chords[2][none] = 0.2f;
    heard = analyseChords(sense, notes, edges, {true, false, true});
    QCOMPARE(int(heard.size()), 2);
    QCOMPARE(heard[1].name, std::string("C"));
    QCOMPARE(heard[1].other, std::string()); // no chord is what it is else likeliest
    QVERIFY(std::abs(heard[1].confidence - 0.44) < 1e-6);
  }

  /// Eight bars of drums, then eight of held notes over a low one: truth by construction.
  void whatIsInASectionIsSaid() {
    const auto drums = drumLoop(96, 32, 44100);
    Samples out(drums->channel(0).begin(), drums->channel(0).end());
    const std::size_t half = out.size();
    out.resize(2 * half, 0.0f);
    for (std::size_t i = 0; i < half; ++i) {
      const double t = double(i) / 44100, beat = t * 96 / 60;
      const double since = std::fmod(beat, 4) * 60 / 96; // a new chord each bar
      for (double hz : {55.0, 440.0, 554.4, 659.3})
        out[half + i] += float(0.12 * std::min(1.0, since / 0.02) * std::exp(-0.3 * since) *
                               std::sin(2 * M_PI * hz * t));
    }
    JobContext job;
    const auto heard = analyse(*makeSound(out, 44100), job);
    const Seconds middle = toSeconds(Frames(std::int64_t(half)), Hertz(44100));
    QVERIFY(heard.sections.size() >= 2);
    const auto& first = heard.sections.front();
    const auto& last = heard.sections.back();
    QVERIFY(first.start < middle && last.end > middle);
    QVERIFY(wordsOf(first.content).drums && !wordsOf(last.content).drums);
    QVERIFY(wordsOf(last.content).tones && wordsOf(last.content).lows);
    QVERIFY(wordsOf(last.content).calm && !wordsOf(first.content).calm);
    QVERIFY(first.content.tones < last.content.tones);
    QVERIFY(heard.content.onsets > last.content.onsets);
    QVERIFY(heard.content.onsets < first.content.onsets);
    // Shares are shares, and the whole is as loud as itself.
    QVERIFY(std::abs(heard.content.level.value) < 1e-3);
    for (const auto& section : heard.sections)
      for (double share : {section.content.lows, section.content.voices, section.content.tones,
                           section.content.changes})
        QVERIFY(share >= 0 && share <= 1);
    QCOMPARE(contentOf(heard, Harmony{}, Seconds(0), Seconds(1)), Content{}); // nothing sounds
  }

  /// Grains are means over two frames, and a stretch is the mean of its grains.
  void stretchesAreMeansOfGrains() {
    NoteGrains notes;
    for (float v : {1.0f, 2.0f, 3.0f, 6.0f}) {
      notes.grains.emplace_back();
      notes.grains.back()[7] = v;
    }
    const double g = NoteGrains::kGrainS;
    QCOMPARE(notes.between(0, 2 * g)[7], 1.5f);
    QCOMPARE(notes.between(1.1 * g, 3.9 * g)[7], float((2 + 3 + 6) / 3.0));
    QCOMPARE(notes.between(2.1 * g, 2.2 * g)[7], 3.0f); // the nearest one
    QCOMPARE(notes.between(50 * g, 60 * g)[7], 6.0f);
    QCOMPARE(NoteGrains{}.between(0, 1)[7], 0.0f);
  }
};

QTEST_APPLESS_MAIN(TestSenses)
#include "tst_senses.moc"
