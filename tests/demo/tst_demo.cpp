// What ships: the kit, the demo's sounds and the beat made from them.
#include "audio/decode.h"
#include "base/tempo_map.h"
#include "beat/flip.h"
#include "demo/the_demo.h"
#include "formats/analysis_json.h"
#include "formats/shipped.h"
#include "kept.h"
#include "listen/analyse.h"
#include "listen/levels.h"
#include "notes/notes.h"
#include "play/print.h"
#include "shape/bake_cache.h"
#include "song/timeline.h"
#include "support.h"

#include <QDir>
#include <QDirIterator>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using namespace tuvvo::test;

class TestDemo : public QObject {
  Q_OBJECT
  Project m_demo;

  /// Of each beat, in hundredths of a decibel full scale; −9999 for less than −99.99 dB.
  std::vector<int> levelsOf(const Sound& sound) const {
    const double beat = 60 / m_demo.tempo.value * sound.rate().value;
    std::vector<int> out;
    for (std::size_t i = 0; double(i + 1) * beat <= double(sound.frames().value) + 1; ++i) {
      const auto from = std::size_t(std::llround(double(i) * beat));
      const auto until = std::min(std::size_t(sound.frames().value),
                                  std::size_t(std::llround(double(i + 1) * beat)));
      double sum = 0;
      for (int c = 0; c < sound.channels(); ++c)
        for (std::size_t f = from; f < until; ++f)
          sum += double(sound.channel(c)[f]) * double(sound.channel(c)[f]);
      const double db = 10 * std::log10(sum / double(2 * (until - from)) + 1e-30);
      out.push_back(std::max(-9999, int(std::lround(db * 100))));
    }
    return out;
  }

private slots:
  void initTestCase() { m_demo = theDemo(); }

  void filesAreSmallEnoughToShip() {
    qint64 together = 0;
    QDirIterator files(TUVVO_DATA_DIR, QDir::Files, QDirIterator::Subdirectories);
    while (files.hasNext()) {
      const QFileInfo file(files.next());
      QVERIFY2(file.size() < 4'000'000, qPrintable(file.fileName()));
      together += file.size();
    }
    QVERIFY2(together < 12'000'000, qPrintable(QString::number(together)));
  }

  // Every drum of the kit has a key of its own; hats and cymbals that are one thing choke each
  // other.
  void theKitLiesOnTheDeckSideBySide() {
    JobContext job;
    const Project fresh = newProject(TUVVO_DATA_DIR, job).project;
    std::map<Row, std::set<int>> places;
    std::map<Row, int> keys;
    for (const auto& key : fresh.keys) {
      ++keys[key.row];
      places[key.row].insert(key.column);
      QVERIFY2(key.level.value <= -4 && key.level.value >= -17, nameOf(fresh, key).c_str());
      QCOMPARE(key.choke != 0, (key.row == Row::Air && key.column < 3) ||
                                   (key.row == Row::Floor && key.column >= 4));
    }
    for (const auto& [row, columns] : places) {
      QCOMPARE(int(columns.size()), keys[row]);
      QCOMPARE(*columns.begin(), 0);
      QCOMPARE(*columns.rbegin(), keys[row] - 1); // no gap
    }
    QCOMPARE(keys, (std::map<Row, int>{{Row::Air, 7}, {Row::Body, 7}, {Row::Floor, 6}}));
  }

  void theKitHasSixteenAndMoreClosableSounds() {
    JobContext job;
    const NewProject fresh = newProject(TUVVO_DATA_DIR, job);
    QVERIFY(fresh.warnings.empty());
    int kit = 0;
    std::set<std::string> hashes;
    for (const auto& source : fresh.project.sources) {
      if (!source->kit) continue;
      ++kit;
      hashes.insert(source->hash);
      const auto frames = source->sound->frames();
      const float peak = peakOf(*source->sound, Frames(0), frames);
      QVERIFY2(peak > 0.2f && peak <= 1.0f, source->name.c_str());
      // It starts at once and ends in silence, so that it neither lags nor clicks.
      const auto reach = Frames(std::llround(source->sound->rate().value * 0.02));
      QVERIFY2(peakOf(*source->sound, Frames(0), reach) > peak * 0.1f, source->name.c_str());
      QVERIFY2(peakOf(*source->sound, Frames(frames.value - 48), frames) < peak * 0.02f,
               source->name.c_str());
    }
    QVERIFY(kit >= 16);
    QCOMPARE(int(hashes.size()), kit); // no two alike
  }

  void theBeatIsFinished() {
    const Timeline timeline = timelineOf(m_demo);
    QVERIFY(timeline.bars >= 24 && timeline.bars <= 40);
    QVERIFY(m_demo.sections.size() >= 4);
    std::set<Id> sources;
    for (const auto& pattern : m_demo.patterns)
      for (const auto& lane : pattern->lanes)
        for (const auto& hit : lane.hits)
          if (const Key* key = findKey(m_demo, hit.key))
            if (const Source* s = findSource(m_demo, key->sound.source); s && !s->kit)
              sources.insert(s->id);
    QCOMPARE(int(sources.size()), 3); // loop, break and quay are all heard
  }

  void itPrintsWithoutClippingOrHoles() {
    JobContext job;
    const auto printed = *print(compileSong(m_demo), {}, job);
    const float peak = peakOf(*printed, Frames(0), printed->frames());
    QVERIFY(peak > 0.5f && peak <= 0.9661f); // the limiter's ceiling, −0.3 dBFS
    const Timeline timeline = timelineOf(m_demo);
    const double barFrames = 60 / m_demo.tempo.value * quartersOf(m_demo.meter) * 48000;
    QCOMPARE(printed->frames().value, std::llround(barFrames * timeline.bars));
    for (int bar = 0; bar < timeline.bars; ++bar)
      QVERIFY2(peakOf(*printed, Frames(std::llround(bar * barFrames)),
                      Frames(std::llround((bar + 1) * barFrames))) > 0.01f,
               qPrintable(QString("bar %1 is silent").arg(bar + 1)));
  }

  void printingTwiceIsTheSame() {
    JobContext job;
    const auto a = *print(compileSong(m_demo), {}, job), b = *print(compileSong(m_demo), {}, job);
    QCOMPARE(a->hash(), b->hash());
  }

  void nothingPrivateShips() {
    for (const auto& source : m_demo.sources) {
      if (source->kit)
        QVERIFY2(source->provenance.recording != Permission::Unrecorded, source->name.c_str());
      QVERIFY2(source->origin.find("/home") == std::string::npos, source->origin.c_str());
    }
  }

  // What was heard when the files were made is what is heard now: whoever changes the ears hears
  // them again (make-demo data --hear), or has changed more than was meant.
  void hearingsThatShipAreWhatIsHeard_data() {
    QTest::addColumn<QString>("path");
    for (const char* folder : {"kit", "demo", "service"}) {
      const QDir sounds(QStringLiteral(TUVVO_DATA_DIR "/") + folder);
      for (const auto& name : sounds.entryList({"*.flac"}))
        QTest::newRow(qPrintable(name)) << sounds.filePath(name);
    }
  }
  void hearingsThatShipAreWhatIsHeard() {
    QFETCH(QString, path);
    JobContext job;
    const auto now = analyseFile(path.toStdString(), job);
    QVERIFY2(now.ok(), now.ok() ? "" : now.error().text().c_str());
    QFile file(QString(path).replace(".flac", ".heard.json"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto kept = nlohmann::ordered_json::parse(file.readAll().toStdString());
    QCOMPARE(differences(kept, toJson(now->heard)), QString());
  }

  // Which slices and drums a starter beat has where, for two sources and two seeds. Kept as the
  // demo's levels are: the same seed gives the same beat in every version.
  void starterBeatsAreWhatTheyWere() {
    JobContext job;
    const NewProject fresh = newProject(TUVVO_DATA_DIR, job);
    QByteArray now;
    for (const auto& source : m_demo.sources) {
      if (source->kit || source->recipe || source->name == "quay at night") continue;
      for (std::uint64_t seed : {1, 2}) {
        Source own = *source;
        own.cuts.clear();
        const auto made = flip(fresh.project, own, {std::nullopt, seed});
        QVERIFY(made.ok());
        now += QString("%1, seed %2, %3 BPM\n")
                   .arg(QString::fromStdString(own.name))
                   .arg(seed)
                   .arg(made->tempo.value)
                   .toUtf8();
        for (const auto& section : made->sections)
          now += QString(" %1 %2 bars\n")
                     .arg(QString::fromStdString(section.name))
                     .arg(section.bars)
                     .toUtf8();
        for (const auto& pattern : made->patterns)
          for (const auto& lane : pattern->lanes) {
            now += " " + QByteArray::fromStdString(findPart(*made, lane.part)->name) + ":";
            for (const auto& hit : lane.hits)
              now += QString(" %1=%2@%3")
                         .arg(inBeats(hit.at))
                         .arg(QString::fromStdString(nameOf(*made, *findKey(*made, hit.key))))
                         .arg(hit.velocity)
                         .toUtf8();
            now += "\n";
          }
      }
    }
    const QString name = QStringLiteral(TUVVO_TEST_DIR "/data/starter-beats.txt");
    if (qEnvironmentVariableIsSet("TUVVO_KEEP")) {
      QFile file(name);
      QVERIFY(file.open(QIODevice::WriteOnly));
      file.write(now);
      QSKIP("kept anew");
    }
    QFile file(name);
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto kept = file.readAll().split('\n'), lines = now.split('\n');
    QCOMPARE(lines.size(), kept.size());
    for (qsizetype i = 0; i < kept.size(); ++i) QCOMPARE(lines[i], kept[i]);
  }

  // How loud each stem is on each beat of the song, in hundredths of a decibel. Whoever changes the
  // sound on purpose runs this test with TUVVO_KEEP=1, which writes the figures anew, and looks at
  // the difference.
  void theDemoSoundsAsItDid() {
    const QString name = QStringLiteral(TUVVO_TEST_DIR "/data/demo-levels.json");
    nlohmann::ordered_json now;
    BakeCache cache(2, {});
    JobContext job;
    for (const auto& part : m_demo.parts) {
      CompileOptions alone;
      alone.onlyPart = part.id;
      const auto score = bakedSong(m_demo, alone, cache, job);
      QVERIFY(score.ok());
      PrintOptions options;
      options.limiter = false;
      const auto stem = print(*score, options, job);
      QVERIFY(stem.ok());
      now[part.name] = levelsOf(**stem);
    }
    if (qEnvironmentVariableIsSet("TUVVO_KEEP")) {
      QFile file(name);
      QVERIFY(file.open(QIODevice::WriteOnly));
      file.write(QByteArray::fromStdString(now.dump() + "\n").replace("],", "],\n"));
      QSKIP("kept anew");
    }
    QCOMPARE(now.size(), m_demo.parts.size()); // each has a name of its own
    QFile file(name);
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto kept = nlohmann::ordered_json::parse(file.readAll().toStdString());
    QCOMPARE(kept.size(), now.size());
    for (const auto& [part, levels] : kept.items()) {
      QVERIFY2(now.contains(part) && now[part].size() == levels.size(), part.c_str());
      for (std::size_t beat = 0; beat < levels.size(); ++beat)
        QVERIFY2(std::abs(now[part][beat].get<int>() - levels[beat].get<int>()) <= 2,
                 qPrintable(QString("%1, beat %2: %3 and not %4")
                                .arg(QString::fromStdString(part))
                                .arg(beat + 1)
                                .arg(now[part][beat].get<int>())
                                .arg(levels[beat].get<int>())));
    }
  }
};

QTEST_GUILESS_MAIN(TestDemo)
#include "tst_demo.moc"
