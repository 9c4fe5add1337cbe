// What a beat starts with leaves room: parts by role, peaks about −6 dBFS, and the limiter rests.
#include "beat/flip.h"
#include "beat/hits.h"
#include "beat/read_break.h"
#include "beat/slices_in_order.h"
#include "beat/start_levels.h"
#include "cut/slicing.h"
#include "formats/shipped.h"
#include "listen/levels.h"
#include "model/edits.h"
#include "play/print.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// The song, with the limiter or without.
SoundPtr songPrinted(const Project& project, bool limiter) {
  JobContext job;
  BakeCache bakes(2, {});
  const auto score = bakedSong(project, {}, bakes, job);
  return *print(*score, {.limiter = limiter}, job);
}

double peakOfSong(const Project& project) {
  const SoundPtr song = songPrinted(project, false);
  return decibelsOf(double(peakOf(*song, Frames(0), song->frames()))).value;
}

/// Whether the limiter leaves every sample as it is.
bool limiterRests(const Project& project) {
  const SoundPtr with = songPrinted(project, true), without = songPrinted(project, false);
  for (int channel = 0; channel < 2; ++channel) {
    const auto a = with->channel(channel), b = without->channel(channel);
    if (!std::equal(a.begin(), a.end(), b.begin(), b.end())) return false;
  }
  return true;
}

Project songOf(Project project, Id pattern) {
  project.sections.clear();
  Section section;
  section.pattern = pattern;
  section.bars = 2;
  return withSection(std::move(project), section, 0);
}

} // namespace

class TestStartLevels : public QObject {
  Q_OBJECT
  Project m_fresh, m_demo;

  SourcePtr demoSource(const char* name) {
    for (const auto& source : m_demo.sources)
      if (source->name == name) return source;
    qFatal("no source %s", name);
  }
  void hasRoom(const Project& project, const char* what) {
    const double peak = peakOfSong(project);
    qInfo("%s: %.2f dBFS", what, peak);
    QVERIFY2(peak > -9 && peak < -4.5, qPrintable(QString("%1: %2").arg(what).arg(peak)));
    QVERIFY(limiterRests(project));
  }

private slots:
  void initTestCase() {
    JobContext job;
    m_fresh = newProject(TUVVO_DATA_DIR, job).project;
    auto demo = shippedDemo(TUVVO_DATA_DIR, job);
    QVERIFY(demo.ok());
    m_demo = *demo;
  }

  void aPlainBeatOfANewProjectHasRoom() {
    Project project = m_fresh;
    const Id pattern = project.patterns.front()->id;
    project = withPatternChanged(std::move(project), pattern,
                                 [&](Pattern& p) { p = withStarterDrums(std::move(p), m_fresh); });
    hasRoom(songOf(project, pattern), "as the kit ships");
    LoudnessCache loudness;
    project =
        withStartLevels(std::move(project), freshParts(m_fresh), pattern, Among::ByRole, loudness);
    hasRoom(songOf(project, pattern), "with levels by role");
  }

  void aFlipHasRoom() {
    for (const char* name : {"lantern row", "pier nine break"})
      for (std::uint64_t seed : {1, 2, 3}) {
        Source source = *demoSource(name);
        source.cuts.clear();
        source.shape = {};
        const auto made = flip(m_fresh, source, {std::nullopt, seed});
        QVERIFY(made.ok());
        hasRoom(*made, name);
      }
  }

  void aRebuiltBreakHasRoomAndKeepsItsOwnBalance() {
    Id id = 0, pattern = 0;
    Source source = *demoSource("pier nine break");
    source.cuts.clear();
    Project project = withSource(m_fresh, source, &id);
    const auto reading = readBreak(*findSource(project, id));
    QVERIFY(reading.ok());
    const Project before = project;
    project = withBreakRebuilt(std::move(project), id, *reading, 0, &pattern);
    std::vector<Id> parts;
    for (const auto& part : project.parts)
      if (!findPart(before, part.id)) parts.push_back(part.id);
    LoudnessCache loudness;
    project = withStartLevels(std::move(project), parts, pattern, Among::AsTheyAre, loudness);
    hasRoom(songOf(project, pattern), "rebuilt");
    for (Id part : parts)
      QCOMPARE(findPart(project, part)->bus.level.value,
               findPart(project, parts.front())->bus.level.value);
  }

  void aPartBesideOthersTakesItsPlaceByRole() {
    Project project = m_fresh;
    const Id pattern = project.patterns.front()->id;
    const auto strike = [&](Row row, double beat) {
      const Key* key = keyAt(project, row, 0, 0);
      Hit hit;
      hit.at = Beats(std::int64_t(beat * double(kTicksPerBeat)));
      hit.key = key->id;
      hit.velocity = 1;
      project = withPatternChanged(std::move(project), pattern,
                                   [&](Pattern& p) { p = withHit(std::move(p), key->part, hit); });
      return key->part;
    };
    const Id kick = strike(Row::Floor, 0), hat = strike(Row::Air, 1);
    project = withPartChanged(std::move(project), kick,
                              [](Part& part) { part.bus.level = Decibels(-10); });
    LoudnessCache loudness;
    project = withStartLevels(std::move(project), {hat}, pattern, Among::ByRole, loudness);
    QCOMPARE(findPart(project, kick)->bus.level.value, -10.0);
    const auto attack = [&](Row row) {
      const Key* key = keyAt(project, row, 0, 0);
      return levelsOf(project, {key->id}, LevelBy::Attack, loudness).front().lufs +
             findPart(project, key->part)->bus.level.value;
    };
    QVERIFY(std::abs(attack(Row::Air) - (attack(Row::Floor) - 9)) < 1e-9);
    // A part that somebody has set, or that is played elsewhere, is nobody's to set.
    const auto fresh = freshParts(project);
    QVERIFY(std::find(fresh.begin(), fresh.end(), kick) == fresh.end());
    QVERIFY(std::find(fresh.begin(), fresh.end(), hat) == fresh.end());
    QVERIFY(fresh.size() + 2 == project.parts.size());
  }

  void theLikelyPeakOfOneHitIsItsOwn() {
    auto made = clickProject({0});
    LoudnessCache loudness;
    const Key& key = *findKey(made.project, made.key);
    const double own = levelsOf(made.project, {made.key}, LevelBy::Attack, loudness).front().peak;
    const auto set = [&](std::vector<double> beats) {
      Project p = withPatternChanged(made.project, made.pattern, [&](Pattern& pattern) {
        pattern.lanes.clear();
        for (double beat : beats) {
          Hit hit;
          hit.at = Beats(std::int64_t(beat * double(kTicksPerBeat)));
          hit.key = made.key;
          hit.velocity = 0.5; // a quarter of the amplitude
          pattern = withHit(std::move(pattern), key.part, hit);
        }
      });
      return likelyPeak(p, *findPattern(p, made.pattern), loudness).value;
    };
    QVERIFY(std::abs(set({0}) - (own - 12.0412)) < 0.001);
    QVERIFY(std::abs(set({0, 2}) - set({0})) < 0.001); // far from each other
    // Two of one height: as amplitudes 6.02 dB more, as powers 3.01 dB more, midway 4.52.
    QVERIFY(std::abs(set({0, 0.01}) - (own - 12.0412 + 4.5154)) < 0.001);
    QVERIFY(!std::isfinite(set({})));
  }

  void slicesInOrderHaveRoom() {
    Id id = 0, pattern = 0;
    Source source = *demoSource("lantern row");
    Project project = withSource(m_fresh, source, &id);
    CutSettings settings;
    settings.mode = CutMode::Beats;
    const auto cuts = cutSource(*findSource(project, id), settings);
    project = withCuts(std::move(project), id, settings, cuts);
    const auto fresh = freshParts(project);
    project = withSlicesInOrder(std::move(project), id, {}, &pattern);
    LoudnessCache loudness;
    project = withStartLevels(std::move(project), fresh, pattern, Among::ByRole, loudness);
    hasRoom(songOf(project, pattern), "in order");
  }
};

QTEST_APPLESS_MAIN(TestStartLevels)
#include "tst_start_levels.moc"
