#include "base/files.h"
#include "formats/analysis_json.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "formats/shipped.h"
#include "listen/analyse.h"
#include "support.h"

#include <QtTest>
#include <cerrno>
#include <nlohmann/json.hpp>
#include <sys/wait.h>
#include <unistd.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

Project rich() {
  JobContext job;
  Project p = *shippedDemo(TUVVO_DATA_DIR, job);
  std::erase_if(p.sources, [](const SourcePtr& s) {
    return s->name == "pier nine break";
  }); // smaller, quicker
  std::vector<Id> gone;
  for (const auto& key : p.keys)
    if (!findSource(p, key.sound.source)) gone.push_back(key.id);
  for (Id key : gone) p = withoutKey(std::move(p), key);
  p.dismissedNotes = {"levels:x"};
  const Id first = p.parts.front().id, last = p.parts.back().id;
  p = withPartChanged(std::move(p), last, [&](Part& part) {
    part.duck = {first, Decibels(7.5), Milliseconds(210)};
  });
  const Id pattern1 = p.patterns.front()->id;
  p = withPatternChanged(std::move(p), pattern1, [](Pattern& pattern) {
    pattern.chords = {{Beats(0), "Am7"}, {at(2.5), "Gsus4"}};
  });
  return p;
}

/// Ends the process, or fails, at the n-th call that changes the disc.
class DyingCalls : public DiscCalls {
public:
  int dieAt = -1, failAt = -1, count = 0;
  bool failForGood = false;
  int open(const char* p, int f, unsigned m) override {
    return step() ? -1 : DiscCalls::open(p, f, m);
  }
  long write(int fd, const void* b, std::size_t n) override {
    if (count == dieAt && n > 1) { // half of it gets there
      (void)DiscCalls::write(fd, b, n / 2);
      ::_exit(7);
    }
    return step() ? -1 : DiscCalls::write(fd, b, n);
  }
  int fsync(int fd) override { return step() ? -1 : DiscCalls::fsync(fd); }
  int rename(const char* a, const char* b, bool over) override {
    return step() ? -1 : DiscCalls::rename(a, b, over);
  }

private:
  bool step() {
    if (count == dieAt) ::_exit(7);
    const bool fails = failForGood ? failAt >= 0 && count >= failAt : count == failAt;
    ++count;
    if (fails) errno = ENOSPC;
    return fails;
  }
};

} // namespace

class TestFormats : public QObject {
  Q_OBJECT
  Project m_rich;

private slots:
  void initTestCase() { m_rich = rich(); }

  void everythingComesBack() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "a.tuvvo");
    QVERIFY(saveProject(m_rich, folder, {}).ok());
    JobContext job;
    const auto back = openProject(folder, job);
    QVERIFY(back.ok());
    QVERIFY(back->warnings.empty());
    QVERIFY(!back->readOnly && !back->recovered);
    Project expected = m_rich, got = back->project;
    QCOMPARE(got.sources.size(), expected.sources.size());
    for (std::size_t i = 0; i < got.sources.size(); ++i) {
      Source a = *expected.sources[i], b = *got.sources[i];
      QCOMPARE(b.sound->hash(), a.sound->hash());
      a.sound = b.sound = nullptr;
      QVERIFY(a.heard == b.heard);
      QVERIFY(a == b);
    }
    expected.sources.clear();
    got.sources.clear();
    expected.patterns.clear();
    got.patterns.clear();
    QVERIFY(got == expected);
    for (std::size_t i = 0; i < m_rich.patterns.size(); ++i)
      QVERIFY(*back->project.patterns[i] == *m_rich.patterns[i]);
    QVERIFY(checkProject(folder, job)->problems.empty());
  }

  void floatSoundsAreKeptExactly() {
    Samples odd{0.1f, 1.7f, -3.3f, 1e-9f};
    Project p = withSource({}, sourceOf(makeSound(odd)));
    QTemporaryDir dir;
    QVERIFY(saveProject(p, pathIn(dir, "f.tuvvo"), {}).ok());
    QVERIFY(
        std::filesystem::exists(pathIn(dir, "f.tuvvo") / "audio" / (p.sources[0]->hash + ".wav")));
    JobContext job;
    QCOMPARE(openProject(pathIn(dir, "f.tuvvo"), job)->project.sources[0]->sound->hash(),
             p.sources[0]->hash);
  }

  void soundsOfPrivateFilesStayPrivate() {
    QTemporaryDir dir;
    const auto origin = pathIn(dir, "private.wav");
    QVERIFY(writeFileAtomically(origin, "whatever it was").ok());
    std::filesystem::permissions(origin, std::filesystem::perms::owner_read |
                                             std::filesystem::perms::owner_write);
    Source source = sourceOf(drumLoop(120, 1));
    source.origin = origin.string();
    const Project p = withSource({}, source);
    QVERIFY(saveProject(p, pathIn(dir, "p.tuvvo"), {}).ok());
    const auto kept = pathIn(dir, "p.tuvvo") / "audio" / source.hash;
    for (const char* ending : {".flac", ".wav"})
      if (const auto file = kept.string() + ending; std::filesystem::exists(file))
        QCOMPARE(int(std::filesystem::status(file).permissions()), 0600);
  }

  void savingTwiceIsTheSameFileAndTextIsStable() {
    QCOMPARE(projectToText(m_rich, 3), projectToText(m_rich, 3));
    const auto read = projectFromText(projectToText(m_rich, 3), "x");
    QVERIFY(read.ok());
    QCOMPARE(projectToText(read->project, 3), projectToText(m_rich, 3));
  }

  void unknownFieldsSurvive() {
    auto json = nlohmann::ordered_json::parse(projectToText(m_rich, 1));
    json["colourOfTheFuture"] = "teal";
    json["keys"][0]["aftertouch"] = {1, 2, 3};
    json["patterns"][0]["mood"] = nullptr;
    const auto read = projectFromText(json.dump(), "x");
    QVERIFY(read.ok());
    const auto again = nlohmann::ordered_json::parse(projectToText(read->project, 2));
    QCOMPARE(again["colourOfTheFuture"].get<std::string>(), std::string("teal"));
    QCOMPARE(again["keys"][0]["aftertouch"].size(), std::size_t(3));
    QVERIFY(again["patterns"][0].contains("mood"));
  }

  void newerSchemaOpensReadOnly() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "n.tuvvo");
    QVERIFY(saveProject(clickProject({0}).project, folder, {}).ok());
    auto json = nlohmann::ordered_json::parse(*readFile(folder / "project.json", 1 << 20));
    json["schema"] = kProjectSchema + 1;
    QVERIFY(writeFileAtomically(folder / "project.json", json.dump()).ok());
    JobContext job;
    const auto opened = openProject(folder, job);
    QVERIFY(opened.ok());
    QVERIFY(opened->readOnly);
    QVERIFY(QString::fromStdString(opened->warnings.at(0)).contains("newer version"));
  }

  void badProjectsGetClearMessages_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::newRow("empty") << QByteArray();
    QTest::newRow("not json") << QByteArray("{{{");
    QTest::newRow("other json") << QByteArray("{\"format\": \"recipe\"}");
    QTest::newRow("array") << QByteArray("[1,2,3]");
    QTest::newRow("deep") << QByteArray("{\"format\":\"tuvvo project\",\"x\":" +
                                        QByteArray(5000, '[') + QByteArray(5000, ']') + "}");
  }
  void badProjectsGetClearMessages() {
    QFETCH(QByteArray, text);
    const auto read = projectFromText(text.toStdString(), "/somewhere/project.json");
    QVERIFY(!read.ok());
    QVERIFY(QString::fromStdString(read.error().text()).contains("project.json"));
    QVERIFY(!read.error().remedy.empty());
  }

  void wildNumbersAreHeldInRange() {
    const auto read = projectFromText(
        R"({"format":"tuvvo project","bpm":1e30,"beatsPerBar":-5,"nextId":99999999999,
      "patterns":[{"id":1,"bars":1000000,"lanes":[]}],"sections":[{"id":2,"pattern":1,"bars":9000000000}]})",
        "x");
    QVERIFY(read.ok());
    QVERIFY(read->project.tempo.value <= 400);
    QCOMPARE(read->project.meter, quarters(2));
    QCOMPARE(read->project.patterns[0]->bars, kMostBars);
    QCOMPARE(read->project.sections[0].bars, 256);
  }

  void danglingReferencesAreMended() {
    const auto read = projectFromText(
        R"({"format":"tuvvo project","patterns":[{"id":5,"lanes":[{"part":77,"pins":[{"at":0,"key":99}]}]}],
      "sections":[{"id":6,"pattern":44}]})",
        "x");
    QVERIFY(read.ok());
    QVERIFY(read->project.sections.empty());
    QVERIFY(read->project.patterns[0]->lanes.empty());
    QCOMPARE(int(read->warnings.size()), 1);
    QVERIFY(read->project.nextId > 6);
  }

  void randomDamageNeverBreaksReading() {
    const std::string good = projectToText(clickProject({0, 1.5}).project, 1);
    Random random(12);
    for (int i = 0; i < 3000; ++i) {
      std::string bad = good;
      for (int k = 0; k < 1 + i % 5; ++k) bad[random.next() % bad.size()] = char(random.next());
      if (i % 7 == 0) bad.resize(random.next() % bad.size());
      (void)projectFromText(bad, "x").ok(); // either way, it comes back
    }
  }

  void missingAndDamagedSoundsAreNamed() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "m.tuvvo");
    Project p = withSource({}, sourceOf(drumLoop(100, 4), "first"));
    p = withSource(p, sourceOf(drumLoop(80, 4), "second"));
    QVERIFY(saveProject(p, folder, {}).ok());
    std::vector<std::filesystem::path> sounds;
    for (const auto& source : p.sources)
      for (const char* ending : {".flac", ".wav"})
        if (const auto path = folder / "audio" / (source->hash + ending);
            std::filesystem::exists(path))
          sounds.push_back(path);
    QCOMPARE(int(sounds.size()), 2);
    std::filesystem::remove(sounds[0]);
    std::filesystem::copy_file(std::string(TUVVO_DATA_DIR) + "/kit/01 kick.flac",
                               std::filesystem::path(sounds[1]).replace_extension(".flac"),
                               std::filesystem::copy_options::overwrite_existing);
    if (sounds[1].extension() != ".flac") std::filesystem::remove(sounds[1]);
    JobContext job;
    const auto report = checkProject(folder, job);
    QVERIFY(report.ok());
    QCOMPARE(int(report->problems.size()), 2);
    QVERIFY(QString::fromStdString(report->problems[0]).contains("first"));
    QVERIFY(QString::fromStdString(report->problems[1]).contains("damaged"));
  }

  void everySaveIsKeptInTheHistory() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "h.tuvvo");
    Project p = clickProject({0}).project;
    for (int i = 1; i <= 4; ++i) {
      p.tempo = Bpm(100 + i);
      QVERIFY(saveProject(p, folder, {i - 1, {}}).ok());
    }
    for (int i = 1; i <= 3; ++i) {
      const auto kept =
          readFile(folder / "history" / ("project-" + std::to_string(i) + ".json"), 1 << 20);
      QVERIFY(kept.ok());
      QCOMPARE(projectFromText(*kept, "x")->project.tempo.value, 100.0 + i);
    }
  }

  void theLaterOfSaveAndAutosaveOpens() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "r.tuvvo");
    Project p = clickProject({0}).project;
    QVERIFY(saveProject(p, folder, {}).ok());
    p.tempo = Bpm(77);
    QVERIFY(autosaveProject(p, folder, {1, {}}).ok());
    JobContext job;
    auto opened = openProject(folder, job);
    QVERIFY(opened->recovered);
    QCOMPARE(opened->project.tempo.value, 77.0);
    QVERIFY(saveProject(p, folder, {1, {}}).ok());
    QVERIFY(!openProject(folder, job)->recovered);
    // A damaged autosave does not stand in the way of the save.
    QVERIFY(writeFileAtomically(folder / "autosave.json", "{ half a").ok());
    opened = openProject(folder, job);
    QVERIFY(opened.ok());
    QVERIFY(!opened->recovered);
    QCOMPARE(int(opened->warnings.size()), 1);
  }

  void killedAtEveryStepNothingIsLost() {
    QTemporaryDir dir;
    const auto saved = pathIn(dir, "k.tuvvo");
    Project before = clickProject({0}).project;
    before.tempo = Bpm(101);
    QVERIFY(saveProject(before, saved, {}).ok());
    Project after = withSource(before, sourceOf(drumLoop(100, 4), "added"));
    after.tempo = Bpm(102);
    bool finished = false;
    int kills = 0;
    for (int n = 0; n < 200 && !finished; ++n) {
      const auto folder = pathIn(dir, ("k" + std::to_string(n) + ".tuvvo").c_str());
      std::filesystem::copy(saved, folder, std::filesystem::copy_options::recursive);
      const pid_t child = ::fork();
      if (child == 0) {
        DyingCalls calls;
        calls.dieAt = n;
        setDiscCalls(&calls);
        ::_exit(saveProject(after, folder, {1, {}}).ok() ? 0 : 3);
      }
      int status = 0;
      ::waitpid(child, &status, 0);
      QVERIFY(WIFEXITED(status));
      finished = WEXITSTATUS(status) == 0;
      kills += WEXITSTATUS(status) == 7 ? 1 : 0;
      JobContext job;
      const auto opened = openProject(folder, job);
      QVERIFY2(opened.ok(), opened.ok() ? "" : opened.error().text().c_str());
      QVERIFY(opened->warnings.empty());
      const double tempo = opened->project.tempo.value;
      QVERIFY(tempo == 101 || tempo == 102);
      if (tempo == 102) QCOMPARE(int(opened->project.sources.size()), 2);
    }
    QVERIFY(finished);
    QVERIFY(kills > 12); // sound, history and project: each opened, written, synced and renamed
  }

  void failingDiscSaysSoAndKeepsTheOld() {
    for (bool forGood : {false, true}) {
      QTemporaryDir dir;
      const auto folder = pathIn(dir, "d.tuvvo");
      Project before = clickProject({0}).project;
      QVERIFY(saveProject(before, folder, {}).ok());
      Project after = withSource(before, sourceOf(drumLoop(100, 4), "added"));
      after.tempo = Bpm(99);
      bool finished = false;
      for (int n = 0; n < 200 && !finished; ++n) {
        DyingCalls calls;
        calls.failAt = n;
        calls.failForGood = forGood;
        setDiscCalls(&calls);
        const auto saved = saveProject(after, folder, {1, {}});
        setDiscCalls(nullptr);
        finished = saved.ok() && calls.count <= n;
        JobContext job;
        const auto opened = openProject(folder, job);
        QVERIFY(opened.ok());
        if (!saved) QVERIFY(QString::fromStdString(saved.error().text()).contains("Make room"));
      }
      QVERIFY(finished);
    }
  }

  void hearingsComeBack() {
    JobContext job;
    Analysis heard = analyse(*drumLoop(123, 16), job);
    heard.onsets[0].drums = {Drum::OpenHat, Drum::Shaker};
    heard.chords = {{Seconds(1), Seconds(2), "Am", "E", 0.25, "C"}};
    const auto back = analysisFromJson(toJson(heard));
    QVERIFY(back.ok());
    QVERIFY(*back == heard);
    QVERIFY(!analysisFromJson(nlohmann::ordered_json::parse(R"({"beatsS": "many"})")).ok());
    // What was heard before there were levels by class, contents and doubts about chords: each
    // class is as loud as the hit, of the contents nothing is known, and chords are what they are
    // called.
    auto older = toJson(heard);
    for (auto& onset : older["onsets"]) {
      onset.erase("levels");
      onset.erase("drums");
    }
    for (auto& section : older["sections"]) section.erase("content");
    for (const char* field : {"confidence", "other"}) older["chords"][0].erase(field);
    older.erase("content");
    const auto early = analysisFromJson(older);
    QVERIFY(early.ok());
    QVERIFY(!early->onsets.empty() && !early->sections.empty());
    QVERIFY(early->onsets[0].drums.empty());
    QCOMPARE(early->chords[0].name, std::string("Am"));
    QVERIFY(early->chords[0].confidence == 1 && early->chords[0].other.empty());
    for (const auto& onset : early->onsets)
      for (const Decibels& level : onset.levels) QVERIFY(level == onset.level);
    QVERIFY(early->content == Content{} && early->sections.front().content == Content{});
  }

  void noProjectThere() {
    QTemporaryDir dir;
    JobContext job;
    QVERIFY(!openProject(dir.path().toStdString(), job).ok());
    QVERIFY(!openProject("/nowhere.tuvvo", job).ok());
  }

  void theNewProjectHasItsKit() {
    JobContext job;
    const auto fresh = newProject(TUVVO_DATA_DIR, job);
    QVERIFY(fresh.warnings.empty());
    QVERIFY(fresh.project.keys.size() >= 16);
    for (Row row : {Row::Air, Row::Body, Row::Floor}) QVERIFY(keyAt(fresh.project, row, 0, 0));
    for (const auto& source : fresh.project.sources)
      QVERIFY(peakOf(*source->sound, Frames(0), source->sound->frames()) > 0.5f);
    QVERIFY(!newProject("/nowhere", job).warnings.empty());
  }
};

QTEST_APPLESS_MAIN(TestFormats)
#include "tst_formats.moc"
