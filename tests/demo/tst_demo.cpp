// What ships: the kit, the demo's sounds and the beat made from them.
#include "audio/decode.h"
#include "base/tempo_map.h"
#include "formats/shipped.h"
#include "listen/levels.h"
#include "notes/notes.h"
#include "play/print.h"
#include "song/timeline.h"
#include "support.h"

#include <QDir>
#include <QDirIterator>
#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestDemo : public QObject {
  Q_OBJECT
  Project m_demo;

private slots:
  void initTestCase() {
    JobContext job;
    auto demo = shippedDemo(TUVVO_DATA_DIR, job);
    QVERIFY2(demo.ok(), demo.ok() ? "" : demo.error().text().c_str());
    m_demo = std::move(demo).value();
  }

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

  void hearingsThatShipAreOfTheseFiles() {
    for (const auto& source : m_demo.sources) {
      if (source->kit) continue;
      QVERIFY2(source->heard.has_value(), source->name.c_str());
      QVERIFY(std::abs(source->heard->duration.value - source->sound->duration().value) < 0.001);
    }
  }
};

QTEST_GUILESS_MAIN(TestDemo)
#include "tst_demo.moc"
